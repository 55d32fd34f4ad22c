/**
 * A mixed estate: a thousand devices of several dialects, read and modelled in one process, and one file of 100 MB.
 * Prints figures of this run; nothing here is a test.
 *   npm run bench:estate
 */
import { readFileSync } from 'node:fs'
import { EffectiveConfig, detectDialect, maskWithKey, modelOf } from '@jurybox/core'
import { generateDevice } from './generate.ts'

const DEVICES = 1_000
const mask = maskWithKey(new Uint8Array(32))
const demo = (name: string, file = 'config.txt'): string =>
  readFileSync(new URL(`../scenario/2026-11-16/devices/${name}/${file}`, import.meta.url), 'utf8')
const [braced, setlines, rules] = [demo('ops-fw1'), demo('qs-fw1'), demo('dd-gw1', 'filters.txt')]

function deviceText(i: number): string {
  switch (i % 4) {
    case 0:
      return braced.replaceAll('ops-fw1', `fw-${i}`).replaceAll('10.40.', `10.${i % 250}.`)
    case 1:
      return setlines.replaceAll('qs-fw1', `sw-${i}`).replaceAll('10.40.', `10.${i % 250}.`)
    case 2:
      return i % 8 === 2 ? rules.replaceAll('10.40.', `10.${i % 250}.`) : generateDevice(i)
    default:
      return generateDevice(i)
  }
}

const texts = Array.from({ length: DEVICES }, (_, i) => deviceText(i))
const lines = texts.reduce((sum, text) => sum + text.split('\n').length, 0)
const began = performance.now()
const estate = texts.map((text) => {
  const found = detectDialect(text)
  if (!found.ok) throw new Error(found.reason)
  return modelOf(EffectiveConfig.of(found.dialect.read(text), found.dialect), { record: 'r', mask })
})
const took = (performance.now() - began) / 1000
const unread = estate.reduce((sum, one) => sum + one.unread.length, 0)
const print = (name: string, value: string): void => console.log(name.padEnd(52), value)
print('devices of four dialects, lines', `${DEVICES}, ${lines}`)
print('told apart, read and modelled', `${Math.round(lines / took / 1000)} thousand lines a second`)
print('lines that no reader used', `${((100 * unread) / lines).toFixed(2)} %`)
print('peak memory, all models held', `${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)

const one = generateDevice(1)
const large = one.repeat(Math.ceil(100_000_000 / one.length))
const started = performance.now()
const found = detectDialect(large)
const tree = found.ok ? found.dialect.read(large) : null
print(
  'one file of 100 MB, read',
  `${((performance.now() - started) / 1000).toFixed(1)} s, ` +
    `${Math.round((tree?.lines.length ?? 0) / 1000)} thousand lines`,
)
print('peak memory after it', `${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
if (estate.length === 0) console.log(tree)

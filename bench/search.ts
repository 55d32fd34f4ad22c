/**
 * Searching an estate: how long questions take at 500, 2,000 and 5,000 devices of about 400 lines, and the memory it
 * costs.
 * Prints figures of this run; nothing here is a test.
 *   npm run bench:search
 */
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { setTimeout as pause } from 'node:timers/promises'
import { dialectById, maskWithKey } from '@jurybox/core'
import { readRecord } from '@jurybox/core/snapshot'
import { digestOf, linksOf } from '@jurybox/core/estate'
import { EstateIndex, readQuestion, type ViewedDevice } from '@jurybox/core/query'
import { generateDevice } from './generate.ts'

const SIZES = [500, 2_000, 5_000]
const ROUNDS = 9
const QUESTIONS: readonly (readonly [name: string, text: string])[] = [
  ['a word that few lines hold', 'telnet'],
  ['words of one device', 'description desk 321-7'],
  ['a word that a tenth of the lines hold', 'interface'],
  ['lines in a block', 'transport inside "line vty"'],
  ['a pattern with a certain text', '/^ transport input (telnet|all)/'],
  ['a pattern with little of it', '/10\\.[0-9]+\\.12\\.1 /'],
  ['a pattern with none', '/^[a-f]+ [0-9]+$/'],
  ['who owns an address, which subnets hold it', '10.77.12.9'],
  ['nothing at all', 'frobnicate'],
]
const indented = dialectById('indented')
if (!indented) throw new Error('no dialect')
const mask = maskWithKey(new Uint8Array(32))
const print = (name: string, value: string): void => console.log(name.padEnd(52), value)
const memory = async (): Promise<number> => {
  globalThis.gc?.()
  await pause(50)
  return process.memoryUsage().rss / 1e6
}

const before = await memory()
const index = new EstateIndex()
const view: ViewedDevice[] = []
let base: ReadonlyMap<string, number> | null = null
let lines = 0
let reading = 0
for (const size of SIZES) {
  while (view.length < size) {
    const n = view.length
    const began = performance.now()
    const read = digestOf(
      new DeviceAnalysis(
        indented,
        [{ id: '0', kind: 'config', tree: readRecord(generateDevice(n), 'indented') }],
        mask,
      ),
    )
    if (!read) throw new Error('not read')
    reading += performance.now() - began
    index.add(`d${n}`, read)
    lines += read.lines.length
    view.push({
      name: `bench-${n}`,
      key: `d${n}`,
      dialect: 'indented',
      facts: { labels: { owner: `team ${n % 7}` }, site: `s${n % 40}` },
    })
  }
  console.log(
    `\n${size} devices, ${Math.round(lines / 1000)} thousand lines, ${Math.round(index.lines / 1000)} ` +
      'thousand of them different',
  )
  print(
    'read once, then kept',
    `${(reading / 1000).toFixed(1)} s in one thread, ${(reading / size).toFixed(1)} ms a device`,
  )
  print('memory for all of it', `${Math.round((await memory()) - before)} MB`)
  const medians = new Map<string, number>()
  for (const [name, text] of QUESTIONS) {
    const question = readQuestion(text)
    index.find(question, view, 50)
    const times: number[] = []
    let total = 0
    for (let round = 0; round < ROUNDS; round++) {
      const began = performance.now()
      total = index.find(question, view, 50).reduce((sum, part) => sum + part.total, 0)
      times.push(performance.now() - began)
    }
    const median = times.sort((a, b) => a - b)[ROUNDS >> 1] ?? 0
    medians.set(name, median)
    const growth = base ? `, ${(median / (base.get(name) ?? 1)).toFixed(1)} × that of ${SIZES[0]}` : ''
    print(name, `${median.toFixed(1)} ms, ${total} found${growth}`)
  }
  const began = performance.now()
  const links = linksOf(
    view.map(({ name, key }) => ({ name, digest: index.digest(key) as NonNullable<ReturnType<typeof index.digest>> })),
  )
  print('links of the map', `${Math.round(performance.now() - began)} ms, ${links.length}`)
  base ??= medians
}

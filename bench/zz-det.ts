import { HeldConfig, detectDialect, dialectById, maskWithKey, modelOf } from '@jurybox/core'
import { generateDevice } from './generate.ts'
import { readFileSync } from 'node:fs'
const demo = (name: string, file = 'config.txt'): string => readFileSync(new URL(`../scenario/2026-11-16/devices/${name}/${file}`, import.meta.url), 'utf8')
const mask = maskWithKey(new Uint8Array(32))
for (const [n, f] of Object.entries({ indented: (i: number) => generateDevice(i), braced: (i: number) => demo('ops-fw1').replaceAll('10.40.', `10.${i % 250}.`), setlines: (i: number) => demo('qs-fw1').replaceAll('10.40.', `10.${i % 250}.`), linux: (i: number) => demo('dd-gw1', 'filters.txt').replaceAll('10.40.', `10.${i % 250}.`) })) {
  const texts = Array.from({ length: 250 }, (_, i) => f(i)); const lines = texts.reduce((s, t) => s + t.split('\n').length, 0)
  let t = performance.now(); texts.forEach((x) => detectDialect(x)); const det = performance.now() - t
  const d = dialectById(n)!; t = performance.now(); const trees = texts.map((x) => d.read(x)); const rd = performance.now() - t
  t = performance.now(); trees.forEach((x) => modelOf(HeldConfig.of(x, d), { record: 'r', mask })); const mo = performance.now() - t
  console.log(n, lines, 'ms detect', det.toFixed(0), 'read', rd.toFixed(0), 'model', mo.toFixed(0))
}

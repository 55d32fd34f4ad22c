import { HeldConfig, dialectById, maskWithKey, modelOf } from '/work/main/packages/core/src/index.ts'
import { generateDevice } from '/work/main/bench/generate.ts'
import { readFileSync } from 'node:fs'
const which = process.argv[2] ?? 'indented'
const d = dialectById(which)!
const mask = maskWithKey(new Uint8Array(32))
const demo = (name: string, file = 'config.txt'): string => readFileSync(`/work/main/scenario/2026-11-16/devices/${name}/${file}`, 'utf8')
const gen = (i: number) => which === 'indented' ? generateDevice(i) : which === 'linux' ? demo('dd-gw1','filters.txt').replaceAll('10.40.', `10.${i % 250}.`) : demo(which === 'braced' ? 'ops-fw1' : 'qs-fw1').replaceAll('10.40.', `10.${i % 250}.`).replaceAll('fw1', `fw${i}`)
const texts = Array.from({ length: 300 }, (_, i) => gen(i))
const lines = texts.reduce((s, t) => s + t.split('\n').length, 0)
const best = { read: 1e9, hold: 1e9, model: 1e9 }
for (let r = 0; r < 6; r++) {
  let t = performance.now()
  const trees = texts.map((x) => d.read(x)); best.read = Math.min(best.read, performance.now() - t)
  t = performance.now(); trees.forEach((x) => d.hold([x])); best.hold = Math.min(best.hold, performance.now() - t)
  t = performance.now(); trees.forEach((x) => modelOf(HeldConfig.of(x, d), { record: 'r', mask })); best.model = Math.min(best.model, performance.now() - t)
}
console.log(which, lines, 'lines; read', (lines / best.read).toFixed(0), 'k/s; hold', (best.hold / best.read).toFixed(2), 'model', (best.model / best.read).toFixed(2), 'total k/s', (lines / (best.read + best.model)).toFixed(0))

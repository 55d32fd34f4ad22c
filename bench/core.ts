/**
 * Speed and memory of the core: a thousand generated devices of about 400 lines, judged by every rule, in one process.
 * Prints ratios within this run, since machines are noisy; nothing here is a test.
 *   npm run bench
 */
import { benchmarkTexts } from '@jurybox/content'
import { auditDevice, dialectById, effectiveTree, maskWithKey, prepare, readBenchmark, type LocatedTree } from '@jurybox/core'
import { generateDevice } from './generate.ts'

const DEVICES = 1_000
const ROUNDS = 5
const dialect = dialectById('indented')
if (!dialect) throw new Error('the indented dialect is missing')
const texts = Array.from({ length: DEVICES }, (_, i) => generateDevice(i))
const lines = texts.reduce((sum, text) => sum + text.split('\n').length, 0)
const bench = prepare({ benchmark: readBenchmark(benchmarkTexts()[0]?.text ?? ''), profile: null, values: { ntp_servers: ['10.0.0.1', '10.0.0.2'], log_hosts: ['10.0.0.5'] } })
const mask = maskWithKey(new Uint8Array(32))

/** The best of some rounds: what the work costs when nothing else is in the way. */
function seconds(work: () => void): number {
  let best = Infinity
  for (let round = 0; round < ROUNDS; round++) {
    const before = performance.now()
    work()
    best = Math.min(best, (performance.now() - before) / 1000)
  }
  return best
}

let kept = 0
const bare = seconds(() => {
  for (const text of texts) kept += text.split('\n').map((line) => line.trim()).length
})
const reading = seconds(() => {
  for (const text of texts) kept += dialect.read(text).lines.length
})
const trees: LocatedTree[] = texts.map((text) => dialect.read(text))
const holding = seconds(() => {
  for (const tree of trees) kept += effectiveTree([tree], dialect).statements.length
})
let verdicts = 0
const judging = seconds(() => {
  verdicts = 0
  for (const [i, tree] of trees.entries()) verdicts += auditDevice(`d${i}`, dialect, [{ id: 'r', kind: 'config', tree }], [bench], mask).length
})
const one = trees[0]
const again = seconds(() => {
  if (one) for (let i = 0; i < 100; i++) kept += auditDevice('d0', dialect, [{ id: 'r', kind: 'config', tree: one }], [bench], mask).length
})

const rate = (time: number): string => `${Math.round(lines / time / 1000)} thousand lines a second`
const print = (name: string, value: string): void => console.log(name.padEnd(46), value)
print('devices, lines, rules', `${DEVICES}, ${lines}, ${bench.rules.length}`)
print('reading', rate(reading))
print('reading : bare split and trim (aim ≤ 6)', (reading / bare).toFixed(2))
print('what holds : reading', (holding / reading).toFixed(2))
print('judging, what holds included : reading (aim ≤ 3)', (judging / reading).toFixed(2))
print('verdicts', `${verdicts}, ${Math.round(verdicts / judging / 1000)} thousand a second`)
print('one device judged, milliseconds', (again * 10).toFixed(2))
print('peak memory (aim < 1500 MB)', `${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
if (kept < 0) console.log(kept)

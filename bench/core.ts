/**
 * Speed and memory of the core: a thousand generated devices of about 400 lines, judged by every rule, in one process.
 * Prints ratios within this run, since machines are noisy; nothing here is a test. Young memory is as large as the
 * server's workers have it.
 *   npm run bench
 */
import { benchmarkTexts } from '@jurybox/content'
import {
  EffectiveConfig,
  dialectById,
  maskWithKey,
  modelOf,
  prepare,
  readBenchmark,
  type LocatedTree,
  type Dialect,
} from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { AuditedDevice } from '@jurybox/core/audit'
import { generateDevice } from './generate.ts'

function dialectOf(id: string): Dialect {
  const found = dialectById(id)
  if (!found) throw new Error(`the dialect ${id} is missing`)
  return found
}

const DEVICES = 1_000
const CHUNK = 50
const ROUNDS = 6
const indented = dialectOf('indented')
const texts = Array.from({ length: DEVICES }, (_, i) => generateDevice(i))
const lines = texts.reduce((sum, text) => sum + text.split('\n').length, 0)
const bench = prepare({
  benchmark: readBenchmark(benchmarkTexts()[0]?.text ?? ''),
  profile: null,
  values: { ntp_servers: ['10.0.0.1', '10.0.0.2'], log_hosts: ['10.0.0.5'] },
})
const mask = maskWithKey(new Uint8Array(32))

/** As the server judges: what verdicts cite is quoted when somebody looks at it. */
function deviceOf(tree: LocatedTree): AuditedDevice | null {
  const records = [{ id: 'r', kind: 'config', tree }]
  return AuditedDevice.of('d', new DeviceAnalysis(indented, records, mask))
}

let kept = 0
let verdicts = 0
/**
 * The phases, each over some texts; trees are made anew in each round, so that nothing is remembered of an earlier one.
 */
const phases = {
  bare: (part) => {
    for (const text of part) kept += text.split('\n').map((line) => line.trim()).length
  },
  reading: (part, trees) => {
    for (const text of part) trees.push(indented.read(text))
  },
  holding: (_, trees) => {
    for (const tree of trees) kept += indented.evaluate([tree]).statements.length
  },
  modelling: (_, trees) => {
    for (const tree of trees) kept += modelOf(EffectiveConfig.of(tree, indented), { record: 'r', mask }).unread.length
  },
  judging: (_, trees) => {
    for (const tree of trees) verdicts += deviceOf(tree)?.verdicts([bench]).length ?? 0
  },
  quoting: (_, trees) => {
    for (const tree of trees) {
      const device = deviceOf(tree)
      kept += device?.quoted(device.verdicts([bench])).length ?? 0
    }
  },
} satisfies Record<string, (part: readonly string[], trees: LocatedTree[]) => void>
type Phase = keyof typeof phases
const order: readonly Phase[] = ['bare', 'reading', 'holding', 'modelling', 'judging', 'quoting']

/**
 * All phases take turns on each small part of the texts, and of each part the best round counts: a machine that is slow
 * for a while is slow for all of them.
 */
const total: Record<Phase, number> = { bare: 0, reading: 0, holding: 0, modelling: 0, judging: 0, quoting: 0 }
for (let from = 0; from < DEVICES; from += CHUNK) {
  const part = texts.slice(from, from + CHUNK)
  const best: Record<Phase, number> = {
    bare: Infinity,
    reading: Infinity,
    holding: Infinity,
    modelling: Infinity,
    judging: Infinity,
    quoting: Infinity,
  }
  for (let round = 0; round < ROUNDS; round++) {
    const trees: LocatedTree[] = []
    for (const phase of order) {
      const before = performance.now()
      phases[phase](part, trees)
      best[phase] = Math.min(best[phase], (performance.now() - before) / 1000)
    }
  }
  for (const phase of order) total[phase] += best[phase]
}
const { bare, reading, holding, modelling, judging, quoting } = total

// All devices at once, with their trees and verdicts: what an audit of the whole estate holds in memory.
const estate = texts.map((text) => {
  const tree = indented.read(text)
  return { tree, verdicts: deviceOf(tree)?.verdicts([bench]) }
})
kept += estate.length

const rate = (time: number): string => `${Math.round(lines / time / 1000)} thousand lines a second`
const print = (name: string, value: string): void => console.log(name.padEnd(52), value)
print('devices, lines, rules', `${DEVICES}, ${lines}, ${bench.rules.length}`)
print('reading', rate(reading))
print('reading : bare split and trim (aim ≤ 5)', (reading / bare).toFixed(2))
print('what holds : reading', (holding / reading).toFixed(2))
print('modelling : reading (aim ≤ 4)', ((modelling - holding) / reading).toFixed(2))
print('the same, what holds included', (modelling / reading).toFixed(2))
print('judging, model included : reading (aim ≤ 15)', (judging / reading).toFixed(2))
print('the same with every cited line quoted', (quoting / reading).toFixed(2))
print('verdicts', `${verdicts / ROUNDS}, ${Math.round(verdicts / ROUNDS / judging / 1000)} thousand a second`)
print('one device judged, milliseconds', ((judging / DEVICES) * 1000).toFixed(2))
print('peak memory (aim < 1000 MB)', `${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
if (kept < 0) console.log(kept)

import { dialectById, maskWithKey, prepare, readBenchmark, type Verdict } from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { AuditedDevice, asksAcross, joinAnswers, widestProfile } from '@jurybox/core/audit'
import type { CompiledBenchmark } from '@jurybox/core/benchmarks'
import { Clock, EstateView, type DeviceContext } from '@jurybox/core/rules'
import { readOf, type TaskRecord } from '../analysis/task-records.ts'

/** A device to be kept at hand, under a key of everything that it was read from. */
export interface TrialDevice {
  readonly key: string
  readonly name: string
  readonly dialect: string
  readonly facts: DeviceContext
  readonly records: readonly TaskRecord[]
  readonly before: readonly TaskRecord[] | null
}

export type TrialTask =
  | { readonly load: readonly TrialDevice[]; readonly maskKey: Uint8Array }
  | {
      readonly keys: readonly string[]
      readonly text: string
      /** Which rules are asked; all of them where null. */
      readonly rules: readonly string[] | null
      /** Milliseconds since 1970. */
      readonly now: number
    }

export interface TrialAnswer {
  /** Keys of devices that are not at hand: they have to be loaded first, and nothing was judged. */
  readonly missing: readonly string[]
  /** By device, in the order of the keys. */
  readonly verdicts: readonly (readonly Verdict[])[]
}

/** Characters of text whose devices are kept at hand; those asked for last are kept longest. */
const KEPT = 120_000_000
const atHand = new Map<string, { readonly device: AuditedDevice | null; readonly size: number }>()
const benches = new Map<string, CompiledBenchmark>()

/** Runs in the one worker that keeps devices read, so that an edited rule costs its judging alone. */
export default function trialTask(task: TrialTask): TrialAnswer {
  if ('load' in task) {
    for (const device of task.load) load(device, task.maskKey)
    return { missing: [], verdicts: [] }
  }
  const missing = task.keys.filter((key) => !atHand.has(key))
  if (missing.length > 0) return { missing, verdicts: [] }
  const clock = new Clock(task.now)
  const bench = [benchOf(task.text, task.rules)]
  const devices = task.keys.map((key) => touched(key)?.at(clock, null) ?? null)
  const estate = asksAcross(bench)
    ? joinAnswers(devices.flatMap((device) => (device ? [[device.device.name, device.answers(bench)] as const] : [])))
    : null
  const verdicts = devices.map((device) => {
    const judged = device?.at(clock, estate && new EstateView(estate))
    return judged?.quoted(judged.verdicts(bench)) ?? []
  })
  evict(new Set(task.keys))
  return { missing: [], verdicts }
}

function load({ key, name, dialect: id, facts, records, before }: TrialDevice, maskKey: Uint8Array): void {
  const dialect = dialectById(id)
  const mask = maskWithKey(maskKey)
  const analysis = dialect && new DeviceAnalysis(dialect, records.map(readOf), mask)
  const then = dialect && before ? new DeviceAnalysis(dialect, before.map(readOf), mask) : null
  const device = analysis ? AuditedDevice.of(name, analysis, { facts, ...(then ? { before: then } : {}) }) : null
  atHand.set(key, { device, size: (analysis?.size ?? 0) + (then?.size ?? 0) })
}

/** Asked for now: it is the last to go. */
function touched(key: string): AuditedDevice | null {
  const kept = atHand.get(key)
  if (!kept) return null
  atHand.delete(key)
  atHand.set(key, kept)
  return kept.device
}

/** Drops what was not used for a while, never what was just used. */
function evict(wanted: ReadonlySet<string>): void {
  let size = [...atHand.values()].reduce((sum, kept) => sum + kept.size, 0)
  for (const [key, kept] of atHand) {
    if (size <= KEPT || wanted.has(key)) break
    atHand.delete(key)
    size -= kept.size
  }
}

function benchOf(text: string, rules: readonly string[] | null): CompiledBenchmark {
  const key = JSON.stringify([text, rules])
  const known = benches.get(key)
  if (known) return known
  const benchmark = readBenchmark(text)
  const asked = rules ? benchmark.rules.filter(({ source }) => rules.includes(source.id)) : benchmark.rules
  const bench = prepare({ benchmark: { ...benchmark, rules: asked }, profile: widestProfile(benchmark), values: {} })
  if (benches.size > 20) benches.clear()
  benches.set(key, bench)
  return bench
}

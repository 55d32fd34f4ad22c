import { serialize } from 'node:v8'
import { prepare, readBenchmark } from '@jurybox/core'
import { AuditedDevice, tryExamples, type CitingVerdict } from '@jurybox/core/audit'
import type { CompiledBenchmark, Override, Tailoring, Value } from '@jurybox/core/benchmarks'
import { Clock, EstateView, restsOn, type DeviceContext, type Estate, type Seen } from '@jurybox/core/rules'
import { analysisFor, type AnalysisTask } from '../analysis/analyses.ts'
import type { TaskRecord } from '../analysis/task-records.ts'
import { estateIn } from './answers.ts'
import { packVerdicts, type PackedVerdicts } from './packed-verdicts.ts'

export interface TaskChoice {
  readonly hash: string
  readonly text: string
  readonly profile: string | null
  readonly values: Readonly<Record<string, Value>>
  readonly overrides: readonly Override[]
  readonly tailoring: readonly Tailoring[]
  readonly only: readonly string[] | null
}

/** Runs in a worker thread: reads the records of one device and judges them. */
export interface AuditTask extends AnalysisTask {
  readonly device: string
  readonly facts: DeviceContext
  /** Records of the same device in the snapshot before; null where no rule asks for them. */
  readonly before: readonly TaskRecord[] | null
  readonly choices: readonly TaskChoice[]
  /** Milliseconds since 1970. */
  readonly now: number
  /** Whether they are packed to be kept, or asked for as they are. */
  readonly pack: boolean
  /**
   * First the rules that ask one device, with what the device answers to questions across devices; then, with all
   * answers known, the rules that ask across devices.
   */
  readonly part:
    { readonly only: 'own' } | { readonly only: 'across'; readonly hash: string; readonly answers: Uint8Array }
}

export interface AuditAnswer {
  /** Empty where they are packed. */
  readonly verdicts: readonly CitingVerdict[]
  /** Null where they are asked for as they are. */
  readonly packed: PackedVerdicts | null
  /** Serialized answers by question; empty in the second part. */
  readonly answers: Uint8Array
  /** What was looked up in the answers of all devices; empty in the first part. */
  readonly seen: readonly Seen[]
  /** What its looks rest on, as bytes of numbers. */
  readonly restsOn: Uint8Array
  /** Milliseconds since 1970; null where nothing rests on the time. */
  readonly until: number | null
}

export interface ExampleAnswer {
  readonly rule: string
  readonly name: string
  /** Empty where the rule says what it must. */
  readonly wrong: readonly string[]
}

/** The rules of a text put to their own examples. */
export function examplesTask(text: string): ExampleAnswer[] {
  const benchmark = readBenchmark(text)
  return benchmark.rules.flatMap((rule) =>
    tryExamples(benchmark, rule).map(({ example, wrong }) => ({ rule: rule.source.id, name: example.name, wrong })),
  )
}

const benches = new Map<string, CompiledBenchmark>()
let known: { hash: string; estate: Estate } | null = null

export function auditTask({ device: name, facts, before, choices, now, pack, part, ...task }: AuditTask): AuditAnswer {
  const analysis = analysisFor(task)
  const then = before && analysisFor({ ...task, records: before })
  const device = analysis && AuditedDevice.of(name, analysis, { facts, ...(then ? { before: then } : {}) })
  const chosen = choices.map(benchOf)
  const clock = new Clock(now)
  if (part.only === 'own') {
    const judged = device?.at(clock, null)
    const verdicts = judged?.verdicts(chosen, 'own') ?? []
    return answerOf(verdicts, pack, clock, { answers: serialize([...(judged?.answers(chosen) ?? [])]) })
  }
  if (known?.hash !== part.hash) known = { hash: part.hash, estate: estateIn(part.answers) }
  const estate = new EstateView(known.estate)
  const verdicts = device?.at(clock, estate).verdicts(chosen, 'across') ?? []
  return answerOf(verdicts, pack, clock, { seen: estate.seen, restsOn: new Uint8Array(restsOn(estate.seen).buffer) })
}

export function answerOf(
  verdicts: readonly CitingVerdict[],
  pack: boolean,
  clock: Clock,
  more: Partial<Pick<AuditAnswer, 'answers' | 'seen' | 'restsOn'>>,
): AuditAnswer {
  return {
    verdicts: pack ? [] : verdicts,
    packed: pack ? packVerdicts(verdicts) : null,
    answers: new Uint8Array(),
    seen: [],
    restsOn: new Uint8Array(),
    until: untilOf(clock),
    ...more,
  }
}

function untilOf({ until }: Clock): number | null {
  return Number.isFinite(until) ? until : null
}

/** A benchmark as it was chosen, prepared once. */
export function benchOf({ hash, text, profile, values, overrides, tailoring, only }: TaskChoice): CompiledBenchmark {
  const key = JSON.stringify([hash, profile, values, overrides, tailoring, only])
  const known = benches.get(key)
  if (known) return known
  const bench = prepare({ benchmark: readBenchmark(text), profile, values, overrides, tailoring, only })
  if (benches.size > 50) benches.clear()
  benches.set(key, bench)
  return bench
}

import { serialize } from 'node:v8'
import { auditDevice, dialectById, maskWithKey, prepare, readBenchmark, type Verdict } from '@jurybox/core'
import { readRecord } from '@jurybox/core/snapshot'
import { auditOwn, tryExamples } from '@jurybox/core/audit'
import type { CompiledBenchmark, Override, Tailoring, Value } from '@jurybox/core/benchmarks'
import { Clock, EstateView, restsOn, type DeviceContext, type Estate, type Seen } from '@jurybox/core/rules'
import type { ReadRecord } from '@jurybox/core/state'
import { estateIn } from './answers.ts'

export interface TaskChoice {
  readonly hash: string
  readonly text: string
  readonly profile: string | null
  readonly values: Readonly<Record<string, Value>>
  readonly overrides: readonly Override[]
  readonly tailoring: readonly Tailoring[]
}

export interface TaskRecord {
  readonly id: string
  readonly kind: string
  readonly dialect: string
  readonly text: string
  readonly takenAt: string | null
}

/** Runs in a worker thread: reads the records of one device and judges them. */
export interface AuditTask {
  readonly device: string
  readonly dialect: string
  readonly facts: DeviceContext
  readonly records: readonly TaskRecord[]
  /** Records of the same device in the snapshot before; null where no rule asks for them. */
  readonly before: readonly TaskRecord[] | null
  readonly choices: readonly TaskChoice[]
  /** Null: real secrets stay in the commands, for a logged download. */
  readonly maskKey: Uint8Array | null
  /** Milliseconds since 1970. */
  readonly now: number
  /**
   * First the rules that ask one device, with what the device answers to questions across devices; then, with all
   * answers known, the rules that ask across devices.
   */
  readonly part:
    { readonly only: 'own' } | { readonly only: 'across'; readonly hash: string; readonly answers: Uint8Array }
}

export interface AuditAnswer {
  readonly verdicts: Verdict[]
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

export default function auditTask({
  device: name,
  dialect: dialectId,
  facts,
  records,
  before,
  choices,
  maskKey,
  now,
  part,
}: AuditTask): AuditAnswer {
  const dialect = dialectById(dialectId)
  if (!dialect) return { verdicts: [], answers: new Uint8Array(), seen: [], restsOn: new Uint8Array(), until: null }
  const chosen = choices.map(benchOf)
  const mask = maskKey ? maskWithKey(maskKey) : (secret: string): string => secret
  const read = records.map(readOf)
  const clock = new Clock(now)
  const context = { facts, clock, ...(before ? { before: before.map(readOf) } : {}) }
  if (part.only === 'own') {
    const { verdicts, answers } = auditOwn(name, dialect, read, chosen, mask, context)
    return { verdicts, answers: serialize([...answers]), seen: [], restsOn: new Uint8Array(), until: untilOf(clock) }
  }
  if (known?.hash !== part.hash) known = { hash: part.hash, estate: estateIn(part.answers) }
  const estate = new EstateView(known.estate)
  const verdicts = auditDevice(name, dialect, read, chosen, mask, { ...context, only: 'across', estate })
  return {
    verdicts,
    answers: new Uint8Array(),
    seen: estate.seen,
    restsOn: new Uint8Array(restsOn(estate.seen).buffer),
    until: untilOf(clock),
  }
}

function untilOf({ until }: Clock): number | null {
  return Number.isFinite(until) ? until : null
}

function benchOf({ hash, text, profile, values, overrides, tailoring }: TaskChoice): CompiledBenchmark {
  const key = JSON.stringify([hash, profile, values, overrides, tailoring])
  const known = benches.get(key)
  if (known) return known
  const bench = prepare({ benchmark: readBenchmark(text), profile, values, overrides, tailoring })
  if (benches.size > 50) benches.clear()
  benches.set(key, bench)
  return bench
}

export function readOf({ id, kind, text, dialect, takenAt }: TaskRecord): ReadRecord {
  return dialect === 'none'
    ? { id, kind, tree: null, text, takenAt }
    : { id, kind, tree: readRecord(text, dialect), takenAt }
}

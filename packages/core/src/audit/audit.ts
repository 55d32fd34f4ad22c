import { MaskedLines, dialectById, maskLine, type Dialect, type LocatedTree, type Mask } from '../config/index.ts'
import { HeldConfig, unreadLinesOf } from '../model/index.ts'
import { effectiveValues, rulesOf, type Benchmark, type Value } from '../benchmarks/index.ts'
import { planFor } from '../remedies/index.ts'
import { judgedDevice, type JudgedDevice, type RawJudgement, type RemedyProposal } from '../rules/index.ts'
import type { Snapshot } from '../snapshot/index.ts'
import { judgedRecord, modelOfDevice, type ReadRecord } from '../state/index.ts'
import { noCounts, type AuditDocument, type Counts, type Remedy, type Verdict } from './document.ts'

/** A benchmark as chosen for an audit. */
export interface Choice {
  readonly benchmark: Benchmark
  readonly profile: string | null
  readonly values: Readonly<Record<string, Value>>
}

/** A choice with its rules and values worked out once for all devices. */
export interface Bench {
  readonly choice: Choice
  readonly rules: ReturnType<typeof rulesOf>
  readonly values: Readonly<Record<string, unknown>>
}

/** @throws Error for a profile or value that the benchmark does not have */
export function prepare(choice: Choice): Bench {
  return { choice, rules: rulesOf(choice.benchmark, choice.profile), values: effectiveValues(choice.benchmark.source, choice.values) }
}

/** Judges one device by some benchmarks. Everything returned is masked: no secret leaves through it. */
export function auditDevice(name: string, dialect: Dialect, records: readonly ReadRecord[], benches: readonly Bench[], mask: Mask): Verdict[] {
  const judged = judgedRecord(records)
  if (!judged) return []
  const holding = (tree: LocatedTree): HeldConfig => HeldConfig.of(tree, dialectById(tree.dialect) ?? dialect)
  const held = holding(judged.tree)
  const others = new Map(records.flatMap((record) => (record === judged || record.tree === null ? [] : [[OTHERS[record.kind] ?? record.kind, { record: record.id, held: holding(record.tree) }] as const])))
  const device = judgedDevice({ name, record: judged.id, held, others, records, listing: judged.kind === 'config.full' ? 'full' : 'ordinary', model: () => modelOfDevice(held, judged, records, mask) })
  const shown = new Map<string, MaskedLines>()
  const linesOf = (id: string): MaskedLines | null => {
    const known = shown.get(id)
    const record = records.find((r) => r.id === id)
    if (known || !record?.tree) return known ?? null
    const lines = new MaskedLines(record.tree, dialectById(record.tree.dialect) ?? dialect, mask)
    shown.set(id, lines)
    return lines
  }
  return benches.flatMap(({ choice, rules, values }) =>
    rules.map((rule) => verdictOf(rule.judge(device, values), device, choice.benchmark.source.id, rule.source.references, linesOf, mask)),
  )
}

/** By which names conditions know other configurations of a device. */
const OTHERS: Readonly<Record<string, string>> = { config: 'ordinary', 'config.saved': 'saved' }

/** An absence is shown as the range searched; its text would be the whole range, so only short ones are quoted. */
const QUOTED_LINES = 40

function verdictOf(raw: RawJudgement, device: JudgedDevice, benchmark: string, references: readonly string[], linesOf: (id: string) => MaskedLines | null, mask: Mask): Verdict {
  const { dialect, scope } = device.held
  const masked = (text: string): string => maskLine(text, null, dialect, mask)
  return {
    device: device.name,
    benchmark,
    rule: raw.rule,
    outcome: raw.outcome,
    severity: raw.severity,
    branch: raw.branch,
    note: raw.note,
    subjects: raw.subjects.map((subject) => ({ ...subject })),
    exhibits: raw.places.map(({ record, from, to, absent, columns }) => {
      const lines = linesOf(record)
      const last = Math.min(to, from + QUOTED_LINES - 1)
      const whole = from === 1 && absent && to > QUOTED_LINES
      const text = whole || !lines ? '' : lines.range(from, last)
      if (absent) return { record, from, to, text, absent: true as const }
      return columns ? { record, from, to, text, columns: [...columns] as [number, number] } : { record, from, to, text }
    }),
    missing: raw.missing.map(masked),
    extra: raw.extra.map(masked),
    remedy: remedyOf(raw.remedy, scope, dialect, mask),
    references: [...references],
  }
}

function remedyOf(proposal: RemedyProposal | null, scope: HeldConfig['scope'], dialect: Dialect, mask: Mask): Remedy | null {
  if (!proposal) return null
  if (proposal.kind === 'words') return { words: proposal.words }
  const plan = planFor(proposal.edits, scope, dialect)
  return { commands: maskCommands(plan.commands, dialect, mask), rollback: maskCommands(plan.rollback, dialect, mask), risk: proposal.risk, check: [...proposal.check] }
}

function maskCommands(commands: readonly string[], dialect: Dialect, mask: Mask): string[] {
  let block: string | null = null
  return commands.map((command) => {
    if (!command.startsWith(' ')) block = command
    return maskLine(command, block, dialect, mask)
  })
}

export function countVerdicts(verdicts: Iterable<Pick<Verdict, 'outcome'>>, notselected = 0): Counts {
  const counts = noCounts()
  for (const { outcome } of verdicts) counts[outcome]++
  return { ...counts, notselected }
}

export interface AuditOptions {
  readonly build: string
  readonly mask: Mask
}

/** Judges every device of a snapshot and gives the whole document. */
export function auditSnapshot(snapshot: Snapshot, choices: readonly Choice[], { build, mask }: AuditOptions): AuditDocument {
  const benches = choices.map(prepare)
  const verdicts = snapshot.devices.flatMap((device) => auditDevice(device.name, device.dialect, readRecords(device.records), benches, mask))
  const left = benches.reduce((sum, bench) => sum + bench.choice.benchmark.rules.length - bench.rules.length, 0)
  return {
    schema: 1,
    build,
    benchmarks: choices.map(({ benchmark, profile }) => ({ id: benchmark.source.id, title: benchmark.source.title, version: benchmark.source.version, profile: profile ?? widestProfile(benchmark) })),
    snapshot: { title: snapshot.title, takenAt: snapshot.takenAt },
    devices: snapshot.devices.map((device) => {
      const tree = judgedRecord(readRecords(device.records))?.tree
      return { name: device.name, dialect: device.dialect.id, lines: tree?.lines.length ?? 0, unread: tree ? unreadLinesOf(tree).length : 0 }
    }),
    records: snapshot.devices.flatMap((device) => device.records.map(({ id, kind, path, sha256, takenAt, timeSource }) => ({ id, device: device.name, kind, path, sha256, takenAt, timeSource }))),
    refused: snapshot.refused.map((refusal) => ({ ...refusal })),
    verdicts,
    counts: countVerdicts(verdicts, left * snapshot.devices.length),
  }
}

function readRecords(records: Snapshot['devices'][number]['records']): ReadRecord[] {
  return records.map(({ id, kind, tree, text }) => (tree ? { id, kind, tree } : { id, kind, tree, text }))
}

/** Where no profile is named, every rule counts. */
export function widestProfile(benchmark: Benchmark): string {
  return benchmark.source.profiles.at(-1)?.id ?? ''
}

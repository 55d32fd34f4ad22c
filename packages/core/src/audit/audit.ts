import { judgedRecord, linesOf, modelOfDevice, unreadByRecord } from '../analysis/index.ts'
import { dialectById, type Dialect } from '../dialects/index.ts'
import {
  MaskedLines,
  PhysicalLines,
  maskLine,
  type Fingerprint,
  type InactivePart,
  type LocatedTree,
  type Mask,
  type Syntax,
} from '../syntax/index.ts'
import { EffectiveConfig } from '../model/index.ts'
import {
  answersTo,
  prepare,
  type AttestationAnswer,
  type CompiledBenchmark,
  type Benchmark,
  type Choice,
} from '../benchmarks/index.ts'
import { ExhibitTexts, Walker, answerTo, networkOfSnapshot, type Expectation } from '../forwarding/index.ts'
import { planFor } from '../remediation/index.ts'
import {
  Clock,
  Estate,
  EstateView,
  askOne,
  judgedDevice,
  type DeviceContext,
  type JudgedDevice,
  type RawJudgement,
  type RemedyProposal,
} from '../rules/index.ts'
import type { Snapshot } from '../snapshot/index.ts'
import type { ReadRecord } from '../state/index.ts'
import { noCounts, type AuditDocument, type Counts, type Remedy, type Verdict } from './document.ts'
import { withElsewhere, type ElsewhereRecord } from './elsewhere.ts'
import { expectedVerdicts } from './expected.ts'
import { scoreOf } from './score.ts'
import { applyWaivers, type Waiver } from './waivers.ts'

/** What an audit knows besides the records of a device. */
export interface AuditContext {
  readonly facts?: DeviceContext
  /** The time at which is judged, and until when what was said of time holds. */
  readonly clock?: Clock
  /** Records of the same device in the snapshot that is compared with. */
  readonly before?: readonly ReadRecord[]
  /** What all devices have answered to the questions across devices. */
  readonly estate?: EstateView
  /** Only the rules that ask one device, or only those that ask across devices; all of them where left out. */
  readonly only?: 'own' | 'across'
}

/** Judges one device by some benchmarks. Everything returned is masked: no secret leaves through it. */
export function auditDevice(
  name: string,
  dialect: Dialect,
  records: readonly ReadRecord[],
  benches: readonly CompiledBenchmark[],
  mask: Mask,
  context: AuditContext = {},
): Verdict[] {
  return AuditedDevice.of(name, dialect, records, mask, context)?.verdicts(benches, context.only) ?? []
}

/** The rules that ask one device, with what it answers to questions across devices: its model is made once for both. */
export function auditOwn(
  name: string,
  dialect: Dialect,
  records: readonly ReadRecord[],
  benches: readonly CompiledBenchmark[],
  mask: Mask,
  context: AuditContext = {},
): { readonly verdicts: Verdict[]; readonly answers: Map<string, unknown> } {
  const device = AuditedDevice.of(name, dialect, records, mask, context)
  return device
    ? { verdicts: device.verdicts(benches, 'own'), answers: device.answers(benches) }
    : { verdicts: [], answers: new Map() }
}

/** A device that was read, for whoever judges it more than once: its model and its masked lines are made once. */
export class AuditedDevice {
  readonly #shown = new Map<string, MaskedLines>()

  private constructor(
    readonly device: JudgedDevice,
    readonly records: readonly ReadRecord[],
    readonly mask: Mask,
  ) {}

  /** Null where no record of it can be judged. */
  static of(
    name: string,
    dialect: Dialect,
    records: readonly ReadRecord[],
    mask: Mask,
    context: AuditContext = {},
  ): AuditedDevice | null {
    const device = deviceOf(name, dialect, records, mask, context)
    return device && new AuditedDevice(device, records, mask)
  }

  /** The same device at another time, among others. */
  at(clock: Clock, estate: EstateView | null): AuditedDevice {
    const other = new AuditedDevice(
      Object.assign(Object.create(this.device) as JudgedDevice, { clock, estate }),
      this.records,
      this.mask,
    )
    for (const [id, lines] of this.#shown) other.#shown.set(id, lines)
    return other
  }

  /** @param only the rules that ask one device, or those that ask across devices; all of them where left out */
  verdicts(benches: readonly CompiledBenchmark[], only?: AuditContext['only']): Verdict[] {
    const { device, mask } = this
    return benches.flatMap((bench) => {
      const held = bench.valuesFor(device)
      const rules =
        only === undefined
          ? bench.rules
          : bench.rules.filter(({ estateQuestions }) => estateQuestions.length > 0 === (only === 'across'))
      return rules.map((rule) => {
        const raw = rule.judge(device, held.values)
        const values = (bench.reads.get(raw.rule) ?? []).map((value) => ({
          name: value,
          value: shownValue(held.values[value]),
          from: held.from[value] ?? 'default',
        }))
        return {
          ...verdictOf(
            { ...raw, severity: bench.severityOf(raw.rule, raw.severity) },
            device,
            bench.choice.benchmark.source.id,
            rule.source.references,
            (id) => this.#linesOf(id),
            mask,
          ),
          values,
        }
      })
    })
  }

  /** What it answers to the questions across devices, by question. */
  answers(benches: readonly CompiledBenchmark[]): Map<string, unknown> {
    return answersOf(this.device, benches)
  }

  #linesOf(id: string): MaskedLines | null {
    const known = this.#shown.get(id)
    const record = this.records.find((r) => r.id === id)
    if (known || !record) return known ?? null
    const tree = record.tree ?? plainTree(record.text)
    const lines = new MaskedLines(tree, dialectById(tree.dialect) ?? this.device.held.dialect, this.mask)
    this.#shown.set(id, lines)
    return lines
  }
}

/** A device of an estate, for the questions that are put to all of them. */
export interface EstateDevice {
  readonly name: string
  readonly dialect: Dialect
  readonly records: readonly ReadRecord[]
  readonly facts?: DeviceContext
}

/**
 * What one device answers to the questions across devices that some benchmarks ask, by question; empty where they ask
 * none.
 */
export function estateAnswersOf(
  { name, dialect, records, facts }: EstateDevice,
  benches: readonly CompiledBenchmark[],
  mask: Mask,
): Map<string, unknown> {
  const device = asksAcross(benches) ? deviceOf(name, dialect, records, mask, facts ? { facts } : {}) : null
  return device ? answersOf(device, benches) : new Map<string, unknown>()
}

/** Whether some rule asks across devices. */
export function asksAcross(benches: readonly CompiledBenchmark[]): boolean {
  return benches.some(({ rules }) => rules.some(({ estateQuestions }) => estateQuestions.length > 0))
}

function answersOf(device: JudgedDevice, benches: readonly CompiledBenchmark[]): Map<string, unknown> {
  const questions = new Map(
    benches.flatMap((bench) =>
      bench.rules.flatMap(({ estateQuestions }) =>
        estateQuestions.map((question) => [question.key, { question, bench }] as const),
      ),
    ),
  )
  return new Map(
    [...questions].flatMap(([key, { question, bench }]) =>
      askOne(question, device, bench.valuesFor(device).values).map((answer) => [key, answer] as const),
    ),
  )
}

/** The answers of all devices together, as each of them is judged by. */
export function joinAnswers(
  answers: Iterable<readonly [device: string, answers: ReadonlyMap<string, unknown>]>,
): Estate {
  const joined = new Map<string, { device: string; answer: unknown }[]>()
  for (const [device, own] of answers) {
    for (const [key, answer] of own) {
      const all = joined.get(key)
      if (all) all.push({ device, answer })
      else joined.set(key, [{ device, answer }])
    }
  }
  return new Estate(joined)
}

function deviceOf(
  name: string,
  dialect: Dialect,
  records: readonly ReadRecord[],
  mask: Mask,
  { facts, clock, before, estate }: AuditContext,
): JudgedDevice | null {
  const judged = judgedRecord(records)
  if (!judged) return null
  const holding = (tree: LocatedTree): EffectiveConfig => EffectiveConfig.of(tree, dialectById(tree.dialect) ?? dialect)
  const held = holding(judged.tree)
  const others = new Map(
    records.flatMap((record) =>
      record === judged || record.tree === null
        ? []
        : [[OTHERS[record.kind] ?? record.kind, { record: record.id, held: holding(record.tree) }] as const],
    ),
  )
  return judgedDevice({
    name,
    record: judged.id,
    held,
    others,
    records,
    mask,
    listing: judged.kind === 'config.full' ? 'full' : 'ordinary',
    model: () => modelOfDevice(held, judged, records, mask),
    before: before ? deviceOf(name, dialect, before, mask, facts ? { facts } : {}) : null,
    ...(facts ? { facts } : {}),
    ...(clock ? { clock } : {}),
    ...(estate ? { estate } : {}),
  })
}

/** A record of another device of the snapshot, as it is cited. */
function elsewhereOf({ devices }: Snapshot, name: string, kind: string, mask: Mask): ElsewhereRecord | null {
  const device = devices.find((one) => one.name === name)
  const record = device?.records.find((one) => one.kind === kind)
  if (!device || !record) return null
  const tree = record.tree ?? plainTree(record.text)
  const lines = new MaskedLines(tree, dialectById(tree.dialect) ?? device.dialect, mask)
  return { id: record.id, text: (from, to) => lines.range(from, to) }
}

/** An output of a command as lines to quote. */
function plainTree(text: string): LocatedTree {
  return { dialect: '', lines: new PhysicalLines(text), nodes: [], faults: [], unread: [], hostname: null }
}

function shownValue(value: unknown): string {
  if (value === null || value === undefined) return 'not set'
  return Array.isArray(value) ? value.map(String).join(', ') : String(value)
}

/** By which names conditions know other configurations of a device. */
const OTHERS: Readonly<Record<string, string>> = { config: 'ordinary', 'config.saved': 'saved' }

/** An absence is shown as the range searched; its text would be the whole range, so only short ones are quoted. */
const QUOTED_LINES = 40
/** A longer line holds more than a person reads. */
const LONG_LINE = 400

function verdictOf(
  raw: RawJudgement,
  device: JudgedDevice,
  benchmark: string,
  references: readonly string[],
  linesOf: (id: string) => MaskedLines | null,
  mask: Mask,
): Omit<Verdict, 'values'> {
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
    exhibits: raw.places.map(({ record, device: other, from, to, absent, columns }) => {
      // Its text is that of another device: whoever holds that fills it in.
      if (other !== undefined) return { record, device: other, from, to, text: '' }
      const lines = linesOf(record)
      const last = Math.min(to, from + QUOTED_LINES - 1)
      const whole = from === 1 && absent && to > QUOTED_LINES
      const said = whole || !lines ? '' : lines.range(from, last)
      // Of a listing in one line, only what is meant is quoted.
      const text = columns && from === to && said.length > LONG_LINE ? said.slice(columns[0] - 1, columns[1]) : said
      if (absent) return { record, from, to, text, absent: true as const }
      return columns
        ? { record, from, to, text, columns: [...columns] as [number, number] }
        : { record, from, to, text }
    }),
    missing: raw.missing.map(masked),
    extra: raw.extra.map(masked),
    remedy: remedyOf(raw.remedy, scope, dialect, mask),
    references: [...references],
  }
}

function remedyOf(
  proposal: RemedyProposal | null,
  scope: EffectiveConfig['scope'],
  dialect: Syntax,
  mask: Mask,
): Remedy | null {
  if (!proposal) return null
  if (proposal.kind === 'words') return { words: proposal.words }
  const plan = planFor(proposal.edits, scope, dialect)
  return {
    commands: maskCommands(plan.commands, dialect, mask),
    rollback: maskCommands(plan.rollback, dialect, mask),
    risk: proposal.risk,
    check: [...proposal.check, ...plan.activated.map(activationNote)],
    ...(proposal.unrestored ? { unrestored: proposal.unrestored } : {}),
  }
}

/** What comes back with a part that is activated. */
function activationNote({ path, statements }: InactivePart): string {
  return `“${path}” is deactivated, and is activated with all that is in it (${statements.length === 1 ? '1 statement' : `${statements.length} statements`})`
}

/**
 * Nobody can type a mark: in commands a secret is a placeholder with the name of what has to be supplied, and the
 * number of
 * its mark, by which the line that states it is found.
 */
function withPlaceholders(command: string): string {
  return command.replace(/‹secret:([0-9a-f]+)›/g, (_, print: string, at: number) => {
    const words = command.slice(0, at).replaceAll(/["']/g, ' ').trim().split(/\s+/)
    return `<${words.findLast((word) => /^[a-z][\w-]*$/i.test(word)) ?? 'secret'} ${print}>`
  })
}

function maskCommands(commands: readonly string[], dialect: Syntax, mask: Mask): string[] {
  let block: string | null = null
  return commands.map((command) => {
    if (!command.startsWith(' ')) block = command
    return withPlaceholders(maskLine(command, block, dialect, mask))
  })
}

export function countVerdicts(verdicts: Iterable<Pick<Verdict, 'outcome' | 'waived'>>, notselected = 0): Counts {
  const counts = noCounts()
  for (const { outcome, waived } of verdicts) {
    counts[outcome]++
    if (waived) counts.waived++
  }
  return { ...counts, notselected }
}

export interface AuditOptions {
  readonly build: string
  readonly mask: Mask
  readonly fingerprint: Fingerprint
  /** Milliseconds since 1970; what ages and expiries are judged by. */
  readonly now?: number
  /** The snapshot that this one is compared with. */
  readonly before?: Snapshot
  readonly waivers?: readonly Waiver[]
  readonly answers?: readonly AttestationAnswer[]
  /** What is expected of traffic. */
  readonly expectations?: readonly Expectation[]
}

/** Judges every device of a snapshot and gives the whole document. */
export function auditSnapshot(
  snapshot: Snapshot,
  choices: readonly Choice[],
  { build, mask, fingerprint, now = 0, before, waivers = [], answers = [], expectations = [] }: AuditOptions,
): AuditDocument {
  const benches = choices.map(prepare)
  const devices = snapshot.devices.map((device): EstateDevice => ({
    name: device.name,
    dialect: device.dialect,
    records: readRecords(device.records),
    facts: device.facts,
  }))
  const estate = joinAnswers(devices.map((device) => [device.name, estateAnswersOf(device, benches, mask)] as const))
  const earlier = new Map((before?.devices ?? []).map(({ name, records }) => [name, readRecords(records)]))
  const judged = devices.flatMap(({ name, dialect, records, facts }) => {
    const then = earlier.get(name)
    return auditDevice(name, dialect, records, benches, mask, {
      clock: new Clock(now),
      estate: new EstateView(estate),
      ...(facts ? { facts } : {}),
      ...(then ? { before: then } : {}),
    })
  })
  const verdicts = applyWaivers(
    withElsewhere(judged, (device, kind) => elsewhereOf(snapshot, device, kind, mask)),
    waivers,
    now,
  )
  const left = benches.reduce((sum, bench) => sum + bench.choice.benchmark.rules.length - bench.rules.length, 0)
  return {
    schema: 1,
    build,
    benchmarks: choices.map(({ benchmark, profile }) => ({
      id: benchmark.source.id,
      title: benchmark.source.title,
      version: benchmark.source.version,
      profile: profile ?? widestProfile(benchmark),
    })),
    snapshot: { title: snapshot.title, takenAt: snapshot.takenAt },
    devices: snapshot.devices.map((device) => {
      const records = readRecords(device.records)
      const unread = unreadByRecord(device.dialect, records)
      const counted = records.map((record) => ({
        kind: record.kind,
        lineCount: lineCountOf(record),
        unread: unread.get(record.id) ?? [],
      }))
      return { name: device.name, dialect: device.dialect.id, ...linesOf(counted) }
    }),
    records: snapshot.devices.flatMap((device) =>
      device.records.map(({ id, kind, path, sha256, takenAt, timeSource }) => ({
        id,
        device: device.name,
        kind,
        path,
        fingerprint: fingerprint(sha256),
        takenAt,
        timeSource,
      })),
    ),
    refused: snapshot.refused.map((refusal) => ({ ...refusal })),
    verdicts,
    attested: attestedIn(choices, answers, now),
    expected: applyWaivers(expectedOf(snapshot, expectations, mask), waivers, now),
    tailored: tailoredIn(choices),
    scores: scoresIn(choices, verdicts),
    counts: countVerdicts(verdicts, left * snapshot.devices.length),
  }
}

function expectedOf(snapshot: Snapshot, expectations: readonly Expectation[], mask: Mask): AuditDocument['expected'] {
  if (expectations.length === 0) return []
  const walker = new Walker(networkOfSnapshot(snapshot, mask))
  const texts = new ExhibitTexts(snapshot.devices, mask)
  return expectedVerdicts(
    expectations.map((stated) => ({ stated, answer: answerTo(walker, stated) })),
    (exhibit) => texts.show(exhibit).text,
  )
}

/** The questions to people of some benchmarks, with the answers that count at a time. */
export function attestedIn(
  choices: readonly Choice[],
  answers: readonly AttestationAnswer[],
  now: number,
): AuditDocument['attested'] {
  return choices.flatMap(({ benchmark }) =>
    answersTo(benchmark.source, answers, now).map(({ source, benchmark: id, outcome, answer, expired }) => ({
      benchmark: id,
      id: source.id,
      title: source.title,
      topic: source.topic,
      severity: source.severity,
      question: source.question,
      evidence: source.evidence,
      outcome,
      note: answer?.note ?? '',
      by: answer?.by ?? null,
      at: answer?.at ?? null,
      until: answer?.until ?? null,
      expired,
      files: [...(answer?.files ?? [])],
      references: source.references,
    })),
  )
}

export function tailoredIn(choices: readonly Choice[]): AuditDocument['tailored'] {
  return choices.flatMap(({ benchmark, tailoring = [] }) =>
    tailoring.map(({ rule, selected, severity, reason, by }) => ({
      benchmark: benchmark.source.id,
      rule,
      what: selected === false ? 'left out' : `severity ${severity ?? 'as stated'}`,
      reason,
      by,
    })),
  )
}

export function scoresIn(choices: readonly Choice[], verdicts: readonly Verdict[]): AuditDocument['scores'] {
  return choices.map(({ benchmark: { source } }) => {
    const topics = new Map(source.rules.map(({ id, topic }) => [id, topic]))
    return scoreOf(
      source.id,
      verdicts.filter(({ benchmark }) => benchmark === source.id),
      (rule) => topics.get(rule) ?? '',
    )
  })
}

function lineCountOf(record: ReadRecord): number {
  return record.tree === null ? record.text.split('\n').length : record.tree.lines.length
}

function readRecords(records: Snapshot['devices'][number]['records']): ReadRecord[] {
  return records.map(({ id, kind, tree, text, takenAt }) =>
    tree ? { id, kind, tree, takenAt } : { id, kind, tree, text, takenAt },
  )
}

/** Where no profile is named, every rule counts. */
export function widestProfile(benchmark: Benchmark): string {
  return benchmark.source.profiles.at(-1)?.id ?? ''
}

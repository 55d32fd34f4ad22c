/** One device that is judged: its verdicts, and what it answers to the questions across devices. */
import { DeviceAnalysis } from '../analysis/index.ts'
import type { CompiledBenchmark } from '../benchmarks/index.ts'
import { dialectById, type Dialect } from '../dialects/index.ts'
import type { EffectiveConfig, ModelledDevice } from '../model/index.ts'
import {
  Estate,
  askOne,
  judgedDevice,
  type Clock,
  type DeviceContext,
  type EstateView,
  type JudgedDevice,
} from '../rules/index.ts'
import type { ReadConfiguration, ReadRecord } from '../state/index.ts'
import { MaskedLines, type Mask } from '../syntax/index.ts'
import type { CitingVerdict, Verdict } from './document.ts'
import { plainTree, quoted, verdictOf } from './verdict.ts'

/** What an audit knows besides the records of a device. */
export interface AuditContext {
  readonly facts?: DeviceContext
  /** The time by which ages and expiries are judged; it notes until when the answers hold. */
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
  { before, only, ...context }: AuditContext = {},
): Verdict[] {
  const device = AuditedDevice.of(name, new DeviceAnalysis(dialect, records, mask), {
    ...context,
    ...(before ? { before: new DeviceAnalysis(dialect, before, mask) } : {}),
  })
  return device?.quoted(device.verdicts(benches, only)) ?? []
}

/** What is known of a device that is judged, besides its own records. */
export interface JudgedContext extends Pick<AuditContext, 'facts' | 'clock' | 'estate'> {
  /** The same device in the snapshot that is compared with. */
  readonly before?: DeviceAnalysis
}

/** A device that can be judged more than once; its masked lines are computed once. */
export class AuditedDevice {
  readonly #shown = new Map<string, MaskedLines>()

  private constructor(
    readonly device: JudgedDevice,
    readonly analysis: DeviceAnalysis,
  ) {}

  /** Null where no record of it can be judged. */
  static of(name: string, analysis: DeviceAnalysis, context: JudgedContext = {}): AuditedDevice | null {
    const device = deviceOf(name, analysis, context)
    return device && new AuditedDevice(device, analysis)
  }

  /** The same device, judged at another time and with other answers of the estate. */
  at(clock: Clock, estate: EstateView | null): AuditedDevice {
    const other = new AuditedDevice(
      Object.assign(Object.create(this.device) as JudgedDevice, { clock, estate }),
      this.analysis,
    )
    for (const [id, lines] of this.#shown) other.#shown.set(id, lines)
    return other
  }

  /** @param only the rules that ask one device, or those that ask across devices; all of them where left out */
  verdicts(benches: readonly CompiledBenchmark[], only?: AuditContext['only']): CitingVerdict[] {
    const {
      device,
      analysis: { mask },
    } = this
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
            mask,
          ),
          values,
        }
      })
    })
  }

  /** Verdicts of this device with the text of the lines that they cite. */
  quoted(verdicts: readonly CitingVerdict[]): Verdict[] {
    return quoted(verdicts, (id) => this.#linesOf(id))
  }

  /** What it answers to the questions across devices, by question. */
  answers(benches: readonly CompiledBenchmark[]): Map<string, unknown> {
    return answersOf(this.device, benches)
  }

  #linesOf(id: string): MaskedLines | null {
    const known = this.#shown.get(id)
    const record = this.analysis.records.find((r) => r.id === id)
    if (known || !record) return known ?? null
    const tree = record.tree ?? plainTree(record.text)
    const lines = new MaskedLines(tree, dialectById(tree.dialect) ?? this.device.effective.dialect, this.analysis.mask)
    this.#shown.set(id, lines)
    return lines
  }
}

function deviceOf(name: string, analysis: DeviceAnalysis, context: JudgedContext): JudgedDevice | null {
  const { judged, effective, records, mask } = analysis
  if (!judged || !effective) return null
  const { facts, clock, before, estate } = context
  return judgedDevice({
    name,
    record: judged.id,
    effective,
    others: new Map(
      records.flatMap((record) =>
        record === judged || record.tree === null
          ? []
          : [[OTHERS[record.kind] ?? record.kind, new OtherConfiguration(analysis, record)] as const],
      ),
    ),
    records,
    mask,
    listing: judged.kind === 'config.full' ? 'full' : 'ordinary',
    // A record that is judged is a configuration, and has a model.
    model: () => analysis.modelled as ModelledDevice,
    state: () => analysis.state,
    before: before ? deviceOf(name, before, facts ? { facts } : {}) : null,
    ...(facts ? { facts } : {}),
    ...(clock ? { clock } : {}),
    ...(estate ? { estate } : {}),
  })
}

/** Another configuration of a device; what holds of it is worked out when a rule first asks. */
class OtherConfiguration {
  readonly record: string

  constructor(
    readonly analysis: DeviceAnalysis,
    readonly configuration: ReadConfiguration,
  ) {
    this.record = configuration.id
  }

  get effective(): EffectiveConfig {
    return this.analysis.effectiveOf(this.configuration)
  }
}

/** The names under which conditions know the other configurations of a device. */
const OTHERS: Readonly<Record<string, string>> = { config: 'ordinary', 'config.saved': 'saved' }

function shownValue(value: unknown): string {
  if (value === null || value === undefined) return 'not set'
  return Array.isArray(value) ? value.map(String).join(', ') : String(value)
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
  const device = asksAcross(benches)
    ? AuditedDevice.of(name, new DeviceAnalysis(dialect, records, mask), facts ? { facts } : {})
    : null
  return device?.answers(benches) ?? new Map<string, unknown>()
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

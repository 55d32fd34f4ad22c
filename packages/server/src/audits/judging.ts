import { TookTooLong } from '../jobs/pool.ts'
import { serialize } from 'node:v8'
import { prepare, type Verdict } from '@jurybox/core'
import { isPartOfModel, judgedOf } from '@jurybox/core/analysis'
import { asksAcross, type CitingVerdict } from '@jurybox/core/audit'
import type { CompiledBenchmark, Choice } from '@jurybox/core/benchmarks'
import { Clock, type DeviceContext } from '@jurybox/core/rules'
import { Devices } from '../estate/entity.ts'
import type { AuditChoice } from './entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { AnalysisPool } from '../analysis/pool.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SealedVerdicts } from './sealed-verdicts.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { damageWords, intactText } from '../snapshots/damage.ts'
import type { HeldRecord } from '../snapshots/service.ts'
import { sha256 } from '../vault/vault.ts'
import { estateFrom } from './answers.ts'
import { BEFORE, VerdictCache, placed, type EstateAtHand, type KeptJudgement } from './verdict-cache.ts'
import { inOrder, numbered } from '../analysis/task-records.ts'
import { answerOf, type AuditAnswer, type AuditTask, type TaskChoice } from './audit-task.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly analyses: AnalysisPool
  readonly benchmarks: BenchmarkRepository
  readonly build: string
  readonly database: DataSource
  readonly estate: EstateService
  readonly records: RecordStore
  readonly sealedVerdicts: SealedVerdicts
  readonly snapshots: SnapshotService
}

/** A device with the records that it is judged by: what no rule looks at makes no verdict anew. */
export interface JudgedSubject {
  readonly id: number
  readonly name: string
  readonly facts: DeviceContext
  readonly records: readonly HeldRecord[]
  readonly before: readonly HeldRecord[] | null
}

/** The devices of a snapshot with the records that some benches read. */
export async function subjectsOf(
  { snapshots, database, estate }: Pick<Needs, 'snapshots' | 'database' | 'estate'>,
  snapshot: SnapshotRow,
  benches: readonly Pick<CompiledBenchmark, 'needs'>[],
): Promise<JudgedSubject[]> {
  const state = benches.some(({ needs }) => needs.state)
  const earlier = benches.some(({ needs }) => needs.before) ? await snapshots.before(snapshot) : null
  const then = byDevice(earlier ? await snapshots.held(earlier) : [])
  const facts = new Map(
    (await database.getRepository(Devices).findBy({ engagementId: snapshot.engagementId })).map((device) => [
      device.id,
      device.facts,
    ]),
  )
  const said = benches.some(({ needs }) => needs.estate) ? await estate.contexts(snapshot) : null
  const subjects = [...byDevice(await snapshots.held(snapshot))].flatMap(([id, all]): JudgedSubject[] => {
    const judged = judgedOf(all)
    if (!judged) return []
    const read = ({ kind }: HeldRecord): boolean =>
      isPartOfModel(kind, judged.dialect) || (state && kind.startsWith('state/'))
    return [
      {
        id,
        name: judged.device,
        facts: { labels: {}, ...facts.get(id), ...said?.get(judged.device) },
        records: inOrder(all.filter(read)),
        before: earlier ? inOrder((then.get(id) ?? []).filter(read)) : null,
      },
    ]
  })
  // In an order of their own: what all answer together is the same whenever the records came in.
  return subjects.sort((a, b) => (a.name < b.name ? -1 : 1))
}

/** Everything about a device itself that its verdicts depend on. */
export function subjectKey({ name, facts, records, before }: JudgedSubject, maskKey: Buffer): string {
  // The age of an output is asked for; that of a configuration is not.
  const recordKey = ({ kind, sha256: hash, dialect, takenAt }: HeldRecord): unknown[] => [
    kind,
    hash,
    dialect,
    kind.startsWith('state/') ? takenAt : null,
  ]
  return sha256(JSON.stringify([name, facts, records.map(recordKey), before?.map(recordKey) ?? null, sha256(maskKey)]))
}

/** The records of a device as workers take them. @throws DamagedContent */
export function taskRecordsOf(
  { records, before }: JudgedSubject,
  texts: ReadonlyMap<string, string>,
): Pick<AuditTask, 'records' | 'before'> {
  const textOf = (record: HeldRecord): string => intactText(texts, record)
  return { records: numbered(records, textOf), before: before && numbered(before, textOf, BEFORE) }
}

/** Choices ready to be judged by. */
export interface AuditPlan {
  readonly benches: readonly CompiledBenchmark[]
  readonly choices: readonly TaskChoice[]
  /** Rule after rule as the benchmarks state them. */
  readonly placeOf: (verdict: Pick<Verdict, 'benchmark' | 'rule'>) => number
  /** Some rule asks across devices. */
  readonly across: boolean
}

/**
 * What one device came to in an audit: the rules that ask itself and, where there are some, those that ask all devices.
 */
export interface DeviceJudgements {
  readonly subject: JudgedSubject
  readonly judgements: readonly KeptJudgement[]
  /** False where what its own records say was remembered; questions across devices may have been answered anew. */
  readonly fresh: boolean
}

interface Run {
  readonly docket: AuditPlan
  readonly subjects: readonly JudgedSubject[]
  readonly signal?: AbortSignal
}

interface KeptRun extends Run {
  /** Names of the devices whose verdicts are kept; null: of all. The others answer what is asked across devices. */
  readonly only: ReadonlySet<string> | null
  readonly maskKey: Buffer
  /** Called with how many devices' worth of work is done. */
  readonly progress: (done: number) => Promise<void>
}

/** Milliseconds that one device may take: a thousand times what a large one does. */
export const DEVICE_MS = 60_000

/** Judges devices in worker threads, and remembers what each came to. */
export class Judging {
  readonly #memory: VerdictCache

  /** For tests: less than a minute. */
  deviceMs = DEVICE_MS

  constructor(readonly services: Needs) {
    this.#memory = new VerdictCache(services.database, services.sealedVerdicts)
  }

  /** @throws Error for a profile, a value or a scope that a benchmark does not have */
  async planOf(choices: readonly AuditChoice[]): Promise<AuditPlan> {
    const { benchmarks } = this.services
    return docket(
      await Promise.all(
        choices.map(async (choice) => ({
          text: await benchmarks.textOf(choice.hash),
          choice: await benchmarks.chosen(choice),
        })),
      ),
    )
  }

  /** Judges by what is remembered and keeps what is computed; leaves out the devices that a stop came before. */
  async judge(run: KeptRun): Promise<{ readonly found: DeviceJudgements[]; readonly estateHash: string }> {
    const now = Date.now()
    // Questions across devices are put to every device before the rules that ask them.
    const rounds = run.docket.across ? 2 : 1
    let steps = 0
    const step = async (by: number): Promise<void> => run.progress(Math.floor((steps += by) / rounds))
    const isKept = ({ name }: JudgedSubject): boolean => run.only === null || run.only.has(name)
    const kept = run.subjects.filter(isKept)
    const own = await this.#round(run.docket.across ? run : { ...run, subjects: kept }, now, null, step)
    const estate =
      run.docket.across && !run.signal?.aborted
        ? this.#memory.estateOf([...own].map(([{ name: device }, { judgement }]) => ({ device, judgement })))
        : null
    const across = estate ? await this.#round({ ...run, subjects: kept }, now, estate, step) : null
    const found = [...own].flatMap(([subject, { judgement, fresh }]) => {
      if (!isKept(subject)) return []
      const more = across?.get(subject)
      return across && !more ? [] : [{ subject, judgements: [judgement, ...(more ? [more.judgement] : [])], fresh }]
    })
    return { found, estateHash: estate?.hash ?? '' }
  }

  /** @param estate null in the first round */
  async #round(
    run: KeptRun,
    now: number,
    estate: EstateAtHand | null,
    step: (by: number) => Promise<void>,
  ): Promise<Map<JudgedSubject, { judgement: KeptJudgement; fresh: boolean }>> {
    const { docket, subjects, maskKey, signal } = run
    const keyOf = this.#keysOf(docket, maskKey, estate ? 'across' : 'own')
    const keys = new Map(subjects.map((subject) => [subject, keyOf(subject)] as const))
    const known = await this.#memory.recall([...keys.values()], now, estate)
    await step(known.size)
    // The second time from the last to the first: those that were read last are still at hand.
    const left = subjects.filter((subject) => !known.has(keys.get(subject) ?? ''))
    if (estate) left.reverse()
    const part = await partOf(estate, left.length > 0)
    const computed = await this.#eachOf(left, signal, async (subject) => {
      const answer = await this.#compute(docket, subject, { maskKey, now, part, pack: true }, signal)
      const judgement = await this.#memory.keep(keys.get(subject) ?? '', answer, estate?.hash ?? '', docket.placeOf)
      await step(1)
      return judgement
    })
    return new Map(
      subjects.flatMap((subject) => {
        const remembered = known.get(keys.get(subject) ?? '')
        const judgement = remembered ?? computed.get(subject)
        return judgement ? [[subject, { judgement, fresh: !remembered }] as const] : []
      }),
    )
  }

  /**
   * The verdicts themselves, computed for one request and not stored.
   * @param maskKey null: real secrets stay in the commands
   */
  async verdicts({
    docket,
    subjects,
    signal,
    maskKey,
  }: Run & { readonly maskKey: Buffer | null }): Promise<{ deviceId: number; verdicts: CitingVerdict[] }[]> {
    const now = Date.now()
    const round = (part: AuditTask['part']): Promise<Map<JudgedSubject, AuditAnswer>> =>
      this.#eachOf(subjects, signal, async (subject) =>
        this.#compute(docket, subject, { maskKey, now, part, pack: false }, signal),
      )
    const own = await round({ only: 'own' })
    const { serialized } = estateFrom([...own].map(([{ name }, { answers }]) => [name, answers] as const))
    const across =
      docket.across && !signal?.aborted
        ? await round({ only: 'across', hash: sha256(serialized), answers: shared(serialized) })
        : null
    return [...own].map(([subject, { verdicts }]) => ({
      deviceId: subject.id,
      verdicts: [...verdicts, ...(across?.get(subject)?.verdicts ?? [])]
        .sort((a, b) => docket.placeOf(a) - docket.placeOf(b))
        .map((verdict) =>
          placed(
            verdict,
            subject.records.map(({ id }) => id),
            (subject.before ?? []).map(({ id }) => id),
          ),
        ),
    }))
  }

  /**
   * Twice as many devices at a time as there are workers: while one is written down, another is judged. In the order of
   * the subjects, whichever was done first.
   */
  async #eachOf<T>(
    subjects: readonly JudgedSubject[],
    signal: AbortSignal | undefined,
    work: (subject: JudgedSubject) => Promise<T>,
  ): Promise<Map<JudgedSubject, T>> {
    const found = new Map<JudgedSubject, T>()
    let next = 0
    const lane = async (): Promise<void> => {
      for (let subject = subjects[next++]; subject && !signal?.aborted; subject = subjects[next++])
        found.set(subject, await work(subject))
    }
    await Promise.all(Array.from({ length: 2 * this.services.analyses.size }, lane))
    return new Map(
      subjects.flatMap((subject) => (found.has(subject) ? [[subject, found.get(subject) as T] as const] : [])),
    )
  }

  /**
   * Remembered under everything that it depends on: build, rules, values, contents, name and facts of the device and
   * the key that marks secrets; what was looked up in the answers of all devices is remembered with it. What has not
   * changed is not computed again, also where it was brought in again as another record; what rests on the time, not
   * before that time has come.
   */
  #keysOf(
    { choices }: AuditPlan,
    maskKey: Buffer,
    only: AuditTask['part']['only'],
  ): (subject: JudgedSubject) => string {
    const rules = JSON.stringify([
      this.services.build,
      choices.map(({ hash, profile, values, overrides, tailoring, only }) => [
        hash,
        profile,
        values,
        overrides,
        tailoring,
        only,
      ]),
      only,
    ])
    return (subject) => sha256(`${rules} ${subjectKey(subject, maskKey)}`)
  }

  async #compute(
    { choices, benches }: AuditPlan,
    subject: JudgedSubject,
    how: Pick<AuditTask, 'maskKey' | 'now' | 'part' | 'pack'>,
    signal?: AbortSignal,
  ): Promise<AuditAnswer> {
    const { name, facts, records, before } = subject
    const texts = await this.services.records.texts([...records, ...(before ?? [])].map((record) => record.sha256))
    const damaged = [...records, ...(before ?? [])].find(({ sha256: hash }) => !texts.has(hash))
    if (damaged)
      return errorAnswer(benches, { device: damaged.device, branch: 'damaged', note: damageWords(damaged) }, how)
    const task: AuditTask = {
      device: name,
      dialect: judgedOf(records)?.dialect ?? '',
      facts,
      ...taskRecordsOf(subject, texts),
      choices,
      ...how,
    }
    return this.#inTime(task, signal, subject, benches)
  }

  /** Rules that run on, by accident or by design, are ended; the device says so, and the others are judged. */
  async #inTime(
    task: AuditTask,
    signal: AbortSignal | undefined,
    { name, records: [record] }: JudgedSubject,
    benches: readonly CompiledBenchmark[],
  ): Promise<AuditAnswer> {
    const key = record?.sha256 ?? name
    try {
      return await this.services.analyses.run('auditTask', key, task, {
        limitMs: this.deviceMs,
        ...(signal ? { signal } : {}),
      })
    } catch (error) {
      if (!(error instanceof TookTooLong)) throw error
      return errorAnswer(
        benches,
        {
          device: name,
          branch: 'too-slow',
          note:
            `The audit of this device took more than ${this.deviceMs / 1000} seconds and was stopped. A rule ` +
            'of your own may be the cause.',
        },
        task,
      )
    }
  }
}

/** Of a device that cannot be judged every rule says so; not for longer than this once. */
function errorAnswer(
  benches: readonly CompiledBenchmark[],
  why: Pick<Verdict, 'device' | 'branch' | 'note'>,
  { now, part: { only }, pack }: Pick<AuditTask, 'now' | 'part' | 'pack'>,
): AuditAnswer {
  const verdicts = benches.flatMap(({ choice, rules, severityOf }) =>
    rules
      .filter(({ estateQuestions }) => estateQuestions.length > 0 === (only === 'across'))
      .map(({ source }): CitingVerdict => ({
        ...why,
        benchmark: choice.benchmark.source.id,
        rule: source.id,
        outcome: 'error',
        severity: severityOf(source.id, source.severity),
        references: [...source.references],
        subjects: [],
        exhibits: [],
        missing: [],
        extra: [],
        remedy: null,
        values: [],
      })),
  )
  const answer = answerOf(verdicts, pack, new Clock(now), only === 'own' ? { answers: serialize([]) } : {})
  return { ...answer, until: now }
}

async function partOf(estate: EstateAtHand | null, needed: boolean): Promise<AuditTask['part']> {
  return estate && needed
    ? { only: 'across', hash: estate.hash, answers: shared((await estate.load()).serialized) }
    : { only: 'own' }
}

/** In memory that all threads see, so that it is not copied for each device. */
function shared(bytes: Uint8Array): Uint8Array {
  const copy = new Uint8Array(new SharedArrayBuffer(bytes.length))
  copy.set(bytes)
  return copy
}

function docket(chosen: readonly { readonly text: string; readonly choice: Required<Choice> }[]): AuditPlan {
  const benches = chosen.map(({ choice }) => prepare(choice))
  const order = new Map(
    benches
      .flatMap(({ choice: { benchmark }, rules }) => rules.map(({ source }) => `${benchmark.source.id} ${source.id}`))
      .map((rule, i) => [rule, i]),
  )
  const placeOf = ({ benchmark, rule }: Pick<Verdict, 'benchmark' | 'rule'>): number =>
    order.get(`${benchmark} ${rule}`) ?? 0
  return {
    placeOf,
    benches,
    choices: chosen.map(({ text, choice: { benchmark, ...fitting } }) => ({ hash: benchmark.hash, text, ...fitting })),
    across: asksAcross(benches),
  }
}

export function byDevice(records: readonly HeldRecord[]): Map<number, HeldRecord[]> {
  const all = new Map<number, HeldRecord[]>()
  for (const record of records) all.set(record.deviceId, [...(all.get(record.deviceId) ?? []), record])
  return all
}

import { availableParallelism } from 'node:os'
import { deserialize, serialize } from 'node:v8'
import { gunzipSync, gzipSync } from 'node:zlib'
import { Piscina } from 'piscina'
import { asksAcross, isPartOfModel, joinAnswers, judgedOf, prepare, widestProfile, type Bench, type Benchmark, type Choice, type DeviceContext, type Verdict } from '@jurybox/core'
import { Devices, Judgements, type AuditChoice, type SnapshotRow } from '../db/entities.ts'
import type { Services } from '../services.ts'
import type { HeldRecord } from '../snapshots/service.ts'
import { sha256 } from '../vault/vault.ts'
import type { AuditAnswer, AuditTask, TaskChoice, TaskRecord } from './worker.ts'

/** What is remembered of a device. It was written by this build, which its key names, so it is not checked again. */
interface Memo {
  readonly verdicts: Verdict[]
  readonly answers: string
}

/** A device with the records that it is judged by: what no rule looks at makes no verdict anew. */
export interface JudgedSubject {
  readonly id: number
  readonly name: string
  readonly facts: DeviceContext
  readonly records: readonly HeldRecord[]
  readonly before: readonly HeldRecord[] | null
}

/** Choices ready to be judged by. */
export interface Docket {
  readonly benches: readonly Bench[]
  readonly choices: readonly TaskChoice[]
  /** Some rule asks across devices. */
  readonly across: boolean
}

export interface DeviceVerdicts {
  readonly deviceId: number
  readonly verdicts: Verdict[]
  /** False where what its own records say was remembered; questions across devices may have been answered anew. */
  readonly fresh: boolean
}

interface Run {
  readonly docket: Docket
  readonly subjects: readonly JudgedSubject[]
  /** Null: real secrets stay, and nothing is remembered. */
  readonly maskKey: Buffer | null
  /** False for rules that are being written: every change of them is another benchmark. */
  readonly remember?: boolean
  readonly signal?: AbortSignal
  /** Called with how many devices' worth of work is done. */
  readonly progress?: (done: number) => Promise<void>
}

/** Judges devices in worker threads, and remembers what each came to. */
export class Judging {
  readonly #pool = new Piscina<AuditTask, AuditAnswer>({
    filename: new URL('./worker.ts', import.meta.url).href,
    execArgv: ['--import', 'tsx'],
    minThreads: 0,
    maxThreads: Math.max(1, availableParallelism() - 1),
    idleTimeout: 30_000,
    // One device costs milliseconds; a worker that outgrows this is ended and its device reported as failed.
    // Judging makes many small things that live for one device: with room for them, few are kept longer than that.
    resourceLimits: { maxOldGenerationSizeMb: 1024, maxYoungGenerationSizeMb: 192 },
  })

  constructor(readonly services: Services) {}

  /** @throws Error for a profile, a value or a scope that a benchmark does not have */
  async docketOf(choices: readonly AuditChoice[]): Promise<Docket> {
    const { benchmarks } = this.services
    return docket(await Promise.all(choices.map(async (choice) => ({ text: await benchmarks.textOf(choice.hash), choice: await benchmarks.chosen(choice) }))))
  }

  /** A benchmark that is not kept yet, all of its rules at their defaults. */
  docketOfText(text: string, benchmark: Benchmark): Docket {
    return docket([{ text, choice: { benchmark, profile: widestProfile(benchmark), values: {}, overrides: [], tailoring: [] } }])
  }

  async subjectsOf(snapshot: SnapshotRow, { benches }: Docket): Promise<JudgedSubject[]> {
    const { snapshots, database } = this.services
    const state = benches.some(({ needs }) => needs.state)
    const earlier = benches.some(({ needs }) => needs.before) ? await snapshots.before(snapshot) : null
    const then = byDevice(earlier ? await snapshots.held(earlier) : [])
    const facts = new Map((await database.getRepository(Devices).findBy({ engagementId: snapshot.engagementId })).map((device) => [device.id, device.facts]))
    return [...byDevice(await snapshots.held(snapshot))].flatMap(([id, all]): JudgedSubject[] => {
      const judged = judgedOf(all)
      if (!judged) return []
      const read = ({ kind }: HeldRecord): boolean => isPartOfModel(kind, judged.dialect) || (state && kind.startsWith('state/'))
      return [{ id, name: judged.device, facts: { labels: {}, ...facts.get(id) }, records: all.filter(read), before: earlier ? (then.get(id) ?? []).filter(read) : null }]
    })
  }

  /** The verdicts of all devices that were judged before a stop, rule after rule as the benchmarks state them. */
  async judge(run: Run): Promise<DeviceVerdicts[]> {
    const now = Date.now()
    // Questions across devices are put to every device before the rules that ask them.
    const rounds = run.docket.across ? 2 : 1
    let steps = 0
    const step = async (): Promise<void> => run.progress?.(Math.floor(++steps / rounds))
    const own = await this.#eachOf(run, async (subject) => {
      const answer = await this.#remembered(run, subject, now, { only: 'own' })
      await step()
      return answer
    })
    const joined = run.docket.across && !run.signal?.aborted ? serialize(joinAnswers(own.map(({ subject, answer }) => [subject.name, new Map(deserialize(answer.answers) as [string, unknown][])] as const))) : null
    const hash = joined ? sha256(joined) : ''
    const across = new Map(
      joined
        ? (await this.#eachOf(run, async (subject) => {
            const answer = await this.#remembered(run, subject, now, { only: 'across', hash, answers: joined })
            await step()
            return answer
          })).map(({ subject, answer }) => [subject.id, answer] as const)
        : [],
    )
    const order = new Map(run.docket.benches.flatMap(({ choice: { benchmark }, rules }) => rules.map(({ source }) => `${benchmark.source.id} ${source.id}`)).map((rule, i) => [rule, i]))
    const placeOf = ({ benchmark, rule }: Verdict): number => order.get(`${benchmark} ${rule}`) ?? 0
    return own.map(({ subject, answer }) => {
      const more = across.get(subject.id)
      return { deviceId: subject.id, verdicts: [...answer.verdicts, ...(more?.verdicts ?? [])].sort((a, b) => placeOf(a) - placeOf(b)), fresh: answer.fresh }
    })
  }

  /** As many devices at a time as there are workers, and one that waits. */
  async #eachOf<T>({ subjects, signal }: Run, work: (subject: JudgedSubject) => Promise<T>): Promise<{ subject: JudgedSubject; answer: T }[]> {
    const found = new Map<JudgedSubject, T>()
    let next = 0
    const lane = async (): Promise<void> => {
      for (let subject = subjects[next++]; subject && !signal?.aborted; subject = subjects[next++]) found.set(subject, await work(subject))
    }
    await Promise.all(Array.from({ length: this.#pool.options.maxThreads + 1 }, lane))
    // In the order of the subjects, whichever was done first: what is made of all answers has to be the same each time.
    return subjects.flatMap((subject) => {
      const answer = found.get(subject)
      return answer === undefined ? [] : [{ subject, answer }]
    })
  }

  /**
   * Remembered under everything that it depends on: build, rules, values, contents, name and facts of the device, the key
   * that marks secrets and, for rules that ask across devices, what all have answered. What has not changed is not
   * computed again, also where it was brought in again as another record; what rests on the time, not before that time has come.
   */
  async #remembered({ docket, maskKey, signal, remember = true }: Run, subject: JudgedSubject, now: number, part: AuditTask['part']): Promise<AuditAnswer & { fresh: boolean }> {
    if (maskKey === null || !remember) return { ...placed(await this.#compute(docket, subject, maskKey, now, part, signal), subject), fresh: true }
    // The age of an output is asked for; that of a configuration is not.
    const recordKey = ({ kind, sha256: hash, dialect, takenAt }: HeldRecord): unknown[] => [kind, hash, dialect, kind.startsWith('state/') ? takenAt : null]
    const memoKey = sha256(
      JSON.stringify([
        this.services.build, subject.name, subject.facts, docket.choices.map(({ hash, profile, values, overrides, tailoring }) => [hash, profile, values, overrides, tailoring]),
        subject.records.map(recordKey), subject.before?.map(recordKey) ?? null, sha256(maskKey), part.only, part.only === 'across' ? part.hash : '',
      ]),
    )
    const memos = this.services.database.getRepository(Judgements)
    const known = await memos.findOneBy({ memoKey })
    if (known && (known.validUntil === null || known.validUntil.getTime() > now)) {
      const { verdicts, answers } = JSON.parse(gunzipSync(known.body).toString('utf8')) as Memo
      return { ...placed({ verdicts, answers: Buffer.from(answers, 'base64'), until: known.validUntil?.getTime() ?? null }, subject), fresh: false }
    }
    const answer = await this.#compute(docket, subject, maskKey, now, part, signal)
    const body = gzipSync(JSON.stringify({ verdicts: answer.verdicts, answers: Buffer.from(answer.answers).toString('base64') }))
    await memos.upsert({ memoKey, body, validUntil: answer.until === null ? null : new Date(answer.until) }, ['memoKey'])
    return { ...placed(answer, subject), fresh: true }
  }

  async #compute({ choices }: Docket, { name, facts, records, before }: JudgedSubject, maskKey: Buffer | null, now: number, part: AuditTask['part'], signal?: AbortSignal): Promise<AuditAnswer> {
    const texts = await this.services.records.texts([...records, ...(before ?? [])].map((record) => record.sha256))
    const taskRecord = (at: string) => ({ kind, dialect, sha256: hash, takenAt }: HeldRecord, i: number): TaskRecord => ({ id: `${at}${i}`, kind, dialect, text: texts.get(hash) ?? '', takenAt: takenAt?.toISOString() ?? null })
    const task: AuditTask = { device: name, dialect: judgedOf(records)?.dialect ?? '', facts, records: records.map(taskRecord(NOW)), before: before?.map(taskRecord(BEFORE)) ?? null, choices, maskKey, now, part }
    return this.#pool.run(task, signal ? { signal } : {})
  }

  async close(): Promise<void> {
    await this.#pool.close({ force: true })
  }
}

/** In what is remembered, records are known by their places among those of the device. */
const [NOW, BEFORE] = ['now', 'before']

/** The same with the records as they are called in the snapshot that is judged. */
function placed(answer: AuditAnswer, { records, before }: JudgedSubject): AuditAnswer {
  const ids = new Map<string, string>([...records.map(({ id }, i) => [`${NOW}${i}`, String(id)] as const), ...(before ?? []).map(({ id }, i) => [`${BEFORE}${i}`, String(id)] as const)])
  return { ...answer, verdicts: answer.verdicts.map((verdict) => ({ ...verdict, exhibits: verdict.exhibits.map((exhibit) => ({ ...exhibit, record: ids.get(exhibit.record) ?? exhibit.record })) })) }
}

function docket(chosen: readonly { readonly text: string; readonly choice: Required<Choice> }[]): Docket {
  const benches = chosen.map(({ choice }) => prepare(choice))
  return { benches, choices: chosen.map(({ text, choice: { benchmark, ...fitting } }) => ({ hash: benchmark.hash, text, ...fitting })), across: asksAcross(benches) }
}

function byDevice(records: readonly HeldRecord[]): Map<number, HeldRecord[]> {
  const all = new Map<number, HeldRecord[]>()
  for (const record of records) all.set(record.deviceId, [...(all.get(record.deviceId) ?? []), record])
  return all
}

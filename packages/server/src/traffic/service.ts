import { openPool } from '../jobs/pool.ts'
import type { Expectation } from '@jurybox/core'
import { In } from 'typeorm'
import { Snapshots, type SnapshotRow } from '../snapshots/entity.ts'
import { TrafficConfirmations, TrafficFiles, TrafficOutcomes, type TrafficFile, type TrafficOutcome } from './entity.ts'
import type { EstateDevice } from '../estate/service.ts'
import { waitFor, type Reading } from '../estate/still-reading.ts'
import { Problem, notFound } from '../http/problem.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'
import type { Workbench } from '../outside/workbench.ts'
import type { RecordStore } from '../snapshots/records.ts'
import { sha256 } from '../vault/vault.ts'
import type { TrafficAnswer, TrafficQuestion } from './questions.ts'
import type { NetworkMember, NetworkTask, TaskAnswer, TrafficTask } from './traffic-worker.ts'
import { intactText } from '../snapshots/damage.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly build: string
  readonly database: DataSource
  readonly estate: EstateService
  readonly outside: Workbench
  readonly records: RecordStore
}

/** Devices whose records are sent at a time. */
const AT_ONCE = 50
/** A question is stopped after this time without a client that waits for it. */
const PATIENCE_OF_ALL_MS = 10_000
/** The cell that tells the worker to stop. */
const STOP = 2
/** Answers that are kept for the next client. */
const KEPT_ANSWERS = 64
/**
 * How many snapshots before are asked to say since when; of those before them, what was found when they were asked
 * counts.
 */
const LOOK_BACK = 12
const MOST_BACK = 1000

type Answers = Extract<TrafficAnswer, { is: 'expectations' }>['answers']
type AnswerTo<Q extends TrafficQuestion> = Extract<TrafficAnswer, { is: Q['ask'] }>

/** A question that is being answered, or was. */
interface Asked {
  readonly work: Promise<TrafficAnswer>
  /** How far it is, and how far the reading is that comes before. */
  readonly state: Reading
  readonly reading: Reading | null
  /** The messages from and to the worker. */
  readonly cells: Int32Array
  /** When somebody last asked for it; milliseconds since 1970. */
  seen: number
}

/** A snapshot as a network. */
interface Held {
  readonly snapshot: SnapshotRow
  readonly devices: readonly EstateDevice[]
  readonly task: NetworkTask
}

/** An expectation with its answer, and since when it has been so. */
export interface AnsweredExpectation {
  readonly stated: Expectation
  readonly answer: Answers[number]
  /** The earliest of the snapshots in a row for which the answer is the same. */
  readonly since: { readonly snapshot: number; readonly title: string; readonly takenAt: string }
  /** Whether it held in this snapshot or in one before. */
  readonly everHeld: boolean
  /** The user who confirmed it although it was never met; null where nobody has. */
  readonly confirmedBy: number | null
}

/**
 * Answers what is asked of traffic. The network of a snapshot lives in a worker thread; what is read of a device goes
 * there once for its records, and a question is asked again only where something that it rests on is another.
 */
export class TrafficService {
  readonly #worker = openPool<TrafficTask, TaskAnswer>(new URL('./traffic-worker.ts', import.meta.url), {
    threads: 1,
    idleSeconds: 1800,
    memoryMb: 4096,
    // Tables of many routes are made in one go: with little young memory most of them are copied on the way.
    youngMb: 192,
  })
  readonly #kept = new Map<string, Promise<Answers>>()
  readonly #asked = new Map<string, Asked>()
  readonly #readings = new Map<number, { readonly work: Promise<void>; readonly state: Reading }>()
  /** By engagement: read once for each text. */
  readonly #stated = new Map<number, { readonly text: string; readonly expectations: readonly Expectation[] }>()
  #closed = false

  constructor(readonly services: Needs) {}

  async file(engagementId: number, kind: TrafficFile['kind']): Promise<TrafficFile | null> {
    return this.services.database.getRepository(TrafficFiles).findOneBy({ engagementId, kind })
  }

  /** Keeps what is stated. @throws Problem with the place where it is not as it should be */
  async state(engagementId: number, kind: TrafficFile['kind'], text: string, userId: number): Promise<void> {
    const { wrong } = await this.services.outside.read('stated', { kind, text })
    if (wrong !== null) throw new Problem(422, wrong)
    await this.services.database
      .getRepository(TrafficFiles)
      .save({ engagementId, kind, text, setBy: userId, setAt: new Date() })
  }

  /**
   * Puts a question to the network of a snapshot. It is answered once for as long as nothing that it rests on is
   * another, and stopped where nobody waits for the answer any more.
   * @param before the snapshot that this one is compared with, of questions that compare
   * @throws StillReading where its devices are not read, or it is not answered, within the patience of whoever asks
   */
  async ask<Q extends TrafficQuestion>(
    snapshot: SnapshotRow,
    question: Q,
    { patience = 1500, before = null }: { patience?: number; before?: SnapshotRow | null } = {},
  ): Promise<AnswerTo<Q>> {
    const [now, then] = await Promise.all([this.#network(snapshot), before && this.#network(before)])
    const key = sha256(JSON.stringify([now.task.network, then?.task.network ?? null, question]))
    let asked = this.#asked.get(key)
    if (!asked) {
      const told = new SharedArrayBuffer(12)
      const cells = new Int32Array(told)
      // One question, until it is known of how many steps it is.
      cells[1] = 1
      const state = {
        of: question.ask === 'expectations' ? 'expectations' : 'places',
        get done() {
          return Atomics.load(cells, 0)
        },
        get total() {
          return Atomics.load(cells, 1)
        },
      }
      const watch = setInterval(() => {
        if (asked && Date.now() - asked.seen > PATIENCE_OF_ALL_MS) Atomics.store(cells, STOP, 1)
      }, 1000)
      const reading: { now: Asked['reading'] } = { now: null }
      const work = this.#answerTo(now, then, question, told, (one) => void (reading.now = one)).finally(() =>
        clearInterval(watch),
      )
      asked = {
        work,
        state,
        cells,
        seen: Date.now(),
        get reading() {
          return reading.now
        },
      }
      this.#asked.set(key, asked)
      for (const old of [...this.#asked.keys()].slice(0, Math.max(0, this.#asked.size - KEPT_ANSWERS)))
        this.#asked.delete(old)
      work.catch(() => this.#asked.delete(key))
    }
    asked.seen = Date.now()
    // A client waits again: the question goes on, if it has not stopped yet.
    Atomics.store(asked.cells, STOP, 0)
    const done = asked.work.then(() => undefined)
    await waitFor(
      {
        work: done,
        get state() {
          return asked.reading ?? asked.state
        },
      },
      patience,
    )
    return (await asked.work) as AnswerTo<Q>
  }

  async #network(snapshot: SnapshotRow): Promise<Held> {
    const devices = await this.services.estate.devices(snapshot)
    const links = (await this.file(snapshot.engagementId, 'links'))?.text ?? null
    const members = devices.map(memberOf)
    return { snapshot, devices, task: { network: networkKey(members, links), members, links } }
  }

  async #answerTo(
    now: Held,
    before: Held | null,
    question: TrafficQuestion,
    told: SharedArrayBuffer,
    reading: (state: Asked['reading']) => void,
  ): Promise<TrafficAnswer> {
    for (let attempt = 0; attempt < 3; attempt++) {
      const answer = await this.#run({ do: 'ask', ...now.task, before: before?.task ?? null, question, told })
      if (answer.is === 'missing') {
        for (const { snapshot, devices } of [now, ...(before ? [before] : [])])
          await this.#read(snapshot, devices, answer.keys, reading)
        reading(null)
      } else if (answer.is === 'refused') throw new Problem(422, answer.reason)
      else if (answer.is === 'stopped') throw new Problem(409, 'The question was cancelled.')
      else if (answer.is !== 'read') return answer
    }
    throw new Error('the network model failed')
  }

  async #run(task: TrafficTask): Promise<TaskAnswer> {
    try {
      return await this.#worker.run(task)
    } catch (error) {
      throw this.#closed ? new Problem(503, 'The server is shutting down.') : error
    }
  }

  async #read(
    snapshot: SnapshotRow,
    devices: readonly EstateDevice[],
    keys: readonly string[],
    told: (state: Asked['reading']) => void,
  ): Promise<void> {
    const mine = new Set(keys)
    const wanted = devices.filter((device) => mine.has(memberOf(device).key))
    if (wanted.length === 0) return
    // Questions that come together read once.
    let reading = this.#readings.get(snapshot.id)
    if (!reading) {
      const state = { done: 0, total: wanted.length }
      reading = {
        state,
        work: this.#readAll(snapshot, wanted, state).finally(() => this.#readings.delete(snapshot.id)),
      }
      this.#readings.set(snapshot.id, reading)
    }
    told(reading.state)
    await reading.work
  }

  async #readAll(
    { engagementId }: SnapshotRow,
    wanted: readonly EstateDevice[],
    state: { done: number },
  ): Promise<void> {
    const maskKey = await this.services.records.maskKeyOf(engagementId)
    for (let from = 0; from < wanted.length && !this.#closed; from += AT_ONCE) {
      const some = wanted.slice(from, from + AT_ONCE)
      const texts = await this.services.records.texts([
        ...new Set(some.flatMap(({ records }) => records.map(({ sha256: hash }) => hash))),
      ])
      await this.#run({
        do: 'read',
        maskKey,
        devices: some.map((device) => ({
          ...memberOf(device),
          dialect: device.dialect,
          records: device.records.map((record) => ({
            id: String(record.id),
            kind: record.kind,
            dialect: record.dialect,
            text: intactText(texts, record),
            takenAt: record.takenAt?.toISOString() ?? null,
          })),
        })),
      })
      state.done += some.length
    }
  }

  /** What is expected of an engagement's traffic. */
  async stated(engagementId: number): Promise<readonly Expectation[]> {
    const file = await this.file(engagementId, 'expectations')
    if (!file) return []
    const known = this.#stated.get(engagementId)
    if (known?.text === file.text) return known.expectations
    const { expectations, wrong } = await this.services.outside.read('stated', {
      kind: 'expectations',
      text: file.text,
    })
    if (wrong !== null) throw new Problem(422, wrong)
    this.#stated.set(engagementId, { text: file.text, expectations })
    return expectations
  }

  /** What is expected of an engagement's traffic, with the answers of a snapshot. */
  async expectations(snapshot: SnapshotRow): Promise<readonly AnsweredExpectation[]> {
    const stated = await this.stated(snapshot.engagementId)
    if (stated.length === 0) return []
    const answers = await this.#answered(snapshot, stated)
    const earlier = await this.services.database
      .getRepository(Snapshots)
      .find({ where: { engagementId: snapshot.engagementId }, order: { takenAt: 'DESC', id: 'DESC' } })
    const before = earlier.slice(earlier.findIndex(({ id }) => id === snapshot.id) + 1).slice(0, MOST_BACK)
    for (const one of before.slice(0, LOOK_BACK)) await this.#outcomes(one, stated)
    const rows =
      before.length === 0
        ? []
        : await this.services.database
            .getRepository(TrafficOutcomes)
            .findBy({ snapshotId: In(before.map(({ id }) => id)) })
    const confirmed = await this.services.database
      .getRepository(TrafficConfirmations)
      .findBy({ engagementId: snapshot.engagementId })
    return stated.map((one, i): AnsweredExpectation => {
      const answer = answers[i] as Answers[number]
      const hash = statedHash(one)
      const outcomeIn = (row: SnapshotRow): TrafficOutcome['outcome'] | null =>
        rows.find(
          ({ snapshotId, expectation, statedHash: of }) =>
            snapshotId === row.id && expectation === one.id && of === hash,
        )?.outcome ?? null
      let since = snapshot
      for (const row of before) {
        if (outcomeIn(row) !== answer.outcome) break
        since = row
      }
      return {
        stated: one,
        answer,
        since: { snapshot: since.id, title: since.title, takenAt: since.takenAt.toISOString() },
        everHeld: answer.outcome === 'met' || before.some((row) => outcomeIn(row) === 'met'),
        confirmedBy:
          confirmed.find(({ expectation, statedHash: of }) => expectation === one.id && of === hash)?.confirmedBy ??
          null,
      }
    })
  }

  /** Somebody says that an expectation is meant, although it never held: from then on its being broken is told. */
  async confirm(engagementId: number, id: string, userId: number): Promise<void> {
    const stated = (await this.stated(engagementId)).find((one) => one.id === id)
    if (!stated) throw notFound('expectation')
    await this.services.database
      .getRepository(TrafficConfirmations)
      .save({
        engagementId,
        expectation: id,
        statedHash: statedHash(stated),
        confirmedBy: userId,
        confirmedAt: new Date(),
      })
  }

  /** Looks up what held in a snapshot; what is not known is asked. */
  async #outcomes(snapshot: SnapshotRow, stated: readonly Expectation[]): Promise<void> {
    const rows = await this.services.database.getRepository(TrafficOutcomes).findBy({ snapshotId: snapshot.id })
    if (
      stated.every((one) =>
        rows.some(({ expectation, statedHash: of }) => expectation === one.id && of === statedHash(one)),
      )
    )
      return
    await this.#answered(snapshot, stated)
  }

  async #answered(snapshot: SnapshotRow, stated: readonly Expectation[]): Promise<Answers> {
    const devices = await this.services.estate.devices(snapshot)
    const key = sha256(
      JSON.stringify([
        this.services.build,
        networkKey(devices.map(memberOf), (await this.file(snapshot.engagementId, 'links'))?.text ?? null),
        stated,
      ]),
    )
    // Snapshots that hold the same have the same answers, each with its own outcomes.
    const place = `${snapshot.id} ${key}`
    let kept = this.#kept.get(place)
    if (!kept) {
      kept = this.#keep(snapshot, stated, key)
      this.#kept.set(place, kept)
      for (const old of [...this.#kept.keys()].slice(0, Math.max(0, this.#kept.size - 4 * LOOK_BACK)))
        this.#kept.delete(old)
      kept.catch(() => this.#kept.delete(place))
    }
    return kept
  }

  /** Answers are there when their outcomes are kept: whoever else waits for them looks those up next. */
  async #keep(snapshot: SnapshotRow, stated: readonly Expectation[], key: string): Promise<Answers> {
    const { answers } = await this.ask(snapshot, { ask: 'expectations', expectations: stated })
    await this.services.database
      .getRepository(TrafficOutcomes)
      .save(
        stated.map((one, i) => ({
          snapshotId: snapshot.id,
          expectation: one.id,
          answerKey: key,
          statedHash: statedHash(one),
          outcome: answers[i]?.outcome ?? 'undecided',
        })),
      )
    return answers
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#worker.close({ force: true })
    await Promise.allSettled([...this.#asked.values()].map(({ work }) => work))
  }
}

function memberOf({ key, name, facts }: EstateDevice): NetworkMember {
  return {
    key: `${name} ${key}`,
    name,
    facts: { labels: facts.labels ?? {}, ...(facts.site === undefined ? {} : { site: facts.site }) },
  }
}

function networkKey(members: readonly NetworkMember[], links: string | null): string {
  return sha256(JSON.stringify([members, links]))
}

function statedHash(stated: Expectation): string {
  return sha256(JSON.stringify(stated))
}

import { Piscina } from 'piscina'
import { BesideFileError, readExpectations, readLinksFile, type Expectation, type ExpectationAnswer } from '@jurybox/core'
import { In } from 'typeorm'
import { Snapshots, type SnapshotRow } from '../db/entities.ts'
import { TrafficFiles, TrafficOutcomes, type TrafficFile, type TrafficOutcome } from '../db/traffic-entities.ts'
import type { EstateDevice } from '../estate/service.ts'
import { waitFor } from '../estate/still-reading.ts'
import { Problem } from '../http/problem.ts'
import type { Services } from '../services.ts'
import { sha256 } from '../vault/vault.ts'
import type { NetworkMember, TrafficAnswer, TrafficQuestion, TrafficTask } from './traffic-worker.ts'

/** Devices whose records are sent at a time. */
const AT_ONCE = 50
/** How many snapshots before are looked at to say since when. */
const LOOK_BACK = 12

type Answers = readonly (ExpectationAnswer & { readonly must: string })[]

/** An expectation with its answer, and since when it has been so. */
export interface AnsweredExpectation {
  readonly stated: Expectation
  readonly answer: ExpectationAnswer & { readonly must: string }
  /** The earliest of the snapshots in a row for which the answer is the same. */
  readonly since: { readonly snapshot: number; readonly title: string; readonly takenAt: string }
  /** Whether it held in this snapshot or in one before. */
  readonly everHeld: boolean
}

/**
 * Answers what is asked of traffic. The network of a snapshot lives in a worker thread; what is read of a device goes there once for
 * its records, and a question is asked again only where something that it rests on is another.
 */
export class TrafficService {
  readonly #worker = new Piscina<TrafficTask, TrafficAnswer>({ filename: new URL('./traffic-worker.ts', import.meta.url).href, execArgv: ['--import', 'tsx'], minThreads: 0, maxThreads: 1, idleTimeout: 30 * 60_000, resourceLimits: { maxOldGenerationSizeMb: 4096 } })
  readonly #answers = new Map<string, Promise<Answers>>()
  readonly #kept = new Map<string, Promise<Answers>>()
  readonly #readings = new Map<string, { readonly work: Promise<void>; readonly state: { done: number; total: number } }>()
  #closed = false

  constructor(readonly services: Services) {}

  async file(engagementId: number, kind: TrafficFile['kind']): Promise<TrafficFile | null> {
    return this.services.database.getRepository(TrafficFiles).findOneBy({ engagementId, kind })
  }

  /** Keeps what is stated. @throws Problem with the place where it is not as it should be */
  async state(engagementId: number, kind: TrafficFile['kind'], text: string, userId: number): Promise<void> {
    try {
      if (kind === 'links') readLinksFile({ path: 'links.yaml', text })
      else readExpectations({ path: 'expectations.yaml', text })
    } catch (error) {
      if (error instanceof BesideFileError) throw new Problem(422, error.message)
      throw error
    }
    await this.services.database.getRepository(TrafficFiles).save({ engagementId, kind, text, setBy: userId, setAt: new Date() })
  }

  /**
   * Puts a question to the network of a snapshot.
   * @throws StillReading where its devices are not read within the patience of whoever asks
   */
  async ask<Q extends TrafficQuestion>(snapshot: SnapshotRow, question: Q, patience = 1500): Promise<Extract<TrafficAnswer, { is: Q['ask'] }>> {
    const devices = await this.services.estate.devices(snapshot)
    const links = (await this.file(snapshot.engagementId, 'links'))?.text ?? null
    const members = devices.map(memberOf)
    const network = networkKey(members, links)
    for (let attempt = 0; attempt < 3; attempt++) {
      const answer = await this.#run({ do: 'ask', network, members, links, question })
      if (answer.is === 'missing') await this.#read(snapshot, devices, answer.keys, patience)
      else if (answer.is === 'refused') throw new Problem(422, answer.reason)
      else return answer as Extract<TrafficAnswer, { is: Q['ask'] }>
    }
    throw new Error('the network does not stay at hand')
  }

  async #run(task: TrafficTask): Promise<TrafficAnswer> {
    try {
      return await this.#worker.run(task)
    } catch (error) {
      throw this.#closed ? new Problem(503, 'The server is being stopped.') : error
    }
  }

  /** Waits for as long as there is patience; the reading goes on. */
  async #read(snapshot: SnapshotRow, devices: readonly EstateDevice[], keys: readonly string[], patience: number): Promise<void> {
    const id = String(snapshot.id)
    let reading = this.#readings.get(id)
    if (!reading) {
      const state = { done: 0, total: keys.length }
      reading = { state, work: this.#readAll(snapshot, devices, new Set(keys), state).finally(() => this.#readings.delete(id)) }
      this.#readings.set(id, reading)
      reading.work.catch((error: unknown) => this.#closed || this.services.log.error({ error: String(error) }, 'reading the network went wrong'))
    }
    await waitFor(reading, patience)
  }

  async #readAll({ engagementId }: SnapshotRow, devices: readonly EstateDevice[], keys: ReadonlySet<string>, state: { done: number }): Promise<void> {
    const maskKey = await this.services.records.maskKeyOf(engagementId)
    const wanted = devices.filter((device) => keys.has(memberOf(device).key))
    for (let from = 0; from < wanted.length && !this.#closed; from += AT_ONCE) {
      const some = wanted.slice(from, from + AT_ONCE)
      const texts = await this.services.records.texts([...new Set(some.flatMap(({ records }) => records.map(({ sha256: hash }) => hash)))])
      await this.#run({ do: 'read', maskKey, devices: some.map((device) => ({ ...memberOf(device), dialect: device.dialect, records: device.records.map(({ id, kind, dialect, sha256: hash, takenAt }) => ({ id: String(id), kind, dialect, text: texts.get(hash) ?? '', takenAt: takenAt?.toISOString() ?? null })) })) })
      state.done += some.length
    }
  }

  /** What is expected of an engagement's traffic, with the answers of a snapshot. */
  async expectations(snapshot: SnapshotRow): Promise<readonly AnsweredExpectation[]> {
    const file = await this.file(snapshot.engagementId, 'expectations')
    if (!file) return []
    const stated = readExpectations({ path: 'expectations.yaml', text: file.text })
    const answers = await this.#answered(snapshot, stated)
    const earlier = await this.services.database.getRepository(Snapshots).find({ where: { engagementId: snapshot.engagementId }, order: { takenAt: 'DESC', id: 'DESC' } })
    const before = earlier.slice(earlier.findIndex(({ id }) => id === snapshot.id) + 1).slice(0, LOOK_BACK)
    for (const one of before) await this.#outcomes(one, stated)
    const rows = before.length === 0 ? [] : await this.services.database.getRepository(TrafficOutcomes).findBy({ snapshotId: In(before.map(({ id }) => id)) })
    return stated.map((one, i): AnsweredExpectation => {
      const answer = answers[i] as ExpectationAnswer & { readonly must: string }
      const hash = statedHash(one)
      const outcomeIn = (row: SnapshotRow): TrafficOutcome['outcome'] | null => rows.find(({ snapshotId, expectation, statedHash: of }) => snapshotId === row.id && expectation === one.id && of === hash)?.outcome ?? null
      let since = snapshot
      for (const row of before) {
        if (outcomeIn(row) !== answer.outcome) break
        since = row
      }
      return { stated: one, answer, since: { snapshot: since.id, title: since.title, takenAt: since.takenAt.toISOString() }, everHeld: answer.outcome === 'holds' || before.some((row) => outcomeIn(row) === 'holds') }
    })
  }

  /** Looks up what held in a snapshot; what is not known is asked. */
  async #outcomes(snapshot: SnapshotRow, stated: readonly Expectation[]): Promise<void> {
    const rows = await this.services.database.getRepository(TrafficOutcomes).findBy({ snapshotId: snapshot.id })
    if (stated.every((one) => rows.some(({ expectation, statedHash: of }) => expectation === one.id && of === statedHash(one)))) return
    await this.#answered(snapshot, stated)
  }

  async #answered(snapshot: SnapshotRow, stated: readonly Expectation[]): Promise<Answers> {
    const devices = await this.services.estate.devices(snapshot)
    const key = sha256(JSON.stringify([this.services.build, networkKey(devices.map(memberOf), (await this.file(snapshot.engagementId, 'links'))?.text ?? null), stated]))
    // Snapshots that hold the same have the same answers, each with its own outcomes.
    const place = `${snapshot.id} ${key}`
    let kept = this.#kept.get(place)
    if (!kept) {
      let known = this.#answers.get(key)
      if (!known) this.#answers.set(key, (known = this.ask(snapshot, { ask: 'expectations', expectations: stated }).then(({ answers }) => answers)))
      kept = this.#keep(snapshot, stated, key, known)
      this.#kept.set(place, kept)
      for (const memory of [this.#answers, this.#kept]) for (const old of [...memory.keys()].slice(0, Math.max(0, memory.size - 4 * LOOK_BACK))) memory.delete(old)
      kept.catch(() => [this.#answers.delete(key), this.#kept.delete(place)])
    }
    return kept
  }

  /** Answers are there when their outcomes are kept: whoever else waits for them looks those up next. */
  async #keep(snapshot: SnapshotRow, stated: readonly Expectation[], key: string, known: Promise<Answers>): Promise<Answers> {
    const answers = await known
    await this.services.database.getRepository(TrafficOutcomes).save(stated.map((one, i) => ({ snapshotId: snapshot.id, expectation: one.id, answerKey: key, statedHash: statedHash(one), outcome: answers[i]?.outcome ?? 'undecided' })))
    return answers
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#worker.close({ force: true })
    await Promise.allSettled([...this.#readings.values()].map(({ work }) => work))
  }
}

function memberOf({ key, name, facts }: EstateDevice): NetworkMember {
  return { key: `${name} ${key}`, name, facts: { labels: facts.labels ?? {}, ...(facts.site === undefined ? {} : { site: facts.site }) } }
}

function networkKey(members: readonly NetworkMember[], links: string | null): string {
  return sha256(JSON.stringify([members, links]))
}

function statedHash(stated: Expectation): string {
  return sha256(JSON.stringify(stated))
}

import { TookTooLong, openPool } from '../jobs/pool.ts'
import { In } from 'typeorm'
import { isPartOfModel, judgedOf } from '@jurybox/core/analysis'
import {
  approvalOf,
  filterNames,
  identityOf,
  membersOf,
  readsModel,
  sitesAround,
  type Approval,
  type ApprovalAnswer,
  type ApprovalException,
  type DeviceDigest,
  type ModelName,
  type ReadDevice,
  type FilteredDevice,
  type GroupMembers,
  type RunningDevice,
} from '@jurybox/core/estate'
import { QuestionError, readQuestion, type FoundKind, type FoundPart, type ViewedDevice } from '@jurybox/core/query'
import { MODEL_ROOTS, type DeviceContext } from '@jurybox/core/rules'
import { byDevice } from '../audits/judging.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { Approvals } from '../approvals/entity.ts'
import { Devices, Digests, Sites } from './entity.ts'
import { Engagements } from '../engagements/entity.ts'
import { Groups, type SavedGroup } from '../groups/entity.ts'
import { Problem } from '../http/problem.ts'
import type { AnalysisPool } from '../analysis/pool.ts'
import type { DataSource } from 'typeorm'
import type { Logger } from 'pino'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { Vault } from '../vault/vault.ts'
import type { HeldRecord } from '../snapshots/service.ts'
import { intactText } from '../snapshots/damage.ts'
import { sha256 } from '../vault/vault.ts'
import type { AnalysisTask } from '../analysis/analyses.ts'
import { inOrder, numbered } from '../analysis/task-records.ts'
import type { FilterAnswer, FilterTask } from './digest-task.ts'
import { StillReading, waitFor } from './still-reading.ts'
import type { IndexAnswer, IndexQuestion, IndexTask, Softwares } from './index-worker.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly analyses: AnalysisPool
  readonly build: string
  readonly database: DataSource
  readonly log: Logger
  readonly records: RecordStore
  readonly snapshots: SnapshotService
  readonly vault: Vault
}

/** A device of an estate as of a snapshot, with all that is said of it. */
export interface EstateDevice {
  readonly id: number
  readonly name: string
  readonly dialect: string
  readonly facts: DeviceContext & { readonly managementAddress?: string }
  readonly config: HeldRecord
  /** All that it brought, also what belongs to no digest. */
  readonly all: readonly HeldRecord[]
  /** In the order in which its digest numbers them. */
  readonly records: readonly HeldRecord[]
  /** What the index holds it by: as it was read, with the names of models. */
  readonly key: string
  /** What it was read from. */
  readonly digestKey: string
  /** Since when its configuration is as it is, as far as records tell. */
  readonly changedAt: Date | null
  /** Why it was not collected with this snapshot; null where it was, or nobody tried. */
  readonly down: string | null
}

/** An estate as of a snapshot, and in what words it is known to the index. */
interface View {
  readonly id: string
  readonly snapshot: SnapshotRow
  readonly modelNames: readonly ModelName[]
  readonly devices: readonly EstateDevice[]
}

/** A filter that takes longer for one device is ended. */
const FILTER_MS = 10_000
const TOO_SLOW = 'the filter takes longer than 10 s'
/** Devices that are read, or brought to the index, at a time. */
const AT_ONCE = 50
/** Views that are kept ready. */
const VIEWS = 8
/** Answers of filters that read the model. */
const FILTERED = 200_000
const DAY_MS = 86_400_000

/**
 * Answers what is asked across an estate. Each device is read once for its records and remembered under them; an index
 * in a worker thread holds what was read, so that a question reads nothing again.
 */
export class EstateService {
  readonly #index = openPool<IndexTask, IndexAnswer>(new URL('./index-worker.ts', import.meta.url), {
    threads: 1,
    idleSeconds: 1800,
    memoryMb: 4096,
  })
  readonly #views = new Map<string, Promise<View>>()
  /** Raised whenever people say something else of an engagement's devices. */
  readonly #turns = new Map<number, number>()
  readonly #readings = new Map<
    string,
    { readonly work: Promise<void>; readonly state: { done: number; total: number } }
  >()
  readonly #filtered = new Map<string, FilterAnswer>()
  #closed = false

  constructor(readonly services: Needs) {}

  /** To be called whenever facts, labels, sites, groups, approved versions or snapshots have changed. */
  changed(engagementId: number): void {
    this.#turns.set(engagementId, (this.#turns.get(engagementId) ?? 0) + 1)
    for (const key of this.#views.keys()) if (key.startsWith(`${engagementId} `)) this.#views.delete(key)
  }

  async #view(snapshot: SnapshotRow): Promise<View> {
    const id = `${snapshot.engagementId} ${snapshot.id} ${this.#turns.get(snapshot.engagementId) ?? 0}`
    const known = this.#views.get(id)
    if (known) return known
    const made = this.#viewOf(id, snapshot)
    this.#views.set(id, made)
    for (const old of [...this.#views.keys()].slice(0, Math.max(0, this.#views.size - VIEWS))) this.#views.delete(old)
    made.catch(() => this.#views.delete(id))
    return made
  }

  /** The devices of a snapshot, by name. */
  async devices(snapshot: SnapshotRow): Promise<readonly EstateDevice[]> {
    return (await this.#view(snapshot)).devices
  }

  async #viewOf(id: string, snapshot: SnapshotRow): Promise<View> {
    const { database, snapshots, records, build } = this.services
    const { engagementId } = snapshot
    const { modelNames } = await database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
    const names = modelNames.length === 0 ? '' : ` ${sha256(JSON.stringify(modelNames))}`
    const held = byDevice(await snapshots.held(snapshot))
    const rows = held.size === 0 ? [] : await database.getRepository(Devices).findBy({ id: In([...held.keys()]) })
    const maskKey = sha256(await records.maskKeyOf(engagementId))
    const since = await this.#changedAt(snapshot.id)
    const down = new Map(
      snapshot.refused.flatMap((refusal) =>
        stepOf(refusal) === null ? [] : [[refusal.path, refusal.reason] as const],
      ),
    )
    const devices = rows.flatMap((row): EstateDevice[] => {
      const own = held.get(row.id) ?? []
      const config = judgedOf(own)
      if (!config) return []
      const told = inOrder(own.filter(({ kind }) => isPartOfModel(kind, config.dialect) || kind.startsWith('state/')))
      const digestKey = sha256(
        JSON.stringify([
          build,
          config.dialect,
          told.map(({ kind, sha256: hash, dialect }) => [kind, hash, dialect]),
          maskKey,
        ]),
      )
      return [
        {
          id: row.id,
          name: row.name,
          dialect: config.dialect,
          facts: { labels: {}, ...row.facts },
          config,
          all: own,
          records: told,
          key: `${digestKey}${names}`,
          digestKey,
          changedAt: since.get(row.id) ?? null,
          down: down.get(row.name) ?? null,
        },
      ]
    })
    return { id, snapshot, modelNames, devices: devices.sort((a, b) => (a.name < b.name ? -1 : 1)) }
  }

  /** By device: the oldest record from which on its configuration has been the same. */
  async #changedAt(snapshotId: number): Promise<Map<number, Date>> {
    const rows: { device_id: number; since: Date }[] = await this.services.database.query(
      `SELECT now.device_id, MIN(r.taken_at) AS since
         FROM snapshot_records s JOIN records now ON now.id = s.record_id AND now.kind = 'config'
         JOIN records r ON r.device_id = now.device_id AND r.kind = now.kind AND r.settled = now.settled
          AND r.taken_at <= now.taken_at
        WHERE s.snapshot_id = ? AND NOT EXISTS (
          SELECT 1 FROM records o
           WHERE o.device_id = now.device_id AND o.kind = now.kind AND o.settled <> now.settled
             AND o.taken_at > r.taken_at AND o.taken_at <= now.taken_at)
        GROUP BY now.device_id`,
      [snapshotId],
    )
    return new Map(rows.map(({ device_id, since }) => [device_id, new Date(since)]))
  }

  /**
   * Puts a question to the estate as of a snapshot.
   * @param patience milliseconds until whoever asks is told how far the reading is
   * @throws StillReading where it takes longer
   */
  async ask<Q extends IndexQuestion>(
    snapshot: SnapshotRow,
    question: Q,
    patience = 1500,
  ): Promise<Extract<IndexAnswer, { is: Q['ask'] extends 'find' ? 'found' : Q['ask'] }>> {
    const view = await this.#view(snapshot)
    const { engagementId } = snapshot
    for (let attempt = 0; attempt < 4; attempt++) {
      const answer = await this.#hand({ do: 'ask', engagement: engagementId, view: view.id, question })
      if (answer.is === 'unseen')
        await this.#hand({ do: 'see', engagement: engagementId, view: view.id, devices: await this.#indexed(view) })
      else if (answer.is === 'missing') await this.#read(view, answer.keys, patience)
      else if (answer.is === 'refused') throw new Problem(422, answer.reason)
      else return answer as Extract<IndexAnswer, { is: Q['ask'] extends 'find' ? 'found' : Q['ask'] }>
    }
    throw new Error('the estate index failed')
  }

  async #hand(task: IndexTask): Promise<IndexAnswer> {
    return this.#orStopped(this.#index.run(task))
  }

  /** @throws Problem where the server is being stopped */
  async #orStopped<T>(work: Promise<T>): Promise<T> {
    try {
      return await work
    } catch (error) {
      throw this.#closed ? new Problem(503, 'The server is shutting down.') : error
    }
  }

  async #indexed({ devices, snapshot }: View): Promise<ViewedDevice[]> {
    const known = await this.#known(snapshot.engagementId)
    return devices.map(({ name, key, dialect, facts }) => ({
      name,
      key,
      dialect,
      facts: { ...facts, sites: this.#sitesOf(facts.site, known) },
    }))
  }

  /** Waits for as long as there is patience; the reading goes on. */
  async #read(view: View, keys: readonly string[], patience: number): Promise<void> {
    let reading = this.#readings.get(view.id)
    if (!reading) {
      const state = { done: 0, total: keys.length }
      reading = { state, work: this.#readAll(view, keys, state).finally(() => this.#readings.delete(view.id)) }
      this.#readings.set(view.id, reading)
      reading.work.catch(
        (error: unknown) =>
          this.#closed || this.services.log.error({ error: String(error) }, 'parsing the estate failed'),
      )
    }
    await waitFor(reading, patience)
  }

  async #readAll(
    { snapshot, devices, modelNames }: View,
    keys: readonly string[],
    state: { done: number },
  ): Promise<void> {
    const wanted = new Set(keys)
    const byKey = new Map(devices.filter(({ key }) => wanted.has(key)).map((device) => [device.key, device]))
    const maskKey = await this.services.records.maskKeyOf(snapshot.engagementId)
    const { vault, database } = this.services
    const all = [...byKey.values()]
    for (let from = 0; from < all.length && !this.#closed; from += AT_ONCE) {
      const some = all.slice(from, from + AT_ONCE)
      const stored = new Map(
        (await database.getRepository(Digests).findBy({ digestKey: In(some.map(({ digestKey }) => digestKey)) })).map(
          ({ digestKey, body }) => [digestKey, vault.unseal(body, digestKey)] as const,
        ),
      )
      const entries = await Promise.all(
        some.map(
          async (device) =>
            [device.key, stored.get(device.digestKey) ?? (await this.#digested(device, maskKey))] as const,
        ),
      )
      await this.#hand({
        do: 'hold',
        engagement: snapshot.engagementId,
        modelNames,
        entries: entries.map(([key, body]) => [key, body.length > 0 ? body : UNREADABLE]),
      })
      state.done += some.length
    }
  }

  async #digested({ digestKey, dialect, config, records }: EstateDevice, maskKey: Buffer): Promise<Uint8Array> {
    const task = await this.#taskOf(dialect, records, maskKey)
    const body = task
      ? await this.#orStopped(this.services.analyses.run('digestTask', config.sha256, task))
      : new Uint8Array()
    const { vault, database } = this.services
    if (body.length > 0)
      await database.query('INSERT IGNORE INTO digests (digest_key, sha256, body) VALUES (?, ?, ?)', [
        digestKey,
        config.sha256,
        vault.seal(body, digestKey),
      ])
    return body
  }

  /** Null where a record of it is damaged: of such a device nothing is known. */
  async #taskOf(dialect: string, records: readonly HeldRecord[], maskKey: Buffer): Promise<AnalysisTask | null> {
    const texts = await this.services.records.texts(records.map(({ sha256: hash }) => hash))
    if (!records.every(({ sha256: hash }) => texts.has(hash))) return null
    return { dialect, maskKey, records: numbered(records, (record) => intactText(texts, record)) }
  }

  /** Records that were just fetched, read as a device of the estate would be; null where they cannot be. */
  async digested(
    dialect: string,
    records: readonly { readonly kind: string; readonly text: string }[],
    maskKey: Buffer,
  ): Promise<DeviceDigest | null> {
    // In a snapshot the rules of a gateway are its configuration.
    const task: AnalysisTask = {
      dialect,
      maskKey,
      records: records.map(({ kind, text }, i) => ({
        id: String(i),
        kind: kind === 'filters' ? 'config' : kind,
        dialect: /^(?:config|filters)/.test(kind) ? dialect : 'none',
        text,
        takenAt: null,
      })),
    }
    const body = await this.#orStopped(this.services.analyses.run('digestTask', sha256(JSON.stringify(records)), task))
    return body.length === 0 ? null : (JSON.parse(new TextDecoder().decode(body)) as ReadDevice).digest
  }

  /** What is found for a text; the places are records of the snapshot. @throws Problem where the text is no question */
  async find(
    snapshot: SnapshotRow,
    text: string,
    limit: number,
    kinds: readonly FoundKind[] | null = null,
  ): Promise<readonly FoundPart[]> {
    try {
      readQuestion(text)
    } catch (error) {
      if (error instanceof QuestionError) throw new Problem(422, error.message)
      throw error
    }
    return (await this.ask(snapshot, { ask: 'find', text, limit, kinds })).parts
  }

  /** The record that a digest numbers. */
  recordOf({ records }: EstateDevice, place: string): number | null {
    return records[Number(place)]?.id ?? null
  }

  /** What devices are and run, by name. */
  async running(
    snapshot: SnapshotRow,
  ): Promise<Map<string, RunningDevice & { readonly os: string; readonly serial: string | null }>> {
    const { by } = await this.ask(snapshot, { ask: 'software' })
    return new Map(
      (await this.devices(snapshot)).map((device) => [
        device.name,
        { name: device.name, labels: device.facts.labels, ...runningOf(device, by) },
      ]),
    )
  }

  /** Whether each device runs an approved version, by name. */
  async approvals(
    snapshot: SnapshotRow,
    today = new Date().toISOString().slice(0, 10),
  ): Promise<Map<string, ApprovalAnswer>> {
    const rows = await this.services.database.getRepository(Approvals).findBy({ engagementId: snapshot.engagementId })
    // Where nobody approved anything, nothing has to be read to say so.
    if (rows.length === 0) return new Map()
    const lists = rows.filter(({ kind }) => kind === 'version').map(({ body }) => body as Approval)
    const exceptions = rows.filter(({ kind }) => kind === 'exception').map(({ body }) => body as ApprovalException)
    return new Map(
      [...(await this.running(snapshot))].map(([name, device]) => [name, approvalOf(device, lists, exceptions, today)]),
    )
  }

  /** Members of saved groups, by the title of each. */
  async members(
    snapshot: SnapshotRow,
    groups: readonly Pick<SavedGroup, 'title' | 'kind' | 'text'>[],
  ): Promise<Map<string, GroupMembers>> {
    const members = new Map<string, GroupMembers>()
    for (const { title, kind, text } of groups)
      members.set(
        title,
        kind === 'search' ? await this.#foundBy(snapshot, text) : await this.#filteredBy(snapshot, text),
      )
    return members
  }

  async #foundBy(snapshot: SnapshotRow, text: string): Promise<GroupMembers> {
    const parts = await this.find(snapshot, text, 0)
    return { inside: [...new Set(parts.flatMap(({ devices }) => devices))].sort(), undecided: [] }
  }

  async #filteredBy(snapshot: SnapshotRow, filter: string): Promise<GroupMembers> {
    const known = await this.#known(snapshot.engagementId)
    const devices = (await this.devices(snapshot)).map((device) => ({
      device,
      asked: this.#asked(device, known, snapshot),
    }))
    if (!readsModel(filter, [...MODEL_ROOTS, 'state']))
      return membersOf(
        filter,
        devices.map(({ asked }) => asked),
      )
    const maskKey = await this.services.records.maskKeyOf(snapshot.engagementId)
    const inside: string[] = []
    const undecided: { device: string; why: string }[] = []
    for (let from = 0; from < devices.length; from += AT_ONCE) {
      const some = devices.slice(from, from + AT_ONCE)
      // What one device shows to take for ever is not put to the others.
      if (undecided.some(({ why }) => why === TOO_SLOW)) {
        undecided.push(...some.map(({ device: { name } }) => ({ device: name, why: TOO_SLOW })))
        continue
      }
      const answers = await Promise.all(
        some.map(async ({ device, asked }) => this.#answerOf(device, filter, filterNames(asked), maskKey)),
      )
      some.forEach(({ device: { name } }, i) => {
        const answer = answers[i]
        if (answer?.inside === true) inside.push(name)
        else if (answer?.inside === 'unknown') undecided.push({ device: name, why: answer.why ?? '' })
      })
    }
    return { inside, undecided }
  }

  async #answerOf(
    device: EstateDevice,
    filter: string,
    names: Record<string, unknown>,
    maskKey: Buffer,
  ): Promise<FilterAnswer> {
    const key = sha256(JSON.stringify([filter, device.key, names]))
    const known = this.#filtered.get(key)
    if (known) return known
    const read = await this.#taskOf(device.dialect, device.records, maskKey)
    if (!read) return { inside: 'unknown', why: 'a record of it is damaged' }
    const answer = await this.#endedInTime(device.config.sha256, { ...read, filters: [filter], names })
    if (this.#filtered.size >= FILTERED) this.#filtered.clear()
    this.#filtered.set(key, answer)
    return answer
  }

  /** Filters are written by people: one that does not come to an end is ended, with its worker. */
  async #endedInTime(key: string, task: FilterTask): Promise<FilterAnswer> {
    try {
      const how = { limitMs: FILTER_MS }
      const [answer] = await this.#orStopped(this.services.analyses.run('filterTask', key, task, how))
      return answer ?? { inside: 'unknown', why: 'it was not asked' }
    } catch (error) {
      if (!(error instanceof TookTooLong)) throw error
      return { inside: 'unknown', why: TOO_SLOW }
    }
  }

  #asked(
    { name, dialect, facts, config, changedAt }: EstateDevice,
    known: ReadonlyMap<string, string | null>,
    snapshot: SnapshotRow,
  ): FilteredDevice {
    // As of the snapshot, not of the moment: the same snapshot gives the same group.
    const changedDays =
      changedAt === null ? null : Math.max(0, Math.floor((snapshot.takenAt.getTime() - changedAt.getTime()) / DAY_MS))
    return {
      name,
      dialect,
      facts,
      sites: this.#sitesOf(facts.site, known),
      takenAt: config.takenAt?.toISOString() ?? null,
      changedAt: changedAt?.toISOString() ?? null,
      changedDays,
    }
  }

  /**
   * What the estate says of devices, for the rules that ask for it: groups, sites around them, whether their software
   * is approved.
   */
  async contexts(snapshot: SnapshotRow): Promise<Map<string, Pick<DeviceContext, 'groups' | 'sites' | 'approved'>>> {
    const groups = await this.services.database
      .getRepository(Groups)
      .find({ where: { engagementId: snapshot.engagementId }, order: { title: 'ASC' } })
    const members = await this.patiently(() => this.members(snapshot, groups))
    const approvals = await this.patiently(() => this.approvals(snapshot))
    const known = await this.#known(snapshot.engagementId)
    return new Map(
      (await this.devices(snapshot)).map(({ name, facts }) => {
        const own = [...members].flatMap(([title, { inside }]) => (inside.includes(name) ? [title] : []))
        return [
          name,
          {
            groups: [...new Set([...(facts.groups ?? []), ...own])].sort(),
            sites: this.#sitesOf(facts.site, known),
            approved: approvals.get(name)?.standing ?? 'none',
          },
        ]
      }),
    )
  }

  /** For background work: waits until the estate is read. */
  async patiently<T>(work: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await work()
      } catch (error) {
        if (!(error instanceof StillReading) || this.#closed) throw error
      }
    }
  }

  /** Sites by name, with the site around each. */
  async #known(engagementId: number): Promise<Map<string, string | null>> {
    return new Map(
      (await this.services.database.getRepository(Sites).findBy({ engagementId })).map(({ name, around }) => [
        name,
        around,
      ]),
    )
  }

  #sitesOf(site: string | undefined, known: ReadonlyMap<string, string | null>): string[] {
    return site === undefined ? [] : sitesAround(site, known)
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#index.close({ force: true })
    await Promise.allSettled([...this.#readings.values()].map(({ work }) => work))
  }
}

/** SourceLocation for a device of which nothing can be read: it is not asked for again. */
const UNREADABLE = new TextEncoder().encode(
  JSON.stringify({
    digest: {
      hostname: null,
      dialect: '',
      software: { version: null, model: null, serial: null, uptime: null, at: null },
      interfaces: [],
      vlans: [],
      redundancy: [],
      neighbours: [],
      sawNeighbours: false,
      users: [],
      lists: [],
    },
    record: '0',
    lines: [],
    blocks: [],
  }),
)

function runningOf(
  { key, facts, dialect }: EstateDevice,
  by: Softwares,
): Omit<RunningDevice, 'name' | 'labels'> & { os: string; serial: string | null } {
  const software = by[key] ?? { version: null, model: null, serial: null, uptime: null, at: null }
  return identityOf({ software, dialect }, facts)
}

/** Where collecting a device stopped; of snapshots before steps were kept, as their reason names it. */
function stepOf({ step, reason }: { readonly step?: string; readonly reason: string }): string | null {
  return step ?? /^not collected \((\w+)\)/.exec(reason)?.[1] ?? null
}

import {
  ACTIVITY,
  ANSWER_FOLDER,
  BEFORE_FOLDER,
  COUNTERSIGNATURES,
  LOG_HEADS,
  MANIFEST,
  SNAPSHOT_FOLDER,
  TIME_REQUEST,
  TIME_RESPONSE,
  countersigned,
  packFiles,
  readPack,
  signPack,
  writePack,
  type Manifest,
  type PackFiles,
  type PackedFacts,
  type PackedRecords,
} from '@jurybox/core/evidence'
import { prepare, type Choice } from '@jurybox/core/benchmarks'
import type { Logger } from 'pino'
import { In, type DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import { Activities } from '../activity/entity.ts'
import type { AnalysisPool } from '../analysis/pool.ts'
import type { ArchiveService } from '../archive/service.ts'
import { answersIn } from '../attestations/answers.ts'
import type { Audit } from '../audits/entity.ts'
import type { AuditService } from '../audits/service.ts'
import { Users, type User } from '../auth/entity.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import { Engagements } from '../engagements/entity.ts'
import { Devices } from '../estate/entity.ts'
import type { EstateService } from '../estate/service.ts'
import { Problem, notFound } from '../http/problem.ts'
import type { JobBoard } from '../jobs/board.ts'
import type { Job } from '../jobs/entity.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { TrafficService } from '../traffic/service.ts'
import { sha256, type Vault } from '../vault/vault.ts'
import type { WaiverService } from '../waivers/service.ts'
import { windowDocument } from '../windows/document.ts'
import { ChangeWindows } from '../windows/entity.ts'
import type { WindowService } from '../windows/service.ts'
import { EvidencePacks, type EvidencePack } from './entity.ts'
import { SigningKeyRing } from './keys.ts'
import { LogHeadService } from './log-heads.ts'
import { TimeStamps, manifestOf } from './time-stamps.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly analyses: AnalysisPool
  readonly archive: ArchiveService
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly database: DataSource
  readonly estate: EstateService
  readonly jobs: JobBoard
  readonly log: Logger
  readonly records: RecordStore
  readonly snapshots: SnapshotService
  readonly traffic: TrafficService
  readonly vault: Vault
  readonly waivers: WaiverService
  readonly windows: WindowService
}

const STEPS = 4
/** Deeds that verdicts rest on. What concerns accounts, credentials and devices in service stays in the audit log. */
const EVIDENTIAL = [
  'answer reviewed',
  'approval exception added',
  'approval exception deleted',
  'attested',
  'audit finished',
  'audit log head was missing',
  'benchmark fitted',
  'benchmark published',
  'carried-over device removed',
  'change file saved',
  'collected',
  'dialect set',
  'evidence countersigned',
  'evidence packed',
  'evidence time stamped',
  'evidence uploaded',
  'expectation confirmed',
  'expectations stated',
  'label set',
  'labels set from facts',
  'links stated',
  'outside interfaces declared',
  'snapshot deleted',
  'snapshot deleted by retention',
  'snapshot frozen',
  'states approved',
  'version approval deleted',
  'version approved',
  'waived',
  'waiver withdrawn',
]
const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text)
const json = (value: unknown): Uint8Array => bytesOf(`${JSON.stringify(value, null, 1)}\n`)

/** Packs of evidence: everything that the verdicts of an audit rest on, signed with the key of the engagement. */
export class EvidenceService {
  readonly keys: SigningKeyRing
  readonly stamps: TimeStamps
  readonly logHeads: LogHeadService
  readonly #running = new Set<Promise<void>>()
  readonly #turns = new Map<number, Promise<void>>()

  constructor(readonly services: Needs) {
    this.stamps = new TimeStamps(services)
    this.keys = new SigningKeyRing(services.database, services.vault)
    this.logHeads = new LogHeadService(services, this.keys)
  }

  open(): void {
    this.logHeads.open()
  }

  async list(engagementId: number): Promise<EvidencePack[]> {
    return this.#rows.find({ where: { engagementId }, order: { id: 'DESC' } })
  }

  /** @throws Problem where the engagement has no such pack */
  async find(id: number, engagementId: number): Promise<EvidencePack> {
    const pack = await this.#rows.findOneBy({ id, engagementId })
    if (!pack) throw notFound('evidence pack')
    return pack
  }

  /** Begins to make a pack of an audit, and returns the job at once. */
  async start(audit: Audit, masked: boolean, user: User): Promise<Job> {
    const { job, signal } = await this.services.jobs.open({
      engagementId: audit.engagementId,
      kind: 'evidence',
      total: STEPS,
      createdBy: user.id,
      message: `Packing the evidence of audit ${audit.id}`,
      params: { auditId: audit.id, masked },
    })
    const work = this.#inTurn(audit.engagementId, async () => this.#run(job, signal, audit, masked, user))
    this.#running.add(work)
    void work.finally(() => this.#running.delete(work))
    return job
  }

  /** One pack of an engagement after the other: each follows the one before it. */
  async #inTurn(engagementId: number, work: () => Promise<void>): Promise<void> {
    const mine = (this.#turns.get(engagementId) ?? Promise.resolve()).then(work, work)
    this.#turns.set(engagementId, mine)
    return mine
  }

  async #run(job: Job, signal: AbortSignal, audit: Audit, masked: boolean, user: User): Promise<void> {
    const { jobs, activity } = this.services
    try {
      const step = async (done: number): Promise<void> => {
        signal.throwIfAborted()
        await jobs.progress(job, done)
      }
      const pack = await this.#make(audit, masked, user, step, signal)
      if (!jobs.mayBeSaved(job)) return await jobs.finish(job, 'stopped', 'Stopped. No pack was made.')
      const saved = await this.#keep(pack, audit, user)
      await activity.add({
        userId: user.id,
        engagementId: audit.engagementId,
        action: 'evidence packed',
        detail: { audit: audit.id, pack: saved.id, masked, root: saved.root },
      })
      Object.assign(job, { done: STEPS, params: { ...job.params, packId: saved.id } })
      await jobs.finish(job, 'done', `${saved.files} files, signed.`)
    } catch (error) {
      await jobs.fail(job, signal, error, { what: 'The evidence pack', kept: 'No pack was made.' })
    }
  }

  async #make(
    audit: Audit,
    masked: boolean,
    user: User,
    step: (done: number) => Promise<void>,
    signal: AbortSignal,
  ): Promise<{ manifest: Manifest; bytes: Uint8Array }> {
    const { activity, analyses, database, snapshots } = this.services
    const snapshot = await snapshots.find(audit.snapshotId, audit.engagementId)
    const engagement = await database.getRepository(Engagements).findOneByOrFail({ id: audit.engagementId })
    const signer = await this.keys.signer({ engagementId: audit.engagementId })
    const publicKey = new Uint8Array(Buffer.from(signer.publicKey, 'base64'))
    const madeAt = new Date().toISOString()
    await this.logHeads.sign(audit.engagementId)
    const evidence = await this.#evidenceOf(audit, snapshot, masked)
    await step(1)
    const files = packFiles(evidence.content, evidence.files, publicKey)
    const about = {
      audit: { id: String(audit.id), build: audit.build, judgedAt: audit.createdAt.toISOString() },
      madeAt,
    }
    await step(2)
    const notReproduced = await analyses.run(
      'reproduceTask',
      `evidence ${audit.id}`,
      { files, real: evidence.real, about },
      { signal },
    )
    await step(3)
    const [last] = await this.#rows.find({
      where: { engagementId: audit.engagementId },
      order: { id: 'DESC' },
      take: 1,
    })
    const head = activity.anchor.isThere ? activity.anchor.readOrNull() : null
    const signed = signPack(
      files,
      {
        ...about,
        engagement: { id: String(engagement.id), title: engagement.title, client: engagement.client },
        snapshot: { title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
        madeBy: user.fullName,
        masked,
        key: { algorithm: 'Ed25519', public: signer.publicKey },
        previous: last ? { root: last.root, madeAt: last.madeAt.toISOString() } : null,
        auditLog: head && { entry: head.id, hash: head.hash },
        notReproduced,
      },
      signer.sign,
    )
    const manifest = JSON.parse(new TextDecoder().decode(signed.get(MANIFEST))) as Manifest
    return { manifest, bytes: writePack(signed) }
  }

  async #keep(
    { manifest, bytes }: { manifest: Manifest; bytes: Uint8Array },
    audit: Audit,
    user: User,
  ): Promise<EvidencePack> {
    const hash = sha256(bytes)
    return this.services.database.transaction(async (manager) => {
      await this.services.records.keep(manager, new Map([[hash, bytes]]))
      return manager.save(
        EvidencePacks,
        manager.create(EvidencePacks, {
          engagementId: audit.engagementId,
          auditId: audit.id,
          snapshotId: audit.snapshotId,
          masked: manifest.masked,
          root: manifest.root,
          files: manifest.files,
          size: bytes.length,
          notReproduced: manifest.notReproduced.length,
          sha256: hash,
          countersignatures: [],
          timeRequest: null,
          timeAnswer: null,
          madeBy: user.id,
          madeByName: user.fullName,
          madeAt: new Date(manifest.madeAt),
        }),
      )
    })
  }

  /** Everything that an audit rests on. */
  async #evidenceOf(
    audit: Audit,
    snapshot: SnapshotRow,
    masked: boolean,
  ): Promise<{
    content: Parameters<typeof packFiles>[0]
    files: PackFiles
    /** Records with their secrets, where the pack has them masked. */
    real: PackFiles | null
  }> {
    const { audits, benchmarks, database, records, snapshots, traffic, waivers } = this.services
    const document = await audits.document(audit)
    const chosen = await Promise.all(audit.choices.map((choice) => benchmarks.chosen(choice)))
    const before = needsBefore(chosen) ? await snapshots.before(snapshot) : null
    const shown = await this.#folders(snapshot, before, masked ? 'masked' : 'real')
    const answers = (await answersIn(database, audit.engagementId)).filter(({ benchmark }) =>
      chosen.some(({ benchmark: { source } }) => source.id === benchmark),
    )
    const stated = await Promise.all(
      (['links', 'expectations'] as const).map(
        async (kind) => [kind, await traffic.file(audit.engagementId, kind)] as const,
      ),
    )
    const given = new Set(answers.flatMap(({ files }) => files.map((file) => file.sha256)))
    const packed = await Promise.all(
      audit.choices.map(async (choice, i) => {
        const { profile, values, overrides, tailoring, only } = chosen[i] as Required<Choice>
        return {
          choice: {
            file: `benchmarks/${choice.benchmark}.yaml`,
            profile,
            values: values as Record<string, string | number | string[]>,
            overrides: [...overrides],
            tailoring: [...tailoring],
            only: only === null ? null : [...only],
          },
          text: await benchmarks.textOf(choice.hash),
        }
      }),
    )
    return {
      content: {
        document,
        choices: packed.map(({ choice }) => choice),
        facts: await this.#factsOf(snapshot),
        records: shown.records,
        waivers: await waivers.standing(audit.engagementId),
        answers,
      },
      files: new Map<string, Uint8Array>([
        ...shown.files,
        ...packed.map(({ choice, text }) => [choice.file, bytesOf(text)] as const),
        ...stated.flatMap(([kind, file]) =>
          file ? [[`${SNAPSHOT_FOLDER}${kind}.yaml`, bytesOf(file.text)] as const] : [],
        ),
        ...(await Promise.all(
          [...given].map(async (hash) => [`${ANSWER_FOLDER}${hash}`, await records.bytes(hash)] as const),
        )),
        [ACTIVITY, json(await this.#activityOf(audit.engagementId))],
        [LOG_HEADS, json(await this.logHeads.of(audit.engagementId))],
        ['windows.json', json(await this.#windowsOf(audit.engagementId))],
        ...(await this.#windowResults(snapshot)),
      ]),
      real: masked ? (await this.#folders(snapshot, before, 'real')).files : null,
    }
  }

  /** The records of a snapshot, and of the one before where a rule compares with it. */
  async #folders(
    snapshot: SnapshotRow,
    before: SnapshotRow | null,
    secrets: 'real' | 'masked',
  ): Promise<{ readonly files: Map<string, Uint8Array>; readonly records: PackedRecords }> {
    const { archive, records, snapshots } = this.services
    const fingerprint = await records.fingerprints(snapshot.engagementId)
    const all = new Map<string, Uint8Array>()
    const told: PackedRecords = []
    for (const [folder, one] of [
      [SNAPSHOT_FOLDER, snapshot] as const,
      ...(before ? [[BEFORE_FOLDER, before] as const] : []),
    ]) {
      const { files, paths } = await archive.folderOf(one, secrets)
      for (const [path, bytes] of files) all.set(`${folder}${path}`, bytes)
      for (const record of await snapshots.held(one))
        told.push({
          id: String(record.id),
          device: record.device,
          kind: record.kind,
          file: `${folder}${paths.get(record.id) ?? ''}`,
          takenAt: record.takenAt?.toISOString() ?? null,
          timeSource: record.timeSource,
          fingerprint: fingerprint(record.sha256),
        })
    }
    return { files: all, records: told }
  }

  async #factsOf(snapshot: SnapshotRow): Promise<PackedFacts> {
    const said = await this.services.estate.contexts(snapshot)
    const devices = await this.services.database.getRepository(Devices).findBy({ engagementId: snapshot.engagementId })
    return Object.fromEntries(
      devices.flatMap(({ name, facts }) => {
        const own = said.get(name)
        return own ? [[name, { labels: {}, ...facts, ...own } as PackedFacts[string]]] : []
      }),
    )
  }

  /** Entries of the audit log as they are chained: each can be hashed again. */
  async #activityOf(engagementId: number): Promise<object[]> {
    const { database } = this.services
    const entries = await database
      .getRepository(Activities)
      .find({ where: { engagementId, action: In(EVIDENTIAL) }, order: { id: 'ASC' } })
    const names = new Map(
      (await database.getRepository(Users).find({ select: { id: true, fullName: true } })).map(({ id, fullName }) => [
        id,
        fullName,
      ]),
    )
    return entries.map((entry) => ({
      ...entry,
      at: entry.at.toISOString(),
      by: entry.userId === null ? null : (names.get(entry.userId) ?? null),
    }))
  }

  async #windowsOf(engagementId: number): Promise<object[]> {
    const windows = await this.services.database
      .getRepository(ChangeWindows)
      .find({ where: { engagementId }, order: { id: 'ASC' } })
    return windows.map(({ title, reason, state, beginsAt, endsAt, devices, checks, createdByName }) => ({
      title,
      reason,
      state,
      beginsAt: beginsAt.toISOString(),
      endsAt: endsAt.toISOString(),
      devices,
      checks,
      plannedBy: createdByName,
    }))
  }

  /** The archive of a pack, with whoever countersigned it and stamped its time since. */
  async bytes(pack: EvidencePack): Promise<Uint8Array> {
    const stored = await this.services.records.bytes(pack.sha256)
    if (pack.countersignatures.length === 0 && !pack.timeAnswer) return stored
    const files = readPack(stored)
    if (!files) throw new Problem(500, 'The evidence pack is damaged.')
    const since: [string, Uint8Array][] = [
      ...(pack.countersignatures.length > 0 ? [[COUNTERSIGNATURES, json(pack.countersignatures)] as const] : []),
      ...(pack.timeAnswer && pack.timeRequest
        ? ([
            [TIME_REQUEST, new Uint8Array(pack.timeRequest)],
            [TIME_RESPONSE, new Uint8Array(pack.timeAnswer)],
          ] as const)
        : []),
    ].map(([path, bytes]) => [path, bytes])
    return writePack(new Map([...files, ...since]))
  }

  /** A second person signs the same manifest. @throws Problem for whoever made it or signed it already */
  async countersign(pack: EvidencePack, user: User): Promise<void> {
    if (pack.madeBy === user.id) throw new Problem(422, 'A second person must countersign, not the one who made it.')
    const signer = await this.keys.signer({ userId: user.id })
    const manifest = manifestOf(await this.services.records.bytes(pack.sha256))
    await this.services.database.transaction(async (manager) => {
      const row = await manager.findOneOrFail(EvidencePacks, {
        where: { id: pack.id },
        lock: { mode: 'pessimistic_write' },
      })
      if (row.countersignatures.some(({ key }) => key.public === signer.publicKey))
        throw new Problem(409, 'You countersigned this pack already.')
      const said = { by: user.fullName, at: new Date().toISOString() }
      row.countersignatures = [
        ...row.countersignatures,
        {
          ...said,
          key: { algorithm: 'Ed25519', public: signer.publicKey },
          signature: Buffer.from(signer.sign(countersigned(manifest, said))).toString('base64'),
        },
      ]
      await manager.save(EvidencePacks, row)
    })
    await this.services.activity.add({
      userId: user.id,
      engagementId: pack.engagementId,
      action: 'evidence countersigned',
      detail: { pack: pack.id, root: pack.root },
    })
  }

  /** What came of each window that begins or ends with a snapshot: changes, checks, and what was beside the plan. */
  async #windowResults({ id, engagementId }: SnapshotRow): Promise<[string, Uint8Array][]> {
    const { database, estate } = this.services
    const windows = await database.getRepository(ChangeWindows).find({
      where: [
        { engagementId, beforeId: id },
        { engagementId, afterId: id },
      ],
      order: { id: 'ASC' },
    })
    const results: [string, Uint8Array][] = []
    for (const window of windows)
      if (window.beforeId !== null && window.afterId !== null) {
        const document = await estate.patiently(() => windowDocument(this.services, window))
        results.push([`windows/${window.id}.json`, json(document)])
      }
    return results
  }

  async close(): Promise<void> {
    this.logHeads.close()
    await Promise.allSettled(this.#running)
  }

  get #rows() {
    return this.services.database.getRepository(EvidencePacks)
  }
}

function needsBefore(chosen: readonly Choice[]): boolean {
  return chosen.some((choice) => prepare(choice).needs.before)
}

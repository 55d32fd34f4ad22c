import { isWhole } from '../audits/service.ts'
import { packSnapshot, recordPath, snapshotFiles, type PackedRecord, type PackedSnapshot } from '@jurybox/core/snapshot'
import { Cron } from 'croner'
import { In } from 'typeorm'
import { Holds, Retentions, SnapshotTags, type Hold, type Retention } from './entity.ts'
import { Activities } from '../activity/entity.ts'
import { Audits } from '../audits/entity.ts'
import { Devices } from '../estate/entity.ts'
import { SnapshotRecords, Snapshots, type SnapshotRow } from '../snapshots/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { AuditService } from '../audits/service.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'
import type { Logger } from 'pino'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { intactText } from '../snapshots/damage.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly audits: AuditService
  readonly database: DataSource
  readonly estate: EstateService
  readonly log: Logger
  readonly records: RecordStore
  readonly snapshots: SnapshotService
}

const DAY_MS = 86_400_000

/** Deeds by which an audit left the house. */
const REPORTED = [
  'report downloaded',
  'remediation plan downloaded',
  'commands with secrets downloaded',
  'evidence packed',
]

/** A snapshot as its folder, with the ids of its records. */
type Packing = Omit<PackedSnapshot, 'records'> & {
  readonly records: readonly (PackedRecord & { readonly id: number })[]
}

/** What would become of a snapshot. */
export interface Fate {
  readonly snapshot: SnapshotRow
  readonly tags: readonly string[]
  /** When it may go; null: never by its age. */
  readonly until: Date | null
  /** Why it stays although its time has come; null where nothing holds it. */
  readonly heldBy: string | null
}

function titles(snapshots: readonly { readonly title: string }[]): string {
  return snapshots.map(({ title }) => `“${title}”`).join(', ')
}

export function goes({ until, heldBy }: Fate, now: Date): boolean {
  return until !== null && until <= now && heldBy === null
}

/** How long a snapshot is kept: the longest of what is said of it. @returns days; null: for good */
export function daysKept({ days, tags }: Pick<Retention, 'days' | 'tags'>, own: readonly string[]): number | null {
  const said = [days, ...own.flatMap((tag) => (Object.hasOwn(tags, tag) ? [tags[tag] ?? null] : []))]
  return said.includes(null) ? null : Math.max(...said.map((one) => one ?? 0))
}

/** Snapshots by their tags, for as long as they are kept; what a verdict rests on stays. */
export class ArchiveService {
  #nightly: Cron | null = null

  constructor(readonly services: Needs) {}

  open(): void {
    this.#nightly = new Cron(
      '17 3 * * *',
      { unref: true },
      () =>
        void this.#pruneAll().catch((error: unknown) =>
          this.services.log.error({ error: String(error) }, 'retention went wrong'),
        ),
    )
  }

  close(): void {
    this.#nightly?.stop()
  }

  async tagsOf(engagementId: number): Promise<Map<number, string[]>> {
    const ids = (await this.services.snapshots.list(engagementId)).map(({ id }) => id)
    const rows =
      ids.length === 0
        ? []
        : await this.services.database
            .getRepository(SnapshotTags)
            .find({ where: { snapshotId: In(ids) }, order: { tag: 'ASC' } })
    const tags = new Map<number, string[]>()
    for (const { snapshotId, tag } of rows) tags.set(snapshotId, [...(tags.get(snapshotId) ?? []), tag])
    return tags
  }

  async retentionOf(engagementId: number): Promise<Pick<Retention, 'days' | 'tags' | 'evidenceDays'>> {
    return (
      (await this.services.database.getRepository(Retentions).findOneBy({ engagementId })) ?? {
        days: null,
        tags: {},
        evidenceDays: null,
      }
    )
  }

  /** Every snapshot with how long it is kept, oldest first. */
  async fates(engagementId: number, retention: Pick<Retention, 'days' | 'tags'>): Promise<Fate[]> {
    const { snapshots, database } = this.services
    const all = await snapshots.list(engagementId)
    const tags = await this.tagsOf(engagementId)
    const audited = new Set(
      (
        await database.getRepository(Audits).find({ where: { engagementId }, select: { id: true, snapshotId: true } })
      ).map(({ snapshotId }) => snapshotId),
    )
    const cited = await this.#citedSnapshots(engagementId)
    const holds = await this.holds(engagementId)
    return all.map((snapshot) => {
      const own = tags.get(snapshot.id) ?? []
      const days = daysKept(retention, own)
      const hold = holds.find(({ snapshotId }) => snapshotId === null || snapshotId === snapshot.id)
      const heldBy = hold
        ? `legal hold: ${hold.reason}`
        : audited.has(snapshot.id)
          ? 'used by an audit'
          : cited.has(snapshot.id)
            ? 'its records are evidence of verdicts'
            : snapshot === all.at(-1)
              ? 'latest snapshot'
              : null
      return {
        snapshot,
        tags: own,
        until: days === null ? null : new Date(snapshot.takenAt.getTime() + days * DAY_MS),
        heldBy,
      }
    })
  }

  async holds(engagementId: number): Promise<Hold[]> {
    return this.services.database.getRepository(Holds).find({ where: { engagementId }, order: { id: 'ASC' } })
  }

  /** @throws Problem where a lead holds a snapshot */
  async #refuseHeld({ id, title, engagementId }: SnapshotRow): Promise<void> {
    const hold = (await this.holds(engagementId)).find(({ snapshotId }) => snapshotId === null || snapshotId === id)
    if (hold) throw new Problem(409, `“${title}” is under legal hold by ${hold.setByName}: ${hold.reason}`)
  }

  /** Takes away what is kept no longer; each is named in the log. @returns how many went */
  async prune(engagementId: number, userId: number | null, now = new Date()): Promise<number> {
    const due = (await this.fates(engagementId, await this.retentionOf(engagementId))).filter((fate) => goes(fate, now))
    for (const { snapshot } of due) {
      await this.#remove(snapshot)
      await this.services.activity.add({
        userId,
        engagementId,
        action: 'snapshot deleted by retention',
        detail: { snapshot: snapshot.id, title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
      })
    }
    return due.length
  }

  /**
   * Deletes a snapshot that was a mistake, with its audits.
   * @throws Problem where a report rests on it, or another snapshot does
   */
  async delete(snapshot: SnapshotRow, userId: number): Promise<void> {
    const { database, activity, estate, engagementId } = { ...this.services, engagementId: snapshot.engagementId }
    const audits = await database.getRepository(Audits).findBy({ engagementId, snapshotId: snapshot.id })
    await this.#refuseHeld(snapshot)
    await this.#refuseReported(
      snapshot,
      audits.map(({ id }) => id),
    )
    const carrying: { title: string }[] = await database.query(
      `SELECT DISTINCT n.title
        FROM snapshot_records s
        JOIN snapshot_records o ON o.record_id = s.record_id AND o.snapshot_id <> s.snapshot_id
        JOIN snapshots n ON n.id = o.snapshot_id
        WHERE s.snapshot_id = ? AND s.carried = 0`,
      [snapshot.id],
    )
    if (carrying.length > 0)
      throw new Problem(
        409,
        `Records of this snapshot are carried over to ${titles(carrying)}. Delete that snapshot first.`,
      )
    const compared = await this.#comparedWith(snapshot)
    if (compared.length > 0)
      throw new Problem(
        409,
        `An audit of ${titles(compared)} was compared with this snapshot. Delete that snapshot first.`,
      )
    await this.#remove(snapshot)
    estate.changed(engagementId)
    await activity.add({
      userId,
      engagementId,
      action: 'snapshot deleted',
      detail: { snapshot: snapshot.id, title: snapshot.title, audits: audits.map(({ id }) => id) },
    })
  }

  /**
   * Takes a device out of a snapshot that only carries it over; what was judged is judged again without it.
   * @throws Problem where its records came with this very snapshot, or a report rests on it
   */
  async leaveOut(snapshot: SnapshotRow, deviceId: number, userId: number): Promise<void> {
    const { database, snapshots, audits, activity, estate } = this.services
    const own = (await snapshots.held(snapshot)).filter((record) => record.deviceId === deviceId)
    const [first] = own
    if (!first) throw notFound('device')
    if (own.some(({ carried }) => !carried))
      throw new Problem(
        409,
        `“${first.device}” was captured in this snapshot. Only carried-over devices can be removed.`,
      )
    await this.#refuseHeld(snapshot)
    const judged = (await audits.list(snapshot.engagementId)).filter(({ snapshotId }) => snapshotId === snapshot.id)
    await this.#refuseReported(
      snapshot,
      judged.map(({ id }) => id),
    )
    await database.transaction(async (manager) => {
      await manager.delete(SnapshotRecords, { snapshotId: snapshot.id, recordId: In(own.map(({ id }) => id)) })
      await manager.delete(Audits, { snapshotId: snapshot.id })
    })
    estate.changed(snapshot.engagementId)
    await activity.add({
      userId,
      engagementId: snapshot.engagementId,
      action: 'carried-over device removed',
      detail: { snapshot: snapshot.id, device: first.device },
    })
    const last = judged.findLast(isWhole)
    if (last) await audits.judgeAgain(snapshot, last, userId)
  }

  /** What went out of the house stays provable, for as long as evidence is kept. */
  async #refuseReported(snapshot: SnapshotRow, audits: readonly number[]): Promise<void> {
    if (audits.length === 0) return
    const taken = await this.services.database
      .getRepository(Activities)
      .find({
        where: { engagementId: snapshot.engagementId, action: In(REPORTED) },
        select: { id: true, detail: true, at: true },
      })
    const { evidenceDays } = await this.retentionOf(snapshot.engagementId)
    const since = evidenceDays === null ? 0 : Date.now() - evidenceDays * DAY_MS
    const cited = taken.some(
      ({ detail, at }) =>
        at.getTime() > since && audits.includes((JSON.parse(detail) as { audit?: number }).audit ?? 0),
    )
    if (cited)
      throw new Problem(
        409,
        `A report of “${snapshot.title}” was downloaded, or its evidence signed, so the snapshot cannot be changed.`,
      )
  }

  /** Other snapshots whose audits looked into the records of this one. */
  async #comparedWith({ id, engagementId }: SnapshotRow): Promise<{ title: string }[]> {
    const rows: { title: string; before_records: string }[] = await this.services.database.query(
      `SELECT DISTINCT n.title, j.before_records
        FROM audit_judgements j
        JOIN audits a ON a.id = j.audit_id
        JOIN snapshots n ON n.id = a.snapshot_id
        WHERE a.engagement_id = ? AND a.snapshot_id <> ?`,
      [engagementId, id],
    )
    const own = new Set(
      (await this.services.database.getRepository(SnapshotRecords).findBy({ snapshotId: id, carried: false })).map(
        ({ recordId }) => recordId,
      ),
    )
    const titles = new Set(
      rows
        .filter(({ before_records: before }) => (JSON.parse(before) as number[]).some((record) => own.has(record)))
        .map(({ title }) => title),
    )
    return [...titles].map((title) => ({ title }))
  }

  /** A snapshot as its folder, zipped. @param secrets whether they stay as they are, or are masked */
  async packed(snapshot: SnapshotRow, secrets: 'real' | 'masked'): Promise<Uint8Array> {
    return packSnapshot(await this.#packing(snapshot, secrets))
  }

  /** The same as files, and where each record stands among them, by its id. */
  async folderOf(
    snapshot: SnapshotRow,
    secrets: 'real' | 'masked',
  ): Promise<{ readonly files: Map<string, Uint8Array>; readonly paths: Map<number, string> }> {
    const packing = await this.#packing(snapshot, secrets)
    return {
      files: snapshotFiles(packing),
      paths: new Map(packing.records.map((record) => [record.id, recordPath(record)])),
    }
  }

  async #packing(snapshot: SnapshotRow, secrets: 'real' | 'masked'): Promise<Packing> {
    const { snapshots, records, database } = this.services
    const held = await snapshots.held(snapshot)
    const texts = await records.texts(held.map(({ sha256 }) => sha256))
    const devices = await database
      .getRepository(Devices)
      .findBy({ id: In([0, ...new Set(held.map(({ deviceId }) => deviceId))]) })
    const packed: Packing['records'][number][] = []
    for (const record of held) {
      packed.push({
        id: record.id,
        device: record.device,
        dialect: devices.find(({ id }) => id === record.deviceId)?.dialect ?? '',
        kind: record.kind,
        text:
          secrets === 'real'
            ? intactText(texts, record)
            : `${(await records.maskedLines(record, snapshot.engagementId)).join('\n')}\n`,
      })
    }
    return {
      title: snapshot.title,
      takenAt: snapshot.takenAt.toISOString(),
      note: snapshot.note,
      devices: devices.map(({ name, dialect, facts }) => ({ name, dialect, facts: facts as Record<string, unknown> })),
      records: packed,
    }
  }

  async #pruneAll(): Promise<void> {
    for (const { engagementId } of await this.services.database.getRepository(Retentions).find())
      await this.prune(engagementId, null)
  }

  /** Snapshots that hold a record which some judgement was found by. */
  async #citedSnapshots(engagementId: number): Promise<Set<number>> {
    const rows: { records: string; before_records: string }[] = await this.services.database.query(
      `SELECT DISTINCT j.records, j.before_records
        FROM audit_judgements j
        JOIN audits a ON a.id = j.audit_id
        WHERE a.engagement_id = ?`,
      [engagementId],
    )
    const cited = [
      ...new Set(
        rows.flatMap(({ records, before_records }) => [
          ...(JSON.parse(records) as number[]),
          ...(JSON.parse(before_records) as number[]),
        ]),
      ),
    ]
    if (cited.length === 0) return new Set()
    const links: { id: number }[] = await this.services.database.query(
      'SELECT DISTINCT snapshot_id AS id FROM snapshot_records WHERE carried = 0 AND record_id IN (?)',
      [cited],
    )
    return new Set(links.map(({ id }) => id))
  }

  /** With the records that no other snapshot holds, and the contents that nothing else needs: all or nothing. */
  async #remove({ id }: SnapshotRow): Promise<void> {
    await this.services.database.transaction(async (manager) => {
      const records: { id: number; sha256: string }[] = await manager.query(
        `SELECT r.id, r.sha256
          FROM records r
          JOIN snapshot_records s ON s.record_id = r.id
          WHERE s.snapshot_id = ?
            AND NOT EXISTS (SELECT 1 FROM snapshot_records o WHERE o.record_id = r.id AND o.snapshot_id <> ?)`,
        [id, id],
      )
      const made: { sha256: string }[] = await manager.query(
        `SELECT sha256 FROM evidence_packs WHERE snapshot_id = ?
          UNION SELECT m.sha256 FROM made_reports m JOIN audits a ON a.id = m.audit_id WHERE a.snapshot_id = ?`,
        [id, id],
      )
      await manager.query('DELETE FROM evidence_packs WHERE snapshot_id = ?', [id])
      await manager.query('DELETE FROM made_reports WHERE audit_id IN (SELECT id FROM audits WHERE snapshot_id = ?)', [
        id,
      ])
      await manager.query('DELETE FROM snapshot_records WHERE snapshot_id = ?', [id])
      await manager.delete(Audits, { snapshotId: id })
      await manager.delete(Snapshots, { id })
      if (records.length > 0)
        await manager.query('DELETE FROM records WHERE id IN (?)', [records.map((record) => record.id)])
      const hashes = [...records, ...made].map(({ sha256 }) => sha256)
      if (hashes.length === 0) return
      await manager.query(
        `DELETE
          FROM contents
          WHERE sha256 IN (?)
            AND NOT EXISTS (SELECT 1 FROM records r WHERE r.sha256 = contents.sha256)
            AND NOT EXISTS (SELECT 1 FROM evidence e WHERE e.sha256 = contents.sha256)
            AND NOT EXISTS (SELECT 1 FROM evidence_packs p WHERE p.sha256 = contents.sha256)
            AND NOT EXISTS (SELECT 1 FROM made_reports m WHERE m.sha256 = contents.sha256)`,
        [hashes],
      )
    })
  }
}

import {
  compareRecords,
  deleteSnapshot,
  downloadMaskedSnapshot,
  downloadRecord,
  downloadSnapshot,
  addHold,
  getRetention,
  releaseHold,
  recordHistory,
  removeCarriedDevice,
  setRetention,
  setSnapshotTags,
} from '@jurybox/api/archive'
import { safeFileName } from '@jurybox/core/snapshot'
import { In } from 'typeorm'
import { Holds, Retentions, SnapshotTags, type Retention } from './entity.ts'
import { Devices } from '../estate/entity.ts'
import { Records, SnapshotRecords, Snapshots } from '../snapshots/entity.ts'
import { Users } from '../auth/entity.ts'
import { Problem, notFound } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { route } from '../http/route.ts'
import { kindTitle } from '../snapshots/service.ts'
import type { Services } from '../services.ts'
import { goes } from './service.ts'
import { sideBySide, recordStatesOf } from './history.ts'

async function retentionView(
  services: Services,
  engagementId: number,
  retention: Pick<Retention, 'days' | 'tags' | 'evidenceDays'>,
) {
  const now = new Date()
  const holds = await services.archive.holds(engagementId)
  const fates = await services.archive.fates(engagementId, retention)
  return {
    days: retention.days,
    tags: retention.tags,
    evidenceDays: retention.evidenceDays,
    holds: holds.map(({ id, snapshotId, reason, setByName, setAt }) => ({
      id,
      snapshot:
        snapshotId === null
          ? null
          : { id: snapshotId, title: fates.find(({ snapshot }) => snapshot.id === snapshotId)?.snapshot.title ?? '' },
      reason,
      by: setByName,
      at: setAt.toISOString(),
    })),
    snapshots: fates.map((fate) => ({
      id: fate.snapshot.id,
      title: fate.snapshot.title,
      tags: fate.tags,
      until: fate.until?.toISOString() ?? null,
      goes: goes(fate, now),
      heldBy: fate.heldBy,
    })),
  }
}

export const archiveRoutes = [
  route(recordHistory, async ({ services, engagementId, params }) => {
    const { database } = services
    const device = await database.getRepository(Devices).findOneBy({ id: params.device, engagementId })
    if (!device) throw notFound('device')
    const records = new Map(
      (
        await database
          .getRepository(Records)
          .find({
            where: { deviceId: device.id },
            select: { id: true, kind: true, sha256: true, settled: true, lineCount: true, broughtBy: true },
          })
      ).map((record) => [record.id, record]),
    )
    const links =
      records.size === 0
        ? []
        : await database.getRepository(SnapshotRecords).findBy({ recordId: In([...records.keys()]) })
    const snapshots = new Map(
      (await database.getRepository(Snapshots).findBy({ engagementId })).map((snapshot) => [snapshot.id, snapshot]),
    )
    const people = new Map(
      (await database.getRepository(Users).find({ select: { id: true, fullName: true } })).map((user) => [
        user.id,
        user.fullName,
      ]),
    )
    const fingerprint = await services.records.fingerprints(engagementId)
    const seen = links.flatMap(({ snapshotId, recordId, carried }) => {
      const [record, snapshot] = [records.get(recordId), snapshots.get(snapshotId)]
      // What was carried over was not seen again.
      return record && snapshot && !carried
        ? [
            {
              record: record.id,
              kind: record.kind,
              fingerprint: fingerprint(record.sha256),
              settled: record.settled,
              lines: record.lineCount,
              snapshot: snapshot.title,
              at: snapshot.takenAt.toISOString(),
              by: people.get(record.broughtBy) ?? '',
            },
          ]
        : []
    })
    return [...recordStatesOf(seen)]
      .map(([kind, spells]) => ({ kind, title: kindTitle(kind), spells }))
      .sort((a, b) => (a.kind < b.kind ? -1 : 1))
  }),
  route(compareRecords, async ({ services, engagementId, params }) => {
    const [a, b] = await Promise.all([
      services.snapshots.record(params.record, engagementId),
      services.snapshots.record(params.other, engagementId),
    ])
    const [left, right] = await Promise.all([
      services.records.maskedLines(a, engagementId),
      services.records.maskedLines(b, engagementId),
    ])
    const rows = sideBySide(left, right)
    if (!rows) throw new Problem(422, 'These two records differ too much to be compared side by side.')
    const view = ({ id, device, kind, takenAt }: typeof a) => ({
      id,
      device,
      title: kindTitle(kind),
      takenAt: takenAt?.toISOString() ?? null,
    })
    return { a: view(a), b: view(b), changed: rows.filter((row) => row !== null && !row.same).length, rows }
  }),
  route(setSnapshotTags, async ({ services, caller, engagementId, params, body }) => {
    const snapshot = await services.snapshots.find(params.snapshot, engagementId)
    const tags = [...new Set(body.tags)].sort()
    await services.database.transaction(async (manager) => {
      await manager.delete(SnapshotTags, { snapshotId: snapshot.id })
      if (tags.length > 0)
        await manager.insert(
          SnapshotTags,
          tags.map((one) => ({ snapshotId: snapshot.id, tag: one, setBy: caller.user.id, setAt: new Date() })),
        )
    })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'snapshot tagged',
      detail: { snapshot: snapshot.id, tags },
    })
    return { tags }
  }),
  route(deleteSnapshot, async ({ services, caller, engagementId, params }) => {
    await services.archive.delete(await services.snapshots.find(params.snapshot, engagementId), caller.user.id)
    return undefined
  }),
  route(removeCarriedDevice, async ({ services, caller, engagementId, params }) => {
    await services.archive.leaveOut(
      await services.snapshots.find(params.snapshot, engagementId),
      params.device,
      caller.user.id,
    )
    return undefined
  }),
  route(getRetention, async ({ services, engagementId }) =>
    retentionView(services, engagementId, await services.archive.retentionOf(engagementId)),
  ),
  route(setRetention, async ({ services, caller, engagementId, body: { days, tags, evidenceDays, try: only } }) => {
    if (!only) {
      await services.database
        .getRepository(Retentions)
        .save({ engagementId, days, tags, evidenceDays, setBy: caller.user.id, setAt: new Date() })
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'retention set',
        detail: { days, tags, evidenceDays },
      })
      await services.archive.prune(engagementId, caller.user.id)
    }
    return retentionView(services, engagementId, { days, tags, evidenceDays })
  }),
  route(addHold, async ({ services, caller, engagementId, body }) => {
    const held = body.snapshot === null ? null : await services.snapshots.find(body.snapshot, engagementId)
    await services.database
      .getRepository(Holds)
      .insert({
        engagementId,
        snapshotId: held?.id ?? null,
        reason: body.reason,
        setBy: caller.user.id,
        setByName: caller.user.fullName,
        setAt: new Date(),
      })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'hold set',
      detail: { what: held?.title ?? 'every snapshot', reason: body.reason },
    })
    return undefined
  }),
  route(releaseHold, async ({ services, caller, engagementId, params, body }) => {
    const holds = services.database.getRepository(Holds)
    const hold = await holds.findOneBy({ engagementId, id: params.hold })
    if (!hold) throw notFound('hold')
    await holds.delete({ id: hold.id })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'hold released',
      detail: { held: hold.reason, reason: body.reason },
    })
    return undefined
  }),
  route(downloadMaskedSnapshot, async ({ services, engagementId, params, response }) => {
    const snapshot = await services.snapshots.find(params.snapshot, engagementId)
    download(
      response,
      `snapshot-${snapshot.id}-masked.zip`,
      'application/zip',
      Buffer.from(await services.archive.packed(snapshot, 'masked')),
    )
    return undefined
  }),
  route(downloadSnapshot, async ({ services, caller, engagementId, params, response }) => {
    const snapshot = await services.snapshots.find(params.snapshot, engagementId)
    const body = await services.archive.packed(snapshot, 'real')
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'configurations downloaded',
      detail: { snapshot: snapshot.id, title: snapshot.title },
    })
    download(response, `snapshot-${snapshot.id}.zip`, 'application/zip', Buffer.from(body))
    return undefined
  }),
  route(downloadRecord, async ({ services, engagementId, params, response }) => {
    const record = await services.snapshots.record(params.record, engagementId)
    download(
      response,
      `${safeFileName(record.device)}-${record.kind.replace('/', '-')}.txt`,
      'text/plain; charset=utf-8',
      `${(await services.records.maskedLines(record, engagementId)).join('\n')}\n`,
    )
    return undefined
  }),
]

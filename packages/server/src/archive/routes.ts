import { safeFileName } from '@jurybox/core/snapshot'
import { In } from 'typeorm'
import { z } from 'zod'
import { Retentions, SnapshotTags, type Retention } from '../db/archive-entities.ts'
import { Devices, Records, SnapshotRecords, Snapshots, Users } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { download } from '../http/download.ts'
import { idIn, route } from '../http/route.ts'
import { lineOf } from '../http/text.ts'
import { kindTitle } from '../snapshots/service.ts'
import type { Services } from '../services.ts'
import { goes } from './service.ts'
import { sideBySide, recordStatesOf } from './history.ts'

const tag = lineOf(60)
/** Days; null: for good. */
const kept = z.int().min(1).max(36_500).nullable()

async function retentionView(services: Services, engagementId: number, retention: Pick<Retention, 'days' | 'tags'>) {
  const now = new Date()
  const fates = await services.archive.fates(engagementId, retention)
  return {
    days: retention.days,
    tags: retention.tags,
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
  route({
    method: 'get',
    path: '/engagements/:engagement/devices/:device/history',
    access: 'read',
    summary: 'The states of each record of a device, from when to when, and in which snapshots',
    handle: async ({ services, engagementId, params }) => {
      const { database } = services
      const device = await database.getRepository(Devices).findOneBy({ id: idIn(params, 'device'), engagementId })
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
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/records/:record/beside/:other',
    access: 'read',
    summary: 'Two records side by side, line by line, secrets masked',
    handle: async ({ services, engagementId, params }) => {
      const [a, b] = await Promise.all([
        services.snapshots.record(idIn(params, 'record'), engagementId),
        services.snapshots.record(idIn(params, 'other'), engagementId),
      ])
      const [left, right] = await Promise.all([
        services.records.maskedLines(a, engagementId),
        services.records.maskedLines(b, engagementId),
      ])
      const rows = sideBySide(left, right)
      if (!rows) throw new Problem(422, 'These two differ too much to be laid beside each other.')
      const view = ({ id, device, kind, takenAt }: typeof a) => ({
        id,
        device,
        title: kindTitle(kind),
        takenAt: takenAt?.toISOString() ?? null,
      })
      return { a: view(a), b: view(b), changed: rows.filter((row) => row !== null && !row.same).length, rows }
    },
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/snapshots/:snapshot/tags',
    access: 'bring-in',
    summary: 'The tags of a snapshot: these and no others',
    body: z.strictObject({ tags: z.array(tag).max(20) }),
    handle: async ({ services, caller, engagementId, params, body }) => {
      const snapshot = await services.snapshots.find(idIn(params, 'snapshot'), engagementId)
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
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/snapshots/:snapshot',
    access: 'manage',
    summary:
      'Deletes a snapshot that was a mistake, with its audits; not where a report or another snapshot rests on it',
    handle: async ({ services, caller, engagementId, params }) => {
      await services.archive.delete(
        await services.snapshots.find(idIn(params, 'snapshot'), engagementId),
        caller.user.id,
      )
      return undefined
    },
  }),
  route({
    method: 'delete',
    path: '/engagements/:engagement/snapshots/:snapshot/devices/:device',
    access: 'bring-in',
    summary: 'Leaves a carried-over device out of a snapshot, and so out of those after it; its audit is run again',
    handle: async ({ services, caller, engagementId, params }) => {
      await services.archive.leaveOut(
        await services.snapshots.find(idIn(params, 'snapshot'), engagementId),
        idIn(params, 'device'),
        caller.user.id,
      )
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/retention',
    access: 'read',
    summary: 'How long snapshots are kept, and what becomes of each',
    handle: async ({ services, engagementId }) =>
      retentionView(services, engagementId, await services.archive.retentionOf(engagementId)),
  }),
  route({
    method: 'put',
    path: '/engagements/:engagement/retention',
    access: 'manage',
    summary: 'Says how long snapshots are kept; with `try`, only what would become of each',
    body: z.strictObject({ days: kept, tags: z.record(tag, kept), try: z.boolean().default(false) }),
    handle: async ({ services, caller, engagementId, body: { days, tags, try: only } }) => {
      if (!only) {
        await services.database
          .getRepository(Retentions)
          .save({ engagementId, days, tags, setBy: caller.user.id, setAt: new Date() })
        await services.activity.add({
          userId: caller.user.id,
          engagementId,
          action: 'retention set',
          detail: { days, tags },
        })
        await services.archive.prune(engagementId, caller.user.id)
      }
      return retentionView(services, engagementId, { days, tags })
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/snapshots/:snapshot/masked.zip',
    access: 'read',
    summary: 'The snapshot as its folder, zipped, secrets masked',
    handle: async ({ services, engagementId, params, response }) => {
      const snapshot = await services.snapshots.find(idIn(params, 'snapshot'), engagementId)
      download(
        response,
        `snapshot-${snapshot.id}-masked.zip`,
        'application/zip',
        Buffer.from(await services.archive.packed(snapshot, 'masked')),
      )
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/snapshots/:snapshot/folder.zip',
    access: 'take-commands',
    fresh: true,
    summary: 'The snapshot as its folder, zipped, with its real secrets; every download is logged',
    handle: async ({ services, caller, engagementId, params, response }) => {
      const snapshot = await services.snapshots.find(idIn(params, 'snapshot'), engagementId)
      const body = await services.archive.packed(snapshot, 'real')
      await services.activity.add({
        userId: caller.user.id,
        engagementId,
        action: 'configurations downloaded',
        detail: { snapshot: snapshot.id, title: snapshot.title },
      })
      download(response, `snapshot-${snapshot.id}.zip`, 'application/zip', Buffer.from(body))
      return undefined
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/records/:record/text',
    access: 'read',
    summary: 'One record as a file, secrets masked',
    handle: async ({ services, engagementId, params, response }) => {
      const record = await services.snapshots.record(idIn(params, 'record'), engagementId)
      download(
        response,
        `${safeFileName(record.device)}-${record.kind.replace('/', '-')}.txt`,
        'text/plain; charset=utf-8',
        `${(await services.records.maskedLines(record, engagementId)).join('\n')}\n`,
      )
      return undefined
    },
  }),
]

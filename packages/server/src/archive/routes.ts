import { In } from 'typeorm'
import { Devices, Records, SnapshotRecords, Snapshots } from '../db/entities.ts'
import { Problem, notFound } from '../http/problem.ts'
import { idIn, route } from '../http/route.ts'
import { kindTitle } from '../snapshots/service.ts'
import { sideBySide, spellsOf } from './history.ts'

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
      const records = new Map((await database.getRepository(Records).find({ where: { deviceId: device.id }, select: { id: true, kind: true, sha256: true, lineCount: true } })).map((record) => [record.id, record]))
      const links = records.size === 0 ? [] : await database.getRepository(SnapshotRecords).findBy({ recordId: In([...records.keys()]) })
      const snapshots = new Map((await database.getRepository(Snapshots).findBy({ engagementId })).map((snapshot) => [snapshot.id, snapshot]))
      const seen = links.flatMap(({ snapshotId, recordId, carried }) => {
        const [record, snapshot] = [records.get(recordId), snapshots.get(snapshotId)]
        // What was carried over was not seen again.
        return record && snapshot && !carried ? [{ record: record.id, kind: record.kind, sha256: record.sha256, lines: record.lineCount, snapshot: snapshot.title, at: snapshot.takenAt.toISOString() }] : []
      })
      return [...spellsOf(seen)].map(([kind, spells]) => ({ kind, title: kindTitle(kind), spells })).sort((a, b) => (a.kind < b.kind ? -1 : 1))
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/records/:record/beside/:other',
    access: 'read',
    summary: 'Two records side by side, line by line, secrets masked',
    handle: async ({ services, engagementId, params }) => {
      const [a, b] = await Promise.all([services.snapshots.record(idIn(params, 'record'), engagementId), services.snapshots.record(idIn(params, 'other'), engagementId)])
      const [left, right] = await Promise.all([services.records.maskedLines(a, engagementId), services.records.maskedLines(b, engagementId)])
      const rows = sideBySide(left, right)
      if (!rows) throw new Problem(422, 'These two differ too much to be laid beside each other.')
      const view = ({ id, device, kind, sha256, takenAt }: typeof a) => ({ id, device, title: kindTitle(kind), sha256, takenAt: takenAt?.toISOString() ?? null })
      return { a: view(a), b: view(b), changed: rows.filter((row) => row !== null && !row.same).length, rows }
    },
  }),
]

import {
  discardFiles,
  freezeSnapshot,
  getSnapshot,
  listCarried,
  listSnapshots,
  listUnparsed,
  stageFiles,
} from '@jurybox/api/snapshots'
import { linesOf } from '@jurybox/core/analysis'
import { Problem } from '../http/problem.ts'
import { byDevice } from '../audits/judging.ts'
import { route } from '../http/route.ts'
import { kindTitle, type Intake } from './service.ts'
import type { Services } from '../services.ts'

function intakeView({ id, taken }: Intake) {
  const { title, takenAt, note, refused, sameName } = taken
  return {
    id,
    title,
    takenAt,
    note,
    refused,
    sameName,
    devices: taken.devices.map(({ name, dialect, records }) => ({
      name,
      dialect,
      records: records.map(({ path, kind, lineCount, unread, confidence, faults, takenAt: at, timeSource }) => ({
        path,
        kind: kindTitle(kind),
        lines: lineCount,
        unread: unread.length,
        confidence,
        faults: faults.map(({ line, reason }) => ({ line, reason })),
        takenAt: at,
        timeSource,
      })),
    })),
  }
}

const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)

async function snapshotView(services: Services, engagementId: number, id: number) {
  const snapshot = await services.snapshots.find(id, engagementId)
  const held = await services.snapshots.held(snapshot)
  const fingerprint = await services.records.fingerprints(engagementId)
  return {
    id: snapshot.id,
    title: snapshot.title,
    note: snapshot.note,
    takenAt: snapshot.takenAt.toISOString(),
    createdAt: snapshot.createdAt.toISOString(),
    refused: snapshot.refused,
    records: held
      .toSorted((a, b) => compareText(a.device, b.device) || compareText(a.kind, b.kind))
      .map((record) => ({
        id: record.id,
        deviceId: record.deviceId,
        device: record.device,
        kind: kindTitle(record.kind),
        path: record.path,
        lineCount: record.lineCount,
        unread: record.unread,
        faults: record.faults,
        takenAt: record.takenAt?.toISOString() ?? null,
        timeSource: record.timeSource,
        carried: record.carried,
        fingerprint: fingerprint(record.sha256),
      })),
  }
}

export const snapshotRoutes = [
  route(listSnapshots, async ({ services, engagementId }) => {
    const tags = await services.archive.tagsOf(engagementId)
    return Promise.all(
      (await services.snapshots.list(engagementId)).map(async (snapshot) => {
        const held = await services.snapshots.held(snapshot)
        return {
          id: snapshot.id,
          title: snapshot.title,
          note: snapshot.note,
          takenAt: snapshot.takenAt.toISOString(),
          devices: new Set(held.map((record) => record.deviceId)).size,
          carried: new Set(held.filter((record) => record.carried).map((record) => record.deviceId)).size,
          unread: [...byDevice(held).values()].reduce((sum, records) => sum + linesOf(records).unread, 0),
          refused: snapshot.refused.length,
          tags: tags.get(snapshot.id) ?? [],
        }
      }),
    )
  }),
  route(getSnapshot, async ({ services, engagementId, params }) =>
    snapshotView(services, engagementId, params.snapshot),
  ),
  route(stageFiles, async ({ services, caller, engagementId, request, body }) => {
    const files = (request.files ?? []) as Express.Multer.File[]
    if (files.length !== body.paths.length)
      throw new Problem(400, `Expected ${body.paths.length} files, got ${files.length}.`)
    const brought = files.map((file, i) => ({
      path: body.paths[i] ?? file.originalname,
      bytes: new Uint8Array(file.buffer),
    }))
    const intake = await services.snapshots.importFolders([brought], engagementId, caller.user.id)
    return intakeView(intake)
  }),
  route(listCarried, async ({ services, engagementId, params, query }) =>
    services.snapshots.wouldCarry(services.snapshots.intake(params.import, engagementId), new Date(query.takenAt)),
  ),
  route(listUnparsed, async ({ services, engagementId, params, query }) =>
    services.snapshots.unparsed(services.snapshots.intake(params.import, engagementId), query.path),
  ),
  route(discardFiles, async ({ services, engagementId, params }) => {
    services.snapshots.forget(services.snapshots.intake(params.import, engagementId).id)
    return undefined
  }),
  route(freezeSnapshot, async ({ services, caller, engagementId, body }) => {
    const intake = services.snapshots.intake(body.intake, engagementId)
    const takenAt = new Date(body.takenAt)
    if (takenAt.getTime() > Date.now() + 60_000) throw new Problem(422, 'The capture time is in the future.')
    const row = await services.snapshots.freeze(intake, {
      title: body.title,
      note: body.note,
      takenAt,
      settled: body.settled,
      without: body.without,
      userId: caller.user.id,
    })
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'snapshot frozen',
      detail: { snapshot: row.id, title: row.title, without: body.without },
    })
    await services.audits.follow(row, caller.user.id)
    return snapshotView(services, engagementId, row.id)
  }),
]

import {
  getDevice,
  getDeviceModel,
  getDeviceState,
  getRecord,
  listDeviceVerdicts,
  listDevices,
  setDialect,
} from '@jurybox/api/devices'
import { dialectById } from '@jurybox/core'
import { isPartOfModel, judgedOf, linesOf } from '@jurybox/core/analysis'
import type { Fingerprint } from '@jurybox/core/syntax'
import { ruleTitles } from '../audits/titles.ts'
import { Devices, type Device } from './entity.ts'
import { Records } from '../snapshots/entity.ts'
import { Verdicts } from '../audits/entity.ts'
import { labelsOf } from '../labels/service.ts'
import { Problem, notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { countsOf } from './standing.ts'
import { kindTitle, type HeldRecord } from '../snapshots/service.ts'
import { intactText } from '../snapshots/damage.ts'

/** The labels of a device, with who set each and when. */
async function labelsWith({ labels }: Services, engagementId: number, { id, facts }: Device) {
  const last = (await labels.last(engagementId, id)).get(id)
  return Object.entries(labelsOf(facts)).map(([label, value]) => {
    const set = last?.get(label)
    return set
      ? { label, value, how: set.how, by: set.setByName, at: set.at.toISOString() }
      : { label, value, how: 'snapshot' as const, by: '', at: null }
  })
}

/** A device with its records as of a snapshot. */
async function deviceAsOf(services: Services, engagementId: number, deviceId: number, snapshotId: number | undefined) {
  const device = await services.database.getRepository(Devices).findOneBy({ id: deviceId, engagementId })
  const snapshot = await services.snapshots.asOf(engagementId, snapshotId)
  if (!device || !snapshot) throw notFound('device')
  const records = (await services.snapshots.held(snapshot)).filter((record) => record.deviceId === device.id)
  return { device, snapshot, records, config: judgedOf(records) }
}

function recordView(record: HeldRecord, fingerprint: Fingerprint) {
  return {
    id: record.id,
    kind: record.kind,
    title: kindTitle(record.kind),
    path: record.path,
    fingerprint: fingerprint(record.sha256),
    lineCount: record.lineCount,
    unread: record.unread.length,
    faults: record.faults,
    takenAt: record.takenAt?.toISOString() ?? null,
    timeSource: record.timeSource,
    carried: record.carried,
  }
}

export const estateRoutes = [
  route(listDevices, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    if (!snapshot) return { snapshot: null, audit: null, devices: [] }
    const audit = await services.audits.of(snapshot.id)
    const counts = await countsOf(services, audit)
    return {
      snapshot: { id: snapshot.id, title: snapshot.title, takenAt: snapshot.takenAt.toISOString() },
      audit: audit && { id: audit.id },
      devices: (await services.estate.devices(snapshot)).map(
        ({ id, name, dialect, facts, config, all, changedAt, down }) => ({
          id,
          name,
          dialect,
          facts,
          down,
          ...linesOf(all),
          whole: config.faults.length === 0,
          takenAt: config.takenAt?.toISOString() ?? null,
          timeSource: config.timeSource,
          carried: config.carried,
          changedAt: changedAt?.toISOString() ?? null,
          counts: counts.get(id) ?? {},
        }),
      ),
    }
  }),
  route(getDevice, async ({ services, engagementId, params, query }) => {
    const { device, snapshot, records } = await deviceAsOf(services, engagementId, params.device, query.snapshot)
    const audit = await services.audits.of(snapshot.id)
    const fingerprint = await services.records.fingerprints(engagementId)
    return {
      id: device.id,
      name: device.name,
      dialect: device.dialect,
      facts: device.facts,
      snapshot: { id: snapshot.id, title: snapshot.title },
      auditId: audit?.id ?? null,
      labels: await labelsWith(services, engagementId, device),
      lines: linesOf(records).lines,
      records: records.map((record) => recordView(record, fingerprint)),
    }
  }),
  route(getDeviceModel, async ({ services, engagementId, params, query }) => {
    const { config, records } = await deviceAsOf(services, engagementId, params.device, query.snapshot)
    const dialect = dialectById(config?.dialect ?? '')
    if (!config || !dialect) throw notFound('model')
    const read = await services.records.asTasks(records.filter(({ kind }) => isPartOfModel(kind, dialect.id)))
    const found = await services.outside.read('deviceModel', {
      dialect: dialect.id,
      records: read,
      maskKey: await services.records.maskKeyOf(engagementId),
    })
    if (!found) throw notFound('model')
    return { record: config.id, lines: linesOf(records).lines, ...found }
  }),
  route(setDialect, async ({ services, caller, engagementId, params, body }) => {
    if (!dialectById(body.dialect)) throw new Problem(422, `There is no dialect “${body.dialect}”.`)
    const device = await services.database.getRepository(Devices).findOneBy({ id: params.device, engagementId })
    if (!device) throw notFound('device')
    const records = (await services.database.getRepository(Records).findBy({ deviceId: device.id })).filter(
      ({ dialect }) => dialect !== 'none',
    )
    const texts = await services.records.texts(records.map(({ sha256 }) => sha256))
    // Only the reading is new: the record itself stays as it was taken.
    const faults = await services.outside.read('faultsIn', {
      texts: records.map((record) => intactText(texts, record)),
      dialect: body.dialect,
    })
    await services.database.transaction(async (manager) => {
      for (const [i, { id }] of records.entries()) {
        await manager.update(
          Records,
          { id },
          {
            dialect: body.dialect,
            readBy: '',
            faults: (faults[i] ?? []).map(({ line, reason }) => ({ line, reason })),
          },
        )
      }
      await manager.update(Devices, { id: device.id }, { dialect: body.dialect })
    })
    await services.readings.readAgain()
    await services.activity.add({
      userId: caller.user.id,
      engagementId,
      action: 'dialect set',
      detail: { device: device.name, from: device.dialect, to: body.dialect },
    })
    return { dialect: body.dialect, records: records.length }
  }),
  route(getDeviceState, async ({ services, engagementId, params, query }) => {
    const { records } = await deviceAsOf(services, engagementId, params.device, query.snapshot)
    const outputs = records.filter(({ kind }) => kind.startsWith('state/'))
    const reading = await services.outside.read('deviceState', await services.records.asTasks(outputs))
    return {
      state: reading.state,
      origins: reading.origins,
      records: outputs.map(({ id, kind, takenAt }, i) => ({
        ...(reading.records[i] ?? { form: null, reason: null, unread: [] }),
        record: id,
        kind: kind.slice('state/'.length),
        takenAt: takenAt?.toISOString() ?? null,
      })),
    }
  }),
  route(getRecord, async ({ services, engagementId, params }) => {
    const record = await services.snapshots.record(params.record, engagementId)
    return {
      ...recordView({ ...record, carried: false }, await services.records.fingerprints(engagementId)),
      device: { id: record.deviceId, name: record.device },
      unreadLines: record.unread,
      lines: await services.records.maskedLines(record, engagementId),
    }
  }),
  route(listDeviceVerdicts, async ({ services, engagementId, params, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    const audit = snapshot && (await services.audits.of(snapshot.id))
    if (!audit) return []
    const titles = await ruleTitles(services, audit.choices)
    const rows = await services.database
      .getRepository(Verdicts)
      .find({
        where: { auditId: audit.id, deviceId: params.device },
        select: { id: true, auditId: true, benchmark: true, rule: true, outcome: true, severity: true, note: true },
        order: { place: 'ASC' },
      })
    return rows.map((row) => ({ ...row, title: titles.get(`${row.benchmark} ${row.rule}`) ?? row.rule }))
  }),
]

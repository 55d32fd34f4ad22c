import { TABLES, type ApprovalAnswer, type EstateLinkEnd, type SourceLocation } from '@jurybox/core/estate'
import { z } from 'zod'
import { Groups, Sites } from '../db/estate-entities.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import type { Services } from '../services.ts'
import { auditOf, countsOf } from './routes.ts'
import type { EstateDevice } from './service.ts'

const asOf = z.object({ snapshot: z.coerce.number().int().positive().optional() })

/** Lines that something stands on, by the record that people open. */
export function placeIn(
  { estate }: Services,
  device: EstateDevice | undefined,
  at: SourceLocation | null,
): { record: number; from: number; to: number } | null {
  const record = device && at ? estate.recordOf(device, at.record) : null
  return record === null || at === null ? null : { record, from: at.from, to: at.to }
}

export const acrossRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/estate/standing',
    access: 'read',
    summary: 'By device: its groups, the sites around it, what it runs and whether that is approved',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      if (!snapshot) return []
      const groups = await services.database.getRepository(Groups).findBy({ engagementId })
      const members = await services.estate.members(snapshot, groups)
      const [approvals, running] = [await services.estate.approvals(snapshot), await services.estate.running(snapshot)]
      return (await services.estate.devices(snapshot)).map(({ id, name }) => {
        const runs = running.get(name)
        return {
          id,
          name,
          os: runs?.os ?? '',
          model: runs?.model ?? null,
          version: runs?.version ?? null,
          serial: runs?.serial ?? null,
          approved: approvals.get(name)?.standing ?? 'none',
          why: approvals.get(name)?.why ?? '',
          groups: [...members].flatMap(([title, { inside }]) => (inside.includes(name) ? [title] : [])),
        }
      })
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/estate/tables/:table',
    access: 'read',
    summary:
      'Subnets, VLANs, redundancy groups, versions, models and end ports of the whole estate; each row with the lines it stands on',
    query: asOf,
    handle: async ({ services, engagementId, params, query }) => {
      const table = TABLES.find((name) => name === params['table'])
      if (!table) throw notFound('table')
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      if (!snapshot) return { columns: [], rows: [] }
      const { columns, rows } = (
        await services.estate.ask(snapshot, {
          ask: 'table',
          table,
          approved: table === 'versions' ? standingsIn(await services.estate.approvals(snapshot)) : {},
        })
      ).table
      const devices = new Map((await services.estate.devices(snapshot)).map((device) => [device.name, device]))
      return {
        columns,
        rows: rows.map(({ id, values, members }) => ({
          id,
          values,
          members: members.map(({ device, what, at }) => ({
            device,
            deviceId: devices.get(device)?.id ?? null,
            what,
            at: placeIn(services, devices.get(device), at),
          })),
        })),
      }
    },
  }),
  route({
    method: 'get',
    path: '/engagements/:engagement/estate/map',
    access: 'read',
    summary: 'Devices, the links between them with what each end says, and the sites around them',
    query: asOf,
    handle: async ({ services, engagementId, query }) => {
      const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
      if (!snapshot) return { devices: [], links: [], sites: [] }
      const { links } = await services.estate.ask(snapshot, { ask: 'links' })
      const devices = await services.estate.devices(snapshot)
      const byName = new Map(devices.map((device) => [device.name, device]))
      const counts = await countsOf(services, await auditOf(services, snapshot.id))
      const approvals = await services.estate.approvals(snapshot)
      const changed = await changedSince(services, engagementId, snapshot.id)
      const end = ({ device, inEstate, port, at, oper }: EstateLinkEnd) => ({
        device,
        inEstate,
        port,
        oper,
        at: placeIn(services, byName.get(device), at),
      })
      return {
        devices: devices.map(({ id, name, facts, config, changedAt, down }) => ({
          id,
          name,
          site: facts.site ?? null,
          role: facts.role ?? null,
          down,
          takenAt: config.takenAt?.toISOString() ?? null,
          changedAt: changedAt?.toISOString() ?? null,
          changed: changed.get(id) ?? 'same',
          counts: counts.get(id) ?? {},
          approved: approvals.get(name)?.standing ?? 'none',
          why: approvals.get(name)?.why ?? '',
        })),
        links: links.map(({ a, b, standing, note }) => ({ a: end(a), b: end(b), standing, note })),
        sites: (await services.database.getRepository(Sites).findBy({ engagementId })).map(
          ({ name, title, around }) => ({ name, title, around }),
        ),
      }
    },
  }),
]

function standingsIn(approvals: ReadonlyMap<string, ApprovalAnswer>): Record<string, ApprovalAnswer['standing']> {
  return Object.fromEntries([...approvals].map(([name, { standing }]) => [name, standing]))
}

/** By device, how its configuration stands to that of the snapshot before. */
export async function changedSince(
  { snapshots, estate }: Services,
  engagementId: number,
  snapshotId: number,
): Promise<Map<number, 'same' | 'changed' | 'new'>> {
  const snapshot = await snapshots.find(snapshotId, engagementId)
  const before = await snapshots.before(snapshot)
  if (!before) return new Map()
  const then = new Map((await estate.devices(before)).map(({ id, config }) => [id, config.settled]))
  return new Map(
    (await estate.devices(snapshot)).map(({ id, config }) => [
      id,
      !then.has(id) ? 'new' : then.get(id) === config.settled ? 'same' : 'changed',
    ]),
  )
}

import { getEstateTable, getMap, listStandings } from '@jurybox/api/estate'
import { TABLES, type ApprovalAnswer, type EstateLinkEnd, type Segments } from '@jurybox/core/estate'
import { Groups } from '../groups/entity.ts'
import { Sites } from './entity.ts'
import { notFound } from '../http/problem.ts'
import { route } from '../http/route.ts'
import { changedSince, countsOf, failuresOf, placeIn } from './standing.ts'

export const acrossRoutes = [
  route(listStandings, async ({ services, engagementId, query }) => {
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
  }),
  route(getEstateTable, async ({ services, engagementId, params, query }) => {
    const table = TABLES.find((name) => name === params.table)
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
  }),
  route(getMap, async ({ services, engagementId, query }) => {
    const snapshot = await services.snapshots.asOf(engagementId, query.snapshot)
    if (!snapshot) return { devices: [], links: [], sites: [] }
    const { links } = await services.estate.ask(snapshot, { ask: 'links' })
    const { by: segments } = await services.estate.ask(snapshot, { ask: 'segments' })
    const devices = await services.estate.devices(snapshot)
    const byName = new Map(devices.map((device) => [device.name, device]))
    const audit = await services.audits.of(snapshot.id)
    const [counts, failures] = [await countsOf(services, audit), await failuresOf(services, audit)]
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
      devices: devices.map(({ id, name, key, facts, config, changedAt, down }) => ({
        id,
        name,
        site: facts.site ?? null,
        role: facts.role ?? null,
        down,
        takenAt: config.takenAt?.toISOString() ?? null,
        changedAt: changedAt?.toISOString() ?? null,
        changed: changed.get(id) ?? 'same',
        counts: counts.get(id) ?? {},
        failures: failures.get(id) ?? {},
        approved: approvals.get(name)?.standing ?? 'none',
        why: approvals.get(name)?.why ?? '',
        ...(segments[key] ?? NO_SEGMENTS),
      })),
      links: links.map(({ a, b, standing, note }) => ({ a: end(a), b: end(b), standing, note })),
      sites: (await services.database.getRepository(Sites).findBy({ engagementId })).map(({ name, title, around }) => ({
        name,
        title,
        around,
      })),
    }
  }),
]

/** Of a device whose records could not be parsed nothing is known. */
const NO_SEGMENTS: Segments = { vlans: [], subnets: [], anyVlan: false }

function standingsIn(approvals: ReadonlyMap<string, ApprovalAnswer>): Record<string, ApprovalAnswer['standing']> {
  return Object.fromEntries([...approvals].map(([name, { standing }]) => [name, standing]))
}

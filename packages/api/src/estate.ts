import { asOf } from './as-of.ts'
import { z } from 'zod'
import { place } from './places.ts'
import { outcomeSchema } from './outcomes.ts'
import { endpoint } from './endpoint.ts'

export const standingRow = z.strictObject({
  id: z.number(),
  name: z.string(),
  os: z.string(),
  model: z.string().nullable(),
  version: z.string().nullable(),
  serial: z.string().nullable(),
  approved: z.enum(['unknown', 'none', 'on', 'off']),
  why: z.string(),
  groups: z.array(z.string()),
})
export type StandingRow = z.infer<typeof standingRow>

export const tableView = z.strictObject({
  columns: z.array(z.strictObject({ key: z.string(), title: z.string(), numeric: z.boolean().optional() })),
  rows: z.array(
    z.strictObject({
      id: z.string(),
      values: z.record(z.string(), z.union([z.string(), z.number()])),
      members: z.array(
        z.strictObject({ device: z.string(), deviceId: z.number().nullable(), what: z.string(), at: place.nullable() }),
      ),
    }),
  ),
})
export type TableView = z.infer<typeof tableView>

export const mapDevice = z.strictObject({
  id: z.number(),
  name: z.string(),
  site: z.string().nullable(),
  role: z.string().nullable(),
  down: z.string().nullable(),
  takenAt: z.string().nullable(),
  changedAt: z.string().nullable(),
  changed: z.enum(['new', 'same', 'changed']),
  counts: z.partialRecord(outcomeSchema, z.number()),
  /** Failed rules by their severity. */
  failures: z.partialRecord(z.enum(['high', 'medium', 'low', 'info']), z.number()),
  approved: z.enum(['unknown', 'none', 'on', 'off']),
  why: z.string(),
  /** VLANs (IEEE 802.1Q) and subnets that it has a part in. */
  vlans: z.array(z.number()),
  subnets: z.array(z.string()),
  /** It has a trunk that names no VLANs: it may carry each of them. */
  anyVlan: z.boolean(),
})
export type MapDevice = z.infer<typeof mapDevice>

export const mapEnd = z.strictObject({
  device: z.string(),
  inEstate: z.boolean(),
  port: z.string().nullable(),
  oper: z.enum(['up', 'down']).nullable(),
  at: place.nullable(),
})
export type MapEnd = z.infer<typeof mapEnd>

export const mapLink = z.strictObject({
  a: mapEnd,
  b: mapEnd,
  standing: z.enum(['agreed', 'one-sided', 'untold', 'disagreeing', 'subnet']),
  note: z.string(),
})
export type MapLink = z.infer<typeof mapLink>

export const mapView = z.strictObject({
  devices: z.array(mapDevice),
  links: z.array(mapLink),
  sites: z.array(z.strictObject({ name: z.string(), title: z.string(), around: z.string().nullable() })),
})
export type MapView = z.infer<typeof mapView>

/** The software version of each device and whether it is approved. */
export const listStandings = endpoint({
  method: 'get',
  path: '/engagements/:engagement/estate/standing',
  access: 'read',
  summary: 'The software version of each device and whether it is approved',
  query: asOf,
  response: z.array(standingRow),
})

/** One table across the devices. */
export const getEstateTable = endpoint({
  method: 'get',
  path: '/engagements/:engagement/estate/tables/:table',
  access: 'read',
  summary: 'One table across the devices',
  query: asOf,
  response: tableView,
})

/** Devices, links and sites for the map. */
export const getMap = endpoint({
  method: 'get',
  path: '/engagements/:engagement/estate/map',
  access: 'read',
  summary: 'Devices, links and sites for the map',
  query: asOf,
  response: mapView,
})

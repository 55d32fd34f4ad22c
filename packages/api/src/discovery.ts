import { jobView } from './jobs.ts'
import { z } from 'zod'
import { isPrefix, lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'

export const prefix = z.string().trim().refine(isPrefix, 'a prefix, such as 10.40.0.0/16')

/** Where a discovery begins, and how far it goes. */
export const discoveryPlanSchema = z.strictObject({
  /** Addresses of first devices; their neighbours follow. */
  first: z
    .array(
      z
        .string()
        .trim()
        .regex(/^[\w.:-]+$/, 'a name or an address')
        .max(255),
    )
    .max(20)
    .default([]),
  /** Links that are followed from a first device. */
  hops: z.int().min(0).max(32).default(8),
  /** A prefix whose addresses are tried one by one; null where none is. */
  range: z.string().trim().nullable().default(null),
  port: z.int().min(1).max(65535).default(22),
  /** Logs in also where the host key is another than the one that was seen there before, as after a replacement. */
  otherKeys: z.boolean().default(false),
  /** Port at which a device that does not print its serial number is asked for it over SNMPv3; null: it is not. */
  snmpPort: z.int().min(1).max(65535).nullable().default(null),
})
export type DiscoveryPlan = z.infer<typeof discoveryPlanSchema>

/** What a discovery found at one address. */
export const foundDevice = z.strictObject({
  name: z.string(),
  reachedAt: z.string(),
  address: z.string(),
  port: z.number(),
  dialect: z.string(),
  model: z.string().nullable(),
  version: z.string().nullable(),
  serial: z.string().nullable(),
  addresses: z.array(z.string()),
  /** Devices that see it as a neighbour. */
  neighbourOf: z.array(z.string()),
})
export type FoundDevice = z.infer<typeof foundDevice>

export const sightingRow = z.strictObject({
  id: z.number(),
  jobId: z.number(),
  kind: z.enum(['appeared', 'vanished', 'known', 'moved', 'replaced', 'duplicate']),
  device: z.string(),
  found: foundDevice.nullable(),
  why: z.string(),
  state: z.enum(['waiting', 'taken', 'left']),
  by: z.string(),
  decidedAt: z.string().nullable(),
  at: z.string(),
  /** Where its neighbours and devices of its model agree. */
  suggested: z.strictObject({ site: z.string().nullable(), role: z.string().nullable() }),
})
export type SightingRow = z.infer<typeof sightingRow>

export const discoveryView = z.strictObject({
  /** Port at which most devices are reached. */
  port: z.number(),
  ranges: z.array(z.string()),
  translations: z.array(z.strictObject({ from: z.string(), to: z.string() })),
  last: jobView
    .extend({
      params: jobView.shape.params.extend({
        plan: discoveryPlanSchema.optional(),
        tried: z
          .array(z.strictObject({ address: z.string(), device: z.string().nullable(), reason: z.string().nullable() }))
          .optional(),
      }),
    })
    .nullable(),
  sightings: z.array(sightingRow),
})
export type DiscoveryView = z.infer<typeof discoveryView>

/** The last discovery, and what it found. */
export const getDiscovery = endpoint({
  method: 'get',
  path: '/engagements/:engagement/discovery',
  access: 'read',
  summary: 'The last discovery, and what it found',
  response: discoveryView,
})

/** How many addresses a discovery would try. */
export const countDiscoveryTries = endpoint({
  method: 'post',
  path: '/engagements/:engagement/discoveries/tries',
  access: 'collect',
  summary: 'How many addresses a discovery would try',
  body: discoveryPlanSchema,
  response: z.strictObject({ tries: z.number() }),
})

/** Starts a discovery of devices. */
export const startDiscovery = endpoint({
  method: 'post',
  path: '/engagements/:engagement/discoveries',
  access: 'collect',
  summary: 'Starts a discovery of devices',
  body: z.strictObject({ plan: discoveryPlanSchema, confirmed: z.int().nullable().default(null) }),
  response: jobView,
})

/** Adds discovered devices to the inventory, or dismisses them. */
export const decideSightings = endpoint({
  method: 'post',
  path: '/engagements/:engagement/discovery/decide',
  access: 'collect',
  summary: 'Adds discovered devices to the inventory, or dismisses them',
  body: z.strictObject({
    sightings: z.array(z.int().positive()).min(1).max(2000),
    decision: z.enum(['take', 'apart', 'leave']),
    /** Site and role of devices that are added. */
    facts: z.strictObject({ site: lineOf(64).optional(), role: lineOf(64).optional() }).default({}),
  }),
  response: z.strictObject({
    came: z.array(z.strictObject({ device: z.string(), ok: z.boolean(), what: z.string() })),
  }),
})

/** Sets address translations between here and the devices. */
export const setTranslations = endpoint({
  method: 'put',
  path: '/engagements/:engagement/translations',
  access: 'manage',
  summary: 'Sets address translations between here and the devices',
  body: z.strictObject({
    translations: z
      .array(
        z
          .strictObject({ from: prefix, to: prefix })
          .refine(
            ({ from, to }) => from.split('/')[1] === to.split('/')[1] && from.includes(':') === to.includes(':'),
            'two prefixes of one family and length',
          ),
      )
      .max(20),
  }),
  response: z.strictObject({ translations: z.array(z.strictObject({ from: z.string(), to: z.string() })) }),
})

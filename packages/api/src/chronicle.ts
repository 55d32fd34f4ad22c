import { z } from 'zod'
import { severitySchema } from '@jurybox/core/rules'
import { endpoint } from './endpoint.ts'

/** What stands on the time line. */
export const EVENT_KINDS = ['snapshot', 'change', 'finding', 'expectation', 'incident', 'window', 'approval'] as const
export const eventKind = z.enum(EVENT_KINDS)
export type EventKind = z.infer<typeof eventKind>

/** What happened, as a code; `count`, `resolved` and the other fields fill in its words. */
export const EVENT_CODES = [
  'snapshot-taken',
  'configuration-changed',
  'change-reported',
  'findings-turned',
  'expectation-violated',
  'expectation-met',
  'expectation-undecided',
  'device-not-reached',
  'session-down',
  'interface-down',
  'window',
  'snapshot-approved',
  'state-approved',
] as const
export const eventCode = z.enum(EVENT_CODES)

export const chronicleEvent = z.strictObject({
  id: z.string(),
  kind: eventKind,
  code: eventCode,
  /** RFC 3339. */
  at: z.string(),
  /** Of what lasts; null otherwise. */
  until: z.string().nullable(),
  /** What it is called: of a snapshot, an expectation, a window, a session. */
  title: z.string(),
  devices: z.array(z.string()),
  /** By whom, and from where; null where nobody said. */
  by: z.string().nullable(),
  place: z.string().nullable(),
  /** Of findings: how many are new, and how many resolved. */
  count: z.number().nullable(),
  resolved: z.number().nullable(),
  /** Where it is seen: a page of the engagement with its query. */
  opens: z.strictObject({ path: z.string(), query: z.record(z.string(), z.string()) }),
})
export type ChronicleEvent = z.infer<typeof chronicleEvent>

/** Everything that happened, the latest first. */
export const listEvents = endpoint({
  method: 'get',
  path: '/engagements/:engagement/chronicle/events',
  access: 'read',
  summary: 'Everything on the time line of the engagement, a site or a device, the latest first',
  query: z.object({
    device: z.string().min(1).max(160).optional(),
    site: z.string().min(1).max(160).optional(),
    kinds: z
      .string()
      .transform((text) => text.split(',').filter(Boolean))
      .pipe(z.array(eventKind))
      .optional(),
    from: z.iso.datetime({ offset: true }).optional(),
    to: z.iso.datetime({ offset: true }).optional(),
  }),
  response: z.strictObject({
    events: z.array(chronicleEvent),
    /** Whether there are more than are listed. */
    more: z.boolean(),
    /** Sites by which events can be asked for. */
    sites: z.array(z.string()),
  }),
})

export const trendPoint = z.strictObject({
  audit: z.number(),
  /** When its snapshot was taken. */
  at: z.string(),
  title: z.string(),
  /** Share of what was decided that passes, from 0 to 100; null where nothing was decided. */
  score: z.number().nullable(),
  /** Open findings by severity. */
  severities: z.record(severitySchema, z.number()),
  /** Mean age of the configurations when the snapshot was taken, in days; null where no time is known. */
  ageDays: z.number().nullable(),
  /** Share of the devices of the snapshot that were judged, from 0 to 100. */
  coverage: z.number(),
  devices: z.number(),
})
export type TrendPoint = z.infer<typeof trendPoint>

/** Score, findings, age, coverage and changes over time. */
export const getTrends = endpoint({
  method: 'get',
  path: '/engagements/:engagement/trends',
  access: 'read',
  summary:
    'Score, findings by severity, age of evidence, coverage and changes per week, of all devices, a site or a group',
  query: z.object({ site: z.string().max(160).optional(), group: z.string().max(160).optional() }),
  response: z.strictObject({
    points: z.array(trendPoint),
    weeks: z.array(z.strictObject({ week: z.string(), changes: z.number() })),
    sites: z.array(z.string()),
    groups: z.array(z.string()),
  }),
})

import { z } from 'zod'
import { asOf } from './as-of.ts'
import { authorView, explanationView } from './changes.ts'
import { endpoint } from './endpoint.ts'

/** From what a device departs: the last approved state, a reference, what is saved for the next boot. */
export const DRIFTS = ['approved', 'reference', 'saved'] as const
export const driftKind = z.enum(DRIFTS)

export const driftRow = z.strictObject({
  device: z.number(),
  name: z.string(),
  site: z.string().nullable(),
  kind: driftKind,
  /** The snapshot of the approved state, or the id of the reference; null otherwise. */
  baseline: z.strictObject({ id: z.string(), title: z.string() }).nullable(),
  /** Lines that differ, in words. */
  lines: z.array(z.string()),
  count: z.number(),
  authors: z.array(authorView),
  explained: explanationView.nullable(),
})
export type DriftRow = z.infer<typeof driftRow>

/** Devices that depart from what was approved, from references, or from what is saved; unexplained ones first. */
export const listDrift = endpoint({
  method: 'get',
  path: '/engagements/:engagement/drift',
  access: 'read',
  summary: 'Devices that depart from what was approved, from references, or from what is saved for the next boot',
  query: asOf,
  response: z.strictObject({
    rows: z.array(driftRow),
    /** Devices of which no state was ever approved. */
    unapproved: z.array(z.string()),
    /** Devices whose saved configuration was not captured. */
    unsaved: z.array(z.string()),
    /** Devices whose records are incomplete or unreadable, so that it is not known whether they depart. */
    undecided: z.array(z.string()),
  }),
})

/** The same as CSV. */
export const exportDrift = endpoint({
  method: 'get',
  path: '/engagements/:engagement/drift.csv',
  access: 'read',
  summary: 'Drift as CSV',
  query: asOf,
  file: 'text/csv',
})

import { countsSchema } from '@jurybox/core/audit'
import { asOf } from './as-of.ts'
import { z } from 'zod'
import { endpoint } from './endpoint.ts'

export const overviewView = z.strictObject({
  snapshot: z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() }),
  before: z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() }).nullable(),
  auditId: z.number().nullable(),
  devices: z.number(),
  judged: z.number(),
  lines: z.number(),
  unread: z.number(),
  down: z.array(z.strictObject({ device: z.string(), why: z.string() })),
  evidence: z.array(z.strictObject({ id: z.string(), title: z.string(), devices: z.number() })),
  counts: countsSchema.nullable(),
  changes: z
    .strictObject({
      changed: z.array(z.string()),
      appeared: z.array(z.string()),
      gone: z.array(z.string()),
      verdicts: z
        .strictObject({
          new: z.number(),
          resolved: z.number(),
          since: z.strictObject({ id: z.number(), title: z.string() }),
        })
        .nullable(),
    })
    .nullable(),
  coverage: z.array(
    z.strictObject({ id: z.string(), title: z.string(), decided: z.number(), of: z.number(), outside: z.number() }),
  ),
  groups: z.array(
    z.strictObject({
      id: z.number(),
      title: z.string(),
      text: z.string(),
      kind: z.enum(['filter', 'search']),
      devices: z.number(),
    }),
  ),
})
export type OverviewView = z.infer<typeof overviewView>

/** The state of an engagement: verdicts, coverage, age of evidence, changes, counted groups. */
export const getOverview = endpoint({
  method: 'get',
  path: '/engagements/:engagement/overview',
  access: 'read',
  summary: 'The state of an engagement: verdicts, coverage, age of evidence, changes, counted groups',
  query: asOf,
  response: overviewView.nullable(),
})

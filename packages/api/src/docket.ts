import { z } from 'zod'
import { EXPOSURES } from '@jurybox/core/audit'
import { severitySchema } from '@jurybox/core/rules'
import { asOf } from './as-of.ts'
import { endpoint } from './endpoint.ts'
import { findingView } from './findings.ts'

export const exposure = z.enum(EXPOSURES)

export const docketItem = z.strictObject({
  benchmark: z.string(),
  rule: z.string(),
  title: z.string(),
  severity: severitySchema,
  exposure,
  priority: z.number(),
  findings: z.array(
    z.strictObject({
      verdict: z.number(),
      device: z.string(),
      outcome: z.enum(['fail', 'unknown', 'error']),
      exposure,
      said: findingView,
    }),
  ),
})
export type DocketItemView = z.infer<typeof docketItem>

/** The open findings in the order in which to deal with them, by rule. */
export const getDocket = endpoint({
  method: 'get',
  path: '/engagements/:engagement/docket',
  access: 'read',
  summary: 'The open findings in the order in which to deal with them, by rule, with exposure and spread',
  query: asOf,
  response: z.strictObject({
    audit: z.number().nullable(),
    formula: z.string(),
    /** Places that count as guests, as traffic names them. */
    guests: z.array(z.string()),
    items: z.array(docketItem),
  }),
})

/** The same as CSV, one line a finding. */
export const exportDocket = endpoint({
  method: 'get',
  path: '/engagements/:engagement/docket.csv',
  access: 'read',
  summary: 'The docket as CSV, one line a finding',
  query: asOf,
  file: 'text/csv',
})

/** Says which places are those of guests. */
export const setGuests = endpoint({
  method: 'put',
  path: '/engagements/:engagement/docket/guests',
  access: 'describe',
  summary: 'Says which places are those of guests, for the exposure of findings',
  body: z.strictObject({ places: z.array(z.string().trim().min(1).max(200)).max(100) }),
})

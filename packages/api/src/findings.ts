import { z } from 'zod'
import { endpoint } from './endpoint.ts'
import { lineOf } from './text.ts'

/** Ids of verdicts of one audit: as many as a page of a list can choose. */
const verdicts = z.array(z.int().positive()).min(1).max(5000)

/** What people say of a finding; it stays from audit to audit. */
export const findingView = z.strictObject({
  owner: z.strictObject({ id: z.number(), name: z.string() }).nullable(),
  /** `YYYY-MM-DD`: the last day on which it is not overdue. */
  due: z.string().nullable(),
  overdue: z.boolean(),
  comment: z.string(),
  done: z.strictObject({ by: z.string(), at: z.string() }).nullable(),
})
export type FindingView = z.infer<typeof findingView>

/** Sets owner, due date, comment and state of findings; what is left out stays as it is. */
export const updateFindings = endpoint({
  method: 'put',
  path: '/engagements/:engagement/audits/:audit/findings',
  access: 'remediate',
  summary: 'Sets owner, due date, comment and state of findings; what is left out stays as it is',
  large: true,
  body: z.strictObject({
    verdicts,
    /** Id of a member who may change findings; null: nobody. */
    owner: z.int().positive().nullable().optional(),
    due: z.iso.date().nullable().optional(),
    comment: z.string().max(4000).optional(),
    done: z.boolean().optional(),
  }),
  response: z.array(findingView.extend({ verdict: z.number() })),
})

export const WAIVING = ['waived', 'already-waived', 'no-such-device', 'no-finding'] as const
export const waivingSchema = z.enum(WAIVING)
export type Waiving = z.infer<typeof waivingSchema>

/** Waives findings of an audit, each on its device. */
export const waiveFindings = endpoint({
  method: 'post',
  path: '/engagements/:engagement/audits/:audit/waivers',
  access: 'waive',
  summary: 'Waives findings of an audit, each on its device',
  large: true,
  body: z.strictObject({
    verdicts,
    reason: z.string().trim().min(3).max(4000),
    owner: lineOf(160),
    expires: z.iso.datetime({ offset: true }),
  }),
  response: z.strictObject({
    came: z.array(z.strictObject({ device: z.string(), rule: z.string(), what: waivingSchema })),
  }),
})

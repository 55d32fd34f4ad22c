import { z } from 'zod'
import { lineOf } from './text.ts'
import { endpoint } from './endpoint.ts'
import { waivingSchema } from './findings.ts'

export const waiverView = z.strictObject({
  id: z.number(),
  benchmark: z.string(),
  rule: z.string(),
  device: z.string().nullable(),
  subject: z.string().nullable(),
  reason: z.string(),
  owner: z.string(),
  expires: z.string(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
})
export type WaiverView = z.infer<typeof waiverView>

/** Waivers of the engagement, withdrawn ones included. */
export const listWaivers = endpoint({
  method: 'get',
  path: '/engagements/:engagement/waivers',
  access: 'read',
  summary: 'Waivers of the engagement, withdrawn ones included',
  response: z.array(waiverView),
})

/** Waives a rule on some devices or on all; with benchmark “expectations”, waives an expectation. */
export const addWaivers = endpoint({
  method: 'post',
  path: '/engagements/:engagement/waivers',
  access: 'waive',
  summary: 'Waives a rule on some devices or on all; with benchmark “expectations”, waives an expectation',
  body: z.strictObject({
    benchmark: z.string().max(64),
    rule: z.string().max(64),
    /** Null: every device. */
    devices: z.array(z.string().max(160)).min(1).max(5000).nullable(),
    subject: z.string().max(255).nullable().default(null),
    reason: z.string().trim().min(3).max(4000),
    owner: lineOf(160),
    expires: z.iso.datetime({ offset: true }),
  }),
  response: z.strictObject({ came: z.array(z.strictObject({ device: z.string().nullable(), what: waivingSchema })) }),
})

/** Withdraws a waiver; it stays on record. */
export const withdrawWaiver = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/waivers/:waiver',
  access: 'waive',
  summary: 'Withdraws a waiver; it stays on record',
})

import { z } from 'zod'
import { CHECK_TERMS, ROW_CODES } from '@jurybox/core/checks'
import { endpoint } from './endpoint.ts'

const cited = z.strictObject({ record: z.number(), from: z.number(), to: z.number() })

export const checkView = z.strictObject({
  id: z.string(),
  title: z.string(),
  topic: z.string(),
  of: z.string(),
  is: z.enum(CHECK_TERMS),
  settles: z.number().nullable(),
  shipped: z.boolean(),
})
export const checkSetView = z.strictObject({
  id: z.string(),
  title: z.string(),
  checks: z.array(z.string()),
  shipped: z.boolean(),
})

export const checkRowView = z.strictObject({
  key: z.string(),
  code: z.enum(ROW_CODES),
  before: z.string().nullable(),
  after: z.string().nullable(),
  a: z.array(cited),
  b: z.array(cited),
})
export type CheckRowView = z.infer<typeof checkRowView>

export const CHECK_OUTCOMES = ['pass', 'fail', 'unknown', 'error', 'notchecked', 'pending'] as const
export const checkResultView = z.strictObject({
  check: z.string(),
  title: z.string(),
  topic: z.string(),
  /** `pending`: it fails, and may still settle. */
  outcome: z.enum(CHECK_OUTCOMES),
  rows: z.number(),
  failing: z.array(checkRowView),
  doubt: z
    .strictObject({ code: z.enum(['not-captured', 'incomplete', 'unparsed']), side: z.enum(['a', 'b', 'both']) })
    .nullable(),
  error: z.string().nullable(),
})
export type CheckResultView = z.infer<typeof checkResultView>

/** `device` is null for the network as a whole. */
export const checkedDeviceView = z.strictObject({
  device: z.strictObject({ id: z.number(), name: z.string() }).nullable(),
  results: z.array(checkResultView),
})
export type CheckedDeviceView = z.infer<typeof checkedDeviceView>

/** The checks on change that ship and those of the engagement, with the sets by kinds of work. */
export const listChecks = endpoint({
  method: 'get',
  path: '/engagements/:engagement/checks',
  access: 'read',
  summary: 'Checks on change, shipped and own, with their sets',
  response: z.strictObject({ checks: z.array(checkView), sets: z.array(checkSetView) }),
})

/** Runs a set of checks, or single ones, over two snapshots. */
export const runCheckSet = endpoint({
  method: 'get',
  path: '/engagements/:engagement/checks/results',
  access: 'read',
  summary: 'Runs checks on change over two snapshots',
  query: z.object({
    a: z.coerce.number().int().positive().optional(),
    b: z.coerce.number().int().positive().optional(),
    set: z.string().optional(),
    checks: z
      .string()
      .transform((text) => text.split(',').filter(Boolean))
      .optional(),
    devices: z
      .string()
      .transform((text) => text.split(',').filter(Boolean))
      .optional(),
  }),
  response: z
    .strictObject({
      results: z.array(checkedDeviceView),
      /** Devices that only one of the two snapshots has: nothing can be checked of them. */
      absent: z.array(z.strictObject({ name: z.string(), only: z.enum(['a', 'b']) })),
    })
    .nullable(),
})

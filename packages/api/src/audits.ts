import { overrideSchema, tailoringSchema } from '@jurybox/core/benchmarks'
import { deviceFactsView } from './device-facts.ts'
import { z } from 'zod'
import { limitSchema } from './audit-limit.ts'
import { jobView } from './jobs.ts'
import { countsSchema, scoreSchema, verdictSchema } from '@jurybox/core/audit'
import { outcomeSchema } from './outcomes.ts'
import { verdictFilter } from './verdict-filter.ts'
import { endpoint } from './endpoint.ts'
import { findingView } from './findings.ts'

export const page = verdictFilter.extend({
  limit: z.coerce.number().int().min(1).max(500).default(100),
  offset: z.coerce.number().int().min(0).default(0),
})

export const auditView = z.strictObject({
  id: z.number(),
  build: z.string(),
  counts: countsSchema.nullable(),
  choices: z.array(
    z.strictObject({
      benchmark: z.string(),
      title: z.string(),
      hash: z.string(),
      profile: z.string(),
      profileTitle: z.string(),
      values: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])),
      overrides: z.array(overrideSchema).optional(),
      tailoring: z.array(tailoringSchema).optional(),
      framework: z.string().optional(),
      only: z.array(z.string()).optional(),
    }),
  ),
  scope: z.strictObject({ title: z.string(), devices: z.array(z.string()) }).nullable(),
  computed: z.number(),
  remembered: z.number(),
  finishedAt: z.string().nullable(),
  snapshot: z.strictObject({ id: z.number(), title: z.string(), takenAt: z.string() }),
})
export type AuditView = z.infer<typeof auditView>

export const scoresView = z.strictObject({
  formulas: z.strictObject({ flat: z.string(), weighted: z.string() }),
  audits: z.array(
    z.strictObject({
      id: z.number(),
      snapshotId: z.number(),
      snapshot: z.string(),
      takenAt: z.string(),
      finishedAt: z.string().nullable(),
      scores: z.array(scoreSchema),
    }),
  ),
})
export type ScoresView = z.infer<typeof scoresView>

export const gridView = z.strictObject({
  rules: z.array(
    z.strictObject({
      benchmark: z.string(),
      id: z.string(),
      title: z.string(),
      topic: z.string(),
      severity: z.string(),
      references: z.array(z.string()),
    }),
  ),
  devices: z.array(z.strictObject({ id: z.number(), name: z.string(), facts: deviceFactsView })),
  /** Those whose requirements some rule cites, with the titles of these. */
  frameworks: z.array(
    z.strictObject({ id: z.string(), title: z.string(), requirements: z.record(z.string(), z.string()) }),
  ),
  cells: z.array(
    z.strictObject({
      id: z.number(),
      deviceId: z.number(),
      benchmark: z.string(),
      rule: z.string(),
      outcome: outcomeSchema,
      waived: z.boolean(),
      since: z.enum(['new', 'resolved', 'open']).nullable(),
    }),
  ),
  /** The audit that is compared with. */
  before: z.strictObject({ id: z.number(), finishedAt: z.string().nullable(), snapshot: z.string() }).nullable(),
})
export type GridView = z.infer<typeof gridView>

export const verdictView = z.strictObject({
  id: z.number(),
  auditId: z.number(),
  deviceId: z.number(),
  verdict: verdictSchema,
  rule: z
    .strictObject({
      title: z.string(),
      statement: z.string(),
      topic: z.string(),
      profile: z.string(),
      branches: z.array(z.strictObject({ id: z.string(), outcome: outcomeSchema })),
    })
    .optional(),
  values: z.array(z.strictObject({ name: z.string(), title: z.string(), value: z.string(), from: z.string() })),
  references: z.array(
    z.strictObject({ reference: z.string(), framework: z.string(), number: z.string(), title: z.string() }),
  ),
  finding: findingView,
})
export type VerdictView = z.infer<typeof verdictView>

export const verdictRow = z.strictObject({
  id: z.number(),
  deviceId: z.number(),
  device: z.string(),
  benchmark: z.string(),
  rule: z.string(),
  outcome: outcomeSchema,
  severity: z.string(),
  branch: z.string(),
  note: z.string(),
  waived: z.boolean(),
  /** Of the rule. */
  title: z.string(),
  finding: findingView.nullable(),
})
export type VerdictRow = z.infer<typeof verdictRow>

/** A page of the verdicts that are asked for, and how many there are. */
export const verdictPage = z.strictObject({
  total: z.number(),
  verdicts: z.array(verdictRow),
  before: z.strictObject({ id: z.number(), snapshot: z.string() }).nullable(),
})
export type VerdictPage = z.infer<typeof verdictPage>

/** Runs an audit of a snapshot against one or several benchmarks. */
export const runAudit = endpoint({
  method: 'post',
  path: '/engagements/:engagement/audits',
  access: 'run',
  summary: 'Runs an audit of a snapshot against one or several benchmarks',
  large: true,
  body: z.strictObject({
    snapshotId: z.int().positive(),
    choices: z
      .array(z.strictObject({ benchmark: z.string(), profile: z.string().optional() }))
      .max(10)
      .default([]),
    /** In the place of benchmarks: all rules and questions that speak to this framework. */
    framework: z.string().max(64).nullable().default(null),
    limit: limitSchema,
  }),
  response: jobView,
})

/** Runs an interrupted, stopped or failed job again. */
export const retryJob = endpoint({
  method: 'post',
  path: '/engagements/:engagement/jobs/:job/retry',
  access: 'run',
  summary: 'Runs an interrupted, stopped or failed job again',
  response: jobView,
})

/** One audit: snapshot, benchmarks and counts. */
export const getAudit = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit',
  access: 'read',
  summary: 'One audit: snapshot, benchmarks and counts',
  response: auditView,
})

/** The scores of every audit, with the formulas. */
export const listScores = endpoint({
  method: 'get',
  path: '/engagements/:engagement/scores',
  access: 'read',
  summary: 'The scores of every audit, with the formulas',
  response: scoresView,
})

/** Rules by devices, one outcome each. */
export const getGrid = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/grid',
  access: 'read',
  summary: 'Rules by devices, one outcome each',
  response: gridView,
})

/** Verdicts of an audit, filtered and paged. */
export const listVerdicts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/verdicts',
  access: 'read',
  summary: 'Verdicts of an audit, filtered and paged',
  query: page,
  response: verdictPage,
})

/** Verdicts of an audit that match a filter, as CSV. */
export const exportVerdicts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/verdicts.csv',
  access: 'read',
  summary: 'Verdicts of an audit that match a filter, as CSV',
  query: verdictFilter,
  file: 'text/csv',
})

/** One verdict: branch, evidence, missing and extra lines, remediation, references. */
export const getVerdict = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/verdicts/:verdict',
  access: 'read',
  summary: 'One verdict: branch, evidence, missing and extra lines, remediation, references',
  response: verdictView,
})

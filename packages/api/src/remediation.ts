import { z } from 'zod'
import { outcomeSchema } from './outcomes.ts'
import { endpoint } from './endpoint.ts'

export const ids = z.preprocess(
  (value) => (typeof value === 'string' && value !== '' ? value.split(',').map(Number) : undefined),
  z.array(z.int().positive()).max(1000).optional(),
)

export const remediationView = z.strictObject({
  benchmark: z.string(),
  rule: z.string(),
  title: z.string(),
  topic: z.string(),
  severity: z.enum(['info', 'low', 'medium', 'high']),
  device: z.string(),
  outcome: outcomeSchema,
  /** Lines that should be there. */
  wanted: z.array(z.string()),
  /** Lines that are there, with their numbers where they are cited. */
  there: z.array(z.string()),
  /** Commands to type, or none where only words help. */
  type: z.array(z.string()),
  /** What has to be done where no command is safe. */
  words: z.string(),
  why: z.string(),
  risk: z.string(),
  comment: z.string(),
  done: z.strictObject({ by: z.string(), at: z.string() }).nullable(),
  verdict: z.number(),
})
export type RemediationView = z.infer<typeof remediationView>

/** Remediation of an audit by device: lines wanted, lines present, commands, note, done. */
export const listRemediation = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/remediation',
  access: 'read',
  summary: 'Remediation of an audit by device: lines wanted, lines present, commands, note, done',
  query: z.object({ devices: ids }),
  response: z.array(remediationView),
})

/** Remediation plan as CSV or Markdown; secrets masked. */
export const downloadRemediation = endpoint({
  method: 'get',
  path: '/engagements/:engagement/audits/:audit/remediation.:format',
  access: 'read',
  summary: 'Remediation plan as CSV or Markdown; secrets masked',
  query: z.object({ devices: ids }),
  file: 'application/octet-stream',
})

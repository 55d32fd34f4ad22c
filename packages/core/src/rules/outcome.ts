import { z } from 'zod'

/** Outcomes of XCCDF 1.2 (NIST IR 7275 r4, §6.6.4.2). */
export const outcomeSchema = z.enum(['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked'])
export type Outcome = z.infer<typeof outcomeSchema>

export const severitySchema = z.enum(['info', 'low', 'medium', 'high'])
export type Severity = z.infer<typeof severitySchema>

/** `session`: the change may cut off the session that makes it; `traffic`: it may stop traffic. */
export const riskSchema = z.enum(['none', 'session', 'traffic'])
export type Risk = z.infer<typeof riskSchema>

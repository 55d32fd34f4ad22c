import { z } from 'zod'
import { outcomeSchema, riskSchema, severitySchema } from '../rules/index.ts'

/** Verdicts as JSON: what the command line prints, the server stores and sends, and reports are made of. Schema 1. */
export const exhibitSchema = z.object({
  record: z.string(),
  /** The device whose record it is, where that is not the one that is judged. */
  device: z.string().optional(),
  from: z.int(),
  to: z.int(),
  text: z.string(),
  absent: z.literal(true).optional(),
  /** First and last column of what is meant, where its line holds more. */
  columns: z.tuple([z.int(), z.int()]).optional(),
})

export const remedySchema = z.union([
  z.object({
    commands: z.array(z.string()),
    rollback: z.array(z.string()),
    risk: riskSchema,
    check: z.array(z.string()),
    /** What the rollback cannot restore. */
    unrestored: z.string().optional(),
  }),
  z.object({ words: z.string() }),
])
export type Remedy = z.infer<typeof remedySchema>

/** What to do, as text: words, or commands line by line; empty where there is nothing. */
export function remedyText(remedy: Remedy | null): string {
  if (remedy === null) return ''
  return 'words' in remedy ? remedy.words : remedy.commands.join('\n')
}

export const verdictSchema = z.object({
  device: z.string(),
  benchmark: z.string(),
  rule: z.string(),
  outcome: outcomeSchema,
  severity: severitySchema,
  branch: z.string(),
  note: z.string(),
  subjects: z.array(z.object({ name: z.string(), outcome: outcomeSchema, note: z.string() })),
  exhibits: z.array(exhibitSchema),
  missing: z.array(z.string()),
  extra: z.array(z.string()),
  remedy: remedySchema.nullable(),
  references: z.array(z.string()),
  /** The values of the benchmark that the rule reads, as they hold for this device, and who set them. */
  values: z.array(z.object({ name: z.string(), value: z.string(), from: z.string() })).default([]),
  /** The waivers that cover the verdict. They do not change its outcome. */
  waived: z
    .array(z.object({ subject: z.string().nullable(), reason: z.string(), owner: z.string(), expires: z.string() }))
    .optional(),
})
export type Verdict = z.infer<typeof verdictSchema>

/** A verdict that cites its lines without quoting them: most verdicts are stored and never opened. */
export const citingVerdictSchema = verdictSchema.extend({
  exhibits: z.array(exhibitSchema.extend({ text: z.string().optional() })),
})
export type CitingVerdict = z.infer<typeof citingVerdictSchema>
export type Citation = CitingVerdict['exhibits'][number]

/** The verdict of an expectation of traffic, with what it says in its own words. */
export const expectedSchema = verdictSchema.extend({ title: z.string(), statement: z.string() })
export type ExpectedVerdict = z.infer<typeof expectedSchema>

export const countsSchema = z.object({
  pass: z.int(),
  fail: z.int(),
  unknown: z.int(),
  error: z.int(),
  notapplicable: z.int(),
  notchecked: z.int(),
  notselected: z.int(),
  /** How many of the findings are waived. */
  waived: z.int().default(0),
})
export type Counts = z.infer<typeof countsSchema>

export const attestedSchema = z.object({
  benchmark: z.string(),
  id: z.string(),
  title: z.string(),
  topic: z.string(),
  severity: severitySchema,
  question: z.string(),
  evidence: z.string(),
  outcome: z.enum(['pass', 'fail', 'notapplicable', 'notchecked']),
  note: z.string(),
  by: z.string().nullable(),
  at: z.string().nullable(),
  until: z.string().nullable(),
  expired: z.boolean(),
  files: z.array(z.object({ name: z.string(), sha256: z.string() })),
  references: z.array(z.string()),
})

/** Scores of one benchmark by XCCDF's models; null where nothing was decided. */
export const scoreSchema = z.object({
  benchmark: z.string(),
  flat: z.object({ points: z.number(), of: z.number() }),
  weighted: z.number().nullable(),
})
export type Score = z.infer<typeof scoreSchema>

export const auditDocumentSchema = z.object({
  schema: z.literal(1),
  build: z.string(),
  benchmarks: z.array(z.object({ id: z.string(), title: z.string(), version: z.string(), profile: z.string() })),
  snapshot: z.object({ title: z.string(), takenAt: z.string().nullable() }),
  /** The framework whose rules and questions alone were asked, where it was one. */
  framework: z.string().optional(),
  /** What an audit of some devices only is limited to. */
  limitedTo: z.string().optional(),
  devices: z.array(z.object({ name: z.string(), dialect: z.string(), lines: z.int(), unread: z.int() })),
  records: z.array(
    z.object({
      id: z.string(),
      device: z.string(),
      kind: z.string(),
      path: z.string(),
      fingerprint: z.string(),
      takenAt: z.string().nullable(),
      timeSource: z.string(),
    }),
  ),
  refused: z.array(z.object({ path: z.string(), reason: z.string() })),
  verdicts: z.array(verdictSchema),
  /** Questions for people, with the answers that count. */
  attested: z.array(attestedSchema).default([]),
  /** Verdicts of expectations of traffic. */
  expected: z.array(expectedSchema).default([]),
  /** Rules left out, or of another severity than the benchmark states, with the reason. */
  tailored: z
    .array(z.object({ benchmark: z.string(), rule: z.string(), what: z.string(), reason: z.string(), by: z.string() }))
    .default([]),
  scores: z.array(scoreSchema).default([]),
  counts: countsSchema,
})
export type AuditDocument = z.infer<typeof auditDocumentSchema>

/** Whether an outcome is a finding: fail, unknown or error. */
export function isFinding(outcome: string): boolean {
  return outcome === 'fail' || outcome === 'unknown' || outcome === 'error'
}

export function noCounts(): Counts {
  return { pass: 0, fail: 0, unknown: 0, error: 0, notapplicable: 0, notchecked: 0, notselected: 0, waived: 0 }
}

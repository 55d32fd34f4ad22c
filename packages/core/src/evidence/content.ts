/** The files of a pack of evidence: what an audit rests on, in the forms that people and other programs read. */
import { z } from 'zod'
import { auditDocumentSchema, waiverSchema } from '../audit/index.ts'
import { attestationAnswerSchema, overrideSchema, tailoringSchema } from '../benchmarks/index.ts'

const value = z.union([z.string(), z.number(), z.array(z.string())])

/** A benchmark as it was fitted: `choices.json`. */
export const packedChoiceSchema = z.strictObject({
  /** The file that holds the benchmark as it was run. */
  file: z.string(),
  profile: z.string().nullable(),
  values: z.record(z.string(), value),
  overrides: z.array(overrideSchema),
  tailoring: z.array(tailoringSchema),
  /** Rules that were judged alone, such as those of a framework; null: all of the profile. */
  only: z.array(z.string()).nullable(),
})
export type PackedChoice = z.infer<typeof packedChoiceSchema>

/** What is said of a device beside its records: `facts.json`, by device. */
export const packedFactsSchema = z.record(
  z.string(),
  z.strictObject({
    labels: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])).default({}),
    groups: z.array(z.string()).optional(),
    site: z.string().optional(),
    sites: z.array(z.string()).optional(),
    role: z.string().optional(),
    model: z.string().optional(),
    os: z.string().optional(),
    version: z.string().optional(),
    managementAddress: z.string().optional(),
    dialect: z.string().optional(),
    approved: z.enum(['on', 'off', 'none', 'unknown']).optional(),
  }),
)
export type PackedFacts = z.infer<typeof packedFactsSchema>

/** When each record was captured: `records.json`. The id is the one that verdicts cite. */
export const packedRecordsSchema = z.array(
  z.strictObject({
    id: z.string(),
    device: z.string(),
    kind: z.string(),
    file: z.string(),
    takenAt: z.string().nullable(),
    timeSource: z.string(),
    /** Keyed hash of the record as it was captured, which equals the one in reports. */
    fingerprint: z.string(),
  }),
)
export type PackedRecords = z.infer<typeof packedRecordsSchema>

/** Files of a pack, by what they hold. */
export const AUDIT = 'audit.json'
export const CHOICES = 'choices.json'
export const FACTS = 'facts.json'
export const RECORDS = 'records.json'
export const WAIVERS = 'waivers.json'
export const ANSWERS = 'answers.json'
export const ACTIVITY = 'activity.json'
/** A snapshot folder, as imports take it; and the one before, where a rule compares with it. */
export const SNAPSHOT_FOLDER = 'snapshot/'
export const BEFORE_FOLDER = 'before/'
/** Files that people gave with their answers, by their SHA-256. */
export const ANSWER_FOLDER = 'answers/'

export const CONTENT_SCHEMAS = {
  [AUDIT]: auditDocumentSchema,
  [CHOICES]: z.array(packedChoiceSchema),
  [FACTS]: packedFactsSchema,
  [RECORDS]: packedRecordsSchema,
  [WAIVERS]: z.array(waiverSchema),
  [ANSWERS]: z.array(attestationAnswerSchema),
} as const

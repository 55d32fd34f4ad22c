import { z } from 'zod'
import type { AttestationSource, BenchmarkSource } from './benchmark.ts'

/** What a person has answered, with what was shown for it. */
export const attestationAnswerSchema = z.strictObject({
  benchmark: z.string(),
  attestation: z.string(),
  outcome: z.enum(['pass', 'fail', 'notapplicable']),
  note: z.string(),
  by: z.string(),
  /** RFC 3339. */
  at: z.iso.datetime({ offset: true }),
  until: z.iso.datetime({ offset: true }),
  files: z.array(z.strictObject({ name: z.string(), sha256: z.string() })).default([]),
  /** What another person said of it; left out where nobody did. An answer that was sent back does not count. */
  review: z
    .strictObject({
      outcome: z.enum(['accepted', 'returned']),
      note: z.string(),
      by: z.string(),
      at: z.iso.datetime({ offset: true }),
    })
    .optional(),
})
export type AttestationAnswer = z.infer<typeof attestationAnswerSchema>

/** A question to a person and the answer that counts at a time; `notchecked` while there is none. */
export interface Attested {
  readonly source: AttestationSource
  readonly benchmark: string
  readonly outcome: 'pass' | 'fail' | 'notapplicable' | 'notchecked'
  readonly answer: AttestationAnswer | null
  /** The last answer counts no more. */
  readonly expired: boolean
}

/** The attestations of a benchmark as they stand at a time: the last answer given before it counts, until it ends. */
export function answersTo(benchmark: BenchmarkSource, answers: readonly AttestationAnswer[], now: number): Attested[] {
  return benchmark.attestations.map((source) => {
    const own = answers.filter(
      (answer) => answer.benchmark === benchmark.id && answer.attestation === source.id && Date.parse(answer.at) <= now,
    )
    const last = own.sort((a, b) => Date.parse(a.at) - Date.parse(b.at)).at(-1) ?? null
    const expired = last !== null && Date.parse(last.until) <= now
    return {
      source,
      benchmark: benchmark.id,
      outcome: last && !expired && last.review?.outcome !== 'returned' ? last.outcome : 'notchecked',
      answer: last,
      expired,
    }
  })
}

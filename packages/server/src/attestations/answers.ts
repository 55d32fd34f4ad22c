import { attestationAnswerSchema, type AttestationAnswer } from '@jurybox/core/benchmarks'
import type { DataSource } from 'typeorm'
import { Attestations, type StoredAnswer } from './entity.ts'

/** Every answer that was given in an engagement. */
export async function answersIn(database: DataSource, engagementId: number): Promise<AttestationAnswer[]> {
  const rows = await database.getRepository(Attestations).find({ where: { engagementId }, order: { id: 'ASC' } })
  return rows.map(answerIn)
}

/** A stored answer as the core knows it. */
export function answerIn(row: StoredAnswer): AttestationAnswer {
  const { benchmark, attestation, outcome, note, files, answeredByName, at, until } = row
  return attestationAnswerSchema.parse({
    benchmark,
    attestation,
    outcome,
    note,
    files,
    by: answeredByName,
    at: at.toISOString(),
    until: until.toISOString(),
    ...(row.review === null || row.reviewedAt === null
      ? {}
      : {
          review: {
            outcome: row.review,
            note: row.reviewNote ?? '',
            by: row.reviewedByName ?? '',
            at: row.reviewedAt.toISOString(),
          },
        }),
  })
}

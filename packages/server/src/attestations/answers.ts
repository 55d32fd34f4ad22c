import { attestationAnswerSchema, type AttestationAnswer } from '@jurybox/core/benchmarks'
import type { DataSource } from 'typeorm'
import { Attestations } from './entity.ts'

/** Every answer that was given in an engagement. */
export async function answersIn(database: DataSource, engagementId: number): Promise<AttestationAnswer[]> {
  const rows = await database.getRepository(Attestations).find({ where: { engagementId }, order: { id: 'ASC' } })
  return rows.map(({ benchmark, attestation, outcome, note, files, answeredByName, at, until }) =>
    attestationAnswerSchema.parse({
      benchmark,
      attestation,
      outcome,
      note,
      files,
      by: answeredByName,
      at: at.toISOString(),
      until: until.toISOString(),
    }),
  )
}

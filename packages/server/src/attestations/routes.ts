import { answersTo, attestationAnswerSchema, type AttestationAnswer } from '@jurybox/core'
import type { DataSource } from 'typeorm'
import { z } from 'zod'
import { Attestations } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'
import { route } from '../http/route.ts'

const DAY = 86_400_000

/** Every answer that was given in an engagement. */
export async function answersIn(database: DataSource, engagementId: number): Promise<AttestationAnswer[]> {
  const rows = await database.getRepository(Attestations).find({ where: { engagementId }, order: { id: 'ASC' } })
  return rows.map(({ benchmark, attestation, outcome, note, files, answeredByName, at, until }) => attestationAnswerSchema.parse({ benchmark, attestation, outcome, note, files, by: answeredByName, at: at.toISOString(), until: until.toISOString() }))
}

export const attestationRoutes = [
  route({
    method: 'get',
    path: '/engagements/:engagement/attestations',
    access: 'read',
    summary: 'Questions that only a person can answer, with the answers that count now',
    handle: async ({ services, engagementId }) => {
      const answers = await answersIn(services.database, engagementId)
      const sources = (await services.benchmarks.allIn(engagementId)).map(({ benchmark }) => benchmark.source)
      return sources.flatMap((source) => answersTo(source, answers, Date.now()).map(({ source: question, benchmark, outcome, answer, expired }) => ({ benchmark, ...question, outcome, expired, answer })))
    },
  }),
  route({
    method: 'post',
    path: '/engagements/:engagement/attestations',
    access: 'attest',
    summary: 'Answers a question; earlier answers stay on record',
    body: z.strictObject({ benchmark: z.string(), attestation: z.string(), outcome: z.enum(['pass', 'fail', 'notapplicable']), note: z.string().trim().min(3).max(8000), files: z.array(z.strictObject({ name: z.string().min(1).max(255), sha256: z.string().regex(/^[\da-f]{64}$/) })).max(50).default([]), until: z.iso.datetime({ offset: true }).optional() }),
    handle: async ({ services, caller, engagementId, body }) => {
      const { source } = await services.benchmarks.inEngagement(engagementId, body.benchmark)
      const question = source.attestations.find(({ id }) => id === body.attestation)
      if (!question) throw new Problem(422, `There is no question "${body.attestation}" in "${body.benchmark}".`)
      const at = new Date()
      const until = body.until === undefined ? new Date(at.getTime() + question.days * DAY) : new Date(body.until)
      if (until <= at) throw new Problem(422, 'An answer has to count until some time to come.')
      await services.database.getRepository(Attestations).insert({ engagementId, benchmark: body.benchmark, attestation: body.attestation, outcome: body.outcome, note: body.note, files: body.files, answeredBy: caller.user.id, answeredByName: caller.user.fullName, at, until })
      await services.activity.add({ userId: caller.user.id, engagementId, action: 'attested', detail: { benchmark: body.benchmark, attestation: body.attestation, outcome: body.outcome, until: until.toISOString(), files: body.files } })
      return undefined
    },
  }),
]

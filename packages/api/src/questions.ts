import { attestationAnswerSchema } from '@jurybox/core/benchmarks'
import { outcomeSchema } from './outcomes.ts'
import { z } from 'zod'
import { endpoint } from './endpoint.ts'

export const questionView = z.strictObject({
  benchmark: z.string(),
  id: z.string(),
  title: z.string(),
  topic: z.string(),
  profile: z.string(),
  severity: z.string(),
  question: z.string(),
  evidence: z.string(),
  references: z.array(z.string()),
  days: z.number(),
  outcome: outcomeSchema,
  expired: z.boolean(),
  answer: attestationAnswerSchema
    .extend({
      id: z.number(),
      /** Whether whoever asks may review it: somebody else answered. */
      mayReview: z.boolean(),
    })
    .nullable(),
  /** Of whom an answer is asked, and until when; null: of nobody. */
  request: z
    .strictObject({
      id: z.number(),
      of: z.strictObject({ id: z.number(), name: z.string() }),
      /** `YYYY-MM-DD`. */
      due: z.string(),
      overdue: z.boolean(),
      note: z.string(),
      by: z.string(),
    })
    .nullable(),
})
export type QuestionView = z.infer<typeof questionView>

/** Questions that only a person can answer, each with the answer in force. */
export const listQuestions = endpoint({
  method: 'get',
  path: '/engagements/:engagement/attestations',
  access: 'read',
  summary: 'Questions that only a person can answer, each with the answer in force',
  response: z.array(questionView),
})

/** Stores files that an answer rests on, encrypted; an answer names them by SHA-256. */
export const uploadEvidence = endpoint({
  method: 'post',
  path: '/engagements/:engagement/evidence',
  access: 'attest',
  summary: 'Stores files that an answer rests on, encrypted; an answer names them by SHA-256',
  upload: true,
  body: z.strictObject({ paths: z.array(z.string().min(1).max(1000)).min(1, 'no files were sent').max(50) }),
  response: z.array(z.strictObject({ name: z.string(), sha256: z.string(), size: z.number() })),
})

/** One evidence file as it was uploaded. */
export const downloadEvidence = endpoint({
  method: 'get',
  path: '/engagements/:engagement/evidence/:sha256',
  access: 'read',
  summary: 'One evidence file as it was uploaded',
  file: 'application/octet-stream',
})

/** Answers a question; earlier answers stay on record. */
export const answerQuestion = endpoint({
  method: 'post',
  path: '/engagements/:engagement/attestations',
  access: 'attest',
  summary: 'Answers a question; earlier answers stay on record',
  body: z.strictObject({
    benchmark: z.string(),
    attestation: z.string(),
    outcome: z.enum(['pass', 'fail', 'notapplicable']),
    note: z.string().trim().min(3).max(8000),
    files: z
      .array(z.strictObject({ name: z.string().min(1).max(255), sha256: z.string().regex(/^[\da-f]{64}$/) }))
      .max(50)
      .default([]),
    until: z.iso.datetime({ offset: true }).optional(),
  }),
})

/** Asks a member for an answer until a day; asking again replaces the request. */
export const requestAnswer = endpoint({
  method: 'put',
  path: '/engagements/:engagement/answer-requests',
  access: 'run',
  summary: 'Asks a member for an answer until a day; asking again replaces the request',
  body: z.strictObject({
    benchmark: z.string(),
    attestation: z.string(),
    /** A member who may answer. */
    of: z.int().positive(),
    due: z.iso.date(),
    note: z.string().trim().max(4000).default(''),
  }),
})

/** Withdraws a request for an answer. */
export const withdrawRequest = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/answer-requests/:request',
  access: 'run',
  summary: 'Withdraws a request for an answer',
})

/** Accepts an answer of another person, or sends it back: then it does not count. */
export const reviewAnswer = endpoint({
  method: 'put',
  path: '/engagements/:engagement/attestations/:answer/review',
  access: 'run',
  summary: 'Accepts an answer of another person, or sends it back: then it does not count',
  body: z.strictObject({ outcome: z.enum(['accepted', 'returned']), note: z.string().trim().max(4000).default('') }),
})

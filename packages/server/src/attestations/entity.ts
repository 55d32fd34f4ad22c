import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

export interface StoredAnswer {
  id: number
  engagementId: number
  benchmark: string
  attestation: string
  outcome: 'pass' | 'fail' | 'notapplicable'
  note: string
  files: { name: string; sha256: string }[]
  answeredBy: number
  answeredByName: string
  at: Date
  until: Date
  review: 'accepted' | 'returned' | null
  reviewNote: string | null
  reviewedBy: number | null
  reviewedByName: string | null
  reviewedAt: Date | null
}
export const Attestations = new EntitySchema<StoredAnswer>({
  name: 'attestations',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    attestation: text('attestation'),
    outcome: text('outcome'),
    note: { type: 'text', name: 'note' },
    files: json('files'),
    answeredBy: int('answered_by'),
    answeredByName: text('answered_by_name'),
    at: time('at'),
    until: time('until'),
    review: { ...text('review'), nullable: true },
    reviewNote: { type: 'text', name: 'review_note', nullable: true },
    reviewedBy: { ...int('reviewed_by'), nullable: true },
    reviewedByName: { ...text('reviewed_by_name'), nullable: true },
    reviewedAt: time('reviewed_at', true),
  },
})

/** An answer that somebody is asked for; it goes when the question is answered. */
export interface AnswerRequest {
  id: number
  engagementId: number
  benchmark: string
  attestation: string
  askedOf: number
  /** `YYYY-MM-DD`: the last day on which it is not overdue. */
  dueOn: string
  note: string
  askedBy: number
  askedByName: string
  askedAt: Date
}
export const AnswerRequests = new EntitySchema<AnswerRequest>({
  name: 'answer_requests',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    attestation: text('attestation'),
    askedOf: int('asked_of'),
    dueOn: { type: 'date', name: 'due_on' },
    note: { type: 'text', name: 'note' },
    askedBy: int('asked_by'),
    askedByName: text('asked_by_name'),
    askedAt: time('asked_at'),
  },
})

/** A file that an answer of a person rests on; its content is kept sealed like that of a record. */
export interface EvidenceFile {
  engagementId: number
  sha256: string
  name: string
  size: number
  broughtBy: number
  createdAt: Date
}
export const EvidenceFiles = new EntitySchema<EvidenceFile>({
  name: 'evidence',
  columns: {
    engagementId: key(int('engagement_id')),
    sha256: key(text('sha256')),
    name: text('name'),
    size: int('size'),
    broughtBy: int('brought_by'),
    createdAt: time('created_at'),
  },
})

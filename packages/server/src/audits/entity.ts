import type { Counts, Score } from '@jurybox/core/audit'
import type { Override, Tailoring } from '@jurybox/core/benchmarks'
import type { Outcome } from '@jurybox/core/rules'
import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

export interface AuditChoice {
  benchmark: string
  hash: string
  profile: string
  values: Record<string, string | number | string[]>
  overrides?: Override[]
  tailoring?: Tailoring[]
  /** The framework that the audit is for, and the rules that speak to it; all rules where left out. */
  framework?: string
  only?: string[]
}

/** What an audit is limited to. */
export interface AuditScope {
  /** As it was chosen: a group, a model or names. */
  readonly title: string
  readonly devices: readonly string[]
}

export interface Audit {
  id: number
  engagementId: number
  snapshotId: number
  jobId: number
  build: string
  choices: AuditChoice[]
  /** Null until the audit is complete: nothing half-written is a result. */
  counts: Counts | null
  /** The devices that it is limited to; null where it judged all. */
  scope: AuditScope | null
  /** Computed when first asked for: nothing that it rests on changes. */
  scores: Score[] | null
  computed: number
  remembered: number
  /** Of what all its devices answered; empty where no rule asks across devices. */
  estateHash: string
  createdBy: number
  createdAt: Date
  finishedAt: Date | null
}
export const Audits = new EntitySchema<Audit>({
  name: 'audits',
  columns: {
    id,
    engagementId: int('engagement_id'),
    snapshotId: int('snapshot_id'),
    jobId: int('job_id'),
    build: text('build'),
    choices: json('choices'),
    counts: { ...json('counts'), nullable: true },
    scope: { ...json('scope'), nullable: true },
    scores: { ...json('scores'), nullable: true },
    computed: int('computed'),
    remembered: int('remembered'),
    estateHash: text('estate_hash'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    finishedAt: time('finished_at', true),
  },
})

/** A verdict as an audit names it; read from a view over what its devices came to. */
export interface StoredVerdict {
  id: number
  judgementId: number
  auditId: number
  deviceId: number
  device: string
  benchmark: string
  rule: string
  outcome: Outcome
  severity: string
  branch: string
  note: string
  /** Where its rule stands among all rules of the audit. */
  place: number
  /** The requirements that its rule serves. */
  requirements: string[]
  /** The whole verdict as JSON, masked and sealed; it knows the records by their places among those of the device. */
  sealed: Buffer
  /** Ids of the records that the device was judged by, and of those in the snapshot before. */
  records: number[]
  beforeRecords: number[]
}
export const Verdicts = new EntitySchema<StoredVerdict>({
  name: 'audit_verdicts',
  columns: {
    id,
    judgementId: int('judgement_id'),
    auditId: int('audit_id'),
    deviceId: int('device_id'),
    device: text('device'),
    benchmark: text('benchmark'),
    rule: text('rule'),
    outcome: text('outcome'),
    severity: text('severity'),
    branch: text('branch'),
    note: { type: 'text', name: 'note' },
    place: int('place'),
    requirements: json('requirements'),
    sealed: { type: 'mediumblob' },
    records: json('records'),
    beforeRecords: json('before_records'),
  },
})

/**
 * What one device came to, under everything that it depends on; any number of audits may name it. Its verdicts, which
 * are never changed, stand in the table `verdicts`.
 */
export interface Judgement {
  id: number
  memoKey: string
  /** Null where no answer rests on the time. */
  validUntil: Date | null
  /** How many verdicts there are of each outcome. */
  counts: Counts
  /** What the device answers to questions across devices. */
  answers: Buffer
  answersHash: string
  /**
   * The answers of all devices under which it was found, or found again, to hold; empty where it does not ask for them.
   */
  estateHash: string
  /** What it looked up in the answers of all devices, as JSON. */
  seen: string
  /** What its looks rest on, as numbers of 64 bits: where none of them was altered, they need not be taken again. */
  restsOn: Buffer
}
export const Judgements = new EntitySchema<Judgement>({
  name: 'judgements',
  columns: {
    id,
    memoKey: text('memo_key'),
    validUntil: time('valid_until', true),
    counts: json('counts'),
    answers: { type: 'longblob' },
    answersHash: text('answers_hash'),
    estateHash: text('estate_hash'),
    seen: { type: 'mediumtext', name: 'seen' },
    restsOn: { type: 'mediumblob', name: 'rests_on' },
  },
})

export interface AuditJudgement {
  auditId: number
  judgementId: number
  deviceId: number
  records: number[]
  beforeRecords: number[]
}
export const AuditJudgements = new EntitySchema<AuditJudgement>({
  name: 'audit_judgements',
  columns: {
    auditId: key(int('audit_id')),
    judgementId: key(int('judgement_id')),
    deviceId: int('device_id'),
    records: json('records'),
    beforeRecords: json('before_records'),
  },
})

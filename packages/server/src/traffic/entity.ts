import { EntitySchema } from 'typeorm'
import { int, key, text, time } from '../db/columns.ts'

/** What an engagement states beside its devices, as YAML: known links, and what is expected of traffic. */
export interface TrafficFile {
  engagementId: number
  kind: 'links' | 'expectations'
  text: string
  setBy: number
  setAt: Date
}
export const TrafficFiles = new EntitySchema<TrafficFile>({
  name: 'traffic_files',
  columns: {
    engagementId: key(int('engagement_id')),
    kind: key(text('kind')),
    text: { type: 'mediumtext', name: 'text' },
    setBy: int('set_by'),
    setAt: time('set_at'),
  },
})

/** Whether an expectation held in a snapshot. */
export interface TrafficOutcome {
  snapshotId: number
  /** Of everything that the answer rests on. */
  answerKey: string
  expectation: string
  /** Of the expectation as it is stated. */
  statedHash: string
  outcome: 'met' | 'violated' | 'undecided'
}
export const TrafficOutcomes = new EntitySchema<TrafficOutcome>({
  name: 'traffic_outcomes',
  columns: {
    snapshotId: key(int('snapshot_id')),
    expectation: key(text('expectation')),
    answerKey: text('answer_key'),
    statedHash: text('stated_hash'),
    outcome: text('outcome'),
  },
})

/** That an expectation which never held is meant, as it is stated. */
export interface TrafficConfirmation {
  engagementId: number
  expectation: string
  /** Of the expectation as it was stated then: another one is to be confirmed again. */
  statedHash: string
  confirmedBy: number
  confirmedAt: Date
}
export const TrafficConfirmations = new EntitySchema<TrafficConfirmation>({
  name: 'traffic_confirmations',
  columns: {
    engagementId: key(int('engagement_id')),
    expectation: key(text('expectation')),
    statedHash: text('stated_hash'),
    confirmedBy: int('confirmed_by'),
    confirmedAt: time('confirmed_at'),
  },
})

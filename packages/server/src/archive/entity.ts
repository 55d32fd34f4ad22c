import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

/** A word by which people know a snapshot: `approved`, `before window 7`. */
export interface SnapshotTag {
  snapshotId: number
  tag: string
  setBy: number
  setAt: Date
}
export const SnapshotTags = new EntitySchema<SnapshotTag>({
  name: 'snapshot_tags',
  columns: { snapshotId: key(int('snapshot_id')), tag: key(text('tag')), setBy: int('set_by'), setAt: time('set_at') },
})

/** How long snapshots are kept; the longest of what is said of one counts. */
export interface Retention {
  engagementId: number
  /** Days; null: for good. */
  days: number | null
  /** The same by tag. */
  tags: Record<string, number | null>
  /** Days for which what a report or a signed pack cites cannot be deleted; null: for good. */
  evidenceDays: number | null
  setBy: number
  setAt: Date
}
export const Retentions = new EntitySchema<Retention>({
  name: 'retentions',
  columns: {
    engagementId: key(int('engagement_id')),
    days: { ...int('days'), nullable: true },
    tags: json('tags'),
    evidenceDays: { ...int('evidence_days'), nullable: true },
    setBy: int('set_by'),
    setAt: time('set_at'),
  },
})

/** Nothing that it covers is deleted, whatever its age, until a lead releases it. */
export interface Hold {
  id: number
  engagementId: number
  /** Null: every snapshot of the engagement. */
  snapshotId: number | null
  reason: string
  setBy: number
  setByName: string
  setAt: Date
}
export const Holds = new EntitySchema<Hold>({
  name: 'holds',
  columns: {
    id,
    engagementId: int('engagement_id'),
    snapshotId: { ...int('snapshot_id'), nullable: true },
    reason: { type: 'text', name: 'reason' },
    setBy: int('set_by'),
    setByName: text('set_by_name'),
    setAt: time('set_at'),
  },
})

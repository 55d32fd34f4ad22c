import { EntitySchema } from 'typeorm'
import { int, json, key, text, time } from '../db/columns.ts'

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
  setBy: number
  setAt: Date
}
export const Retentions = new EntitySchema<Retention>({
  name: 'retentions',
  columns: {
    engagementId: key(int('engagement_id')),
    days: { ...int('days'), nullable: true },
    tags: json('tags'),
    setBy: int('set_by'),
    setAt: time('set_at'),
  },
})

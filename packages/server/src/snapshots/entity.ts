import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

export interface Content {
  sha256: string
  size: number
  body: Buffer
}
export const Contents = new EntitySchema<Content>({
  name: 'contents',
  columns: { sha256: key(text('sha256')), size: int('size'), body: { type: 'longblob' } },
})

export interface StoredRecord {
  id: number
  deviceId: number
  kind: string
  path: string
  sha256: string
  dialect: string
  lineCount: number
  /** Numbers of the lines that no reader used. */
  unread: number[]
  /** The build that counted them. */
  readBy: string
  /** SHA-256 of the text without what its listing says of itself: a change of it is a change of the configuration. */
  settled: string
  faults: { line: number; reason: string }[]
  takenAt: Date | null
  timeSource: 'stated' | 'listing' | 'unknown'
  broughtBy: number
  createdAt: Date
}
export const Records = new EntitySchema<StoredRecord>({
  name: 'records',
  columns: {
    id,
    deviceId: int('device_id'),
    kind: text('kind'),
    path: text('path'),
    sha256: text('sha256'),
    dialect: text('dialect'),
    lineCount: int('line_count'),
    unread: json('unread'),
    readBy: text('read_by'),
    settled: text('settled'),
    faults: json('faults'),
    takenAt: time('taken_at', true),
    timeSource: text('time_source'),
    broughtBy: int('brought_by'),
    createdAt: time('created_at'),
  },
})

export interface SnapshotRow {
  id: number
  engagementId: number
  title: string
  note: string
  takenAt: Date
  /** `step`: where collecting a device stopped; what was refused for another reason has none. */
  refused: { path: string; reason: string; step?: string }[]
  createdBy: number
  createdAt: Date
}
export const Snapshots = new EntitySchema<SnapshotRow>({
  name: 'snapshots',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    note: { type: 'text', name: 'note' },
    takenAt: time('taken_at'),
    refused: json('refused'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

export interface SnapshotRecord {
  snapshotId: number
  recordId: number
  /** Carried over from the snapshot before, with its own age. */
  carried: boolean
}
export const SnapshotRecords = new EntitySchema<SnapshotRecord>({
  name: 'snapshot_records',
  columns: {
    snapshotId: key(int('snapshot_id')),
    recordId: key(int('record_id')),
    carried: { type: 'boolean', name: 'carried' },
  },
})

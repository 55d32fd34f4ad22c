import { EntitySchema } from 'typeorm'
import { id, int, key, text, time } from '../db/columns.ts'

/** What an engagement states of changes, as YAML: noise, checks, references. Each version stays. */
export interface ChangeFile {
  engagementId: number
  kind: 'noise' | 'checks' | 'references'
  version: number
  text: string
  setBy: number
  setByName: string
  setAt: Date
}
export const ChangeFiles = new EntitySchema<ChangeFile>({
  name: 'change_files',
  columns: {
    engagementId: key(int('engagement_id')),
    kind: key(text('kind')),
    version: key(int('version')),
    text: { type: 'mediumtext', name: 'text' },
    setBy: int('set_by'),
    setByName: text('set_by_name'),
    setAt: time('set_at'),
  },
})

/** That a device said that its configuration was changed, and by whom. */
export interface ChangeMessage {
  id: number
  engagementId: number
  device: string
  at: Date
  author: string | null
  place: string | null
  /** The message, secrets masked. */
  text: string
}
export const ChangeMessages = new EntitySchema<ChangeMessage>({
  name: 'change_messages',
  columns: {
    id,
    engagementId: int('engagement_id'),
    device: text('device'),
    at: time('at'),
    author: { ...text('author'), nullable: true },
    place: { ...text('place'), nullable: true },
    text: { type: 'text', name: 'text' },
  },
})

/** That somebody approved the configuration of a device as it is in a snapshot. */
export interface ApprovedState {
  id: number
  engagementId: number
  deviceId: number
  /** Of the configuration, without what its listing says of itself. */
  settled: string
  /** Null where that snapshot was deleted. */
  snapshotId: number | null
  reason: string
  approvedBy: number
  approvedByName: string
  approvedAt: Date
}
export const ApprovedStates = new EntitySchema<ApprovedState>({
  name: 'approved_states',
  columns: {
    id,
    engagementId: int('engagement_id'),
    deviceId: int('device_id'),
    settled: text('settled'),
    snapshotId: { ...int('snapshot_id'), nullable: true },
    reason: { type: 'text', name: 'reason' },
    approvedBy: int('approved_by'),
    approvedByName: text('approved_by_name'),
    approvedAt: time('approved_at'),
  },
})

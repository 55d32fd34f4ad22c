import type { FoundDevice, SightingKind } from '@jurybox/core/estate'
import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** What a discovery found out about a device, until somebody has decided on it. */
export interface StoredSighting {
  id: number
  engagementId: number
  jobId: number
  kind: SightingKind | 'vanished'
  /** The device that it is, or is taken for. */
  device: string
  /** Null of a device that was not found. */
  found: FoundDevice | null
  why: string
  state: 'waiting' | 'taken' | 'left'
  decidedByName: string
  decidedAt: Date | null
  createdAt: Date
}
export const Sightings = new EntitySchema<StoredSighting>({
  name: 'sightings',
  columns: {
    id,
    engagementId: int('engagement_id'),
    jobId: int('job_id'),
    kind: text('kind'),
    device: text('device'),
    found: { ...json('found'), nullable: true },
    why: { type: 'text', name: 'why' },
    state: text('state'),
    decidedByName: text('decided_by_name'),
    decidedAt: time('decided_at', true),
    createdAt: time('created_at'),
  },
})

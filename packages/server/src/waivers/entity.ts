import { EntitySchema } from 'typeorm'
import { id, int, text, time } from '../db/columns.ts'

export interface StoredWaiver {
  id: number
  engagementId: number
  benchmark: string
  rule: string
  device: string | null
  subject: string | null
  reason: string
  owner: string
  expires: Date
  createdBy: number
  createdAt: Date
  /** When it was taken back. */
  endedAt: Date | null
}
export const Waivers = new EntitySchema<StoredWaiver>({
  name: 'waivers',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    rule: text('rule'),
    device: { ...text('device'), nullable: true },
    subject: { ...text('subject'), nullable: true },
    reason: { type: 'text', name: 'reason' },
    owner: text('owner'),
    expires: time('expires'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    endedAt: time('ended_at', true),
  },
})

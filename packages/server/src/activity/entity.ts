import { EntitySchema } from 'typeorm'
import { id, int, text, time } from '../db/columns.ts'

export interface ActivityEntry {
  id: number
  at: Date
  userId: number | null
  engagementId: number | null
  action: string
  detail: string
  previous: string
  hash: string
}
export const Activities = new EntitySchema<ActivityEntry>({
  name: 'activity',
  columns: {
    id,
    at: time('at'),
    userId: { ...int('user_id'), nullable: true },
    engagementId: { ...int('engagement_id'), nullable: true },
    action: text('action'),
    detail: { type: 'mediumtext', name: 'detail' },
    previous: text('previous'),
    hash: text('hash'),
  },
})

import { EntitySchema } from 'typeorm'
import { id, int, text, time } from '../db/columns.ts'

/** Devices for which a filter holds, or that a search finds. */
export interface SavedGroup {
  id: number
  engagementId: number
  title: string
  kind: 'filter' | 'search'
  text: string
  /** Counted on the overview. */
  counted: boolean
  createdBy: number
  createdAt: Date
}
export const Groups = new EntitySchema<SavedGroup>({
  name: 'saved_groups',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    kind: text('kind'),
    text: { type: 'text', name: 'text' },
    counted: { type: 'boolean', name: 'counted' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** A view of a table that the members of an engagement share: its sort, filters and columns. */
export interface SavedView {
  id: number
  engagementId: number
  sheet: string
  title: string
  query: Record<string, string>
  createdBy: number
  createdAt: Date
}
export const SavedViews = new EntitySchema<SavedView>({
  name: 'saved_views',
  columns: {
    id,
    engagementId: int('engagement_id'),
    sheet: text('sheet'),
    title: text('title'),
    query: json('query'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

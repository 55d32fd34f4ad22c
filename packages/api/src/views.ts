import { z } from 'zod'
import { endpoint } from './endpoint.ts'
import { lineOf } from './text.ts'

export const savedViewRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  /** This table's part of the address: sort, filters, hidden columns. */
  query: z.record(z.string(), z.string()),
  by: z.string(),
})
export type SavedViewRow = z.infer<typeof savedViewRow>

/** Name of a table. */
const sheet = z.string().regex(/^[a-z0-9-]{1,40}$/, 'the name of a table')

/** Saved views of a table, which all members share. */
export const listViews = endpoint({
  method: 'get',
  path: '/engagements/:engagement/views',
  access: 'read',
  summary: 'Saved views of a table, which all members share',
  query: z.object({ sheet }),
  response: z.array(savedViewRow),
})

/** Saves a view of a table for all members; one of the same title is replaced. */
export const saveView = endpoint({
  method: 'post',
  path: '/engagements/:engagement/views',
  access: 'describe',
  summary: 'Saves a view of a table for all members; one of the same title is replaced',
  body: z.strictObject({ sheet, title: lineOf(80), query: z.record(z.string().max(80), z.string().max(400)) }),
  response: savedViewRow,
})

/** Deletes a saved view. */
export const deleteView = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/views/:view',
  access: 'describe',
  summary: 'Deletes a saved view',
})

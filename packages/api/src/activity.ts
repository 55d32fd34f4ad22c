import { z } from 'zod'

/** Columns that the audit log is sorted and filtered by. */
export const ACTIVITY_COLUMNS = ['at', 'user', 'action', 'words'] as const
export type ActivityColumn = (typeof ACTIVITY_COLUMNS)[number]

const part = z.string().max(200).optional()

/** Which entries of the audit log are asked for; `f.` begins the text that a column must hold. */
export const activityFilter = z.object({
  sort: z.enum([...ACTIVITY_COLUMNS, ...ACTIVITY_COLUMNS.map((column) => `-${column}` as const)]).optional(),
  'f.at': part,
  'f.user': part,
  'f.action': part,
  'f.words': part,
})
export type ActivityFilter = z.infer<typeof activityFilter>

export const activityPage = activityFilter.extend({
  limit: z.coerce.number().int().min(1).max(500).default(100),
  offset: z.coerce.number().int().min(0).max(1_000_000_000).default(0),
})

export const activityView = z.strictObject({
  /** Id of the first entry at which the chain of hashes is broken; null where it is whole. */
  firstBreak: z.number().nullable(),
  /** Of those that are asked for. */
  total: z.number(),
  entries: z.array(
    z.strictObject({
      id: z.number(),
      at: z.string(),
      user: z.string().nullable(),
      action: z.string(),
      /** A sentence for people. */
      words: z.string(),
      detail: z.unknown(),
      hash: z.string(),
    }),
  ),
})
export type ActivityView = z.infer<typeof activityView>

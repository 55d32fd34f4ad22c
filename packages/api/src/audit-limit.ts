import { z } from 'zod'

/** What an audit can be limited to; null: nothing. */
export const limitSchema = z
  .union([
    z.strictObject({ devices: z.array(z.string().max(160)).min(1).max(5000) }),
    z.strictObject({ group: z.string().max(160) }),
    z.strictObject({ model: z.string().max(160) }),
  ])
  .nullable()
  .default(null)
export type Limit = z.infer<typeof limitSchema>

import { z } from 'zod'

/** What a sample can be stratified by. */
export const STRATA = ['model', 'site'] as const

/** A sample of the devices, or of those of a group, that anybody draws again from its seed. */
export const sampleSchema = z.strictObject({
  size: z.int().min(1).max(5000),
  seed: z.string().min(1).max(60),
  group: z.string().max(160).optional(),
  by: z.array(z.enum(STRATA)).max(2).default([]),
})

/** What an audit can be limited to; null: nothing. */
export const limitSchema = z
  .union([
    z.strictObject({ devices: z.array(z.string().max(160)).min(1).max(5000) }),
    z.strictObject({ group: z.string().max(160) }),
    z.strictObject({ model: z.string().max(160) }),
    z.strictObject({ sample: sampleSchema }),
  ])
  .nullable()
  .default(null)
export type Limit = z.infer<typeof limitSchema>

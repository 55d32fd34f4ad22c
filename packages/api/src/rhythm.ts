import { z } from 'zod'

/** When something is done again, as people say it. */
export const rhythmSchema = z.discriminatedUnion('every', [
  z.strictObject({ every: z.literal('day'), at: z.iso.time({ precision: -1 }) }),
  z.strictObject({ every: z.literal('week'), on: z.int().min(1).max(7), at: z.iso.time({ precision: -1 }) }),
  /** The first, second, … or last such day of a month; 5 is the last. */
  z.strictObject({
    every: z.literal('month'),
    which: z.int().min(1).max(5),
    on: z.int().min(1).max(7),
    at: z.iso.time({ precision: -1 }),
  }),
  z.strictObject({ every: z.literal('cron'), cron: z.string().min(1).max(120) }),
])
export type Rhythm = z.infer<typeof rhythmSchema>

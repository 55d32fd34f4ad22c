import { z } from 'zod'

/** What the server answers of the estate as a whole. */
export const place = z.strictObject({ record: z.number(), from: z.number(), to: z.number() })
export type Place = z.infer<typeof place>

/** Where a value of the model is from. What no line and no default states has no origin: it is absent. */
export const origin = z.union([
  z.strictObject({
    kind: z.literal('line'),
    record: z.string(),
    lines: z.array(
      z.strictObject({ from: z.number(), to: z.number(), columns: z.tuple([z.number(), z.number()]).optional() }),
    ),
  }),
  z.strictObject({ kind: z.literal('default'), source: z.string() }),
])
export type Origin = z.infer<typeof origin>

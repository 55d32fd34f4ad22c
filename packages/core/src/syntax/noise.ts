import { z } from 'zod'

const id = z.string().regex(/^[a-z][a-z0-9-]{0,60}$/, 'lower-case words with hyphens')
const pattern = z.string().min(1).max(300)

/**
 * What differs by itself and tells nothing (common practice). One form for what ships with a dialect and for what
 * people add for an engagement (docs/formats/noise.md).
 */
export const noiseRuleSchema = z.union([
  z.strictObject({
    id,
    title: z.string().min(1).max(160),
    /** RE2 pattern over a statement, `no` included. */
    statement: pattern,
    /** RE2 pattern over the openers of the blocks around it, one of which has to match; left out: any place. */
    block: pattern.optional(),
    /** `statement`: it is left out; `match`: only the part that the pattern matches. */
    ignore: z.enum(['statement', 'match']).default('statement'),
    /** Dialects it holds for; left out: all. */
    dialects: z.array(z.string()).optional(),
  }),
  z.strictObject({
    id,
    title: z.string().min(1).max(160),
    /** A table of the state and a field of its rows: `interfaces.counters`. */
    state: z.string().regex(/^[a-zA-Z]+\.[a-zA-Z.]+$/, 'TABLE.FIELD'),
  }),
])
export type NoiseRule = z.infer<typeof noiseRuleSchema>
export type StatementNoise = Extract<NoiseRule, { statement: string }>

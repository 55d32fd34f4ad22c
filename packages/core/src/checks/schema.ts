import { z } from 'zod'
import { LISTS, STATE_TABLES } from '../compare/index.ts'
import { expressionText as expression } from '../rules/index.ts'

/**
 * What must hold between A and B:
 * - `same`: every row is on both sides with the same value · `kept`: what was there is there still, with the same value
 * - `no-new`: nothing appeared · `appeared`, `vanished`: something did
 * - `within`: apart by at most `by`, or `percent` of what it was
 * - `may-grow`: not less than it was · `not-grown`: not more
 * - `holds`: the value is true of every row of B
 */
export const CHECK_TERMS = [
  'same',
  'kept',
  'no-new',
  'appeared',
  'vanished',
  'within',
  'may-grow',
  'not-grown',
  'holds',
] as const
export type CheckTerm = (typeof CHECK_TERMS)[number]

/** Tables of the network as a whole, whose rows whoever asks brings along. */
export const NETWORK_TABLES = ['flows', 'expectations', 'findings'] as const

/** What a check can be about, as it is written. */
export const CHECK_TABLES: readonly string[] = [
  ...STATE_TABLES.map(({ id }) => `state.${id}`),
  ...Object.entries(LISTS).flatMap(([path, { key, asSets }]) => (key.length > 0 && !asSets ? [`model.${path}`] : [])),
  ...NETWORK_TABLES,
]

/** One check on change: rows of a table of A and B, paired by their keys, and what must hold of each pair. */
export const checkSchema = z
  .strictObject({
    id: z.string().regex(/^[a-z][a-z0-9-]{0,60}$/, 'lower-case words with hyphens'),
    title: z.string().min(1).max(160),
    topic: z.string().min(1).max(60),
    of: z
      .string()
      .refine((table) => CHECK_TABLES.includes(table), {
        error: ({ input }) => `there is no table "${String(input)}" (there are: ${CHECK_TABLES.join(', ')})`,
      }),
    /** CEL over `row`: the rows that it is about; left out: all. */
    where: expression.optional(),
    /** CEL over `row`: what is compared; left out: whether the row is there. */
    value: expression.optional(),
    /** CEL over `row`: how many rows there are of each of its values is compared, in place of the rows. */
    count: expression.optional(),
    is: z.enum(CHECK_TERMS),
    by: z.number().min(0).optional(),
    percent: z.number().min(0).max(1000).optional(),
    /** Seconds after the change within which it may still be pending. */
    settles: z.int().min(1).max(86_400).optional(),
  })
  .superRefine(({ is, by, percent, value, count }, context) => {
    const wrong = (message: string): void => context.addIssue({ code: 'custom', message })
    if (is === 'within' && (by === undefined) === (percent === undefined))
      wrong('"within" asks for "by" or "percent", one of the two')
    if (is !== 'within' && (by !== undefined || percent !== undefined)) wrong('"by" and "percent" go with "within"')
    if (['within', 'may-grow', 'not-grown'].includes(is) && value === undefined && count === undefined)
      wrong(`"${is}" asks for "value" or "count"`)
    if (is === 'holds' && value === undefined) wrong('"holds" asks for "value"')
    if (count !== undefined && (value !== undefined || is === 'holds')) wrong('"count" goes without "value"')
  })
export type Check = z.infer<typeof checkSchema>

/** Checks by the kind of work that they go with. */
export const checkSetSchema = z.strictObject({
  id: z.string().regex(/^[a-z][a-z0-9-]{0,60}$/, 'lower-case words with hyphens'),
  title: z.string().min(1).max(160),
  checks: z.array(z.string()).min(1).max(300),
})
export type CheckSet = z.infer<typeof checkSetSchema>

/** `checks.yaml`: checks of one's own, and sets of those and of shipped ones. */
export const checksFileSchema = z.strictObject({
  checks: z.array(checkSchema).max(300).default([]),
  sets: z.array(checkSetSchema).max(50).default([]),
})
export type ChecksFile = z.infer<typeof checksFileSchema>

import { z } from 'zod'
import { inBlocks } from '../blocks.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { Finding, searched } from '../evidence.ts'
import { LineMatcher } from '../line-matcher.ts'
import { placesOfStatements } from '../lines.ts'
import { IN_FIELD, eitherOf, expressionsOf, inWords, patternsSchema, whereWords } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

const countSchema = z.strictObject({
  of: patternsSchema,
  where: z.string().optional(),
  atLeast: z.int().optional(),
  atMost: z.int().optional(),
})
type Count = z.infer<typeof countSchema>

/** How many lines match; binds `count`. */
export const count = conditionKind({
  key: 'count',
  schema: () => z.strictObject({ count: countSchema, in: patternsSchema.optional() }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: expressionsOf(condition.count.where) }),
  compile: (condition) => inBlocks(condition.in, compileCount(condition.count)),
  words: ({ count: { of, where, atLeast, atMost }, in: chain }) =>
    `there are ${boundsWords(atLeast, atMost)} lines ${eitherOf(of)}${inWords(chain)}${whereWords(where)}`,
  form: {
    title: 'so many lines',
    fields: [
      { path: ['count', 'of'], title: 'Line', as: 'patterns' },
      { path: ['count', 'atLeast'], title: 'At least', as: 'number', optional: true },
      { path: ['count', 'atMost'], title: 'At most', as: 'number', optional: true },
      IN_FIELD,
    ],
    start: { count: { of: 'ntp server ...', atLeast: 2 } },
  },
  docs: { form: '`{ count: { of: P, where, atLeast, atMost } }`', holds: 'so many lines; binds `count`' },
})

function boundsWords(atLeast: number | undefined, atMost: number | undefined): string {
  if (atLeast !== undefined && atMost !== undefined)
    return atLeast === atMost ? `exactly ${atLeast}` : `${atLeast} to ${atMost}`
  return atLeast === undefined ? `at most ${atMost ?? 0}` : `at least ${atLeast}`
}

function compileCount({ of, where, atLeast = 0, atMost = Infinity }: Count): CompiledCondition {
  const lines = new LineMatcher([of].flat(), where)
  return (context) => {
    const found = lines.all(context).map(({ statement }) => statement)
    context.bind({ count: BigInt(found.length) })
    // Lines that are hidden can only make the count larger.
    const unsure = context.mayHideLines && found.length <= atMost && (found.length < atLeast || atMost !== Infinity)
    return new Finding(
      unsure ? 'unknown' : found.length >= atLeast && found.length <= atMost,
      () =>
        found.length > 0
          ? placesOfStatements(context, found)
          : searched(context.device.record, context.device.effective.tree, context.scope.openers),
      unsure ? incomplete(context) : undefined,
      unreadLike(context, lines.patterns),
    )
  }
}

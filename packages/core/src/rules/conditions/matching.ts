import { z } from 'zod'
import { inBlocks } from '../blocks.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadHere } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import { userPattern } from '../expression.ts'
import { placesOfStatements } from '../lines.ts'
import { IN_FIELD, inWords, patternsSchema } from './fields.ts'
import { conditionKind } from './kind.ts'

/** Some line, as listed, in which an RE2 pattern is found. */
export const matching = conditionKind({
  key: 'matching',
  schema: () => z.strictObject({ matching: z.string().min(1), in: patternsSchema.optional() }),
  compile: (condition) => inBlocks(condition.in, compileMatching(condition.matching)),
  words: (condition) => `a line${inWords(condition.in)} matches ${condition.matching}`,
  form: {
    title: 'a line with a text',
    fields: [{ path: ['matching'], title: 'RE2 pattern', as: 'text' }, IN_FIELD],
    start: { matching: 'ssh' },
  },
  docs: { form: '`{ matching: RE2 }`', holds: 'some line, as listed' },
})

function compileMatching(source: string): CompiledCondition {
  const pattern = userPattern(source)
  return (context) => {
    const found = context.scope.statements.filter((statement) =>
      pattern.test(context.device.opaque.textOf(statement, context.scope)),
    )
    if (found.length > 0)
      return new Finding(true, () => placesOfStatements(context, found), undefined, unreadHere(context))
    return new Finding(
      context.mayHideLines ? 'unknown' : false,
      () => context.whole(),
      incomplete(context),
      unreadHere(context),
    )
  }
}

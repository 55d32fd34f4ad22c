import { z } from 'zod'
import type { Statement } from '../../syntax/index.ts'
import { compilePattern } from '../../model/index.ts'
import { inBlocks } from '../blocks.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadHere } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { isMatch, placesOfStatements } from '../lines.ts'
import { IN_FIELD, inWords, patternsSchema, quoted } from './fields.ts'
import { conditionKind } from './kind.ts'

/** A line for each pattern, in this order; `contiguous`: with nothing between them. */
export const order = conditionKind({
  key: 'order',
  schema: () =>
    z.strictObject({
      order: z.array(z.string()).min(2),
      contiguous: z.boolean().optional(),
      in: patternsSchema.optional(),
    }),
  compile: (condition) => inBlocks(condition.in, compileOrder(condition.order, condition.contiguous === true)),
  words: (condition) =>
    `there are, in this order${condition.contiguous ? ' and with nothing between them' : ''}${inWords(
      condition.in,
    )}, ${quoted(condition.order)}`,
  form: {
    title: 'lines in this order',
    fields: [
      { path: ['order'], title: 'Lines', as: 'lines' },
      { path: ['contiguous'], title: 'Nothing between them', as: 'flag' },
      IN_FIELD,
    ],
    start: { order: ['permit ...', 'deny ...'] },
  },
  docs: {
    form: '`{ order: [P, P…], contiguous: true }`',
    holds: 'a line for each, in this order; with nothing between them',
  },
})

function compileOrder(sources: readonly string[], contiguous: boolean): CompiledCondition {
  const patterns = sources.map(compilePattern)
  return (context) => {
    const { statements } = context.scope
    const steps: Statement[] = []
    let at = -1
    for (const pattern of patterns) {
      const next = statements.findIndex((statement, i) => i > at && isMatch(statement, pattern, context))
      if (next < 0 || (contiguous && at >= 0 && next !== at + 1))
        return outOfOrder(
          context,
          patterns.map((one) => statements.find((statement) => isMatch(statement, one, context))),
          sources,
        )
      at = next
      const step = statements[next]
      if (step) steps.push(step)
    }
    return new Finding(true, () => placesOfStatements(context, steps), undefined, unreadHere(context))
  }
}

function outOfOrder(
  context: EvaluationContext,
  found: readonly (Statement | undefined)[],
  sources: readonly string[],
): Finding {
  const missing = sources.filter((_, i) => found[i] === undefined)
  const present = found.filter((one) => one !== undefined)
  const unsure = context.mayHideLines && missing.length > 0
  return new Finding(
    unsure ? 'unknown' : false,
    () => (present.length > 0 ? placesOfStatements(context, present) : context.whole()),
    { missing, ...(unsure ? incomplete(context) : {}) },
  )
}

import { z } from 'zod'
import type { Statement } from '../../syntax/index.ts'
import { compilePattern, matchPattern, type Pattern } from '../../model/index.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadHere } from '../doubt.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { Finding, placeOf } from '../evidence.ts'
import { eitherOf } from './fields.ts'
import { conditionKind } from './kind.ts'

/** No line but these; negated lines do not count. */
export const only = conditionKind({
  key: 'only',
  schema: () => z.strictObject({ only: z.array(z.string()).min(1) }),
  compile: (condition) => compileOnly(condition.only),
  words: (condition) => `there is nothing but ${eitherOf(condition.only)}`,
  form: {
    title: 'no other lines',
    fields: [{ path: ['only'], title: 'Lines', as: 'lines' }],
    start: { only: ['permit ...'] },
  },
  docs: { form: '`{ only: [P…] }`', holds: 'the block holds nothing else (negated lines aside)' },
})

function compileOnly(sources: readonly string[]): CompiledCondition {
  const patterns = sources.map(compilePattern)
  return (context) => {
    const { device, scope } = context
    if (scope.statements.some((statement) => isBeside(statement, patterns, context))) {
      return new Finding(
        false,
        () =>
          scope.statements
            .filter((statement) => isBeside(statement, patterns, context))
            .flatMap(({ nodes }) => nodes.map((node) => placeOf(device.record, node))),
        undefined,
        unreadHere(context),
      )
    }
    return new Finding(context.mayHideLines ? 'unknown' : true, () => context.whole(), incomplete(context))
  }
}

function isBeside(statement: Statement, patterns: readonly Pattern[], { device, scope }: EvaluationContext): boolean {
  const words = device.opaque.wordsOf(statement, scope)
  return !statement.negated && !patterns.some((pattern) => matchPattern(pattern, words) !== null)
}

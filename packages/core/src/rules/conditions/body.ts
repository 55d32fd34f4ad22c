import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { Finding, placeOf } from '../evidence.ts'
import { userPattern } from '../expression.ts'
import { LineMatcher } from '../line-matcher.ts'
import { eitherOf, patternsSchema } from './fields.ts'
import { conditionKind } from './kind.ts'

/** An RE2 pattern is found in the free text of a line, such as that of a banner. */
export const body = conditionKind({
  key: 'body',
  schema: () => z.strictObject({ body: z.strictObject({ of: patternsSchema, found: z.string() }) }),
  compile: (condition) => compileBody([condition.body.of].flat(), condition.body.found),
  words: ({ body: { of, found } }) => `the text of ${eitherOf(of)} matches ${found}`,
  form: {
    title: 'the text of a line, such as a banner',
    fields: [
      { path: ['body', 'of'], title: 'Line', as: 'patterns' },
      { path: ['body', 'found'], title: 'RE2 pattern', as: 'text' },
    ],
    start: { body: { of: 'banner login', found: '(?i)authori[sz]ed' } },
  },
  docs: { form: '`{ body: { of: P, found: RE2 } }`', holds: 'free text matches' },
})

function compileBody(sources: readonly string[], pattern: string): CompiledCondition {
  const lines = new LineMatcher(sources)
  const wanted = userPattern(pattern)
  return (context) => {
    const nodes = lines.all(context).flatMap(({ statement }) => statement.nodes.slice(-1))
    const doubts = unreadLike(context, lines.patterns)
    if (nodes.length === 0)
      return new Finding(context.mayHideLines ? 'unknown' : false, () => context.whole(), incomplete(context), doubts)
    return new Finding(
      nodes.some((node) => wanted.test(node.body ?? '')),
      () => nodes.map((node) => placeOf(context.device.record, node)),
      undefined,
      doubts,
    )
  }
}

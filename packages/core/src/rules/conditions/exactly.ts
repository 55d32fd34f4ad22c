import { z } from 'zod'
import type { Statement } from '../../syntax/index.ts'
import { compilePattern } from '../../model/index.ts'
import { inBlocks } from '../blocks.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { incomplete } from '../incomplete.ts'
import { unreadLike } from '../doubt.ts'
import { Finding } from '../evidence.ts'
import { LineMatcher } from '../line-matcher.ts'
import { isMatch, placesOfStatements } from '../lines.ts'
import { IN_FIELD, eitherOf, inWords, linesOf, patternsSchema, quoted } from './fields.ts'
import { conditionKind } from './kind.ts'

const exactlySchema = z.strictObject({ of: patternsSchema, lines: patternsSchema })
type Exactly = z.infer<typeof exactlySchema>

/** Of the lines that match `of`, exactly these are there: names what is missing and what is extra. */
export const exactly = conditionKind({
  key: 'exactly',
  schema: () => z.strictObject({ exactly: exactlySchema, in: patternsSchema.optional() }),
  compile: (condition) => inBlocks(condition.in, compileExactly(condition.exactly)),
  words: ({ exactly: { of, lines }, in: chain }) =>
    `the lines ${eitherOf(of)}${inWords(chain)} are exactly ${quoted([lines].flat().flatMap(linesOf))}`,
  form: {
    title: 'exactly these lines',
    fields: [
      { path: ['exactly', 'of'], title: 'Of the lines', as: 'patterns' },
      { path: ['exactly', 'lines'], title: 'These', as: 'patterns' },
      IN_FIELD,
    ],
    start: { exactly: { of: 'ntp server ...', lines: ['ntp server 192.0.2.1'] } },
  },
  docs: {
    form: '`{ exactly: { of: P, lines: [P…] } }`',
    holds:
      'of the lines that match, these and no others; says what is missing and extra; ' +
      'a line with `*` or a placeholder stands for each that matches',
  },
})

/** Compares whole lines, case aside. */
function compileExactly({ of, lines }: Exactly): CompiledCondition {
  const among = new LineMatcher([of].flat())
  const wanted = [lines]
    .flat()
    .flatMap((text) => text.split('\n'))
    .map((line) => line.trim().replace(/\s+/g, ' '))
    .filter(Boolean)
  const keys = new Set(wanted.map((line) => line.toLowerCase()))
  const open = wanted
    .filter((line) => line.split(' ').some(isOpenWord))
    .map((line) => ({ line, pattern: compilePattern(line) }))
  return (context) => {
    const { opaque } = context.device
    const found = among.all(context).map(({ statement }) => statement)
    const textOf = (statement: Statement): string => opaque.textOf(statement, context.scope)
    const held = new Set(found.map((statement) => textOf(statement).toLowerCase()))
    for (const { line, pattern } of open)
      if (found.some((statement) => isMatch(statement, pattern, context))) held.add(line.toLowerCase())
    const missing = wanted.filter((line) => !held.has(line.toLowerCase()))
    const extra = found
      .filter(
        (statement) =>
          !keys.has(textOf(statement).toLowerCase()) &&
          !open.some(({ pattern }) => isMatch(statement, pattern, context)),
      )
      .map(textOf)
    context.bind({ missing, extra })
    const unsure = context.mayHideLines && extra.length === 0
    const holds = missing.length === 0 && extra.length === 0
    return new Finding(
      unsure && !holds ? 'unknown' : holds,
      () => (found.length > 0 ? placesOfStatements(context, found) : context.whole()),
      { missing, extra, ...(unsure ? incomplete(context) : {}) },
      unreadLike(context, among.patterns),
    )
  }
}

/** Words by which a line that is asked for stands for several. */
function isOpenWord(word: string): boolean {
  return word === '*' || word === '...' || /^<[a-z_][\w:]*(?:\.\.\.)?>$/i.test(word) || /^\{[^{}]+\}$/.test(word)
}

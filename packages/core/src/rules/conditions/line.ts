import { z } from 'zod'
import { inBlocks } from '../blocks.ts'
import { compileLines } from '../line-condition.ts'
import { IN_FIELD, WHERE_FIELD, eitherOf, expressionsOf, inWords, patternsSchema, whereWords } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** Some line matches; binds its placeholders for what follows in the same `all`. */
export const line = conditionKind({
  key: 'line',
  schema: () => z.strictObject({ line: patternsSchema, in: patternsSchema.optional(), where: z.string().optional() }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: expressionsOf(condition.where) }),
  compile: (condition) => inBlocks(condition.in, compileLines([condition.line].flat(), condition.where)),
  words: (condition) => `there is ${eitherOf(condition.line)}${inWords(condition.in)}${whereWords(condition.where)}`,
  form: {
    title: 'there is a line',
    fields: [{ path: ['line'], title: 'Line', as: 'patterns' }, IN_FIELD, WHERE_FIELD],
    start: 'ip domain name *',
  },
  docs: { form: '`a pattern`, `{ line: P | [P…], where: CEL }`', holds: 'a line matches (and binds)' },
})

import { z } from 'zod'
import { inBlocks } from '../blocks.ts'
import { not } from '../logic.ts'
import { compileLines } from '../line-condition.ts'
import { IN_FIELD, WHERE_FIELD, eitherOf, expressionsOf, inWords, patternsSchema, whereWords } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** No line matches. */
export const absent = conditionKind({
  key: 'absent',
  schema: () => z.strictObject({ absent: patternsSchema, in: patternsSchema.optional(), where: z.string().optional() }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: expressionsOf(condition.where) }),
  compile: (condition) => not(inBlocks(condition.in, compileLines([condition.absent].flat(), condition.where))),
  words: (condition) =>
    `there is no ${eitherOf(condition.absent)}${inWords(condition.in)}${whereWords(condition.where)}`,
  form: {
    title: 'there is no line',
    fields: [{ path: ['absent'], title: 'Line', as: 'patterns' }, IN_FIELD, WHERE_FIELD],
    start: { absent: 'ip http server' },
  },
  docs: { form: '`{ absent: P, where: CEL }`', holds: 'none does' },
})

import { z } from 'zod'
import { any as anyOf } from '../logic.ts'
import { conditionKind, needsOf } from './kind.ts'
import { joinedWords } from './joined.ts'

export const any = conditionKind({
  key: 'any',
  schema: (nested) => z.strictObject({ any: z.array(nested).min(1) }),
  needs: (condition, nested) => needsOf(condition.any.map(nested)),
  compile: (condition, nested) => anyOf(condition.any.map(nested.compile)),
  words: (condition, nested) => joinedWords(condition.any, ' or ', nested),
  form: {
    title: 'any of',
    fields: [{ path: ['any'], title: '', as: 'conditions' }],
    start: { any: ['ip domain name *'] },
  },
  docs: { form: '`{ any: […] }`', holds: 'one of them does, left to right' },
})

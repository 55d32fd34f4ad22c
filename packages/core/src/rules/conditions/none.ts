import { z } from 'zod'
import { any, not } from '../logic.ts'
import { conditionKind, needsOf } from './kind.ts'
import { joinedWords } from './joined.ts'

export const none = conditionKind({
  key: 'none',
  schema: (nested) => z.strictObject({ none: z.array(nested).min(1) }),
  needs: (condition, nested) => needsOf(condition.none.map(nested)),
  compile: (condition, nested) => not(any(condition.none.map(nested.compile))),
  words: (condition, nested) => `it is not so that ${joinedWords(condition.none, ' or ', nested)}`,
  form: {
    title: 'none of',
    fields: [{ path: ['none'], title: '', as: 'conditions' }],
    start: { none: ['ip http server'] },
  },
  docs: { form: '`{ none: […] }`', holds: 'none of them does' },
})

import { z } from 'zod'
import { all as allOf } from '../logic.ts'
import { conditionKind, needsOf } from './kind.ts'
import { joinedWords } from './joined.ts'

export const all = conditionKind({
  key: 'all',
  schema: (nested) => z.strictObject({ all: z.array(nested).min(1) }),
  needs: (condition, nested) => needsOf(condition.all.map(nested)),
  compile: (condition, nested) => allOf(condition.all.map(nested.compile)),
  words: (condition, nested) => joinedWords(condition.all, ' and ', nested),
  form: {
    title: 'all of',
    fields: [{ path: ['all'], title: '', as: 'conditions' }],
    start: { all: ['ip domain name *'] },
  },
  docs: { form: '`{ all: […] }`', holds: 'all of them do, left to right' },
})

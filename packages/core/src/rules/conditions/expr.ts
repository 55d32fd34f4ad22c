import { z } from 'zod'
import { Finding, NOWHERE } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** CEL over the values of the benchmark and what is bound. */
export const expr = conditionKind({
  key: 'expr',
  schema: () => z.strictObject({ expr: z.string().min(1) }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: [condition.expr] }),
  compile: (condition) => {
    const expression = compileExpression(condition.expr)
    return ({ names }) => new Finding(expression.evaluate(names) === true, NOWHERE)
  },
  words: (condition) => condition.expr,
  form: {
    title: 'values and names say',
    fields: [{ path: ['expr'], title: 'Expression', as: 'text' }],
    start: { expr: 'true' },
  },
  docs: { form: '`{ expr: CEL }`', holds: 'over values and what was bound' },
})

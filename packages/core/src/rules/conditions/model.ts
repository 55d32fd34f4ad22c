import { z } from 'zod'
import { originOf } from '../../model/index.ts'
import { unreadAbout } from '../doubt.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { Finding } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import { compileModelExpression, pathOf, pathsOfExpression, placesOfFields, wholeOf } from '../model-fields.ts'
import { changeOf } from '../monotonicity.ts'
import type { CompiledCondition } from '../compiled-condition.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/**
 * CEL over the device model, the benchmark's values and what is bound; rests on the lines of the fields it names.
 */
export const model = conditionKind({
  key: 'model',
  schema: () => z.strictObject({ model: z.string().min(1) }),
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: [condition.model] }),
  compile: (condition) => compileModel(condition.model),
  words: (condition) => condition.model,
  form: {
    title: 'the device model says',
    fields: [{ path: ['model'], title: 'Expression', as: 'text' }],
    start: { model: 'system.services.http.enabled == false' },
  },
  docs: {
    form: '`{ model: CEL }`',
    holds:
      'over the [device model](device-model.md): `system.services.http.enabled == true`; ' +
      'rests on the lines of the fields it names',
  },
})

function compileModel(source: string): CompiledCondition {
  const evaluate = compileModelExpression(source)
  const places = placesOfFields(source)
  const bearingOn = pathsOfExpression(source)
  const { ast } = compileExpression(withoutOrigins(source))
  return (context) => {
    const { device, paths } = context
    const { faults, origins } = device.modelled()
    const fault = faults[0]
    const bearing = bearingOn(context)
    if (fault === undefined)
      return new Finding(evaluate(context) === true, () => places(context), undefined, unreadAbout(device, bearing))
    // Where lines may be missing, what no line states is not known to be absent; what was found stays found.
    const why = `the record is incomplete (line ${fault.line}: ${fault.reason})`
    const change = /\borigin\(/.test(source)
      ? 'any'
      : changeOf(ast, (path) => pathOf(path, paths).map((at) => originOf(origins, at)?.kind === 'line')[0] ?? null)
    const truth = evaluated(evaluate, context)
    const sure = change === 'none' || (truth === true && change === 'more') || (truth === false && change === 'fewer')
    if (truth === null || !sure) return new Finding('unknown', () => wholeOf(device), { why })
    return new Finding(truth, () => places(context), undefined, unreadAbout(device, bearing))
  }
}

/** Null where it cannot be evaluated: what it asks for may stand in the lines that are missing. */
function evaluated(evaluate: (context: EvaluationContext) => unknown, context: EvaluationContext): boolean | null {
  try {
    return evaluate(context) === true
  } catch {
    return null
  }
}

function withoutOrigins(source: string): string {
  return source.replace(/\borigin\(\s*"[\w.[\]]+"\s*\)/g, '""')
}

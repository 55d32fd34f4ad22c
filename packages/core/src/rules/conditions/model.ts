import { z } from 'zod'
import { originOf, valueAt } from '../../model/index.ts'
import { unreadAbout } from '../doubt.ts'
import type { EvaluationContext } from '../evaluation-context.ts'
import { Finding } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import {
  compileModelExpression,
  pathOf,
  pathsOfExpression,
  placesOfFields,
  valuesAt,
  wholeOf,
} from '../model-fields.ts'
import { incomplete, mayHideWithin } from '../incomplete.ts'
import type { JudgedDevice } from '../judged.ts'
import { changeOf, type Stated } from '../monotonicity.ts'
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
    const hidden = incomplete(context)
    const bearing = bearingOn(context)
    if (!hidden)
      return new Finding(evaluate(context) === true, () => places(context), undefined, unreadAbout(device, bearing))
    // Where lines may be missing, what no line states is not known to be absent; what was found stays found.
    const change = /\borigin\(/.test(source) ? 'any' : changeOf(ast, statedIn(device, paths))
    const truth = evaluated(evaluate, context)
    const sure = change === 'none' || (truth === true && change === 'more') || (truth === false && change === 'fewer')
    if (truth === null || !sure) return new Finding('unknown', () => wholeOf(device), hidden)
    return new Finding(truth, () => places(context), undefined, unreadAbout(device, bearing))
  }
}

/** What a record that is not whole says of the parts of the model. */
function statedIn(device: JudgedDevice, paths: EvaluationContext['paths']): Stated {
  const { model, origins } = device.modelled()
  const inModel = (path: string): string | null => pathOf(path, paths)[0] ?? null
  return {
    isStated(path) {
      const at = inModel(path)
      if (at === null) return null
      const own = origins.get(at)
      if (own) return own.kind === 'line'
      if (originOf(origins, at)?.kind !== 'line') return false
      // What the lines of its entry do not say, a line that is missing there may.
      return isThere(valueAt(model, at)) || !mayHideWithin(device, at)
    },
    isList(path) {
      const at = inModel(path)
      return at !== null && Array.isArray(valueAt(model, at))
    },
    isReplaceable(path) {
      return pathOf(path, paths).some((at) =>
        valuesAt(model, at).some(([one]) => origins.get(one)?.kind === 'default' && mayHideWithin(device, one)),
      )
    },
  }
}

function isThere(value: unknown): boolean {
  return value !== undefined && value !== null && value !== false && !(Array.isArray(value) && value.length === 0)
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

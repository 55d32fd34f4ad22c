import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { unreadAbout } from '../doubt.ts'
import { elements } from '../estate.ts'
import {
  MOST_ON_OTHER,
  notAsked,
  placesOnOther,
  plain,
  uniqueWhere,
  valueQuestion,
  whereStated,
} from '../estate-question.ts'
import { Finding, type CitedRange } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import { pathsIn, placesOfFields } from '../model-fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** A value, or every element of a list, that no other device of the estate has; binds `twins`. */
export const unique = conditionKind({
  key: 'unique',
  schema: () => z.strictObject({ unique: z.string().min(1) }),
  needs: (condition) => ({
    ...NEEDS_NOTHING,
    expressions: [condition.unique],
    questions: [valueQuestion(condition.unique, undefined), uniqueWhere(condition.unique)],
  }),
  compile: (condition) => compileUnique(condition.unique),
  words: (condition) => `no other device has ${condition.unique}`,
  form: {
    title: 'on no other device',
    fields: [{ path: ['unique'], title: 'Value', as: 'text' }],
    start: { unique: 'interfaces.map(i, i.addresses.map(a, a.address))' },
  },
  docs: { form: '`{ unique: CEL }`', holds: 'a value, or each of a list, that no other device has; binds `twins`' },
})

/**
 * No other device has the value, or any element of the list or of lists within it; binds `twins`, as `value on device`.
 */
function compileUnique(source: string): CompiledCondition {
  const question = valueQuestion(source, undefined)
  const places = placesOfFields(source)
  const expression = compileExpression(source)
  return (context) => {
    const own = elements(plain(expression.evaluate(context.names)))
    const held = context.device.estate?.holders(question.key, context.device.name, own)
    if (!held) return notAsked(context)
    const twins = held.map(({ device, value }) => `${value} on ${device}`)
    context.bind({ twins })
    const there = held
      .slice(0, MOST_ON_OTHER)
      .flatMap(({ device, value }) => placesOnOther(context, question.key, device, value))
    const here = (): CitedRange[] => {
      const stated = Object.values(
        whereStated(
          context.device,
          source,
          held.map(({ value }) => value),
        ),
      ).flat()
      return stated.length > 0 ? stated : places(context)
    }
    return new Finding(
      twins.length === 0,
      () => (twins.length > 0 ? [...here(), ...there] : places(context)),
      twins.length > 0 ? { extra: twins } : undefined,
      unreadAbout(context.device, pathsIn(source, context)),
    )
  }
}

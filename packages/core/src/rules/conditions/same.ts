import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { unreadAbout } from '../doubt.ts'
import { shown } from '../estate.ts'
import { MOST_ON_OTHER, notAsked, placesOnOther, plain, sameWhere, valueQuestion } from '../estate-question.ts'
import { Finding } from '../evidence.ts'
import { compileExpression } from '../expression.ts'
import { pathsIn, placesOfFields } from '../model-fields.ts'
import { expressionsOf } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** A value (CEL) is that of all devices, or of those for which `among` holds; binds `others` and `odd`. */
export const same = conditionKind({
  key: 'same',
  schema: () => z.strictObject({ same: z.string().min(1), among: z.string().optional() }),
  needs: (condition) => ({
    ...NEEDS_NOTHING,
    expressions: expressionsOf(condition.same, condition.among),
    questions: [valueQuestion(condition.same, condition.among), sameWhere(condition.same, condition.among)],
  }),
  compile: (condition) => compileSame(condition.same, condition.among),
  words: (condition) =>
    `${condition.same} is the same on all devices${
      condition.among === undefined ? '' : ` for which ${condition.among}`
    }`,
  form: {
    title: 'the same on all devices',
    fields: [
      { path: ['same'], title: 'Value', as: 'text' },
      { path: ['among'], title: 'Among devices for which', as: 'text', optional: true },
    ],
    start: { same: 'system.domainName' },
  },
  docs: {
    form: '`{ same: CEL, among: CEL }`',
    holds: 'the value of all devices, or of those for which `among` holds; binds `others`, `odd`',
  },
})

/** The value is that of every other device that is compared; binds `others` and `odd`, the devices that differ. */
function compileSame(source: string, among: string | undefined): CompiledCondition {
  const question = valueQuestion(source, among)
  const places = placesOfFields(source)
  const expression = compileExpression(source)
  return (context) => {
    const own = plain(expression.evaluate(context.names))
    const odd = context.device.estate?.odd(question.key, context.device.name, own)
    if (!odd) return notAsked(context)
    context.bind({
      own: shown(own),
      others: [...new Set(odd.map(({ value }) => value))],
      odd: odd.map(({ device }) => device),
    })
    const there = odd
      .slice(0, MOST_ON_OTHER)
      .flatMap(({ device, value }) => placesOnOther(context, question.key, device, value))
    return new Finding(
      odd.length === 0,
      () => [...places(context), ...there],
      odd.length > 0 ? { extra: odd.map(({ device, value }) => `${device}: ${value}`) } : undefined,
      unreadAbout(context.device, pathsIn(source, context)),
    )
  }
}

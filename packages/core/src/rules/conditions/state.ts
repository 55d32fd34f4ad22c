import { z } from 'zod'
import type { CompiledCondition } from '../compiled-condition.ts'
import { Finding } from '../evidence.ts'
import { compileExpression, fieldsIn } from '../expression.ts'
import type { CapturedOutput, JudgedDevice } from '../judged.ts'
import { placesOfState } from '../state-fields.ts'
import { patternsSchema } from './fields.ts'
import { NEEDS_NOTHING, conditionKind } from './kind.ts'

/** `of`: kinds of output that the answer rests on; `maxAge` in seconds. */
const stateSchema = z.strictObject({ state: z.string().min(1), of: patternsSchema, maxAge: z.int().min(1).optional() })

/**
 * CEL over what the device was doing. What was not captured, not recognised or is too old makes it unknown, never
 * false.
 */
export const state = conditionKind({
  key: 'state',
  schema: () => stateSchema,
  needs: (condition) => ({ ...NEEDS_NOTHING, expressions: [condition.state], outputs: true }),
  compile: compileState,
  words: (condition) =>
    `${condition.state}, by the output ${[condition.of].flat().join(' and ')}${
      condition.maxAge === undefined ? '' : ` of the last ${condition.maxAge} s`
    }`,
  form: {
    title: 'its state says',
    fields: [
      { path: ['state'], title: 'Expression', as: 'text' },
      { path: ['of'], title: 'Kinds of output', as: 'patterns' },
      { path: ['maxAge'], title: 'Not older than, seconds', as: 'number', optional: true },
    ],
    start: { state: 'size(state.neighbours) > 0', of: 'neighbours' },
  },
  docs: {
    form: '`{ state: CEL, of: [kinds of output], maxAge: seconds }`',
    holds: 'over `state`; unknown where an output is not there, not read, or older',
  },
})

function compileState({ state, of, maxAge }: z.infer<typeof stateSchema>): CompiledCondition {
  const expression = compileExpression(state)
  const fields = fieldsIn(state).filter((field) => field.startsWith('state.'))
  const kinds = [of].flat()
  return (context) => {
    const { device } = context
    for (const kind of kinds) {
      const outputs = device.outputs().filter((output) => output.kind === kind)
      const why =
        outputs.length === 0
          ? `the output "${kind}" was not captured`
          : outputs.map((output) => doubtAbout(output, maxAge, device)).find((doubt) => doubt !== null)
      if (why !== undefined && why !== null)
        return new Finding('unknown', () => outputs.map(({ record }) => ({ record, from: 1, to: 1, absent: false })), {
          why,
        })
    }
    return new Finding(expression.evaluate(context.names) === true, () => {
      const places = fields.flatMap((field) => placesOfState(device, field.slice('state.'.length)))
      return places.length > 0
        ? places
        : device
            .outputs()
            .filter(({ kind }) => kinds.includes(kind))
            .map(({ record }) => ({ record, from: 1, to: 1, absent: true }))
    })
  }
}

function doubtAbout(
  { kind, takenAt, recognised }: CapturedOutput,
  maxAge: number | undefined,
  { clock }: JudgedDevice,
): string | null {
  if (!recognised) return `the output "${kind}" has an unsupported form`
  if (maxAge === undefined) return null
  if (takenAt === null) return `the capture time of the output "${kind}" is unknown`
  return clock.reached(takenAt + maxAge * 1000) ? `the output "${kind}" is older than ${maxAge} s` : null
}

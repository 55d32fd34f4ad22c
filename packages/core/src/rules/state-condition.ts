import { originOf } from '../model/index.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { Finding, type Place } from './evidence.ts'
import { compileExpression, fieldsIn } from './expression.ts'
import type { CapturedOutput, JudgedDevice } from './judged.ts'

interface StateQuestion {
  readonly state: string
  /** Kinds of output that the answer rests on. */
  readonly of: string | readonly string[]
  /** In seconds. */
  readonly maxAge?: number | undefined
}

/**
 * CEL over what the device was doing. What was not captured, not recognised or is too old makes it unknown, never
 * false.
 */
export function askState({ state, of, maxAge }: StateQuestion): CompiledCondition {
  const expression = compileExpression(state)
  const fields = fieldsIn(state).filter((field) => field.startsWith('state.'))
  const kinds = [of].flat()
  return (inquiry) => {
    const { device } = inquiry
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
    return new Finding(expression.evaluate(inquiry.names) === true, () => {
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
  if (!recognised) return `the output "${kind}" is in no form that is read here`
  if (maxAge === undefined) return null
  if (takenAt === null) return `when the output "${kind}" was taken is not known`
  return clock.reached(takenAt + maxAge * 1000) ? `the output "${kind}" is older than ${maxAge} s` : null
}

/** The lines that a part of the state is from; of a list, those of its first entries. */
export function placesOfState(device: JudgedDevice, path: string): Place[] {
  const { origins } = device.stated()
  const own = [...origins].filter(([at]) => at === path || at.startsWith(`${path}[`)).slice(0, MOST)
  const found = own.length > 0 ? own.map(([, origin]) => origin) : [originOf(origins, path)]
  return found.flatMap((origin) =>
    origin?.kind === 'line'
      ? origin.lines.map(({ from, to }): Place => ({ record: origin.record, from, to, absent: false }))
      : [],
  )
}

const MOST = 20

/** What the state of devices is meant to be: put to one device, and derived from what most of a group have. */
import type { DeviceAnalysis } from '../analysis/index.ts'
import { compileExpression, fieldsIn } from '../rules/index.ts'
import { KINDS_OF_STATE } from '../state/index.ts'
import { grouped } from '../syntax/grouped.ts'
import type { Reference } from './schema.ts'

export interface StateAnswer {
  readonly title: string
  readonly outcome: 'met' | 'violated' | 'undecided'
  /** Why it is undecided: an output that was not captured, or what the expression says. */
  readonly reason: { readonly code: 'not-captured' | 'no-answer'; readonly what: string } | null
}

/** Something that is read off the state of each device, and compared between them. */
export interface StateFact {
  readonly title: string
  /** CEL over `state` and the device model: a truth, a number, a text, or a list of these. */
  readonly value: string
}

/** What devices have in common of a fact, and who has another value. */
export interface DerivedState {
  readonly title: string
  /** CEL that holds where a device is as most are; null where no value is that of most. */
  readonly that: string | null
  readonly values: readonly { readonly value: string; readonly samples: readonly string[] }[]
  /** Devices of which it is not known: an output was not captured, or the value was not there. */
  readonly unknown: readonly string[]
}

type Names = Readonly<Record<string, unknown>>

export function stateAnswer(
  { title, that }: Reference['state'][number],
  names: Names,
  device: DeviceAnalysis,
): StateAnswer {
  const missing = notCaptured(that, device)
  if (missing !== null) return { title, outcome: 'undecided', reason: { code: 'not-captured', what: missing } }
  try {
    const value = compileExpression(that).evaluate(names)
    if (typeof value === 'boolean') return { title, outcome: value ? 'met' : 'violated', reason: null }
    return { title, outcome: 'undecided', reason: { code: 'no-answer', what: 'neither true nor false' } }
  } catch (error) {
    const [what = ''] = (error instanceof Error ? error.message : String(error)).split('\n')
    return { title, outcome: 'undecided', reason: { code: 'no-answer', what } }
  }
}

/**
 * The outputs that an expression asks of and that were not captured; null where all were. Where it names a kind of
 * output, as `a.protocol == "bgp"` does, that one must be there: an output of OSPF says nothing of BGP.
 */
function notCaptured(source: string, device: DeviceAnalysis): string | null {
  const recognised = new Set(device.state.records.flatMap(({ record, form }) => (form === null ? [] : [record])))
  const isThere = (kind: string): boolean =>
    device.records.some((one) => recognised.has(one.id) && one.kind === `state/${kind}`)
  const parts = fieldsIn(source).flatMap((field) => (field.startsWith('state.') ? [field.split('.')[1] ?? ''] : []))
  for (const part of new Set(parts)) {
    const kinds = KINDS_OF_STATE[part] ?? []
    const named = kinds.filter((kind) => source.includes(`"${kind}"`) || source.includes(`'${kind}'`))
    const absent = named.filter((kind) => !isThere(kind))
    if (absent.length > 0) return absent.join(', ')
    if (named.length === 0 && kinds.length > 0 && !kinds.some(isThere)) return kinds.join(', ')
  }
  return null
}

/** @param share from which share of the devices on, of which it is known, a value is common */
export function derivedState(
  { title, value: source }: StateFact,
  devices: readonly { readonly name: string; readonly analysis: DeviceAnalysis }[],
  share: number,
): DerivedState {
  const expression = compileExpression(source)
  const known: { name: string; value: string }[] = []
  const unknown: string[] = []
  for (const { name, analysis } of devices) {
    const names = { ...analysis.modelled?.model, state: analysis.state.state }
    const value = notCaptured(source, analysis) === null ? valueOf(() => expression.evaluate(names)) : null
    if (value === null) unknown.push(name)
    else known.push({ name, value })
  }
  const values = [...grouped(known, ({ value }) => value)]
    .map(([value, having]) => ({ value, samples: having.map(({ name }) => name).sort() }))
    .sort((x, y) => y.samples.length - x.samples.length || (x.value < y.value ? -1 : 1))
  const [most] = values
  // What is known of few says nothing of the others.
  const isKnown = known.length * 2 >= devices.length
  const isCommon = isKnown && most !== undefined && most.samples.length >= known.length * share
  return { title, that: isCommon ? isAs(source, most.value) : null, values, unknown }
}

/** As CEL writes it, a list sorted: what a device answers in another order is no difference. Null: no value. */
function valueOf(evaluate: () => unknown): string | null {
  let value: unknown
  try {
    value = evaluate()
  } catch {
    return null
  }
  if (value === null || value === undefined) return null
  return Array.isArray(value) ? `[${[...new Set(value.map(literal))].sort().join(', ')}]` : literal(value)
}

function literal(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(literal).join(', ')}]`
  return typeof value === 'string' ? JSON.stringify(value) : String(value)
}

function isAs(source: string, value: string): string {
  if (!value.startsWith('[')) return `(${source}) == ${value}`
  if (value === '[]') return `size(${source}) == 0`
  return `(${source}).all(v, v in ${value}) && ${value}.all(v, v in (${source}))`
}

import type { CompiledCondition } from './compiled-condition.ts'
import { Finding } from './evidence.ts'
import { compileExpression } from './expression.ts'
import { unreadAbout } from './doubt.ts'
import { pathsIn, placesOfFields } from './model-condition.ts'
import { namesOf } from './names.ts'
import { fieldsIn } from './expression.ts'
import type { JudgedDevice } from './judged.ts'
import { KINDS_OF_STATE } from '../state/index.ts'

interface ChangeQuestion {
  /** CEL, evaluated in both snapshots: a number, a text, a truth value or a list. */
  readonly of: string
  readonly is: 'unchanged' | 'appeared' | 'vanished' | 'grew' | 'kept' | 'within'
  readonly by?: number | undefined
  readonly percent?: number | undefined
}

/**
 * A value at A and at B. Lists are compared as sets: what is gone is `missing`, what is new is `extra`. Both values are
 * bound
 * as `before` and `after`. Without a snapshot to compare with, nothing is known.
 * - `unchanged`: equal · `appeared`, `vanished`: something is new, something is gone
 * - `grew`: more than before · `kept`: not less · `within`: apart by at most `by`, or `percent` of what it was
 */
export function askChange({ of, is, by, percent }: ChangeQuestion): CompiledCondition {
  const expression = compileExpression(of)
  if (is === 'within' && by === undefined && percent === undefined)
    throw new Error('Condition "change": "within" asks for "by" or "percent"')
  const places = placesOfFields(of)
  const parts = [
    ...new Set(
      fieldsIn(of)
        .filter((field) => field.startsWith('state.'))
        .map((field) => field.split('.')[1] ?? ''),
    ),
  ]
  return (inquiry) => {
    const { before } = inquiry.device
    if (!before)
      return new Finding('unknown', () => inquiry.whole(), {
        why: 'there is no earlier snapshot of this device to compare with',
      })
    const why = missingOutput(parts, inquiry.device, 'now') ?? missingOutput(parts, before, 'before')
    if (why !== null) return new Finding('unknown', () => inquiry.whole(), { why })
    const values = Object.getPrototypeOf(Object.getPrototypeOf(inquiry.names) as object) as Readonly<
      Record<string, unknown>
    >
    const [was, now] = [
      plain(expression.evaluate(namesOf(before, values, inquiry.own))),
      plain(expression.evaluate(inquiry.names)),
    ]
    const [gone, fresh] = [difference(was, now), difference(now, was)]
    inquiry.bind({ before: said(was), after: said(now), gone, fresh })
    const holds = answer(is, was, now, gone, fresh, by, percent)
    return new Finding(
      holds,
      () => places(inquiry),
      { missing: gone, extra: fresh },
      unreadAbout(inquiry.device, pathsIn(of, inquiry)),
    )
  }
}

/**
 * Why a part of the state of a device is not known: nothing that tells of it was captured, or not in a form that is
 * read.
 */
function missingOutput(parts: readonly string[], device: JudgedDevice, when: string): string | null {
  const outputs = device.outputs()
  for (const part of parts) {
    const kinds = KINDS_OF_STATE[part] ?? []
    if (kinds.length > 0 && !outputs.some(({ kind, recognised }) => recognised && kinds.includes(kind)))
      return `${when}, no output "${kinds.join('" or "')}" was captured that could be read`
  }
  return null
}

function answer(
  is: ChangeQuestion['is'],
  was: unknown,
  now: unknown,
  gone: readonly string[],
  fresh: readonly string[],
  by = 0,
  percent?: number,
): boolean {
  switch (is) {
    case 'unchanged':
      return gone.length === 0 && fresh.length === 0
    case 'appeared':
      return fresh.length > 0
    case 'vanished':
      return gone.length > 0
    case 'grew':
      return sizeOf(now) > sizeOf(was)
    case 'kept':
      return sizeOf(now) >= sizeOf(was)
    case 'within':
      return (
        Math.abs(sizeOf(now) - sizeOf(was)) <= (percent === undefined ? by : (Math.abs(sizeOf(was)) * percent) / 100)
      )
  }
}

/** CEL's whole numbers as plain ones. */
function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

function sizeOf(value: unknown): number {
  if (Array.isArray(value)) return value.length
  if (typeof value === 'number') return value
  throw new Error(`${said(value)} is neither a number nor a list: it has no size to compare`)
}

function difference(a: unknown, b: unknown): string[] {
  const other = new Set(elementsOf(b))
  return elementsOf(a).filter((element) => !other.has(element))
}

function elementsOf(value: unknown): string[] {
  if (value === null || value === undefined) return []
  return (Array.isArray(value) ? value : [value]).map(said)
}

function said(value: unknown): string {
  if (Array.isArray(value)) return value.map(said).join(', ')
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
}

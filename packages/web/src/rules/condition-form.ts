import { CONDITION_FORMS } from '@jurybox/core/rules'

type ConditionForm = (typeof CONDITION_FORMS)[number]

/** The form of a condition; null where it is written as text only. */
export function formOf(condition: unknown): ConditionForm | null {
  if (typeof condition === 'string') return CONDITION_FORMS.find(({ key }) => key === 'line') ?? null
  if (typeof condition !== 'object' || condition === null) return null
  return CONDITION_FORMS.find(({ key }) => key in condition) ?? null
}

/** What a field of a condition holds. */
export function fieldOf(condition: unknown, path: readonly string[]): unknown {
  const whole = typeof condition === 'string' ? { line: condition } : condition
  return path.reduce<unknown>(
    (at, key) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[key] : undefined),
    whole,
  )
}

/** The condition with one field changed; a plain line stays as short as it is written. */
export function withField(condition: unknown, path: readonly string[], value: unknown): unknown {
  const whole = typeof condition === 'string' ? { line: condition } : condition
  const changed = put(whole, path, value) as Record<string, unknown>
  const only = Object.keys(changed)
  return only.length === 1 && only[0] === 'line' && typeof changed['line'] === 'string' ? changed['line'] : changed
}

function put(at: unknown, [key, ...rest]: readonly string[], value: unknown): unknown {
  if (key === undefined) return value
  const held = typeof at === 'object' && at !== null ? { ...(at as Record<string, unknown>) } : {}
  const inner = rest.length === 0 ? value : put(held[key], rest, value)
  if (inner === undefined) delete held[key]
  else held[key] = inner
  return held
}

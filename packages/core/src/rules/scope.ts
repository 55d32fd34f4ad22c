import { compileExpression, fieldsIn, type Expression } from './expression.ts'
import { blank, deviceModelSchema, type Bindings } from '../model/index.ts'

/** Whether a device is in the scope of a rule, and the term that decided. */
export interface ScopeAnswer {
  readonly inside: boolean | 'unknown'
  /** As it stands in the scope. */
  readonly term: string
  /** Why it cannot be said. */
  readonly why: string | null
}

export type Scope = (names: Bindings) => ScopeAnswer

/**
 * A scope is CEL over `device` (name, dialect, site, sites, role, model, os, version, approved, labels, groups) and the
 * device model. Its terms are those that `&&`, `||` and `!` join; a term that cannot be evaluated (a label that nobody
 * has set) is unknown, and decides only where the others leave it to (Kleene).
 * @throws Error that names the term and what is wrong with it
 */
export function compileScope(source: string): Scope {
  // The whole must be an expression before its parts are looked at.
  compileExpression(source)
  const wrong = wrongNameIn(source)
  if (wrong !== null) throw new Error(`Expression "${source}": ${wrong}`)
  return joined(source.trim())
}

/** What is known of a device; the last three of saved filters alone. */
const FACTS = [
  'name',
  'dialect',
  'site',
  'sites',
  'role',
  'model',
  'os',
  'version',
  'approved',
  'labels',
  'groups',
  'takenAt',
  'changedAt',
  'changedDays',
]

const model: Readonly<Record<string, unknown>> = blank(deviceModelSchema)

/** A name that neither devices nor their models have, with those that there are; null where there is none. */
function wrongNameIn(source: string): string | null {
  for (const field of fieldsIn(source)) {
    const [root = '', ...steps] = field.split('.')
    if (root === 'device') {
      if (steps[0] !== undefined && !FACTS.includes(steps[0]))
        return `a device has no "${steps[0]}" (it has ${FACTS.join(', ')})`
      continue
    }
    let at: unknown = Object.hasOwn(model, root) ? model[root] : null
    for (const step of steps) {
      // Within lists and values that are not stated, names are not told apart.
      if (typeof at !== 'object' || at === null || Array.isArray(at)) break
      const holder = at as Readonly<Record<string, unknown>>
      if (!(step in holder))
        return (
          `${field.slice(0, field.lastIndexOf(step) - 1)} has no "${step}" (it has ` +
          `${Object.keys(holder).join(', ')})`
        )
      at = holder[step]
    }
  }
  return null
}

function joined(source: string): Scope {
  const text = unwrapped(source)
  for (const [operator, settles] of [
    ['||', true],
    ['&&', false],
  ] as const) {
    const parts = splitAt(text, operator)
    if (parts.length > 1) return together(parts.map(joined), settles)
  }
  if (text.startsWith('!') && !text.startsWith('!=')) return opposite(joined(text.slice(1).trim()), text)
  return term(compileExpression(text), text)
}

/** @param settles the answer that one term alone decides by: true of `||`, false of `&&` */
function together(scopes: readonly Scope[], settles: boolean): Scope {
  return (names) => {
    let last: ScopeAnswer | null = null
    let unknown: ScopeAnswer | null = null
    for (const scope of scopes) {
      const answer = scope(names)
      if (answer.inside === settles) return answer
      if (answer.inside === 'unknown') unknown ??= answer
      last = answer
    }
    return unknown ?? last ?? { inside: !settles, term: '', why: null }
  }
}

function opposite(scope: Scope, text: string): Scope {
  return (names) => {
    const { inside, why } = scope(names)
    return { inside: inside === 'unknown' ? 'unknown' : !inside, term: text, why }
  }
}

function term(expression: Expression, text: string): Scope {
  return (names) => {
    try {
      const value = expression.evaluate(names)
      return typeof value === 'boolean'
        ? { inside: value, term: text, why: null }
        : { inside: 'unknown', term: text, why: `"${text}" is neither true nor false` }
    } catch (error) {
      return {
        inside: 'unknown',
        term: text,
        why: error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error),
      }
    }
  }
}

/** Without the brackets around the whole. */
function unwrapped(text: string): string {
  let bare = text.trim()
  while (bare.startsWith('(') && closing(bare, 0) === bare.length - 1) bare = bare.slice(1, -1).trim()
  return bare
}

function splitAt(text: string, operator: string): string[] {
  const parts: string[] = []
  let from = 0
  for (let at = 0; at < text.length; at++) {
    const after = skip(text, at)
    if (after > at) at = after
    else if (text.startsWith(operator, at)) {
      parts.push(text.slice(from, at).trim())
      from = at + operator.length
      at = from - 1
    }
  }
  return [...parts, text.slice(from).trim()]
}

/** The last character of the text or bracket that begins here; `at` itself where none does. */
function skip(text: string, at: number): number {
  const char = text.charAt(at)
  if (char === '(' || char === '[' || char === '{') return closing(text, at)
  if (char !== '"' && char !== "'") return at
  let end = at + 1
  while (end < text.length && text.charAt(end) !== char) end += text.charAt(end) === '\\' ? 2 : 1
  return end
}

function closing(text: string, from: number): number {
  for (let at = from + 1; at < text.length; at++) {
    const char = text.charAt(at)
    if (char === ')' || char === ']' || char === '}') return at
    at = Math.max(at, skip(text, at))
  }
  return text.length
}

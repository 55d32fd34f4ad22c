import { closureOf } from './cel/closures.ts'
import { parse, type Interpreted } from './cel/environment.ts'
import type { Bindings } from '../model/index.ts'
import type { Node } from './monotonicity.ts'

export { canonicalHost, sameHost } from './cel/functions.ts'
export { userPattern, type UserPattern } from './cel/user-pattern.ts'

/** A compiled CEL expression over the values of the benchmark and what patterns have bound. */
export interface Expression {
  readonly source: string
  /** As it was parsed. */
  readonly ast: Node
  /** @throws Error with the expression's own message, where it cannot be evaluated */
  evaluate(names: Bindings): unknown
  /** The same for one entry after the other, each known by a name, without names of its own for each. */
  evaluateFor(entry: string): (names: Bindings, value: unknown) => unknown
}

/** @throws Error that names the expression and what is wrong with it */
export function compileExpression(source: string): Expression {
  if (/\.\s*matches\s*\(|\bmatches\s*\(/.test(source))
    throw new Error(
      `Expression "${source}": "matches" has no bound on its run time; use found(text, pattern), in RE2 syntax`,
    )
  let interpreted: Interpreted
  try {
    interpreted = parse(source)
  } catch (error) {
    throw new Error(
      `Expression "${source}": ${error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)}`,
    )
  }
  return new CompiledExpression(source, interpreted)
}

class CompiledExpression implements Expression {
  #closure: ((names: Bindings) => unknown) | null | undefined

  constructor(
    readonly source: string,
    readonly interpreted: Interpreted,
  ) {}

  get ast(): Node {
    return this.interpreted.ast
  }

  evaluateFor(entry: string): (names: Bindings, value: unknown) => unknown {
    const closure = this.interpreted.isWellTyped() ? closureOf(this.ast, entry) : null
    return (names, value) => {
      if (closure) {
        try {
          return closure(names, value)
        } catch {
          // The interpreter says it in the language's own words.
        }
      }
      return this.interpreted.run(Object.assign(Object.create(names) as object, { [entry]: value }))
    }
  }

  evaluate(names: Bindings): unknown {
    // What is not well typed has no value, also where a part that is would settle it.
    if (this.#closure === undefined) this.#closure = this.interpreted.isWellTyped() ? closureOf(this.ast) : null
    if (!this.#closure) return this.interpreted.run(names)
    try {
      return this.#closure(names)
    } catch {
      // The interpreter says what is wrong, in the words of the language.
      return this.interpreted.run(names)
    }
  }
}

/** Names and fields that an expression reads: `system.ntp.servers`, the names of methods left out. */
export function fieldsIn(expression: string): string[] {
  const bare = expression.replace(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'/g, '""')
  const fields = [...bare.matchAll(/(?<![\w.])([a-zA-Z_]\w*(?:\.[a-zA-Z_]\w*)*)(\s*\()?/g)].map(
    ([, path = '', call]) => (call === undefined ? path : path.split('.').slice(0, -1).join('.')),
  )
  return [...new Set(fields.filter(Boolean))]
}

/** Text with `${expression}` in it. */
export interface Template {
  readonly source: string
  render(names: Bindings, show?: (value: string) => string): string
}

/** The expressions in a text with `${expression}` in it. */
export function expressionsInTemplate(source: string): string[] {
  return source.split(TEMPLATE_PART).filter((_, i) => i % 2 === 1)
}

const TEMPLATE_PART = /\$\{([^}]*)\}/

function shown(value: unknown): string {
  return Array.isArray(value) ? value.map(String).join(', ') : String(value)
}

/** @throws Error as `compileExpression` */
export function compileTemplate(source: string): Template {
  const parts = source.split(TEMPLATE_PART)
  const compiled = parts.map((part, i) => (i % 2 === 0 ? part : compileExpression(part)))
  return {
    source,
    render: (names, show = (value) => value) =>
      compiled.map((part) => (typeof part === 'string' ? part : show(shown(part.evaluate(names))))).join(''),
  }
}

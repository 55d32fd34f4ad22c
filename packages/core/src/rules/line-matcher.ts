import type { Statement } from '../syntax/index.ts'
import { compileExpression, type Expression } from './expression.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import { namesWithin } from './names.ts'
import { NO_NAMES, compilePattern, matchPattern, type Bindings, type Pattern } from '../model/index.ts'

export interface LineMatch {
  readonly statement: Statement
  readonly names: Bindings
  readonly pattern: Pattern
}

/** Words that no expression can use as a name (the CEL specification). */
const RESERVED = new Set([
  'as',
  'break',
  'const',
  'continue',
  'else',
  'for',
  'function',
  'if',
  'import',
  'let',
  'loop',
  'package',
  'namespace',
  'return',
  'var',
  'void',
  'while',
])

/** Looks for the lines of a scope that match one of some patterns and, with what they bind, an expression. */
export class LineMatcher {
  readonly patterns: readonly Pattern[]
  /** By pattern: the names that the others bind, empty. */
  readonly #others: readonly Bindings[]
  readonly #expression: Expression | null

  constructor(sources: readonly string[], where?: string) {
    this.patterns = sources.map(compilePattern)
    for (const { source, names } of this.patterns)
      for (const name of names)
        if (RESERVED.has(name))
          throw new Error(
            `Pattern "${source}": "${name}" is a word that the expression language keeps; choose another name`,
          )
    this.#others = this.patterns.map((pattern) => unbound(pattern, this.patterns))
    this.#expression = where === undefined ? null : compileExpression(where)
  }

  /** Whether what is found depends on the names bound so far. */
  get asksNames(): boolean {
    return this.#expression !== null
  }

  first(context: EvaluationContext): LineMatch | null {
    return this.#search(context, 1)[0] ?? null
  }

  all(context: EvaluationContext): readonly LineMatch[] {
    return this.#search(context, Infinity)
  }

  #search(context: EvaluationContext, limit: number): readonly LineMatch[] {
    let found: LineMatch[] | null = null
    for (let i = 0; i < this.patterns.length; i++) {
      const pattern = this.patterns[i]
      if (!pattern) continue
      for (const statement of pattern.first === null
        ? context.scope.statements
        : context.scope.candidates(pattern.first)) {
        if (statement.command.negated !== pattern.negated) continue
        const bound = matchPattern(pattern, context.device.opaque.wordsOf(statement, context.scope))
        if (!bound || found?.some((match) => match.statement === statement)) continue
        const others = this.#others[i] ?? NO_NAMES
        if (this.#expression && this.#expression.evaluate(namesWithin(context.names, others, bound)) !== true) continue
        const match = { statement, names: this.patterns.length > 1 ? { ...others, ...bound } : bound, pattern }
        if (limit === 1) return [match]
        if (found) found.push(match)
        else found = [match]
      }
    }
    return found ?? NO_MATCHES
  }
}

const NO_MATCHES: readonly LineMatch[] = Object.freeze([])

/** Names that another pattern of the same condition binds are empty rather than unknown to its expression. */
function unbound(pattern: Pattern, all: readonly Pattern[]): Bindings {
  const names: Record<string, unknown> = {}
  for (const other of all) {
    for (const token of other.tokens) {
      if (token.kind !== 'bind' && token.kind !== 'rest') continue
      if (!pattern.names.includes(token.name))
        names[token.name] = token.kind === 'bind' && token.type === 'int' ? 0n : ''
    }
  }
  return names
}

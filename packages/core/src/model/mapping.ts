import { findingsPlace, type Command, type Scope, type Statement } from '../config/index.ts'
import { compilePattern, matchPattern, type Pattern } from './pattern.ts'
import type { Writer } from './writer.ts'

/** What a pattern has bound, as texts. */
export class Bound {
  constructor(readonly names: Readonly<Record<string, unknown>>) {}

  /** The text bound to a name; empty where the pattern binds none. */
  text(name: string): string {
    const value = this.names[name]
    return value === undefined ? '' : String(value)
  }

  number(name: string): number {
    return Number(this.names[name])
  }

  words(name: string): string[] {
    return this.text(name).split(' ').filter(Boolean)
  }
}

/** What one form of command says to one part of the model. */
export type Mapping<T extends object> = readonly [pattern: string | readonly string[], apply: (write: Writer<T>, bound: Bound, statement: Statement) => void]

interface Entry<T extends object> {
  readonly pattern: Pattern
  readonly apply: Mapping<T>[1]
}

interface Match<T extends object> {
  readonly apply: Mapping<T>[1]
  readonly bound: Bound
}

const NOT_READ = 'not read'

/** Reads a scope by a table of patterns: for each statement the first one that matches speaks. */
export class MappingTable<T extends object> {
  readonly #byFirst = new Map<string, Entry<T>[]>()
  /** The same, narrowed by the second word; made when first asked for. */
  readonly #bySecond = new Map<string, Map<string, readonly Entry<T>[]>>()
  /** Place of this table among the findings of a command. */
  readonly #place = findingsPlace()

  /** @param noted patterns that are known and say nothing that the model holds @throws Error of a pattern that is none */
  constructor(mappings: readonly Mapping<T>[], noted: readonly string[] = []) {
    for (const [patterns, apply] of mappings) for (const source of [patterns].flat()) this.#add(source, apply)
    for (const source of noted) this.#add(source, () => undefined)
  }

  #add(source: string, apply: Mapping<T>[1]): void {
    const pattern = compilePattern(source)
    if (pattern.first === null) throw new Error(`Pattern "${source}": statements are looked up here by a plain first word`)
    this.#byFirst.set(pattern.first, [...(this.#byFirst.get(pattern.first) ?? []), { pattern, apply }])
  }

  /** Statements are read in their order: where two speak of one field, the later one is heard. */
  read(scope: Scope | null, write: Writer<T>): void {
    if (!scope) return
    const { sheet } = write
    const around = sheet.nodes
    for (const statement of scope.statements) {
      const match = this.#matchOf(statement.command)
      if (match === NOT_READ) continue
      sheet.used.add(statement)
      sheet.nodes = statement.nodes
      match.apply(write, match.bound, statement)
    }
    sheet.nodes = around
  }

  #matchOf(command: Command): Match<T> | typeof NOT_READ {
    let match = command.findings[this.#place] as Match<T> | typeof NOT_READ | undefined
    if (match === undefined) command.findings[this.#place] = match = this.#look(command)
    return match
  }

  #look(command: Command): Match<T> | typeof NOT_READ {
    for (const { pattern, apply } of this.#candidates(command)) {
      const names = pattern.negated === command.negated ? matchPattern(pattern, command) : null
      if (names) return { apply, bound: new Bound(names) }
    }
    return NOT_READ
  }

  /** Mappings whose first two words can be those of the command, in their order. */
  #candidates(command: Command): readonly Entry<T>[] {
    const all = this.#byFirst.get(command.first)
    if (!all || all.length < FEW) return all ?? NONE
    const second = command.lowerWords[1] ?? ''
    let narrowed = this.#bySecond.get(command.first)
    if (!narrowed) this.#bySecond.set(command.first, (narrowed = new Map()))
    // Words that no pattern names share one list.
    const key = all.some(({ pattern }) => namesWord(pattern, second)) ? second : ''
    let found = narrowed.get(key)
    if (!found) narrowed.set(key, (found = all.filter(({ pattern }) => pattern.tokens[1]?.kind !== 'word' || namesWord(pattern, key))))
    return found
  }
}

const FEW = 8
const NONE: readonly never[] = []

function namesWord({ tokens }: Pattern, word: string): boolean {
  const token = tokens[1]
  return token?.kind === 'word' && token.anyOf.includes(word)
}

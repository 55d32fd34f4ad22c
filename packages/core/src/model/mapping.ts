import { findingsPlace, type Command, type Scope, type Statement } from '../syntax/index.ts'
import { compilePattern, matchPattern, type Pattern } from './pattern.ts'
import type { ProvenanceRecorder, Writer } from './writer.ts'

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

/** What a mapping returns where it could make nothing, or not all, of a statement: the statement stays unread. */
export const NOT_TAKEN = Symbol('not taken')

/** Of a statement by which something was done, though it states more than is read. */
export function partly(..._done: unknown[]): typeof NOT_TAKEN {
  return NOT_TAKEN
}

/** What a mapping returns of a statement on which no answer rests, though it is known what it says. */
export class Ignored {
  constructor(readonly why: string) {}
}

/** Of a statement that says nothing but that what it stands in is there. */
export function ignored(..._done: unknown[]): Ignored {
  return new Ignored('no answer rests on it')
}

/**
 * What one form of command says to one part of the model. A statement counts as read where its mapping wrote something.
 */
export type Mapping<T extends object> = readonly [
  pattern: string | readonly string[],
  apply: (write: Writer<T>, bound: Bound, statement: Statement) => unknown,
]

/**
 * Forms of command on which no answer rests, and why not. Nothing else may be passed over without being listed as
 * unread.
 */
export type Harmless = readonly [why: string, patterns: readonly string[]]

interface Entry<T extends object> {
  readonly pattern: Pattern
  readonly apply: Mapping<T>[1]
  /** Why the statement bears on nothing; null where it is read. */
  readonly harmless: string | null
}

interface Match<T extends object> {
  readonly apply: Mapping<T>[1]
  readonly bound: Bound
  readonly harmless: string | null
}

const NOT_READ = 'not read'

/** Reads a scope by a table of patterns: for each statement the first one that matches speaks. */
export class MappingTable<T extends object> {
  readonly #byFirst = new Map<string, Entry<T>[]>()
  /** The same, narrowed by the second word; made when first asked for. */
  readonly #bySecond = new Map<string, Map<string, readonly Entry<T>[]>>()
  /** Place of this table among the findings of a command. */
  readonly #place = findingsPlace()

  /** @throws Error of a pattern that is none */
  constructor(mappings: readonly Mapping<T>[], harmless: readonly Harmless[] = []) {
    // What is harmless is named word by word; a mapping may stand for all that begins alike.
    for (const [why, patterns] of harmless) for (const source of patterns) this.#add(source, () => NOT_TAKEN, why)
    for (const [patterns, apply] of mappings) for (const source of [patterns].flat()) this.#add(source, apply, null)
  }

  #add(source: string, apply: Mapping<T>[1], harmless: string | null): void {
    const pattern = compilePattern(source)
    if (pattern.first === null)
      throw new Error(`Pattern "${source}": statements are looked up here by a plain first word`)
    this.#byFirst.set(pattern.first, [...(this.#byFirst.get(pattern.first) ?? []), { pattern, apply, harmless }])
  }

  /** Every pattern of the table, those of harmless forms included. */
  get patterns(): readonly Pattern[] {
    return [...this.#byFirst.values()].flatMap((entries) => entries.map(({ pattern }) => pattern))
  }

  /** The forms that are read, each with what it does. */
  get mappings(): readonly { readonly pattern: Pattern; readonly apply: Mapping<T>[1] }[] {
    return [...this.#byFirst.values()].flatMap((entries) => entries.filter(({ harmless }) => harmless === null))
  }

  /** Statements are read in their order: where two set the same field, the later one counts. */
  read(scope: Scope | null, write: Writer<T>): void {
    if (!scope) return
    const { provenance } = write
    const around = provenance.nodes
    for (const statement of scope.statements) {
      const match = this.#matchOf(statement.command)
      if (match === NOT_READ) continue
      if (match.harmless !== null) {
        passOver(statement, match.harmless, provenance)
        continue
      }
      provenance.nodes = statement.nodes
      const before = provenance.written
      const taken = match.apply(write, match.bound, statement)
      if (taken instanceof Ignored) passOver(statement, taken.why, provenance)
      else if (taken === NOT_TAKEN) provenance.refused.add(statement)
      // What a block holds is counted line by line.
      else if (provenance.written > before || statement.scope !== null) provenance.used.add(statement)
    }
    provenance.nodes = around
  }

  #matchOf(command: Command): Match<T> | typeof NOT_READ {
    let match = command.finding(this.#place) as Match<T> | typeof NOT_READ | undefined
    if (match === undefined) command.keepFinding(this.#place, (match = this.#look(command)))
    return match
  }

  #look(command: Command): Match<T> | typeof NOT_READ {
    for (const { pattern, apply, harmless } of this.#candidates(command)) {
      const names = pattern.negated === command.negated ? matchPattern(pattern, command) : null
      if (names) return { apply, bound: new Bound(names), harmless }
    }
    return command.negated && this.#takesBack(command)
      ? { apply: () => NOT_TAKEN, bound: new Bound({}), harmless: TAKEN_BACK }
      : NOT_READ
  }

  /** Whether a command takes back what would be read if it stood: then nothing of the kind holds. */
  #takesBack(command: Command): boolean {
    return this.#candidates(command).some(
      ({ pattern, harmless }) =>
        harmless === null &&
        !pattern.negated &&
        (agreeingWords(pattern, command) === command.words.length || matchPattern(pattern, command) !== null),
    )
  }

  /** Passes over paths that end where something would have to follow: a block that holds nothing says nothing. */
  passOverEmpty(scope: Scope, provenance: ProvenanceRecorder): void {
    for (const statement of scope.statements) {
      if (!provenance.isUnread(statement)) continue
      const { command } = statement
      const isEmpty = this.#candidates(command).some(
        ({ pattern }) =>
          pattern.tokens.length > command.words.length && agreeingWords(pattern, command) === command.words.length,
      )
      if (isEmpty) provenance.harmless.set(statement, EMPTY)
    }
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
    if (!found)
      narrowed.set(
        key,
        (found = all.filter(({ pattern }) => pattern.tokens[1]?.kind !== 'word' || namesWord(pattern, key))),
      )
    return found
  }
}

const TAKEN_BACK = 'it takes back what is read where it stands'
const EMPTY = 'a block that holds nothing says nothing'

/** How many words of a command a pattern names one by one. */
export function agreeingWords({ tokens }: Pattern, { lowerWords }: Command): number {
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i]
    const word = lowerWords[i]
    if (!token || word === undefined || token.kind === 'gap' || token.kind === 'rest') return i
    if (token.kind === 'word' && !token.anyOf.includes(word)) return i
    if (token.kind === 'bind' && token.type === 'int' && !/^\d+$/.test(word)) return i
  }
  return tokens.length
}

/** A statement on which nothing rests, with all that stands beneath it. */
function passOver(statement: Statement, why: string, provenance: ProvenanceRecorder): void {
  provenance.harmless.set(statement, why)
  for (const child of statement.scope?.statements ?? []) passOver(child, why, provenance)
}

const FEW = 8
const NONE: readonly never[] = []

function namesWord({ tokens }: Pattern, word: string): boolean {
  const token = tokens[1]
  return token?.kind === 'word' && token.anyOf.includes(word)
}

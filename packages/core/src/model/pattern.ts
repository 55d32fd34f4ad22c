import { isAddress } from './address.ts'

/**
 * Patterns over the words of a command, for people to read and write:
 *
 * - a word stands for itself, whatever its case; `{a|b}` for one of several
 * - `<name>` binds one word, `<name:int>` a whole number, `<name:address>` an IPv4 or IPv6 address
 * - `<name...>` binds one or more words to the end of the command
 * - `*` is any one word, `...` any number of words, none included
 * - a leading `no` asks for the negated form
 */
export interface Pattern {
  readonly source: string
  readonly negated: boolean
  readonly tokens: readonly Token[]
  /** Lower-case first word, by which candidates are looked up; null where any or one of several can stand there. */
  readonly first: string | null
  /** Names that a match binds. */
  readonly names: readonly string[]
  /** The whole pattern in lower case, where it consists of plain words: then no words need be looked at. */
  readonly literal: string | null
}

type Token =
  | { readonly kind: 'word'; readonly anyOf: readonly string[] }
  | { readonly kind: 'bind'; readonly name: string; readonly type: 'word' | 'int' | 'address' }
  | { readonly kind: 'rest'; readonly name: string }
  | { readonly kind: 'any' }
  | { readonly kind: 'gap' }

/** Whole numbers are `bigint`, as CEL has them. */
export type Bindings = Readonly<Record<string, unknown>>
export const NO_NAMES: Bindings = Object.freeze({})

const MAX_GAPS = 3

/** Names that CEL keeps for its types and literals: an expression would read them instead of what was bound. */
const TAKEN = new Set([
  'list',
  'type',
  'map',
  'int',
  'uint',
  'double',
  'string',
  'bytes',
  'bool',
  'dyn',
  'timestamp',
  'duration',
  'null_type',
  'null',
  'true',
  'false',
  'in',
])

/** @throws Error that names the pattern and what is wrong with it */
export function compilePattern(source: string): Pattern {
  const words = source.trim().split(/\s+/)
  const negated = words[0] === 'no'
  if (negated) words.shift()
  const tokens = words.map((word) => tokenOf(word, source))
  const head = tokens[0]
  if (!head || head.kind === 'gap' || head.kind === 'rest')
    throw new Error(`Pattern "${source}": it must begin with a word, "*" or a placeholder for one`)
  if (tokens.filter((token) => token.kind === 'gap').length > MAX_GAPS)
    throw new Error(`Pattern "${source}": more than ${MAX_GAPS} "..."`)
  if (tokens.slice(0, -1).some((token) => token.kind === 'rest'))
    throw new Error(`Pattern "${source}": "<name...>" can only stand at the end`)
  const literal = tokens.every((token) => token.kind === 'word' && token.anyOf.length === 1)
    ? words.join(' ').toLowerCase()
    : null
  return {
    source,
    negated,
    tokens,
    literal,
    first: head.kind === 'word' && head.anyOf.length === 1 ? (head.anyOf[0] ?? '') : null,
    names: tokens.flatMap((token) => (token.kind === 'bind' || token.kind === 'rest' ? [token.name] : [])),
  }
}

function tokenOf(word: string, source: string): Token {
  if (word === '*') return { kind: 'any' }
  if (word === '...') return { kind: 'gap' }
  const choice = /^\{([^{}]+)\}$/.exec(word)
  if (choice) return { kind: 'word', anyOf: (choice[1] ?? '').toLowerCase().split('|') }
  const bind = /^<([a-z_]\w*)(?::(int|address)|(\.\.\.))?>$/i.exec(word)
  if (bind) {
    const name = bind[1] ?? ''
    if (TAKEN.has(name))
      throw new Error(`Pattern "${source}": "${name}" is a word of the expression language; choose another name`)
    return bind[3]
      ? { kind: 'rest', name }
      : { kind: 'bind', name, type: bind[2] === 'int' ? 'int' : bind[2] === 'address' ? 'address' : 'word' }
  }
  if (/[<>{}]/.test(word))
    throw new Error(
      `Pattern "${source}": "${word}" is no placeholder (expected <name>, <name:int>, <name:address>, <name...> or {a|b})`,
    )
  return { kind: 'word', anyOf: [word.toLowerCase()] }
}

/** The words of a normalised command, without `no`, as they stand and in lower case. */
export interface Worded {
  readonly first: string
  readonly lowerText: string
  readonly words: readonly string[]
  readonly lowerWords: readonly string[]
}

/** What a match binds, or null where the command does not match. */
export function matchPattern(pattern: Pattern, command: Worded): Bindings | null {
  if (pattern.first !== null && command.first !== pattern.first) return null
  if (pattern.literal !== null) return command.lowerText === pattern.literal ? NO_NAMES : null
  if (pattern.names.length === 0) return matchFrom(pattern.tokens, 0, command, 0, null) ? NO_NAMES : null
  const bound: Record<string, unknown> = {}
  return matchFrom(pattern.tokens, 0, command, 0, bound) ? bound : null
}

function matchFrom(
  tokens: readonly Token[],
  t: number,
  command: Worded,
  w: number,
  bound: Record<string, unknown> | null,
): boolean {
  const { words, lowerWords } = command
  for (; t < tokens.length; t++, w++) {
    const token = tokens[t]
    if (!token) return false
    if (token.kind === 'gap') {
      if (t === tokens.length - 1) return true
      for (let skip = w; skip <= words.length; skip++) if (matchFrom(tokens, t + 1, command, skip, bound)) return true
      return false
    }
    const word = words[w]
    if (word === undefined) return false
    switch (token.kind) {
      case 'word':
        if (!token.anyOf.includes(lowerWords[w] ?? '')) return false
        break
      case 'bind':
        if (token.type === 'int') {
          if (!/^\d{1,18}$/.test(word)) return false
          if (bound) bound[token.name] = BigInt(word)
        } else {
          if (token.type === 'address' && !isAddress(word)) return false
          if (bound) bound[token.name] = word
        }
        break
      case 'rest':
        if (bound) bound[token.name] = words.slice(w).join(' ')
        return true
      case 'any':
        break
    }
  }
  return w === words.length
}

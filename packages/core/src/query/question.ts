import { RE2JS } from 're2js'
import { isAddress, parsePrefix } from '../model/index.ts'
import { CoreError } from '../syntax/index.ts'

/** Which lines are looked for: by words that all stand in the line, or by a pattern; perhaps inside a block. */
export interface LineQuestion {
  /** In small letters; all of them are in the line. */
  readonly words: readonly string[]
  /** RE2 syntax, found anywhere in the line; null where there is none. */
  readonly pattern: string | null
  /** Words of the line that opens a block around it; none: anywhere. */
  readonly inside: readonly string[]
}

/** What a text in the search field asks for. */
export interface Question extends LineQuestion {
  readonly text: string
  /** The address or prefix that the whole text is; null where it is none. */
  readonly address: string | null
}

/** A text that is no question, in words. */
export class QuestionError extends CoreError {
  constructor(message: string) {
    super('question', message)
  }
}

/**
 * Reads the search field: `words in any order`, `"words as they stand"`, `/RE2 pattern/`, an address or a prefix; `…
 * inside …` looks only in blocks whose first line holds the words after it.
 * @throws QuestionError that says what is wrong with a pattern
 */
export function readQuestion(text: string): Question {
  const whole = text.trim()
  const { left, right } = halves(whole)
  const pattern = /^\/(.+)\/$/s.exec(left)?.[1] ?? null
  if (pattern !== null) checked(pattern)
  const address =
    right === '' && pattern === null && (isAddress(whole) || (whole.includes('/') && parsePrefix(whole) !== null))
      ? whole
      : null
  return { text: whole, words: pattern === null ? wordsOf(left) : [], pattern, inside: wordsOf(right), address }
}

/** Splits at the word `inside`, outside of quotes and patterns. */
function halves(text: string): { readonly left: string; readonly right: string } {
  const bare = text.replace(/^\/.+\/(?=\s|$)|"[^"]*"/gs, (part) => '_'.repeat(part.length))
  const at = /(?:^|\s)inside\s+(?=\S)/.exec(bare)
  if (!at || (at.index === 0 && !bare.startsWith(' '))) return { left: text, right: '' }
  return { left: text.slice(0, at.index).trim(), right: text.slice(at.index + at[0].length).trim() }
}

function wordsOf(text: string): string[] {
  return [...text.matchAll(/"([^"]+)"|(\S+)/g)]
    .map(([, quoted, word]) => (quoted ?? word ?? '').toLowerCase())
    .filter((word) => word.trim() !== '')
}

function checked(pattern: string): void {
  try {
    RE2JS.compile(pattern)
  } catch (error) {
    throw new QuestionError(`/${pattern}/ is not RE2 syntax: ${error instanceof Error ? error.message : String(error)}`)
  }
}

/**
 * The longest text that every match of a pattern holds, in small letters; empty where none is known. It may miss one,
 * and never names one that a match can do without.
 */
export function requiredText(source: string): string {
  // Without regard to case, `k` and `s` stand for signs that are no letters of ours as well (Unicode simple case
  // folding).
  const folded = source.startsWith('(?i)')
  const pattern = folded ? source.slice('(?i)'.length) : source
  if (/\(\?[^:]|\|/.test(pattern.replace(/\\./g, '').replace(/\[[^[\]]*\]/g, ''))) return ''
  let longest = ''
  let run = ''
  const end = (): void => {
    if (run.length > longest.length) longest = run
    run = ''
  }
  for (let at = 0; at < pattern.length; at++) {
    const char = pattern.charAt(at)
    let literal: string | null = char
    if (char === '\\') {
      const next = pattern.charAt(++at)
      // A letter or digit after a backslash is a class, an anchor or a code.
      literal = /[\W_]/.test(next) ? next : null
      if (/[pPxQ]/.test(next)) return longest
    } else if (char === '[') {
      literal = null
      at = classEnd(pattern, at)
    } else if (char === '(') {
      // What a group holds may be repeated, or left out: nothing is taken from it.
      literal = null
      at = groupEnd(pattern, at)
    } else if ('.^$)'.includes(char)) literal = null
    else if ('*+?{'.includes(char)) {
      end()
      if (char === '{') at = Math.max(at, pattern.indexOf('}', at))
      continue
    }
    const quantifier = pattern.charAt(at + 1)
    const optional = quantifier === '*' || quantifier === '?' || quantifier === '{'
    if (literal === null || optional || (folded && /[ks]/i.test(literal))) end()
    else run += literal
    if (quantifier === '+') end()
  }
  end()
  // Small letters of a few characters are longer than they: those are not looked for.
  return longest.toLowerCase().length === longest.length ? longest.toLowerCase() : ''
}

function classEnd(pattern: string, from: number): number {
  let at = from + 1
  if (pattern.charAt(at) === '^') at++
  if (pattern.charAt(at) === ']') at++
  for (; at < pattern.length && pattern.charAt(at) !== ']'; at++) {
    if (pattern.charAt(at) === '\\') at++
    else if (pattern.startsWith('[:', at)) at = Math.max(at, pattern.indexOf(':]', at) + 1)
  }
  return at
}

function groupEnd(pattern: string, from: number): number {
  let depth = 0
  for (let at = from; at < pattern.length; at++) {
    const char = pattern.charAt(at)
    if (char === '\\') at++
    else if (char === '[') at = classEnd(pattern, at)
    else if (char === '(') depth++
    else if (char === ')' && --depth === 0) return at
  }
  return pattern.length
}

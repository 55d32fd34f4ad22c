import { Recent } from '../../syntax/recent.ts'

/** One statement of a hierarchical configuration as its words: `name-server [ a b ]` has the list `a`, `b`. */
export interface Phrase {
  /** Words without quotes and escapes. */
  readonly words: readonly string[]
  /** Words in `[ … ]` at the end; null where there is no list. */
  readonly list: readonly string[] | null
  /** `inactive:` stands before it: it is there, and does not hold. */
  readonly inactive: boolean
}

const MARKS = new Set(['inactive:', 'protect:', 'active:'])
const recent = new Recent<Phrase>(20_000)

/** Takes the text of one statement apart. Comments within it are left out. */
export function phraseOf(text: string): Phrase {
  if (text.length > 240) return split(text)
  let phrase = recent.get(text)
  if (!phrase) recent.set(text, (phrase = split(text)))
  return phrase
}

/** Anything that makes a text more than words parted by single spaces. */
const NOT_PLAIN = /["[\]{};#\\]|\/\*|[^\S ]|  |^ | $|^\w+:(?: |$)/

function split(text: string): Phrase {
  if (!NOT_PLAIN.test(text)) return { words: text.split(' '), list: null, inactive: false }
  const words: string[] = []
  let list: string[] | null = null
  let inList = false
  let inactive = false
  for (const token of tokensOf(text)) {
    if (token.kind === 'comment') continue
    if (token.kind === 'mark' && token.text === '[') {
      inList = true
      list ??= []
    } else if (token.kind === 'mark' && token.text === ']') inList = false
    else if (token.kind === 'word' && words.length === 0 && MARKS.has(token.text))
      inactive ||= token.text === 'inactive:'
    else if (token.kind !== 'mark') (inList && list ? list : words).push(token.value)
  }
  return { words, list, inactive }
}

/** A word as it is typed: in quotes where it would not be one word without them. */
export function typedWord(word: string): string {
  if (PLAIN.test(word)) return word
  return word !== '' && /^[^\s"{};\[\]#\\]+$/.test(word) && !word.startsWith('/*') && !MARKS.has(word)
    ? word
    : `"${word.replace(/[\\"]/g, '\\$&').replace(/\n/g, '\\n')}"`
}

/** Words that surely need no quotes; most are of this kind. */
const PLAIN = /^[\w./:*-]*[\w.*-]$/

/** Where a token stands; `open`: a quoted text or a comment that runs to the end without its closing mark. */
export interface TokenPlace {
  readonly kind: 'word' | 'quoted' | 'mark' | 'comment'
  readonly from: number
  readonly to: number
  readonly open: boolean
}

export interface Token extends TokenPlace {
  /** As it stands. */
  readonly text: string
  /** Without quotes and escapes. */
  readonly value: string
}

/** The next word, quoted text, mark `{ } ; [ ]` or comment at or after an offset; null at the end. */
export function nextToken(text: string, start: number): TokenPlace | null {
  let at = start
  while (at < text.length && isBlank(text.charCodeAt(at))) at++
  return at < text.length ? placeAt(text, at, text.charCodeAt(at)) : null
}

/** Cuts a text into tokens. Linear in its length. */
export function* tokensOf(text: string): Generator<Token> {
  for (let place = nextToken(text, 0); place; place = nextToken(text, place.to)) {
    const stands = text.slice(place.from, place.to)
    const inner = place.kind === 'quoted' ? unescaped(stands.slice(1, place.open ? undefined : -1)) : stands
    yield { ...place, text: stands, value: inner }
  }
}

function placeAt(text: string, from: number, code: number): TokenPlace {
  if (isMark(code)) return { kind: 'mark', from, to: from + 1, open: false }
  if (code === 0x23) {
    const end = /[\r\n]/.exec(text.slice(from, from + 4096)) ?? /[\r\n]/.exec(text.slice(from))
    return { kind: 'comment', from, to: end ? from + end.index : text.length, open: false }
  }
  if (code === 0x2f && text.charCodeAt(from + 1) === 0x2a) {
    const end = text.indexOf('*/', from + 2)
    return { kind: 'comment', from, to: end < 0 ? text.length : end + 2, open: end < 0 }
  }
  if (code === 0x22) return { kind: 'quoted', from, ...closingQuote(text, from + 1) }
  let to = from + 1
  for (; to < text.length; to++) {
    const next = text.charCodeAt(to)
    if (isBlank(next) || isMark(next) || next === 0x22) break
  }
  return { kind: 'word', from, to, open: false }
}

function closingQuote(text: string, from: number): { to: number; open: boolean } {
  for (let at = from; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code === 0x5c) at++
    else if (code === 0x22) return { to: at + 1, open: false }
  }
  return { to: text.length, open: true }
}

function unescaped(text: string): string {
  return text.includes('\\')
    ? text.replace(/\\(.)/gs, (_, char: string) => (char === 'n' ? '\n' : char === 't' ? '\t' : char))
    : text
}

function isBlank(code: number): boolean {
  return code === 32 || (code >= 9 && code <= 13) || code === 0xa0 || code === 0xfeff
}

/** `{ } ; [ ]` */
function isMark(code: number): boolean {
  return code === 0x7b || code === 0x7d || code === 0x3b || code === 0x5b || code === 0x5d
}

/** The words of a path as it is typed, without its quotes. */
export function wordsOfPhrase(text: string): readonly string[] {
  return phraseOf(text).words
}

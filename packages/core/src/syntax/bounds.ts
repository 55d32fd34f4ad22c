/** What a text may ask for before any of it is read: work and memory grow with these, not with its bytes. */
export const READING_LIMITS = {
  /** Blocks within blocks, of braces, brackets or elements. */
  depth: 200,
  /** Lines, ends of statements, openers and elements together. */
  statements: 2_000_000,
  /** Characters of one line: a listing in one line of JSON or XML is longer than any command. */
  lineCharacters: 20_000_000,
} as const

/** Why a text asks for more than is read; null where it does not. One pass, without a tree. */
export function beyondLimits(text: string): string | null {
  const markup = /^\s*</.test(text.slice(0, 1000))
  let depth = 0
  let statements = 0
  let begin = 0
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code === NEWLINE) {
      if (at - begin > READING_LIMITS.lineCharacters) return tooLong()
      begin = at + 1
      statements++
    } else if (code === OPEN_BRACE || code === OPEN_BRACKET) {
      statements++
      if (++depth > READING_LIMITS.depth) return tooDeep()
    } else if (code === CLOSE_BRACE || code === CLOSE_BRACKET) depth = Math.max(0, depth - 1)
    else if (code === SEMICOLON || code === COMMA) statements++
    else if (markup && code === LESS) {
      const next = text.charCodeAt(at + 1)
      if (next === SLASH) depth = Math.max(0, depth - 1)
      else if (next !== BANG && next !== QUERY) {
        statements++
        if (++depth > READING_LIMITS.depth) return tooDeep()
      }
    } else if (markup && code === SLASH && text.charCodeAt(at + 1) === GREATER) depth = Math.max(0, depth - 1)
    if (statements > READING_LIMITS.statements) return `it has more than ${READING_LIMITS.statements} statements`
  }
  return text.length - begin > READING_LIMITS.lineCharacters ? tooLong() : null
}

function tooDeep(): string {
  return `it nests deeper than ${READING_LIMITS.depth} levels`
}

function tooLong(): string {
  return `it has a line of more than ${READING_LIMITS.lineCharacters} characters`
}

const [NEWLINE, BANG, COMMA, SLASH, SEMICOLON, LESS, GREATER, QUERY] = [10, 33, 44, 47, 59, 60, 62, 63]
const [OPEN_BRACKET, CLOSE_BRACKET, OPEN_BRACE, CLOSE_BRACE] = [91, 93, 123, 125]

/** Words of one line: parted by spaces, or in quotes of either kind. `open`: the last one ran on without its end. */
export interface LineWords {
  readonly words: readonly string[]
  /** The quote that is not closed; null where all are. */
  readonly open: string | null
}

/** Takes a line apart. A quote within quotes stands behind a backslash. */
export function wordsOf(text: string): LineWords {
  const words: string[] = []
  let word: string | null = null
  let quote: string | null = null
  for (let at = 0; at < text.length; at++) {
    const sign = text[at] ?? ''
    if (quote !== null) {
      if (sign === '\\' && at + 1 < text.length) word += text[++at] ?? ''
      else if (sign === quote) quote = null
      else word += sign
    } else if (sign === '"' || sign === "'") {
      quote = sign
      word ??= ''
    } else if (sign === ' ' || sign === '\t' || sign === '\r' || sign === '\n') {
      if (word !== null) words.push(word)
      word = null
    } else if (sign === '\\' && at + 1 < text.length) word = (word ?? '') + (text[++at] ?? '')
    else word = (word ?? '') + sign
  }
  if (word !== null) words.push(word)
  return { words, open: quote }
}

/** Words that need no quotes where they are typed. */
const PLAIN = /^[^\s"'\\]+$/

/** A word as it is typed. */
export function quotedWord(word: string): string {
  return PLAIN.test(word) ? word : `"${word.replace(/[\\"]/g, '\\$&')}"`
}

/** Words as one line. */
export function lineOf(words: readonly string[]): string {
  return words.map(quotedWord).join(' ')
}

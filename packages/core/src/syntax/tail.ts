/**
 * The last characters of a text that are all of one kind. A pattern that is anchored at its end alone would be tried
 * from each place in the text, in time that grows with the square of its length.
 * @param kind a pattern of one character
 */
export function tailOf(text: string, kind: RegExp): string {
  let from = text.length
  while (from > 0 && kind.test(text.charAt(from - 1))) from--
  return text.slice(from)
}

/** A text less that. */
export function withoutTail(text: string, kind: RegExp): string {
  return text.slice(0, text.length - tailOf(text, kind).length)
}

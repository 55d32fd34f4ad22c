/** A text with what XML 1.0 §2.2 cannot hold replaced: a document with such a character does not open. */
export function xmlCharacters(text: string): string {
  return text.replace(/[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu, '\u{FFFD}')
}

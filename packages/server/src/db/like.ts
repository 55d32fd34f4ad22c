/** A pattern for LIKE that finds a text anywhere, whatever signs it holds. */
export function likeOf(text: string): string {
  return `%${text.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`
}

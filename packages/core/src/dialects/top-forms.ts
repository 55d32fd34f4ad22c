import { compilePattern } from '../model/index.ts'

/** Whether the words of a statement begin as one of some forms does. */
export function beginsAs(sources: readonly string[]): (words: readonly string[]) => boolean {
  const forms = sources.map(compilePattern)
  return (words) =>
    forms.some(({ tokens }) =>
      tokens.every((token, i) => token.kind !== 'word' || token.anyOf.includes(words[i] ?? '')),
    )
}

import { prefixMatch } from '../../model/index.ts'

/** What is known of prefixes, to be asked for an address: the longest prefix that holds it answers (RFC 4632 §5.1). */
export class LongestMatch<T> {
  readonly #byLength = new Map<number, Map<string, T>>()
  #lengths: number[] = []

  constructor(entries: Iterable<{ readonly words: readonly number[]; readonly length: number; readonly value: T }>) {
    for (const { words, length, value } of entries) {
      const of = this.#byLength.get(length) ?? new Map<string, T>()
      this.#byLength.set(length, of)
      // Of two for one prefix the first stays.
      const key = keyOf(words, length)
      if (!of.has(key)) of.set(key, value)
    }
    this.#lengths = [...this.#byLength.keys()].sort((a, b) => b - a)
  }

  /** Of routes, each for its own prefix. */
  static of<R extends { readonly words: readonly number[]; readonly length: number }>(
    routes: readonly R[],
  ): LongestMatch<R> {
    return new LongestMatch(routes.map((route) => ({ words: route.words, length: route.length, value: route })))
  }

  find(address: readonly number[]): T | null {
    for (const length of this.#lengths) {
      const found = length <= address.length * 32 ? this.#byLength.get(length)?.get(keyOf(address, length)) : undefined
      if (found !== undefined) return found
    }
    return null
  }
}

/** An address of IPv4 has one word, one of IPv6 four: their keys differ. */
function keyOf(words: readonly number[], length: number): string {
  return prefixMatch(words, length).value.join('.')
}

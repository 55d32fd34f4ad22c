/** Values within a limit of their sizes together; those asked for last are kept longest. */
export class SizedCache<V> {
  readonly #entries = new Map<string, { readonly value: V; readonly size: number }>()
  #size = 0

  constructor(readonly limit: number) {}

  get(key: string): V | undefined {
    const entry = this.#entries.get(key)
    if (!entry) return undefined
    this.#entries.delete(key)
    this.#entries.set(key, entry)
    return entry.value
  }

  /** A value that is larger than the limit alone is not kept. */
  set(key: string, value: V, size: number): void {
    this.#remove(key)
    if (size > this.limit) return
    this.#entries.set(key, { value, size })
    this.#size += size
    for (const oldest of this.#entries.keys()) {
      if (this.#size <= this.limit) break
      this.#remove(oldest)
    }
  }

  #remove(key: string): void {
    const entry = this.#entries.get(key)
    if (!entry) return
    this.#entries.delete(key)
    this.#size -= entry.size
  }
}

/**
 * What was worked out for recent texts, within a bound: two generations, of which the older is dropped when the younger
 * is full. Listings of one estate repeat the same lines thousands of times; hostile ones never do, and cost no memory.
 */
export class Recent<V> {
  #young = new Map<string, V>()
  #old = new Map<string, V>()

  constructor(readonly limit: number) {}

  get(key: string): V | undefined {
    const found = this.#young.get(key)
    if (found !== undefined) return found
    const older = this.#old.get(key)
    if (older !== undefined) this.set(key, older)
    return older
  }

  set(key: string, value: V): void {
    if (this.#young.size >= this.limit) {
      this.#old = this.#young
      this.#young = new Map()
    }
    this.#young.set(key, value)
  }
}

import { addressOf, addressWords, prefixMatch, type AddressMatch, type Family } from '../../model/index.ts'

/**
 * Every prefix that some device looks at, once, in the order of their addresses with the wider first: then what a
 * prefix holds stands in one run behind it. Each stands for its region: the addresses in it that are in none of those
 * behind it.
 */
export class Prefixes {
  /** Numbers of prefixes as they were taken in: by address and length. */
  readonly #ids4 = new Map<number, number>()
  readonly #ids6 = new Map<string, number>()
  /** Four words each; of IPv4 the first. */
  #words = new Uint32Array(2048)
  #lengths = new Uint8Array(512)
  #families = new Uint8Array(512)
  #size = 0
  #sorted: Sorted | null = null

  constructor() {
    this.add([0], 0)
    this.add([0, 0, 0, 0], 0)
  }

  get size(): number {
    return this.#size
  }

  /** @returns the number of the prefix */
  add(words: readonly number[], length: number): number {
    const four = words.length === 1
    const known = this.find(words, length)
    if (known !== undefined) return known
    const match = prefixMatch(words, length).value
    const id = this.#size++
    if (four) this.#ids4.set((match[0] ?? 0) * 64 + length, id)
    else this.#ids6.set(`${match.join('.')}/${length}`, id)
    if (id >= this.#lengths.length) this.#grow()
    match.forEach((word, i) => (this.#words[id * 4 + i] = word))
    this.#lengths[id] = length
    this.#families[id] = four ? 4 : 6
    this.#sorted = null
    return id
  }

  /** @returns the number of the prefix; null where the text is none */
  addText(text: string): number | null {
    const slash = text.indexOf('/')
    const family: Family = text.includes(':') ? 'ipv6' : 'ipv4'
    const words = addressWords(slash < 0 ? text : text.slice(0, slash), family)
    const length = slash < 0 ? (family === 'ipv4' ? 32 : 128) : Number(text.slice(slash + 1))
    return words === null || !(length >= 0 && length <= (family === 'ipv4' ? 32 : 128)) ? null : this.add(words, length)
  }

  #grow(): void {
    const [words, lengths, families] = [
      new Uint32Array(this.#words.length * 2),
      new Uint8Array(this.#lengths.length * 2),
      new Uint8Array(this.#families.length * 2),
    ]
    words.set(this.#words)
    lengths.set(this.#lengths)
    families.set(this.#families)
    ;[this.#words, this.#lengths, this.#families] = [words, lengths, families]
  }

  familyOf(id: number): Family {
    return this.#families[id] === 4 ? 'ipv4' : 'ipv6'
  }

  lengthOf(id: number): number {
    return this.#lengths[id] ?? 0
  }

  wordsOf(id: number): number[] {
    return this.#families[id] === 4 ? [this.#words[id * 4] ?? 0] : [0, 1, 2, 3].map((i) => this.#words[id * 4 + i] ?? 0)
  }

  matchOf(id: number): AddressMatch {
    return prefixMatch(this.wordsOf(id), this.lengthOf(id))
  }

  textOf(id: number): string {
    return `${addressOf(this.wordsOf(id))}/${this.lengthOf(id)}`
  }

  /** The order, and which is in which. */
  get sorted(): Sorted {
    return (this.#sorted ??= this.#sort())
  }

  #sort(): Sorted {
    const order = new Int32Array(this.#size)
    const four = Float64Array.from(this.#ids4.keys()).sort()
    four.forEach((key, i) => (order[i] = this.#ids4.get(key) ?? 0))
    const words = this.#words
    const six = [...this.#ids6.values()].sort((a, b) => {
      for (let i = 0; i < 4; i++) {
        const difference = (words[a * 4 + i] ?? 0) - (words[b * 4 + i] ?? 0)
        if (difference !== 0) return difference
      }
      return this.lengthOf(a) - this.lengthOf(b)
    })
    order.set(six, four.length)
    const place = new Int32Array(this.#size)
    const parent = new Int32Array(this.#size).fill(-1)
    const end = new Int32Array(this.#size)
    const empty = new Uint8Array(this.#size)
    const open: number[] = []
    const left: bigint[] = []
    const close = (at: number): void => {
      const id = open.pop() ?? 0
      end[id] = at
      // Nothing of it is left when those right inside it fill it.
      if (left.pop() === 0n) empty[id] = 1
    }
    order.forEach((id, at) => {
      place[id] = at
      while (open.length > 0 && !this.holds(open.at(-1) ?? 0, id)) close(at)
      const around = open.at(-1)
      if (around !== undefined) {
        parent[id] = around
        left[left.length - 1] = (left.at(-1) ?? 0n) - this.#sizeOf(id)
      }
      open.push(id)
      left.push(this.#sizeOf(id))
    })
    while (open.length > 0) close(order.length)
    return { order, place, parent, end, empty }
  }

  #sizeOf(id: number): bigint {
    return SIZES[(this.#families[id] === 4 ? 32 : 128) - (this.#lengths[id] ?? 0)] ?? 0n
  }

  /** Whether a prefix holds another, or is it. */
  holds(outer: number, inner: number): boolean {
    return (
      this.#families[outer] === this.#families[inner] &&
      this.#agree(inner, this.#lengths[outer] ?? 0, this.#words, outer * 4)
    )
  }

  /** Whether a prefix is in one that need not be known. */
  isInside(id: number, words: readonly number[], length: number): boolean {
    return (this.#families[id] === 4) === (words.length === 1) && this.#agree(id, length, words, 0)
  }

  #agree(id: number, length: number, words: ArrayLike<number>, from: number): boolean {
    if ((this.#lengths[id] ?? 0) < length) return false
    for (let i = 0, bits = length; bits > 0; i++, bits -= 32) {
      const mask = bits >= 32 ? 0xffffffff : (0xffffffff << (32 - bits)) >>> 0
      if ((((this.#words[id * 4 + i] ?? 0) ^ (words[from + i] ?? 0)) & mask) !== 0) return false
    }
    return true
  }

  /** The number of a prefix that was taken in; undefined of another. */
  find(words: readonly number[], length: number): number | undefined {
    if (words.length !== 1) return this.#ids6.get(`${prefixMatch(words, length).value.join('.')}/${length}`)
    const mask = length === 0 ? 0 : 0xffffffff << (32 - length)
    // An address of 32 bits and a length of six make a number that is exact.
    return this.#ids4.get((((words[0] ?? 0) & mask) >>> 0) * 64 + length)
  }

  /** The narrowest prefix that holds all of another one, which need not be known. */
  around(words: readonly number[], length: number): number {
    for (let bits = length; bits > 0; bits--) {
      const id = this.find(words, bits)
      if (id !== undefined) return id
    }
    return this.find(words, 0) ?? 0
  }

  /** Prefixes that have addresses of another: it and those in it, then those that it is in, the narrowest first. */
  *meeting(id: number): Iterable<number> {
    const { order, place, parent, end } = this.sorted
    for (let at = place[id] ?? 0; at < (end[id] ?? 0); at++) yield order[at] ?? 0
    for (let outer = parent[id] ?? -1; outer >= 0; outer = parent[outer] ?? -1) yield outer
  }
}

const SIZES = Array.from({ length: 129 }, (_, bits) => 1n << BigInt(bits))

export interface Sorted {
  readonly order: Int32Array
  /** Of a prefix: where it is in the order. */
  readonly place: Int32Array
  /** The narrowest that holds it; -1 where there is none. */
  readonly parent: Int32Array
  /** Where in the order those that it holds end. */
  readonly end: Int32Array
  /** 1: those that it holds fill it. */
  readonly empty: Uint8Array
}

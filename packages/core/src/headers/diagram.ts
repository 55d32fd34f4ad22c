import { CoreError } from '../syntax/index.ts'
/** Below every level: the two ends of a set, and the values of a map. */
export const END = 0xffff
/** The set of no headers. */
export const NOTHING = 0
/** The set of all headers. */
export const ALL = 1

/** Thrown instead of running for hours: the question needs more nodes or steps than the limit. */
export class ComplexityLimitError extends CoreError {
  constructor(most: number, what: string) {
    super('too-complex', `too complex to decide: it needs more than ${most} ${what}`)
  }
}

/** Shares of sets that are remembered. */
const MOST_DENSITIES = 1 << 16

const AND = 1
const OR = 2
const MINUS = 3
const MEET = 4
const EXISTS = 5

/**
 * Ordered decision diagrams, reduced and hash-consed: equal ones have one number, so that two are compared by comparing
 * numbers. After Bryant, Graph-Based Algorithms for Boolean Function Manipulation, IEEE Transactions on Computers C-35
 * (1986).
 *
 * A node is a number into three columns of typed arrays; no object is made for it, and nothing is made while sets are
 * joined and cut except nodes. A node tests one bit (`level`, counted from the top) and goes to `low` where it is 0, to
 * `high` where it is 1. Sets end in NOTHING or ALL; maps end in values, which are numbers below zero (`valueOf`).
 */
export class Diagrams {
  #levels: Uint16Array
  #low: Int32Array
  #high: Int32Array
  #size = 2
  /** Open addressing; 0 is free. */
  #table: Int32Array
  #tableMask: number
  /** Three words an entry: first, second with the operation mixed in, answer. */
  #cache: Int32Array
  #cacheMask: number

  readonly #densities = new Map<number, number>()

  /** @param limit nodes at most; @throws ComplexityLimitError from any operation that would go beyond */
  constructor(
    readonly limit = 1 << 26,
    room = 1 << 14,
  ) {
    this.#levels = new Uint16Array(room)
    this.#low = new Int32Array(room)
    this.#high = new Int32Array(room)
    this.#levels[NOTHING] = END
    this.#levels[ALL] = END
    this.#table = new Int32Array(room * 2)
    this.#tableMask = room * 2 - 1
    this.#cache = new Int32Array(room * 4)
    this.#cacheMask = room - 1
  }

  /** Nodes made so far. */
  get size(): number {
    return this.#size
  }

  level(node: number): number {
    return node < 2 ? END : (this.#levels[node] as number)
  }

  low(node: number): number {
    return this.#low[node] as number
  }

  high(node: number): number {
    return this.#high[node] as number
  }

  /** The node that tests `level`; what is tested without need is left out. */
  make(level: number, low: number, high: number): number {
    if (low === high) return low
    let slot = hash(level, low, high) & this.#tableMask
    for (;;) {
      const node = this.#table[slot] as number
      if (node === 0) break
      if (this.#low[node] === low && this.#high[node] === high && this.#levels[node] === level) return node
      slot = (slot + 1) & this.#tableMask
    }
    if (this.#size >= this.limit) throw new ComplexityLimitError(this.limit, 'nodes of a decision diagram')
    const node = this.#size++
    if (node >= this.#levels.length) this.#grow()
    this.#levels[node] = level
    this.#low[node] = low
    this.#high[node] = high
    if (this.#size * 2 > this.#table.length) this.#rehash()
    else this.#table[slot] = node
    return node
  }

  #grow(): void {
    const room = this.#levels.length * 2
    const levels = new Uint16Array(room)
    const low = new Int32Array(room)
    const high = new Int32Array(room)
    levels.set(this.#levels)
    low.set(this.#low)
    high.set(this.#high)
    this.#levels = levels
    this.#low = low
    this.#high = high
  }

  #rehash(): void {
    const slots = this.#table.length * 2
    const table = new Int32Array(slots)
    const mask = slots - 1
    for (let node = 2; node < this.#size; node++) {
      let slot = hash(this.#levels[node] as number, this.#low[node] as number, this.#high[node] as number) & mask
      while (table[slot] !== 0) slot = (slot + 1) & mask
      table[slot] = node
    }
    this.#table = table
    this.#tableMask = mask
    // The memory of answers grows with what there is to remember, up to 48 MB.
    if (this.#cacheMask < (1 << 22) - 1) {
      const entries = (this.#cacheMask + 1) * 2
      this.#cache = new Int32Array(entries * 4)
      this.#cacheMask = entries - 1
    }
  }

  /** Headers of both. */
  and(a: number, b: number): number {
    if (a === b || b === ALL) return a
    if (a === ALL) return b
    if (a === NOTHING || b === NOTHING) return NOTHING
    if (a > b) {
      const swap = a
      a = b
      b = swap
    }
    const known = this.#recall(AND, a, b)
    if (known >= 0) return known
    const levelA = this.#levels[a] as number
    const levelB = this.#levels[b] as number
    const level = levelA < levelB ? levelA : levelB
    const low = this.and(
      levelA === level ? (this.#low[a] as number) : a,
      levelB === level ? (this.#low[b] as number) : b,
    )
    const high = this.and(
      levelA === level ? (this.#high[a] as number) : a,
      levelB === level ? (this.#high[b] as number) : b,
    )
    const answer = this.make(level, low, high)
    this.#remember(AND, a, b, answer)
    return answer
  }

  /** Headers of either. */
  or(a: number, b: number): number {
    if (a === b || b === NOTHING) return a
    if (a === NOTHING) return b
    if (a === ALL || b === ALL) return ALL
    if (a > b) {
      const swap = a
      a = b
      b = swap
    }
    const known = this.#recall(OR, a, b)
    if (known >= 0) return known
    const levelA = this.#levels[a] as number
    const levelB = this.#levels[b] as number
    const level = levelA < levelB ? levelA : levelB
    const low = this.or(
      levelA === level ? (this.#low[a] as number) : a,
      levelB === level ? (this.#low[b] as number) : b,
    )
    const high = this.or(
      levelA === level ? (this.#high[a] as number) : a,
      levelB === level ? (this.#high[b] as number) : b,
    )
    const answer = this.make(level, low, high)
    this.#remember(OR, a, b, answer)
    return answer
  }

  /** Headers of `a` that are not in `b`. */
  minus(a: number, b: number): number {
    if (a === NOTHING || b === ALL || a === b) return NOTHING
    if (b === NOTHING) return a
    const known = this.#recall(MINUS, a, b)
    if (known >= 0) return known
    const levelA = this.level(a)
    const levelB = this.#levels[b] as number
    const level = levelA < levelB ? levelA : levelB
    const low = this.minus(
      levelA === level ? (this.#low[a] as number) : a,
      levelB === level ? (this.#low[b] as number) : b,
    )
    const high = this.minus(
      levelA === level ? (this.#high[a] as number) : a,
      levelB === level ? (this.#high[b] as number) : b,
    )
    const answer = this.make(level, low, high)
    this.#remember(MINUS, a, b, answer)
    return answer
  }

  not(a: number): number {
    return this.minus(ALL, a)
  }

  /** Whether the two share a header; makes no nodes. */
  meet(a: number, b: number): boolean {
    if (a === NOTHING || b === NOTHING) return false
    if (a === ALL || b === ALL || a === b) return true
    if (a > b) {
      const swap = a
      a = b
      b = swap
    }
    const known = this.#recall(MEET, a, b)
    if (known >= 0) return known === 1
    const levelA = this.#levels[a] as number
    const levelB = this.#levels[b] as number
    const level = levelA < levelB ? levelA : levelB
    const answer =
      this.meet(levelA === level ? (this.#low[a] as number) : a, levelB === level ? (this.#low[b] as number) : b) ||
      this.meet(levelA === level ? (this.#high[a] as number) : a, levelB === level ? (this.#high[b] as number) : b)
    this.#remember(MEET, a, b, answer ? 1 : 0)
    return answer
  }

  /** Whether `b` holds every header of `a`. */
  within(a: number, b: number): boolean {
    return this.minus(a, b) === NOTHING
  }

  /** The share of all headers that a set holds, from 0 to 1. */
  density(a: number): number {
    if (a < 2) return a
    const known = this.#densities.get(a)
    if (known !== undefined) return known
    const density = (this.density(this.#low[a] as number) + this.density(this.#high[a] as number)) / 2
    if (this.#densities.size > MOST_DENSITIES) this.#densities.clear()
    this.#densities.set(a, density)
    return density
  }

  /** The headers that are in `a` for some value of the bits from level `from` to before level `to`. */
  exists(a: number, from: number, to: number): number {
    const levelA = this.level(a)
    if (levelA >= to) return a
    const range = from * 1024 + to
    const known = this.#recall(EXISTS, a, range)
    if (known >= 0) return known
    const low = this.exists(this.#low[a] as number, from, to)
    const high = this.exists(this.#high[a] as number, from, to)
    const answer = levelA >= from ? this.or(low, high) : this.make(levelA, low, high)
    this.#remember(EXISTS, a, range, answer)
    return answer
  }

  #recall(operation: number, a: number, b: number): number {
    const at = (hash(operation, a, b) & this.#cacheMask) * 4
    const cache = this.#cache
    return cache[at] === a && cache[at + 1] === b && cache[at + 2] === operation ? (cache[at + 3] as number) : -1
  }

  #remember(operation: number, a: number, b: number, answer: number): void {
    const at = (hash(operation, a, b) & this.#cacheMask) * 4
    this.#cache[at] = a
    this.#cache[at + 1] = b
    this.#cache[at + 2] = operation
    this.#cache[at + 3] = answer
  }

  /** A set with its bits under other levels: `to` tells where each is tested then. Levels may change their order. */
  moved(node: number, to: (level: number) => number): number {
    const made = new Map<number, number>([
      [NOTHING, NOTHING],
      [ALL, ALL],
    ])
    for (const one of this.below(node)) {
      const bit = this.make(to(this.level(one)), NOTHING, ALL)
      const [low, high] = [made.get(this.low(one)) ?? NOTHING, made.get(this.high(one)) ?? NOTHING]
      made.set(one, this.or(this.minus(low, bit), this.and(high, bit)))
    }
    return made.get(node) ?? NOTHING
  }

  /** A set of another store, in this one. */
  taken(from: Diagrams, node: number): number {
    const made = new Map<number, number>([
      [NOTHING, NOTHING],
      [ALL, ALL],
    ])
    for (const one of from.below(node))
      made.set(one, this.make(from.level(one), made.get(from.low(one)) ?? NOTHING, made.get(from.high(one)) ?? NOTHING))
    return made.get(node) ?? NOTHING
  }

  /** Every node from which `node` is made, once, those below first. */
  below(node: number): number[] {
    const seen = new Set<number>()
    const order: number[] = []
    const visit = (at: number): void => {
      if (at < 2 || seen.has(at)) return
      seen.add(at)
      visit(this.#low[at] as number)
      visit(this.#high[at] as number)
      order.push(at)
    }
    visit(node)
    return order
  }
}

function hash(a: number, b: number, c: number): number {
  let h = Math.imul(a ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(b, 0xc2b2ae35) ^ Math.imul(c, 0x27d4eb2f)
  h ^= h >>> 15
  h = Math.imul(h, 0x2c1b3c6d)
  return (h ^ (h >>> 13)) >>> 0
}

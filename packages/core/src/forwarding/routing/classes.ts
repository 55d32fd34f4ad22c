import type { Prefixes } from './prefixes.ts'

/** What a table does with the destinations of each of its prefixes: numbers of prefixes, and of what is done. */
export interface TableColumns {
  readonly prefixes: Int32Array
  readonly actions: Int32Array
}

/**
 * Destinations in classes that nothing in a network tells apart: every table does the same with all of a class, and
 * every filter that looks at destinations holds all of it or none. Made by refinement: each table in turn parts the
 * classes in which it does different things. After the idea of atomic predicates of published research on data planes
 * (from memory), for destinations only.
 */
export class DestinationClasses {
  /** Of each prefix: the class of its region; -1 where nothing is left of it. */
  #classes: Int32Array
  #count = 0

  constructor(
    readonly prefixes: Prefixes,
    /** Prefixes that something beside the tables looks at. */
    conditions: Iterable<number>,
  ) {
    const { size, sorted } = prefixes
    this.#classes = new Int32Array(size)
    for (let id = 0; id < size; id++)
      this.#classes[id] = sorted.empty[id] === 1 ? -1 : prefixes.familyOf(id) === 'ipv4' ? 0 : 1
    this.#count = 2
    const ids = Int32Array.from(new Set(conditions))
    this.refine({ prefixes: ids, actions: ids })
  }

  get count(): number {
    return this.#count
  }

  /**
   * The same classes, parted further by what was added to the prefixes since: conditions, and tables to refine by.
   * Classes that a table parted stay apart when the table goes, which costs room and changes no answer.
   */
  grown(conditions: Iterable<number>, tables: readonly TableColumns[]): DestinationClasses {
    const { prefixes } = this
    const { order, parent, empty } = prefixes.sorted
    const next = new DestinationClasses(prefixes, [])
    const classes = new Int32Array(prefixes.size)
    // A new prefix is a part of the region that it was taken out of.
    const before = new Int32Array(prefixes.size)
    for (let at = 0; at < order.length; at++) {
      const id = order[at] as number
      const around = parent[id] as number
      before[id] =
        id < this.#classes.length && (this.#classes[id] as number) >= 0
          ? (this.#classes[id] as number)
          : around < 0
            ? -1
            : (before[around] as number)
      classes[id] = empty[id] === 1 ? -1 : (before[id] as number)
    }
    next.#classes = classes
    next.#count = this.#count
    const ids = Int32Array.from(new Set(conditions))
    if (ids.length > 0) next.refine({ prefixes: ids, actions: ids })
    for (const table of tables) next.refine(table)
    return next
  }

  classOf(prefix: number): number {
    return this.#classes[prefix] ?? -1
  }

  /**
   * Parts the classes by what a table does, and numbers them anew: those with which it does the same stand together, in
   * the order in which they stood. So what tables do with classes is told by few runs of numbers, and sets of them are
   * small.
   */
  refine(table: TableColumns): void {
    const { order } = this.prefixes.sorted
    const done = spread(this.prefixes, table)
    const pairs = new PairNumbers()
    const classes = new Int32Array(this.#classes.length)
    for (let at = 0; at < order.length; at++) {
      const id = order[at] as number
      const held = this.#classes[id] as number
      classes[id] = held < 0 ? -1 : pairs.numberOf(held, done[id] as number)
    }
    const places = pairs.places()
    for (let id = 0; id < classes.length; id++) {
      const number = classes[id] as number
      if (number >= 0) classes[id] = places[number] as number
    }
    this.#classes = classes
    this.#count = pairs.count
  }

  /** What a table does with each class; `nothing` where it has no prefix for it. */
  actionsOf(table: TableColumns): Int32Array {
    const done = spread(this.prefixes, table)
    const actions = new Int32Array(this.#count).fill(NO_ACTION)
    for (let id = 0; id < done.length; id++) {
      const held = this.#classes[id] as number
      if (held >= 0) actions[held] = done[id] as number
    }
    return actions
  }

  /** The classes of the destinations in a prefix, in order, once; those that are in it in part only when `partly`. */
  within(words: readonly number[], length: number, partly = false): number[] {
    const { order, place, end } = this.prefixes.sorted
    const id = this.prefixes.find(words, length)
    const found = new Set<number>()
    const take = (prefix: number): void => {
      const held = this.#classes[prefix] ?? -1
      if (held >= 0) found.add(held)
    }
    if (id !== undefined) for (let at = place[id] as number; at < (end[id] as number); at++) take(order[at] as number)
    else if (partly) {
      take(this.prefixes.around(words, length))
      for (const prefix of order) if (this.prefixes.isInside(prefix, words, length)) take(prefix)
    }
    return [...found].sort((a, b) => a - b)
  }

  /** An address of a class, no border of a subnet where there is another. */
  addressOf(wanted: number): readonly number[] | null {
    const { order, end, place } = this.prefixes.sorted
    for (const id of order) {
      if (this.#classes[id] !== wanted) continue
      const inside = (place[id] as number) + 1
      // Behind what is held by it, if not before: the region is not empty, so that one of the steps lands in it.
      const candidates = [
        stepped(this.prefixes, id, 10n),
        stepped(this.prefixes, id, 1n),
        stepped(this.prefixes, id, 0n),
      ]
      for (let at = inside; at < (end[id] as number); at = end[order[at] as number] as number)
        candidates.push(
          stepped(this.prefixes, order[at] as number, -1n),
          stepped(this.prefixes, order[at] as number, null),
        )
      const found = candidates.find((words) => words !== null && this.prefixes.around(words, words.length * 32) === id)
      if (found) return found
    }
    return null
  }

  /** The prefixes whose regions make up a class. */
  regionsOf(wanted: ReadonlySet<number>): number[] {
    return [...this.prefixes.sorted.order].filter((id) => wanted.has(this.#classes[id] ?? -1))
  }
}

/** What a table without a prefix for a destination does. */
export const NO_ACTION = -1

/** Of each prefix: what the table does there, by the longest match (RFC 4632 §5.1). */
function spread(prefixes: Prefixes, { prefixes: ids, actions }: TableColumns): Int32Array {
  const { order, parent } = prefixes.sorted
  const done = new Int32Array(prefixes.size).fill(UNSET)
  for (let i = 0; i < ids.length; i++) done[ids[i] as number] = actions[i] as number
  for (let at = 0; at < order.length; at++) {
    const id = order[at] as number
    if (done[id] !== UNSET) continue
    const around = parent[id] as number
    done[id] = around < 0 ? NO_ACTION : (done[around] as number)
  }
  return done
}

/** The address some steps behind the first of a prefix; null steps: right behind its last. Null where there is none. */
function stepped(prefixes: Prefixes, id: number, steps: bigint | null): readonly number[] | null {
  const words = prefixes.wordsOf(id)
  const bits = BigInt(words.length * 32)
  const value =
    words.reduce((sum, word) => (sum << 32n) + BigInt(word), 0n) +
    (steps ?? 1n << (bits - BigInt(prefixes.lengthOf(id))))
  if (value < 0n || value >= 1n << bits) return null
  return words.map((_, i) => Number((value >> (bits - 32n * BigInt(i + 1))) & 0xffffffffn))
}

const UNSET = -2

/** Numbers pairs of numbers in the order in which they first come. */
class PairNumbers {
  #keys = new Float64Array(1 << 12).fill(-1)
  #numbers = new Int32Array(1 << 12)
  /** Of each number: its pair, the second first, as one number. */
  #pairs = new Float64Array(1 << 10)
  count = 0

  /** Of each number: its place among all pairs in the order of their second, then of their first. */
  places(): Int32Array {
    const pairs = this.#pairs.subarray(0, this.count)
    const sorted = pairs.slice().sort()
    return Int32Array.from(pairs, (pair) => {
      let [from, to] = [0, sorted.length]
      while (from < to) {
        const half = (from + to) >> 1
        if ((sorted[half] as number) < pair) from = half + 1
        else to = half
      }
      return from
    })
  }

  numberOf(a: number, b: number): number {
    // Both are below 2^24 and 2^28: their pair is exact.
    const key = a * 0x10000000 + (b + 2)
    let slot = hash(a, b) & (this.#keys.length - 1)
    while (this.#keys[slot] !== -1) {
      if (this.#keys[slot] === key) return this.#numbers[slot] as number
      slot = (slot + 1) & (this.#keys.length - 1)
    }
    this.#keys[slot] = key
    this.#numbers[slot] = this.count
    if (this.count === this.#pairs.length) {
      const pairs = new Float64Array(this.#pairs.length * 2)
      pairs.set(this.#pairs)
      this.#pairs = pairs
    }
    this.#pairs[this.count] = (b + 2) * 0x1000000 + a
    if (++this.count * 2 > this.#keys.length) this.#grow()
    return this.count - 1
  }

  #grow(): void {
    const [keys, numbers] = [this.#keys, this.#numbers]
    this.#keys = new Float64Array(keys.length * 2).fill(-1)
    this.#numbers = new Int32Array(keys.length * 2)
    keys.forEach((key, i) => {
      if (key === -1) return
      let slot = hash(Math.floor(key / 0x10000000), (key % 0x10000000) - 2) & (this.#keys.length - 1)
      while (this.#keys[slot] !== -1) slot = (slot + 1) & (this.#keys.length - 1)
      this.#keys[slot] = key
      this.#numbers[slot] = numbers[i] as number
    })
  }
}

function hash(a: number, b: number): number {
  let h = Math.imul(a ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(b, 0xc2b2ae35)
  h ^= h >>> 15
  h = Math.imul(h, 0x2c1b3c6d)
  return (h ^ (h >>> 13)) >>> 0
}

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
  /** The prefixes of which something is left, by their classes. */
  #regions: Int32Array
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
    this.#regions = regionsByClass(prefixes, this.#classes)
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
    next.#regions = regionsByClass(prefixes, classes)
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
    const done = spread(this.prefixes, table)
    const regions = sortedBy(done, this.#regions)
    const classes = new Int32Array(this.#classes.length).fill(-1)
    let count = 0
    let [held, action] = [-1, NO_ACTION]
    for (const id of regions) {
      const [own, does] = [this.#classes[id] as number, done[id] as number]
      if (count === 0 || own !== held || does !== action) count++
      ;[held, action] = [own, does]
      classes[id] = count - 1
    }
    this.#classes = classes
    this.#regions = regions
    this.#count = count
  }

  #samples: Int32Array | null = null
  /** Of each prefix: what the table that is looked at now does; used again, since there are many tables. */
  #stated: Int32Array | null = null

  /**
   * What a table does with each class, by the longest match (RFC 4632 §5.1); NO_ACTION where it has no prefix for it.
   * @param asked some classes, of which alone it is said, in their order; null: all of them
   */
  actionsOf({ prefixes: ids, actions }: TableColumns, asked: Int32Array | null = null): Int32Array {
    const { parent } = this.prefixes.sorted
    const samples = (this.#samples ??= this.#regionOfEach())
    if (this.#stated?.length !== this.prefixes.size) this.#stated = new Int32Array(this.prefixes.size).fill(UNSET)
    const stated = this.#stated
    for (let i = 0; i < ids.length; i++) stated[ids[i] as number] = actions[i] as number
    const found = new Int32Array(asked?.length ?? this.#count).fill(NO_ACTION)
    for (let i = 0; i < found.length; i++) {
      let id = samples[asked === null ? i : (asked[i] as number)] as number
      while (id >= 0 && stated[id] === UNSET) id = parent[id] as number
      if (id >= 0) found[i] = stated[id] as number
    }
    for (const id of ids) stated[id] = UNSET
    return found
  }

  /** One region of each class: with all of them a table does the same. */
  #regionOfEach(): Int32Array {
    const samples = new Int32Array(this.#count).fill(-1)
    for (const id of this.#regions) samples[this.#classes[id] as number] = id
    return samples
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

/** Prefixes with something left of them, sorted by class, each class in the order of addresses. */
function regionsByClass({ sorted: { order } }: Prefixes, classes: Int32Array): Int32Array {
  return sortedBy(
    classes,
    order.filter((id) => (classes[id] as number) >= 0),
  )
}

/** Some prefixes by ascending keys, those of one key in the order in which they stand; a counting sort. */
function sortedBy(keys: Int32Array, ids: Int32Array): Int32Array {
  let most = 0
  for (const id of ids) most = Math.max(most, keys[id] as number)
  // A key may be -1.
  const starts = new Int32Array(most + 3)
  for (const id of ids) starts[(keys[id] as number) + 2] = (starts[(keys[id] as number) + 2] as number) + 1
  for (let key = 1; key < starts.length; key++) starts[key] = (starts[key] as number) + (starts[key - 1] as number)
  const sorted = new Int32Array(ids.length)
  for (const id of ids) {
    const key = (keys[id] as number) + 1
    const at = starts[key] as number
    sorted[at] = id
    starts[key] = at + 1
  }
  return sorted
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

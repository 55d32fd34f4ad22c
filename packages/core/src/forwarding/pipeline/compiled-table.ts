import { NOTHING } from '../../headers/index.ts'
import type { Network } from '../network/network.ts'
import { NO_ACTION } from '../routing/classes.ts'
import type { NumberedTable, TableAction } from '../routing/numbered-table.ts'

/** Destinations of one action of a table; `action` null: no route. */
export interface ActionSet {
  readonly set: number
  readonly action: TableAction | null
}

/**
 * A table over the destination classes of its network. Of most devices a question asks for few destinations: what the
 * table does with all of them is worked out only where that is less work than to look them up one by one.
 */
export class CompiledTable {
  #all: readonly ActionSet[] | null = null
  /** Classes looked up so far, and what was found for each set. */
  #looked = 0
  readonly #known = new Map<number, readonly ActionSet[]>()

  constructor(
    readonly numbered: NumberedTable,
    readonly network: Pick<Network, 'headers' | 'classes'>,
  ) {}

  /** What it does with every destination of its family. */
  get parts(): readonly ActionSet[] {
    if (!this.#all) this.#known.clear()
    return (this.#all ??= this.#partsOf(null))
  }

  /** What it does with the destinations of some headers at least; its sets ask for destinations alone. */
  partsFor(set: number): readonly ActionSet[] {
    const known = this.#all ?? this.#known.get(set)
    if (known) return known
    const { headers, classes } = this.network
    const asked = headers.classesIn(set, (classes.count >> 1) - this.#looked)
    if (asked === null) return this.parts
    this.#looked += asked.length
    const parts = this.#partsOf(asked)
    this.#known.set(set, parts)
    return parts
  }

  #partsOf(asked: Int32Array | null): ActionSet[] {
    const { headers, classes } = this.network
    const { table, columns, actions } = this.numbered
    const members = classesByAction(classes.actionsOf(columns, asked), asked, actions.length)
    // Beside what has a route, in both families, stands what has none.
    const [unrouted = NOTHING, ...routed] = members.map((some) => headers.ofClasses(some))
    return [
      { set: headers.diagrams.and(unrouted, headers.family(table.family)), action: null },
      ...routed.map((set, action): ActionSet => ({ set, action: actions[action] ?? null })),
    ].filter(({ set }) => set !== NOTHING)
  }
}

/**
 * The classes with which a table does nothing, then those with which it does each of so many things; in order.
 * @param actions of each class; of each of `classes` where only those were asked for
 */
function classesByAction(actions: Int32Array, classes: Int32Array | null, count: number): Int32Array[] {
  const sizes = new Int32Array(count + 1)
  for (const action of actions) sizes[action - NO_ACTION] = (sizes[action - NO_ACTION] as number) + 1
  const members = Array.from(sizes, (size) => new Int32Array(size))
  const filled = new Int32Array(count + 1)
  for (let i = 0; i < actions.length; i++) {
    const at = (actions[i] as number) - NO_ACTION
    const place = filled[at] as number
    filled[at] = place + 1
    ;(members[at] as Int32Array)[place] = classes === null ? i : (classes[i] as number)
  }
  return members
}

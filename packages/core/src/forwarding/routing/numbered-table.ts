import type { TableColumns } from './classes.ts'
import type { Prefixes } from './prefixes.ts'
import type { Hop, Route, RoutingTable } from './route.ts'

/** What a table does with some destinations: what its routes have in common. */
export interface TableAction {
  readonly hops: readonly Hop[]
  /** Why it may be another: a route that is not known could be narrower. */
  readonly doubt: string | null
}

/** A table whose prefixes are numbered in the network. */
export class NumberedTable {
  readonly columns: TableColumns
  readonly actions: readonly TableAction[]
  #routes: ReadonlyMap<number, Route> | null = null

  constructor(
    readonly table: RoutingTable,
    prefixes: Prefixes,
  ) {
    const actions: TableAction[] = []
    const numbers = new Map<string, number>()
    // Routes that lead to the same hops mostly share them.
    const [sure, doubtful] = [new Map<readonly Hop[], number>(), new Map<readonly Hop[], number>()]
    const ids = new Int32Array(table.routes.length)
    const done = new Int32Array(table.routes.length)
    table.routes.forEach((route, i) => {
      const doubt = table.missing === null || route.protocol === 'connected' ? null : table.missing
      const seen = doubt === null ? sure : doubtful
      let number = seen.get(route.hops)
      if (number === undefined) {
        const key = `${doubt === null ? '' : 'doubt'} ${route.hops.map(keyOfHop).sort().join(';')}`
        number = numbers.get(key)
        if (number === undefined) numbers.set(key, (number = actions.push({ hops: route.hops, doubt }) - 1))
        seen.set(route.hops, number)
      }
      ids[i] = prefixes.add(route.words, route.length)
      done[i] = number
    })
    this.columns = { prefixes: ids, actions: done }
    this.actions = actions
  }

  /** Whether it has a route for a prefix, by its number. */
  has(prefix: number): boolean {
    return this.#routes?.has(prefix) ?? this.columns.prefixes.includes(prefix)
  }

  /** By number of the prefix; put in order when first asked for. */
  get routes(): ReadonlyMap<number, Route> {
    return (this.#routes ??= new Map(this.table.routes.map((route, i) => [this.columns.prefixes[i] as number, route])))
  }
}

function keyOfHop(hop: Hop): string {
  return hop.kind === 'out'
    ? `${hop.port} ${hop.gateway ?? ''}`
    : hop.kind === 'unknown'
      ? `unknown ${hop.why}`
      : hop.kind
}

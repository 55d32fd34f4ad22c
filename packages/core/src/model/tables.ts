import { bearingsOf, type Bearing } from './bearing.ts'
import type { MappingTable } from './mapping.ts'
import type { Pattern } from './pattern.ts'

/** A table of a dialect with the kind of block that it reads, and the part of the model that it writes into. */
export interface TableAt {
  /** `null`: the device itself; `undefined`: blocks of no kind of their own. */
  readonly block: string | null | undefined
  readonly patterns: readonly Pattern[]
  /** Made when first asked for. */
  readonly bearings: readonly Bearing[]
}

export function tableAt<T extends object>(
  block: string | null | undefined,
  root: string,
  table: MappingTable<T>,
): TableAt {
  let bearings: readonly Bearing[] | null = null
  return {
    block,
    patterns: table.patterns,
    get bearings() {
      return (bearings ??= bearingsOf(table as unknown as MappingTable<never>, root))
    },
  }
}

import { statementEffects, type StatementEffect } from './statement-effects.ts'
import type { MappingTable } from './mapping.ts'
import type { Pattern } from './pattern.ts'

/** A table of a dialect with the kind of block that it reads, and the part of the model that it writes into. */
export interface TableAt {
  /** `null`: the device itself; `undefined`: blocks of no kind of their own. */
  readonly block: string | null | undefined
  readonly patterns: readonly Pattern[]
  /** Made when first asked for. */
  readonly bearings: readonly StatementEffect[]
}

export function tableAt<T extends object>(
  block: string | null | undefined,
  root: string,
  table: MappingTable<T>,
): TableAt {
  let bearings: readonly StatementEffect[] | null = null
  return {
    block,
    patterns: table.patterns,
    get bearings() {
      return (bearings ??= statementEffects(table as unknown as MappingTable<never>, root))
    },
  }
}

import type { LocatedTree } from '../syntax/index.ts'

/** One record of a device: read, or kept as text where it is the output of a command. */
export type ReadRecord = Captured & ({ readonly tree: LocatedTree } | { readonly tree: null; readonly text: string })

/** A record that was read as a configuration. */
export type ReadConfiguration = Extract<ReadRecord, { tree: LocatedTree }>

interface Captured {
  readonly id: string
  readonly kind: string
  /** RFC 3339; null where it is not known. */
  readonly takenAt?: string | null
}

/** A record as text, read or not. */
export function textOfRecord(record: ReadRecord): string {
  return record.tree === null ? record.text : record.tree.lines.text
}

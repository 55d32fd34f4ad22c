import type { BesideLine, ModelledDevice, UnreadLine } from '../model/index.ts'
import type { Mask } from '../syntax/index.ts'
import type { ReadRecord, StateReading } from '../state/index.ts'

/** The records of a device of a dialect. */
export interface RecordRules {
  /** The name under which its configuration stands in a device folder, without ending. */
  readonly configuration: 'config' | 'filters'
  /** Kinds of record beside it that are listings of the dialect as well. */
  readonly listings: readonly string[]
  /** Files of the system that belong to a device: `files/<name>`. */
  readonly files: readonly string[]
  /** What else becomes part of the model. */
  readonly beside: BesideRules | null
}

export interface BesideRules {
  /** Whether what is made of a record belongs to the model of a device. */
  isPart(kind: string): boolean
  /** Adds to a model what its other records say; returns the lines that nothing was made of. */
  read(
    modelled: ModelledDevice,
    records: readonly ReadRecord[],
    reading: StateReading,
    mask: Mask,
  ): (UnreadLine | BesideLine)[]
}

/** Of a dialect whose configuration is one listing. */
export const ONE_LISTING: RecordRules = { configuration: 'config', listings: [], files: [], beside: null }

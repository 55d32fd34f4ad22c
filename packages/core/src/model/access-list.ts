import type { Statement } from '../syntax/index.ts'
import type { AddressMatch, Family } from './address.ts'
import type { SourceRange } from './writer.ts'

/** Closed range of numbers. */
export type Range = readonly [from: number, to: number]

/** What an entry asks of a packet. A field left out is not asked about; ranges of one field are alternatives. */
export interface EntryMatch {
  readonly protocols?: readonly Range[]
  readonly sources?: readonly AddressMatch[]
  readonly destinations?: readonly AddressMatch[]
  readonly sourcePorts?: readonly Range[]
  readonly destinationPorts?: readonly Range[]
  readonly icmpTypes?: readonly Range[]
  readonly icmpCodes?: readonly Range[]
  readonly dscp?: readonly Range[]
  /** TCP with ACK or RST set. */
  readonly established?: boolean
  /** Only fragments other than the first. */
  readonly fragments?: boolean
}

export interface AccessEntry {
  /** `unknown`: what the line does was not understood. */
  readonly action: 'permit' | 'deny' | 'unknown'
  readonly match: EntryMatch
  /** Words of the entry that the reader cannot weigh (time ranges, options): it may match less than `match` says. */
  readonly notWeighed: readonly string[]
  readonly node: SourceRange
  /** As it stands, without the list's name and its own number. */
  readonly text: string
  readonly sequence: number | null
  /** What the remark before it says. */
  readonly remark: string | null
}

export interface AccessList {
  readonly name: string
  readonly family: Family
  readonly entries: readonly AccessEntry[]
  /** The lines that define it. */
  readonly nodes: readonly SourceRange[]
  /** The statements that were read as parts of it. */
  readonly statements: readonly Statement[]
}

/**
 * Access lists by family and name (`ipv4 MGMT`), numbered and named, in the order in which packets meet their entries.
 */
export type AccessLists = ReadonlyMap<string, AccessList>

import type { AddressMatch } from './address.ts'

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

import type { Packet, Readable } from '../../headers/index.ts'
import type { Trace } from '../engine/trace.ts'
import type { Exhibit } from '../network/exhibit.ts'

export type NetworkFindingKind =
  'loop' | 'discarded' | 'next-hop' | 'address-twice' | 'two-masks' | 'one-way' | 'mtu' | 'uneven' | 'in-the-clear'

/** A finding about how the devices of an estate fit together. */
export interface NetworkFinding {
  readonly kind: NetworkFindingKind
  readonly devices: readonly string[]
  readonly words: string
  /** Places of hosts that the packets are from. */
  readonly from: readonly string[]
  /**
   * Of the packets that begin a connection from there those that it is about, and one of them with its trace; null
   * where it is about none.
   */
  readonly packets: Readable | null
  readonly example: {
    readonly at: string
    readonly port: string | null
    readonly packet: Packet
    readonly trace: Trace
  } | null
  readonly exhibits: readonly Exhibit[]
}

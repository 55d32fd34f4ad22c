/** One header, written out. What it does not have is null. */
export interface Packet {
  readonly family: 'ipv4' | 'ipv6'
  readonly source: string
  readonly destination: string
  readonly protocol: number
  readonly sourcePort: number | null
  readonly destinationPort: number | null
  readonly icmpType: number | null
  readonly icmpCode: number | null
  readonly tcpFlags: readonly string[] | null
  readonly fragment: boolean
  readonly dscp: number
}

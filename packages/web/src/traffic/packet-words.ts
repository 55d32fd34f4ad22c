import { t } from '../messages/index.ts'
import type { Fate, Packet } from '@jurybox/core'
import { grouped } from '../shared/numbers.ts'

const NAMES: Readonly<Record<number, string>> = { 1: 'ICMP', 6: 'TCP', 17: 'UDP', 47: 'GRE', 50: 'ESP', 58: 'ICMPv6' }

/** A packet in a line. */
export function packetWords({
  source,
  destination,
  protocol,
  sourcePort,
  destinationPort,
  icmpType,
  tcpFlags,
}: Packet): string {
  const end = (address: string, port: number | null): string =>
    port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`
  const more = [
    ...(tcpFlags ?? []).map((flag) => flag.toUpperCase()),
    ...(icmpType === null ? [] : [`type ${icmpType}`]),
  ]
  return (
    `${NAMES[protocol] ?? `protocol ${protocol}`} ${end(source, sourcePort)} → ` +
    `${end(destination, destinationPort)}${more.length > 0 ? ` (${more.join(', ')})` : ''}`
  )
}

/** The question that a trace of a packet asks. */
export function traceQuery(
  at: string,
  { source, destination, protocol, sourcePort, destinationPort }: Packet,
): Record<string, string> {
  return {
    at,
    src: source,
    dst: destination,
    proto: String(protocol),
    ...(sourcePort === null ? {} : { sport: String(sourcePort) }),
    ...(destinationPort === null ? {} : { dport: String(destinationPort) }),
  }
}

export const FATES: readonly Fate[] = ['arrives', 'leaves', 'stopped', 'loops', 'undecided']

/** A count of headers that nobody reads to the end. */
export function countWords(count: string): string {
  if (count.length <= 6) return grouped(Number(count))
  return t('traffic.about10', {
    count: count[0] ?? '',
    count2: count[1] ?? '',
    count3: [...String(count.length - 1)].map((digit) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(digit)] ?? '').join(''),
  })
}

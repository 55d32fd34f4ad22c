import { addressText, hostMatch, type Range } from '../model/index.ts'
import { ALL, NOTHING } from './diagram.ts'
import { FIELDS, TCP_FLAGS, type Field } from './fields.ts'
import { ICMP, PORTED, TCP, type Headers } from './headers.ts'
import type { Packet } from './packet.ts'

/** Ports of services that people know, those asked for most first. */
const KNOWN_PORTS = [443, 80, 22, 53, 25, 123, 161, 389, 445, 514, 3389, 23]
const EPHEMERAL: Range = [49152, 65535]

/** Sets that make an example likely, in the order in which they are wished for. */
function wishes(headers: Headers, likely: readonly number[]): number[] {
  const { diagrams } = headers
  const syn = headers.all(
    headers.flag('syn', true),
    ...TCP_FLAGS.flatMap((flag) => (flag === 'syn' ? [] : [headers.flag(flag, false)])),
  )
  const ack = headers.all(
    headers.flag('ack', true),
    ...TCP_FLAGS.flatMap((flag) => (flag === 'ack' ? [] : [headers.flag(flag, false)])),
  )
  const last = (side: 'source' | 'destination', family: number, bit: number): number =>
    headers.all(family, diagrams.make(FIELDS[side].level + bit, NOTHING, ALL))
  const isHost = (side: 'source' | 'destination'): number =>
    diagrams.or(last(side, headers.ipv4, 31), last(side, headers.ipv6, 127))
  return [
    diagrams.not(headers.fragments),
    ...likely,
    headers.ipv4,
    headers.value('protocol', TCP),
    headers.value('protocol', 17),
    headers.icmp,
    headers.value('icmpType', 8),
    headers.value('icmpType', 128),
    syn,
    ack,
    ...KNOWN_PORTS.map((port) => headers.value('destinationPort', port)),
    headers.range('destinationPort', [1, 1023]),
    headers.range('sourcePort', EPHEMERAL),
    headers.value('dscp', 0),
    isHost('destination'),
    isHost('source'),
  ]
}

/**
 * A packet of the set, a likely one where there is one; null of the empty set.
 * @param likely sets that are wished for first: real hosts, services in use
 */
export function exampleOf(headers: Headers, set: number, likely: readonly number[] = []): Packet | null {
  if (set === NOTHING) return null
  const { diagrams } = headers
  const left = wishes(headers, likely).reduce((rest, wish) => {
    const both = diagrams.and(rest, wish)
    return both === NOTHING ? rest : both
  }, set)
  const bits = new Map<number, number>()
  for (let node = left; node !== ALL;) {
    const bit = diagrams.low(node) === NOTHING ? 1 : 0
    bits.set(diagrams.level(node), bit)
    node = bit === 1 ? diagrams.high(node) : diagrams.low(node)
  }
  return packetOf((field) => Array.from({ length: field.bits }, (_, i) => bits.get(field.level + i) ?? 0))
}

/** A packet of the bits of its fields, most significant first. */
function packetOf(bitsOf: (field: Field) => readonly number[]): Packet {
  const number = (field: Field): number => bitsOf(field).reduce((value, bit) => value * 2 + bit, 0)
  const family = number(FIELDS.family) === 0 ? 'ipv4' : 'ipv6'
  const address = (field: Field): string => {
    const bits = bitsOf(field)
    const words = Array.from({ length: family === 'ipv4' ? 1 : 4 }, (_, word) =>
      bits.slice(word * 32, word * 32 + 32).reduce((value, bit) => value * 2 + bit, 0),
    )
    return addressText(hostMatch(words)).replace(/\/\d+$/, '')
  }
  const protocol = number(FIELDS.protocol)
  const fragment = number(FIELDS.fragment) === 1
  const ported = !fragment && (PORTED as readonly number[]).includes(protocol)
  const icmp = !fragment && protocol === ICMP[family]
  return {
    family,
    source: address(FIELDS.source),
    destination: address(FIELDS.destination),
    protocol,
    fragment,
    sourcePort: ported ? number(FIELDS.sourcePort) : null,
    destinationPort: ported ? number(FIELDS.destinationPort) : null,
    icmpType: icmp ? number(FIELDS.icmpType) : null,
    icmpCode: icmp ? number(FIELDS.icmpCode) : null,
    tcpFlags: !fragment && protocol === TCP ? TCP_FLAGS.filter((_, i) => bitsOf(FIELDS.tcpFlags)[i] === 1) : null,
    dscp: number(FIELDS.dscp),
  }
}

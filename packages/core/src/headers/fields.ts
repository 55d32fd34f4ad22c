import type { AddressMatch, Range } from '../model/index.ts'
import { ALL, NOTHING, type Diagrams } from './diagram.ts'

/** A field of a header: the level of its first bit, most significant first, and how many it has. */
export interface Field {
  readonly level: number
  readonly bits: number
}

/**
 * The fields in the order in which diagrams test them: first what forwarding looks at, then what filters look at.
 * Addresses of IPv4 use the first 32 bits of theirs. `destinationClass` stands for family and destination in a network
 * (see `forwarding/`): a set tests either it or them.
 */
export const FIELDS = layout({
  destinationClass: 20,
  family: 1,
  destination: 128,
  source: 128,
  protocol: 8,
  /** 1: a fragment other than the first. */
  fragment: 1,
  destinationPort: 16,
  sourcePort: 16,
  icmpType: 8,
  icmpCode: 8,
  /** FIN, SYN, RST, PSH, ACK, URG: of RFC 9293 §3.1, the first bit last there. */
  tcpFlags: 6,
  dscp: 6,
})
export type FieldName = keyof typeof FIELDS

function layout<K extends string>(bits: Record<K, number>): Record<K, Field> {
  let level = 0
  return Object.fromEntries(
    (Object.entries(bits) as [K, number][]).map(([name, count]) => {
      const field = { level, bits: count }
      level += count
      return [name, field]
    }),
  ) as Record<K, Field>
}

export const TCP_FLAGS = ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'] as const
export type TcpFlag = (typeof TCP_FLAGS)[number]

export const IPV4 = 0
export const IPV6 = 1

/**
 * Headers whose field is a number of the range and whose later fields are in `rest`; what is beyond the field's size is
 * not there.
 * Made from below, a node for each bit that matters, so that a header of several fields is made without joining
 * anything.
 */
export function rangeSet(diagrams: Diagrams, { level, bits }: Field, [from, to]: Range, rest = ALL): number {
  const most = 2 ** bits - 1
  if (from > to || from > most) return NOTHING
  const last = Math.min(to, most)
  /** Numbers of the bits from a depth on that are within the ends that still matter. */
  const build = (depth: number, least: number | null, greatest: number | null): number => {
    if (depth === bits || (least === null && greatest === null)) return rest
    const bit = 2 ** (bits - 1 - depth)
    const [low, high] = [
      least === null ? 0 : Math.floor(least / bit) % 2,
      greatest === null ? 1 : Math.floor(greatest / bit) % 2,
    ]
    if (low === 1) return diagrams.make(level + depth, NOTHING, build(depth + 1, least, greatest))
    if (high === 0) return diagrams.make(level + depth, build(depth + 1, least, greatest), NOTHING)
    return diagrams.make(level + depth, build(depth + 1, least, null), build(depth + 1, null, greatest))
  }
  return build(0, from === 0 ? null : from, last === most ? null : last)
}

/** Headers whose field has one value, and whose later fields are in `rest`. */
export function valueSet(diagrams: Diagrams, { level, bits }: Field, value: number, rest = ALL): number {
  let node = rest
  for (let bit = 0; bit < bits; bit++)
    node =
      (value / 2 ** bit) % 2 >= 1
        ? diagrams.make(level + bits - 1 - bit, NOTHING, node)
        : diagrams.make(level + bits - 1 - bit, node, NOTHING)
  return node
}

/**
 * Headers with the bits of an address as a set has them, and later fields in `rest`; of the family that it is of,
 * nothing is asked.
 */
export function addressBits(
  diagrams: Diagrams,
  side: 'source' | 'destination',
  { value, care }: AddressMatch,
  rest = ALL,
): number {
  const { level } = FIELDS[side]
  let node = rest
  for (let word = care.length - 1; word >= 0; word--) {
    const looked = care[word] ?? 0
    const wanted = value[word] ?? 0
    for (let bit = 0; bit < 32; bit++) {
      if (((looked >>> bit) & 1) === 0) continue
      const at = level + word * 32 + 31 - bit
      node = ((wanted >>> bit) & 1) === 1 ? diagrams.make(at, NOTHING, node) : diagrams.make(at, node, NOTHING)
    }
  }
  return node
}

export function familySet(diagrams: Diagrams, family: number): number {
  return valueSet(diagrams, FIELDS.family, family)
}

/** Headers on which a bit of TCP flags is set. */
export function flagSet(diagrams: Diagrams, flag: TcpFlag): number {
  return diagrams.make(FIELDS.tcpFlags.level + TCP_FLAGS.indexOf(flag), NOTHING, ALL)
}

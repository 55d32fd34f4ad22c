import { ALL, NOTHING } from './diagram.ts'
import { FIELDS } from './fields.ts'
import type { Headers } from './headers.ts'

const BITS = Object.entries(FIELDS)
  .flatMap(([name, { bits }]) => (name === 'destinationClass' ? [] : [bits]))
  .reduce((sum, bits) => sum + bits, 0)
const FIRST = FIELDS.family.level
const ADDRESS_GAP = 2 * (128 - 32)

/** How many headers a set holds; fields that a header does not have are not counted. */
export function sizeOf(headers: Headers, set: number): bigint {
  const { diagrams } = headers
  const port = FIELDS.sourcePort.bits + FIELDS.destinationPort.bits
  const icmp = FIELDS.icmpType.bits + FIELDS.icmpCode.bits
  const flags = FIELDS.tcpFlags.bits
  const { tcp, ported, icmp: pings } = headers
  /** Kinds of headers, with the bits that they do not have. */
  const kinds: [number, number][] = [
    [tcp, icmp],
    [diagrams.minus(ported, tcp), icmp + flags],
    [pings, port + flags],
    [diagrams.not(diagrams.or(ported, pings)), port + flags + icmp],
  ]
  const memo = new Map<number, bigint>()
  let sum = 0n
  for (const [family, gap] of [
    [headers.ipv4, ADDRESS_GAP],
    [headers.ipv6, 0],
  ] as const) {
    for (const [kind, missing] of kinds)
      sum += count(headers, headers.all(set, family, kind), memo) >> BigInt(gap + missing)
  }
  return sum
}

/** Assignments of the bits at and below this node; the caller counts those above. */
function count(headers: Headers, set: number, memo: Map<number, bigint>): bigint {
  const { diagrams } = headers
  const last = FIRST + BITS
  const levelOf = (node: number): number => (node < 2 ? last : diagrams.level(node))
  const below = (node: number): bigint => {
    if (node === NOTHING) return 0n
    if (node === ALL) return 1n
    const known = memo.get(node)
    if (known !== undefined) return known
    const level = diagrams.level(node)
    const [low, high] = [diagrams.low(node), diagrams.high(node)]
    const answer = (below(low) << BigInt(levelOf(low) - level - 1)) + (below(high) << BigInt(levelOf(high) - level - 1))
    memo.set(node, answer)
    return answer
  }
  return below(set) << BigInt(levelOf(set) - FIRST)
}

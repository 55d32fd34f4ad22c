import { ANY_ADDRESS, parsePrefix, prefixMatch } from '../../model/index.ts'
import {
  MANY_CLASSES,
  ALL,
  FIELDS,
  NOTHING,
  exampleOf,
  readableOf,
  sizeOf,
  type Packet,
  type Readable,
} from '../../headers/index.ts'
import type { Network } from '../network/network.ts'
import type { Fate, Reason } from '../pipeline/fates.ts'
import type { Place } from './place.ts'
import type { Walker } from '../engine/walk.ts'
import type { Ending, Origin, Walked } from '../engine/walked.ts'

/** One fate of a question, with the headers that have it. */
export interface ReachPart {
  readonly fate: Fate
  readonly reason: Reason
  readonly device: string
  readonly port: string | null
  /** Headers as they are sent, by addresses. */
  readonly set: number
}

export interface Reach {
  readonly asked: number
  readonly parts: readonly ReachPart[]
  readonly walked: Walked
  /** Where packets really begin. */
  readonly origins: readonly Origin[]
}

/** Destinations with so many pieces are taken as they come: the answer is cut to what was asked in the end. */
const MOST_PIECES = 4096

/** Addresses that no host of the world has (RFC 6890, RFC 5771, RFC 4291 §2.5 and §2.7). */
const SPECIAL = [
  '224.0.0.0/3',
  '127.0.0.0/8',
  '0.0.0.0/8',
  '169.254.0.0/16',
  'ff00::/8',
  '::1/128',
  '::/128',
  'fe80::/10',
]

/**
 * What becomes of every packet from one place to another.
 * @param only headers that are asked about, by addresses
 */
export function reach(walker: Walker, from: Place, to: Place, only: number = ALL): Reach {
  const { network } = walker
  const { diagrams } = network.headers
  const wanted = diagrams.and(only, to.destinations ?? outsideOf(network))
  const origins = from.origins.map(({ device, port, sources }) => {
    const set = diagrams.and(wanted, sources)
    return { device, port, set, classed: classed(network, set) }
  })
  const begun = origins
    .filter(({ classed: set }) => set !== NOTHING)
    .map(({ device, port, classed: set }): Origin => ({ device, port, set }))
  const walked = walker.walk(begun)
  const asked = network.addressed.any(origins, ({ set }) => set)
  return { asked, parts: partsOf(network, walked.endings, asked), walked, origins: begun }
}

/** Headers to destinations in none of the subnets of the estate. */
export function outsideOf(network: Network): number {
  const { addressed } = network
  const inside = addressed.any(
    network.devices.flatMap(({ interfaces: ports }) => ports.flatMap(({ addresses }) => addresses)),
    ({ words, length }) => addressed.address('destination', prefixMatch(words, length)),
  )
  const special = addressed.any(SPECIAL, (text) => addressed.address('destination', parsePrefix(text) ?? ANY_ADDRESS))
  return addressed.diagrams.minus(addressed.diagrams.minus(ALL, inside), special)
}

/** One entry a fate, a place and a reason, with headers by addresses and cut to what was asked. */
export function partsOf(network: Network, endings: readonly Ending[], asked: number): ReachPart[] {
  const { diagrams } = network.headers
  return endings.flatMap(({ fate, reason, device, port, sent }): ReachPart[] => {
    const set = diagrams.and(network.headers.expand(sent, network.addressed, asked), asked)
    const owner = network.devices[device]
    return set === NOTHING
      ? []
      : [{ fate, reason, device: owner?.name ?? '', port: owner?.interfaces[port]?.name ?? null, set }]
  })
}

/** Headers by addresses as headers by classes of destinations: every class that some of them go to. */
export function classed(network: Network, set: number): number {
  const { headers } = network
  const { diagrams } = headers
  const { level, bits } = FIELDS.destination
  let pieces = 0
  let all = NOTHING
  const visit = (node: number, value: number[], care: number[], four: boolean): void => {
    if (node === NOTHING || pieces > MOST_PIECES) return
    const here = diagrams.level(node)
    if (here >= level + bits) {
      pieces++
      const match = four ? { value: value.slice(0, 1), care: care.slice(0, 1) } : { value, care }
      all = diagrams.or(all, headers.all(four ? headers.ipv4 : headers.ipv6, headers.within(match, true), node))
      return
    }
    const word = (here - level) >> 5
    const bit = 2 ** (31 - ((here - level) & 31))
    const cared = care.map((held, i) => (i === word ? (held | bit) >>> 0 : held))
    visit(diagrams.low(node), value, cared, four)
    visit(
      diagrams.high(node),
      value.map((held, i) => (i === word ? (held | bit) >>> 0 : held)),
      cared,
      four,
    )
  }
  const families = diagrams.level(set) === FIELDS.family.level ? [diagrams.low(set), diagrams.high(set)] : [set, set]
  families.forEach((part, family) => visit(part, [0, 0, 0, 0], [0, 0, 0, 0], family === 0))
  if (pieces <= MOST_PIECES) return all
  const whole = diagrams.exists(set, FIELDS.family.level, FIELDS.source.level)
  return headers.all(diagrams.or(headers.ipv4, headers.ipv6), whole)
}

/** A set of headers for people: how many, an example, and classes. */
export interface ShownSet {
  readonly count: string
  readonly example: Packet | null
  readonly readable: Readable
}

/** @param said what is known of all headers of the set, so that its classes need not say it again */
export function shown(network: Network, set: number, said: SetContext = {}): ShownSet {
  const { addressed } = network
  return {
    count: sizeOf(addressed, set).toString(),
    example: exampleOf(addressed, set, [hostsOf(network)]),
    readable: readableOf(addressed, simplify(network, set, said), MANY_CLASSES),
  }
}

/** What is said of a set beside its classes. */
export interface SetContext {
  /** That its packets begin a connection. */
  readonly first?: boolean
  /** The headers of the places that its packets are from, and of those that they go to. */
  readonly sources?: number
  readonly destinations?: number
}

/** The widest set that is easily told and of which the given one is what fits all that is said beside. */
export function simplify(network: Network, set: number, { first = false, sources, destinations }: SetContext): number {
  const { addressed } = network
  const { diagrams } = addressed
  const beside = addressed.all(first ? firstPackets(network) : ALL, sources ?? ALL, destinations ?? ALL)
  const wide = first
    ? (['tcpFlags', 'icmpType', 'fragment'] as const).reduce((left, field) => addressed.forget(left, field), set)
    : set
  const unsourced = sources === undefined ? wide : addressed.forget(wide, 'source')
  const forgotten = (of: number): number => (destinations === undefined ? of : addressed.forget(of, 'destination'))
  // Where no address is left to be read, neither is the family.
  const bare =
    sources === undefined || destinations === undefined ? unsourced : addressed.forget(forgotten(unsourced), 'family')
  return (
    [bare, forgotten(unsourced), unsourced, forgotten(wide), wide].find((one) => diagrams.and(one, beside) === set) ??
    set
  )
}

/** Headers between hosts of the estate: likelier than others. */
function hostsOf(network: Network): number {
  const { addressed } = network
  const inside = (side: 'source' | 'destination'): number =>
    addressed.any(
      network.devices.flatMap(({ interfaces: ports }) =>
        ports.flatMap(({ addresses, kind }) => (kind === 'loopback' ? [] : addresses)),
      ),
      ({ words, length }) => addressed.address(side, prefixMatch(words, length)),
    )
  return addressed.all(inside('source'), inside('destination'))
}

/**
 * Headers that begin something: the first packet of a TCP connection, a request of ICMP, all of other protocols; no
 * later fragments.
 */
export function firstPackets({ addressed }: Network): number {
  const { diagrams } = addressed
  const syn = addressed.all(
    addressed.flag('syn', true),
    ...(['fin', 'rst', 'ack'] as const).map((flag) => addressed.flag(flag, false)),
  )
  const requests = addressed.all(
    addressed.icmp,
    addressed.any([8, 128], (type) => addressed.value('icmpType', type)),
  )
  const others = diagrams.not(diagrams.or(addressed.value('protocol', 6), addressed.icmp))
  return addressed.all(
    diagrams.not(addressed.fragments),
    diagrams.or(diagrams.or(addressed.all(addressed.tcp, syn), requests), others),
  )
}

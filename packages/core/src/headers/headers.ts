import {
  ANY_ADDRESS,
  addressWords,
  hostMatch,
  type AddressMatch,
  type EntryMatch,
  type Family,
  type Range,
} from '../model/index.ts'
import { ALL, Diagrams, NOTHING } from './diagram.ts'
import type { Packet } from './packet.ts'
import {
  FIELDS,
  IPV4,
  IPV6,
  TCP_FLAGS,
  addressBits,
  familySet,
  flagSet,
  rangeSet,
  valueSet,
  type FieldName,
  type TcpFlag,
} from './fields.ts'

/** Numbers of the registry of protocols (IANA) that have ports: TCP, UDP, DCCP, SCTP, UDP-Lite. */
export const PORTED = [6, 17, 33, 132, 136] as const
export const TCP = 6
/** ICMP of IPv4, and of IPv6. */
export const ICMP = { ipv4: 1, ipv6: 58 } as const

/** What an answer has the other way round. */
const ENDS = [
  [FIELDS.destination, FIELDS.source],
  [FIELDS.destinationPort, FIELDS.sourcePort],
] as const
/** Types of ICMP and ICMPv6 of a request and of its reply. */
const ECHO = [
  [8, 0],
  [128, 129],
] as const

const ALL_BUT_SOURCE = (Object.keys(FIELDS) as FieldName[]).filter(
  (field) => field !== 'source' && field !== 'family' && field !== 'destinationClass',
)

/** What an entry of a filter asks of a packet, with what saved filter rules can ask beside. */
export interface HeaderMatch extends EntryMatch {
  readonly tcpFlags?: readonly { readonly flag: TcpFlag; readonly set: boolean }[]
}

/** Sets of headers in one store of diagrams: made from what texts name, joined and cut there. A set is a number. */
export class Headers {
  readonly ipv4: number
  readonly ipv6: number
  readonly tcp: number
  /** First or only fragments of packets that have ports. */
  readonly ported: number
  readonly icmp: number
  readonly fragments: number
  readonly #addresses = new Map<string, number>()

  /** @param families the headers of each, where their own bit does not tell them */
  constructor(
    readonly diagrams = new Diagrams(),
    families: { readonly ipv4: number; readonly ipv6: number } = {
      ipv4: familySet(diagrams, IPV4),
      ipv6: familySet(diagrams, IPV6),
    },
  ) {
    this.ipv4 = families.ipv4
    this.ipv6 = families.ipv6
    this.fragments = this.value('fragment', 1)
    this.tcp = diagrams.minus(this.value('protocol', TCP), this.fragments)
    this.ported = diagrams.minus(
      this.any(PORTED, (protocol) => this.value('protocol', protocol)),
      this.fragments,
    )
    this.icmp = diagrams.minus(
      diagrams.or(
        this.all(this.ipv4, this.value('protocol', ICMP.ipv4)),
        this.all(this.ipv6, this.value('protocol', ICMP.ipv6)),
      ),
      this.fragments,
    )
  }

  /** The headers of the first that are in any of the others. */
  any<T>(alternatives: readonly T[], setOf: (alternative: T) => number): number {
    return alternatives.reduce((all, alternative) => this.diagrams.or(all, setOf(alternative)), NOTHING)
  }

  all(...sets: readonly number[]): number {
    return sets.reduce((both, set) => this.diagrams.and(both, set), ALL)
  }

  value(field: FieldName, value: number): number {
    return valueSet(this.diagrams, FIELDS[field], value)
  }

  range(field: FieldName, range: Range): number {
    return rangeSet(this.diagrams, FIELDS[field], range)
  }

  /** Of some headers those with a field in any of some ranges. */
  inRanges(field: FieldName, ranges: readonly Range[], of: number): number {
    const { level, bits } = FIELDS[field]
    // What asks for later fields alone is what the field is put on top of: nothing has to be joined.
    if (this.diagrams.level(of) >= level + bits)
      return this.any(ranges, (range) => rangeSet(this.diagrams, FIELDS[field], range, of))
    return this.diagrams.and(
      of,
      this.any(ranges, (range) => this.range(field, range)),
    )
  }

  /** Of some headers those with an address of any of some sets, whatever their family. */
  atAny(side: 'source' | 'destination', matches: readonly AddressMatch[], of: number): number {
    const { level, bits } = FIELDS[side]
    if (side === 'source' && this.diagrams.level(of) >= level + bits)
      return this.any(matches, (match) => addressBits(this.diagrams, side, match, of))
    return this.diagrams.and(
      of,
      this.any(matches, (match) => this.bitsOf(side, match)),
    )
  }

  /** Headers with an address of a set, of its family where it has one. */
  address(side: 'source' | 'destination', match: AddressMatch): number {
    if (match.care.length === 0) return ALL
    const key = `${side} ${match.value.join('.')} ${match.care.join('.')}`
    let set = this.#addresses.get(key)
    if (set === undefined)
      this.#addresses.set(
        key,
        (set = this.all(match.care.length === 1 ? this.ipv4 : this.ipv6, this.bitsOf(side, match))),
      )
    return set
  }

  /** The same of the bits of its address alone. */
  protected bitsOf(side: 'source' | 'destination', match: AddressMatch): number {
    return addressBits(this.diagrams, side, match)
  }

  flag(flag: TcpFlag, set: boolean): number {
    const node = flagSet(this.diagrams, flag)
    return set ? node : this.diagrams.not(node)
  }

  /** TCP with ACK or RST set: not the first packet of a connection (RFC 9293 §3.10.7). */
  get established(): number {
    return this.all(this.tcp, this.diagrams.or(this.flag('ack', true), this.flag('rst', true)))
  }

  /** Headers of a family. */
  family(family: Family): number {
    return family === 'ipv4' ? this.ipv4 : this.ipv6
  }

  /**
   * The headers that an entry names. Ports, flags and types are not seen in fragments after the first: an entry that
   * asks for them meets none of those (RFC 1858 §2).
   */
  match(match: HeaderMatch, family: Family): number {
    const { diagrams } = this
    let set = this.family(family)
    const narrow = (to: number): void => void (set = diagrams.and(set, to))
    const ranges = (field: FieldName, of: readonly Range[] | undefined): void => {
      if (of) narrow(this.any(of, (range) => this.range(field, range)))
    }
    ranges('protocol', match.protocols)
    ranges('dscp', match.dscp)
    if (match.sourcePorts || match.destinationPorts) narrow(this.ported)
    ranges('sourcePort', match.sourcePorts)
    ranges('destinationPort', match.destinationPorts)
    if (match.icmpTypes || match.icmpCodes) narrow(this.icmp)
    ranges('icmpType', match.icmpTypes)
    ranges('icmpCode', match.icmpCodes)
    if (match.established === true) narrow(this.established)
    if (match.tcpFlags && match.tcpFlags.length > 0)
      narrow(
        match.tcpFlags.reduce((all, { flag, set: wanted }) => diagrams.and(all, this.flag(flag, wanted)), this.tcp),
      )
    if (match.fragments === true) narrow(this.fragments)
    narrow(this.#sides('source', match.sources))
    narrow(this.#sides('destination', match.destinations))
    return set
  }

  /** The set of one packet. */
  packet(packet: Packet): number {
    const host = (text: string): AddressMatch => hostMatch(addressWords(text, packet.family) ?? [])
    return this.all(
      this.address('destination', host(packet.destination)),
      this.address('source', host(packet.source)),
      this.fieldsOf(packet),
    )
  }

  /** Headers that are as a packet is in all but its addresses. */
  protected fieldsOf({
    protocol,
    sourcePort,
    destinationPort,
    icmpType,
    icmpCode,
    tcpFlags,
    fragment,
    dscp,
  }: Packet): number {
    const stated = (field: FieldName, value: number | null): number => (value === null ? ALL : this.value(field, value))
    return this.all(
      this.value('protocol', protocol),
      this.value('fragment', fragment ? 1 : 0),
      stated('destinationPort', destinationPort),
      stated('sourcePort', sourcePort),
      stated('icmpType', icmpType),
      stated('icmpCode', icmpCode),
      ...(tcpFlags === null ? [] : TCP_FLAGS.map((flag) => this.flag(flag, tcpFlags.includes(flag)))),
      this.value('dscp', dscp),
    )
  }

  #sides(side: 'source' | 'destination', of: readonly AddressMatch[] | undefined): number {
    return of ? this.any(of, (match) => (match === ANY_ADDRESS ? ALL : this.address(side, match))) : ALL
  }

  /** The set with a field that may have any value: what is left of it when the field is forgotten. */
  forget(set: number, field: FieldName): number {
    const { level, bits } = FIELDS[field]
    return this.diagrams.exists(set, level, level + bits)
  }

  forgetAll(set: number, fields: readonly FieldName[]): number {
    return fields.reduce((left, field) => this.forget(left, field), set)
  }

  /** The sources of a set: all headers, of its family, whose source some header of the set has. */
  sourcesOf(set: number): number {
    return this.forgetAll(set, ALL_BUT_SOURCE)
  }

  /** The headers that come of a set when a field is rewritten to a value of `values`. */
  rewrite(set: number, field: FieldName, values: number): number {
    return this.diagrams.and(this.forget(set, field), values)
  }

  /** The headers of `before` that come to lie in `after` when a field is rewritten to a value of `values`. */
  beforeRewrite(before: number, field: FieldName, values: number, after: number): number {
    return this.diagrams.and(before, this.forget(this.diagrams.and(after, values), field))
  }

  /** Headers with both ends exchanged: addresses and ports. Not of headers by classes of destinations. */
  exchanged(set: number): number {
    return this.diagrams.moved(set, (level) => {
      for (const [a, b] of ENDS) {
        if (level >= a.level && level < a.level + a.bits) return level - a.level + b.level
        if (level >= b.level && level < b.level + b.bits) return level - b.level + a.level
      }
      return level
    })
  }

  /**
   * The headers of the first packets that answer those of a set: of TCP with SYN and ACK (RFC 9293 §3.5), of an echo
   * request its reply (RFC 792, RFC 4443).
   */
  answering(set: number): number {
    const { diagrams } = this
    const back = this.exchanged(set)
    const tcp = this.all(
      this.forget(diagrams.and(back, this.tcp), 'tcpFlags'),
      ...TCP_FLAGS.map((flag) => this.flag(flag, flag === 'syn' || flag === 'ack')),
    )
    const echo = this.any(ECHO, ([request, reply]) =>
      this.rewrite(
        this.all(back, this.icmp, this.value('icmpType', request)),
        'icmpType',
        this.value('icmpType', reply),
      ),
    )
    return this.any([tcp, echo, diagrams.minus(back, diagrams.or(this.tcp, this.icmp))], (one) => one)
  }

  /** Of some headers those that are answered by any of `answers`. */
  answeredBy(answers: number, of: number): number {
    return this.diagrams.and(of, this.forget(this.forget(this.exchanged(answers), 'tcpFlags'), 'icmpType'))
  }
}

import { addressWords, maskedMatch, parsePrefix, prefixMatch, type AddressMatch, type Range } from '../model/index.ts'
import { CoreError } from '../syntax/index.ts'
import { PORTS, PROTOCOLS } from '../model/names.ts'
import { ALL, NOTHING } from './diagram.ts'
import { TCP_FLAGS, type FieldName } from './fields.ts'
import { PORTED, type Headers } from './headers.ts'

/** A text that is no class of headers: where it stops making sense, and what was expected there. */
export class FilterTextError extends CoreError {
  constructor(
    readonly text: string,
    /** Column, counted from 1. */
    readonly column: number,
    readonly expected: string,
  ) {
    super('packets', `column ${column} of "${text}": expected ${expected}`)
  }
}

interface Token {
  readonly text: string
  readonly at: number
}

const TOKEN = /\s*(&&|\|\||[!=<>]=|<<|>>|[()[\]!&|<>=]|[\w.:/-]*[\w/](?:::)?|::)/y
const MOST_DEPTH = 200
const MOST_LENGTH = 20_000

/**
 * Reads a class of headers written in the syntax of pcap-filter(7), as far as it speaks of IP headers: `tcp and dst net
 * 10.40.8.0/24 and dst port 443`. `and` and `or` bind alike, from left to right, and `not` binds most tightly, as they
 * do there.
 * @throws FilterTextError
 */
export function readFilterText(headers: Headers, text: string): number {
  if (text.length > MOST_LENGTH)
    throw new FilterTextError(`${text.slice(0, 40)}…`, MOST_LENGTH, `at most ${MOST_LENGTH} characters`)
  return new Reader(headers, text).whole()
}

type Direction = 'source' | 'destination' | 'either' | 'both'
interface Qualifiers {
  readonly protocol: string | null
  readonly direction: Direction
  readonly kind: 'host' | 'net' | 'port' | 'portrange' | 'proto'
}

/** Words that name headers by themselves; numbers are of the registry of protocols (IANA). */
const NAMED: Readonly<Record<string, number>> = {
  tcp: 6,
  udp: 17,
  icmp: 1,
  icmp6: 58,
  igmp: 2,
  igrp: 9,
  pim: 103,
  ah: 51,
  esp: 50,
  vrrp: 112,
  sctp: 132,
}
const KINDS = new Set(['host', 'net', 'port', 'portrange', 'proto'])
const ICMP_FIELDS: Readonly<Record<string, FieldName>> = {
  '0': 'icmpType',
  icmptype: 'icmpType',
  icmp6type: 'icmpType',
  '1': 'icmpCode',
  icmpcode: 'icmpCode',
  icmp6code: 'icmpCode',
}
const FLAG_VALUES: Readonly<Record<string, number>> = Object.fromEntries(
  TCP_FLAGS.map((flag, i) => [`tcp-${flag === 'psh' ? 'push' : flag}`, 1 << i]),
)

class Reader {
  readonly #tokens: Token[] = []
  #at = 0
  #depth = 0
  #last: Qualifiers | null = null

  constructor(
    readonly headers: Headers,
    readonly text: string,
  ) {
    TOKEN.lastIndex = 0
    for (let from = 0; text.slice(from).trim() !== ''; from = TOKEN.lastIndex) {
      TOKEN.lastIndex = from
      const found = TOKEN.exec(text)
      if (!found) throw new FilterTextError(text, from + 1, 'a word, a number or an address')
      this.#tokens.push({ text: found[1] ?? '', at: TOKEN.lastIndex - (found[1] ?? '').length })
    }
  }

  whole(): number {
    if (this.#tokens.length === 0) return ALL
    const set = this.#expression()
    if (this.#at < this.#tokens.length) this.#expected('"and", "or" or the end')
    return set
  }

  #expected(what: string): never {
    throw new FilterTextError(this.text, (this.#tokens[this.#at]?.at ?? this.text.length) + 1, what)
  }

  #peek(): string {
    return this.#tokens[this.#at]?.text ?? ''
  }

  #next(): string {
    return this.#tokens[this.#at++]?.text ?? ''
  }

  #take(...words: string[]): boolean {
    if (!words.includes(this.#peek())) return false
    this.#at++
    return true
  }

  #expression(): number {
    if (++this.#depth > MOST_DEPTH) this.#expected(`at most ${MOST_DEPTH} brackets inside each other`)
    let set = this.#term()
    for (;;) {
      if (this.#take('and', '&&')) set = this.headers.diagrams.and(set, this.#term())
      else if (this.#take('or', '||')) set = this.headers.diagrams.or(set, this.#term())
      else break
    }
    this.#depth--
    return set
  }

  #term(): number {
    let negated = false
    while (this.#take('not', '!')) negated = !negated
    let set: number
    if (this.#take('(')) {
      set = this.#expression()
      if (!this.#take(')')) this.#expected('")"')
    } else set = this.#primitive()
    return negated ? this.headers.diagrams.not(set) : set
  }

  #primitive(): number {
    const { headers } = this
    const first = this.#peek()
    if (this.#tokens[this.#at + 1]?.text === '[') return this.#accessor()
    const protocol = first === 'ip' || first === 'ip6' || Object.hasOwn(NAMED, first) ? this.#next() : null
    const direction = this.#direction()
    const kind = this.#peek()
    if (KINDS.has(kind)) this.#at++
    else if (direction === null && protocol !== null) return this.#protocolSet(protocol)
    else if (protocol === null && direction === null) {
      // `port 80 or 443`: what is left out is what was said last.
      if (this.#last === null || !/^[\d.:a-f/-]+$/i.test(first) || first === '')
        this.#expected('a protocol, "src", "dst", "host", "net", "port" or "portrange"')
      return this.#qualified(this.#last)
    }
    const qualifiers: Qualifiers = {
      protocol,
      direction: direction ?? 'either',
      kind: KINDS.has(kind) ? (kind as Qualifiers['kind']) : 'host',
    }
    this.#last = qualifiers
    const set = this.#qualified(qualifiers)
    return protocol === null ? set : headers.diagrams.and(set, this.#protocolSet(protocol))
  }

  #direction(): Direction | null {
    const first = this.#peek()
    if (first !== 'src' && first !== 'dst') return null
    this.#at++
    const joined = this.#peek()
    const other = this.#tokens[this.#at + 1]?.text
    if ((joined === 'or' || joined === 'and') && other === (first === 'src' ? 'dst' : 'src')) {
      this.#at += 2
      return joined === 'or' ? 'either' : 'both'
    }
    return first === 'src' ? 'source' : 'destination'
  }

  #protocolSet(word: string): number {
    const { headers } = this
    if (word === 'ip') return headers.ipv4
    if (word === 'ip6') return headers.ipv6
    const set = headers.value('protocol', NAMED[word] ?? 0)
    // In pcap-filter(7), icmp is `ip proto 1` and icmp6 `ip6 proto 58`.
    return word === 'icmp' ? headers.all(set, headers.ipv4) : word === 'icmp6' ? headers.all(set, headers.ipv6) : set
  }

  #qualified({ protocol, direction, kind }: Qualifiers): number {
    const { headers } = this
    if (kind === 'proto') return headers.value('protocol', this.#number(255, 'a protocol', PROTOCOLS))
    if (kind === 'host' || kind === 'net') {
      const match = kind === 'host' ? this.#host() : this.#net()
      return this.#sided(direction, (side) => headers.address(side, match))
    }
    const range = kind === 'port' ? this.#port() : this.#portRange()
    const ports = this.#sided(direction, (side) =>
      headers.range(side === 'source' ? 'sourcePort' : 'destinationPort', range),
    )
    const among = protocol === 'tcp' || protocol === 'udp' || protocol === 'sctp' ? [NAMED[protocol] ?? 0] : PORTED
    return headers.all(
      headers.ported,
      headers.any(among, (number) => headers.value('protocol', number)),
      ports,
    )
  }

  #sided(direction: Direction, setOf: (side: 'source' | 'destination') => number): number {
    const { diagrams } = this.headers
    if (direction === 'source' || direction === 'destination') return setOf(direction)
    const [source, destination] = [setOf('source'), setOf('destination')]
    return direction === 'either' ? diagrams.or(source, destination) : diagrams.and(source, destination)
  }

  #host(): AddressMatch {
    const text = this.#peek()
    const prefix = text.includes('/') ? null : parsePrefix(text)
    if (!prefix) this.#expected('an address')
    this.#at++
    return prefix
  }

  /** `10.0.0.0/8`, `10.0.0.0 mask 255.0.0.0`, `10.0`. */
  #net(): AddressMatch {
    const text = this.#peek()
    const partial = /^\d{1,3}(?:\.\d{1,3}){0,2}$/.test(text) ? text.split('.') : null
    const match = partial
      ? prefixMatch(
          addressWords([...partial, '0', '0', '0'].slice(0, 4).join('.'), 'ipv4') ?? this.#expected('a network'),
          partial.length * 8,
        )
      : parsePrefix(text)
    if (!match) this.#expected('a network as 10.0.0.0/8 or 2001:db8::/32')
    this.#at++
    if (!this.#take('mask')) return match
    const mask = addressWords(this.#peek(), 'ipv4')
    if (!mask || match.value.length !== 1) this.#expected('a mask as 255.255.0.0')
    this.#at++
    return maskedMatch(match.value, mask)
  }

  #port(): Range {
    const port = this.#number(65535, 'a port', { ...PORTS.udp, ...PORTS.tcp })
    return [port, port]
  }

  #portRange(): Range {
    const text = this.#next()
    const [from, to] = text
      .split('-')
      .map((part) => (/^\d+$/.test(part) ? Number(part) : (PORTS.tcp[part] ?? PORTS.udp[part])))
    if (from === undefined || to === undefined || from > to || to > 65535) {
      this.#at--
      this.#expected('two ports as 1024-65535, the lower first')
    }
    return [from, to]
  }

  #number(most: number, what: string, names: Readonly<Record<string, number>> = {}): number {
    const text = this.#peek()
    const value = /^(?:\d+|0x[\da-f]+)$/i.test(text)
      ? Number(text)
      : Object.hasOwn(names, text)
        ? names[text]
        : undefined
    if (value === undefined || value > most) this.#expected(`${what} from 0 to ${most}`)
    this.#at++
    return value
  }

  /** Octets of the header that fields of ours are in: `tcp[tcpflags] & (tcp-ack|tcp-rst) != 0`. */
  #accessor(): number {
    const { headers } = this
    const start = this.#at
    const protocol = this.#next()
    this.#at++
    const [offset = '', size = '1'] = this.#next().split(':')
    if (!this.#take(']')) this.#expected('"]"')
    const mask = this.#take('&') ? this.#flags() : null
    const operator = this.#peek()
    if (!['=', '==', '!=', '<', '>', '<=', '>='].includes(operator)) this.#expected('a comparison')
    this.#at++
    const value = this.#flags()
    const compared = (field: FieldName, step: number, most: number): number =>
      headers.any(rangesOf(operator, value / step, most), (range) => headers.range(field, range))
    const field = size === '1' ? ICMP_FIELDS[offset] : undefined
    if ((protocol === 'icmp' || protocol === 'icmp6') && field && mask === null)
      return headers.all(headers.icmp, this.#protocolSet(protocol), compared(field, 1, 255))
    if (protocol === 'tcp' && size === '1' && (offset === '13' || offset === 'tcpflags'))
      return this.#tcpFlags(mask ?? 0x3f, operator, value)
    if (protocol === 'ip' && offset === '1' && size === '1' && mask === 0xfc && value % 4 === 0)
      return headers.all(headers.ipv4, compared('dscp', 4, 63))
    if (protocol === 'ip6' && offset === '0' && size === '2' && mask === 0x0fc0 && value % 64 === 0)
      return headers.all(headers.ipv6, compared('dscp', 64, 63))
    const family =
      protocol === 'ip' && offset === '6' && size === '2' && mask === 0x1fff
        ? headers.ipv4
        : protocol === 'ip6' && offset === '42' && size === '2' && mask === 0xfff8
          ? headers.ipv6
          : null
    if (family !== null && value === 0 && ['=', '==', '!='].includes(operator))
      return headers.all(family, headers.value('fragment', operator === '!=' ? 1 : 0))
    this.#at = start
    return this.#expected(
      'octets that are looked at here: icmp[icmptype], icmp[icmpcode], tcp[tcpflags], ip[1] & 0xfc, ' +
        'ip6[0:2] & 0x0fc0, ip[6:2] & 0x1fff',
    )
  }

  /** A number, or flags joined by `|`, in brackets or not. */
  #flags(): number {
    const bracket = this.#take('(')
    let value = this.#number(0xffff, 'a number or flags as tcp-syn', FLAG_VALUES)
    while (this.#take('|')) value |= this.#number(0xffff, 'a flag as tcp-syn', FLAG_VALUES)
    if (bracket && !this.#take(')')) this.#expected('")"')
    return value
  }

  #tcpFlags(mask: number, operator: string, value: number): number {
    const { headers } = this
    const { diagrams } = headers
    if (!['=', '==', '!='].includes(operator)) this.#expected('"==" or "!=" between flags')
    const looked = TCP_FLAGS.filter((_, i) => (mask >> i) & 1)
    const equal =
      (value & ~mask) !== 0
        ? NOTHING
        : looked.reduce(
            (all, flag) => diagrams.and(all, headers.flag(flag, ((value >> TCP_FLAGS.indexOf(flag)) & 1) === 1)),
            ALL,
          )
    return headers.all(headers.tcp, operator === '!=' ? diagrams.not(equal) : equal)
  }
}

function rangesOf(operator: string, value: number, most: number): Range[] {
  switch (operator) {
    case '<':
      return [[0, value - 1]]
    case '<=':
      return [[0, value]]
    case '>':
      return [[value + 1, most]]
    case '>=':
      return [[value, most]]
    case '!=':
      return [
        [0, value - 1],
        [value + 1, most],
      ]
    default:
      return [[value, value]]
  }
}

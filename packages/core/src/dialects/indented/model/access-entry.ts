import type { EntryMatch, Range } from '../../../model/entry-match.ts'
import {
  addressWords,
  hostMatch,
  maskedMatch,
  prefixMatch,
  type AddressMatch,
  type Family,
} from '../../../model/address.ts'
import { DSCP, ICMP_TYPES, PORTS, PROTOCOLS } from '../../../model/names.ts'
import type { Groups } from './object-groups.ts'
import { withoutPort } from './port-words.ts'

/** What the words of an entry ask of a packet, read from left to right. */
export class EntryReader {
  readonly notWeighed: string[] = []
  usedGroups = false
  /** Of a group of services in the place of the protocol. */
  services: readonly EntryMatch[] | null = null
  #at = 0

  constructor(
    readonly words: readonly string[],
    readonly asWritten: readonly string[],
    readonly family: Family,
    readonly groups: Groups,
  ) {}

  standard(): EntryMatch {
    const sources = this.#addresses()
    this.#options({})
    return sources ? { sources } : {}
  }

  extended(): EntryMatch {
    const match: { -readonly [K in keyof EntryMatch]: EntryMatch[K] } = {}
    const protocol = this.#protocol()
    if (protocol) match.protocols = [protocol]
    const withPorts = protocol !== null && protocol[0] === protocol[1] && [6, 17, 132].includes(protocol[0])
    const sources = this.#addresses()
    if (sources) match.sources = sources
    const sourcePorts = withPorts ? this.#ports(protocol[0]) : null
    if (sourcePorts) match.sourcePorts = sourcePorts
    const destinations = this.#addresses()
    if (destinations) match.destinations = destinations
    const destinationPorts = withPorts ? this.#ports(protocol[0]) : null
    if (destinationPorts) match.destinationPorts = destinationPorts
    this.#options(match, protocol?.[0])
    return match
  }

  #next(): string | undefined {
    return this.words[this.#at++]
  }

  #protocol(): Range | null {
    const word = this.#next() ?? ''
    if (word === 'ip' || word === 'ipv6') return null
    const number = /^\d+$/.test(word)
      ? Number(word)
      : PROTOCOLS[word === 'icmp' && this.family === 'ipv6' ? 'ipv6-icmp' : word]
    if (number !== undefined && number <= 255) return [number, number]
    if (word !== 'object-group') this.notWeighed.push(word)
    else {
      const name = this.asWritten[this.#at++] ?? ''
      this.usedGroups = true
      this.services = this.groups.services.get(name) ?? null
      if (!this.services) this.notWeighed.push(`object-group ${name}`)
    }
    return null
  }

  /** Null where any address will do. */
  #addresses(): AddressMatch[] | null {
    const word = this.#next()
    if (word === undefined || word === 'any' || word === 'any4' || word === 'any6') return null
    if (word === 'host') {
      const address = addressWords(this.#next() ?? '', this.family)
      return address === null ? this.#cannotWeigh('host') : [hostMatch(address)]
    }
    if (word === 'object-group' || word === 'addrgroup') {
      const name = this.asWritten[this.#at++] ?? ''
      this.usedGroups = true
      const group = this.family === 'ipv4' ? this.groups.addresses.get(name) : undefined
      // No member at all would read as any address.
      return group && group.length > 0 ? [...group] : this.#cannotWeigh(`${word} ${name}`)
    }
    const [text = '', length] = word.split('/')
    const address = addressWords(text, this.family)
    if (address === null) return this.#cannotWeigh(word)
    if (length !== undefined) return [prefixMatch(address, Number(length))]
    const wildcard = this.family === 'ipv4' ? addressWords(this.words[this.#at] ?? '', 'ipv4') : null
    if (wildcard === null) return [hostMatch(address)]
    this.#at++
    return [
      maskedMatch(
        address,
        wildcard.map((part) => ~part >>> 0),
      ),
    ]
  }

  #cannotWeigh(what: string): null {
    this.notWeighed.push(what)
    return null
  }

  #ports(protocol: number): Range[] | null {
    const operator = this.words[this.#at]
    switch (operator) {
      case 'eq':
      case 'neq': {
        this.#at++
        const ports: number[] = []
        for (let port = this.#port(protocol); port !== null; port = this.#port(protocol)) ports.push(port)
        if (ports.length === 0) return this.#cannotWeigh(operator)
        if (operator === 'eq') return ports.map((port) => [port, port])
        return ports
          .sort((a, b) => a - b)
          .reduce<Range[]>((left, port) => left.flatMap((range) => withoutPort(range, port)), [[0, 65535]])
      }
      case 'lt':
      case 'gt': {
        this.#at++
        const port = this.#port(protocol)
        if (port === null) return this.#cannotWeigh(operator)
        // No port at all would read as any port.
        if (port === (operator === 'lt' ? 0 : 65535)) return this.#cannotWeigh(`${operator} ${port}`)
        return operator === 'lt' ? [[0, port - 1]] : [[port + 1, 65535]]
      }
      case 'range': {
        this.#at++
        const from = this.#port(protocol)
        const to = this.#port(protocol)
        return from === null || to === null ? this.#cannotWeigh(operator) : [[Math.min(from, to), Math.max(from, to)]]
      }
      default:
        return null
    }
  }

  #port(protocol: number): number | null {
    const word = this.words[this.#at] ?? ''
    const number = /^\d+$/.test(word)
      ? Number(word)
      : (PORTS[protocol === 17 ? 'udp' : 'tcp'][word] ?? PORTS.tcp[word] ?? PORTS.udp[word])
    if (number === undefined || number > 65535) return null
    this.#at++
    return number
  }

  #dscp(match: { -readonly [K in keyof EntryMatch]: EntryMatch[K] }): void {
    const word = this.#next() ?? ''
    const value = /^\d+$/.test(word) ? Number(word) : DSCP[word]
    if (value === undefined || value > 63) this.notWeighed.push(`dscp ${word}`)
    else match.dscp = [[value, value]]
  }

  #options(match: { -readonly [K in keyof EntryMatch]: EntryMatch[K] }, protocol?: number): void {
    for (let word = this.#next(); word !== undefined; word = this.#next()) {
      if (word === 'log' || word === 'log-input' || word === 'sequence') {
        if (word === 'sequence') this.#at++
      } else if (word === 'reflect') this.#at += this.words[this.#at + 1] === 'timeout' ? 3 : 1
      else if (word === 'established' && protocol === 6) match.established = true
      else if (word === 'fragments') match.fragments = true
      else if (word === 'dscp') this.#dscp(match)
      else if (protocol === 1 || protocol === 58) {
        const type = /^\d+$/.test(word) ? Number(word) : protocol === 1 ? ICMP_TYPES[word] : undefined
        if (type === undefined) this.notWeighed.push(word)
        else {
          match.icmpTypes = [[type, type]]
          const code = this.words[this.#at] ?? ''
          if (/^\d{1,3}$/.test(code) && Number(code) <= 255) {
            this.#at++
            match.icmpCodes = [[Number(code), Number(code)]]
          }
        }
      } else this.notWeighed.push(word)
    }
  }
}

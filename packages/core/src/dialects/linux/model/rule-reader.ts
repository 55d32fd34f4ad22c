import { addressWords, parsePrefix, type AddressMatch, type Family } from '../../../model/address.ts'
import { addressText } from '../../../model/address-text.ts'
import { ICMP_TYPES, PORTS, PROTOCOLS } from '../../../model/names.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'

export type Entry = DeviceModel['accessLists'][number]['entries'][number]
/** An entry while its words are read. */
type Growing = Partial<Entry> & Pick<Entry, 'notWeighed' | 'unreadFields'>

const INTERFACES: Readonly<Partial<Record<string, 'inInterface' | 'outInterface'>>> = {
  '-i': 'inInterface',
  '--in-interface': 'inInterface',
  '-o': 'outInterface',
  '--out-interface': 'outInterface',
}

/** Modules whose options are read here; others may narrow a rule without any option. */
const MODULES = new Set([
  'tcp',
  'udp',
  'sctp',
  'icmp',
  'icmp6',
  'ipv6-icmp',
  'conntrack',
  'state',
  'multiport',
  'comment',
  'dscp',
])

/** Targets that let a packet go on as it is seen here. */
const GOES_ON = new Set([
  'LOG',
  'NFLOG',
  'ULOG',
  'TRACE',
  'TCPMSS',
  'CLASSIFY',
  'CHECKSUM',
  'AUDIT',
  'IDLETIMER',
  'LED',
  'RATEEST',
])
type Negatable =
  | 'protocols'
  | 'sources'
  | 'destinations'
  | 'sourcePorts'
  | 'destinationPorts'
  | 'eitherPorts'
  | 'icmpTypes'
  | 'dscp'
  | 'tcpFlags'
  | 'connectionStates'
  | 'fragments'

/** The field of each option that can be turned round with `!`. */
const FIELD_OF: Readonly<Partial<Record<string, Negatable>>> = {
  '-s': 'sources',
  '--source': 'sources',
  '-d': 'destinations',
  '--destination': 'destinations',
  '-p': 'protocols',
  '--protocol': 'protocols',
  '--sport': 'sourcePorts',
  '--source-port': 'sourcePorts',
  '--sports': 'sourcePorts',
  '--dport': 'destinationPorts',
  '--destination-port': 'destinationPorts',
  '--dports': 'destinationPorts',
  '--ports': 'eitherPorts',
  '--icmp-type': 'icmpTypes',
  '--icmpv6-type': 'icmpTypes',
  '--dscp': 'dscp',
  '--tcp-flags': 'tcpFlags',
  '--syn': 'tcpFlags',
  '--state': 'connectionStates',
  '--ctstate': 'connectionStates',
  '-f': 'fragments',
  '--fragment': 'fragments',
}

interface Translation {
  readonly changes: 'source' | 'destination' | null
  readonly address: string | null
  readonly ports: string | null
}

/** Reads the arguments of one rule. What narrows it in a way that a header does not show is named as not weighed. */
export class RuleReader {
  translation: Translation = { changes: null, address: null, ports: null }
  #at = 0

  constructor(
    readonly words: readonly string[],
    readonly family: Family,
  ) {}

  read(text: string): Partial<Entry> {
    // A rule without a target counts packets and lets them go on.
    const entry: Growing & { negated: string[] } = {
      text,
      action: 'other',
      protocols: [],
      sources: [],
      destinations: [],
      sourcePorts: [],
      destinationPorts: [],
      eitherPorts: [],
      icmpTypes: [],
      icmpCodes: [],
      dscp: [],
      tcpFlags: [],
      connectionStates: [],
      negated: [],
      notWeighed: [],
      unreadFields: [],
    }
    let negated = false
    for (let word = this.#next(); word !== undefined; word = this.#next()) {
      if (word === '!') {
        negated = true
        continue
      }
      const place = INTERFACES[word]
      const field = FIELD_OF[word]
      if (place) entry[place] = `${negated ? '!' : ''}${this.#next() ?? ''}`
      else if (negated && field === undefined) entry.notWeighed.push(`! ${word} ${this.#next() ?? ''}`)
      else {
        if (negated && field) entry.negated.push(field)
        this.#option(word, entry)
      }
      negated = false
    }
    return entry
  }

  #next(): string | undefined {
    return this.words[this.#at++]
  }

  #option(word: string, entry: Growing): void {
    switch (word) {
      case '-m':
      case '--match': {
        const module = this.#next() ?? ''
        if (!MODULES.has(module)) entry.notWeighed.push(`-m ${module}`)
        return
      }
      case '-s':
      case '--source':
        entry.sources = this.#addresses(entry, 'sources')
        return
      case '-d':
      case '--destination':
        entry.destinations = this.#addresses(entry, 'destinations')
        return
      case '-p':
      case '--protocol':
        this.#protocol(entry)
        return
      case '--sport':
      case '--source-port':
      case '--sports':
        entry.sourcePorts = this.#ports(entry, 'sourcePorts')
        return
      case '--dport':
      case '--destination-port':
      case '--dports':
        entry.destinationPorts = this.#ports(entry, 'destinationPorts')
        return
      case '--ports':
        entry.eitherPorts = this.#ports(entry, 'eitherPorts')
        return
      case '--icmp-type':
      case '--icmpv6-type':
        this.#icmp(entry)
        return
      case '--dscp':
        this.#dscp(entry)
        return
      case '--tcp-flags':
        this.#flags(entry)
        return
      case '--syn':
        entry.tcpFlags = ['syn', '!ack', '!rst', '!fin']
        return
      case '--state':
      case '--ctstate':
        this.#state(entry)
        return
      case '-f':
      case '--fragment':
        entry.fragments = true
        return
      case '--comment':
        entry.remark = this.#next() ?? null
        return
      case '-j':
      case '-g':
        if (word === '-g') entry.forGood = true
        this.#target(entry)
        return
      default:
        entry.notWeighed.push(word.startsWith('-') ? `${word} ${this.#next() ?? ''}`.trim() : word)
    }
  }

  #addresses(entry: Growing, field: 'sources' | 'destinations'): string[] {
    return (this.#next() ?? '').split(',').flatMap((text) => {
      const match = this.#address(text)
      if (!match) {
        entry.notWeighed.push(text)
        entry.unreadFields.push(field)
      }
      return match ? [addressText(match)] : []
    })
  }

  /** `10.0.0.0/8`, `10.0.0.1`, or an address with a mask written out. */
  #address(text: string): AddressMatch | null {
    const [address = '', mask] = text.split('/')
    const words = mask?.includes('.') ? addressWords(mask, 'ipv4') : null
    const value = words ? addressWords(address, 'ipv4') : null
    return words && value
      ? { value: value.map((word, i) => (word & (words[i] ?? 0)) >>> 0), care: words }
      : parsePrefix(text)
  }

  #protocol(entry: Growing): void {
    const word = this.#next() ?? ''
    if (word === 'all' || word === '0') return
    const number = /^\d+$/.test(word) ? Number(word) : PROTOCOLS[word]
    if (number === undefined) entry.notWeighed.push(`protocol ${word}`)
    else entry.protocols = [[number, number]]
  }

  #ports(entry: Growing, field: 'sourcePorts' | 'destinationPorts' | 'eitherPorts'): [number, number][] {
    return (this.#next() ?? '').split(',').flatMap((text): [number, number][] => {
      const [from, to = from] = text
        .split(':')
        .map((part) => (/^\d+$/.test(part) ? Number(part) : (PORTS.tcp[part] ?? PORTS.udp[part])))
      if (from !== undefined && to !== undefined) return [[from, to]]
      entry.notWeighed.push(`port ${text}`)
      entry.unreadFields.push(field)
      return []
    })
  }

  #icmp(entry: Growing): void {
    const word = this.#next() ?? ''
    const [type = '', code] = word.split('/')
    const number = /^\d+$/.test(type) ? Number(type) : ICMP_TYPES[type]
    const codeNumber = code !== undefined && /^\d+$/.test(code) ? Number(code) : null
    if (number === undefined || (code !== undefined && codeNumber === null)) entry.notWeighed.push(`icmp ${word}`)
    if (number !== undefined) entry.icmpTypes = [[number, number]]
    if (codeNumber !== null) entry.icmpCodes = [[codeNumber, codeNumber]]
  }

  #dscp(entry: Growing): void {
    const word = this.#next() ?? ''
    const value = Number(word)
    if (Number.isInteger(value) && value >= 0 && value <= 63) entry.dscp = [[value, value]]
    else entry.notWeighed.push(`dscp ${word}`)
  }

  /** `--tcp-flags LOOKED-AT SET`: what is looked at and not set must not be set. */
  #flags(entry: Partial<Entry>): void {
    const words = (text: string | undefined): string[] =>
      (text ?? '')
        .toLowerCase()
        .split(',')
        .filter((word) => word !== '' && word !== 'none')
        .flatMap((word) => (word === 'all' ? ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'] : [word]))
    const looked = words(this.#next())
    const set = words(this.#next())
    entry.tcpFlags = looked.map((flag) => (set.includes(flag) ? flag : `!${flag}`))
  }

  #state(entry: Partial<Entry>): void {
    entry.connectionStates = (this.#next() ?? '').toLowerCase().split(',')
  }

  #target(entry: Growing): void {
    const target = this.#next() ?? ''
    if (target === 'ACCEPT') entry.action = 'permit'
    else if (target === 'DROP' || target === 'REJECT') entry.action = 'deny'
    // It decides nothing: the packet goes on to the next rule.
    else if (GOES_ON.has(target)) entry.logged = target === 'LOG' || target === 'NFLOG' || target === 'ULOG'
    else if (!this.#translates(target, entry)) entry.leadsTo = target
    // What follows a target are its own options.
    if (target !== 'ACCEPT') this.#at = this.words.length
  }

  #translates(target: string, entry: { notWeighed: string[] }): boolean {
    const side = ({ SNAT: 'source', MASQUERADE: 'source', DNAT: 'destination', REDIRECT: 'destination' } as const)[
      target
    ]
    if (!side) return false
    const option = (...names: string[]): string | null => {
      const at = this.words.findIndex((word, i) => i >= this.#at && names.includes(word))
      return at < 0 ? null : (this.words[at + 1] ?? null)
    }
    if (target === 'MASQUERADE' || target === 'REDIRECT')
      this.translation = { changes: side, address: 'interface', ports: option('--to-ports') }
    else {
      const to = option('--to-source', '--to-destination') ?? ''
      // Two colons and no brackets: an IPv6 address, beside which no port can stand.
      const parts =
        to.split(':').length > 2 && !to.startsWith('[')
          ? /^([\da-f:.-]+)$/i.exec(to)
          : /^(?:\[([^\]]*)\]|([^:]*))(?::([\d-]+))?$/i.exec(to)
      if (!parts) entry.notWeighed.push(`${target} ${to}`)
      this.translation = { changes: side, address: (parts?.[1] ?? parts?.[2]) || null, ports: parts?.[3] ?? null }
    }
    const others = this.words
      .slice(this.#at)
      .filter((word) => word.startsWith('--') && !['--to-source', '--to-destination', '--to-ports'].includes(word))
    // A port or address drawn by lot is one of those that are stated; other options say more.
    entry.notWeighed.push(...others.filter((word) => !['--random', '--random-fully', '--persistent'].includes(word)))
    return true
  }
}

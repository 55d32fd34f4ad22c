import type { ConfigNode, Scope, Statement } from '../config/index.ts'
import { addressWords, hostMatch, maskedMatch, prefixMatch, type AddressMatch, type Family } from './address.ts'
import { ICMP_TYPES, PORTS, PROTOCOLS } from './names.ts'

/** Closed range of numbers. */
export type Range = readonly [from: number, to: number]

/** What an entry asks of a packet. A field left out is not asked about; ranges of one field are alternatives. */
export interface EntryMatch {
  readonly protocols?: readonly Range[]
  readonly sources?: readonly AddressMatch[]
  readonly destinations?: readonly AddressMatch[]
  readonly sourcePorts?: readonly Range[]
  readonly destinationPorts?: readonly Range[]
  readonly icmpTypes?: readonly Range[]
  /** TCP with ACK or RST set. */
  readonly established?: boolean
  /** Only fragments other than the first. */
  readonly fragments?: boolean
}

export interface AccessEntry {
  readonly action: 'permit' | 'deny'
  readonly match: EntryMatch
  /** Words of the entry that the reader cannot weigh (time ranges, options): it may match less than `match` says. */
  readonly notWeighed: readonly string[]
  readonly node: ConfigNode
}

export interface AccessList {
  readonly name: string
  readonly family: Family
  readonly entries: readonly AccessEntry[]
  /** The lines that define it. */
  readonly nodes: readonly ConfigNode[]
}

/** Access lists by family and name (`ipv4 MGMT`), numbered and named, in the order in which packets meet their entries. */
export type AccessLists = ReadonlyMap<string, AccessList>

/** Reads every access list of a device. */
export function accessListsOf(device: Scope): AccessLists {
  const lists = new Map<string, { name: string; family: Family; entries: AccessEntry[]; nodes: ConfigNode[] }>()
  const groups = addressGroupsOf(device)
  const listFor = (name: string, family: Family) => {
    const key = `${family} ${name}`
    const list = lists.get(key) ?? { name, family, entries: [], nodes: [] }
    lists.set(key, list)
    return list
  }
  for (const statement of device.startingWith('access-list')) {
    const [, name, ...stated] = statement.text.split(' ')
    const words = withoutSequence(stated)
    const node = statement.nodes[0]
    if (statement.negated || name === undefined || !node) continue
    const list = listFor(name, 'ipv4')
    list.nodes.push(node)
    const entry = entryOf(words, node, 'ipv4', isStandardNumber(name) || (!/^\d+$/.test(name) && !namesProtocol(words)), groups)
    if (entry) list.entries.push(entry)
  }
  for (const word of ['ip', 'ipv6']) {
    for (const statement of device.startingWith(word)) {
      const inLine = /^ipv6 access-list (\S+) ((?:seq \d+ )?(?:permit|deny) .*)$/i.exec(statement.text)
      const own = statement.nodes[0]
      if (inLine && own && !statement.negated) {
        const list = listFor(inLine[1] ?? '', 'ipv6')
        list.nodes.push(own)
        const entry = entryOf(withoutSequence((inLine[2] ?? '').split(' ')), own, 'ipv6', true, groups)
        if (entry) list.entries.push(entry)
        continue
      }
      const shape = /^ip(v6)? access-list (?:(standard|extended) )?(\S+)$/i.exec(statement.text)
      if (!shape || statement.negated) continue
      const family = shape[1] === undefined ? 'ipv4' : 'ipv6'
      const name = shape[3] ?? ''
      const standard = shape[2]?.toLowerCase() === 'standard' || (shape[2] === undefined && family === 'ipv4' && isStandardNumber(name))
      const list = listFor(name, family)
      list.nodes.push(...statement.nodes)
      for (const child of statement.scope?.statements ?? []) {
        const node = child.nodes[0]
        const entry = node && !child.negated ? entryOf(wordsOf(child), node, family, standard, groups) : null
        if (entry) list.entries.push(entry)
      }
    }
  }
  return lists
}

/** `seq 10 permit …`: a number that stands in the line itself. */
function withoutSequence(words: readonly string[]): string[] {
  return words[0] === 'seq' && /^\d+$/.test(words[1] ?? '') ? words.slice(2) : [...words]
}

/** Whether an entry of a list with a name asks for a protocol, or for addresses alone. */
function namesProtocol(words: readonly string[]): boolean {
  const word = words[1]?.toLowerCase() ?? ''
  return words.length > 3 && (word === 'ip' || Object.hasOwn(PROTOCOLS, word) || /^\d{1,3}$/.test(word))
}

function isStandardNumber(name: string): boolean {
  const number = /^\d+$/.test(name) ? Number(name) : 0
  return (number >= 1 && number <= 99) || (number >= 1300 && number <= 1999)
}

function wordsOf(statement: Statement): string[] {
  const words = statement.text.split(' ')
  return /^\d+$/.test(words[0] ?? '') ? words.slice(1) : words
}

/** One entry, or null for a remark and for what is no entry. */
function entryOf(words: readonly string[], node: ConfigNode, family: Family, standard: boolean, groups: AddressGroups): AccessEntry | null {
  const action = words[0]?.toLowerCase()
  // A reflexive list's contents are not in the configuration: what it permits cannot be weighed.
  if (action === 'evaluate') return { action: 'permit', match: {}, notWeighed: [words.join(' ')], node }
  if (action !== 'permit' && action !== 'deny') return null
  const reader = new EntryReader(words.slice(1).map((word) => word.toLowerCase()), words.slice(1), family, groups)
  const match = standard ? reader.standard() : reader.extended()
  return { action, match, notWeighed: reader.notWeighed, node }
}

class EntryReader {
  readonly notWeighed: string[] = []
  #at = 0

  constructor(
    readonly words: readonly string[],
    readonly asWritten: readonly string[],
    readonly family: Family,
    readonly groups: AddressGroups,
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
    const number = /^\d+$/.test(word) ? Number(word) : PROTOCOLS[word === 'icmp' && this.family === 'ipv6' ? 'ipv6-icmp' : word]
    if (number !== undefined && number <= 255) return [number, number]
    this.notWeighed.push(word === 'object-group' ? `object-group ${this.#next() ?? ''}` : word)
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
      const group = this.family === 'ipv4' ? this.groups.get(name) : undefined
      return group ? [...group] : this.#cannotWeigh(`${word} ${name}`)
    }
    const [text = '', length] = word.split('/')
    const address = addressWords(text, this.family)
    if (address === null) return this.#cannotWeigh(word)
    if (length !== undefined) return [prefixMatch(address, Number(length))]
    const wildcard = this.family === 'ipv4' ? addressWords(this.words[this.#at] ?? '', 'ipv4') : null
    if (wildcard === null) return [hostMatch(address)]
    this.#at++
    return [maskedMatch(address, wildcard.map((part) => ~part >>> 0))]
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
        return ports.sort((a, b) => a - b).reduce<Range[]>((left, port) => left.flatMap((range) => without(range, port)), [[0, 65535]])
      }
      case 'lt':
      case 'gt': {
        this.#at++
        const port = this.#port(protocol)
        if (port === null) return this.#cannotWeigh(operator)
        return operator === 'lt' ? (port === 0 ? [] : [[0, port - 1]]) : port === 65535 ? [] : [[port + 1, 65535]]
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
    const number = /^\d+$/.test(word) ? Number(word) : (PORTS[protocol === 17 ? 'udp' : 'tcp'][word] ?? PORTS.tcp[word] ?? PORTS.udp[word])
    if (number === undefined || number > 65535) return null
    this.#at++
    return number
  }

  #options(match: { -readonly [K in keyof EntryMatch]: EntryMatch[K] }, protocol?: number): void {
    for (let word = this.#next(); word !== undefined; word = this.#next()) {
      if (word === 'log' || word === 'log-input' || word === 'sequence') {
        if (word === 'sequence') this.#at++
      } else if (word === 'reflect') this.#at += this.words[this.#at + 1] === 'timeout' ? 3 : 1
      else if (word === 'established' && protocol === 6) match.established = true
      else if (word === 'fragments') match.fragments = true
      else if (protocol === 1 || protocol === 58) {
        const type = /^\d+$/.test(word) ? Number(word) : protocol === 1 ? ICMP_TYPES[word] : undefined
        if (type === undefined) this.notWeighed.push(word)
        else {
          match.icmpTypes = [[type, type]]
          // A code narrows the type further than is weighed here.
          if (/^\d+$/.test(this.words[this.#at] ?? '')) this.notWeighed.push(`code ${this.#next() ?? ''}`)
        }
      } else this.notWeighed.push(word)
    }
  }
}

function without([from, to]: Range, port: number): Range[] {
  if (port < from || port > to) return [[from, to]]
  const left: Range[] = []
  if (port > from) left.push([from, port - 1])
  if (port < to) left.push([port + 1, to])
  return left
}

type AddressGroups = ReadonlyMap<string, readonly AddressMatch[]>

/** `object-group network NAME` with hosts, networks and other groups; a group that cannot be weighed is left out. */
function addressGroupsOf(device: Scope): AddressGroups {
  const groups = new Map<string, readonly AddressMatch[]>()
  const definitions = new Map(
    device.startingWith('object-group').flatMap((statement): [string, Statement][] => {
      const name = /^object-group (?:network|ip address) (\S+)$/i.exec(statement.text)?.[1]
      return name === undefined || statement.negated ? [] : [[name, statement]]
    }),
  )
  const expand = (name: string, seen: ReadonlySet<string>): readonly AddressMatch[] | null => {
    const known = groups.get(name)
    const definition = definitions.get(name)
    if (known) return known
    if (!definition || seen.has(name)) return null
    const members: AddressMatch[] = []
    for (const { text, negated } of definition.scope?.statements ?? []) {
      const [first = '', second = '', third] = text.split(' ')
      if (negated || first === 'description') continue
      if (first === 'group-object') {
        const nested = expand(second, new Set([...seen, name]))
        if (!nested) return null
        members.push(...nested)
      } else if (first === 'host') {
        const address = addressWords(second, 'ipv4')
        if (address === null) return null
        members.push(hostMatch(address))
      } else {
        const [text4 = '', length] = first.split('/')
        const address = addressWords(text4, 'ipv4')
        const mask = length === undefined ? addressWords(second, 'ipv4') : null
        if (address === null || third !== undefined || (length === undefined && mask === null)) return null
        members.push(mask === null ? prefixMatch(address, Number(length)) : maskedMatch(address, mask))
      }
    }
    groups.set(name, members)
    return members
  }
  for (const name of definitions.keys()) expand(name, new Set())
  return groups
}

import { findingsPlace, type Command, type Scope, type Statement } from '../../../syntax/index.ts'
import type { AccessEntry, AccessLists, EntryMatch, Range } from '../../../model/access-list.ts'
import {
  addressWords,
  hostMatch,
  maskedMatch,
  prefixMatch,
  type AddressMatch,
  type Family,
} from '../../../model/address.ts'
import { DSCP, ICMP_TYPES, PORTS, PROTOCOLS } from '../../../model/names.ts'
import type { SourceRange } from '../../../model/writer.ts'

/** Groups of addresses and services that lists name: their statements, and whether all of each was understood. */
export function objectGroupsOf(
  device: Scope,
): readonly {
  readonly name: string
  readonly statement: Statement
  readonly understood: boolean
  readonly members: readonly AddressMatch[]
}[] {
  const [addresses, services] = [addressGroupsOf(device), serviceGroupsOf(device)]
  return device.startingWith('object-group').flatMap((statement) => {
    const [, kind = '', name = ''] = /^object-group (network|ip address|service) (\S+)/i.exec(statement.text) ?? []
    if (name === '' || statement.negated) return []
    const isService = kind.toLowerCase() === 'service'
    return [
      {
        name,
        statement,
        understood: (isService ? services : addresses).has(name),
        members: isService ? [] : (addresses.get(name) ?? []),
      },
    ]
  })
}

const read = new WeakMap<Scope, AccessLists>()

/** Every access list of a device; read once. */
export function accessListsOf(device: Scope): AccessLists {
  let lists = read.get(device)
  if (!lists) read.set(device, (lists = readLists(device)))
  return lists
}

function readLists(device: Scope): AccessLists {
  const lists = new Map<string, GrowingList>()
  const groups: Groups = { addresses: addressGroupsOf(device), services: serviceGroupsOf(device) }
  const listFor = (name: string, family: Family): GrowingList => {
    const key = `${family} ${name}`
    let list = lists.get(key)
    if (!list) lists.set(key, (list = { name, family, entries: [], nodes: [], statements: [], remark: null }))
    return list
  }
  for (const statement of device.startingWith('access-list')) {
    const [, name, ...stated] = statement.command.words
    if (statement.negated || name === undefined) continue
    const words = unnumbered(stated)
    const standard = isStandardNumber(name) || (!/^\d+$/.test(name) && !namesProtocol(words))
    readEntry(listFor(name, 'ipv4'), statement, stated, standard, groups)
  }
  for (const word of ['ip', 'ipv6'] as const) {
    for (const statement of device.startingWith(word)) {
      const { words, lowerWords } = statement.command
      if (lowerWords[1] !== 'access-list' || statement.negated) continue
      const family = word === 'ip' ? 'ipv4' : 'ipv6'
      const kind = lowerWords[2] === 'standard' || lowerWords[2] === 'extended' ? lowerWords[2] : null
      const [name, ...stated] = words.slice(kind === null ? 2 : 3)
      if (name === undefined) continue
      const list = listFor(name, family)
      const standard = kind === 'standard' || (kind === null && family === 'ipv4' && isStandardNumber(name))
      // One entry a line, or a block of entries.
      if (stated.length > 0)
        readEntry(
          list,
          statement,
          stated,
          standard || (family === 'ipv6' && !namesProtocol(unnumbered(stated))),
          groups,
        )
      else {
        list.nodes.push(...statement.nodes)
        list.statements.push(statement)
        for (const child of statement.scope?.statements ?? [])
          if (!child.negated) readEntry(list, child, child.command.words, standard, groups)
      }
    }
  }
  return new Map([...lists].sort(([, a], [, b]) => (a.nodes[0]?.line ?? 0) - (b.nodes[0]?.line ?? 0)))
}

interface GrowingList {
  readonly name: string
  readonly family: Family
  readonly entries: AccessEntry[]
  readonly nodes: SourceRange[]
  readonly statements: Statement[]
  /** That of the entry to come. */
  remark: string | null
}

/** `10 permit …`, `seq 10 permit …`: words without the number that an entry has in its line. */
function unnumbered(words: readonly string[]): readonly string[] {
  return words.slice(numberWords(words))
}

function numberWords(words: readonly string[]): number {
  const at = words[0] === 'seq' ? 1 : 0
  return /^\d+$/.test(words[at] ?? '') ? at + 1 : 0
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

/** Adds one entry, or keeps a remark for the next; what is neither is left unread. */
function readEntry(
  list: GrowingList,
  statement: Statement,
  stated: readonly string[],
  standard: boolean,
  groups: Groups,
): void {
  const node = statement.nodes[0]
  const numbered = numberWords(stated)
  const words = stated.slice(numbered)
  const action = words[0]?.toLowerCase()
  if (!node) return
  if (action === 'remark') list.remark = words.slice(1).join(' ')
  else if (action === 'evaluate' || action === 'permit' || action === 'deny') {
    for (const { match, notWeighed, text } of wordsWeighed(
      statement.command,
      action,
      words,
      list.family,
      standard,
      groups,
    )) {
      list.entries.push({
        action: action === 'deny' ? 'deny' : 'permit',
        match,
        notWeighed,
        node,
        text,
        sequence: numbered === 0 ? null : Number(stated[numbered - 1]),
        remark: list.remark,
      })
    }
    list.remark = null
  } else if (!HARMLESS.test(words.join(' '))) {
    // Whatever it does, it may do it to any packet that comes to it; it is listed as unread besides.
    list.entries.push({
      action: 'unknown',
      match: {},
      notWeighed: [words.join(' ')],
      node,
      text: words.join(' '),
      sequence: numbered === 0 ? null : Number(stated[numbered - 1]),
      remark: list.remark,
    })
    return
  }
  if (node.parent === null) list.nodes.push(node)
  list.statements.push(statement)
}

/** Lines of a list that decide nothing. */
const HARMLESS = /^(?:statistics per-entry|exit)?$/

type Weighed = Pick<AccessEntry, 'match' | 'notWeighed' | 'text'>

/**
 * Lines of one estate repeat: what the words of one say is worked out once, unless it rests on groups of the device.
 */
const PLACES = {
  ipv4: findingsPlace(),
  'ipv4 standard': findingsPlace(),
  ipv6: findingsPlace(),
  'ipv6 standard': findingsPlace(),
}

function wordsWeighed(
  command: Command,
  action: 'evaluate' | 'permit' | 'deny',
  words: readonly string[],
  family: Family,
  standard: boolean,
  groups: Groups,
): readonly Weighed[] {
  const place = PLACES[standard ? (`${family} standard` as const) : family]
  const before = command.finding(place) as readonly Weighed[] | undefined
  if (before) return before
  const text = words.join(' ')
  // A reflexive list's contents are not in the configuration: what it permits cannot be weighed.
  if (action === 'evaluate') return [{ match: {}, notWeighed: [text], text }]
  const reader = new EntryReader(
    words.slice(1).map((word) => word.toLowerCase()),
    words.slice(1),
    family,
    groups,
  )
  const match = standard ? reader.standard() : reader.extended()
  // A group of services is as many entries as it has members.
  const weighed = (reader.services ?? [{}]).map((service): Weighed => ({
    match: { ...match, ...service },
    notWeighed: reader.notWeighed,
    text,
  }))
  if (!reader.usedGroups) command.keepFinding(place, weighed)
  return weighed
}

class EntryReader {
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
      return group ? [...group] : this.#cannotWeigh(`${word} ${name}`)
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
          .reduce<Range[]>((left, port) => left.flatMap((range) => without(range, port)), [[0, 65535]])
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

function without([from, to]: Range, port: number): Range[] {
  if (port < from || port > to) return [[from, to]]
  const left: Range[] = []
  if (port > from) left.push([from, port - 1])
  if (port < to) left.push([port + 1, to])
  return left
}

type AddressGroups = ReadonlyMap<string, readonly AddressMatch[]>

interface Groups {
  readonly addresses: AddressGroups
  readonly services: ReadonlyMap<string, readonly EntryMatch[]>
}

const WITH_PORTS: Readonly<Record<string, readonly number[]>> = { tcp: [6], udp: [17], 'tcp-udp': [6, 17], sctp: [132] }

/** `object-group service NAME` with protocols, ports and other groups; one that cannot be weighed is left out. */
function serviceGroupsOf(device: Scope): ReadonlyMap<string, readonly EntryMatch[]> {
  const definitions = new Map(
    device.startingWith('object-group').flatMap((statement): [string, Statement][] => {
      const name = /^object-group service (\S+)/i.exec(statement.text)?.[1]
      return name === undefined || statement.negated ? [] : [[name, statement]]
    }),
  )
  const groups = new Map<string, readonly EntryMatch[]>()
  const expand = (name: string, seen: ReadonlySet<string>): readonly EntryMatch[] | null => {
    const known = groups.get(name)
    const definition = definitions.get(name)
    if (known) return known
    if (!definition || seen.has(name)) return null
    const members: EntryMatch[] = []
    for (const { command, text } of definition.scope?.statements ?? []) {
      const [first = '', second = ''] = command.lowerWords
      if (first === 'description') continue
      const nested =
        first === 'group-object'
          ? expand(command.words[1] ?? '', new Set([...seen, name]))
          : serviceIn(first === 'service-object' ? command.lowerWords.slice(1) : command.lowerWords)
      if (!nested || command.negated || (text !== '' && first === 'group-object' && second === '')) return null
      members.push(...nested)
    }
    groups.set(name, members)
    return members
  }
  for (const name of definitions.keys()) expand(name, new Set())
  return groups
}

/** `tcp eq 80`, `tcp source gt 1023 eq 80`, `icmp`, `ip`; null where it is something else. */
function serviceIn(words: readonly string[]): readonly EntryMatch[] | null {
  const [protocol = '', ...rest] = words
  if (protocol === 'ip' && rest.length === 0) return [{}]
  const numbers =
    WITH_PORTS[protocol] ??
    (PROTOCOLS[protocol] === undefined
      ? /^\d+$/.test(protocol)
        ? [Number(protocol)]
        : null
      : [PROTOCOLS[protocol] ?? 0])
  if (!numbers) return null
  const ports = { sourcePorts: undefined as Range[] | undefined, destinationPorts: undefined as Range[] | undefined }
  let at = 0
  while (at < rest.length) {
    const field = rest[at] === 'source' ? ('sourcePorts' as const) : ('destinationPorts' as const)
    if (rest[at] === 'source' || rest[at] === 'destination') at++
    const [ranges, taken] = portsIn(rest.slice(at), protocol === 'udp' ? 'udp' : 'tcp')
    if (!ranges || WITH_PORTS[protocol] === undefined) return null
    ports[field] = ranges
    at += taken
  }
  return numbers.map((number): EntryMatch => ({
    protocols: [[number, number]],
    ...(ports.sourcePorts ? { sourcePorts: ports.sourcePorts } : {}),
    ...(ports.destinationPorts ? { destinationPorts: ports.destinationPorts } : {}),
  }))
}

/** The ports of `eq 80`, `range 1 9`, `gt 1023`, `lt 9`, or a port alone, and how many words that takes. */
function portsIn(
  [first = '', second = '', third = '']: readonly string[],
  protocol: 'tcp' | 'udp',
): [Range[] | null, number] {
  const number = (word: string): number | null =>
    /^\d+$/.test(word) ? Number(word) : (PORTS[protocol][word] ?? PORTS.tcp[word] ?? PORTS.udp[word] ?? null)
  const [one, two] = [number(second), number(third)]
  if (first === 'eq') return [one === null ? null : [[one, one]], 2]
  if (first === 'range') return [one === null || two === null ? null : [[one, two]], 3]
  if (first === 'gt') return [one === null ? null : [[one + 1, 65535]], 2]
  if (first === 'lt') return [one === null ? null : [[0, one - 1]], 2]
  if (first === 'neq') return [one === null ? null : without([0, 65535], one), 2]
  const alone = number(first)
  return [alone === null ? null : [[alone, alone]], 1]
}

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

import type { Scope, Statement } from '../../../syntax/index.ts'
import type { EntryMatch, Range } from '../../../model/entry-match.ts'
import { addressWords, hostMatch, maskedMatch, prefixMatch, type AddressMatch } from '../../../model/address.ts'
import { PROTOCOLS } from '../../../model/names.ts'
import { portsIn } from './port-words.ts'

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

/** The groups that entries can name; one that was not understood in full is not among them. */
export function groupsOf(device: Scope): Groups {
  return { addresses: addressGroupsOf(device), services: serviceGroupsOf(device) }
}

type AddressGroups = ReadonlyMap<string, readonly AddressMatch[]>

export interface Groups {
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

import { addressesIn, parsePrefix, prefixMatch, type AddressMatch, type Family } from '../../model/index.ts'
import { Diagrams, Headers } from '../../headers/index.ts'
import type { Digested } from '../../estate/index.ts'
import { sameName } from '../../rules/index.ts'
import { Bridged } from './bridged.ts'
import { ClassHeaders, prefixesOf } from '../routing/class-headers.ts'
import { DestinationClasses } from '../routing/classes.ts'
import type { ForwardingDevice } from './device.ts'
import { NO_LINKS, type LinksFile } from './links-file.ts'
import type { InterfaceAddress } from './interfaces.ts'
import { tablesOfNetwork } from '../routing/network-tables.ts'
import { Prefixes } from '../routing/prefixes.ts'
import { NumberedTable } from '../routing/numbered-table.ts'
import type { Route } from '../routing/route.ts'
import { Topology } from './topology.ts'

/** Destinations that are no single host: packets to them are not followed. RFC 5771 and RFC 4291 §2.7; RFC 919. */
export const MANY_HOSTS = ['224.0.0.0/4', '255.255.255.255/32', 'ff00::/8'] as const

/** Destinations that are for this host, this link or nobody: no router hands on what goes to them. */
export const NOT_FORWARDED = [
  '127.0.0.0/8',
  '0.0.0.0/8',
  '169.254.0.0/16',
  '224.0.0.0/24',
  '255.255.255.255/32',
  '::1/128',
  '::/128',
  'fe80::/10',
  'ff01::/16',
  'ff02::/16',
] as const

/**
 * The devices of a snapshot as one network: their tables over one set of destination classes, and the segments that
 * connect their interfaces. Every question about traffic is asked of it.
 */
export class Network {
  readonly headers: ClassHeaders
  /** Headers with addresses, in the same store: what people write and read. */
  readonly addressed: Headers
  readonly topology: Topology
  readonly tables: readonly (readonly NumberedTable[])[]
  readonly prefixes: Prefixes
  readonly classes: DestinationClasses

  private constructor(
    readonly devices: readonly ForwardingDevice[],
    readonly digests: readonly Digested[],
    readonly stated: LinksFile,
    before: Network | null,
  ) {
    this.topology = new Topology(
      devices,
      digests,
      stated.links.map(({ between }) => between),
    )
    this.prefixes = before?.prefixes ?? new Prefixes()
    const all = tablesOfNetwork(devices, this.topology)
    // Tables that did not change are kept.
    const kept = new Map(before?.tables.flat().map((one) => [one.table, one]))
    this.tables = all.map((tables) => tables.map((table) => kept.get(table) ?? new NumberedTable(table, this.prefixes)))
    const earlier = new Set(before?.devices)
    const fresh = devices.filter((device) => !earlier.has(device))
    const conditions = fresh.flatMap((device) => [...conditionsOf(device, this.prefixes)])
    for (const text of [...MANY_HOSTS, ...NOT_FORWARDED]) conditions.push(this.prefixes.addText(text) ?? 0)
    const columns = this.tables.flat().flatMap((one) => (kept.has(one.table) ? [] : [one.columns]))
    if (before) this.classes = before.classes.grown(conditions, columns)
    else {
      this.classes = new DestinationClasses(this.prefixes, conditions)
      for (const one of columns) this.classes.refine(one)
    }
    this.headers = new ClassHeaders(this.classes, new Diagrams())
    this.addressed = new Headers(this.headers.diagrams)
  }

  /**
   * @param digests what links are found by, of the same devices
   * @param stated links that people state
   */
  static of(
    devices: readonly ForwardingDevice[],
    digests: readonly Digested[] = [],
    stated: LinksFile = NO_LINKS,
  ): Network {
    return new Network(devices, digests, stated, null)
  }

  /**
   * The network after some of its devices changed; the others are kept. The old network must not be asked any more.
   * @param devices all of them; those that are the same objects as before have not changed
   */
  changed(
    devices: readonly ForwardingDevice[],
    digests: readonly Digested[] = [],
    stated: LinksFile = NO_LINKS,
  ): Network {
    return new Network(devices, digests, stated, this)
  }

  #special: number | null = null
  #manyHosts: number | null = null

  /**
   * Headers to addresses that no router hands on (RFC 1812 §4.2.2.11 and §5.3.5, RFC 3927 §7, RFC 4291 §2.5, §2.7, RFC
   * 5771 §4): the same for all devices.
   */
  get special(): number {
    return (this.#special ??= this.headers.toAny(NOT_FORWARDED.map(prefixOf)))
  }

  #meetingSpecial: readonly number[] | null = null

  /** The prefixes, beside the one of everywhere, that have addresses which no router hands on. */
  get meetingSpecial(): readonly number[] {
    return (this.#meetingSpecial ??= [
      ...new Set(
        NOT_FORWARDED.flatMap((text) => {
          const special = this.prefixes.addText(text)
          return special === null
            ? []
            : [...this.prefixes.meeting(special)].filter((id) => this.prefixes.lengthOf(id) > 0)
        }),
      ),
    ])
  }

  /** Headers to many hosts at once, whatever the device: multicast, and the broadcast of the link. */
  get manyHosts(): number {
    return (this.#manyHosts ??= this.headers.toAny(MANY_HOSTS.map(prefixOf)))
  }

  #bridged: Bridged | null = null

  /** What frames meet within segments; found out when first asked for. */
  get bridged(): Bridged {
    return (this.#bridged ??= new Bridged(this))
  }

  /** What people attest of the link at an interface. */
  attestationOf(device: string, port: string): LinksFile['links'][number]['protection'] | null {
    const end = `${device}:${port}`
    return (
      this.stated.links.find(
        ({ between, protection }) =>
          protection !== undefined &&
          between.some(
            (one) => one === end || (one.startsWith(`${device}:`) && sameName(one.slice(device.length + 1), port)),
          ),
      )?.protection ?? null
    )
  }

  /** Whether people say that an interface leads outside; null where they say of no interface that it does. */
  leadsOutside(device: number, port: number): boolean | null {
    const owner = this.devices[device]
    if (this.stated.outside.length === 0 || !owner) return null
    const name = owner.interfaces[port]?.name ?? ''
    return this.stated.outside.some(
      (end) => end.startsWith(`${owner.name}:`) && sameName(end.slice(owner.name.length + 1), name),
    )
  }

  /** A device that a neighbour table names at an interface and that is not among these; null where it names none. */
  absentNeighbour(device: number, port: number): string | null {
    const owner = this.devices[device]
    const name = owner?.interfaces[port]?.name ?? ''
    const physical = name.split('.')[0] ?? name
    const link = this.topology.links.find(
      ({ a, b }) =>
        !b.inEstate &&
        a.device === owner?.name &&
        a.port !== null &&
        (sameName(a.port, name) || sameName(a.port, physical)),
    )
    return link?.b.device ?? null
  }

  indexOf(name: string): number {
    return this.devices.findIndex((device) => device.name === name)
  }

  tablesOf(device: number): readonly NumberedTable[] {
    return this.tables[device] ?? []
  }

  tableOf(device: number, name: string | null, family: Family): NumberedTable | undefined {
    return this.tablesOf(device).find(({ table }) => table.name === name && table.family === family)
  }

  /** Addresses that headers of a set go to, one of each class; of so many classes at most. */
  destinationsIn(set: number, most: number): (readonly number[])[] {
    return [...this.headers.parts(set).values()]
      .flat()
      .slice(0, most)
      .flatMap((one) => [this.classes.addressOf(one) ?? []])
      .filter((words) => words.length > 0)
  }

  /** The route of a table for an address: the longest match (RFC 4632 §5.1). */
  routeFor({ routes }: NumberedTable, words: readonly number[]): Route | null {
    for (let length = words.length * 32; length >= 0; length--) {
      const id = this.prefixes.find(words, length)
      const route = id === undefined ? undefined : routes.get(id)
      if (route) return route
    }
    return null
  }
}

/** Every prefix of destinations that something of a device beside its tables looks at. */
function* conditionsOf(
  { interfaces: ports, device: { modelled, reading } }: ForwardingDevice,
  prefixes: Prefixes,
): Generator<number> {
  for (const { addresses, shared } of ports) {
    for (const { words, length } of addresses) {
      yield prefixes.add(words, words.length * 32)
      yield prefixes.add(words, length)
      if (words.length === 1 && length < 31) yield prefixes.add(broadcastOf({ words, length }), 32)
    }
    for (const { words } of shared) yield prefixes.add(words, words.length * 32)
  }
  const model = modelled?.model
  for (const { members } of model?.addressGroups ?? []) for (const text of members) yield* numberOf(text, prefixes)
  // Addresses that did not answer, by the captured neighbour table.
  for (const { address, state } of reading.state.addresses)
    if (state === 'failed' || state === 'incomplete') yield* numberOf(address, prefixes)
  const matches = [
    ...(model?.accessLists ?? []).flatMap(({ entries }) => entries),
    ...(model?.nat ?? []).flatMap(({ match }) => match ?? []),
  ]
  const selectors = new Set((model?.ipsecPeers ?? []).flatMap(({ selector }) => selector ?? []))
  const mirrored = (model?.accessLists ?? []).flatMap(({ name, entries }) =>
    selectors.has(name) ? entries.map(({ sources }) => ({ destinations: sources })) : [],
  )
  for (const { destinations } of [...matches, ...mirrored]) {
    for (const text of destinations) {
      const match = addressesIn(text)
      if (!match) continue
      try {
        for (const { words, length } of prefixesOf(match)) yield prefixes.add(words, length)
      } catch (error) {
        // Too many to tell apart: the lines that ask for them are not weighed (see `ListSets`).
        if (!(error instanceof RangeError)) throw error
      }
    }
  }
  for (const { source, destination } of reading.state.policyRules)
    for (const text of [source, destination]) yield* numberOf(text, prefixes)
  for (const { address, match, destinations } of model?.nat ?? [])
    for (const text of [...(address ?? '').split('-'), ...(match?.sources ?? []), ...destinations])
      yield* numberOf(text, prefixes)
}

function prefixOf(text: string): AddressMatch {
  return parsePrefix(text) ?? { value: [], care: [] }
}

function* numberOf(text: string | null, prefixes: Prefixes): Generator<number> {
  const id = text === null ? null : prefixes.addText(text)
  if (id !== null) yield id
}

/** The last address of a subnet of IPv4 (RFC 919). */
export function broadcastOf({ words, length }: Pick<InterfaceAddress, 'words' | 'length'>): number[] {
  const mask = prefixMatch([0xffffffff], length).value[0] ?? 0
  return [((words[0] ?? 0) | ~mask) >>> 0]
}

import type { Place, PlaceOrigin } from './place.ts'
import { addressText, hostMatch, parsePrefix, prefixMatch, type AddressMatch } from '../../model/index.ts'
import { ALL, NOTHING } from '../../headers/index.ts'
import { CoreError } from '../../syntax/index.ts'
import { ownersOf } from '../engine/neighbours.ts'
import { broadcastOf, type Network } from '../network/network.ts'
import { classed } from './reach.ts'
import { interfaceNamed, type DeviceInterface, type InterfaceAddress } from '../network/interfaces.ts'

/** A text that names no place of a network. */
export class PlaceError extends CoreError {
  constructor(message: string) {
    super('question', message)
  }
}

export const PLACE_FORMS =
  'a device (ops-fw1), a port of one (ops-fw1:ge-0/0/0.0), a prefix (10.40.8.0/24), site:NAME, ' +
  'zone:NAME, label:NAME=VALUE, or outside'

/** @throws PlaceError where a text names none */
export function placeOf(network: Network, text: string): Place {
  if (text === 'outside')
    return {
      text,
      origins: outsideInterfaces(network).map(([device, port]) => ({ device, port, sources: ALL })),
      destinations: null,
    }
  const [, kind = '', name = ''] = /^(site|zone|label):(.+)$/.exec(text) ?? []
  if (kind !== '') return groupPlace(network, text, kind, name)
  const prefix = parsePrefix(text)
  if (prefix) return prefixPlace(network, text, prefix)
  return devicePlace(network, text)
}

/**
 * The hosts of each subnet, and the world outside where there is one: where the traffic of an estate begins and ends.
 * Addresses of devices are no hosts.
 */
export function hostPlaces(network: Network): Place[] {
  const { addressed } = network
  const bySubnet = new Map<string, { match: AddressMatch; origins: { device: number; port: number }[] }>()
  network.devices.forEach(({ interfaces: ports }, device) => {
    ports.forEach((port, at) => {
      if (port.kind === 'loopback') return
      for (const address of port.addresses.filter(hasHosts)) {
        const match = subnet(address)
        const text = addressText(match)
        const held = bySubnet.get(text)
        if (!held) bySubnet.set(text, { match, origins: [{ device, port: at }] })
        else if (!held.origins.some((one) => one.device === device && one.port === at))
          held.origins.push({ device, port: at })
      }
    })
  })
  const { diagrams } = addressed
  const [notFrom, notTo] = [
    ownAddresses(network, 'source'),
    diagrams.or(ownAddresses(network, 'destination'), broadcasts(network, 'destination')),
  ]
  const places = [...bySubnet].map(([text, { match, origins }]): Place => {
    const sources = diagrams.minus(addressed.address('source', match), notFrom)
    return {
      text,
      origins: origins.map((one) => ({ ...one, sources })),
      destinations: diagrams.minus(addressed.address('destination', match), notTo),
    }
  })
  return outsideInterfaces(network).length > 0 ? [...places, placeOf(network, 'outside')] : places
}

/**
 * What of some headers the hosts of a place send by way of its interfaces: what they send to each other goes past them.
 */
export function sentFrom(
  network: Network,
  { origins, destinations }: Place,
  wanted: number,
): { device: number; port: number; sources: number; addressed: number; set: number }[] {
  const { diagrams } = network.addressed
  const away = destinations === null ? wanted : diagrams.minus(wanted, destinations)
  return origins.map(({ device, port, sources }) => {
    const addressed = diagrams.and(away, sources)
    return { device, port, sources, addressed, set: classed(network, addressed) }
  })
}

function devicePlace(network: Network, text: string): Place {
  // Names of interfaces hold colons too: the longest name of a device that fits is meant.
  const device = network.devices.findIndex(({ name }) => text === name || text.startsWith(`${name}:`))
  const owner = network.devices[device]
  if (!owner) throw new PlaceError(`"${text}" is not a place in this network (expected ${PLACE_FORMS})`)
  if (text === owner.name) {
    const own = owner.interfaces.flatMap(({ addresses }) => addresses)
    return {
      text,
      origins: [{ device, port: -1, sources: addressesOf(network, 'source', own.map(host)) }],
      destinations: addressesOf(network, 'destination', own.map(host)),
    }
  }
  const named = interfaceNamed(owner.interfaces, text.slice(owner.name.length + 1))
  if (!named)
    throw new PlaceError(
      `${owner.name} has no port "${text.slice(owner.name.length + 1)}" with addresses (it has ${owner.interfaces
        .filter(({ addresses }) => addresses.length > 0)
        .map(({ name }) => name)
        .join(', ')})`,
    )
  return {
    text,
    origins: [{ device, port: owner.interfaces.indexOf(named), sources: ALL }],
    destinations: addressesOf(network, 'destination', named.addresses.map(subnet)),
  }
}

function groupPlace(network: Network, text: string, kind: string, name: string): Place {
  const [label = '', value = ''] = name.split('=')
  const chosen = network.devices.flatMap(({ interfaces: ports, device: { site, labels } }, device) => {
    if (kind === 'site') return site === name ? ports.map((port, at) => ({ device, at, port })) : []
    if (kind === 'label')
      return String(labels?.[label] ?? '') === value && value !== ''
        ? ports.map((port, at) => ({ device, at, port }))
        : []
    return ports.flatMap((port, at) => (zoneOf(network, device, port) === name ? [{ device, at, port }] : []))
  })
  if (chosen.length === 0)
    throw new PlaceError(
      `nothing in this network ${kind === 'label' ? `has the label ${name}` : `is in the ${kind} ${name}`}`,
    )
  // Hosts are where there is room for more than two ends of a link.
  const hosts = chosen.filter(({ port }) => port.addresses.some(hasHosts))
  return {
    text,
    origins: hosts.map(({ device, at, port }) => ({
      device,
      port: at,
      sources: addressesOf(network, 'source', port.addresses.filter(hasHosts).map(subnet)),
    })),
    destinations: network.addressed.diagrams.minus(
      addressesOf(
        network,
        'destination',
        hosts.flatMap(({ port }) => port.addresses.filter(hasHosts).map(subnet)),
      ),
      broadcasts(network, 'destination'),
    ),
  }
}

function zoneOf(network: Network, device: number, port: DeviceInterface): string | null {
  const zones = network.devices[device]?.device.modelled?.model.zones ?? []
  return port.zone ?? zones.find(({ interfaces }) => interfaces.includes(port.name))?.name ?? null
}

/**
 * Hosts of a prefix come in where a subnet that holds them, or that they hold, is attached; those of none come from
 * outside.
 */
function prefixPlace(network: Network, text: string, prefix: AddressMatch & { family: 'ipv4' | 'ipv6' }): Place {
  const { addressed } = network
  const { diagrams } = addressed
  const wanted = addressed.address('source', prefix)
  const origins = network.devices.flatMap(({ interfaces: ports }, device) =>
    ports.flatMap((port, at): PlaceOrigin[] => {
      if (port.kind === 'loopback') return []
      const sources = diagrams.and(wanted, addressesOf(network, 'source', port.addresses.map(subnet)))
      return sources === NOTHING ? [] : [{ device, port: at, sources }]
    }),
  )
  const beyond = origins.reduce((left, { sources }) => diagrams.minus(left, sources), wanted)
  const outside =
    origins.length > 0 || beyond === NOTHING
      ? []
      : outsideInterfaces(network).map(([device, port]) => ({ device, port, sources: beyond }))
  return {
    text,
    origins: [...origins, ...outside],
    destinations: diagrams.minus(
      addressed.address('destination', prefix),
      prefix.care.every((word) => word === 0xffffffff) ? NOTHING : broadcasts(network, 'destination'),
    ),
  }
}

/** The addresses of the devices themselves, and those that they share. */
export function ownAddresses(network: Network, side: 'source' | 'destination'): number {
  return addressesOf(
    network,
    side,
    network.devices.flatMap(({ interfaces: ports }) =>
      ports.flatMap(({ addresses, shared }) => [...addresses, ...shared].map(host)),
    ),
  )
}

/** First and last addresses of the subnets of IPv4 (RFC 919, RFC 1122 §3.2.1.3): nobody has them. */
export function broadcasts(network: Network, side: 'source' | 'destination'): number {
  const subnets = network.devices.flatMap(({ interfaces: ports }) =>
    ports.flatMap(({ addresses }) => addresses.filter(({ words, length }) => words.length === 1 && length < 31)),
  )
  return addressesOf(
    network,
    side,
    subnets.flatMap((address) => [broadcastOf(address), subnet(address).value].map(hostMatch)),
  )
}

function addressesOf(network: Network, side: 'source' | 'destination', matches: readonly AddressMatch[]): number {
  return network.addressed.any(matches, (match) => network.addressed.address(side, match))
}

function host({ words }: InterfaceAddress): AddressMatch {
  return hostMatch(words)
}

function subnet({ words, length }: InterfaceAddress): AddressMatch {
  return prefixMatch(words, length)
}

function hasHosts({ length, family, text }: InterfaceAddress): boolean {
  return length < (family === 'ipv4' ? 30 : 126) && !/^(?:fe80:|127\.)/i.test(text)
}

/**
 * Ports by which packets leave the estate: routes send them to a gateway there that no device has, and its subnet is no
 * host's.
 */
export function outsideInterfaces(network: Network): [device: number, port: number][] {
  if (network.stated.outside.length > 0)
    return network.devices.flatMap(({ interfaces: ports }, device) =>
      ports.flatMap((_, port): [number, number][] =>
        network.leadsOutside(device, port) === true ? [[device, port]] : [],
      ),
    )
  const found = new Map<string, [number, number]>()
  const asked = new Set<string>()
  network.devices.forEach(({ interfaces: ports }, device) => {
    for (const { table } of network.tablesOf(device)) {
      for (const { hops } of table.routes) {
        for (const hop of hops) {
          if (hop.kind !== 'out' || hop.gateway === null) continue
          const key = `${device} ${hop.port} ${hop.gateway}`
          if (asked.has(key)) continue
          asked.add(key)
          const at = ports.findIndex(({ name }) => name === hop.port)
          if (
            at >= 0 &&
            network.absentNeighbour(device, at) === null &&
            ownersOf(network, hop.gateway, network.topology.others(device, at)).length === 0
          )
            found.set(`${device} ${at}`, [device, at])
        }
      }
    }
  })
  return [...found.values()]
}

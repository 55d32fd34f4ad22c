import { addressesIn, type AddressMatch, type Range } from '../../model/index.ts'
import { PORTS, PROTOCOLS } from '../../model/names.ts'
import { ALL, NOTHING } from '../../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'

/** Addresses, services and groups of them that a device defines by name, as sets of headers. */
export class NamedObjects {
  readonly #applications = new Map<string, number | null>()

  constructor(readonly compiled: CompiledDevice) {}

  /** Packets of addresses by their names or as they stand; null where a name is not defined. */
  addresses(side: 'source' | 'destination', names: readonly string[]): number | null {
    const { headers } = this.compiled.network
    if (names.length === 0 || names.includes('any')) return ALL
    const sets = names.map((name) => {
      const members = this.#members(name)
      return members && headers.any(members, (match) => headers.address(side, match))
    })
    return sets.includes(null) ? null : headers.any(sets, (set) => set ?? NOTHING)
  }

  /** Packets of services by their names; null where one is not defined. */
  services(names: readonly string[]): number | null {
    const { headers } = this.compiled.network
    if (names.length === 0 || names.includes('any')) return ALL
    const sets = names.map((name) => this.service(name))
    return sets.includes(null) ? null : headers.any(sets, (set) => set ?? NOTHING)
  }

  /** The first of some names of addresses that is not defined. */
  undefinedAddress(names: readonly string[]): string {
    return names.find((name) => this.#members(name) === null) ?? ''
  }

  /** The first of some names of services that is not defined. */
  undefinedService(names: readonly string[]): string {
    return names.find((name) => this.service(name) === null) ?? ''
  }

  /** The addresses of a group and of those in it; null where one is not defined. */
  #members(name: string): AddressMatch[] | null {
    const members = new Map<string, AddressMatch>()
    const names = new Set([name])
    for (const one of names) {
      const group = this.compiled.model?.addressGroups.find((known) => known.name === one)
      const itself = group || !this.compiled.device.rules.statesAddresses ? null : addressesIn(one)
      if (itself) members.set(one, itself)
      if (itself) continue
      if (!group) return null
      for (const text of group.members) {
        const match = addressesIn(text)
        if (match) members.set(text, match)
        else names.add(text)
      }
    }
    return [...members.values()]
  }

  /** One that the device defines, else a service that is known by its name. */
  service(name: string): number | null {
    const known = this.#applications.get(name)
    if (known !== undefined) return known
    this.#applications.set(name, null)
    const made = this.#makeApplication(name)
    this.#applications.set(name, made)
    return made
  }

  #makeApplication(name: string): number | null {
    const { headers } = this.compiled.network
    const own = this.compiled.model?.applications.find((one) => one.name === name)
    if (own) {
      if (own.notWeighed.length > 0) return null
      if (own.members.length > 0) {
        const sets = own.members.map((member) => this.service(member))
        return sets.includes(null) ? null : headers.any(sets, (set) => set ?? NOTHING)
      }
      const protocol =
        own.protocol === null ? null : /^\d+$/.test(own.protocol) ? Number(own.protocol) : PROTOCOLS[own.protocol]
      if (protocol === undefined) return null
      const ports = (
        field: 'sourcePort' | 'destinationPort',
        ranges: readonly (readonly [number, number])[],
      ): number =>
        ranges.length === 0
          ? ALL
          : headers.all(
              headers.ported,
              headers.any(ranges, (range: Range) => headers.range(field, range)),
            )
      return headers.all(
        protocol === null ? ALL : headers.value('protocol', protocol),
        ports('sourcePort', own.sourcePorts),
        ports('destinationPort', own.destinationPorts),
        own.icmpTypes.length === 0
          ? ALL
          : headers.all(
              headers.icmp,
              headers.any(own.icmpTypes, (range: Range) => headers.range('icmpType', range)),
            ),
      )
    }
    if (name === 'icmp' || name === 'ping')
      return name === 'icmp'
        ? headers.icmp
        : headers.all(
            headers.icmp,
            headers.any([8, 128], (type) => headers.value('icmpType', type)),
          )
    const [tcp, udp] = [PORTS.tcp[name], PORTS.udp[name]]
    if (tcp === undefined && udp === undefined) return null
    const served = (protocol: number, port: number | undefined): number =>
      port === undefined
        ? NOTHING
        : headers.all(headers.ported, headers.value('protocol', protocol), headers.value('destinationPort', port))
    return headers.diagrams.or(served(6, tcp), served(17, udp))
  }
}

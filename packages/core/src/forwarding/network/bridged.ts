/**
 * What frames meet within a segment: maps of VLANs, and lists on switched ports. By which switched port a host is
 * attached is seldom known, so that what such a list stops is undecided; what the map of a VLAN stops on its way
 * through the device itself is stopped.
 */
import { FAMILIES, type Family } from '../../model/index.ts'
import { ALL, ListSets, NOTHING } from '../../headers/index.ts'
import type { ForwardingDevice } from './device.ts'
import { exhibitsOf, type Exhibit } from './exhibit.ts'
import { isAllowed, ownVlan, type Topology } from './topology.ts'
import type { ClassHeaders } from '../routing/class-headers.ts'

const ANYWHERE = { inInterface: null, outInterface: null, connection: 'new' } as const

/** Something that stops frames of a segment. */
export interface Guard {
  readonly device: number
  readonly name: string
  /** What it may stop, and what it surely does. */
  readonly stopped: number
  readonly sure: boolean
  /** By whom it is met: frames from hosts to a router, or either way. */
  readonly direction: 'in' | 'both'
  readonly exhibits: readonly Exhibit[]
}

/** The guards of every segment, found out once. */
export class Bridged {
  readonly #bySegment = new Map<number, Guard[]>()

  constructor(
    readonly network: {
      readonly devices: readonly ForwardingDevice[]
      readonly topology: Topology
      readonly headers: ClassHeaders
    },
  ) {
    network.devices.forEach((_, device) => this.#ofDevice(device))
  }

  /** What frames meet on their way between an interface and its neighbours. */
  at(device: number, port: number): readonly Guard[] {
    const segment = this.network.topology.numberOf(device, port)
    const vlan = ownVlan(this.network.devices[device]?.interfaces[port] ?? NO_PORT)
    const all = this.#bySegment.get(segment) ?? []
    // The map of the VLAN whose gateway this is stands between the two, whoever is attached where.
    return all.map((guard) => ({ ...guard, sure: guard.sure && guard.device === device && vlan !== null }))
  }

  #add(segment: number, guard: Guard): void {
    if (segment < 0 || guard.stopped === NOTHING) return
    this.#bySegment.set(segment, [...(this.#bySegment.get(segment) ?? []), guard])
  }

  #ofDevice(device: number): void {
    const owner = this.network.devices[device]
    const model = owner?.device.modelled?.model
    if (!owner || !model) return
    const { headers, topology } = this.network
    const lists = new ListSets(headers, model.accessLists)
    model.vlans.forEach(({ id, accessMap }, v) => {
      if (accessMap === null) return
      const { stopped, sure } = this.#mapOf(device, accessMap, lists)
      this.#add(topology.numberOfVlan(device, id), {
        device,
        name: `the access map ${accessMap} of VLAN ${id}`,
        stopped,
        sure,
        direction: 'both',
        exhibits: exhibitsOf(owner, 'model', `vlans[${v}].accessMap`),
      })
    })
    model.interfaces.forEach(
      ({ name, enabled, addresses, filters, switching: { mode, accessVlan, nativeVlan, allowedVlans } }, i) => {
        const isSwitched = mode === 'access' || mode === 'trunk' || (accessVlan !== null && !name.includes('.'))
        if (!isSwitched || addresses.length > 0 || enabled === false) return
        const stopped = headers.any(FAMILIES, (family) =>
          this.#listStops(lists, family === 'ipv4' ? filters.in4 : filters.in6, family),
        )
        if (stopped === NOTHING) return
        const vlans =
          mode === 'trunk'
            ? model.vlans.map(({ id }) => id).filter((id) => id === nativeVlan || isAllowed(id, allowedVlans))
            : [accessVlan ?? 1]
        for (const vlan of vlans)
          this.#add(topology.numberOfVlan(device, vlan), {
            device,
            name: `the list on ${name}`,
            stopped,
            sure: false,
            direction: mode === 'trunk' ? 'both' : 'in',
            exhibits: exhibitsOf(owner, 'model', `interfaces[${i}].filters`),
          })
      },
    )
  }

  #listStops(lists: ListSets, name: string | null, family: Family): number {
    const list = name === null ? null : lists.list(name, family)
    return list ? lists.decide(list, ALL, ANYWHERE).denied : NOTHING
  }

  /**
   * The first entry with a list that permits a packet decides it; of a kind that some entry asks about, the rest is
   * dropped (common practice).
   */
  #mapOf(device: number, name: string, lists: ListSets): { readonly stopped: number; readonly sure: boolean } {
    const { headers } = this.network
    const { diagrams } = headers
    const map = this.network.devices[device]?.device.modelled?.model.accessMaps.find((one) => one.name === name)
    // A map that is not defined permits everything.
    if (!map) return { stopped: NOTHING, sure: true }
    let stopped = NOTHING
    let sure = true
    for (const family of FAMILIES) {
      let left = headers.family(family)
      let asked = false
      for (const entry of [...map.entries].sort((a, b) => (a.sequence ?? 0) - (b.sequence ?? 0))) {
        const names = family === 'ipv4' ? entry.lists4 : entry.lists6
        const everything = entry.lists4.length === 0 && entry.lists6.length === 0 && entry.notWeighed.length === 0
        if (names.length > 0) asked = true
        const found = names.map((one) => lists.list(one, family))
        const met = diagrams.and(
          left,
          everything
            ? ALL
            : headers.any(
                found.flatMap((one) => one ?? []),
                (one) => lists.decide(one, ALL, ANYWHERE).permitted,
              ),
        )
        if (entry.notWeighed.length > 0 || found.includes(null) || entry.action === 'unknown') sure = false
        if (entry.action !== 'forward') stopped = diagrams.or(stopped, met)
        left = diagrams.minus(left, met)
      }
      if (asked) stopped = diagrams.or(stopped, left)
    }
    return { stopped, sure }
  }
}

const NO_PORT = { name: '', kind: null } as Parameters<typeof ownVlan>[0]

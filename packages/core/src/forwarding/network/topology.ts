import { subnetOf } from '../../model/index.ts'
import { linksOf, type Digested, type Link } from '../../estate/index.ts'
import type { ForwardingDevice } from './device.ts'
import { interfaceNamed, type DeviceInterface, type InterfaceAddress } from './interfaces.ts'
import { tailOf } from '../../syntax/index.ts'

/** An interface of a device: both by their places in the network. */
export interface Attachment {
  readonly device: number
  readonly port: number
}

/** Interfaces that are connected without a router between them. */
export interface Segment {
  readonly members: readonly Attachment[]
}

/**
 * The segments between interfaces of the network layer: by links and VLANs where they are known, else by shared
 * subnets.
 */
export class Topology {
  readonly segments: readonly Segment[]
  readonly links: readonly Link[]
  /** By device and VLAN: the number of the segment that the VLAN of the device is part of. */
  readonly #ofVlans = new Map<string, number>()
  /** By device and interface: the number of the segment. */
  readonly #segmentOf: readonly (readonly number[])[]

  constructor(
    readonly devices: readonly ForwardingDevice[],
    digests: readonly Digested[],
    /** Links that people state, as `DEVICE:PORT` of both ends. */
    stated: readonly (readonly [string, string])[] = [],
  ) {
    this.links = linksOf(digests)
    const joined = new Joined()
    joinLinks(
      devices,
      [
        ...this.links.flatMap(({ a, b }) =>
          a.inEstate && b.inEstate && a.port !== null && b.port !== null
            ? [[a.device, a.port, b.device, b.port] as const]
            : [],
        ),
        ...stated.map(([a, b]) => [...endOf(devices, a), ...endOf(devices, b)] as const),
      ],
      joined,
    )
    joinSubnets(devices, joined)
    const numbers = new Map<string, number>()
    const members: Attachment[][] = []
    this.#segmentOf = devices.map(({ interfaces: ports }, device) =>
      ports.map((port, p) => {
        // Interfaces without addresses are on the segment, and receive no packets.
        if (port.addresses.length === 0 && port.shared.length === 0) return -1
        const root = joined.find(attachmentKey(devices, device, port))
        let number = numbers.get(root)
        if (number === undefined) numbers.set(root, (number = members.push([]) - 1))
        members[number]?.push({ device, port: p })
        return number
      }),
    )
    this.segments = members.map((all) => ({ members: all }))
    devices.forEach(({ name, device: { modelled } }, device) => {
      const model = modelled?.model
      for (const vlan of new Set([
        ...(model?.vlans ?? []).map(({ id }) => id),
        ...(model?.interfaces ?? []).flatMap(({ switching: { accessVlan } }) => accessVlan ?? []),
      ])) {
        const number = numbers.get(joined.find(bridge(name, vlan)))
        if (number !== undefined) this.#ofVlans.set(`${device} ${vlan}`, number)
      }
    })
  }

  segmentOf(device: number, port: number): Segment {
    return this.segments[this.#segmentOf[device]?.[port] ?? -1] ?? { members: [] }
  }

  /** The number of the segment that an interface, or a VLAN of a device, is part of; -1: of none with an address. */
  numberOf(device: number, port: number): number {
    return this.#segmentOf[device]?.[port] ?? -1
  }

  numberOfVlan(device: number, vlan: number): number {
    return this.#ofVlans.get(`${device} ${vlan}`) ?? -1
  }

  /** The interfaces of other devices on the same segment. */
  others(device: number, port: number): Attachment[] {
    return this.segmentOf(device, port).members.filter((member) => member.device !== device || member.port !== port)
  }

  port({ device, port }: Attachment): DeviceInterface | undefined {
    return this.devices[device]?.interfaces[port]
  }
}

/** Sets of names that have been found to be one. */
class Joined {
  readonly #parents = new Map<string, string>()
  readonly #marked = new Set<string>()

  /** Marks what a name stands for; what is joined to it is marked as well. */
  mark(key: string): void {
    this.#marked.add(this.find(key))
  }

  isMarked(key: string): boolean {
    return this.#marked.has(this.find(key))
  }

  find(key: string): string {
    let at = key
    for (let parent = this.#parents.get(at); parent !== undefined; parent = this.#parents.get(at)) at = parent
    if (at !== key) this.#parents.set(key, at)
    return at
  }

  join(a: string, b: string): void {
    const [x, y] = [this.find(a), this.find(b)]
    if (x === y) return
    this.#parents.set(x, y)
    if (this.#marked.has(x)) this.#marked.add(y)
  }
}

const cable = (device: string, port: string, vlan: number | null): string =>
  `${device} port ${port} ${vlan ?? 'untagged'}`
const bridge = (device: string, vlan: number): string => `${device} vlan ${vlan}`

/** The VLAN that an interface of the network layer is in, by its name: `Vlan10`, `irb.10`. */
export function ownVlan({ name, kind }: DeviceInterface): number | null {
  const number = kind === 'vlan' ? tailOf(name, /\d/) || undefined : undefined
  return number === undefined ? null : Number(number)
}

/** What an interface is attached to: a VLAN of its device, or the cable of its interface, tagged or not. */
function attachmentKey(devices: readonly ForwardingDevice[], device: number, port: DeviceInterface): string {
  const owner = devices[device]
  const name = owner?.name ?? ''
  const vlan = ownVlan(port)
  if (vlan !== null) return bridge(name, vlan)
  const [physical = port.name, unit] = port.name.split('.')
  const tag = owner?.device.modelled?.model.interfaces[port.at]?.switching.accessVlan ?? null
  // Unit 0 of an interface is the interface itself.
  return cable(
    name,
    interfaceNamed(owner?.interfaces ?? [], physical)?.name ?? physical,
    unit === undefined || unit === '0' ? null : tag,
  )
}

/** VLANs through switches and along links; what a known link leads away from is marked. */
function joinLinks(
  devices: readonly ForwardingDevice[],
  links: readonly (readonly [deviceA: string, portA: string, deviceB: string, portB: string])[],
  joined: Joined,
): void {
  /** Tags that are used on an interface. */
  const tags = new Map<string, Set<number>>()
  const aggregates = new Map<string, string>()
  for (const {
    name: device,
    device: { modelled },
  } of devices) {
    const model = modelled?.model
    const defined = new Set([
      ...(model?.vlans ?? []).map(({ id }) => id),
      ...(model?.interfaces ?? []).flatMap(({ switching: { accessVlan } }) => accessVlan ?? []),
    ])
    for (const {
      name,
      aggregate,
      switching: { mode, accessVlan, nativeVlan, allowedVlans },
    } of model?.interfaces ?? []) {
      if (aggregate !== null)
        aggregates.set(
          `${device} ${name}`,
          model?.interfaces.find(
            (other) =>
              other.name === aggregate || (tailOf(other.name, /\d/) === aggregate && other.kind === 'aggregate'),
          )?.name ?? aggregate,
        )
      const [physical = name, unit] = name.split('.')
      if (unit !== undefined && unit !== '0' && accessVlan !== null)
        tagsOf(tags, `${device} ${physical}`).add(accessVlan)
      else if (mode === 'trunk') {
        joined.join(cable(device, name, null), bridge(device, nativeVlan ?? 1))
        for (const vlan of defined) {
          if (vlan === nativeVlan || !isAllowed(vlan, allowedVlans)) continue
          joined.join(cable(device, name, vlan), bridge(device, vlan))
          tagsOf(tags, `${device} ${name}`).add(vlan)
        }
      } else if (mode === 'access' || (mode === null && accessVlan !== null && unit === undefined))
        joined.join(cable(device, name, null), bridge(device, accessVlan ?? 1))
    }
  }
  for (const [deviceA, portA, deviceB, portB] of links) {
    const whole = (device: string, port: string): readonly [string, string] => [
      device,
      (aggregates.get(`${device} ${port}`) ?? port).replace(/\.0$/, ''),
    ]
    const [x, y] = [whole(deviceA, portA), whole(deviceB, portB)]
    joined.join(cable(...x, null), cable(...y, null))
    joined.mark(cable(...x, null))
    for (const tag of new Set([...(tags.get(x.join(' ')) ?? []), ...(tags.get(y.join(' ')) ?? [])]))
      joined.join(cable(...x, tag), cable(...y, tag))
  }
}

function endOf(devices: readonly ForwardingDevice[], text: string): readonly [device: string, port: string] {
  const at = text.indexOf(':')
  const [device, port] = [text.slice(0, at), text.slice(at + 1)]
  const interfaces = devices.find(({ name }) => name === device)?.device.modelled?.model.interfaces ?? []
  return [device, interfaceNamed(interfaces, port)?.name ?? port]
}

function tagsOf(tags: Map<string, Set<number>>, key: string): Set<number> {
  let held = tags.get(key)
  if (!held) tags.set(key, (held = new Set()))
  return held
}

export function isAllowed(vlan: number, allowed: string | null): boolean {
  if (allowed === null || /^all$/i.test(allowed)) return true
  return allowed.split(',').some((part) => {
    const [from = '', to = from] = part.trim().split('-')
    return vlan >= Number(from) && vlan <= Number(to)
  })
}

/**
 * Interfaces with addresses of one subnet, unless links say that they are apart. Tunnels are joined by their ends
 * instead.
 */
function joinSubnets(devices: readonly ForwardingDevice[], joined: Joined): void {
  const bySubnet = new Map<string, { key: string; address: InterfaceAddress }[]>()
  devices.forEach(({ interfaces: ports }, device) => {
    for (const port of ports) {
      if (port.kind === 'loopback' || port.kind === 'tunnel') continue
      const key = attachmentKey(devices, device, port)
      for (const address of port.addresses) {
        const { length, family, text } = address
        if (length >= (family === 'ipv4' ? 32 : 128) || /^fe80:/i.test(text)) continue
        const subnet = subnetOf(text, length, family)
        if (subnet === null) continue
        const held = bySubnet.get(subnet)
        if (held) held.push({ key, address })
        else bySubnet.set(subnet, [{ key, address }])
      }
    }
  })
  for (const all of bySubnet.values()) {
    const first = all[0]
    for (const one of all.slice(1)) {
      if (!first) continue
      // Both have links, and those do not meet: the same numbers in two places.
      if (joined.find(first.key) !== joined.find(one.key) && joined.isMarked(first.key) && joined.isMarked(one.key))
        continue
      if (first.address.text !== one.address.text) joined.join(first.key, one.key)
    }
  }
}

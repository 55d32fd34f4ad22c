import { canonicalAddress, subnetOf } from '../model/index.ts'
import { sameName } from '../rules/index.ts'
import type { DeviceDigest, DigestInterface, SourceLocation } from './digest.ts'

/** A device of an estate with what was read of it. */
export interface Digested {
  readonly name: string
  readonly digest: DeviceDigest
  /** Facts that people state, as far as they tell who it is. */
  readonly managementAddress?: string | undefined
}

export interface LinkEnd {
  /** Name of the device; as the neighbour used it where it is none of the estate. */
  readonly device: string
  readonly inEstate: boolean
  readonly port: string | null
  /** The line in which this end names the other; null where none does. */
  readonly at: SourceLocation | null
  readonly oper: 'up' | 'down' | null
}

/**
 * `agreed`: both ends name each other; `one-sided`: one end names the other, whose table was captured and does not;
 * `untold`: the
 * other end's table was not captured, or it is no device of the estate; `disagreeing`: the ends name different ports or
 * devices;
 * `subnet`: no table names it, two ports share the subnet of a link between two.
 */
export type LinkStanding = 'agreed' | 'one-sided' | 'untold' | 'disagreeing' | 'subnet'

export interface Link {
  readonly a: LinkEnd
  readonly b: LinkEnd
  readonly standing: LinkStanding
  /** In words, where there is something to say. */
  readonly note: string
}

/** Names by which neighbours know a device: its own, its host name, without its domain, and its addresses. */
export function namesOfDevices(
  devices: readonly Digested[],
): (system: string, address: string | null) => string | null {
  const byName = new Map<string, string>()
  const byAddress = new Map<string, string | null>()
  for (const { name, digest, managementAddress } of devices) {
    for (const alias of [name, digest.hostname, digest.hostname?.split('.')[0]])
      if (alias && !byName.has(alias.toLowerCase())) byName.set(alias.toLowerCase(), name)
    for (const { address } of [
      ...digest.interfaces.flatMap(({ addresses }) => addresses),
      ...(managementAddress ? [{ address: managementAddress }] : []),
    ]) {
      const key = canonicalAddress(address)
      // An address that two devices have identifies neither.
      byAddress.set(key, byAddress.has(key) && byAddress.get(key) !== name ? null : name)
    }
  }
  return (system, address) =>
    byName.get(system.toLowerCase()) ??
    byName.get((system.split('.')[0] ?? '').toLowerCase()) ??
    (address === null ? null : (byAddress.get(canonicalAddress(address)) ?? null))
}

/** What one end of a link says of the other. */
interface Sighting {
  readonly device: string
  readonly port: string
  readonly far: string
  readonly farInEstate: boolean
  readonly farPort: string | null
  readonly at: SourceLocation | null
}

/**
 * The links of an estate: those that neighbour tables tell of, both ends checked against each other, then those that
 * only shared subnets tell of.
 */
export function linksOf(devices: readonly Digested[]): Link[] {
  const nameOf = namesOfDevices(devices)
  const byName = new Map(devices.map((device) => [device.name, device]))
  const sightings = devices.flatMap(({ name, digest }) =>
    digest.neighbours.map(({ interface: port, system, port: farPort, managementAddress, at }): Sighting => {
      const far = nameOf(system, managementAddress)
      return {
        device: name,
        port: wholeName(digest, port),
        far: far ?? system,
        farInEstate: far !== null,
        farPort: farPort === null ? null : wholeName(far === null ? null : byName.get(far)?.digest, farPort),
        at,
      }
    }),
  )
  const byDevice = new Map<string, Sighting[]>()
  for (const sighting of sightings) byDevice.set(sighting.device, [...(byDevice.get(sighting.device) ?? []), sighting])
  const used = new Set<Sighting>()
  const links: Link[] = []
  const end = (device: string, inEstate: boolean, port: string | null, at: SourceLocation | null): LinkEnd => ({
    device,
    inEstate,
    port,
    at,
    oper: operOf(byName.get(device)?.digest, port),
  })
  // Links that both ends state come first: a third device that names one of their interfaces does not change them.
  for (const sighting of sightings) {
    const { device, port, far, farPort, at } = sighting
    if (used.has(sighting)) continue
    const agreed = (byDevice.get(far) ?? []).find(
      (other) =>
        other !== sighting &&
        !used.has(other) &&
        other.far === device &&
        samePort(other.farPort, port) &&
        samePort(farPort, other.port),
    )
    if (!agreed) continue
    used.add(sighting).add(agreed)
    links.push({
      a: end(device, true, port, at),
      b: end(far, true, agreed.port, agreed.at),
      standing: 'agreed',
      note: '',
    })
  }
  for (const sighting of sightings) {
    if (used.has(sighting)) continue
    used.add(sighting)
    const { device, port, far, farInEstate, farPort } = sighting
    const a = end(device, true, port, sighting.at)
    const back = (byDevice.get(far) ?? []).filter((other) => !used.has(other))
    // The other end speaks of the same port, or of this one: not in the same words.
    const odd =
      back.find((other) => farPort !== null && samePort(other.port, farPort)) ??
      back.find((other) => other.far === device && samePort(other.farPort, port))
    if (odd) {
      used.add(odd)
      links.push({
        a,
        b: end(far, true, odd.port, odd.at),
        standing: 'disagreeing',
        note:
          `${device} sees ${far} ${farPort ?? ''} at ${port}; ${far} sees ${odd.far} ${odd.farPort ?? ''} at ` +
          `${odd.port}`,
      })
      continue
    }
    const captured = byName.get(far)?.digest.sawNeighbours === true
    links.push({
      a,
      b: end(far, farInEstate, farPort, null),
      standing: captured ? 'one-sided' : 'untold',
      note: !farInEstate
        ? `${far} is not in the inventory`
        : captured
          ? `${far} does not see ${device}`
          : `the neighbour table of ${far} was not captured`,
    })
  }
  return [...links, ...bySubnets(devices, links, end)]
}

/**
 * Links between two ports that share a subnet of two, where no table tells of a link between their devices at one of
 * them.
 */
function bySubnets(
  devices: readonly Digested[],
  known: readonly Link[],
  end: (device: string, inEstate: boolean, port: string | null, at: SourceLocation | null) => LinkEnd,
): Link[] {
  const taken = new Set(known.flatMap(({ a, b }) => [`${a.device} ${a.port ?? ''}`, `${b.device} ${b.port ?? ''}`]))
  const bySubnet = new Map<string, { device: string; port: DigestInterface }[]>()
  for (const { name, digest } of devices) {
    for (const port of digest.interfaces) {
      if (port.enabled === false) continue
      for (const { address, prefixLength, family } of port.addresses) {
        const most = family === 'ipv4' ? 32 : 128
        if (prefixLength < most - 2 || prefixLength >= most) continue
        const subnet = subnetOf(address, prefixLength, family)
        if (subnet === null) continue
        const key = `${port.vrf ?? ''} ${subnet}`
        bySubnet.set(key, [...(bySubnet.get(key) ?? []), { device: name, port }])
      }
    }
  }
  const links = [...bySubnet].flatMap(([key, [a, b, ...more]]): Link[] => {
    if (!a || !b || more.length > 0 || a.device === b.device) return []
    if (taken.has(`${a.device} ${a.port.name}`) || taken.has(`${b.device} ${b.port.name}`)) return []
    return [
      {
        a: end(a.device, true, a.port.name, a.port.at),
        b: end(b.device, true, b.port.name, b.port.at),
        standing: 'subnet',
        note: `both interfaces are in ${key.trim()}; not in any neighbour table`,
      },
    ]
  })
  // The same two ports may share a subnet of each family.
  return [
    ...new Map(
      links.map((link) => [
        [`${link.a.device} ${link.a.port}`, `${link.b.device} ${link.b.port}`].sort().join(' '),
        link,
      ]),
    ).values(),
  ]
}

/** The name of a port as the configuration of its device writes it. */
function wholeName(digest: DeviceDigest | null | undefined, port: string): string {
  return digest?.interfaces.find(({ name }) => sameName(port, name))?.name ?? port
}

function samePort(a: string | null, b: string | null): boolean {
  return a !== null && b !== null && (a === b || sameName(a, b))
}

function operOf(digest: DeviceDigest | undefined, port: string | null): 'up' | 'down' | null {
  const found = port === null ? undefined : digest?.interfaces.find(({ name }) => name === port)
  return found?.enabled === false ? 'down' : (found?.oper ?? null)
}

import { subnetOf } from '../model/index.ts'
import type { JudgedDevice } from './inquiry.ts'

/** One end of a link: an interface with what its other end has to agree with. Plain data. */
export interface LinkEnd {
  readonly interface: string
  /** Path of the interface in the model. */
  readonly path: string
  readonly neighbour: { readonly system: string; readonly port: string | null } | null
  /** The subnet of a link between two (/30, /31, /127 or /126). */
  readonly subnet: string | null
  readonly mtu: number | null
  readonly speed: string | null
  readonly duplex: string | null
  readonly mode: string | null
  readonly accessVlan: number | null
  readonly nativeVlan: number | null
  readonly allowedVlans: string | null
  readonly area: string | null
  readonly helloSeconds: number | null
  readonly deadSeconds: number | null
  readonly authentication: string | null
  readonly protection: string | null
}

/** The enabled interfaces of a device, with who was seen there. */
export function linkEndsOf(device: JudgedDevice): LinkEnd[] {
  const { interfaces } = device.modelled().model
  const { neighbours } = device.stated().state
  return interfaces.flatMap((one, i): LinkEnd[] => {
    const seen = neighbours.find((neighbour) => sameName(neighbour.interface, one.name))
    const subnet = one.addresses.map(({ address, prefixLength, family }) => (prefixLength >= (family === 'ipv4' ? 30 : 126) && prefixLength < (family === 'ipv4' ? 32 : 128) ? subnetOf(address, prefixLength, family) : null)).find((found) => found !== null) ?? null
    if (one.enabled === false) return []
    const { mode, accessVlan, nativeVlan, allowedVlans } = one.switching
    const { area, helloSeconds, deadSeconds, authentication } = one.ospf
    return [{
      interface: one.name, path: `interfaces[${i}]`, neighbour: seen ? { system: seen.system.split('.')[0] ?? seen.system, port: seen.port } : null, subnet,
      mtu: one.mtu, speed: one.speed, duplex: one.duplex, mode, accessVlan, nativeVlan, allowedVlans, area, helloSeconds, deadSeconds, authentication,
      protection: one.encryption ?? one.tunnel.protection,
    }]
  })
}

/** Ports are listed by their whole names and by short ones: `GigabitEthernet1/0/1`, `Gi1/0/1`. */
export function sameName(a: string | null, b: string): boolean {
  if (a === null) return false
  const parts = (name: string): [string, string] => [name.replace(/[\d/.:-].*$/, '').toLowerCase(), name.replace(/^[A-Za-z-]*/, '')]
  const [[kind, number], [otherKind, otherNumber]] = [parts(a), parts(b)]
  return number === otherNumber && (kind.startsWith(otherKind) || otherKind.startsWith(kind))
}

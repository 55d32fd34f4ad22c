import { subnetOf, type DeviceModel } from '../model/index.ts'
import { vlansOf } from './expression.ts'
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
    const subnet =
      one.addresses
        .map(({ address, prefixLength, family }) =>
          prefixLength >= (family === 'ipv4' ? 30 : 126) && prefixLength < (family === 'ipv4' ? 32 : 128)
            ? subnetOf(address, prefixLength, family)
            : null,
        )
        .find((found) => found !== null) ?? null
    if (one.enabled === false) return []
    const { mode, accessVlan, nativeVlan, allowedVlans } = one.switching
    const { area, authentication } = one.ospf
    const port = one.name.includes('.')
      ? interfaces.find(({ name }) => name === one.name.slice(0, one.name.lastIndexOf('.')))
      : undefined
    return [
      {
        interface: one.name,
        path: `interfaces[${i}]`,
        neighbour: seen ? { system: seen.system.split('.')[0] ?? seen.system, port: seen.port } : null,
        subnet,
        // What holds for a port holds for its units.
        mtu: one.mtu ?? port?.mtu ?? null,
        speed: one.speed ?? port?.speed ?? null,
        duplex: one.duplex ?? port?.duplex ?? null,
        mode,
        accessVlan,
        nativeVlan,
        allowedVlans: allowedVlans === null ? null : vlanRanges(vlansOf(allowedVlans)),
        area,
        ...timersOf(one.ospf),
        authentication,
        protection: one.encryption ?? one.tunnel.protection,
      },
    ]
  })
}

/**
 * Kinds of network on which neighbours are not found by themselves: there a router says hello every 30 seconds (common
 * practice).
 */
const SELDOM = /^(?:non-broadcast|nbma|point-to-multipoint|p2mp)/

/**
 * The timers as they hold: 10 seconds where nothing is stated, and a neighbour is lost after four times that (RFC 2328
 * §C.3).
 */
function timersOf({
  area,
  network,
  helloSeconds,
  deadSeconds,
}: DeviceModel['interfaces'][number]['ospf']): Pick<LinkEnd, 'helloSeconds' | 'deadSeconds'> {
  if (area === null) return { helloSeconds, deadSeconds }
  const hello = helloSeconds ?? (network !== null && SELDOM.test(network) ? 30 : 10)
  return { helloSeconds: hello, deadSeconds: deadSeconds ?? 4 * hello }
}

/** VLANs in one writing: `10-12,20`. */
function vlanRanges(vlans: ReadonlySet<number>): string {
  const ranges: [number, number][] = []
  for (const one of [...vlans].sort((a, b) => a - b)) {
    const last = ranges.at(-1)
    if (last && last[1] === one - 1) last[1] = one
    else ranges.push([one, one])
  }
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}-${to}`)).join(',')
}

/** Ports are listed by their whole names and by short ones: `GigabitEthernet1/0/1`, `Gi1/0/1`. */
export function sameName(a: string | null, b: string): boolean {
  if (a === null) return false
  const parts = (name: string): [string, string] => [
    name.replace(/[\d/.:-].*/s, '').toLowerCase(),
    name.replace(/^[A-Za-z-]*/, ''),
  ]
  const [[kind, number], [otherKind, otherNumber]] = [parts(a), parts(b)]
  return number === otherNumber && (kind.startsWith(otherKind) || otherKind.startsWith(kind))
}

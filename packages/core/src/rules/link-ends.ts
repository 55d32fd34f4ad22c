import { sameName, type LinkEnd } from './link-end.ts'
import { ALL_VLANS, subnetOf, vlanRanges, vlansOf, type DeviceModel } from '../model/index.ts'
import type { JudgedDevice } from './judged.ts'

/** The enabled interfaces of a device, with who was seen there. */
export function linkEndsOf(device: JudgedDevice): LinkEnd[] {
  const { interfaces, vlans } = device.modelled().model
  const idOf = (name: string): number | undefined => vlans.find((vlan) => vlan.name === name)?.id
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
    const allowed = allowedVlans === null ? null : vlansOf(allowedVlans, idOf)
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
        allowedVlans: allowedVlans === null ? ALL_VLANS : allowed && vlanRanges(allowed),
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

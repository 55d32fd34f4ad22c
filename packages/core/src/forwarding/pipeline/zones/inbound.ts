import { ALL, NOTHING, type Headers } from '../../../headers/index.ts'
import { sameName } from '../../../rules/index.ts'
import { exhibitsOf } from '../../network/exhibit.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { NamedObjects } from '../named-objects.ts'
import { allDenied, type ZoneDecision } from './decision.ts'

/**
 * What a zone lets in to the device itself by one of its interfaces, and what it stops; null where the device has no
 * zones. What is not named is dropped (common practice).
 */
export function inboundOf(
  compiled: CompiledDevice,
  objects: NamedObjects,
  inInterface: number,
  set: number,
): ZoneDecision | null {
  const { model, device, network } = compiled
  if (!model || model.zones.length === 0 || inInterface < 0) return null
  const port = device.interfaces[inInterface]?.name ?? ''
  const at = model.zones.findIndex(({ interfaces }) => interfaces.some((name) => sameName(name, port)))
  const zone = model.zones[at]
  if (!zone) return allDenied(set, `${port} is in no zone`)
  const own = zone.ownInbound.find(({ interface: name }) => sameName(name, port))
  const { services, protocols } = own ?? zone.inbound
  const { diagrams } = network.headers
  let doubt: string | null = null
  const setOf = (name: string, known: (name: string) => number | null): number => {
    const found = name === 'all' || name === 'any-service' ? ALL : known(name)
    if (found === null) doubt ??= `zone ${zone.name} allows “${name}”, which is unknown`
    return found ?? ALL
  }
  const named = (names: readonly string[], known: (name: string) => number | null): number =>
    diagrams.minus(
      network.headers.any(
        names.filter((name) => !name.startsWith('!')),
        (name) => setOf(name, known),
      ),
      network.headers.any(
        names.filter((name) => name.startsWith('!')),
        (name) => setOf(name.slice(1), known),
      ),
    )
  const wanted = diagrams.or(
    named(services, (name) => serviceOf(network.headers, objects, name)),
    named(protocols, (name) => routingOf(network.headers, name)),
  )
  const permitted = diagrams.and(set, wanted)
  // What is let in by a name that is not known may be let in, or not.
  const denied = doubt === null ? diagrams.minus(set, wanted) : set
  const words = `zone ${zone.name} allows to the device ${[...services, ...protocols].join(', ') || 'nothing'}`
  return {
    permitted,
    denied,
    inspected: NOTHING,
    name: words,
    doubt,
    lines: [{ words, exhibits: exhibitsOf(device, 'model', `zones[${at}]`), stops: denied !== NOTHING }],
  }
}

/** What a service of the device is asked by (common practice for names that are no service of IANA's). */
function serviceOf(headers: Headers, objects: NamedObjects, name: string): number | null {
  const udp = (...ports: readonly number[]): number =>
    headers.all(
      headers.ported,
      headers.value('protocol', 17),
      headers.any(ports, (port) => headers.value('destinationPort', port)),
    )
  const tcp = (port: number): number =>
    headers.all(headers.ported, headers.value('protocol', 6), headers.value('destinationPort', port))
  switch (name) {
    case 'netconf':
      return tcp(830)
    case 'dhcp':
    case 'bootp':
      return udp(67, 68)
    case 'ike':
      return udp(500, 4500)
    case 'dns':
      return objects.service('domain')
    case 'traceroute':
      return headers.all(
        headers.ported,
        headers.value('protocol', 17),
        headers.range('destinationPort', [33434, 33523]),
      )
    case 'snmp-trap':
      return udp(162)
    default:
      return objects.service(name)
  }
}

function routingOf(headers: Headers, name: string): number | null {
  const number = { ospf: 89, ospf3: 89, vrrp: 112, pim: 103, igmp: 2, rsvp: 46 }[name]
  if (number !== undefined) return headers.value('protocol', number)
  if (name === 'bgp')
    return headers.all(
      headers.ported,
      headers.value('protocol', 6),
      headers.any(['sourcePort', 'destinationPort'] as const, (field) => headers.value(field, 179)),
    )
  if (name === 'bfd')
    return headers.all(headers.ported, headers.value('protocol', 17), headers.range('destinationPort', [3784, 3785]))
  if (name === 'rip')
    return headers.all(headers.ported, headers.value('protocol', 17), headers.value('destinationPort', 520))
  return name === 'router-discovery' ? headers.icmp : null
}

import { MANY_CLASSES, NOTHING, exampleOf, readableOf } from '../../headers/index.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import type { NetworkFinding } from '../findings/finding.ts'
import { addressWords } from '../../model/index.ts'
import { sameName } from '../../rules/index.ts'
import { ownersOf } from '../engine/neighbours.ts'
import { inSubnet } from '../network/interfaces.ts'
import { hostPlaces, outsideInterfaces, sentFrom } from './places.ts'
import { layersOf } from '../engine/protection.ts'
import { firstPackets, partsOf, simplify } from './reach.ts'
import { traceOf } from '../engine/trace.ts'
import type { Walker } from '../engine/walk.ts'
import type { Crossing } from '../engine/walked.ts'

/** A tunnel that is up and protected, by its ends. */
interface ShieldedTunnel {
  readonly from: number
  readonly port: number
  readonly to: number
}

/**
 * Packets that one end of a protected tunnel sends towards the other in the clear: along another way, or by handing
 * them to the world outside although their destination is attached to the other end.
 */
export function inTheClear(walker: Walker): NetworkFinding[] {
  const { network } = walker
  const { addressed } = network
  const { diagrams } = addressed
  const tunnels = shieldedTunnels(walker)
  if (tunnels.length === 0) return []
  const outside = new Set(outsideInterfaces(network).map(([device, port]) => `${device} ${port}`))
  const first = firstPackets(network)
  const places = hostPlaces(network).filter(({ destinations }) => destinations !== null)
  const origins = places.flatMap((place) => sentFrom(network, place, first).map((origin) => ({ ...origin, place })))
  const asked = addressed.any(origins, ({ addressed: set }) => set)
  const whole = walker.walk(origins)
  const byAddresses = (set: number): number => diagrams.and(network.headers.expand(set, addressed, asked), asked)
  return tunnels.flatMap(({ from, port, to }): NetworkFinding[] => {
    // Beyond an outside interface there are hosts of others.
    const beyond = addressed.any(
      places.filter((place) =>
        place.origins.some(
          (origin) =>
            origin.device === to &&
            !outside.has(`${origin.device} ${origin.port}`) &&
            !leadsAway(walker, origin.device, origin.port),
        ),
      ),
      ({ destinations }) => destinations ?? NOTHING,
    )
    const bare = whole.crossings.filter((crossing) => crossing.from.device === from && isBare(walker, crossing))
    const crossed = addressed.any(bare, ({ set }) => byAddresses(set))
    const left = addressed.any(
      partsOf(
        network,
        whole.endings.filter(
          (ending) =>
            ending.fate === 'leaves' && ending.device === from && layersOf(network, from, ending.port).length === 0,
        ),
        asked,
      ),
      ({ set }) => set,
    )
    const clear = diagrams.and(diagrams.or(crossed, left), beyond)
    // From places of its own side alone: what comes by from the other end is on its way from there.
    const own = origins.filter((origin) => origin.device !== to)
    const wanted = own
      .map((origin) => ({ origin, set: diagrams.and(origin.addressed, clear) }))
      .filter(({ set }) => set !== NOTHING)
    const set = addressed.any(wanted, (one) => one.set)
    const packet = exampleOf(addressed, set)
    const start = wanted.find(
      (one) => packet !== null && diagrams.meet(one.origin.addressed, addressed.packet(packet)),
    )?.origin
    const [owner, far] = [network.devices[from], network.devices[to]]
    if (!packet || !start || !owner || !far) return []
    const trace = traceOf(walker, start.device, start.port, packet)
    const lookups = trace.paths.flatMap(({ hops }) =>
      hops
        .filter(({ device }) => device === owner.name)
        .flatMap(({ decisions }) =>
          decisions.filter(({ stage }) => stage === 'lookup').flatMap(({ exhibits }): readonly Exhibit[] => exhibits),
        ),
    )
    const name = owner.interfaces[port]?.name ?? ''
    return [
      {
        kind: 'in-the-clear',
        devices: [owner.name, far.name],
        words:
          `${owner.name} sends packets for ${far.name} unprotected, although the tunnel ${name} between them ` +
          'is up',
        from: [...new Set(wanted.map(({ origin }) => origin.place.text))],
        packets: readableOf(addressed, simplify(network, set, { first: true }), MANY_CLASSES),
        example: {
          at: network.devices[start.device]?.name ?? '',
          port: network.devices[start.device]?.interfaces[start.port]?.name ?? null,
          packet,
          trace,
        },
        exhibits: [...lookups, ...exhibitsOf(owner, 'model', `interfaces[${owner.interfaces[port]?.at ?? -1}].tunnel`)],
      },
    ]
  })
}

/** Whether tunnels begin at an interface, or a route, in use or not, leads to a gateway there that no device has. */
function leadsAway({ network }: Walker, device: number, port: number): boolean {
  const owner = network.devices[device]
  const model = owner?.device.modelled?.model
  const one = owner?.interfaces[port]
  if (!one || !model) return false
  if (
    model.interfaces.some(
      ({ tunnel: { source } }) =>
        source !== null && (sameName(source, one.name) || one.addresses.some(({ text }) => text === source)),
    )
  )
    return true
  return model.staticRoutes.some(({ nextHop }) => {
    const words = nextHop === null ? null : addressWords(nextHop, nextHop.includes(':') ? 'ipv6' : 'ipv4')
    return (
      nextHop !== null &&
      words !== null &&
      one.addresses.some((address) => inSubnet(words, address)) &&
      ownersOf(network, nextHop, network.topology.others(device, port)).length === 0
    )
  })
}

function isBare({ network }: Walker, { from, to, by }: Crossing): boolean {
  return from.device !== to.device && layersOf(network, from.device, from.port, by).length === 0
}

function shieldedTunnels(walker: Walker): ShieldedTunnel[] {
  return walker.network.devices.flatMap(({ interfaces: ports }, from) =>
    ports.flatMap((one, port): ShieldedTunnel[] => {
      if (
        one.kind !== 'tunnel' ||
        one.down !== null ||
        !layersOf(walker.network, from, port).some(({ kind }) => kind === 'ipsec')
      )
        return []
      const ends = walker.tunnelEnds(from, port)
      const end = ends.length === 1 ? ends[0] : undefined
      return end?.kind === 'through' && end.device !== from ? [{ from, port, to: end.device }] : []
    }),
  )
}

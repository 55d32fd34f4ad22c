import { addressWords, prefixMatch, type DeviceModel, type Family } from '../../model/index.ts'
import { grouped } from '../../syntax/grouped.ts'
import { interfaceNamed, type DeviceInterface } from '../network/interfaces.ts'
import { LongestMatch } from './longest-match.ts'
import { wordsOfPrefix, type Hop, type Route } from './route.ts'

/** Distances of common practice where a line states none: RFC 1812 §7.4 leaves them to each maker. */
const DISTANCE = { connected: 0, static: 1 }

/** How many routes may rest on each other. */
const MOST_RECURSION = 8

/** Where a gateway is that another table is asked for. */
export type Leaked = (gateway: string, vrf: string | null) => Hop[] | null

/**
 * The table that a device would have of its lines alone: its own subnets, and the static routes whose gateway can be
 * reached, of several for one prefix those with the least distance. Routes may rest on each other, so that they are put
 * in until no more come.
 */
export function computedRoutes(
  own: readonly DeviceInterface[],
  ports: readonly DeviceInterface[],
  stated: readonly { readonly route: DeviceModel['staticRoutes'][number]; readonly at: number }[],
  family: Family,
  leaked: Leaked,
): Route[] {
  const connected = own.flatMap((port): (Route & { distance: number })[] =>
    port.down !== null
      ? []
      : port.addresses.flatMap((address, i) =>
          address.family !== family
            ? []
            : [
                {
                  words: prefixMatch(address.words, address.length).value,
                  length: address.length,
                  hops: [{ kind: 'out' as const, port: port.name, gateway: null }],
                  protocol: 'connected',
                  of: 'model' as const,
                  path: `interfaces[${port.at}].addresses[${i}]`,
                  assumed: null,
                  distance: DISTANCE.connected,
                },
              ],
        ),
  )
  let installed = connected
  for (let round = 0; round < MOST_RECURSION; round++) {
    const index = LongestMatch.of(inUse(installed))
    const next = [
      ...connected,
      ...stated.flatMap(({ route, at }) => staticRoute(route, at, ports, index, leaked) ?? []),
    ]
    const same =
      next.length === installed.length &&
      next.every((one, i) => JSON.stringify(one.hops) === JSON.stringify(installed[i]?.hops))
    installed = next
    if (same) break
  }
  return inUse(installed)
}

/** Of several routes for one prefix those with the least distance, all of them as one. */
function inUse(installed: readonly (Route & { distance: number })[]): Route[] {
  return [...grouped(installed, ({ words, length }) => `${words.join('.')}/${length}`).values()].flatMap(
    (all): Route[] => {
      const least = Math.min(...all.map(({ distance }) => distance))
      const best = all.filter(({ distance }) => distance === least)
      const [first] = best
      return first
        ? [
            {
              ...first,
              hops: best.flatMap(({ hops }) => hops),
              assumed: best.map(({ assumed }) => assumed).find((words) => words !== null) ?? null,
            },
          ]
        : []
    },
  )
}

function staticRoute(
  route: DeviceModel['staticRoutes'][number],
  at: number,
  ports: readonly DeviceInterface[],
  installed: LongestMatch<Route>,
  leaked: Leaked,
): (Route & { distance: number }) | null {
  const parsed = wordsOfPrefix(route.prefix)
  if (!parsed) return null
  const hops = staticHops(route, ports, installed, leaked)
  if (hops === null) return null
  return {
    words: prefixMatch(parsed.words, parsed.length).value,
    length: parsed.length,
    hops,
    protocol: 'static',
    of: 'model',
    path: `staticRoutes[${at}]`,
    assumed: route.track === null ? null : `the object of track ${route.track} is assumed to be up`,
    // The gateway of a device that does not route is asked last.
    distance: route.distance ?? (route.name === 'default gateway' ? 254 : DISTANCE.static),
  }
}

/** Null where the route does not come into use. */
function staticHops(
  { nextHop, interface: port, discard, nextHopVrf }: DeviceModel['staticRoutes'][number],
  ports: readonly DeviceInterface[],
  installed: LongestMatch<Route>,
  leaked: Leaked,
): Hop[] | null {
  if (discard) return [{ kind: 'discard' }]
  if (port !== null) {
    const named = interfaceNamed(ports, port)
    return named && named.down === null ? [{ kind: 'out', port: named.name, gateway: nextHop }] : null
  }
  if (nextHopVrf !== null && nextHop !== null) return leaked(nextHop, nextHopVrf === 'global' ? null : nextHopVrf)
  const words = nextHop === null ? null : addressWords(nextHop, nextHop.includes(':') ? 'ipv6' : 'ipv4')
  if (words === null || nextHop === null)
    return [{ kind: 'unknown', why: `the next hop ${nextHop ?? ''} is not an address` }]
  const best = installed.find(words)
  // A route to its own gateway does not hold itself up.
  if (best === null) return null
  return best.hops.map((hop) => (hop.kind === 'out' && hop.gateway === null ? { ...hop, gateway: nextHop } : hop))
}

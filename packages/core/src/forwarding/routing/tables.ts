import { forwardingRulesOf } from '../../dialects/index.ts'
import {
  addressWords,
  parsePrefix,
  prefixMatch,
  type DeviceModel,
  type Family,
  type ModelledDevice,
} from '../../model/index.ts'
import type { DeviceState } from '../../state/index.ts'
import { grouped } from '../../syntax/grouped.ts'
import { LongestMatch } from './longest-match.ts'
import { inSubnet, portNamed, type NetworkDevice, type Port } from '../network/ports.ts'

/** Where a route sends packets. */
export type Hop =
  /** Out of a port: to a gateway, or to the destination itself where `gateway` is null. */
  | { readonly kind: 'out'; readonly port: string; readonly gateway: string | null }
  | { readonly kind: 'discard' }
  /** Out of the table: the next rule is asked. */
  | { readonly kind: 'throw' }
  /** It cannot be said where. */
  | { readonly kind: 'unknown'; readonly why: string }

export interface Route {
  readonly words: readonly number[]
  readonly length: number
  readonly hops: readonly Hop[]
  readonly protocol: string
  /** What stands for it in the model or the state. */
  readonly of: 'model' | 'state'
  readonly path: string
  /** What is taken for granted with it. */
  readonly assumed: string | null
}

/** A table by which destinations are looked up. */
export interface RoutingTable {
  /** Of the VRF, or the kernel's table; null: the main one. */
  readonly name: string | null
  readonly family: Family
  /** `captured`: as the device told it; `computed`: from its configuration. */
  readonly from: 'captured' | 'computed'
  /** Why routes may be missing from it; null where it is whole. */
  readonly missing: string | null
  readonly routes: readonly Route[]
}

/** Distances of common practice where a line states none: RFC 1812 §7.4 leaves them to each maker. */
const DISTANCE = { connected: 0, static: 1 }

export function tablesOf(device: NetworkDevice, ports: readonly Port[]): RoutingTable[] {
  const names = new Set<string | null>([
    null,
    ...ports.map(({ vrf }) => vrf),
    ...(device.modelled?.model.vrfs ?? []).map(({ name }) => name),
    ...device.reading.state.routes.map(({ vrf }) => vrf),
  ])
  const tables = new Tables(device, ports)
  return [...names].flatMap((name) => (['ipv4', 'ipv6'] as const).flatMap((family) => tables.of(name, family) ?? []))
}

interface Made {
  readonly table: RoutingTable
  find(address: readonly number[]): Route | null
}

/** The tables of a device: a route of one may rest on another. */
class Tables {
  /** `making`: it is asked for while it is made. */
  readonly #made = new Map<string, Made | 'making' | null>()

  constructor(
    readonly device: NetworkDevice,
    readonly ports: readonly Port[],
  ) {}

  of(name: string | null, family: Family): RoutingTable | null {
    const made = this.#get(name, family)
    return made === 'making' ? null : (made?.table ?? null)
  }

  #get(name: string | null, family: Family): Made | 'making' | null {
    const key = `${family} ${name ?? ''}`
    const held = this.#made.get(key)
    if (held !== undefined) return held
    this.#made.set(key, 'making')
    const table = tableOf(this.device, this.ports, name, family, (gateway, vrf) => this.#leaked(gateway, vrf, family))
    let index: LongestMatch<Route> | null = null
    const made = table && {
      table,
      find: (address: readonly number[]) => (index ??= matchOf(table.routes)).find(address),
    }
    this.#made.set(key, made)
    return made
  }

  /** Where a gateway is that is looked up in the table of another VRF; null: nothing leads there. */
  #leaked(gateway: string, vrf: string | null, family: Family): Hop[] | null {
    const unknown = (why: string): Hop[] => [
      {
        kind: 'unknown',
        why: `the gateway ${gateway} is looked up in the ${vrf === null ? 'global table' : `table ${vrf}`}${why}`,
      },
    ]
    const made = this.#get(vrf, family)
    if (made === 'making') return unknown(', which rests on this one in turn')
    const words = addressWords(gateway, family)
    const route = words && made ? made.find(words) : null
    const missing = made?.table.missing ?? null
    if (missing !== null && route?.protocol !== 'connected') return unknown(`: ${missing}`)
    return route && route.hops.map((hop) => (hop.kind === 'out' && hop.gateway === null ? { ...hop, gateway } : hop))
  }
}

function matchOf(routes: readonly Route[]): LongestMatch<Route> {
  return new LongestMatch(routes.map((route) => ({ words: route.words, length: route.length, value: route })))
}

/** Where a gateway is that another table is asked for. */
type Leaked = (gateway: string, vrf: string | null) => Hop[] | null

function tableOf(
  device: NetworkDevice,
  ports: readonly Port[],
  name: string | null,
  family: Family,
  leaked: Leaked,
): RoutingTable | null {
  const captured = device.reading.state.routes.flatMap((route, at) =>
    route.vrf === name && route.family === family ? [{ route, at }] : [],
  )
  if (captured.length > 0)
    return {
      name,
      family,
      from: 'captured',
      missing: null,
      routes: capturedRoutes(
        device,
        captured,
        ports.filter(({ vrf }) => vrf === name),
        ports,
      ),
    }
  const own = ports.filter(
    ({ vrf, addresses }) => vrf === name && addresses.some((address) => address.family === family),
  )
  const stated = (device.modelled?.model.staticRoutes ?? []).flatMap((route, at) =>
    route.vrf === name && route.prefix.includes(':') === (family === 'ipv6') ? [{ route, at }] : [],
  )
  if (own.length === 0 && stated.length === 0) return null
  return {
    name,
    family,
    from: 'computed',
    missing: missingOf(device, name),
    routes: computedRoutes(own, ports, stated, family, leaked),
  }
}

/** Protocols that would add routes to a table that is computed from lines alone. */
function missingOf({ modelled, dialect, reading }: NetworkDevice, vrf: string | null): string | null {
  if (!modelled) return 'no record of the device could be read'
  if (forwardingRulesOf(dialect).tables === 'kernel' && !reading.records.some(({ form }) => form === 'ip -j route'))
    return 'the table of the kernel was not captured'
  const { ospf, bgp } = modelled.model
  const lost = mayBeAddress(modelled)
  if (lost !== null) return `the table was not captured, and an unparsed line of ${lost} may be an address`
  const running = [
    ...(ospf.some((process) => process.vrf === vrf) ? ['OSPF'] : []),
    ...(bgp.some((process) => process.vrf === vrf) ? ['BGP'] : []),
  ]
  const unread = modelled.unread.some(({ text }) => /^(?:router (?!ospf|bgp)|set protocols |protocols )/.test(text))
  if (running.length === 0 && !unread) return null
  return `the table was not captured, and ${running.length > 0 ? running.join(' and ') : 'a routing protocol that is not read'} would add to it`
}

/** The port of which an unparsed line names something that reads as an address; null where there is none. */
function mayBeAddress(modelled: ModelledDevice): string | null {
  for (const {
    statement: { command },
    around,
  } of modelled.unreadStatements()) {
    const opener = around[0]
    const isPort = opener?.block === 'interface' || command.lowerWords[0] === 'interfaces'
    if (!isPort || !command.words.some((word) => parsePrefix(word) !== null)) continue
    return opener?.block === 'interface' ? opener.text.slice('interface '.length) : (command.words[1] ?? '')
  }
  return null
}

const THROW: readonly Hop[] = [{ kind: 'throw' }]

type StatedRoute = { readonly route: DeviceState['routes'][number]; readonly at: number }

/** The routes in use: of several for one prefix those with the least metric, all of them where they are equal. */
function capturedRoutes(
  { dialect }: NetworkDevice,
  captured: readonly StatedRoute[],
  own: readonly Port[],
  ports: readonly Port[],
): Route[] {
  const inUse = [
    ...grouped(
      captured.filter(({ route }) => route.selected),
      ({ route }) => route.prefix,
    ),
  ].flatMap(([prefix, all]) => {
    const least =
      forwardingRulesOf(dialect).tables === 'kernel' ? Math.min(...all.map(({ route }) => route.metric ?? 0)) : null
    const parsed = wordsOf(prefix)
    const best = least === null ? all : all.filter(({ route }) => (route.metric ?? 0) === least)
    // Routes to the device's own addresses are those of its ports.
    return parsed && best[0]?.route.protocol !== 'local' ? [{ ...parsed, value: best }] : []
  })
  const gateways = new Gateways(inUse, own, ports)
  // Most routes lead where many others do: where that is, is found out once.
  const known = new Map<string, readonly Hop[]>()
  const hopsOf = (some: readonly StatedRoute[]): readonly Hop[] => {
    const key = some
      .map(({ route }) =>
        route.nextHops
          .map(({ address, interface: port, discard }) => `${address ?? ''} ${port ?? ''} ${discard ? 'discard' : ''}`)
          .join(),
      )
      .join()
    let hops = known.get(key)
    if (!hops)
      known.set(
        key,
        (hops = gateways.resolved(some.flatMap(({ route }) => route.nextHops.map((hop) => hopOf(hop, own, ports))))),
      )
    return hops
  }
  return inUse.flatMap(({ words, length, value: best }): Route[] => {
    const [first] = best
    return first
      ? [
          {
            words,
            length,
            hops: first.route.protocol === 'throw' ? THROW : hopsOf(best),
            protocol: first.route.protocol,
            of: 'state',
            path: `routes[${first.at}]`,
            assumed: null,
          },
        ]
      : []
  })
}

function wordsOf(prefix: string): { words: readonly number[]; length: number } | null {
  const [address = '', length = ''] = prefix.split('/')
  const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
  return words && length !== '' ? { words, length: Number(length) } : null
}

type Pending = Hop | { readonly kind: 'through'; readonly gateway: string }

function hopOf(
  { address, interface: port, discard }: DeviceState['routes'][number]['nextHops'][number],
  own: readonly Port[],
  ports: readonly Port[],
): Pending {
  if (discard) return { kind: 'discard' }
  const through =
    port === null ? (address === null ? undefined : portTo(address, own)) : (portNamed(ports, port) ?? { name: port })
  if (through) return { kind: 'out', port: through.name, gateway: address }
  return address === null
    ? { kind: 'unknown', why: 'the route names neither a gateway nor an interface' }
    : { kind: 'through', gateway: address }
}

/** The port whose subnet an address is in. */
function portTo(address: string, own: readonly Port[]): Port | undefined {
  const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
  return words ? own.find(({ addresses }) => addresses.some((subnet) => inSubnet(words, subnet))) : undefined
}

/** How many routes may rest on each other. */
const MOST_RECURSION = 8

/** Gateways that are not next door are looked up in the same table: each once, since many routes have the same. */
class Gateways {
  #index: LongestMatch<readonly StatedRoute[]> | null = null
  readonly #known = new Map<string, Hop[]>()

  constructor(
    readonly inUse: ConstructorParameters<typeof LongestMatch<readonly StatedRoute[]>>[0],
    readonly own: readonly Port[],
    readonly ports: readonly Port[],
  ) {}

  resolved(hops: readonly Pending[], depth = 0): Hop[] {
    return hops.flatMap((hop): Hop[] => (hop.kind === 'through' ? this.#through(hop.gateway, depth) : [hop]))
  }

  #through(gateway: string, depth: number): Hop[] {
    if (depth >= MOST_RECURSION)
      return [{ kind: 'unknown', why: `the gateway ${gateway} rests on more than ${MOST_RECURSION} other routes` }]
    const known = this.#known.get(gateway)
    if (known) return known
    this.#index ??= new LongestMatch(this.inUse)
    const next = this.#index
      .find(addressWords(gateway, gateway.includes(':') ? 'ipv6' : 'ipv4') ?? [])
      ?.flatMap(({ route }) => route.nextHops.map((one) => hopOf(one, this.own, this.ports)))
      .map((one) => (one.kind === 'out' && one.gateway === null ? { ...one, gateway } : one))
    const hops =
      next && next.length > 0
        ? this.resolved(next, depth + 1)
        : [{ kind: 'unknown' as const, why: `no route leads to the gateway ${gateway}` }]
    // What is too deep from here need not be so from elsewhere.
    if (depth === 0) this.#known.set(gateway, hops)
    return hops
  }
}

/**
 * The table that a device would have of its lines alone: its own subnets, and the static routes whose gateway can be
 * reached, of several for one prefix those with the least distance. Routes may rest on each other, so that they are put
 * in until no more come.
 */
function computedRoutes(
  own: readonly Port[],
  ports: readonly Port[],
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
    const index = matchOf(inUse(installed))
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
  ports: readonly Port[],
  installed: LongestMatch<Route>,
  leaked: Leaked,
): (Route & { distance: number }) | null {
  const parsed = wordsOf(route.prefix)
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
    assumed: route.track === null ? null : `what track ${route.track} watches is assumed to be up`,
    // The gateway of a device that does not route is asked last.
    distance: route.distance ?? (route.name === 'default gateway' ? 254 : DISTANCE.static),
  }
}

/** Null where the route does not come into use. */
function staticHops(
  { nextHop, interface: port, discard, nextHopVrf }: DeviceModel['staticRoutes'][number],
  ports: readonly Port[],
  installed: LongestMatch<Route>,
  leaked: Leaked,
): Hop[] | null {
  if (discard) return [{ kind: 'discard' }]
  if (port !== null) {
    const named = portNamed(ports, port)
    return named && named.down === null ? [{ kind: 'out', port: named.name, gateway: nextHop }] : null
  }
  if (nextHopVrf !== null && nextHop !== null) return leaked(nextHop, nextHopVrf === 'global' ? null : nextHopVrf)
  const words = nextHop === null ? null : addressWords(nextHop, nextHop.includes(':') ? 'ipv6' : 'ipv4')
  if (words === null || nextHop === null)
    return [{ kind: 'unknown', why: `the next hop ${nextHop ?? ''} is no address` }]
  const best = installed.find(words)
  // A route to its own gateway does not hold itself up.
  if (best === null) return null
  return best.hops.map((hop) => (hop.kind === 'out' && hop.gateway === null ? { ...hop, gateway: nextHop } : hop))
}

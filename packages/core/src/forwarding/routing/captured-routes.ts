import { forwardingRulesOf } from '../../dialects/index.ts'
import { addressWords } from '../../model/index.ts'
import type { DeviceState } from '../../state/index.ts'
import { inSubnet, interfaceNamed, type NetworkDevice, type DeviceInterface } from '../network/interfaces.ts'
import { LongestMatch } from './longest-match.ts'
import { wordsOfPrefix, type Hop, type Route } from './route.ts'

type StatedRoute = DeviceState['routes'][number]

const THROW: readonly Hop[] = [{ kind: 'throw' }]

/** One of a captured table. There are very many of them: what all have in common is held once. */
class CapturedRoute implements Route {
  constructor(
    readonly words: readonly number[],
    readonly length: number,
    readonly hops: readonly Hop[],
    readonly protocol: string,
    /** Its place in the state. */
    readonly at: number,
  ) {}

  get of(): 'state' {
    return 'state'
  }

  get path(): string {
    return `routes[${this.at}]`
  }

  get assumed(): null {
    return null
  }
}

/**
 * The routes in use: of several for one prefix those with the least metric, all of them where they are equal.
 * @param numbers of the routes of the table in the state of the device
 */
export function capturedRoutes(
  { dialect, reading }: NetworkDevice,
  numbers: readonly number[],
  own: readonly DeviceInterface[],
  ports: readonly DeviceInterface[],
): Route[] {
  const stated = reading.state.routes
  const used = routesInUse(stated, numbers, forwardingRulesOf(dialect).tables === 'kernel')
  const hops = new HopsOfRoutes(new Gateways(stated, used, own, ports))
  const routes: Route[] = []
  for (const [prefix, best] of used) {
    const first = typeof best === 'number' ? best : (best[0] ?? 0)
    const protocol = stated[first]?.protocol ?? ''
    // Routes to the device's own addresses are those of its interfaces.
    if (protocol === 'local') continue
    const parsed = wordsOfPrefix(prefix)
    if (!parsed) continue
    const { words, length } = parsed
    const held = protocol === 'throw' ? THROW : hops.of(stated, best)
    routes.push(new CapturedRoute(words, length, held, protocol, first))
  }
  return routes
}

/** By prefix: the number of the route in use, or several that are used at the same time. */
type RoutesInUse = ReadonlyMap<string, number | readonly number[]>

function routesInUse(stated: readonly StatedRoute[], numbers: readonly number[], leastMetric: boolean): RoutesInUse {
  const used = new Map<string, number | number[]>()
  const several = new Set<string>()
  for (const at of numbers) {
    const route = stated[at]
    if (!route?.selected) continue
    const before = used.get(route.prefix)
    if (before === undefined) used.set(route.prefix, at)
    else if (typeof before === 'number') {
      used.set(route.prefix, [before, at])
      several.add(route.prefix)
    } else before.push(at)
  }
  if (!leastMetric) return used
  for (const prefix of several) {
    const all = [used.get(prefix) ?? []].flat()
    const metricOf = (at: number): number => stated[at]?.metric ?? 0
    const least = Math.min(...all.map(metricOf))
    used.set(
      prefix,
      all.filter((at) => metricOf(at) === least),
    )
  }
  return used
}

/** Most routes lead where many others do: where that is, is found out once. */
class HopsOfRoutes {
  /** Of routes with one next hop: by its interface, then by its address. */
  readonly #single = new Map<string | null, Map<string | null, readonly Hop[]>>()
  readonly #others = new Map<string, readonly Hop[]>()

  constructor(readonly gateways: Gateways) {}

  of(stated: readonly StatedRoute[], best: number | readonly number[]): readonly Hop[] {
    const nextHops = typeof best === 'number' ? (stated[best]?.nextHops ?? []) : nextHopsOf(stated, best)
    const [only] = nextHops
    if (nextHops.length === 1 && only && !only.discard) return this.#ofOne(only)
    const key = nextHops
      .map(({ address, interface: port, discard }) => `${address ?? ''} ${port ?? ''} ${discard ? 'discard' : ''}`)
      .join()
    let hops = this.#others.get(key)
    if (!hops) this.#others.set(key, (hops = this.gateways.hopsOf(nextHops)))
    return hops
  }

  #ofOne(hop: NextHop): readonly Hop[] {
    let by = this.#single.get(hop.interface)
    if (!by) this.#single.set(hop.interface, (by = new Map<string | null, readonly Hop[]>()))
    let hops = by.get(hop.address)
    if (!hops) by.set(hop.address, (hops = this.gateways.hopsOf([hop])))
    return hops
  }
}

function nextHopsOf(stated: readonly StatedRoute[], numbers: readonly number[]): NextHop[] {
  return numbers.flatMap((at) => stated[at]?.nextHops ?? [])
}

type NextHop = StatedRoute['nextHops'][number]

type Pending = Hop | { readonly kind: 'through'; readonly gateway: string }

/** How many routes may rest on each other. */
const MOST_RECURSION = 8

/** Gateways that are not next door are looked up in the same table: each once, since many routes have the same. */
class Gateways {
  #index: LongestMatch<number | readonly number[]> | null = null
  readonly #known = new Map<string, Hop[]>()

  constructor(
    readonly stated: readonly StatedRoute[],
    readonly used: RoutesInUse,
    readonly own: readonly DeviceInterface[],
    readonly ports: readonly DeviceInterface[],
  ) {}

  hopsOf(nextHops: readonly NextHop[]): readonly Hop[] {
    return this.#resolved(
      nextHops.map((hop) => this.#hopOf(hop)),
      0,
    )
  }

  #resolved(hops: readonly Pending[], depth: number): Hop[] {
    return hops.flatMap((hop): Hop[] => (hop.kind === 'through' ? this.#through(hop.gateway, depth) : [hop]))
  }

  #hopOf({ address, interface: port, discard }: NextHop): Pending {
    if (discard) return { kind: 'discard' }
    const through =
      port === null
        ? address === null
          ? undefined
          : portTo(address, this.own)
        : (interfaceNamed(this.ports, port) ?? { name: port })
    if (through) return { kind: 'out', port: through.name, gateway: address }
    return address === null
      ? { kind: 'unknown', why: 'the route has neither a gateway nor an interface' }
      : { kind: 'through', gateway: address }
  }

  #through(gateway: string, depth: number): Hop[] {
    if (depth >= MOST_RECURSION)
      return [{ kind: 'unknown', why: `the gateway ${gateway} depends on more than ${MOST_RECURSION} other routes` }]
    const known = this.#known.get(gateway)
    if (known) return known
    const found = this.#routeTo(addressWords(gateway, gateway.includes(':') ? 'ipv6' : 'ipv4') ?? [])
    const next = nextHopsOf(this.stated, found === null ? [] : [found].flat())
      .map((hop) => this.#hopOf(hop))
      .map((hop) => (hop.kind === 'out' && hop.gateway === null ? { ...hop, gateway } : hop))
    const hops: Hop[] =
      next.length > 0
        ? this.#resolved(next, depth + 1)
        : [{ kind: 'unknown', why: `no route leads to the gateway ${gateway}` }]
    // What is too deep from here need not be so from elsewhere.
    if (depth === 0) this.#known.set(gateway, hops)
    return hops
  }

  #routeTo(address: readonly number[]): number | readonly number[] | null {
    this.#index ??= new LongestMatch(
      [...this.used].flatMap(([prefix, value]) => {
        const parsed = wordsOfPrefix(prefix)
        const first = this.stated[[value].flat()[0] ?? 0]
        return parsed && first?.protocol !== 'local' ? [{ ...parsed, value }] : []
      }),
    )
    return this.#index.find(address)
  }
}

/** The interface whose subnet an address is in. */
function portTo(address: string, own: readonly DeviceInterface[]): DeviceInterface | undefined {
  const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
  return words ? own.find(({ addresses }) => addresses.some((subnet) => inSubnet(words, subnet))) : undefined
}

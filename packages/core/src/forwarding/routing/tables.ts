import { forwardingRulesOf } from '../../dialects/index.ts'
import { addressWords, parsePrefix, type Family, type ModelledDevice } from '../../model/index.ts'
import type { NetworkDevice, DeviceInterface } from '../network/interfaces.ts'
import { incompleteWords } from '../network/unparsed.ts'
import { capturedRoutes } from './captured-routes.ts'
import { computedRoutes, type Leaked } from './computed-routes.ts'
import { LongestMatch } from './longest-match.ts'
import type { Hop, Route, RoutingTable } from './route.ts'

export function tablesOf(device: NetworkDevice, ports: readonly DeviceInterface[]): RoutingTable[] {
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
    readonly ports: readonly DeviceInterface[],
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
      find: (address: readonly number[]) => (index ??= LongestMatch.of(table.routes)).find(address),
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

function tableOf(
  device: NetworkDevice,
  ports: readonly DeviceInterface[],
  name: string | null,
  family: Family,
  leaked: Leaked,
): RoutingTable | null {
  const captured: number[] = []
  device.reading.state.routes.forEach((route, at) => {
    if (route.vrf === name && route.family === family) captured.push(at)
  })
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
  if (!modelled) return 'no record of the device could be parsed'
  if (forwardingRulesOf(dialect).tables === 'kernel' && !reading.records.some(({ form }) => form === 'ip -j route'))
    return 'the kernel routing table was not captured'
  const [fault] = modelled.faults
  if (fault) return `the table was not captured, and ${incompleteWords(fault)}`
  const { ospf, bgp } = modelled.model
  const lost = mayBeAddress(modelled)
  if (lost !== null) return `the table was not captured, and an unparsed line of ${lost} may be an address`
  const running = [
    ...(ospf.some((process) => process.vrf === vrf) ? ['OSPF'] : []),
    ...(bgp.some((process) => process.vrf === vrf) ? ['BGP'] : []),
  ]
  const unread = modelled.unread.some(({ text }) => /^(?:router (?!ospf|bgp)|set protocols |protocols )/.test(text))
  if (running.length === 0 && !unread) return null
  return (
    'the table was not captured, and ' +
    `${running.length > 0 ? running.join(' and ') : 'a routing protocol that is not read'} would add ` +
    'to it'
  )
}

/** The interface of which an unparsed line names something that reads as an address; null where there is none. */
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

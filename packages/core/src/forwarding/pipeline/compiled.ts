import { FAMILIES, addressesIn, hostMatch, type DeviceModel, type Family } from '../../model/index.ts'
import { ALL, ListSets, NOTHING } from '../../headers/index.ts'
import { type ForwardingDevice } from '../network/device.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import { CompiledTable } from './compiled-table.ts'
import { Maps } from './maps.ts'
import { broadcastOf, type Network } from '../network/network.ts'
import { interfaceNamed } from '../network/interfaces.ts'
import type { Route } from '../routing/route.ts'

/** Rules by which a table is chosen, in the order in which they are asked. */
export interface TableRule {
  readonly set: number
  /** Packets whose answers it would be asked for. */
  readonly answers: number
  readonly inInterface: string | null
  /** Null where the rule does something else than look up. */
  readonly table: string | null
  readonly action: 'lookup' | 'discard'
  /** Words that narrow it and cannot be weighed. */
  readonly vague: readonly string[]
  readonly path: string
}

/** The label by which people say whether unwrapped packets meet the list of the interface again. */
export const LIST_AFTER_UNWRAPPING = 'list-after-unwrapping'

/** One device over the destination classes of its network. What is not asked for is not made. */
export type ReverseMode = 'strict' | 'feasible' | 'loose'

export class CompiledDevice {
  readonly lists: ListSets
  readonly maps: Maps
  readonly device: ForwardingDevice
  readonly #tables = new Map<string, CompiledTable | null>()
  readonly #reverse = new Map<string, { readonly back: number; readonly covered: number }>()
  #own: number | null = null
  readonly #local = new Map<string | null, number>()
  #rules: readonly TableRule[] | null = null
  #many: number | null = null
  readonly #routed = new Map<string | null, number>()
  readonly #specialWithoutRoute = new Map<string | null, number>()

  constructor(
    readonly network: Network,
    readonly number: number,
  ) {
    this.device = network.devices[number] as ForwardingDevice
    this.lists = new ListSets(network.headers, this.model?.accessLists ?? [], this.device.rules.laterFragments)
    this.maps = new Maps(this)
  }

  get model(): DeviceModel | null {
    return this.device.device.modelled?.model ?? null
  }

  /** Headers to one of the device's own addresses. A kernel answers for all of them, whatever they are asked by. */
  local(vrf: string | null): number {
    const { headers } = this.network
    const key = this.device.rules.tables === 'kernel' ? null : vrf
    let set = this.#local.get(key)
    if (set === undefined) {
      const ports = this.device.interfaces.filter(
        (port) => port.down !== 'switched-off' && (this.device.rules.tables === 'kernel' || port.vrf === vrf),
      )
      set = headers.toAny(
        ports.flatMap(({ addresses, shared }) => [...addresses, ...shared].map(({ words }) => hostMatch(words))),
      )
      this.#local.set(key, set)
    }
    return set
  }

  /** Headers to many hosts at once: multicast, and the broadcasts of the device's own subnets. */
  get many(): number {
    const { headers } = this.network
    return (this.#many ??= headers.diagrams.or(
      this.network.manyHosts,
      headers.toAny(
        this.device.interfaces.flatMap(({ addresses }) =>
          addresses.flatMap((one) => (one.words.length === 1 && one.length < 31 ? [hostMatch(broadcastOf(one))] : [])),
        ),
      ),
    ))
  }

  table(name: string | null, family: Family): CompiledTable | null {
    const key = `${family} ${name ?? ''}`
    let compiled = this.#tables.get(key)
    if (compiled === undefined) {
      const table = this.network.tableOf(this.number, name, family)
      compiled = table ? new CompiledTable(table, this.network) : null
      this.#tables.set(key, compiled)
    }
    return compiled
  }

  /** The rules of a kernel; those that every kernel has where none were captured. */
  get rules(): readonly TableRule[] {
    return (this.#rules ??= this.#rulesOf())
  }

  #rulesOf(): TableRule[] {
    const { headers } = this.network
    const { policyRules } = this.device.device.reading.state
    const main: TableRule = {
      set: ALL,
      answers: ALL,
      inInterface: null,
      table: null,
      action: 'lookup',
      vague: [],
      path: '',
    }
    if (policyRules.length === 0) return [main]
    const matching = (side: 'source' | 'destination', text: string | null): number => {
      const match = text === null ? null : addressesIn(text)
      return match ? headers.address(side, match) : ALL
    }
    const rules = policyRules.map(
      ({ priority, source, destination, interface: port, table, action, notWeighed }, i) => ({
        priority: priority ?? 0,
        rule: {
          set: headers.all(matching('source', source), matching('destination', destination)),
          answers: headers.all(matching('destination', source), matching('source', destination), headers.ipv4),
          inInterface: port,
          table: table === 'main' ? null : table,
          action: action === null ? 'lookup' : 'discard',
          vague: notWeighed,
          path: `policyRules[${i}]`,
        } as const,
        isLocal: table === 'local',
      }),
    )
    // Only rules of IPv4 were captured; of IPv6 the main table is asked.
    return [
      ...rules
        .filter(({ isLocal }) => !isLocal)
        .sort((a, b) => a.priority - b.priority)
        .map(({ rule }): TableRule => ({ ...rule, set: headers.all(rule.set, headers.ipv4) })),
      { ...main, set: headers.ipv6, answers: headers.ipv6 },
    ]
  }

  /**
   * Headers whose source a reverse-path check lets in by an interface (RFC 3704 §2.2 strict, §2.3 feasible,
   * §2.4 loose).
   * @param mode `strict`: the best way back is by the same interface; `feasible`: some way back is
   * @param out the interface by which packets go out; null: they are for the device itself
   */
  reverse(vrf: string | null, port: string, mode: ReverseMode, out: string | null): number {
    const { headers } = this.network
    const { diagrams } = headers
    const strict = mode === 'strict'
    if (mode === 'feasible') return this.#someWayBack(vrf, port)
    if (this.device.rules.tables === 'vrf') return this.#wayBack(vrf, port, strict).back
    let allowed = NOTHING
    let left = ALL
    // The kernel asks its rules for the answer, whose addresses are the other way round and which would come in where
    // the packet goes out.
    for (const { table, action, answers, inInterface } of this.rules) {
      if (inInterface !== null && inInterface !== (out ?? 'lo')) continue
      const asked = diagrams.and(left, answers)
      const { back, covered } = this.#wayBack(table, port, strict)
      if (action === 'lookup') allowed = diagrams.or(allowed, diagrams.and(asked, back))
      left = diagrams.minus(left, action === 'lookup' ? diagrams.and(asked, covered) : asked)
    }
    return allowed
  }

  /** Headers whose source a table has a route for, and those with a way back. */
  #wayBack(name: string | null, port: string, strict: boolean): { readonly back: number; readonly covered: number } {
    const { headers, prefixes } = this.network
    const key = `${name ?? ''} ${strict ? port : ''}`
    const known = this.#reverse.get(key)
    if (known) return known
    let [back, covered] = [NOTHING, NOTHING]
    for (const family of ['ipv4', 'ipv6'] as const) {
      const table = this.network.tableOf(this.number, name, family)
      const routes = [...(table?.routes ?? [])].sort(([a], [b]) => prefixes.lengthOf(a) - prefixes.lengthOf(b))
      for (const [id, route] of routes) {
        const inside = headers.address('source', prefixes.matchOf(id))
        const thrown = route.hops.some(({ kind }) => kind === 'throw')
        back =
          !thrown && this.#isWayBack(route, port, strict)
            ? headers.diagrams.or(back, inside)
            : headers.diagrams.minus(back, inside)
        covered = thrown ? headers.diagrams.minus(covered, inside) : headers.diagrams.or(covered, inside)
      }
    }
    const found = { back, covered }
    this.#reverse.set(key, found)
    return found
  }

  /** Headers whose source some route holds that leads by an interface, however many are closer. */
  #someWayBack(name: string | null, port: string): number {
    const { headers, prefixes } = this.network
    const key = `${name ?? ''} feasible ${port}`
    const known = this.#reverse.get(key)
    if (known) return known.back
    const back = headers.any(
      (['ipv4', 'ipv6'] as const).flatMap((family) => [
        ...(this.network.tableOf(this.number, name, family)?.routes ?? []),
      ]),
      ([id, route]) =>
        route.hops.some((hop) => hop.kind === 'out' && hop.port === port)
          ? headers.address('source', prefixes.matchOf(id))
          : NOTHING,
    )
    this.#reverse.set(key, { back, covered: back })
    return back
  }

  #isWayBack(route: Route, port: string, strict: boolean): boolean {
    // A router does not count its default route as a way back; a kernel does.
    if (strict && route.length === 0 && this.device.rules.tables === 'vrf') return false
    return route.hops.some((hop) => hop.kind === 'out' && (!strict || hop.port === port))
  }

  /** Headers to destinations with a route other than the default route. */
  routedClosely(vrf: string | null): number {
    const { headers, prefixes } = this.network
    let set = this.#routed.get(vrf)
    if (set === undefined) {
      set = headers.any(
        FAMILIES.flatMap((family) => [...(this.network.tableOf(this.number, vrf, family)?.routes ?? [])]),
        ([id, route]) => (route.length === 0 ? NOTHING : headers.within(prefixes.matchOf(id), true)),
      )
      this.#routed.set(vrf, set)
    }
    return set
  }

  /**
   * Headers to addresses that no router hands on, and to which a table has no route beside the one to everywhere. Looks
   * at the few routes that meet such addresses: a backbone has hundreds of thousands of others.
   */
  specialWithoutRoute(vrf: string | null): number {
    const { headers, prefixes } = this.network
    let set = this.#specialWithoutRoute.get(vrf)
    if (set === undefined) {
      const routed = this.network.meetingSpecial.filter((id) =>
        this.network.tableOf(this.number, vrf, prefixes.familyOf(id))?.has(id),
      )
      set = headers.diagrams.minus(
        this.network.special,
        headers.any(routed, (id) => headers.within(prefixes.matchOf(id), true)),
      )
      this.#specialWithoutRoute.set(vrf, set)
    }
    return set
  }

  /** Headers whose source is an address of the device itself. */
  get fromItself(): number {
    const { headers } = this.network
    return (this.#own ??= headers.any(
      this.device.interfaces.filter(({ down }) => down !== 'switched-off').flatMap(({ addresses }) => addresses),
      ({ words }) => headers.address('source', hostMatch(words)),
    ))
  }

  /** Null where nobody said it. */
  get listAfterUnwrapping(): boolean | null {
    const said = this.device.device.labels?.[LIST_AFTER_UNWRAPPING]
    return said === undefined ? null : said === true || said === 'yes' || said === 'true'
  }

  /** The lists that an interface applies, by direction and family. */
  interfaceList(port: number, direction: 'in' | 'out', family: Family): string | null {
    const at = this.device.interfaces[port]?.at ?? -1
    const filters = this.model?.interfaces[at]?.filters
    return filters?.[`${direction}${family === 'ipv4' ? '4' : '6'}`] ?? null
  }

  /** Why it does not forward; null where it does. */
  get forwards(): { readonly words: string; readonly exhibits: readonly Exhibit[] } | null {
    return this.model?.system.forwards === false
      ? {
          words: `${this.device.name} does not forward packets`,
          exhibits: exhibitsOf(this.device, 'model', 'system.forwards'),
        }
      : null
  }

  interfaceNumber(name: string): number {
    const found = interfaceNamed(this.device.interfaces, name)
    return found ? this.device.interfaces.indexOf(found) : -1
  }
}

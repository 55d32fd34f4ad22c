import { FAMILIES } from '../../model/index.ts'
import { NOTHING } from '../../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import { exhibitsOf } from '../network/exhibit.ts'
import type { PassageRun } from './passage-run.ts'
import type { Branch } from './branch.ts'
import { policyParts, type PolicyPart } from './policy-routes.ts'
import type { Hop } from '../routing/route.ts'

/** Routes that are told of where packets are discarded. */
const MOST_ROUTES = 64

/** The stage at which a way out is chosen: own addresses, rules for tables, route maps on interfaces, tables. */
export class LookupStage {
  constructor(readonly run: PassageRun) {}

  lookup(branch: Branch): Branch[] {
    const { diagrams } = this.run.headers
    const own = diagrams.and(branch.set, this.run.compiled.local(branch.vrf))
    const others = diagrams.minus(branch.set, own)
    // A subnet of such addresses that is attached is one all the same; what is stated goes before what is meant.
    const special =
      branch.inInterface < 0 ? NOTHING : diagrams.and(others, this.run.compiled.specialWithoutRoute(branch.vrf))
    if (special !== NOTHING) {
      this.run.decided('lookup', 'routers do not forward packets to this address', [], true)
      this.run.end(
        'stopped',
        { code: 'special-address', words: 'routers do not forward packets to this address' },
        { ...branch, set: special },
      )
    }
    const many = diagrams.minus(diagrams.and(others, this.run.compiled.many), special)
    if (many !== NOTHING)
      this.run.end(
        'undecided',
        { code: 'many-hosts', words: 'multicast and broadcast are not followed' },
        { ...branch, set: many },
      )
    const found: Branch[] = own === NOTHING ? [] : [{ ...branch, set: own, local: true }]
    if (own !== NOTHING) this.run.decided('lookup', 'an address of the device itself', [])
    let left = diagrams.minus(diagrams.minus(others, many), special)
    const forwards = this.run.compiled.forwards
    if (left !== NOTHING && branch.inInterface >= 0 && forwards !== null) {
      this.run.decided('lookup', forwards.words, forwards.exhibits, true)
      this.run.end('stopped', { code: 'not-forwarding', words: forwards.words }, { ...branch, set: left })
      return found
    }
    if (this.run.compiled.device.rules.tables === 'vrf') return [...found, ...this.#byPolicy({ ...branch, set: left })]
    for (const rule of this.run.compiled.rules) {
      if (left === NOTHING) break
      if (
        rule.inInterface !== null &&
        rule.inInterface !==
          (branch.inInterface < 0 ? 'lo' : this.run.compiled.device.interfaces[branch.inInterface]?.name)
      )
        continue
      const asked = diagrams.and(left, rule.set)
      if (asked === NOTHING) continue
      if (rule.vague.length > 0) {
        this.run.end(
          'undecided',
          { code: 'not-evaluated', words: `a policy rule matches ${rule.vague.join(', ')}` },
          { ...branch, set: asked },
        )
        left = diagrams.minus(left, asked)
        continue
      }
      if (rule.action === 'discard') {
        this.run.decided(
          'lookup',
          'a policy rule discards it',
          exhibitsOf(this.run.compiled.device, 'state', rule.path),
          true,
        )
        this.run.end(
          'stopped',
          { code: 'discard-route', words: 'a policy rule discards it' },
          { ...branch, set: asked },
        )
        left = diagrams.minus(left, asked)
        continue
      }
      const { branches, thrown } = this.#inTable(rule.table, asked, branch, true)
      if (branches.length > 0 && rule.path !== '' && rule.table !== null)
        this.run.decided('policy rule', rule.table, exhibitsOf(this.run.compiled.device, 'state', rule.path))
      found.push(...branches)
      left = diagrams.or(diagrams.minus(left, asked), thrown)
    }
    if (left !== NOTHING) this.#noRoute(null, { ...branch, set: left })
    return found
  }

  /** Where the interface by which packets came in has a route map, that is asked before the table. */
  #byPolicy(branch: Branch): Branch[] {
    const { diagrams } = this.run.headers
    const routes =
      branch.inInterface < 0
        ? undefined
        : this.run.compiled.model?.interfaces[this.run.compiled.device.interfaces[branch.inInterface]?.at ?? -1]
            ?.policyRoutes
    if (!routes || (routes.ipv4 === null && routes.ipv6 === null))
      return this.#inTable(branch.vrf, branch.set, branch).branches
    return FAMILIES.flatMap((family) => {
      const set = diagrams.and(branch.set, this.run.headers.family(family))
      const name = routes[family]
      if (set === NOTHING) return []
      if (name === null) return this.#inTable(branch.vrf, set, branch).branches
      return policyParts(this.run.compiled, name, set, family, this.run.context(branch)).flatMap((part) =>
        this.#alongPolicy(part, { ...branch, set: part.set }),
      )
    })
  }

  #alongPolicy({ hop, onlyWithoutRoute, words, exhibits }: PolicyPart, branch: Branch): Branch[] {
    if (onlyWithoutRoute) {
      const { diagrams } = this.run.headers
      const routed = diagrams.and(branch.set, this.run.compiled.routedClosely(branch.vrf))
      const left = diagrams.minus(branch.set, routed)
      const others =
        left === NOTHING
          ? []
          : this.#alongPolicy({ set: left, hop, onlyWithoutRoute: false, words, exhibits }, { ...branch, set: left })
      return routed === NOTHING ? others : [...this.#inTable(branch.vrf, routed, branch).branches, ...others]
    }
    if (hop.kind !== 'earlier table') this.run.decided('policy routing', words, exhibits, hop.kind === 'discard')
    switch (hop.kind) {
      case 'earlier table':
        return this.#inTable(branch.vrf, branch.set, branch).branches
      case 'table':
        return this.#inTable(hop.vrf, branch.set, branch).branches
      case 'unknown':
        return this.#alongHop(hop, branch)
      case 'discard':
        return this.#alongHop(hop, branch)
      case 'gateway':
        return this.#alongHop({ kind: 'out', port: hop.port, gateway: hop.gateway }, branch)
      case 'port':
        return this.#alongHop({ kind: 'out', port: hop.port, gateway: null }, branch)
    }
  }

  #noRoute(missing: string | null, branch: Branch): void {
    this.run.decided('lookup', missing ?? 'no route', [])
    if (missing === null) this.run.end('stopped', { code: 'no-route', words: 'no route' }, branch)
    else this.run.end('undecided', { code: 'missing', words: missing }, branch)
  }

  /** @param goesOn whether another table is asked for what this one has no route for */
  #inTable(
    name: string | null,
    set: number,
    branch: Branch,
    goesOn = false,
  ): { readonly branches: Branch[]; readonly thrown: number } {
    const { diagrams } = this.run.headers
    const branches: Branch[] = []
    let thrown = NOTHING
    for (const family of FAMILIES) {
      const asked = diagrams.and(set, this.run.headers.family(family))
      if (asked === NOTHING) continue
      const table = this.run.compiled.table(name, family)
      if (!table) {
        if (goesOn) thrown = diagrams.or(thrown, asked)
        else this.#noRoute(null, { ...branch, set: asked })
        continue
      }
      const { missing } = table.numbered.table
      for (const { set: destinations, action } of table.partsFor(asked)) {
        const packets = diagrams.and(asked, destinations)
        if (packets === NOTHING) continue
        const part = { ...branch, set: packets }
        if (action === null && goesOn && missing === null) thrown = diagrams.or(thrown, packets)
        else if (action === null) this.#noRoute(missing, part)
        else if (action.doubt !== null) this.run.end('undecided', { code: 'missing', words: action.doubt }, part)
        else if (action.hops.some(({ kind }) => kind === 'throw')) thrown = diagrams.or(thrown, packets)
        else {
          if (this.run.outcome.decided)
            this.#routesDecided(
              table.numbered,
              part,
              action.hops.some(({ kind }) => kind === 'discard'),
            )
          for (const hop of action.hops) branches.push(...this.#alongHop(hop, part))
        }
      }
    }
    return { branches, thrown }
  }

  /** Of packets that go on, the route of one of them; of those that are discarded, each route that does so. */
  #routesDecided(table: Parameters<CompiledDevice['network']['routeFor']>[0], { set }: Branch, stops: boolean): void {
    const { network, device } = this.run.compiled
    const from = table.table.from === 'captured' ? 'in the captured table' : 'computed from the configuration'
    for (const route of new Set(
      network.destinationsIn(set, stops ? MOST_ROUTES : 1).map((words) => network.routeFor(table, words)),
    )) {
      if (!route) continue
      const prefix = network.prefixes.textOf(network.prefixes.find(route.words, route.length) ?? 0)
      this.run.decided(
        'lookup',
        `${prefix} (${route.protocol}), ${from}${route.assumed === null ? '' : `; ${route.assumed}`}`,
        exhibitsOf(device, route.of, route.path),
        stops,
      )
    }
  }

  #alongHop(hop: Hop, branch: Branch): Branch[] {
    switch (hop.kind) {
      case 'out': {
        const outInterface = this.run.compiled.interfaceNumber(hop.port)
        if (outInterface >= 0) return [{ ...branch, outInterface, gateway: hop.gateway }]
        this.run.end('undecided', { code: 'missing', words: `the route uses ${hop.port}, which is unknown` }, branch)
        return []
      }
      case 'discard':
        this.run.end('stopped', { code: 'discard-route', words: 'a discard route' }, branch)
        return []
      case 'unknown':
        this.run.end('undecided', { code: 'missing', words: hop.why }, branch)
        return []
      case 'throw':
        return []
    }
  }
}

import { FAMILIES, type Family } from '../model/index.ts'
import { ALL, NOTHING, exampleOf, type Circumstance, type ListVerdict, type ModelList } from '../packets/index.ts'
import { AddressTranslation } from './address-translation.ts'
import { exhibitsOf, type Exhibit } from './device.ts'
import { LIST_AFTER_UNWRAPPING, type CompiledDevice } from './compiled.ts'
import type { Fate, Reason } from './fates.ts'
import { Neighbours } from './neighbours.ts'
import { policyParts, type PolicyPart } from './policy-routes.ts'
import { stagesOf, type Stage } from './stages.ts'
import type { Hop } from './tables.ts'
import type { Rewrite, Undoing } from './translations.ts'
import type { Tunnels } from './tunnels.ts'
import { unparsedAt } from './unparsed.ts'
import { ZonePolicies, type ZoneDecision } from './zones.ts'

/** Packets that were changed on their way: how, and those that were, so that it can be told how they were sent. */
export interface Context {
  readonly id: number
  readonly parent: Context | null
  readonly device: number
  /** The rule in its model by which they were. */
  readonly rule: number
  readonly rewrite: Rewrite
  /** Where answers got back what was written over. */
  readonly undone: Undoing | null
  /** The headers that came to be changed, as they were before. Grows while packets still come. */
  before: number
}

/** Where packets of one device end, go on, and what was decided of them. */
export interface PassageOutcome {
  end(fate: Fate, reason: Reason, port: number, set: number, context: Context | null): void
  /** @param by the entry of a map that protects it on its way; -1: none */
  send(outPort: number, device: number, port: number, set: number, context: Context | null, by: number): void
  change(change: Pick<Context, 'parent' | 'rule' | 'rewrite' | 'undone'>, before: number): Context
  /** Told of every decision in turn, with the lines that it rests on, and whether it stops packets; absent where nobody asks. */
  decided?(stage: string, result: string, exhibits: readonly Exhibit[], stops: boolean): void
  /** Told where one of several ways out begins: what is decided from here on is of that way alone. */
  parted?(): void
}

interface Branch {
  readonly set: number
  readonly context: Context | null
  readonly inPort: number
  readonly vrf: string | null
  readonly outPort: number
  /** Null: the destination itself is next door. */
  readonly gateway: string | null
  /** To the device itself. */
  readonly local: boolean
}

const TCP = 6
/** Routes that are told of where packets are discarded. */
const MOST_ROUTES = 64

/** What one device does with packets, stage by stage. */
export class DevicePassage {
  readonly #neighbours: Neighbours
  readonly #translation: AddressTranslation
  readonly #zones: ZonePolicies

  constructor(
    readonly compiled: CompiledDevice,
    readonly tunnels: Tunnels,
  ) {
    this.#neighbours = new Neighbours(compiled, tunnels)
    this.#zones = new ZonePolicies(compiled)
    this.#translation = new AddressTranslation(compiled, (port) => this.#zones.zoneOf(port))
  }

  /**
   * @param inPort the port by which packets come in; -1: the device sends them itself
   * @param remembered what it translated of packets that these answer and that it let through; null: it let none through
   * @param unwrapped whether they came protected by a map
   * @param answers whether they answer others, so that whoever keeps sessions has to have seen those
   */
  pass(inPort: number, set: number, context: Context | null, remembered: readonly Undoing[] | null, outcome: PassageOutcome, unwrapped = false, answers = false): void {
    if (!this.compiled.model && this.compiled.device.tables.length === 0) {
      outcome.end('undecided', { code: 'missing', words: `nothing could be read of ${this.compiled.device.name}` }, inPort, set, context)
      return
    }
    const run = new Run(this.compiled, this.#neighbours, this.#translation, this.#zones, this.tunnels, remembered, unwrapped, answers, outcome)
    run.go({ set, context, inPort, vrf: this.compiled.device.ports[inPort]?.vrf ?? null, outPort: -1, gateway: null, local: false })
  }
}

class Run {
  constructor(
    readonly compiled: CompiledDevice,
    readonly neighbours: Neighbours,
    readonly translation: AddressTranslation,
    readonly zones: ZonePolicies,
    readonly tunnels: Tunnels,
    readonly remembered: readonly Undoing[] | null,
    readonly unwrapped: boolean,
    readonly answers: boolean,
    readonly outcome: PassageOutcome,
  ) {}

  get #headers(): CompiledDevice['network']['headers'] {
    return this.compiled.network.headers
  }

  go(start: Branch): void {
    const order = stagesOf(this.compiled.device.dialect)
    const down = this.compiled.device.ports[start.inPort]?.down ?? null
    if (down !== null) {
      this.#end('stopped', { code: 'interface-down', words: `${this.compiled.device.ports[start.inPort]?.name ?? ''}: ${down}` }, start)
      return
    }
    if (this.#meetsUnparsed(this.compiled.device.unparsed.device, start)) return
    if (start.inPort >= 0 && this.#meetsUnparsed(this.#unparsedAt(start.inPort), start)) return
    let branches = start.inPort < 0 ? [start] : this.#bridged(start.inPort, 'in', start)
    for (const stage of start.inPort < 0 ? order.own : order.arriving) branches = branches.flatMap((branch) => this.#stage(stage, branch))
    for (const branch of branches) {
      this.outcome.parted?.()
      let left = [branch]
      const rest = branch.local ? order.toDevice : start.inPort < 0 ? [] : order.leaving
      for (const stage of rest) left = left.flatMap((one) => this.#stage(stage, one))
      for (const one of left) {
        if (!one.local) {
          if (this.#meetsUnparsed(this.#unparsedAt(one.outPort), one)) continue
          for (const bridged of this.#bridged(one.outPort, 'out', one)) {
            this.#decided('next hop', `${bridged.gateway ?? 'the destination itself'} by ${this.compiled.device.ports[bridged.outPort]?.name ?? ''}`, [])
            this.neighbours.next(bridged, this.outcome)
          }
        } else {
          const reason: Reason = { code: 'delivered-to-device', words: `it is an address of ${this.compiled.device.name} itself` }
          this.#end('arrives', reason, one)
        }
      }
    }
  }

  /** What is met within the segment at a port, between it and who is attached. */
  #bridged(port: number, direction: 'in' | 'out', branch: Branch): Branch[] {
    const { diagrams } = this.#headers
    let left = branch.set
    for (const guard of this.compiled.network.bridged.at(this.compiled.number, port)) {
      const met = direction === 'out' && guard.direction === 'in' ? NOTHING : diagrams.and(left, guard.stopped)
      if (met === NOTHING) continue
      left = diagrams.minus(left, met)
      const at = this.compiled.network.devices[guard.device]?.name ?? ''
      this.#decided('bridging', `${guard.sure ? 'stopped' : 'perhaps stopped'} at ${at} by ${guard.name}`, guard.exhibits, guard.sure)
      if (guard.sure) this.#end('stopped', { code: 'filter', words: `${at}: ${guard.name}` }, { ...branch, set: met })
      else this.#end('undecided', { code: 'not-weighed', words: `${guard.name} at ${at} may stop it, if it comes by there` }, { ...branch, set: met })
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  #unparsedAt(port: number): readonly Exhibit[] {
    return unparsedAt(this.compiled.device.unparsed, this.compiled.device.ports[port]?.name ?? '')
  }

  /** Whether packets meet lines that nobody understood: then nothing more is known of them. */
  #meetsUnparsed(lines: readonly Exhibit[], branch: Branch): boolean {
    if (lines.length === 0) return false
    const words = `${lines.length} unparsed ${lines.length === 1 ? 'line' : 'lines'} may decide it`
    this.#decided('unparsed lines', words, lines, false)
    this.#end('undecided', { code: 'unparsed', words }, branch)
    return true
  }

  #end(fate: Fate, reason: Reason, { outPort, inPort, set, context }: Branch): void {
    this.outcome.end(fate, reason, outPort >= 0 ? outPort : inPort, set, context)
  }

  #stage(stage: Stage, branch: Branch): Branch[] {
    switch (stage.stage) {
      case 'port filter':
        return this.#portFilter(stage.direction, branch)
      case 'list':
        return branch.outPort < 0 && / (?:OUTPUT|POSTROUTING|FORWARD)$/.test(stage.name) && !branch.local ? [branch] : FAMILIES.flatMap((family) => this.#listStage(stage.name, family, stage.name, branch))
      case 'reverse path':
        return this.#reversePath(branch)
      case 'translation':
        return this.#translate(stage.changes, branch)
      case 'lookup':
        return this.#lookup(branch)
      case 'zone policy':
        return this.#zonePolicy(branch)
      case 'protection':
        return this.#protection(branch)
      case 'unwrapping':
        return this.#unwrapping(branch)
      case 'management':
        return this.#management(branch)
    }
  }

  #circumstance({ inPort, outPort, local }: Branch): Circumstance {
    const { ports } = this.compiled.device
    return { inInterface: ports[inPort]?.name ?? null, outInterface: local ? null : (ports[outPort]?.name ?? null), connection: this.remembered ? 'established' : 'new' }
  }

  #portFilter(direction: 'in' | 'out', branch: Branch): Branch[] {
    const port = direction === 'in' ? branch.inPort : branch.outPort
    return FAMILIES.flatMap((family) => {
      const name = port < 0 || branch.local ? null : this.compiled.portList(port, direction, family)
      const set = this.#headers.diagrams.and(branch.set, this.#headers.family(family))
      if (set === NOTHING) return []
      if (name === null) return [{ ...branch, set }]
      // What a map on the port has unwrapped meets the list of the port once more, or does not: that differs between versions.
      const again = direction === 'in' && this.unwrapped ? this.compiled.listAfterUnwrapping : true
      if (again === false) return [{ ...branch, set }]
      return again === null ? this.#perhapsListed(name, family, { ...branch, set }) : this.#listStage(name, family, `filter ${direction}`, { ...branch, set })
    })
  }

  /** Packets of which it is not known whether they meet a list: what it would stop is undecided. */
  #perhapsListed(name: string, family: Family, branch: Branch): Branch[] {
    const list = this.compiled.lists.list(name, family)
    const { diagrams } = this.#headers
    const stopped = list ? this.compiled.lists.decide(list, branch.set, this.#circumstance(branch)).denied : NOTHING
    if (stopped !== NOTHING) this.#end('undecided', { code: 'not-weighed', words: `whether unwrapped packets meet ${name} again is not stated (label ${LIST_AFTER_UNWRAPPING})` }, { ...branch, set: stopped })
    const passed = diagrams.minus(branch.set, stopped)
    return passed === NOTHING ? [] : [{ ...branch, set: passed }]
  }

  /** The packets of a family through a list; all of them where the device has none of that name. */
  #listStage(name: string, family: Family, stage: string, branch: Branch): Branch[] {
    const { diagrams } = this.#headers
    const set = diagrams.and(branch.set, this.#headers.family(family))
    if (set === NOTHING) return []
    const list = this.compiled.lists.list(name, family)
    if (!list) {
      if (stage === name) return [{ ...branch, set }]
      // A list that is applied and does not exist lets everything pass in the dialect of lines in blocks (common practice).
      if (this.compiled.device.dialect === 'indented') {
        this.#decided(stage, `the list ${name} does not exist: everything passes`, this.#portExhibits(branch, stage))
        return [{ ...branch, set }]
      }
      this.#end('undecided', { code: 'not-weighed', words: `the list ${name} does not exist` }, { ...branch, set })
      return []
    }
    const lines: ListVerdict[] = []
    const circumstance = this.#circumstance(branch)
    const { permitted, denied } = this.outcome.decided ? this.compiled.lists.follow(list, set, circumstance, (verdict) => lines.push(verdict)) : this.compiled.lists.decide(list, set, circumstance)
    const both = diagrams.and(permitted, denied)
    if (this.outcome.decided) for (const verdict of lines.filter(({ action }) => action !== 'lead')) this.#decided(stage, `${verdict.action === 'permit' ? 'permitted' : 'denied'} by ${list.name}${verdict.sure ? '' : ', perhaps'}`, [...lines.filter(({ action }) => action === 'lead'), verdict].flatMap((one) => this.#lineExhibits(one)), verdict.action === 'deny')
    if (both !== NOTHING) this.#end('undecided', { code: 'not-weighed', words: `${list.name} holds words that cannot be weighed` }, { ...branch, set: both })
    const stopped = diagrams.minus(denied, permitted)
    if (stopped !== NOTHING) this.#end('stopped', { code: 'filter', words: `${stage}: ${list.name}` }, { ...branch, set: stopped })
    const passed = diagrams.minus(permitted, denied)
    return passed === NOTHING ? [] : this.#intoInstances(list, circumstance, { ...branch, set: passed })
  }

  /** What an entry permits that names a routing instance is looked up in its table. */
  #intoInstances(list: ModelList, circumstance: Circumstance, branch: Branch): Branch[] {
    if (!this.compiled.lists.namesInstances(list)) return [branch]
    const { diagrams } = this.#headers
    const parts: Branch[] = []
    let left = branch.set
    this.compiled.lists.follow(list, branch.set, circumstance, ({ list: of, entry, packets, action }) => {
      const vrf = action === 'permit' ? (of.entries[entry]?.routingInstance ?? null) : null
      const met = vrf === null ? NOTHING : diagrams.and(left, packets)
      if (met === NOTHING) return
      left = diagrams.minus(left, met)
      parts.push({ ...branch, set: met, vrf: vrf === 'default' ? null : vrf })
    })
    return left === NOTHING ? parts : [...parts, { ...branch, set: left }]
  }

  #lineExhibits({ list, entry }: ListVerdict): Exhibit[] {
    const l = this.compiled.model?.accessLists.indexOf(list) ?? -1
    return l < 0 ? [] : exhibitsOf(this.compiled.device, 'model', entry < 0 ? `accessLists[${l}]` : `accessLists[${l}].entries[${entry}]`)
  }

  #portExhibits({ inPort, outPort }: Branch, stage: string): Exhibit[] {
    const at = this.compiled.device.ports[stage.endsWith('in') ? inPort : outPort]?.at ?? -1
    return at < 0 ? [] : exhibitsOf(this.compiled.device, 'model', `interfaces[${at}].filters`)
  }

  #decided(stage: string, result: string, exhibits: readonly Exhibit[], stops = false): void {
    this.outcome.decided?.(stage, result, exhibits, stops)
  }

  #reversePath(branch: Branch): Branch[] {
    if (this.compiled.device.dialect === 'linux') {
      const own = this.#headers.diagrams.and(branch.set, this.compiled.fromItself)
      const others = this.#headers.diagrams.minus(branch.set, own)
      // A kernel takes nothing from outside that says it is from the kernel's own address (RFC 1812 §5.3.7).
      if (own !== NOTHING) this.#end('stopped', { code: 'reverse-path', words: 'it says that it is from this device itself' }, { ...branch, set: own })
      if (others === NOTHING) return []
      return this.#wayBack({ ...branch, set: others })
    }
    return this.#wayBack(branch)
  }

  #wayBack(branch: Branch): Branch[] {
    const port = this.compiled.device.ports[branch.inPort]
    const mode = this.compiled.model?.interfaces[port?.at ?? -1]?.reversePath ?? null
    if (!port || mode === null || (mode !== 'strict' && mode !== 'loose')) return [branch]
    const { diagrams, ipv4 } = this.#headers
    const looked = this.compiled.device.dialect === 'linux' ? diagrams.and(branch.set, ipv4) : branch.set
    const refused = diagrams.minus(looked, this.compiled.reverse(branch.vrf, port.name, mode === 'strict', this.compiled.device.ports[branch.outPort]?.name ?? null))
    if (refused !== NOTHING) {
      const missing = FAMILIES.map((family) => this.compiled.network.tableOf(this.compiled.number, branch.vrf, family)?.table.missing ?? null).find((words) => words !== null) ?? null
      this.#decided('reverse path', `${mode}: no way back to the source${mode === 'strict' ? ' by this port' : ''}`, exhibitsOf(this.compiled.device, 'model', `interfaces[${port.at}].reversePath`), true)
      if (missing === null) this.#end('stopped', { code: 'reverse-path', words: `the ${mode} check of the way back at ${port.name}` }, { ...branch, set: refused })
      else this.#end('undecided', { code: 'missing', words: missing }, { ...branch, set: refused })
    }
    const passed = diagrams.minus(branch.set, refused)
    return passed === NOTHING ? [] : [{ ...branch, set: passed }]
  }

  #translate(changes: 'source' | 'destination', branch: Branch): Branch[] {
    if (branch.local) return [branch]
    const parts = this.remembered ? this.translation.undo(changes, branch.set, this.remembered) : this.translation.meet(changes, branch.inPort, branch.outPort, branch.set, this.#circumstance(branch))
    return parts === null ? [branch] : parts.flatMap(({ set, rewrite, doubt, rule, undone = null }): Branch[] => {
      if (doubt !== null) {
        this.#end('undecided', { code: 'not-weighed', words: doubt }, { ...branch, set })
        return []
      }
      if (!rewrite) return [{ ...branch, set }]
      this.#decided(`${changes} translation`, `${undone ? 'undone: ' : ''}${this.compiled.model?.nat[rule]?.statement ?? ''}`, exhibitsOf(this.compiled.device, 'model', `nat[${rule}]`))
      const context = this.outcome.change({ rule, rewrite, undone, parent: branch.context }, set)
      const after = this.#headers.diagrams.and(this.#headers.forgetAll(set, rewrite.fields), rewrite.values)
      if (this.outcome.decided) this.#decided('header', `${this.#headerWords(set)} becomes ${this.#headerWords(after)}`, [])
      return after === NOTHING ? [] : [{ ...branch, set: after, context }]
    })
  }

  /** One header of a set, as people write it. */
  #headerWords(set: number): string {
    const { addressed, headers } = this.compiled.network
    const packet = exampleOf(addressed, headers.expand(set, addressed, ALL))
    if (!packet) return 'none'
    const end = (address: string, port: number | null): string => (port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`)
    return `${end(packet.source, packet.sourcePort)} to ${end(packet.destination, packet.destinationPort)}`
  }

  #lookup(branch: Branch): Branch[] {
    const { diagrams } = this.#headers
    const own = diagrams.and(branch.set, this.compiled.local(branch.vrf))
    const others = diagrams.minus(branch.set, own)
    // A subnet of such addresses that is attached is one all the same; what is stated goes before what is meant.
    const special = branch.inPort < 0 ? NOTHING : diagrams.minus(diagrams.and(others, this.compiled.special), this.compiled.routedClosely(branch.vrf))
    if (special !== NOTHING) {
      this.#decided('lookup', 'no router hands on packets to this address', [], true)
      this.#end('stopped', { code: 'special-address', words: 'no router hands on packets to this address' }, { ...branch, set: special })
    }
    const many = diagrams.minus(diagrams.and(others, this.compiled.many), special)
    if (many !== NOTHING) this.#end('undecided', { code: 'many-hosts', words: 'packets to many hosts at once are not followed' }, { ...branch, set: many })
    const found: Branch[] = own === NOTHING ? [] : [{ ...branch, set: own, local: true }]
    if (own !== NOTHING) this.#decided('lookup', 'an address of the device itself', [])
    let left = diagrams.minus(diagrams.minus(others, many), special)
    const forwards = this.compiled.forwards
    if (left !== NOTHING && branch.inPort >= 0 && forwards !== null) {
      this.#decided('lookup', forwards.words, forwards.exhibits, true)
      this.#end('stopped', { code: 'not-forwarding', words: forwards.words }, { ...branch, set: left })
      return found
    }
    if (this.compiled.device.dialect !== 'linux') return [...found, ...this.#byPolicy({ ...branch, set: left })]
    for (const rule of this.compiled.rules) {
      if (left === NOTHING) break
      if (rule.inInterface !== null && rule.inInterface !== (branch.inPort < 0 ? 'lo' : this.compiled.device.ports[branch.inPort]?.name)) continue
      const asked = diagrams.and(left, rule.set)
      if (asked === NOTHING) continue
      if (rule.vague.length > 0) {
        this.#end('undecided', { code: 'not-weighed', words: `a rule for tables asks for ${rule.vague.join(', ')}` }, { ...branch, set: asked })
        left = diagrams.minus(left, asked)
        continue
      }
      if (rule.action === 'discard') {
        this.#decided('lookup', 'a rule for tables discards it', exhibitsOf(this.compiled.device, 'state', rule.path), true)
        this.#end('stopped', { code: 'discard-route', words: 'a rule for tables discards it' }, { ...branch, set: asked })
        left = diagrams.minus(left, asked)
        continue
      }
      const { branches, thrown } = this.#inTable(rule.table, asked, branch, true)
      if (branches.length > 0 && rule.path !== '' && rule.table !== null) this.#decided('choice of table', rule.table, exhibitsOf(this.compiled.device, 'state', rule.path))
      found.push(...branches)
      left = diagrams.or(diagrams.minus(left, asked), thrown)
    }
    if (left !== NOTHING) this.#noRoute(null, { ...branch, set: left })
    return found
  }

  /** Where the port by which packets came in has a route map, that is asked before the table. */
  #byPolicy(branch: Branch): Branch[] {
    const { diagrams } = this.#headers
    const routes = branch.inPort < 0 ? undefined : this.compiled.model?.interfaces[this.compiled.device.ports[branch.inPort]?.at ?? -1]?.policyRoutes
    if (!routes || (routes.ipv4 === null && routes.ipv6 === null)) return this.#inTable(branch.vrf, branch.set, branch).branches
    return FAMILIES.flatMap((family) => {
      const set = diagrams.and(branch.set, this.#headers.family(family))
      const name = routes[family]
      if (set === NOTHING) return []
      if (name === null) return this.#inTable(branch.vrf, set, branch).branches
      return policyParts(this.compiled, name, set, family, this.#circumstance(branch)).flatMap((part) => this.#alongPolicy(part, { ...branch, set: part.set }))
    })
  }

  #alongPolicy({ hop, onlyWithoutRoute, words, exhibits }: PolicyPart, branch: Branch): Branch[] {
    if (onlyWithoutRoute) {
      const { diagrams } = this.#headers
      const routed = diagrams.and(branch.set, this.compiled.routedClosely(branch.vrf))
      const left = diagrams.minus(branch.set, routed)
      const others = left === NOTHING ? [] : this.#alongPolicy({ set: left, hop, onlyWithoutRoute: false, words, exhibits }, { ...branch, set: left })
      return routed === NOTHING ? others : [...this.#inTable(branch.vrf, routed, branch).branches, ...others]
    }
    if (hop.kind !== 'table of old') this.#decided('policy routing', words, exhibits, hop.kind === 'discard')
    switch (hop.kind) {
      case 'table of old':
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
    this.#decided('lookup', missing ?? 'no route', [])
    if (missing === null) this.#end('stopped', { code: 'no-route', words: 'no route' }, branch)
    else this.#end('undecided', { code: 'missing', words: missing }, branch)
  }

  /** @param goesOn whether another table is asked for what this one has no route for */
  #inTable(name: string | null, set: number, branch: Branch, goesOn = false): { readonly branches: Branch[]; readonly thrown: number } {
    const { diagrams } = this.#headers
    const branches: Branch[] = []
    let thrown = NOTHING
    for (const family of FAMILIES) {
      const asked = diagrams.and(set, this.#headers.family(family))
      if (asked === NOTHING) continue
      const table = this.compiled.table(name, family)
      if (!table) {
        if (goesOn) thrown = diagrams.or(thrown, asked)
        else this.#noRoute(null, { ...branch, set: asked })
        continue
      }
      const { missing } = table.numbered.table
      for (const { set: destinations, action } of table.parts) {
        const packets = diagrams.and(asked, destinations)
        if (packets === NOTHING) continue
        const part = { ...branch, set: packets }
        if (action === null && goesOn && missing === null) thrown = diagrams.or(thrown, packets)
        else if (action === null) this.#noRoute(missing, part)
        else if (action.doubt !== null) this.#end('undecided', { code: 'missing', words: action.doubt }, part)
        else if (action.hops.some(({ kind }) => kind === 'throw')) thrown = diagrams.or(thrown, packets)
        else {
          if (this.outcome.decided) this.#routesDecided(table.numbered, part, action.hops.some(({ kind }) => kind === 'discard'))
          for (const hop of action.hops) branches.push(...this.#alongHop(hop, part))
        }
      }
    }
    return { branches, thrown }
  }

  /** Of packets that go on, the route of one of them; of those that are discarded, each route that does so. */
  #routesDecided(table: Parameters<CompiledDevice['network']['routeFor']>[0], { set }: Branch, stops: boolean): void {
    const { network, device } = this.compiled
    const from = table.table.from === 'captured' ? 'in the captured table' : 'computed from its lines'
    for (const route of new Set(network.destinationsIn(set, stops ? MOST_ROUTES : 1).map((words) => network.routeFor(table, words)))) {
      if (!route) continue
      const prefix = network.prefixes.textOf(network.prefixes.find(route.words, route.length) ?? 0)
      this.#decided('lookup', `${prefix} (${route.protocol}), ${from}${route.assumed === null ? '' : `; ${route.assumed}`}`, exhibitsOf(device, route.of, route.path), stops)
    }
  }

  #alongHop(hop: Hop, branch: Branch): Branch[] {
    switch (hop.kind) {
      case 'out': {
        const outPort = this.compiled.portNumber(hop.port)
        if (outPort >= 0) return [{ ...branch, outPort, gateway: hop.gateway }]
        this.#end('undecided', { code: 'missing', words: `the route leads out of ${hop.port}, of which nothing is known` }, branch)
        return []
      }
      case 'discard':
        this.#end('stopped', { code: 'discard-route', words: 'a discard route' }, branch)
        return []
      case 'unknown':
        this.#end('undecided', { code: 'missing', words: hop.why }, branch)
        return []
      case 'throw':
        return []
    }
  }

  #zonePolicy(branch: Branch): Branch[] {
    const decision = this.zones.decide(branch.inPort, branch.outPort, branch.set, this.remembered !== null)
    return decision === null ? [branch] : this.#asDecided(decision, branch)
  }

  #asDecided(decision: ZoneDecision, branch: Branch): Branch[] {
    const { diagrams } = this.#headers
    if (this.outcome.decided) for (const { words, exhibits, stops } of decision.lines) this.#decided('zone policy', words, exhibits, stops)
    const both = diagrams.and(decision.permitted, decision.denied)
    if (both !== NOTHING) this.#end('undecided', { code: 'not-weighed', words: decision.doubt ?? 'a policy between zones cannot be weighed' }, { ...branch, set: both })
    const stopped = diagrams.minus(decision.denied, decision.permitted)
    if (stopped !== NOTHING) this.#end('stopped', { code: 'zone-policy', words: decision.name }, { ...branch, set: stopped })
    const passed = diagrams.minus(decision.permitted, decision.denied)
    // Who keeps sessions takes nothing of TCP but its first packet for the beginning of one.
    const strange = this.answers && this.remembered === null ? diagrams.and(diagrams.and(passed, decision.inspected), this.#headers.value('protocol', TCP)) : NOTHING
    if (strange !== NOTHING) {
      this.#decided('session', 'it belongs to no session: the packet that it answers did not come by here', [], true)
      this.#end('stopped', { code: 'no-session', words: `${this.compiled.device.name} knows no session that it belongs to` }, { ...branch, set: strange })
    }
    const left = diagrams.minus(passed, strange)
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /** What must come protected by a map on the port and does not is dropped (RFC 4301 §5.2). */
  #unwrapping(branch: Branch): Branch[] {
    const entries = this.compiled.maps.at(branch.inPort)
    if (entries === null || this.unwrapped) return [branch]
    let left = branch.set
    for (const { name, inward, number } of entries) {
      const bare = inward === null ? NOTHING : this.compiled.lists.decide(inward, left, this.#circumstance(branch)).permitted
      if (bare === NOTHING) continue
      this.#decided('unwrapping', `the map ${name} wants it protected`, exhibitsOf(this.compiled.device, 'model', `ipsecPeers[${number}]`), true)
      this.#end('stopped', { code: 'not-protected', words: `it is not protected as the map ${name} wants it` }, { ...branch, set: bare })
      left = this.#headers.diagrams.minus(left, bare)
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /** Packets that a map on the port chooses go protected to its peer, where their outer packet must arrive (RFC 4301 §5.1). */
  #protection(branch: Branch): Branch[] {
    const entries = this.compiled.maps.at(branch.outPort)
    if (entries === null || branch.local) return [branch]
    const { diagrams } = this.#headers
    let left = branch.set
    for (const entry of entries) {
      // A selector that is not known may choose anything.
      const chosen = entry.outward === null ? left : this.compiled.lists.decide(entry.outward, left, this.#circumstance(branch)).permitted
      if (chosen === NOTHING) continue
      left = diagrams.minus(left, chosen)
      this.#decided('protection', `chosen by the map ${entry.name}`, exhibitsOf(this.compiled.device, 'model', `ipsecPeers[${entry.number}]`))
      const end = (fate: Fate, reason: Reason): void => this.#end(fate, reason, { ...branch, set: chosen })
      if (entry.outward === null || entry.peer === null) {
        end('undecided', { code: 'missing', words: `the map ${entry.name} does not say ${entry.peer === null ? 'to whom' : 'what'} it protects` })
        continue
      }
      for (const one of this.tunnels.mapped(this.compiled.number, branch.outPort, entry.peer)) {
        if (one.kind === 'through') this.outcome.send(branch.outPort, one.device, one.port, chosen, branch.context, entry.number)
        else end(one.fate, one.reason)
      }
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /** Lists on terminal lines are asked for remote logins; the filter of a loopback for everything (common practice). */
  #management(branch: Branch): Branch[] {
    const { model, device } = this.compiled
    if (!model || branch.inPort < 0) return [branch]
    if (device.dialect !== 'indented') {
      const inbound = this.remembered ? null : this.zones.inbound(branch.inPort, branch.set)
      const letIn = inbound === null ? [branch] : this.#asDecided(inbound, branch)
      return letIn.flatMap((one) => this.#loopbackFilter(one))
    }
    return this.#terminalLists(branch)
  }

  #loopbackFilter(branch: Branch): Branch[] {
    const loopback = this.compiled.device.ports.findIndex(({ kind }) => kind === 'loopback')
    return FAMILIES.flatMap((family) => {
      const name = loopback < 0 ? null : this.compiled.portList(loopback, 'in', family)
      const set = this.#headers.diagrams.and(branch.set, this.#headers.family(family))
      return set === NOTHING ? [] : name === null ? [{ ...branch, set }] : this.#listStage(name, family, 'management', { ...branch, set })
    })
  }

  /** Lists on the terminal lines, which logins meet. */
  #terminalLists(branch: Branch): Branch[] {
    const { model } = this.compiled
    if (!model) return [branch]
    const { diagrams } = this.#headers
    const logins = this.#headers.all(this.#headers.tcp, this.#headers.range('destinationPort', [22, 23]))
    const others = diagrams.minus(branch.set, logins)
    const lines = model.system.terminals.filter(({ kind }) => kind === 'remote')
    return [
      ...(others === NOTHING ? [] : [{ ...branch, set: others }]),
      ...FAMILIES.flatMap((family) => {
        const set = this.#headers.all(branch.set, logins, this.#headers.family(family))
        if (set === NOTHING) return []
        const names = new Set(lines.map((line) => (family === 'ipv4' ? line.accessList4 : line.accessList6)))
        const [name = null, ...more] = names
        // Which of the lines takes a login is not known beforehand.
        if (more.length > 0) this.#end('undecided', { code: 'not-weighed', words: 'its terminal lines do not have the same list' }, { ...branch, set })
        return more.length > 0 ? [] : name === null ? [{ ...branch, set }] : this.#listStage(name, family, 'management', { ...branch, set })
      }),
    ]
  }
}

import { FAMILIES } from '../model/index.ts'
import { ALL, NOTHING, exampleOf } from '../headers/index.ts'
import { AddressTranslation } from './address-translation.ts'
import { exhibitsOf, type Exhibit } from './device.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Fate, Reason } from './fates.ts'
import { Neighbours } from './neighbours.ts'
import type { Stage } from '../dialects/index.ts'
import type { Undoing } from './translations.ts'
import type { Tunnels } from './tunnels.ts'
import { FilterStages } from './filter-stages.ts'
import { LookupStage } from './lookup-stage.ts'
import { PassageRun, type Branch, type Context, type PassageOutcome } from './passage-run.ts'
import { unparsedAt } from './unparsed.ts'
import { ZonePolicies, type ZoneDecision } from './zones.ts'

const TCP = 6

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
    this.#translation = new AddressTranslation(compiled, this.#zones)
  }

  /**
   * @param inPort the port by which packets come in; -1: the device sends them itself
   * @param remembered what it translated of packets that these answer and that it let through; null: it let none
   *   through
   * @param unwrapped whether they came protected by a map
   * @param answers whether they answer others, so that whoever keeps sessions has to have seen those
   */
  pass(
    inPort: number,
    set: number,
    context: Context | null,
    remembered: readonly Undoing[] | null,
    outcome: PassageOutcome,
    unwrapped = false,
    answers = false,
  ): void {
    if (!this.compiled.model && this.compiled.device.tables.length === 0) {
      outcome.end(
        'undecided',
        { code: 'missing', words: `nothing could be read of ${this.compiled.device.name}` },
        inPort,
        set,
        context,
      )
      return
    }
    const run = new PassageRun(this.compiled, remembered, unwrapped, answers, outcome)
    new Passage(run, this.#neighbours, this.#translation, this.#zones, this.tunnels).go({
      set,
      context,
      inPort,
      vrf: this.compiled.device.ports[inPort]?.vrf ?? null,
      outPort: -1,
      gateway: null,
      local: false,
      translatedBy: -1,
    })
  }
}
/** One run of packets through the stages of a device. */
class Passage {
  readonly filters: FilterStages
  readonly tables: LookupStage

  constructor(
    readonly run: PassageRun,
    readonly neighbours: Neighbours,
    readonly translation: AddressTranslation,
    readonly zones: ZonePolicies,
    readonly tunnels: Tunnels,
  ) {
    this.filters = new FilterStages(run)
    this.tables = new LookupStage(run)
  }

  go(start: Branch): void {
    const order = this.run.compiled.device.rules.stages
    const down = this.run.compiled.device.ports[start.inPort]?.down ?? null
    if (down !== null) {
      this.run.end(
        'stopped',
        { code: 'interface-down', words: `${this.run.compiled.device.ports[start.inPort]?.name ?? ''}: ${down}` },
        start,
      )
      return
    }
    if (this.#meetsUnparsed(this.run.compiled.device.unparsed.device, start)) return
    if (start.inPort >= 0 && this.#meetsUnparsed(this.#unparsedAt(start.inPort), start)) return
    let branches = start.inPort < 0 ? [start] : this.#bridged(start.inPort, 'in', start)
    for (const stage of start.inPort < 0 ? order.own : order.arriving)
      branches = branches.flatMap((branch) => this.#stage(stage, branch))
    for (const branch of branches) {
      this.run.outcome.parted?.()
      let left = [branch]
      const rest = branch.local ? order.toDevice : start.inPort < 0 ? [] : order.leaving
      for (const stage of rest) left = left.flatMap((one) => this.#stage(stage, one))
      for (const one of left) {
        if (!one.local) {
          if (this.#meetsUnparsed(this.#unparsedAt(one.outPort), one)) continue
          for (const bridged of this.#bridged(one.outPort, 'out', one)) {
            this.run.decided(
              'next hop',
              `${bridged.gateway ?? 'the destination itself'} by ${this.run.compiled.device.ports[bridged.outPort]?.name ?? ''}`,
              [],
            )
            this.neighbours.next(bridged, this.run.outcome)
          }
        } else {
          const reason: Reason = {
            code: 'delivered-to-device',
            words: `it is an address of ${this.run.compiled.device.name} itself`,
          }
          this.run.end('arrives', reason, one)
        }
      }
    }
  }

  /** What is met within the segment at a port, between it and who is attached. */
  #bridged(port: number, direction: 'in' | 'out', branch: Branch): Branch[] {
    const { diagrams } = this.run.headers
    let left = branch.set
    for (const guard of this.run.compiled.network.bridged.at(this.run.compiled.number, port)) {
      const met = direction === 'out' && guard.direction === 'in' ? NOTHING : diagrams.and(left, guard.stopped)
      if (met === NOTHING) continue
      left = diagrams.minus(left, met)
      const at = this.run.compiled.network.devices[guard.device]?.name ?? ''
      this.run.decided(
        'bridging',
        `${guard.sure ? 'stopped' : 'perhaps stopped'} at ${at} by ${guard.name}`,
        guard.exhibits,
        guard.sure,
      )
      if (guard.sure)
        this.run.end('stopped', { code: 'filter', words: `${at}: ${guard.name}` }, { ...branch, set: met })
      else
        this.run.end(
          'undecided',
          { code: 'not-weighed', words: `${guard.name} at ${at} may stop it, if it comes by there` },
          { ...branch, set: met },
        )
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  #unparsedAt(port: number): readonly Exhibit[] {
    return unparsedAt(this.run.compiled.device.unparsed, this.run.compiled.device.ports[port]?.name ?? '')
  }

  /** Whether packets meet lines that nobody understood: then nothing more is known of them. */
  #meetsUnparsed(lines: readonly Exhibit[], branch: Branch): boolean {
    if (lines.length === 0) return false
    const words = `${lines.length} unparsed ${lines.length === 1 ? 'line' : 'lines'} may decide it`
    this.run.decided('unparsed lines', words, lines, false)
    this.run.end('undecided', { code: 'unparsed', words }, branch)
    return true
  }

  #stage(stage: Stage, branch: Branch): Branch[] {
    switch (stage.stage) {
      case 'port filter':
        return this.filters.portFilter(stage.direction, branch)
      case 'list':
        return branch.outPort < 0 && / (?:OUTPUT|POSTROUTING|FORWARD)$/.test(stage.name) && !branch.local
          ? [branch]
          : FAMILIES.flatMap((family) => this.filters.listStage(stage.name, family, stage.name, branch))
      case 'reverse path':
        return this.#reversePath(branch)
      case 'translation':
        return this.#translate(stage.changes, branch)
      case 'lookup':
        return this.tables.lookup(branch)
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

  #reversePath(branch: Branch): Branch[] {
    if (this.run.compiled.device.rules.tables === 'kernel') {
      const own = this.run.headers.diagrams.and(branch.set, this.run.compiled.fromItself)
      const others = this.run.headers.diagrams.minus(branch.set, own)
      // A kernel takes nothing from outside that says it is from the kernel's own address (RFC 1812 §5.3.7).
      if (own !== NOTHING)
        this.run.end(
          'stopped',
          { code: 'reverse-path', words: 'it says that it is from this device itself' },
          { ...branch, set: own },
        )
      if (others === NOTHING) return []
      return this.#wayBack({ ...branch, set: others })
    }
    return this.#wayBack(branch)
  }

  #wayBack(branch: Branch): Branch[] {
    const port = this.run.compiled.device.ports[branch.inPort]
    const mode = this.run.compiled.model?.interfaces[port?.at ?? -1]?.reversePath ?? null
    if (!port || mode === null || (mode !== 'strict' && mode !== 'loose' && mode !== 'feasible')) return [branch]
    const { diagrams, ipv4 } = this.run.headers
    const looked = this.run.compiled.device.rules.tables === 'kernel' ? diagrams.and(branch.set, ipv4) : branch.set
    const refused = diagrams.minus(
      looked,
      this.run.compiled.reverse(
        branch.vrf,
        port.name,
        mode,
        this.run.compiled.device.ports[branch.outPort]?.name ?? null,
      ),
    )
    if (refused !== NOTHING) {
      const missing =
        FAMILIES.map(
          (family) =>
            this.run.compiled.network.tableOf(this.run.compiled.number, branch.vrf, family)?.table.missing ?? null,
        ).find((words) => words !== null) ?? null
      this.run.decided(
        'reverse path',
        `${mode}: no way back to the source${mode === 'loose' ? '' : ' by this port'}`,
        exhibitsOf(this.run.compiled.device, 'model', `interfaces[${port.at}].reversePath`),
        true,
      )
      if (missing === null)
        this.run.end(
          'stopped',
          { code: 'reverse-path', words: `the ${mode} check of the way back at ${port.name}` },
          { ...branch, set: refused },
        )
      else this.run.end('undecided', { code: 'missing', words: missing }, { ...branch, set: refused })
    }
    const passed = diagrams.minus(branch.set, refused)
    return passed === NOTHING ? [] : [{ ...branch, set: passed }]
  }

  #translate(changes: 'source' | 'destination', branch: Branch): Branch[] {
    if (branch.local) return [branch]
    const parts = this.run.remembered
      ? this.translation.undo(changes, branch.set, this.run.remembered)
      : this.translation.meet(changes, branch, this.run.circumstance(branch))
    return parts === null
      ? [branch]
      : parts.flatMap(({ set, rewrite, doubt, rule, by, undone = null }): Branch[] => {
          if (doubt !== null) {
            this.run.end('undecided', { code: 'not-weighed', words: doubt }, { ...branch, set })
            return []
          }
          if (!rewrite) return [{ ...branch, set }]
          this.run.decided(
            `${changes} translation`,
            `${undone ? 'undone: ' : ''}${by?.words ?? this.run.compiled.model?.nat[rule]?.statement ?? ''}`,
            exhibitsOf(this.run.compiled.device, 'model', by?.path ?? `nat[${rule}]`),
          )
          const context = this.run.outcome.change({ rule, rewrite, undone, parent: branch.context }, set)
          const after = this.run.headers.diagrams.and(this.run.headers.forgetAll(set, rewrite.fields), rewrite.values)
          if (this.run.outcome.decided)
            this.run.decided('header', `${this.#headerWords(set)} becomes ${this.#headerWords(after)}`, [])
          return after === NOTHING
            ? []
            : [{ ...branch, set: after, context, translatedBy: changes === 'destination' ? rule : branch.translatedBy }]
        })
  }

  /** One header of a set, as people write it. */
  #headerWords(set: number): string {
    const { addressed, headers } = this.run.compiled.network
    const packet = exampleOf(addressed, headers.expand(set, addressed, ALL))
    if (!packet) return 'none'
    const end = (address: string, port: number | null): string =>
      port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`
    return `${end(packet.source, packet.sourcePort)} to ${end(packet.destination, packet.destinationPort)}`
  }

  #zonePolicy(branch: Branch): Branch[] {
    const decision = this.zones.decide(branch, this.run.remembered !== null)
    return decision === null ? [branch] : this.#asDecided(decision, branch)
  }

  #asDecided(decision: ZoneDecision, branch: Branch): Branch[] {
    const { diagrams } = this.run.headers
    if (this.run.outcome.decided)
      for (const { words, exhibits, stops } of decision.lines) this.run.decided('zone policy', words, exhibits, stops)
    const both = diagrams.and(decision.permitted, decision.denied)
    if (both !== NOTHING)
      this.run.end(
        'undecided',
        { code: 'not-weighed', words: decision.doubt ?? 'a policy between zones cannot be weighed' },
        { ...branch, set: both },
      )
    const stopped = diagrams.minus(decision.denied, decision.permitted)
    if (stopped !== NOTHING)
      this.run.end('stopped', { code: 'zone-policy', words: decision.name }, { ...branch, set: stopped })
    const passed = diagrams.minus(decision.permitted, decision.denied)
    // Who keeps sessions takes nothing of TCP but its first packet for the beginning of one.
    const strange =
      this.run.answers && this.run.remembered === null
        ? diagrams.and(diagrams.and(passed, decision.inspected), this.run.headers.value('protocol', TCP))
        : NOTHING
    if (strange !== NOTHING) {
      this.run.decided('session', 'it belongs to no session: the packet that it answers did not come by here', [], true)
      this.run.end(
        'stopped',
        { code: 'no-session', words: `${this.run.compiled.device.name} knows no session that it belongs to` },
        { ...branch, set: strange },
      )
    }
    const left = diagrams.minus(passed, strange)
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /** What must come protected by a map on the port and does not is dropped (RFC 4301 §5.2). */
  #unwrapping(branch: Branch): Branch[] {
    const entries = this.run.compiled.maps.at(branch.inPort)
    if (entries === null || this.run.unwrapped) return [branch]
    let left = branch.set
    for (const { name, inward, number } of entries) {
      const bare =
        inward === null
          ? NOTHING
          : this.run.compiled.lists.decide(inward, left, this.run.circumstance(branch)).permitted
      if (bare === NOTHING) continue
      this.run.decided(
        'unwrapping',
        `the map ${name} wants it protected`,
        exhibitsOf(this.run.compiled.device, 'model', `ipsecPeers[${number}]`),
        true,
      )
      this.run.end(
        'stopped',
        { code: 'not-protected', words: `it is not protected as the map ${name} wants it` },
        { ...branch, set: bare },
      )
      left = this.run.headers.diagrams.minus(left, bare)
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /**
   * Packets that a map on the port chooses go protected to its peer, where their outer packet must arrive (RFC 4301
   * §5.1).
   */
  #protection(branch: Branch): Branch[] {
    const entries = this.run.compiled.maps.at(branch.outPort)
    if (entries === null || branch.local) return [branch]
    const { diagrams } = this.run.headers
    let left = branch.set
    for (const entry of entries) {
      // A selector that is not known may choose anything.
      const chosen =
        entry.outward === null
          ? left
          : this.run.compiled.lists.decide(entry.outward, left, this.run.circumstance(branch)).permitted
      if (chosen === NOTHING) continue
      left = diagrams.minus(left, chosen)
      this.run.decided(
        'protection',
        `chosen by the map ${entry.name}`,
        exhibitsOf(this.run.compiled.device, 'model', `ipsecPeers[${entry.number}]`),
      )
      const end = (fate: Fate, reason: Reason): void => this.run.end(fate, reason, { ...branch, set: chosen })
      if (entry.outward === null || entry.peer === null) {
        end('undecided', {
          code: 'missing',
          words: `the map ${entry.name} does not say ${entry.peer === null ? 'to whom' : 'what'} it protects`,
        })
        continue
      }
      for (const one of this.tunnels.mapped(this.run.compiled.number, branch.outPort, entry.peer)) {
        if (one.kind === 'through')
          this.run.outcome.send(branch.outPort, one.device, one.port, chosen, branch.context, entry.number)
        else end(one.fate, one.reason)
      }
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  /** Lists on terminal lines are asked for remote logins; the filter of a loopback for everything (common practice). */
  #management(branch: Branch): Branch[] {
    const { model, device } = this.run.compiled
    if (!model || branch.inPort < 0) return [branch]
    if (device.rules.management === 'nothing') return [branch]
    if (device.rules.management === 'zones and loopback') {
      const inbound = this.run.remembered ? null : this.zones.inbound(branch.inPort, branch.set)
      const letIn = inbound === null ? [branch] : this.#asDecided(inbound, branch)
      return letIn.flatMap((one) => this.filters.loopbackFilter(one))
    }
    return this.filters.terminalLists(branch)
  }
}

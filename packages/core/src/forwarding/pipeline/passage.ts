import { DOWN_WORDS } from '../network/interfaces.ts'
import { NOTHING } from '../../headers/index.ts'
import { AddressTranslation } from './translations/index.ts'
import type { Exhibit } from '../network/exhibit.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Reason } from './fates.ts'
import { Neighbours } from '../engine/neighbours.ts'
import type { ReverseTranslation } from './rewrite.ts'
import type { Tunnels } from '../engine/tunnels.ts'
import { ListFilters } from './list-filters.ts'
import type { PassageParts } from './stage.ts'
import { throughStage } from './stages/index.ts'
import { PassageRun, type PassageOutcome } from './passage-run.ts'
import type { Context } from './context.ts'
import type { Branch } from './branch.ts'
import { unparsedAt } from '../network/unparsed.ts'
import { ZonePolicies } from './zones/zone-policies.ts'

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
   * @param inInterface the interface by which packets come in; -1: the device sends them itself
   * @param remembered what it translated of packets that these answer and that it let through; null: it let none
   *   through
   * @param unwrapped whether they came protected by a map
   * @param answers whether they answer others, so that whoever keeps sessions has to have seen those
   */
  pass(
    inInterface: number,
    set: number,
    context: Context | null,
    remembered: readonly ReverseTranslation[] | null,
    outcome: PassageOutcome,
    unwrapped = false,
    answers = false,
  ): void {
    if (!this.compiled.model && this.compiled.network.tablesOf(this.compiled.number).length === 0) {
      outcome.end(
        'undecided',
        { code: 'missing', words: `no record of ${this.compiled.device.name} could be parsed` },
        inInterface,
        set,
        context,
      )
      return
    }
    const run = new PassageRun(this.compiled, remembered, unwrapped, answers, outcome)
    new Passage(run, this.#neighbours, this.#translation, this.#zones, this.tunnels).go({
      set,
      context,
      inInterface,
      vrf: this.compiled.device.interfaces[inInterface]?.vrf ?? null,
      outInterface: -1,
      gateway: null,
      local: false,
      translatedBy: -1,
    })
  }
}
/** One run of packets through the stages of a device. */
class Passage implements PassageParts {
  readonly filters: ListFilters

  constructor(
    readonly run: PassageRun,
    readonly neighbours: Neighbours,
    readonly translation: AddressTranslation,
    readonly zones: ZonePolicies,
    readonly tunnels: Tunnels,
  ) {
    this.filters = new ListFilters(run)
  }

  go(start: Branch): void {
    const { incomplete } = this.run.compiled.device.unparsed
    if (incomplete) {
      this.run.decided('incomplete configuration', incomplete.words, incomplete.exhibits, false)
      this.run.end('undecided', { code: 'missing', words: incomplete.words }, start)
      return
    }
    const order = this.run.compiled.device.rules.stages
    const down = this.run.compiled.device.interfaces[start.inInterface]?.down ?? null
    if (down !== null) {
      this.run.end(
        'stopped',
        {
          code: 'interface-down',
          words: `${this.run.compiled.device.interfaces[start.inInterface]?.name ?? ''}: ${DOWN_WORDS[down]}`,
        },
        start,
      )
      return
    }
    if (this.#meetsUnparsed(this.run.compiled.device.unparsed.device, start)) return
    if (start.inInterface >= 0 && this.#meetsUnparsed(this.#unparsedAt(start.inInterface), start)) return
    let branches = start.inInterface < 0 ? [start] : this.#bridged(start.inInterface, 'in', start)
    for (const stage of start.inInterface < 0 ? order.own : order.arriving)
      branches = branches.flatMap((branch) => throughStage(stage, branch, this))
    for (const branch of branches) {
      this.run.outcome.parted?.()
      let left = [branch]
      const rest = branch.local ? order.toDevice : start.inInterface < 0 ? [] : order.leaving
      for (const stage of rest) left = left.flatMap((one) => throughStage(stage, one, this))
      for (const one of left) {
        if (!one.local) {
          if (this.#meetsUnparsed(this.#unparsedAt(one.outInterface), one)) continue
          for (const bridged of this.#bridged(one.outInterface, 'out', one)) {
            this.run.decided(
              'next hop',
              `${bridged.gateway ?? 'the destination itself'} by ` +
                `${this.run.compiled.device.interfaces[bridged.outInterface]?.name ?? ''}`,
              [],
            )
            this.neighbours.next(bridged, this.run.outcome)
          }
        } else {
          const reason: Reason = {
            code: 'at-device',
            words: `it is an address of ${this.run.compiled.device.name} itself`,
          }
          this.run.end('arrives', reason, one)
        }
      }
    }
  }

  /** What is met within the segment at an interface, between it and who is attached. */
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
          { code: 'not-evaluated', words: `${guard.name} at ${at} may stop it if it passes there` },
          { ...branch, set: met },
        )
    }
    return left === NOTHING ? [] : [{ ...branch, set: left }]
  }

  #unparsedAt(port: number): readonly Exhibit[] {
    return unparsedAt(this.run.compiled.device.unparsed, this.run.compiled.device.interfaces[port]?.name ?? '')
  }

  /** Whether packets meet unparsed lines: then nothing more is known of them. */
  #meetsUnparsed(lines: readonly Exhibit[], branch: Branch): boolean {
    if (lines.length === 0) return false
    const words = `${lines.length} unparsed ${lines.length === 1 ? 'line' : 'lines'} may decide it`
    this.run.decided('unparsed lines', words, lines, false)
    this.run.end('undecided', { code: 'unparsed', words }, branch)
    return true
  }
}

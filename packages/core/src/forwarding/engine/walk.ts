import type { Origin, SessionState, Walked } from './walked.ts'
import { NOTHING } from '../../headers/index.ts'
import { CompiledDevice } from '../pipeline/compiled.ts'
import type { Exhibit } from '../network/exhibit.ts'
import type { Network } from '../network/network.ts'
import type { Fate, Reason } from '../pipeline/fates.ts'
import type { PassageOutcome } from '../pipeline/passage-run.ts'
import type { Context } from '../pipeline/context.ts'
import { DevicePassage } from '../pipeline/passage.ts'
import type { ReverseTranslation } from '../pipeline/rewrite.ts'
import { Tunnels, type TunnelEnd } from './tunnels.ts'

/** The same for answers: a stateful device must have seen the packets that they answer. */
export class AnsweredPackets extends Map<number, readonly ReverseTranslation[]> {}

/** Stations at most; beyond them packets are being changed again and again. */
const MOST_CHANGES = 8

/** The compiled devices of a network; kept from one question to the next. */
export class Walker {
  readonly #passages: (DevicePassage | undefined)[] = []

  readonly #tunnels: Tunnels

  constructor(readonly network: Network) {
    this.#tunnels = new Tunnels(network, (origins) => this.walk(origins))
  }

  /** Where packets come out that enter a tunnel by an interface. */
  tunnelEnds(device: number, port: number): readonly TunnelEnd[] {
    return this.#tunnels.tunnel(device, port).ends
  }

  passage(device: number): DevicePassage {
    return (this.#passages[device] ??= new DevicePassage(new CompiledDevice(this.network, device), this.#tunnels))
  }

  /**
   * Follows every packet of some sets through the network, on every equal path.
   * @param remembered by devices of what these packets answer
   * @param endAt devices at which packets are taken out: they end there as what arrives, for the reason `taken`
   */
  walk(
    origins: readonly Origin[],
    remembered: SessionState = new Map(),
    endAt: ReadonlySet<number> = new Set(),
  ): Walked {
    const run = new Run(this, remembered, endAt)
    run.begin(origins)
    return run.finish()
  }

  /**
   * The lines by which any of some packets are stopped, on whatever path; each once. What is remembered differs by what
   * packets answer.
   */
  stoppedBy(starts: readonly { readonly origins: readonly Origin[]; readonly remembered: SessionState }[]): Exhibit[] {
    const lines = new Map<string, Exhibit>()
    for (const { origins, remembered } of starts) {
      const run = new Run(this, remembered, new Set(), (exhibits) => {
        for (const one of exhibits) lines.set(`${one.device} ${one.record} ${one.from}`, one)
      })
      run.begin(origins)
    }
    return [...lines.values()]
  }
}

/** A place where packets are: an interface by which they came in, and how they were changed before. */
interface Station {
  readonly key: string
  readonly device: number
  readonly port: number
  readonly context: Context | null
  /** Whether packets came protected by a map. */
  readonly unwrapped: boolean
  /** All packets that came to this station, and those that still have to go on. */
  arrived: number
  fresh: number
  readonly out: Map<string, Step>
}

interface Step {
  readonly to: Station
  readonly outInterface: number
  readonly by: number
  /** As they arrive there. */
  set: number
}

class Run {
  readonly #stations = new Map<string, Station>()
  readonly #endings = new Map<
    string,
    { fate: Fate; reason: Reason; device: number; port: number; set: number; context: Context | null }
  >()
  readonly #contexts = new Map<string, Context>()
  readonly #queue: Station[] = []

  constructor(
    readonly walker: Walker,
    readonly remembered: SessionState,
    readonly endAt: ReadonlySet<number>,
    /** Called with the lines that stop packets; absent where nobody asks. */
    readonly stopping?: (exhibits: readonly Exhibit[]) => void,
  ) {}

  get #diagrams(): Network['headers']['diagrams'] {
    return this.walker.network.headers.diagrams
  }

  begin(origins: readonly Origin[]): void {
    for (const { device, port, set } of origins) this.#arrive(device, port, set, null, false)
    for (let station = this.#queue.shift(); station; station = this.#queue.shift()) this.#goOn(station)
  }

  #station(device: number, port: number, context: Context | null, unwrapped: boolean): Station {
    const key = `${device} ${port} ${context?.id ?? ''}${unwrapped ? ' unwrapped' : ''}`
    let station = this.#stations.get(key)
    if (!station)
      this.#stations.set(
        key,
        (station = { key, device, port, context, unwrapped, arrived: NOTHING, fresh: NOTHING, out: new Map() }),
      )
    return station
  }

  #arrive(device: number, port: number, set: number, context: Context | null, unwrapped: boolean): Station {
    const station = this.#station(device, port, context, unwrapped)
    // Packets that were here before need not be followed again.
    const fresh = this.#diagrams.minus(set, station.arrived)
    if (fresh !== NOTHING) {
      if (station.fresh === NOTHING) this.#queue.push(station)
      station.fresh = this.#diagrams.or(station.fresh, fresh)
      station.arrived = this.#diagrams.or(station.arrived, fresh)
    }
    return station
  }

  #goOn(station: Station): void {
    const set = station.fresh
    station.fresh = NOTHING
    const { device } = station
    const outcome: PassageOutcome = {
      end: (fate, reason, port, some, context) => this.#end(fate, reason, device, port, some, context),
      send: (outInterface, toDevice, toPort, some, context, by) => {
        const to = this.#arrive(toDevice, toPort, some, context, by >= 0)
        const key = `${outInterface} ${by} ${to.key}`
        const step = station.out.get(key)
        if (step) step.set = this.#diagrams.or(step.set, some)
        else station.out.set(key, { to, outInterface, by, set: some })
      },
      change: (change, before) => this.#change({ ...change, device }, before),
      ...(this.stopping && {
        decided: (_stage: string, _result: string, exhibits: readonly Exhibit[], stops: boolean) =>
          stops && this.stopping?.(exhibits),
      }),
    }
    if (this.endAt.has(device))
      this.#end('arrives', { code: 'taken', words: 'it passes here' }, device, station.port, set, station.context)
    else if (depthOf(station.context) > MOST_CHANGES)
      this.#end(
        'loops',
        { code: 'loop', words: 'it is translated repeatedly' },
        device,
        station.port,
        set,
        station.context,
      )
    else
      this.walker
        .passage(device)
        .pass(
          station.port,
          set,
          station.context,
          this.remembered.get(device) ?? null,
          outcome,
          station.unwrapped,
          this.remembered instanceof AnsweredPackets,
        )
  }

  #end(fate: Fate, reason: Reason, device: number, port: number, set: number, context: Context | null): void {
    const key = `${fate} ${reason.code} ${reason.words} ${device} ${port} ${context?.id ?? ''}`
    const held = this.#endings.get(key)
    if (held) held.set = this.#diagrams.or(held.set, set)
    else this.#endings.set(key, { fate, reason, device, port, set, context })
  }

  #change(change: Omit<Context, 'id' | 'before'>, before: number): Context {
    const { device, rule, rewrite, undone, parent } = change
    const key = `${device} ${rule} ${rewrite.values} ${undone?.met ?? ''} ${parent?.id ?? ''}`
    const held = this.#contexts.get(key)
    if (held) {
      held.before = this.#diagrams.or(held.before, before)
      return held
    }
    const context: Context = { ...change, id: this.#contexts.size, before }
    this.#contexts.set(key, context)
    return context
  }

  /** The headers with which packets of a set were sent. */
  #sent(set: number, context: Context | null): number {
    return this.#between(set, null, context)
  }

  finish(): Walked {
    this.#loops()
    return {
      endings: [...this.#endings.values()]
        .map(({ fate, reason, device, port, set, context }) => ({
          fate,
          reason,
          device,
          port,
          sent: this.#sent(set, context),
          ended: set,
          context,
        }))
        .filter(({ sent }) => sent !== NOTHING),
      crossings: [...this.#stations.values()].flatMap(({ device, out }) =>
        [...out.values()].map(({ to, outInterface, by, set }) => ({
          from: { device, port: outInterface },
          to: { device: to.device, port: to.port },
          by,
          set: this.#sent(set, to.context),
        })),
      ),
    }
  }

  /**
   * Packets that never end: at each station of a loop those that can go on to another of it, for ever. The greatest
   * such sets are found by beginning with all that came and taking away what cannot go on, until nothing more goes.
   */
  #loops(): void {
    const loop = inLoops([...this.#stations.values()])
    if (loop.size === 0) return
    const held = new Map([...loop].map((station) => [station, station.arrived]))
    const before = new Map<Station, Station[]>()
    for (const station of loop)
      for (const { to } of station.out.values()) if (loop.has(to)) before.set(to, [...(before.get(to) ?? []), station])
    const queue = new Set(loop)
    for (const station of queue) {
      queue.delete(station)
      const now = held.get(station) ?? NOTHING
      let left = NOTHING
      for (const { to, set } of station.out.values()) {
        if (!loop.has(to)) continue
        const goes = this.#diagrams.and(set, held.get(to) ?? NOTHING)
        left = this.#diagrams.or(left, this.#diagrams.and(now, this.#between(goes, station.context, to.context)))
      }
      if (left === now) continue
      held.set(station, left)
      for (const earlier of before.get(station) ?? []) queue.add(earlier)
    }
    for (const [station, set] of held)
      if (set !== NOTHING)
        this.#end(
          'loops',
          { code: 'loop', words: 'it passes repeatedly' },
          station.device,
          station.port,
          set,
          station.context,
        )
  }

  /** Headers as they were at a station before they were changed on to the next. */
  #between(set: number, from: Context | null, to: Context | null): number {
    const { headers } = this.walker.network
    let back = set
    for (let at = to; at !== null && at !== from; at = at.parent) {
      const { fields, values } = at.rewrite
      back = this.#diagrams.and(at.before, headers.forgetAll(this.#diagrams.and(back, values), fields))
    }
    return back
  }
}

function depthOf(context: Context | null): number {
  let depth = 0
  for (let at = context; at !== null; at = at.parent) depth++
  return depth
}

/**
 * The stations from which a way leads back to themselves: strongly connected (Tarjan, SIAM Journal on Computing 1,
 * 1972).
 */
function inLoops(stations: readonly Station[]): Set<Station> {
  const index = new Map<Station, number>()
  const low = new Map<Station, number>()
  const stack: Station[] = []
  const on = new Set<Station>()
  const found = new Set<Station>()
  // Uses an explicit stack: a path may be longer than the call stack is deep.
  for (const root of stations) {
    if (index.has(root)) continue
    const work: { station: Station; next: Station[] }[] = []
    const enter = (station: Station): void => {
      index.set(station, index.size)
      low.set(station, index.size - 1)
      stack.push(station)
      on.add(station)
      work.push({ station, next: [...station.out.values()].map(({ to }) => to) })
    }
    enter(root)
    for (let frame = work.at(-1); frame; frame = work.at(-1)) {
      const { station, next } = frame
      const to = next.pop()
      if (to) {
        if (!index.has(to)) enter(to)
        else if (on.has(to)) low.set(station, Math.min(low.get(station) ?? 0, index.get(to) ?? 0))
        continue
      }
      work.pop()
      const above = work.at(-1)?.station
      if (above) low.set(above, Math.min(low.get(above) ?? 0, low.get(station) ?? 0))
      if (low.get(station) !== index.get(station)) continue
      const component: Station[] = []
      for (let member = stack.pop(); member; member = stack.pop()) {
        on.delete(member)
        component.push(member)
        if (member === station) break
      }
      if (component.length > 1 || [...station.out.values()].some(({ to: own }) => own === station))
        for (const member of component) found.add(member)
    }
  }
  return found
}

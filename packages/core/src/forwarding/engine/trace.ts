import { NOTHING, type Packet } from '../../headers/index.ts'
import type { Exhibit } from '../network/exhibit.ts'
import { layersOf } from './protection.ts'
import { FATES, type Fate, type Reason } from '../pipeline/fates.ts'
import type { PassageOutcome } from '../pipeline/passage-run.ts'
import type { Context } from '../pipeline/context.ts'
import { AnsweredPackets, type Walker } from './walk.ts'
import type { SessionState } from './walked.ts'

export interface Decision {
  readonly stage: string
  readonly result: string
  readonly exhibits: readonly Exhibit[]
}

/** One device on the way of a packet, and what was decided there in turn. */
export interface TraceHop {
  readonly device: string
  readonly in: string | null
  readonly out: string | null
  readonly decisions: readonly Decision[]
  /** The layers that cover it on the link to the next hop. */
  readonly layers?: readonly string[]
}

/** One way of a packet, to where it ends. */
export interface TracePath {
  readonly fate: Fate
  readonly reason: Reason
  /** Where it ends. */
  readonly device: string
  readonly hops: readonly TraceHop[]
  /** The layers that cover it, a link a line. */
  readonly protection: readonly string[]
}

export interface Trace {
  readonly fates: readonly Fate[]
  readonly paths: readonly TracePath[]
  /** Whether these are all its paths. */
  readonly whole: boolean
}

/** Equal-cost paths multiply; so many of them are shown. */
const MOST_PATHS = 64

/**
 * Follows one packet, with every decision and the lines that it rests on.
 * @param port by which it comes in; -1: the device sends it
 */
export function traceOf(
  walker: Walker,
  device: number,
  port: number,
  packet: Packet,
  remembered: SessionState = new Map(),
): Trace {
  const trace = new Tracing(walker, remembered)
  trace.follow(device, port, walker.network.headers.packet(packet), null, [], false)
  return {
    fates: FATES.filter((fate) => trace.paths.some((path) => path.fate === fate)),
    paths: trace.paths,
    whole: trace.whole,
  }
}

interface Visit {
  readonly key: string
  readonly hop: TraceHop
  /** The layers that cover it from here to the next. */
  readonly layers: readonly string[]
}

/** What comes of a packet in one device. */
type Outcome =
  | {
      readonly kind: 'end'
      readonly fate: Fate
      readonly reason: Reason
      readonly port: number
      readonly decisions: readonly Decision[]
    }
  | {
      readonly kind: 'send'
      readonly outInterface: number
      readonly device: number
      readonly port: number
      readonly set: number
      readonly context: Context | null
      readonly by: number
      readonly decisions: readonly Decision[]
    }

class Tracing {
  readonly paths: TracePath[] = []
  whole = true
  #contexts = 0

  constructor(
    readonly walker: Walker,
    readonly remembered: SessionState,
  ) {}

  follow(
    device: number,
    port: number,
    set: number,
    context: Context | null,
    before: readonly Visit[],
    unwrapped: boolean,
  ): void {
    if (set === NOTHING) return
    if (this.paths.length >= MOST_PATHS) {
      this.whole = false
      return
    }
    const { devices } = this.walker.network
    const owner = devices[device]
    const name = owner?.name ?? ''
    const portName = (at: number): string | null => owner?.interfaces[at]?.name ?? null
    // A packet that returns unchanged to a device loops for ever.
    const key = `${device} ${port} ${set}${unwrapped ? ' unwrapped' : ''}`
    if (before.some((visit) => visit.key === key)) {
      this.#finish('loops', { code: 'loop', words: `it returns to ${name}` }, name, before, null)
      return
    }
    for (const outcome of this.#outcomes(device, port, set, context, unwrapped)) {
      const hop: TraceHop = {
        device: name,
        in: portName(port),
        out:
          outcome.kind === 'send'
            ? portName(outcome.outInterface)
            : outcome.port === port
              ? null
              : portName(outcome.port),
        decisions: outcome.decisions,
      }
      if (outcome.kind === 'end') this.#finish(outcome.fate, outcome.reason, name, before, hop)
      else
        this.follow(
          outcome.device,
          outcome.port,
          outcome.set,
          outcome.context,
          [
            ...before,
            {
              key,
              hop,
              layers: layersOf(this.walker.network, device, outcome.outInterface, outcome.by).map(({ words }) => words),
            },
          ],
          outcome.by >= 0,
        )
    }
  }

  /** @param last the hop where it ends; null: it ends at the last of those before */
  #finish(fate: Fate, reason: Reason, device: string, before: readonly Visit[], last: TraceHop | null): void {
    if (this.paths.length >= MOST_PATHS) {
      this.whole = false
      return
    }
    const hops = [
      ...before.map(({ hop, layers }) => (layers.length > 0 ? { ...hop, layers } : hop)),
      ...(last ? [last] : []),
    ]
    this.paths.push({
      fate,
      reason,
      device,
      hops,
      protection: hops.flatMap(({ device: from, layers = [] }, i) => {
        const next = hops[i + 1]
        return next ? layers.map((words) => `${from} to ${next.device}: ${words}`) : []
      }),
    })
  }

  #outcomes(device: number, port: number, set: number, context: Context | null, unwrapped: boolean): Outcome[] {
    const outcomes: Outcome[] = []
    const common: Decision[] = []
    let current = common
    const listener: PassageOutcome = {
      end: (fate, reason, at) => outcomes.push({ kind: 'end', fate, reason, port: at, decisions: [...current] }),
      send: (outInterface, toDevice, toPort, some, changed, by) =>
        outcomes.push({
          kind: 'send',
          outInterface,
          device: toDevice,
          port: toPort,
          set: some,
          context: changed,
          by,
          decisions: [...current],
        }),
      change: (change, before) => ({ ...change, id: this.#contexts++, device, before }),
      decided: (stage, result, exhibits) => current.push({ stage, result, exhibits }),
      parted: () => {
        current = [...common]
      },
    }
    this.walker
      .passage(device)
      .pass(
        port,
        set,
        context,
        this.remembered.get(device) ?? null,
        listener,
        unwrapped,
        this.remembered instanceof AnsweredPackets,
      )
    return outcomes
  }
}

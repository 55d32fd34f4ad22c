import { ALL, NOTHING, exampleOf, readFilterText, type Packet } from '../../../headers/index.ts'
import type { Exhibit } from '../../network/exhibit.ts'
import type { Expectation } from '../expectations.ts'
import type { Fate } from '../../pipeline/fates.ts'
import { pictureOf, type Picture } from '../picture.ts'
import { ownAddresses, placeOf } from '../places.ts'
import { classed, firstPackets, outsideOf, partsOf, shown, type ReachPart, type ShownSet } from '../reach.ts'
import { traceOf, type Trace, type TracePath } from '../../engine/trace.ts'
import type { Walker } from '../../engine/walk.ts'
import type { Origin, Walked } from '../../engine/walked.ts'

export type ExpectationOutcome = 'met' | 'violated' | 'undecided'

/** Whether an expectation holds, and what shows it. */
export interface ExpectationAnswer {
  readonly id: string
  readonly outcome: ExpectationOutcome
  readonly words: string
  /** What would decide it, where it is undecided. */
  readonly missing: readonly string[]
  /** The packets for which it is broken, or not known to hold. */
  readonly packets: ShownSet | null
  /** One of them, and where it begins. */
  readonly example: {
    readonly packet: Packet
    readonly at: string
    readonly port: string | null
    readonly trace: Trace
  } | null
  /** The lines that decide: those that stop it, or those that let it through. */
  readonly exhibits: readonly Exhibit[]
  /** Where all packets that are asked about go; null where nothing could be asked. */
  readonly picture: Picture | null
}
/** An answer without its picture. */
export type Answer = Omit<ExpectationAnswer, 'picture'>

/** Packets of an expectation, with where they begin. */
export interface Asked {
  readonly origins: readonly (Origin & { readonly addressed: number; readonly from: string })[]
  readonly set: number
  readonly toOutside: boolean
}

/** The packets that an expectation is about, and what becomes of them: what each kind of expectation is answered by. */
export class Question {
  readonly asked: Asked
  #whole: { readonly walked: Walked; readonly parts: readonly ReachPart[] } | null = null

  constructor(
    readonly walker: Walker,
    readonly expectation: Expectation,
  ) {
    this.asked = this.#ask()
  }

  get network(): Walker['network'] {
    return this.walker.network
  }

  #ask(): Asked {
    const { addressed } = this.network
    const { diagrams } = addressed
    const { from, to, only, packets } = this.expectation
    const targets = to.map((text) => placeOf(this.network, text))
    const toOutside = targets.some(({ destinations }) => destinations === null)
    const wanted = addressed.all(
      only === undefined ? ALL : readFilterText(addressed, only),
      packets === 'first' ? firstPackets(this.network) : ALL,
      addressed.any(targets, (target) => target.destinations ?? outsideOf(this.network)),
    )
    const hosts = diagrams.minus(wanted, to.every(isWide) ? ownAddresses(this.network, 'destination') : NOTHING)
    const origins = from
      .flatMap((text) => placeOf(this.network, text).origins.map((origin) => ({ ...origin, from: text })))
      .map(({ device, port, sources, from: text }) => {
        const set = diagrams.and(hosts, sources)
        return { device, port, from: text, addressed: set, set: classed(this.network, set) }
      })
      .filter(({ set }) => set !== NOTHING)
    return { origins, set: addressed.any(origins, (origin) => origin.addressed), toOutside }
  }

  /** @param endAt devices at which packets are taken out; none: as they go */
  walk(endAt: ReadonlySet<number> = new Set()): { readonly walked: Walked; readonly parts: readonly ReachPart[] } {
    if (endAt.size === 0 && this.#whole) return this.#whole
    const walked = this.walker.walk(this.asked.origins, new Map(), endAt)
    const found = { walked, parts: partsOf(this.network, walked.endings, this.asked.set) }
    if (endAt.size === 0) this.#whole = found
    return found
  }

  /** Where packets of a set begin. */
  begun(set: number): Origin[] {
    const { diagrams } = this.network.addressed
    return this.asked.origins
      .map((origin) => ({
        device: origin.device,
        port: origin.port,
        set: classed(this.network, diagrams.and(origin.addressed, set)),
      }))
      .filter((origin) => origin.set !== NOTHING)
  }

  picture(): Picture | null {
    return this.asked.set === NOTHING ? null : pictureOf(this.network, this.asked.origins, this.walk().walked)
  }

  of(parts: readonly ReachPart[], ...fates: Fate[]): number {
    return this.network.addressed.any(
      parts.filter(({ fate }) => fates.includes(fate)),
      ({ set }) => set,
    )
  }

  get there(): Fate[] {
    return this.asked.toOutside ? ['arrives', 'leaves'] : ['arrives']
  }

  missing(parts: readonly ReachPart[]): string[] {
    return [
      ...new Set(
        parts.filter(({ fate }) => fate === 'undecided').map(({ device, reason }) => `${device}: ${reason.words}`),
      ),
    ]
  }

  held(parts: readonly ReachPart[], words: string): Answer {
    const undecided = this.of(parts, 'undecided')
    return undecided === NOTHING
      ? this.outcome('met', words, [], NOTHING, [])
      : this.outcome('undecided', 'some are undecided', this.missing(parts), undecided, ['undecided'])
  }

  devicesOf(names: readonly string[]): Set<number> {
    return new Set(
      names.flatMap((name) => {
        const at = this.network.indexOf(name)
        if (at >= 0) return [at]
        const group = placeOf(this.network, name)
        return group.origins.map(({ device }) => device)
      }),
    )
  }

  /** What is asked of packets that arrive is not answered by none. */
  nothing(parts: readonly ReachPart[]): Answer {
    return this.outcome(
      'undecided',
      'none of these packets is known to arrive',
      [...this.missing(parts), 'packets that arrive'],
      this.asked.set,
      ['stopped', 'undecided', 'loops', 'leaves'],
    )
  }

  /**
   * @param fates those of the packets that are meant; none: those that were taken out
   * @param endAt where packets were taken out
   */
  outcome(
    outcome: ExpectationOutcome,
    words: string,
    missing: readonly string[],
    set: number,
    fates: readonly Fate[],
    more: readonly Exhibit[] = [],
    endAt: ReadonlySet<number> = new Set(),
  ): Answer {
    const { id, must } = this.expectation
    if (set === NOTHING) return { id, outcome, words, missing, packets: null, example: null, exhibits: more }
    const example = this.#example(set, fates, endAt)
    const path = example?.trace.paths.find(({ fate }) => fates.includes(fate)) ?? example?.trace.paths[0]
    const cut = outcome === 'violated' && fates.includes('stopped')
    return {
      id,
      outcome,
      words,
      missing,
      packets: shown(this.network, set, { first: this.expectation.packets === 'first' }),
      example,
      exhibits: [
        ...(cut
          ? this.cutting([{ origins: this.begun(set), remembered: new Map() }], path)
          : path
            ? decidingLines(path, must === 'arrive')
            : []),
        ...more,
      ],
    }
  }

  /**
   * The lines that together stop some packets; where no line says that it stops them, those that the path of one ends
   * with.
   */
  cutting(starts: Parameters<Walker['stoppedBy']>[0], path: TracePath | undefined): Exhibit[] {
    const lines = this.walker.stoppedBy(starts)
    return lines.length > 0 || !path ? lines : decidingLines(path, true)
  }

  /**
   * A packet, where it begins and its trace: a header may be lost from one place and arrive from another, so each place
   * is asked by itself.
   */
  #example(set: number, fates: readonly Fate[], endAt: ReadonlySet<number>): ExpectationAnswer['example'] {
    const { addressed, devices } = this.network
    for (const origin of this.asked.origins) {
      if (!addressed.diagrams.meet(origin.addressed, set)) continue
      const { endings } = this.walker.walk([origin], new Map(), endAt)
      const meant = endings.filter(({ fate, reason }) =>
        fates.length === 0 ? reason.code === 'taken' : fates.includes(fate) && reason.code !== 'taken',
      )
      const packet = exampleOf(
        addressed,
        addressed.any(partsOf(this.network, meant, addressed.diagrams.and(set, origin.addressed)), (part) => part.set),
      )
      const owner = devices[origin.device]
      if (packet && owner)
        return {
          packet,
          at: owner.name,
          port: owner.interfaces[origin.port]?.name ?? null,
          trace: traceOf(this.walker, origin.device, origin.port, packet),
        }
    }
    return null
  }
}

/** Of a path that is cut, the lines that cut it; of one that should not be, those that let it through. */
function decidingLines({ hops }: TracePath, cut: boolean): Exhibit[] {
  if (cut) return hops.at(-1)?.decisions.at(-1)?.exhibits.slice() ?? []
  return hops.flatMap(({ decisions }) => decisions.flatMap(({ exhibits }) => exhibits))
}

export function some(words: readonly string[]): string {
  return words.length > 4 ? `${words.slice(0, 4).join('; ')} and ${words.length - 4} more` : words.join('; ')
}

/** A subnet, site, zone or label: hosts are meant, not the addresses of the devices that serve them. */
export function isWide(text: string): boolean {
  return /^(?:site|zone|label):/.test(text) || (/\/\d+$/.test(text) && !/\/(?:32|128)$/.test(text))
}

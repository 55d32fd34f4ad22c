import { ALL, NOTHING, exampleOf, readFilterText, type Packet } from '../../headers/index.ts'
import { CoreError } from '../../syntax/index.ts'
import { answersBack } from './answers.ts'
import type { Exhibit } from '../network/exhibit.ts'
import type { Expectation } from './expectations.ts'
import type { Fate } from '../pipeline/fates.ts'
import { pictureOf, type Picture } from './picture.ts'
import { broadcasts, outsidePorts, ownAddresses, placeOf } from './places.ts'
import { layersOf } from '../engine/protection.ts'
import { classed, firstPackets, outsideOf, partsOf, shown, type ReachPart, type ShownSet } from './reach.ts'
import { traceOf, type Trace, type TracePath } from '../engine/trace.ts'
import type { Walker } from '../engine/walk.ts'
import type { Crossing, Origin, Walked } from '../engine/walked.ts'

export type ExpectationOutcome = 'holds' | 'broken' | 'undecided'

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
type Answer = Omit<ExpectationAnswer, 'picture'>

/** Packets of an expectation, with where they begin. */
interface Asked {
  readonly origins: readonly (Origin & { readonly addressed: number; readonly from: string })[]
  readonly set: number
  readonly toOutside: boolean
}

/** Answers an expectation of a network. Never throws: what cannot be asked is undecided, in words. */
export function answerTo(walker: Walker, expectation: Expectation): ExpectationAnswer {
  try {
    const question = new Question(walker, expectation)
    return { ...question.answer(), picture: question.picture() }
  } catch (error) {
    if (!(error instanceof CoreError)) throw error
    return {
      id: expectation.id,
      outcome: 'undecided',
      words: error.message,
      missing: [error.message],
      packets: null,
      example: null,
      exhibits: [],
      picture: null,
    }
  }
}

/** Choices of devices that are taken out to see whether packets have paths that share none. */
const MOST_TRIES = 5_000

class Question {
  readonly #asked: Asked
  #whole: { readonly walked: Walked; readonly parts: readonly ReachPart[] } | null = null

  constructor(
    readonly walker: Walker,
    readonly expectation: Expectation,
  ) {
    this.#asked = this.#ask()
  }

  get #network(): Walker['network'] {
    return this.walker.network
  }

  #ask(): Asked {
    const { addressed } = this.#network
    const { diagrams } = addressed
    const { from, to, only, packets } = this.expectation
    const targets = to.map((text) => placeOf(this.#network, text))
    const toOutside = targets.some(({ destinations }) => destinations === null)
    const wanted = addressed.all(
      only === undefined ? ALL : readFilterText(addressed, only),
      packets === 'first' ? firstPackets(this.#network) : ALL,
      addressed.any(targets, (target) => target.destinations ?? outsideOf(this.#network)),
    )
    const hosts = diagrams.minus(wanted, to.every(isWide) ? ownAddresses(this.#network, 'destination') : NOTHING)
    const origins = from
      .flatMap((text) => placeOf(this.#network, text).origins.map((origin) => ({ ...origin, from: text })))
      .map(({ device, port, sources, from: text }) => {
        const set = diagrams.and(hosts, sources)
        return { device, port, from: text, addressed: set, set: classed(this.#network, set) }
      })
      .filter(({ set }) => set !== NOTHING)
    return { origins, set: addressed.any(origins, (origin) => origin.addressed), toOutside }
  }

  answer(): Answer {
    const { must } = this.expectation
    if (this.#asked.set === NOTHING)
      return this.#outcome(
        'undecided',
        'no packet of this network is asked about: nothing begins there, or nothing fits',
        ['packets that fit'],
        NOTHING,
        [],
      )
    if (must === 'arrive') return this.#arrive()
    if (must === 'not-arrive') return this.#notArrive()
    if (must === 'be-answered') return this.#answered()
    if ('pass-through' in must) return this.#through(must['pass-through'], true)
    if ('never-through' in must) return this.#through(must['never-through'], false)
    if ('paths' in must) return this.#paths(must.paths)
    return this.#protected(must.protected)
  }

  /** @param endAt devices at which packets are taken out; none: as they go */
  #walk(endAt: ReadonlySet<number> = new Set()): { readonly walked: Walked; readonly parts: readonly ReachPart[] } {
    if (endAt.size === 0 && this.#whole) return this.#whole
    const walked = this.walker.walk(this.#asked.origins, new Map(), endAt)
    const found = { walked, parts: partsOf(this.#network, walked.endings, this.#asked.set) }
    if (endAt.size === 0) this.#whole = found
    return found
  }

  /** Where packets of a set begin. */
  #begun(set: number): Origin[] {
    const { diagrams } = this.#network.addressed
    return this.#asked.origins
      .map((origin) => ({
        device: origin.device,
        port: origin.port,
        set: classed(this.#network, diagrams.and(origin.addressed, set)),
      }))
      .filter((origin) => origin.set !== NOTHING)
  }

  picture(): Picture | null {
    return this.#asked.set === NOTHING ? null : pictureOf(this.#network, this.#asked.origins, this.#walk().walked)
  }

  #of(parts: readonly ReachPart[], ...fates: Fate[]): number {
    return this.#network.addressed.any(
      parts.filter(({ fate }) => fates.includes(fate)),
      ({ set }) => set,
    )
  }

  get #there(): Fate[] {
    return this.#asked.toOutside ? ['arrives', 'leaves'] : ['arrives']
  }

  #missing(parts: readonly ReachPart[]): string[] {
    return [
      ...new Set(
        parts.filter(({ fate }) => fate === 'undecided').map(({ device, reason }) => `${device}: ${reason.words}`),
      ),
    ]
  }

  #arrive(): Answer {
    const { parts } = this.#walk()
    const lost = this.#of(
      parts,
      ...(['stopped', 'loops', 'leaves'] as const).filter((fate) => !this.#there.includes(fate)),
    )
    const reasons = [
      ...new Set(
        parts
          .filter(({ fate }) => fate !== 'undecided' && !this.#there.includes(fate))
          .map(({ fate, device, reason }) => `${fate} at ${device}: ${reason.words}`),
      ),
    ]
    if (lost !== NOTHING)
      return this.#outcome('broken', `some do not arrive: ${some(reasons)}`, [], lost, ['stopped', 'loops', 'leaves'])
    return this.#held(parts, 'every packet arrives')
  }

  #held(parts: readonly ReachPart[], words: string): Answer {
    const undecided = this.#of(parts, 'undecided')
    return undecided === NOTHING
      ? this.#outcome('holds', words, [], NOTHING, [])
      : this.#outcome('undecided', 'of some it is not known what becomes of them', this.#missing(parts), undecided, [
          'undecided',
        ])
  }

  /**
   * That packets arrive, and what answers them comes back: by whatever way, past devices that remember what they let
   * through.
   */
  #answered(): Answer {
    const there = this.#arrive()
    if (there.outcome !== 'holds') return there
    const { addressed, devices } = this.#network
    // Whoever comes in from outside is reached by whichever way leads there.
    const outside = new Set(this.expectation.from.filter((from) => this.#isOutside(from)))
    const homeOf = (from: string): readonly Fate[] => (outside.has(from) ? ['arrives', 'leaves'] : ['arrives'])
    // Nobody has the addresses of routers or broadcasts as a host of a subnet; and who comes from outside has none of
    // the estate.
    const nobody = addressed.diagrams.or(ownAddresses(this.#network, 'source'), broadcasts(this.#network, 'source'))
    const hostsOf = (from: string): number =>
      outside.has(from)
        ? addressed.exchanged(outsideOf(this.#network))
        : addressed.diagrams.not(isWide(from) ? nobody : NOTHING)
    const all = this.#asked.origins.map((origin) => {
      const set = addressed.diagrams.and(origin.addressed, hostsOf(origin.from))
      return answersBack(
        this.walker,
        { ...origin, addressed: set, set: classed(this.#network, set) },
        this.#there,
        homeOf(origin.from),
      )
    })
    const lost = addressed.any(all, (one) => one.lost)
    const undecided = addressed.any(all, (one) => one.undecided)
    const parts = all.flatMap((one, i) =>
      one.parts.map((part) => ({ ...part, home: homeOf(this.#asked.origins[i]?.from ?? '') })),
    )
    const bad = parts.filter(({ fate, home }) => fate !== 'undecided' && !home.includes(fate))
    if (lost === NOTHING && undecided === NOTHING)
      return this.#outcome('holds', 'every packet arrives, and every answer comes back', [], NOTHING, [])
    if (lost === NOTHING)
      return this.#outcome(
        'undecided',
        'every packet arrives; of some answers it is not known whether they come back',
        this.#missing(parts),
        undecided,
        this.#there,
      )
    const words = `every packet arrives, but some answers do not come back: ${some([...new Set(bad.map(({ fate, device, reason }) => `${fate} at ${device}: ${reason.words}`))])}`
    const base = this.#outcome('broken', words, [], lost, this.#there)
    // What is shown is the answer: it is what gets lost.
    for (const { start, set, home } of bad) {
      const packet = exampleOf(addressed, set)
      const owner = devices[start.origin.device]
      if (!packet || !owner) continue
      const trace = traceOf(this.walker, start.origin.device, start.origin.port, packet, start.remembered)
      const path = trace.paths.find(({ fate }) => !home.includes(fate))
      const starts = bad.map((one) => ({
        origins: [{ ...one.start.origin, set: classed(this.#network, one.set) }],
        remembered: one.start.remembered,
      }))
      return {
        ...base,
        example: { packet, at: owner.name, port: owner.ports[start.origin.port]?.name ?? null, trace },
        exhibits: this.#cutting(starts, path),
      }
    }
    return base
  }

  /** Whether packets from a place come in from the world outside. */
  #isOutside(from: string): boolean {
    if (from === 'outside') return true
    const ports = new Set(outsidePorts(this.#network).map(([device, port]) => `${device} ${port}`))
    const { origins } = placeOf(this.#network, from)
    return origins.length > 0 && origins.every(({ device, port }) => ports.has(`${device} ${port}`))
  }

  #notArrive(): Answer {
    const { parts } = this.#walk()
    const there = this.#of(parts, ...this.#there)
    const where = [
      ...new Set(
        parts
          .filter(({ fate }) => this.#there.includes(fate))
          .map(({ device, port }) => `${device}${port === null ? '' : ` ${port}`}`),
      ),
    ]
    if (there !== NOTHING) return this.#outcome('broken', `some arrive, by ${some(where)}`, [], there, this.#there)
    return this.#held(parts, 'none arrives')
  }

  #devicesOf(names: readonly string[]): Set<number> {
    return new Set(
      names.flatMap((name) => {
        const at = this.#network.indexOf(name)
        if (at >= 0) return [at]
        const group = placeOf(this.#network, name)
        return group.origins.map(({ device }) => device)
      }),
    )
  }

  #through(names: readonly string[], mustPass: boolean): Answer {
    const taken = this.#devicesOf(names)
    const { parts } = this.#walk(taken)
    const passing = this.#of(
      parts.filter(({ reason }) => reason.code === 'taken'),
      'arrives',
    )
    const around = this.#of(
      parts.filter(({ reason }) => reason.code !== 'taken'),
      ...this.#there,
    )
    if (mustPass && passing === NOTHING && around === NOTHING) return this.#nothing(parts)
    if (mustPass && around !== NOTHING)
      return this.#outcome(
        'broken',
        `some arrive without passing ${names.join(' or ')}`,
        [],
        around,
        this.#there,
        [],
        taken,
      )
    if (!mustPass && passing !== NOTHING)
      return this.#outcome('broken', `some come by ${names.join(' or ')}`, [], passing, [], [], taken)
    return this.#held(
      parts,
      mustPass ? `all that arrives passes ${names.join(' or ')}` : `none comes by ${names.join(' or ')}`,
    )
  }

  /**
   * Whichever devices are taken out, one fewer than paths, everything must still arrive (Menger's theorem, of each
   * packet). Only devices that some packets come by are taken out, and only those packets are asked about then.
   */
  #paths(count: number): Answer {
    const { diagrams } = this.#network.addressed
    const whole = this.#walk()
    const lost = diagrams.minus(this.#asked.set, this.#of(whole.parts, ...this.#there))
    const undecided = this.#of(whole.parts, 'undecided')
    if (lost !== NOTHING && undecided === NOTHING)
      return this.#outcome('broken', 'some do not arrive at all', [], lost, ['stopped', 'loops'])
    const ends = new Set([
      ...this.#asked.origins.map(({ device }) => device),
      ...whole.walked.endings.filter(({ fate }) => this.#there.includes(fate)).map(({ device }) => device),
    ])
    let tries = 0
    const without = (
      out: readonly number[],
      set: number,
      { crossings }: Walked,
    ): { readonly out: readonly number[]; readonly cut: number } | null => {
      for (const device of new Set(crossings.flatMap(({ from, to }) => [from.device, to.device]))) {
        if (ends.has(device) || out.includes(device)) continue
        if (++tries > MOST_TRIES) return null
        const taken = [...out, device]
        const walked = this.walker.walk(this.#begun(set), new Map(), new Set(taken))
        const parts = partsOf(this.#network, walked.endings, set)
        const passing = this.#of(
          parts.filter((part) => part.reason.code === 'taken' && part.device === this.#network.devices[device]?.name),
          'arrives',
        )
        const cut = diagrams.minus(
          diagrams.minus(
            passing,
            this.#of(
              parts.filter(({ reason }) => reason.code !== 'taken'),
              ...this.#there,
            ),
          ),
          undecided,
        )
        if (cut !== NOTHING) return { out: taken, cut }
        const further = taken.length < count - 1 && passing !== NOTHING ? without(taken, passing, walked) : null
        if (further) return further
      }
      return null
    }
    const found = without([], this.#asked.set, whole.walked)
    if (found)
      return this.#outcome(
        'broken',
        `without ${found.out.map((device) => this.#network.devices[device]?.name ?? '').join(' and ')} some have no path left`,
        [],
        found.cut,
        this.#there,
      )
    if (tries > MOST_TRIES)
      return this.#outcome(
        'undecided',
        'there are too many devices on the way to take out so many of them in turn',
        [`fewer than ${MOST_TRIES} choices of devices`],
        this.#asked.set,
        this.#there,
      )
    return this.#held(whole.parts, `there are ${count} paths or more that share no device`)
  }

  #protected({
    by,
    algorithms,
    between,
  }: {
    by: readonly string[]
    algorithms: readonly string[]
    between?: readonly [string, string] | undefined
  }): Answer {
    const { walked, parts } = this.#walk()
    // Whatever becomes of what has left: it left as it was.
    const left = this.#leftBare(walked, by, algorithms)
    const arrives = this.#network.addressed.diagrams.or(
      this.#of(parts, ...this.#there),
      this.#network.addressed.any(left, ({ set }) => set),
    )
    if (arrives === NOTHING) return this.#nothing(parts)
    const crossings = between ? this.#between(between) : walked.crossings
    const bare = crossings.filter(
      ({ from, by: map }) => !this.#isProtected(from.device, from.port, map, by, algorithms),
    )
    const { diagrams } = this.#network.addressed
    const open = diagrams.and(
      arrives,
      this.#network.addressed.any(bare, ({ set }) =>
        diagrams.and(this.#network.headers.expand(set, this.#network.addressed, this.#asked.set), this.#asked.set),
      ),
    )
    const gone = this.#network.addressed.any(left, ({ set }) => set)
    if (gone !== NOTHING && this.#asked.toOutside === false) {
      return this.#outcome(
        'broken',
        `some leave the estate without such protection by ${some([...new Set(left.map(({ device, port }) => `${device} ${port ?? ''}`))])}`,
        [],
        gone,
        ['leaves'],
      )
    }
    const where = [
      ...new Set(
        bare.map(
          ({ from, to }) =>
            `${this.#network.devices[from.device]?.name ?? ''} to ${this.#network.devices[to.device]?.name ?? ''}`,
        ),
      ),
    ]
    if (open !== NOTHING)
      return this.#outcome(
        'broken',
        `some go without such protection from ${some(where)}`,
        [],
        open,
        this.#there,
        bare.flatMap(({ from, by: map }) =>
          layersOf(this.#network, from.device, from.port, map).flatMap(({ exhibits }) => exhibits),
        ),
      )
    return this.#held(parts, 'every link on the way is protected')
  }

  #isProtected(
    device: number,
    port: number,
    map: number,
    by: readonly string[],
    algorithms: readonly string[],
  ): boolean {
    return layersOf(this.#network, device, port, map).some(
      (layer) =>
        by.includes(layer.kind) &&
        (algorithms.length === 0 ||
          layer.algorithms.some((name) => algorithms.some((wanted) => name.includes(wanted.toLowerCase())))),
    )
  }

  /** Packets that are handed to the world outside without protection. */
  #leftBare({ endings }: Walked, by: readonly string[], algorithms: readonly string[]): readonly ReachPart[] {
    return partsOf(
      this.#network,
      endings.filter(
        ({ fate, device, port }) => fate === 'leaves' && !this.#isProtected(device, port, -1, by, algorithms),
      ),
      this.#asked.set,
    )
  }

  /** What is asked of packets that arrive is not answered by none. */
  #nothing(parts: readonly ReachPart[]): Answer {
    return this.#outcome(
      'undecided',
      'none of these packets is known to arrive',
      [...this.#missing(parts), 'packets that arrive'],
      this.#asked.set,
      ['stopped', 'undecided', 'loops', 'leaves'],
    )
  }

  /** The crossings on the way from one device to another. */
  #between([from, to]: readonly [string, string]): readonly Crossing[] {
    const [first, last] = [this.#devicesOf([from]), this.#devicesOf([to])]
    const taken = this.walker
      .walk(this.#asked.origins, new Map(), first)
      .endings.filter(({ reason }) => reason.code === 'taken')
    return this.walker.walk(
      taken.map(({ device, port, ended }) => ({ device, port, set: ended })),
      new Map(),
      last,
    ).crossings
  }

  /**
   * @param fates those of the packets that are meant; none: those that were taken out
   * @param endAt where packets were taken out
   */
  #outcome(
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
    const cut = outcome === 'broken' && fates.includes('stopped')
    return {
      id,
      outcome,
      words,
      missing,
      packets: shown(this.#network, set, { first: this.expectation.packets === 'first' }),
      example,
      exhibits: [
        ...(cut
          ? this.#cutting([{ origins: this.#begun(set), remembered: new Map() }], path)
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
  #cutting(starts: Parameters<Walker['stoppedBy']>[0], path: TracePath | undefined): Exhibit[] {
    const lines = this.walker.stoppedBy(starts)
    return lines.length > 0 || !path ? lines : decidingLines(path, true)
  }

  /**
   * A packet, where it begins and its trace: a header may be lost from one place and arrive from another, so each place
   * is asked by itself.
   */
  #example(set: number, fates: readonly Fate[], endAt: ReadonlySet<number>): ExpectationAnswer['example'] {
    const { addressed, devices } = this.#network
    for (const origin of this.#asked.origins) {
      if (!addressed.diagrams.meet(origin.addressed, set)) continue
      const { endings } = this.walker.walk([origin], new Map(), endAt)
      const meant = endings.filter(({ fate, reason }) =>
        fates.length === 0 ? reason.code === 'taken' : fates.includes(fate) && reason.code !== 'taken',
      )
      const packet = exampleOf(
        addressed,
        addressed.any(partsOf(this.#network, meant, addressed.diagrams.and(set, origin.addressed)), (part) => part.set),
      )
      const owner = devices[origin.device]
      if (packet && owner)
        return {
          packet,
          at: owner.name,
          port: owner.ports[origin.port]?.name ?? null,
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

function some(words: readonly string[]): string {
  return words.length > 4 ? `${words.slice(0, 4).join('; ')} and ${words.length - 4} more` : words.join('; ')
}

/** A subnet, site, zone or label: hosts are meant, not the addresses of the devices that serve them. */
function isWide(text: string): boolean {
  return /^(?:site|zone|label):/.test(text) || (/\/\d+$/.test(text) && !/\/(?:32|128)$/.test(text))
}

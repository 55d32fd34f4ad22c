import { ALL, NOTHING, exampleOf, type Packet } from '../../headers/index.ts'
import { CauseFinder } from './causes.ts'
import type { Exhibit } from '../network/exhibit.ts'
import { FATES, type Fate } from '../pipeline/fates.ts'
import { layersOf } from '../engine/protection.ts'
import { broadcasts, hostPlaces, sentFrom } from './places.ts'
import type { Place } from './place.ts'
import { firstPackets, partsOf, type ReachPart } from './reach.ts'
import type { Step } from './survey.ts'
import { traceOf, type Decision, type Trace } from '../engine/trace.ts'
import type { Walker } from '../engine/walk.ts'

/** Flows that have another fate in one network than in another, because of the same lines. */
export interface FateChange {
  readonly before: readonly Fate[]
  readonly after: readonly Fate[]
  /** Where they begin, and where they go. */
  readonly from: readonly string[]
  readonly to: readonly string[]
  /** What is new of their fate, and where. */
  readonly ends: readonly string[]
  /** Headers by addresses, in the store of the network after. */
  readonly set: number
  /** Headers of the places that they are from. */
  readonly sources: number
  /** One of them with its traces, and the first decision that is another. */
  readonly example: {
    readonly at: string
    readonly port: string | null
    readonly packet: Packet
    readonly before: Trace
    readonly after: Trace
  } | null
  readonly decision: { readonly device: string; readonly before: string | null; readonly after: string | null }
  /** Lines that differ and made it so; of what was captured, those that the first decision that is another rests on. */
  readonly lines: { readonly before: readonly Exhibit[]; readonly after: readonly Exhibit[] }
  /** Whether putting back those lines, and no fewer, turns the fate back. */
  readonly proven: boolean
}

export interface FateChanges {
  readonly changes: readonly FateChange[]
  /** Places of hosts that only one of the networks has. */
  readonly gone: readonly string[]
  readonly added: readonly string[]
}

/**
 * Which flows that begin a connection changed their fate between two networks: from every subnet of hosts, and from
 * outside, that both have.
 * @param only headers that are asked about, by addresses of the network after
 */
export function fateChanges(before: Walker, after: Walker, only: number = ALL, step?: Step): FateChanges {
  const [was, is] = [
    new Map(hostPlaces(before.network).map((place) => [place.text, place])),
    new Map(hostPlaces(after.network).map((place) => [place.text, place])),
  ]
  const both = [...is.values()].flatMap((place): [Place, Place][] => {
    const earlier = was.get(place.text)
    return earlier ? samePorts(before, earlier, after, place) : []
  })
  const { addressed } = after.network
  const first = addressed.diagrams.minus(
    addressed.diagrams.and(only, firstPackets(after.network)),
    broadcasts(after.network, 'destination'),
  )
  const firstBefore = before.network.addressed.diagrams.taken(addressed.diagrams, first)
  const finder = new CauseFinder(before.network, after.network)
  const found = new Map<string, FateChange & { set: number; sources: number; from: string[]; ends: string[] }>()
  both.forEach(([earlier, place], i) => {
    step?.(i, both.length)
    // What was is told in the store of what is.
    const old = fatesFrom(before, earlier, firstBefore).map((part) => ({
      ...part,
      set: addressed.diagrams.taken(before.network.addressed.diagrams, part.set),
    }))
    const now = fatesFrom(after, place, first)
    const news = signatures(after, now)
    for (const [oldKey, oldSet] of signatures(after, old)) {
      for (const [newKey, newSet] of news) {
        const set = oldKey === newKey ? NOTHING : addressed.diagrams.and(oldSet, newSet)
        if (set === NOTHING) continue
        for (const change of byReason(before, after, { place, oldKey, newKey, set, old, now }, finder)) tell(change)
      }
    }
    for (const change of lostProtection(before, after, earlier, place, firstBefore, first, finder)) tell(change)
  })
  function tell(change: FateChange): void {
    const key = JSON.stringify([change.before, change.after, change.decision.device, change.lines])
    const held = found.get(key)
    if (!held) found.set(key, { ...change, from: [...change.from], ends: [...change.ends] })
    else {
      held.set = addressed.diagrams.or(held.set, change.set)
      held.sources = addressed.diagrams.or(held.sources, change.sources)
      held.from.push(...change.from.filter((one) => !held.from.includes(one)))
      held.ends.push(...change.ends.filter((one) => !held.ends.includes(one)))
    }
  }
  const targets = [...is.values()].filter(({ destinations }) => destinations !== null)
  const inside = addressed.any(targets, ({ destinations }) => destinations ?? NOTHING)
  const changes = [...found.values()].map((change) => {
    const near = targets
      .filter(({ destinations }) => addressed.diagrams.meet(change.set, destinations ?? NOTHING))
      .map(({ text }) => text)
    return { ...change, to: addressed.diagrams.within(change.set, inside) ? near : [...near, 'elsewhere'] }
  })
  return {
    changes,
    gone: [...was.keys()].filter((text) => !is.has(text)),
    added: [...is.keys()].filter((text) => !was.has(text)),
  }
}

/** A place in both networks, as far as packets come in by the same interfaces; none where no interface is the same. */
function samePorts(before: Walker, earlier: Place, after: Walker, place: Place): [Place, Place][] {
  const named = ({ network: { devices } }: Walker, { origins }: Place): string[] =>
    origins.map(({ device, port }) => `${devices[device]?.name ?? ''} ${devices[device]?.interfaces[port]?.name ?? ''}`)
  const [then, now] = [named(before, earlier), named(after, place)]
  const common = place.origins.filter((_, i) => then.includes(now[i] ?? ''))
  return common.length === 0
    ? []
    : [
        [
          { ...earlier, origins: earlier.origins.filter((_, i) => now.includes(then[i] ?? '')) },
          { ...place, origins: common },
        ],
      ]
}

function fatesFrom(walker: Walker, place: Place, wanted: number): readonly ReachPart[] {
  const { network } = walker
  const begun = sentFrom(network, place, wanted)
  return partsOf(
    network,
    walker.walk(begun).endings,
    network.addressed.any(begun, ({ addressed }) => addressed),
  )
}

/** Headers by the fates that they have, all of which none has twice. */
function signatures(
  { network: { addressed } }: Walker,
  parts: readonly { readonly fate: Fate; readonly set: number }[],
): Map<string, number> {
  const { diagrams } = addressed
  let cells: [string[], number][] = [[[], addressed.any(parts, ({ set }) => set)]]
  for (const fate of FATES) {
    const set = addressed.any(
      parts.filter((part) => part.fate === fate),
      (part) => part.set,
    )
    cells = cells
      .flatMap(([fates, held]): [string[], number][] => [
        [[...fates, fate], diagrams.and(held, set)],
        [fates, diagrams.minus(held, set)],
      ])
      .filter(([, held]) => held !== NOTHING) as [string[], number][]
  }
  return new Map(cells.map(([fates, set]) => [fates.join(), set]))
}

interface Cell {
  readonly place: Place
  readonly oldKey: string
  readonly newKey: string
  readonly set: number
  readonly old: readonly ReachPart[]
  readonly now: readonly ReachPart[]
}

/** One entry for each reason of what is new of the fates; where nothing is, of what is gone. */
function* byReason(
  before: Walker,
  after: Walker,
  { place, oldKey, newKey, set, old, now }: Cell,
  finder: CauseFinder,
): Generator<FateChange> {
  const { addressed } = after.network
  const [olds, news] = [oldKey.split(',') as Fate[], newKey.split(',') as Fate[]]
  const gained = now
    .filter(({ fate }) => !olds.includes(fate))
    .map((part) => ({ ...part, met: addressed.diagrams.and(part.set, set) }))
  const lost = old
    .filter(({ fate }) => !news.includes(fate))
    .map((part) => ({ ...part, met: addressed.diagrams.and(part.set, set) }))
  for (const part of gained.length > 0 ? gained : lost) {
    if (part.met === NOTHING) continue
    const example = exampleIn(before, after, place, part.met)
    const differ = example && firstDifference(example.before, example.after)
    yield {
      before: olds,
      after: news,
      from: [place.text],
      to: [],
      ends: [`${gained.length > 0 ? '' : 'no more '}${part.fate} at ${part.device}: ${part.reason.words}`],
      set: part.met,
      sources: addressed.any(place.origins, ({ sources }) => sources),
      example,
      decision: {
        device: differ?.device ?? part.device,
        before: differ?.before ? `${differ.before.stage}: ${differ.before.result}` : null,
        after: differ?.after ? `${differ.after.stage}: ${differ.after.result}` : null,
      },
      ...linesOf(example, differ, finder),
    }
  }
}

/** The lines that made it so: those that differ, else what was captured and decided otherwise. */
function linesOf(
  example: FateChange['example'],
  differ: ReturnType<typeof firstDifference>,
  finder: CauseFinder,
): Pick<FateChange, 'lines' | 'proven'> {
  const causes = example && finder.causesOf(example)
  if (causes) return { lines: { before: causes.before, after: causes.after }, proven: causes.proven }
  return { lines: { before: differ?.before?.exhibits ?? [], after: differ?.after?.exhibits ?? [] }, proven: false }
}

/** Packets that arrive as before, and that some device no longer protects on their way. */
function* lostProtection(
  before: Walker,
  after: Walker,
  earlier: Place,
  place: Place,
  firstBefore: number,
  first: number,
  finder: CauseFinder,
): Generator<FateChange> {
  const { addressed } = after.network
  const { diagrams } = addressed
  const [old, now] = [protectedBy(before, earlier, firstBefore), protectedBy(after, place, first)]
  for (const [key, { device, kind, set: was }] of old.protected) {
    const bare = now.bare.get(device)
    const shared = diagrams.taken(before.network.addressed.diagrams, was)
    const lost =
      bare === undefined ? NOTHING : diagrams.minus(diagrams.and(shared, bare), now.protected.get(key)?.set ?? NOTHING)
    if (lost === NOTHING) continue
    const example = exampleIn(before, after, place, lost)
    const fates = example?.after.fates ?? []
    yield {
      before: example?.before.fates ?? [],
      after: fates,
      from: [place.text],
      to: [],
      ends: [`no longer protected by ${kind} from ${device}`],
      set: lost,
      sources: addressed.any(place.origins, ({ sources }) => sources),
      example,
      decision: { device, before: `protected by ${kind}`, after: 'unprotected' },
      ...linesOf(example, example && firstDifference(example.before, example.after), finder),
    }
  }
}

interface Protected {
  /** By device and kind of layer: headers that a device sends on protected so. */
  readonly protected: ReadonlyMap<string, { readonly device: string; readonly kind: string; readonly set: number }>
  /** By device: headers that it sends on, or hands to the world outside, in the clear. */
  readonly bare: ReadonlyMap<string, number>
}

function protectedBy(walker: Walker, place: Place, wanted: number): Protected {
  const { network } = walker
  const { addressed } = network
  const begun = sentFrom(network, place, wanted)
  const asked = addressed.any(begun, (one) => one.addressed)
  const walked = walker.walk(begun)
  const covered = new Map<string, { device: string; kind: string; set: number }>()
  const bare = new Map<string, number>()
  const ways = [
    ...walked.crossings.map(({ from, by, set }) => ({ ...from, by, set })),
    ...walked.endings
      .filter(({ fate }) => fate === 'leaves')
      .map(({ device, port, sent }) => ({ device, port, by: -1, set: sent })),
  ]
  for (const { device, port, by, set } of ways) {
    const name = network.devices[device]?.name ?? ''
    const headers = addressed.diagrams.and(network.headers.expand(set, addressed, asked), asked)
    const kinds = new Set(layersOf(network, device, port, by).map(({ kind }) => kind))
    if (kinds.size === 0) bare.set(name, addressed.diagrams.or(bare.get(name) ?? NOTHING, headers))
    for (const kind of kinds)
      covered.set(`${name} ${kind}`, {
        device: name,
        kind,
        set: addressed.diagrams.or(covered.get(`${name} ${kind}`)?.set ?? NOTHING, headers),
      })
  }
  return { protected: covered, bare }
}

function exampleIn(before: Walker, after: Walker, { origins }: Place, set: number): FateChange['example'] {
  const { addressed, devices } = after.network
  for (const { device, port, sources } of origins) {
    const packet = exampleOf(addressed, addressed.diagrams.and(set, sources))
    const owner = devices[device]
    const then = owner ? before.network.indexOf(owner.name) : -1
    const name = owner?.interfaces[port]?.name ?? null
    const portThen = before.network.devices[then]?.interfaces.findIndex((one) => one.name === name) ?? -1
    if (packet && owner && then >= 0 && portThen >= 0)
      return {
        at: owner.name,
        port: name,
        packet,
        before: traceOf(before, then, portThen, packet),
        after: traceOf(after, device, port, packet),
      }
  }
  return null
}

/** The first decision of two traces that is another, with its device. */
function firstDifference(
  before: Trace,
  after: Trace,
): { readonly device: string; readonly before: Decision | null; readonly after: Decision | null } | null {
  const flat = ({ paths }: Trace): { device: string; decision: Decision }[] =>
    paths.flatMap(({ hops }) =>
      hops.flatMap(({ device, decisions }) => decisions.map((decision) => ({ device, decision }))),
    )
  const [old, now] = [flat(before), flat(after)]
  const same = (i: number): boolean =>
    old[i]?.device === now[i]?.device &&
    old[i]?.decision.stage === now[i]?.decision.stage &&
    old[i]?.decision.result === now[i]?.decision.result
  for (let i = 0; i < Math.max(old.length, now.length); i++) {
    if (same(i)) continue
    // Where one of them goes on elsewhere, what the other was decided there is no counterpart.
    const device = now[i]?.device ?? old[i]?.device ?? ''
    return {
      device,
      before: old[i]?.device === device ? (old[i]?.decision ?? null) : null,
      after: now[i]?.decision ?? null,
    }
  }
  return null
}

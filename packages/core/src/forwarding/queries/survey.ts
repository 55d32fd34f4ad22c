import { ALL, NOTHING } from '../../headers/index.ts'
import { hostPlaces } from './places.ts'
import type { Place } from './place.ts'
import { firstPackets, reach } from './reach.ts'
import type { Walker } from '../engine/walk.ts'

/** Told after each of many steps; who wants to stop throws. */
export type Step = (done: number, total: number) => void

/** A place with what of it reaches another, or is reached from it; sets by addresses. */
export interface SurveyRow {
  readonly place: string
  readonly arrives: number
  readonly undecided: number
  /** Headers of where they are from, and of where they go, as far as those are addresses. */
  readonly sources: number
  readonly destinations: number
}

/**
 * Who can reach a place: every subnet of hosts and the world outside, with the packets that begin a connection and
 * arrive.
 */
export function whoReaches(walker: Walker, to: Place, only = ALL, step?: Step): SurveyRow[] {
  return survey(walker, (place) => [place, to], only, step)
}

/** What can be reached from a place: every subnet of hosts and the world outside. */
export function whatIsReached(walker: Walker, from: Place, only = ALL, step?: Step): SurveyRow[] {
  return survey(walker, (place) => [from, place], only, step)
}

function survey(
  walker: Walker,
  pairOf: (place: Place) => readonly [from: Place, to: Place],
  only: number,
  step: Step | undefined,
): SurveyRow[] {
  const { addressed } = walker.network
  const wanted = addressed.diagrams.and(only, firstPackets(walker.network))
  const places = hostPlaces(walker.network)
  return places.flatMap((place, i) => {
    step?.(i, places.length)
    const [from, to] = pairOf(place)
    if (from.text === to.text) return []
    const { parts } = reach(walker, from, to, wanted)
    const of = (...fates: readonly string[]): number =>
      addressed.any(
        parts.filter(({ fate }) => fates.includes(fate)),
        ({ set }) => set,
      )
    const row = {
      place: place.text,
      arrives: of('arrives', ...(to.destinations === null ? ['leaves'] : [])),
      undecided: of('undecided'),
      sources: addressed.any(from.origins, ({ sources }) => sources),
      destinations: to.destinations ?? ALL,
    }
    return row.arrives === NOTHING && row.undecided === NOTHING ? [] : [row]
  })
}

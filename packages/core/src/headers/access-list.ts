import { ComplexityLimitError, NOTHING } from './diagram.ts'
import type { LaterFragments, ListEntry, ModelList } from './entry-set.ts'
import type { Headers } from './headers.ts'
import { ListSets, type MatchContext } from './lists.ts'

/** What an access list lets through of some packets; `undecided` where it is not known. */
export interface Admission {
  readonly answer: 'some' | 'none' | 'undecided'
  /** The entry that lets a packet through (or may, where undecided); null where none does by itself. */
  readonly by: () => Permit | null
  readonly why: string | null
}

/** An entry, by its number in its list, counted from 0. */
export interface Permit {
  readonly list: ModelList
  readonly entry: number
}

const NOBODY = (): null => null
const NONE: Admission = { answer: 'none', by: NOBODY, why: null }

/** The list itself is asked, whatever interface applies it. */
const ANYWHERE: MatchContext = { inInterface: null, outInterface: null, connection: 'new' }

/** What a list surely lets through of all packets, and what it may. */
interface Passing {
  readonly sure: number
  readonly possible: number
}

/** A list for questions about what stands in it, whatever interface applies it. What is asked again is kept. */
export class StandaloneList {
  #passing: Passing | null = null
  #openToAll: Admission | null = null

  constructor(
    readonly sets: ListSets,
    readonly list: ModelList,
  ) {}

  /**
   * Whether the list lets any packet of `wanted` through. The deny at the end that no line states counts (common
   * practice); where words that cannot be weighed make the difference, the answer is `undecided`.
   */
  admits(wanted: number): Admission {
    const { diagrams } = this.sets.headers
    const byFirst = (among: number) => (): Permit | null => this.#firstPermit(diagrams.and(among, wanted))
    try {
      const { sure, possible } = (this.#passing ??= this.#passes())
      if (diagrams.meet(sure, wanted)) return { answer: 'some', by: byFirst(sure), why: null }
      if (!diagrams.meet(possible, wanted)) return NONE
      const words = [...new Set(this.list.entries.flatMap(({ notWeighed }) => notWeighed))]
      return {
        answer: 'undecided',
        by: byFirst(possible),
        why: words.length > 0 ? `cannot evaluate: ${words.slice(0, 4).join(', ')}` : null,
      }
    } catch (error) {
      if (!(error instanceof ComplexityLimitError)) throw error
      return { answer: 'undecided', by: NOBODY, why: error.message }
    }
  }

  #passes(): Passing {
    const { headers } = this.sets
    const { permitted, denied, returned } = this.sets.decide(this.list, headers.family(this.list.family), ANYWHERE)
    return {
      sure: headers.diagrams.minus(permitted, headers.diagrams.or(denied, returned)),
      possible: headers.diagrams.or(permitted, returned),
    }
  }

  #firstPermit(packets: number): Permit | null {
    let by: Permit | null = null
    this.sets.follow(this.list, packets, ANYWHERE, ({ list, entry, action }) => {
      if (action !== 'deny' && action !== 'lead' && entry >= 0) by ??= { list, entry }
    })
    return by
  }

  /**
   * Whether the list is open: its permits, taken together, name every source, so that whoever is not denied by name
   * gets in. Asked of new TCP connections; lists on terminal lines look at sources.
   */
  get openToAll(): Admission {
    return (this.#openToAll ??= this.#weighOpenness())
  }

  #weighOpenness(): Admission {
    const { sets, list } = this
    const { headers } = sets
    const { diagrams } = headers
    const every = headers.family(list.family)
    const begins = headers.all(every, headers.tcp, diagrams.not(headers.established))
    if (this.admits(begins).answer === 'none') return NONE
    const permits = list.entries.flatMap((entry, at) => {
      if (entry.action === 'deny' || (entry.action === 'other' && entry.leadsTo === null && entry.inlines === null))
        return []
      const { set, vague } = sets.match(entry, list.family)
      const sources = headers.sourcesOf(diagrams.and(set, begins))
      return [{ at, entry, sources, sure: !vague && entry.action === 'permit' }]
    })
    const open = (some: typeof permits, beside: number): boolean =>
      diagrams.within(
        every,
        headers.any([...some.map(({ sources }) => sources), beside], (set) => set),
      )
    const widest = (some: typeof permits) => (): Permit | null => {
      const entry = (some.find(({ entry: { sources } }) => sources.length === 0) ?? some.at(-1))?.at
      return entry === undefined ? null : { list, entry }
    }
    const certain = permits.filter(({ sure }) => sure)
    if (open(certain, list.defaultAction === 'permit' ? every : NOTHING))
      return { answer: 'some', by: widest(certain), why: null }
    if (open(permits, list.defaultAction === 'return' ? every : NOTHING))
      return {
        answer: 'undecided',
        by: widest(permits),
        why: 'an entry that permits every source has terms that cannot be evaluated',
      }
    return NONE
  }
}

/**
 * The lists of a device, each by itself: an entry that asks for an interface or for a state of the connection may mean
 * less than it names.
 */
export function standaloneLists(
  headers: Headers,
  lists: readonly ModelList[],
  laterFragments?: LaterFragments,
): StandaloneList[] {
  const own = lists.map((list) => ({ ...list, entries: list.entries.map(withoutContext) }))
  const sets = new ListSets(headers, own, laterFragments)
  return own.map((list) => new StandaloneList(sets, list))
}

function withoutContext(entry: ListEntry): ListEntry {
  const words = [
    ...[entry.inInterface, entry.outInterface].flatMap((name) => (name === null ? [] : [`interface ${name}`])),
    ...entry.connectionStates.map((state) => `state ${state}`),
  ]
  if (words.length === 0) return entry
  return {
    ...entry,
    inInterface: null,
    outInterface: null,
    connectionStates: [],
    notWeighed: [...entry.notWeighed, ...words],
  }
}

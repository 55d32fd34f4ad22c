import { NOTHING, ComplexityLimitError } from './diagram.ts'
import type { Headers } from './headers.ts'
import type { ListEntry, ModelList } from './entry-set.ts'
import type { ListSets, MatchContext } from './lists.ts'

/**
 * `never-matches`: no packet is left for the line when it is asked. `changes-nothing`: the lines after it would do the
 * same.
 * `contradicts`: it and an earlier line want different things of the same packets, and neither is the exception of the
 * other.
 * `open`: it permits every packet that is left.
 */
export type ListFindingKind = 'never-matches' | 'changes-nothing' | 'contradicts' | 'open'

export interface ListFinding {
  readonly kind: ListFindingKind
  readonly list: ModelList
  /** Numbers of entries in their list, counted from 0. */
  readonly entry: number
  /** The earlier entries that cover it, alone or together, or that it contradicts. */
  readonly others: readonly number[]
  /** The headers that it is about. */
  readonly packets: number
}

/** More contexts than this are not gone through: the list is then not judged. */
const MOST_CIRCUMSTANCES = 256
/** Fewer permitted sources than all, in more than a few entries, are an ordinary list. */
const MOST_OTHERS = 40

/**
 * What is odd about the lines of a list, as it stands by itself.
 * @returns null where it cannot be said: too many interfaces to tell apart, or too intricate
 */
export function findingsOf(sets: ListSets, list: ModelList): ListFinding[] | null {
  const contexts = circumstancesOf(list)
  if (contexts.length > MOST_CIRCUMSTANCES) return null
  try {
    return new ListJudge(sets, list, contexts).findings()
  } catch (error) {
    if (error instanceof ComplexityLimitError) return null
    throw error
  }
}

/** Each combination of interfaces that lines of some lists name, one that none names, and of states of connections. */
export function circumstancesOf(...lists: readonly ModelList[]): MatchContext[] {
  const entries = lists.flatMap((list) => list.entries)
  const named = (field: 'inInterface' | 'outInterface'): (string | null)[] => [
    ...new Set(entries.flatMap((entry) => (entry[field] === null ? [] : [exampleName(entry[field])]))),
    null,
  ]
  const states: MatchContext['connection'][] = entries.some(({ connectionStates }) => connectionStates.length > 0)
    ? ['new', 'established']
    : ['new']
  return named('inInterface').flatMap((inInterface) =>
    named('outInterface').flatMap((outInterface) =>
      states.map((connection) => ({ inInterface, outInterface, connection })),
    ),
  )
}

/** A name that a pattern meets: `eth+` meets `eth0`. */
function exampleName(pattern: string): string {
  return pattern.replace('!', '').replace(/\+$/, '0')
}

/** What reaches the lines in one context. */
interface Course {
  /** Of packets that answer others. */
  readonly answers: boolean
  /** Of each line: what it names, what of it is left when it is asked, whether it may mean less. */
  readonly lines: readonly { readonly named: number; readonly met: number; readonly vague: boolean }[]
  /** What the lines after each would do: those that may be permitted, and may be denied. */
  readonly after: readonly { readonly permitted: number; readonly denied: number }[]
}

class ListJudge {
  readonly #headers: Headers
  readonly #courses: readonly Course[]

  constructor(
    readonly sets: ListSets,
    readonly list: ModelList,
    contexts: readonly MatchContext[],
  ) {
    this.#headers = sets.headers
    this.#courses = contexts.map((context) => this.#course(context))
  }

  findings(): ListFinding[] {
    const findings: ListFinding[] = []
    this.list.entries.forEach((entry, at) => {
      if (entry.action === 'other' && entry.leadsTo === null) return
      const dead = this.#courses.every(({ lines }) => lines[at]?.met === NOTHING)
      if (dead) {
        findings.push(this.#finding('never-matches', at, this.#covers(at)))
        return
      }
      if (entry.action === 'other') return
      if (this.#isVain(entry, at)) findings.push(this.#finding('changes-nothing', at, []))
      const contradicted = this.#contradicted(entry, at)
      if (contradicted.length > 0)
        findings.push({ ...this.#finding('contradicts', at, contradicted), packets: this.#shared(at, contradicted) })
      if (entry.action === 'permit' && this.#courses.every(({ answers, lines }) => answers || this.#isOpen(lines[at])))
        findings.push(this.#finding('open', at, []))
    })
    return findings
  }

  #finding(kind: ListFindingKind, entry: number, others: readonly number[]): ListFinding {
    return {
      kind,
      list: this.list,
      entry,
      others,
      packets: this.#headers.any(
        this.#courses,
        ({ lines }) => lines[entry]?.[kind === 'never-matches' ? 'named' : 'met'] ?? NOTHING,
      ),
    }
  }

  #course(context: MatchContext): Course {
    const { diagrams } = this.#headers
    const { entries, family, defaultAction } = this.list
    let left = this.#headers.family(family)
    const leads: (ReturnType<ListSets['decide']> | null)[] = []
    const lines = entries.map((entry, at) => {
      const done = entry.action === 'other' && entry.leadsTo === null ? null : this.#alone(entry, context)
      leads[at] = done
      const named = done === null ? NOTHING : this.#named(entry, context)
      const { vague } = this.sets.match(entry, family)
      const met = diagrams.and(left, named)
      if (!vague && done)
        left = diagrams.or(
          diagrams.minus(left, met),
          entry.action === 'other' ? diagrams.and(met, done.returned) : NOTHING,
        )
      return { named, met, vague }
    })
    const after: { permitted: number; denied: number }[] = []
    let permitted = defaultAction === 'deny' ? NOTHING : this.#headers.family(family)
    let denied = defaultAction === 'permit' ? NOTHING : this.#headers.family(family)
    for (let at = entries.length - 1; at >= 0; at--) {
      after[at] = { permitted, denied }
      const done = leads[at]
      const line = lines[at]
      if (!done || !line) continue
      // What the line surely decides does not reach those after it.
      const passes = line.vague
        ? this.#headers.family(family)
        : diagrams.or(diagrams.not(line.named), entries[at]?.action === 'other' ? done.returned : NOTHING)
      permitted = diagrams.or(diagrams.and(permitted, passes), done.permitted)
      denied = diagrams.or(diagrams.and(denied, passes), done.denied)
    }
    return { answers: context.connection === 'established', lines, after }
  }

  /** What a line does with all that it names, no line being before it. */
  #alone(entry: ListEntry, context: MatchContext): ReturnType<ListSets['decide']> {
    const every = this.#headers.family(this.list.family)
    const ends = entry.leadsTo === 'RETURN' || entry.forGood === true
    const done = this.sets.follow(
      { ...this.list, entries: [entry], defaultAction: ends ? this.list.defaultAction : 'return' },
      every,
      context,
    )
    // What ends a list that others lead to is decided elsewhere.
    return ends
      ? {
          permitted: this.#headers.diagrams.or(done.permitted, done.returned),
          denied: this.#headers.diagrams.or(done.denied, done.returned),
          returned: NOTHING,
        }
      : done
  }

  #named(entry: ListEntry, context: MatchContext): number {
    // A line that permits names what it permits: asked so, it tells of interfaces and states as well.
    const asPermit: ListEntry = { ...entry, action: 'permit', leadsTo: null }
    return this.sets.follow(
      { ...this.list, entries: [asPermit], defaultAction: 'return' },
      this.#headers.family(this.list.family),
      context,
    ).permitted
  }

  /** The earlier lines that take what a line names. */
  #covers(at: number): number[] {
    const named = this.#headers.any(this.#courses, ({ lines }) => lines[at]?.named ?? NOTHING)
    if (named === NOTHING) return []
    const earlier = this.list.entries
      .slice(0, at)
      .flatMap((_, i) => (this.#courses.some(({ lines }) => this.#takes(lines[i], named)) ? [i] : []))
    const alone = earlier.find((i) =>
      this.#courses.every(({ lines }) => this.#covered(lines[at]?.named ?? NOTHING, lines[i])),
    )
    return alone === undefined ? earlier.slice(0, MOST_OTHERS) : [alone]
  }

  #takes(line: Course['lines'][number] | undefined, packets: number): boolean {
    return line !== undefined && !line.vague && this.#headers.diagrams.meet(line.met, packets)
  }

  #covered(named: number, line: Course['lines'][number] | undefined): boolean {
    return named === NOTHING || (line !== undefined && !line.vague && this.#headers.diagrams.within(named, line.named))
  }

  /**
   * Whether the lines after it would do the same with all that it decides. A last line that says what the end does
   * anyway is left alone: it is written for readers, or to log.
   */
  #isVain(entry: ListEntry, at: number): boolean {
    if (entry.logged || /\blog\b/.test(entry.text) || at === this.list.entries.length - 1) return false
    return this.#courses.every(({ lines, after }) => {
      const other = after[at]?.[entry.action === 'permit' ? 'denied' : 'permitted'] ?? NOTHING
      return !this.#headers.diagrams.meet(lines[at]?.met ?? NOTHING, other)
    })
  }

  /** Earlier lines of the other action that share packets with a line, neither being within the other. */
  #contradicted(entry: ListEntry, at: number): number[] {
    const { diagrams } = this.#headers
    const others: number[] = []
    for (let i = 0; i < at && others.length < MOST_OTHERS; i++) {
      const earlier = this.list.entries[i]
      if (!earlier || earlier.action === 'other' || earlier.action === entry.action) continue
      const odd = this.#courses.some(({ lines }) => {
        const [a, b] = [lines[i], lines[at]]
        return (
          a !== undefined &&
          b !== undefined &&
          !a.vague &&
          !b.vague &&
          diagrams.meet(a.met, b.named) &&
          !diagrams.within(a.named, b.named) &&
          !diagrams.within(b.named, a.named)
        )
      })
      if (odd) others.push(i)
    }
    return others
  }

  #shared(at: number, others: readonly number[]): number {
    const { diagrams } = this.#headers
    return this.#headers.any(this.#courses, ({ lines }) =>
      this.#headers.any(others, (i) => diagrams.and(lines[i]?.met ?? NOTHING, lines[at]?.named ?? NOTHING)),
    )
  }

  /** Whether a line permits packets of every source to every destination, whatever they are. */
  #isOpen(line: Course['lines'][number] | undefined): boolean {
    return line !== undefined && !line.vague && line.named === this.#headers.family(this.list.family)
  }
}

/** On which headers two lists do not agree: those that only the first may permit, and only the second. */
export function differenceOf(
  headers: Headers,
  a: { sets: ListSets; list: ModelList },
  b: { sets: ListSets; list: ModelList },
  context: MatchContext = { inInterface: null, outInterface: null, connection: 'new' },
): { readonly onlyFirst: number; readonly onlySecond: number } {
  const { diagrams } = headers
  const permitted = ({ sets, list }: { sets: ListSets; list: ModelList }): number =>
    sets.decide(list, headers.family(list.family), context).permitted
  const [first, second] = [permitted(a), permitted(b)]
  return { onlyFirst: diagrams.minus(first, second), onlySecond: diagrams.minus(second, first) }
}

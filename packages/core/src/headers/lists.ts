import type { Family } from '../model/index.ts'
import { ALL, NOTHING } from './diagram.ts'
import { setOfEntry, type EntrySet, type LaterFragments, type ListEntry, type ModelList } from './entry-set.ts'
import type { TcpFlag } from './fields.ts'
import type { Headers } from './headers.ts'

/** Where a packet is met and what it belongs to: what lists can ask beside its header. */
export interface MatchContext {
  /** Names of the interfaces; null: it does not come in or go out there (it is from or for the device itself). */
  readonly inInterface: string | null
  readonly outInterface: string | null
  /** `new`: of no connection that is known; `established`: of one that was let through. */
  readonly connection: 'new' | 'established'
}

/** What becomes of packets at a line, or at the end of a list (`entry` -1). */
export interface Verdict {
  readonly list: ModelList
  readonly entry: number
  /** `unknown`: a line that was not understood, which may do either. */
  readonly action: 'permit' | 'deny' | 'unknown' | 'lead'
  /** The packets that may be decided there. */
  readonly packets: number
  /** Whether the line is known to decide them: false where it has terms that cannot be evaluated. */
  readonly sure: boolean
}

/**
 * What a list does with the packets that enter it: each is in one or two of the first two sets, in two where it is
 * undecided.
 */
export interface Decision {
  readonly permitted: number
  readonly denied: number
  /** What goes back to the list that led here. */
  readonly returned: number
}

/** No kernel nests lists deeper than this; a text may. */
const MOST_DEPTH = 64
/** The share of all packets up to which they are few. */
const FEW = 2 ** -12
/** A list that is asked more often is followed with all packets: each further answer costs next to nothing then. */
const MOST_FOLLOWED = 8
/** Matches that are reported to a log; beyond them only the decision is made. */
const MOST_RECORDED = 50_000

/** Receives each line that packets match, and remembers the decision for packets that reach a list again. */
interface DecisionLog {
  readonly onMatch: (verdict: Verdict) => void
  readonly known: Map<ModelList, Map<number, Decision>>
  recorded: number
}

/** The lists of one device as sets of headers. */
export class ListSets {
  readonly #lists: ReadonlyMap<string, ModelList>
  /** How deep the list is that is followed now. */
  #depth = 0
  readonly #matches = new Map<ListEntry, EntrySet>()
  /** Lists as they stand within others. */
  readonly #inlined = new Map<ModelList, ModelList>()
  /** How often each was followed with few packets. */
  readonly #followed = new WeakMap<ModelList, number>()
  readonly #decisions = new WeakMap<ModelList, { readonly asksWhere: boolean; readonly by: Map<string, Decision> }>()

  /**
   * @param laterFragments what a line with ports does with fragments after the first, which have none: it depends on
   * the dialect
   */
  constructor(
    readonly headers: Headers,
    lists: readonly ModelList[],
    readonly laterFragments: LaterFragments = 'never',
  ) {
    this.#lists = new Map(lists.map((list) => [`${list.family} ${list.name}`, list]))
  }

  list(name: string, family: Family): ModelList | null {
    return this.#lists.get(`${family} ${name}`) ?? null
  }

  /** Whether an entry of a list, or of one that stands within it, sends packets to another table. */
  namesInstances(list: ModelList): boolean {
    return this.#around(list).some(({ entries }) => entries.some(({ routingInstance }) => routingInstance !== null))
  }

  /** A list and those that it leads to. */
  #around(list: ModelList): ModelList[] {
    const all = new Set([list])
    for (const { name, family, entries } of all) {
      for (const { leadsTo, inlines } of entries) {
        for (const next of [
          inlines === null ? null : this.list(inlines, family),
          leadsTo === null ? null : this.list(`${name.split(' ')[0] ?? ''} ${leadsTo}`, family),
        ])
          if (next) all.add(next)
      }
    }
    return [...all]
  }

  /** The headers that an entry names, and whether it may mean fewer. */
  match(entry: ListEntry, family: Family): EntrySet {
    let match = this.#matches.get(entry)
    if (!match) this.#matches.set(entry, (match = setOfEntry(this.headers, entry, family, this.laterFragments)))
    return match
  }

  /**
   * What a list does with packets. Each is decided as it would be alone, so that a list is followed once, with all of
   * them; for a few packets it is followed with those alone, which is much less work.
   */
  decide(list: ModelList, entering: number, context: MatchContext): Decision {
    if (this.#isFew(list, entering)) return this.follow(list, entering, context)
    return this.#ofAll(list, entering, context)
  }

  /** Whether packets are so few that a list, of which the rest may never be asked, is not followed with all. */
  #isFew(list: ModelList, entering: number): boolean {
    const followed = this.#followed.get(list) ?? 0
    if (followed >= MOST_FOLLOWED) return false
    const { diagrams } = this.headers
    if (diagrams.density(entering) > FEW * diagrams.density(this.headers.family(list.family))) return false
    this.#followed.set(list, followed + 1)
    return true
  }

  #ofAll(list: ModelList, entering: number, context: MatchContext): Decision {
    const { diagrams } = this.headers
    const whole = this.#whole(list, context)
    return {
      permitted: diagrams.and(entering, whole.permitted),
      denied: diagrams.and(entering, whole.denied),
      returned: diagrams.and(entering, whole.returned),
    }
  }

  #whole(list: ModelList, context: MatchContext): Decision {
    let known = this.#decisions.get(list)
    if (!known) this.#decisions.set(list, (known = { asksWhere: this.#asksWhere(list), by: new Map() }))
    const key = known.asksWhere
      ? `${context.connection} ${context.inInterface ?? '-'} ${context.outInterface ?? '-'}`
      : context.connection
    let whole = known.by.get(key)
    if (whole) return whole
    const every = this.headers.family(list.family)
    // No kernel has lists that lead back to themselves. A text may have them; what they do is then unknown.
    known.by.set(key, { permitted: every, denied: every, returned: every })
    known.by.set(key, (whole = this.follow(list, every, context)))
    return whole
  }

  /** Whether a list, or one that it leads to, asks for interfaces. */
  #asksWhere(list: ModelList): boolean {
    return this.#around(list).some(({ entries }) =>
      entries.some(({ inInterface, outInterface }) => inInterface !== null || outInterface !== null),
    )
  }

  /**
   * What a list does with packets, line by line.
   * @param onMatch called for every line that packets may be decided at, in the order in which they meet them
   */
  follow(list: ModelList, entering: number, context: MatchContext, onMatch?: (verdict: Verdict) => void): Decision {
    return this.#follow(list, entering, context, onMatch ? { onMatch, known: new Map(), recorded: 0 } : null)
  }

  #follow(list: ModelList, entering: number, context: MatchContext, log: DecisionLog | null): Decision {
    const { diagrams } = this.headers
    let left = diagrams.and(entering, this.headers.family(list.family))
    let permitted = NOTHING
    let denied = NOTHING
    let ended = NOTHING
    for (let at = 0; at < list.entries.length && left !== NOTHING; at++) {
      const entry = list.entries[at] as ListEntry
      if (entry.action === 'other' && entry.leadsTo === null && entry.inlines === null) continue
      const held = this.#held(entry, list.family, context)
      if (held === null) continue
      const packets = diagrams.and(left, held.set)
      if (packets === NOTHING) continue
      const gone = held.vague ? NOTHING : packets
      if (entry.inlines !== null) {
        const inner = this.#inline(list, at, packets, context, log)
        permitted = diagrams.or(permitted, inner.permitted)
        denied = diagrams.or(denied, inner.denied)
        left = diagrams.or(diagrams.minus(left, gone), inner.returned)
        continue
      }
      if (entry.action === 'other') {
        const led = this.#lead(list, at, packets, context, log)
        if (led === null) continue
        permitted = diagrams.or(permitted, led.permitted)
        denied = diagrams.or(denied, led.denied)
        // Packets return from a jump and go on here; after a goto they return with this list.
        if (!entry.forGood && entry.leadsTo !== 'RETURN') left = diagrams.or(diagrams.minus(left, gone), led.returned)
        else {
          left = diagrams.minus(left, gone)
          ended = diagrams.or(ended, led.returned)
        }
        continue
      }
      const sure = !held.vague && entry.action !== 'unknown'
      this.#record(log, { list, entry: at, action: entry.action, packets, sure })
      if (entry.action !== 'deny') permitted = diagrams.or(permitted, packets)
      if (entry.action !== 'permit') denied = diagrams.or(denied, packets)
      // A line that was not understood may do nothing as well: what comes after it is asked.
      if (sure) left = diagrams.minus(left, packets)
    }
    const end = this.#end(list, diagrams.or(left, ended), -1, log)
    return {
      permitted: diagrams.or(permitted, end.permitted),
      denied: diagrams.or(denied, end.denied),
      returned: end.returned,
    }
  }

  /**
   * The entries of another list in the place of one: what they do not decide goes on here, whatever that list does with
   * it by itself.
   */
  #inline(list: ModelList, at: number, packets: number, context: MatchContext, log: DecisionLog | null): Decision {
    const name = list.entries[at]?.inlines ?? ''
    const next = this.list(name, list.family)
    this.#record(log, { list, entry: at, action: 'lead', packets, sure: next !== null })
    if (!next || this.#depth >= MOST_DEPTH) return { permitted: packets, denied: packets, returned: packets }
    let open = this.#inlined.get(next)
    if (!open) this.#inlined.set(next, (open = { ...next, defaultAction: 'return' }))
    this.#depth++
    try {
      return this.#into(open, packets, context, log)
    } finally {
      this.#depth--
    }
  }

  /** What no line decides, or a line sends to the end. */
  #end(list: ModelList, packets: number, entry: number, log: DecisionLog | null): Decision {
    if (packets !== NOTHING && list.defaultAction !== 'return')
      this.#record(log, { list, entry, action: list.defaultAction, packets, sure: true })
    return { permitted: NOTHING, denied: NOTHING, returned: NOTHING, [END_OF[list.defaultAction]]: packets }
  }

  #record(log: DecisionLog | null, verdict: Verdict): void {
    if (!log) return
    log.recorded++
    log.onMatch(verdict)
  }

  /** What a line that leads elsewhere does; null: nothing. */
  #lead(list: ModelList, at: number, packets: number, context: MatchContext, log: DecisionLog | null): Decision | null {
    const entry = list.entries[at] as ListEntry
    const target = entry.leadsTo ?? ''
    if (target === 'RETURN') {
      this.#record(log, { list, entry: at, action: 'lead', packets, sure: true })
      return this.#end(list, packets, -1, log)
    }
    if (MARKS.has(target)) return null
    const next = this.list(`${list.name.split(' ')[0] ?? ''} ${target}`, list.family)
    this.#record(log, { list, entry: at, action: 'lead', packets, sure: next !== null })
    // A target that is neither a list nor known: what it does is not known either.
    if (!next || this.#depth >= MOST_DEPTH) return { permitted: packets, denied: packets, returned: packets }
    this.#depth++
    try {
      return this.#into(next, packets, context, log)
    } finally {
      this.#depth--
    }
  }

  #into(next: ModelList, packets: number, context: MatchContext, log: DecisionLog | null): Decision {
    // Lists may lead to others by many ways: what another does is worked out once.
    if (!log || log.recorded > MOST_RECORDED) return this.#ofAll(next, packets, context)
    let known = log.known.get(next)
    if (!known) log.known.set(next, (known = new Map()))
    let done = known.get(packets)
    if (done) return done
    known.set(packets, { permitted: packets, denied: packets, returned: packets })
    known.set(packets, (done = this.#follow(next, packets, context, log)))
    return done
  }

  /** The headers that an entry names in a context; null where it asks for another. */
  #held(entry: ListEntry, family: Family, { inInterface, outInterface, connection }: MatchContext): EntrySet | null {
    if (!isAt(entry.inInterface, inInterface) || !isAt(entry.outInterface, outInterface)) return null
    const { set, vague } = this.match(entry, family)
    if (entry.connectionStates.length === 0) return { set, vague }
    const states = this.#states(entry.connectionStates, connection)
    const wanted = entry.negated.includes('connectionStates') ? this.headers.diagrams.not(states.set) : states.set
    return { set: this.headers.diagrams.and(set, wanted), vague: vague || states.vague }
  }

  /**
   * The packets that are in one of some states of a connection. The first packet of a connection is `new` where its
   * header can begin one, else `invalid`; neighbour discovery is tracked by nobody. As the connection tracking of the
   * Linux kernel does it, TCP taken up in the middle included (nf_conntrack_proto_tcp.c, from memory; the tests ask the
   * kernel).
   */
  #states(states: readonly string[], connection: 'new' | 'established'): { set: number; vague: boolean } {
    const { headers } = this
    const { diagrams } = headers
    const pure = (flag: TcpFlag): number =>
      headers.all(
        headers.tcp,
        headers.flag(flag, true),
        ...(['fin', 'syn', 'rst', 'ack'] as const).flatMap((other) =>
          other === flag ? [] : [headers.flag(other, false)],
        ),
      )
    const untracked = headers.all(
      headers.ipv6,
      headers.icmp,
      diagrams.or(headers.range('icmpType', [130, 137]), headers.value('icmpType', 143)),
    )
    const tcp = headers.value('protocol', 6)
    const begins = diagrams.or(
      diagrams.or(pure('syn'), pure('ack')),
      diagrams.or(
        headers.all(
          headers.icmp,
          headers.any([8, 13, 15, 17, 128], (type) => headers.value('icmpType', type)),
        ),
        diagrams.minus(diagrams.not(tcp), headers.icmp),
      ),
    )
    let set = NOTHING
    for (const state of states) {
      if (state === 'untracked') set = diagrams.or(set, untracked)
      else if (connection === 'established')
        set = state === 'established' ? diagrams.or(set, diagrams.not(untracked)) : set
      else if (state === 'new') set = diagrams.or(set, diagrams.minus(begins, untracked))
      else if (state === 'invalid') set = diagrams.or(set, diagrams.not(diagrams.or(begins, untracked)))
    }
    // States of translation are those of packets that a rule of translation met; that is not known here.
    return {
      set: states.some((state) => state === 'snat' || state === 'dnat') ? ALL : set,
      vague: states.some((state) => state === 'snat' || state === 'dnat'),
    }
  }
}

const END_OF = { permit: 'permitted', deny: 'denied', return: 'returned' } as const

/** Targets that write something beside the packet and let it go on. */
const MARKS = new Set(['MARK', 'CONNMARK', 'CONNSECMARK', 'SECMARK', 'TTL', 'HL', 'SET'])

/** Whether a name of an entry (`eth+`, `!eth0`) is that of an interface. */
function isAt(wanted: string | null, name: string | null): boolean {
  if (wanted === null) return true
  const negated = wanted.startsWith('!')
  const pattern = negated ? wanted.slice(1) : wanted
  const at = name !== null && (pattern.endsWith('+') ? name.startsWith(pattern.slice(0, -1)) : name === pattern)
  return at !== negated
}

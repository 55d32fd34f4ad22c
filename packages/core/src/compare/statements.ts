import { grouped } from '../syntax/grouped.ts'
import type { ConfigNode, Scope, Statement, Syntax } from '../syntax/index.ts'
import { heaviestCommonSequence, type Pair, type Weighing } from './common-sequence.ts'
import { Noise } from './noise.ts'

/** What a dialect knows of order, and of what differs by itself. */
export type Order = Pick<Syntax, 'id' | 'isOrdered' | 'noise' | 'numberedPlaceIn' | 'placeIn'>

/**
 * A statement that stands on one side only, or at another place where order counts, with all that is in its block.
 * Removing what is removed and moved, and putting what is added and moved to its place, makes B out of A.
 */
export interface StatementChange {
  readonly change: 'removed' | 'added' | 'moved'
  /** Texts of the openers around it on each side, outermost first: blocks may have other numbers there. */
  readonly around: { readonly a: readonly string[]; readonly b: readonly string[] }
  /** Null where it is added. */
  readonly a: Statement | null
  /** Null where it is removed. */
  readonly b: Statement | null
  /** Where order counts: the series, and its place among the statements of that series in B, counted from 0. */
  readonly place: { readonly series: string; readonly at: number } | null
}

/** A command that stands on one side only, with the openers of the blocks around it. */
export interface Difference {
  readonly side: 'a' | 'b'
  /** Texts of the openers around it, outermost first, then its own (with `no` where negated). */
  readonly path: readonly string[]
  readonly nodes: readonly ConfigNode[]
}

export function statementText(statement: Statement): string {
  return withForm(statement.text, statement)
}

function withForm(text: string, { negated }: Statement): string {
  return negated ? `no ${text}` : text
}

/**
 * What differs between two configurations in what holds. Comments, time stamps, numbers that only say a place and the
 * order of commands whose order means nothing are no difference; in access lists, route maps and other series order
 * counts, and what is out of order is as little as possible.
 */
export function statementChanges(a: Scope, b: Scope, order: Order, noise = new Noise(order)): StatementChange[] {
  const out: StatementChange[] = []
  new Comparing(order, noise, out).scopes(a, b, { a: [], b: [], block: undefined })
  return out
}

/** The same as statements of one side each; what moved is on both. */
export function diffScopes(a: Scope, b: Scope, order: Order, noise?: Noise): Difference[] {
  const changes = statementChanges(a, b, order, noise)
  const of = (side: 'a' | 'b'): Difference[] =>
    changes.flatMap((change) => {
      const statement = change[side]
      return statement ? whole(side, statement, change.around[side]) : []
    })
  return [...of('a'), ...of('b')]
}

function whole(side: 'a' | 'b', statement: Statement, around: readonly string[]): Difference[] {
  const path = [...around, statementText(statement)]
  const own: Difference = { side, path, nodes: statement.nodes }
  return [own, ...(statement.scope?.statements ?? []).flatMap((child) => whole(side, child, path))]
}

interface Around {
  readonly a: readonly string[]
  readonly b: readonly string[]
  readonly block: string | undefined
}

/** A statement as it is compared. */
interface Entry {
  readonly statement: Statement
  /** Its place in its series, counted from 0. */
  at: number
  /** What tells it from others: equal ones are the same command. */
  readonly id: string
}

/** All statements of one member of a series, which stand together. */
interface Member {
  readonly key: string
  readonly entries: Entry[]
  number: number
}

interface Sorted {
  /** Those whose place means nothing. */
  readonly loose: Entry[]
  readonly series: Map<string, Member[]>
}

class Comparing {
  constructor(
    readonly order: Order,
    readonly noise: Noise,
    readonly out: StatementChange[],
  ) {}

  scopes(a: Scope, b: Scope, around: Around): void {
    if (isAlike(a.statements, b.statements)) {
      a.statements.forEach((mine, i) => this.#inner(mine, b.statements[i] ?? mine, around))
      return
    }
    const [left, right] = [this.#sorted(a, around.a, around.block), this.#sorted(b, around.b, around.block)]
    this.#loose(left.loose, right.loose, around)
    for (const series of new Set([...left.series.keys(), ...right.series.keys()]))
      this.#series(series, left.series.get(series) ?? [], right.series.get(series) ?? [], around)
  }

  /** What two statements with one text hold. */
  #inner(mine: Statement, theirs: Statement, around: Around): void {
    if (!mine.scope || !theirs.scope) return
    this.scopes(mine.scope, theirs.scope, {
      a: [...around.a, mine.text],
      b: [...around.b, theirs.text],
      block: mine.block,
    })
  }

  #sorted({ statements }: Scope, openers: readonly string[], block: string | undefined): Sorted {
    const loose: Entry[] = []
    const series = new Map<string, Member[]>()
    const named = new Map<string, Member>()
    const isOrdered = this.order.isOrdered(block)
    for (const statement of statements) {
      const numbered = this.order.numberedPlaceIn?.(statement.text, block) ?? null
      const own = numbered ? withForm(numbered.without, statement) : statementText(statement)
      const text = this.noise.cleaned(own, openers)
      if (text === null) continue
      const place = numbered ?? (isOrdered ? null : this.order.placeIn(statement.text))
      const entry: Entry = { statement, at: 0, id: identity(statement, text) }
      if (!isOrdered && place === null) {
        loose.push(entry)
        continue
      }
      const name = isOrdered ? '' : (place?.series ?? '')
      const members = series.get(name) ?? []
      if (members.length === 0) series.set(name, members)
      // Of a series without numbers a member is what its name says; of one with numbers each statement is one.
      const key = place && 'member' in place ? place.member : null
      const known = key === null ? undefined : named.get(`${name}\n${key}`)
      if (known) {
        known.entries.push(entry)
        continue
      }
      const member: Member = { key: key ?? entry.id, entries: [entry], number: numbered?.number ?? NaN }
      members.push(member)
      if (key !== null) named.set(`${name}\n${key}`, member)
    }
    for (const members of series.values()) inSequence(members)
    return { loose, series }
  }

  #loose(left: readonly Entry[], right: readonly Entry[], around: Around): void {
    const { pairs, a, b } = matched(left, right)
    for (const entry of a) this.#tell('removed', entry, null, around, null)
    for (const entry of b) this.#tell('added', null, entry, around, null)
    for (const [mine, theirs] of pairs) this.#inner(mine.statement, theirs.statement, around)
  }

  #series(series: string, left: readonly Member[], right: readonly Member[], around: Around): void {
    const { pairs, a, b } = inStep(left, right)
    for (const [mine, theirs] of pairs) {
      const inside = matched(mine.entries, theirs.entries)
      for (const entry of inside.a) this.#tell('removed', entry, null, around, series)
      for (const entry of inside.b) this.#tell('added', null, entry, around, series)
      for (const [one, other] of inside.pairs) this.#inner(one.statement, other.statement, around)
    }
    // What is out of step and the same to the letter has moved.
    const entries = (members: readonly Member[]): Entry[] => members.flatMap((member) => member.entries)
    const moved = matched(entries(a), entries(b), (entry) => this.#content(entry))
    for (const [mine, theirs] of moved.pairs) this.#tell('moved', mine, theirs, around, series)
    for (const entry of moved.a) this.#tell('removed', entry, null, around, series)
    for (const entry of moved.b) this.#tell('added', null, entry, around, series)
  }

  /** A statement with all that it holds, less what differs by itself. */
  #content({ id, statement }: Entry): string {
    const lines = (scope: Scope | null, openers: readonly string[]): string[] =>
      (scope?.statements ?? []).flatMap((child) => {
        const text = this.noise.cleaned(statementText(child), openers)
        const inner = lines(child.scope, [...openers, child.text])
        return text === null ? inner : [`${openers.length} ${identity(child, text)}`, ...inner]
      })
    return [id, ...lines(statement.scope, [statement.text])].join('\n')
  }

  #tell(
    change: StatementChange['change'],
    a: Entry | null,
    b: Entry | null,
    around: Around,
    series: string | null,
  ): void {
    this.out.push({
      change,
      around: { a: around.a, b: around.b },
      a: a?.statement ?? null,
      b: b?.statement ?? null,
      place: series !== null && b ? { series, at: b.at } : null,
    })
  }
}

/** Whether two blocks have the same lines in the same order; what is in their inner blocks is not looked at. */
function isAlike(a: readonly Statement[], b: readonly Statement[]): boolean {
  return (
    a.length === b.length &&
    a.every((mine, i) => {
      const theirs = b[i]
      return theirs !== undefined && (mine.command === theirs.command || mine.text === theirs.text)
        ? mine.negated === theirs.negated && bodyOf(mine) === bodyOf(theirs)
        : false
    })
  )
}

function bodyOf(statement: Statement): string | undefined {
  return statement.nodes.at(-1)?.body
}

/** Text that tells equal from different: of free text, its whole body. */
function identity(statement: Statement, text: string): string {
  const body = bodyOf(statement)
  return body === undefined ? text : `${text}\n${body}`
}

/** Members with numbers stand by those, the others behind the one that they came after. */
function inSequence(members: Member[]): void {
  let last = -1
  for (const member of members) {
    if (Number.isNaN(member.number)) member.number = last
    else last = member.number
  }
  members.sort((a, b) => a.number - b.number)
  let at = 0
  for (const { entries } of members) for (const entry of entries) entry.at = at++
}

interface Matching<T> {
  readonly a: readonly T[]
  readonly b: readonly T[]
  readonly pairs: readonly (readonly [T, T])[]
}

/** Pairs equal entries wherever they stand. */
function matched(
  left: readonly Entry[],
  right: readonly Entry[],
  idOf: (entry: Entry) => string = ({ id }) => id,
): Matching<Entry> {
  const waiting = grouped(right, idOf)
  const a: Entry[] = []
  const pairs: [Entry, Entry][] = []
  for (const entry of left) {
    const partner = waiting.get(idOf(entry))?.shift()
    if (partner) pairs.push([entry, partner])
    else a.push(entry)
  }
  return { a, b: [...waiting.values()].flat(), pairs }
}

/** Pairs members of a series so that they are in one order on both sides and have as much as possible in common. */
function inStep(left: readonly Member[], right: readonly Member[]): Matching<Member> {
  const [mine, theirs] = [left.map(({ key }) => key), right.map(({ key }) => key)]
  const isPlain = ({ entries }: Member): boolean => entries.length === 1 && entries[0]?.statement.scope === null
  const pairs =
    left.every(isPlain) && right.every(isPlain)
      ? heaviestCommonSequence(mine, theirs)
      : heaviestCommonSequence(mine, theirs, commonLines(left, right))
  const [paired, partners] = [new Set(pairs.map(([i]) => i)), new Set(pairs.map(([, j]) => j))]
  return {
    pairs: pairs.flatMap(([i, j]: Pair): [Member, Member][] => {
      const [one, other] = [left[i], right[j]]
      return one && other ? [[one, other]] : []
    }),
    a: left.filter((_, i) => !paired.has(i)),
    b: right.filter((_, j) => !partners.has(j)),
  }
}

/** How many statements two members have in common. */
function commonLines(left: readonly Member[], right: readonly Member[]): Weighing {
  const [mine, theirs] = [left.map(linesOf), right.map(linesOf)]
  const textOf = (lines: ReadonlyMap<string, number>): string => [...lines.keys()].join('\n')
  return {
    contents: { a: mine.map(textOf), b: theirs.map(textOf) },
    weight: (i, j) => {
      let common = 0
      for (const [path, count] of mine[i] ?? []) common += Math.min(count, theirs[j]?.get(path) ?? 0)
      return common
    },
  }
}

/** How often a member has each of its statements, by the path to it. */
function linesOf({ entries }: Member): ReadonlyMap<string, number> {
  const counts = new Map<string, number>()
  const count = (path: string, statement: Statement): void => {
    counts.set(path, (counts.get(path) ?? 0) + 1)
    for (const child of statement.scope?.statements ?? [])
      count(`${path}\n ${identity(child, statementText(child))}`, child)
  }
  for (const { id, statement } of entries) count(id, statement)
  return counts
}

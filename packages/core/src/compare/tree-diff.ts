import { grouped } from '../syntax/grouped.ts'
import type { ConfigNode, Scope, Statement, Syntax } from '../syntax/index.ts'

/** What a dialect knows of order. */
type Order = Pick<Syntax, 'isOrdered' | 'placeIn'>

/** A command that stands on one side only, with the openers of the blocks around it. */
export interface Difference {
  readonly side: 'a' | 'b'
  /** Texts of the openers around it, outermost first, then its own (with `no` where negated). */
  readonly path: readonly string[]
  readonly nodes: readonly ConfigNode[]
}

/** Commands that change by themselves; differences in them are none (common practice). */
const NOISE = /^(?:ntp clock-period|boot-(?:start|end)-marker)\b/i

/**
 * What differs between two configurations in what holds. Comments, time stamps and the order of commands whose order
 * means nothing are no difference; in access lists, route maps and other series order counts.
 */
export function diffScopes(
  a: Scope,
  b: Scope,
  dialect: Order,
  around: readonly string[] = [],
  block?: string,
): Difference[] {
  const out: Difference[] = []
  const left = significant(a)
  const right = significant(b)
  const unmatched = dialect.isOrdered(block)
    ? outOfStep(left, right)
    : withSeries(onlyOnOneSide(left, right), left, right, dialect)
  for (const statement of unmatched.a) out.push(...whole('a', statement, around))
  for (const statement of unmatched.b) out.push(...whole('b', statement, around))
  for (const [mine, theirs] of unmatched.pairs) {
    if (mine.scope && theirs.scope)
      out.push(...diffScopes(mine.scope, theirs.scope, dialect, [...around, mine.text], mine.block))
  }
  return out
}

function significant(scope: Scope): Statement[] {
  return scope.statements.filter((statement) => !NOISE.test(statement.text))
}

export function statementText(statement: Statement): string {
  return statement.negated ? `no ${statement.text}` : statement.text
}

/** Text that tells equal from different: of free text, its whole body. */
function identity(statement: Statement): string {
  const body = statement.nodes.at(-1)?.body
  return body === undefined ? statementText(statement) : `${statementText(statement)}\n${body}`
}

interface Matching {
  readonly a: readonly Statement[]
  readonly b: readonly Statement[]
  readonly pairs: readonly (readonly [Statement, Statement])[]
}

function onlyOnOneSide(left: readonly Statement[], right: readonly Statement[]): Matching {
  const waiting = new Map<string, Statement[]>()
  for (const statement of right) {
    const id = identity(statement)
    const list = waiting.get(id)
    if (list) list.push(statement)
    else waiting.set(id, [statement])
  }
  const a: Statement[] = []
  const pairs: [Statement, Statement][] = []
  for (const statement of left) {
    const partner = waiting.get(identity(statement))?.shift()
    if (partner) pairs.push([statement, partner])
    else a.push(statement)
  }
  return { a, b: [...waiting.values()].flat(), pairs }
}

/**
 * Members of a series that both sides have in another order are a difference, all that lies between the first and the
 * last that are out of step.
 */
function withSeries(
  { a, b, pairs }: Matching,
  left: readonly Statement[],
  right: readonly Statement[],
  { placeIn }: Order,
): Matching {
  const membersIn = (statements: readonly Statement[]): Map<string, string[]> => {
    const series = grouped(
      statements.flatMap(({ text }) => placeIn(text) ?? []),
      (place) => place.series,
    )
    return new Map([...series].map(([name, places]) => [name, [...new Set(places.map(({ member }) => member))]]))
  }
  const [mine, theirs] = [membersIn(left), membersIn(right)]
  const moved = new Set<string>()
  for (const [series, members] of mine) {
    const others = theirs.get(series) ?? []
    const [here, there] = [
      members.filter((member) => others.includes(member)),
      others.filter((member) => members.includes(member)),
    ]
    const first = here.findIndex((member, i) => member !== there[i])
    const last = here.findLastIndex((member, i) => member !== there[i])
    if (first >= 0) for (const member of here.slice(first, last + 1)) moved.add(`${series} ${member}`)
  }
  if (moved.size === 0) return { a, b, pairs }
  const isMoved = ({ text }: Statement): boolean => {
    const place = placeIn(text)
    return place !== null && moved.has(`${place.series} ${place.member}`)
  }
  const out = pairs.filter(([one]) => isMoved(one))
  return {
    a: [...a, ...out.map(([one]) => one)],
    b: [...b, ...out.map(([, other]) => other)],
    pairs: pairs.filter(([one]) => !isMoved(one)),
  }
}

/**
 * Equal beginnings and ends are in step; what lies between is out of step on both sides unless it is equal to the
 * letter.
 */
function outOfStep(left: readonly Statement[], right: readonly Statement[]): Matching {
  const pairs: [Statement, Statement][] = []
  const same = (x: Statement | undefined, y: Statement | undefined): boolean =>
    !!x && !!y && identity(x) === identity(y)
  let from = 0
  while (same(left[from], right[from])) from++
  let back = 0
  while (back < Math.min(left.length, right.length) - from && same(left.at(-1 - back), right.at(-1 - back))) back++
  const take = (i: number, j: number): void => {
    const [x, y] = [left[i], right[j]]
    if (x && y) pairs.push([x, y])
  }
  for (let i = 0; i < from; i++) take(i, i)
  for (let i = 1; i <= back; i++) take(left.length - i, right.length - i)
  const a = left.slice(from, left.length - back)
  const b = right.slice(from, right.length - back)
  const middle = onlyOnOneSide(a, b)
  // Moved lines are a difference too: the same set in another order leaves nothing unmatched.
  return middle.a.length + middle.b.length > 0 ? { ...middle, pairs: [...pairs, ...middle.pairs] } : { a, b, pairs }
}

function whole(side: 'a' | 'b', statement: Statement, around: readonly string[]): Difference[] {
  const path = [...around, statementText(statement)]
  const own: Difference = { side, path, nodes: statement.nodes }
  return [own, ...(statement.scope?.statements ?? []).flatMap((child) => whole(side, child, path))]
}

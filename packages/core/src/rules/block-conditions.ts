/** Conditions over the lines of blocks: where they look, and what they ask of several lines together. */
import { statementText } from '../compare/index.ts'
import { withoutFingerprints, type Scope, type Statement } from '../syntax/index.ts'
import { compilePattern, matchPattern, type Pattern } from '../model/index.ts'
import { unreadHere, unreadLike } from './doubt.ts'
import { Finding, allOf, doubtsOf, placeOf, searched, type Place } from './evidence.ts'
import { userPattern } from './expression.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { LineMatcher } from './line-matcher.ts'
import { incomplete, type CompiledCondition } from './compiled-condition.ts'

/** The blocks that a chain of patterns leads to, each with what the patterns have bound on the way. */
export function blocksAlong(chain: readonly string[]): (inquiry: EvaluationContext) => EvaluationContext[] {
  const steps = chain.map((pattern) => new LineMatcher([pattern]))
  return (inquiry) => {
    let places: EvaluationContext[] = [inquiry]
    for (const step of steps)
      places = places.flatMap((place) =>
        step
          .all(place)
          .flatMap(({ statement, names }) => (statement.scope ? [place.into(statement.scope, names)] : [])),
      )
    return places
  }
}

/** Unread lines along a chain, any of which may open another block of it. */
export function doubtsAlong(chain: readonly string[]): (inquiry: EvaluationContext) => Finding {
  const steps = chain.map((pattern) => new LineMatcher([pattern]))
  return (inquiry) => {
    const found: Finding[] = []
    let places: EvaluationContext[] = [inquiry]
    for (const step of steps) {
      for (const place of places) found.push(new Finding(true, () => [], undefined, unreadLike(place, step.patterns)))
      places = places.flatMap((place) =>
        step
          .all(place)
          .flatMap(({ statement, names }) => (statement.scope ? [place.into(statement.scope, names)] : [])),
      )
    }
    return new Finding(true, () => [], undefined, doubtsOf(found))
  }
}

/** Puts a question to every block at the end of a chain: it holds where it holds in one of them. */
export function askIn(chain: string | readonly string[], ask: CompiledCondition): CompiledCondition {
  const blocks = blocksAlong([chain].flat())
  const along = doubtsAlong([chain].flat())
  return (inquiry) => {
    let unknown: Finding | null = null
    const refuted: Finding[] = []
    for (const block of blocks(inquiry)) {
      const finding = ask(block)
      if (finding.truth === true) {
        inquiry.bind(block.ownNames)
        return finding
      }
      if (finding.truth === 'unknown') unknown ??= finding
      refuted.push(finding)
    }
    if (unknown) return unknown
    if (inquiry.mayHideLines) return new Finding('unknown', () => inquiry.whole(), incomplete(inquiry))
    return new Finding(
      false,
      () => (refuted.length > 0 ? refuted.flatMap((finding) => finding.places()) : inquiry.whole()),
      { missing: allOf(refuted, 'missing'), extra: allOf(refuted, 'extra') },
      doubtsOf([along(inquiry), ...refuted]),
    )
  }
}

export function askMatching(source: string): CompiledCondition {
  const pattern = userPattern(source)
  return (inquiry) => {
    const found = inquiry.scope.statements.filter((statement) =>
      pattern.test(inquiry.device.opaque.textOf(statement, inquiry.scope)),
    )
    if (found.length > 0) return new Finding(true, () => placesOf(inquiry, found), undefined, unreadHere(inquiry))
    return new Finding(
      inquiry.mayHideLines ? 'unknown' : false,
      () => inquiry.whole(),
      incomplete(inquiry),
      unreadHere(inquiry),
    )
  }
}

/** Every line of a pasted part of a listing, in the dialect of the device. */
export function askHolds(text: string): CompiledCondition {
  const pasted = new Map<string, Scope>()
  return (inquiry) => {
    const { dialect } = inquiry.device.held
    let wanted = pasted.get(dialect.id)
    if (!wanted) pasted.set(dialect.id, (wanted = dialect.evaluate([dialect.read(text)])))
    const missing: string[] = []
    const places: Place[] = []
    lookFor(
      { wanted, held: inquiry.device.held.scope, around: [] },
      {
        device: inquiry.device,
        missing,
        found: (statement) => places.push(...statement.nodes.map((node) => placeOf(inquiry.device.record, node))),
      },
    )
    const doubts = unreadHere(inquiry.within(inquiry.device.held.scope))
    if (missing.length === 0) return new Finding(true, () => places, undefined, doubts)
    const hidden = inquiry.device.held.tree.faults.length > 0
    return new Finding(
      hidden ? 'unknown' : false,
      () => (places.length > 0 ? places : inquiry.whole()),
      { missing, ...(hidden ? incomplete(inquiry) : {}) },
      doubts,
    )
  }
}

interface Looking {
  readonly wanted: Scope
  readonly held: Scope | null
  readonly around: readonly string[]
}

interface Looked {
  readonly device: JudgedDevice
  readonly missing: string[]
  readonly found: (statement: Statement) => void
}

/** What a rule states in the place of a secret counts for any: whether a line is there is no way to try secrets. */
function lookFor({ wanted, held, around }: Looking, out: Looked): void {
  for (const statement of wanted.statements) {
    const key = keyOf(statement, wanted, out.device)
    const match = held
      ?.startingWith(statement.command.first)
      .find((other) => other.negated === statement.negated && keyOf(other, held, out.device) === key)
    if (!match) {
      out.missing.push([...around, statementText(statement)].join(' › '))
      continue
    }
    if (statement.scope)
      lookFor({ wanted: statement.scope, held: match.scope, around: [...around, statement.text] }, out)
    else out.found(match)
  }
}

/** The words of a statement, the same for whatever secret it holds. */
function keyOf(statement: Statement, scope: Scope, { opaque }: JudgedDevice): string {
  return withoutFingerprints(opaque.wordsOf(statement, scope).lowerText)
}

/** Compares whole lines, case aside. */
export function askExactly({
  of,
  lines,
}: {
  readonly of: string | readonly string[]
  readonly lines: string | readonly string[]
}): CompiledCondition {
  const among = new LineMatcher([of].flat())
  const wanted = [lines]
    .flat()
    .flatMap((text) => text.split('\n'))
    .map((line) => line.trim().replace(/\s+/g, ' '))
    .filter(Boolean)
  const keys = new Set(wanted.map((line) => line.toLowerCase()))
  const open = wanted
    .filter((line) => line.split(' ').some(isOpenWord))
    .map((line) => ({ line, pattern: compilePattern(line) }))
  return (inquiry) => {
    const { opaque } = inquiry.device
    const found = among.all(inquiry).map(({ statement }) => statement)
    const textOf = (statement: Statement): string => opaque.textOf(statement, inquiry.scope)
    const held = new Set(found.map((statement) => textOf(statement).toLowerCase()))
    for (const { line, pattern } of open)
      if (found.some((statement) => isMatch(statement, pattern, inquiry))) held.add(line.toLowerCase())
    const missing = wanted.filter((line) => !held.has(line.toLowerCase()))
    const extra = found
      .filter(
        (statement) =>
          !keys.has(textOf(statement).toLowerCase()) &&
          !open.some(({ pattern }) => isMatch(statement, pattern, inquiry)),
      )
      .map(textOf)
    inquiry.bind({ missing, extra })
    const unsure = inquiry.mayHideLines && extra.length === 0
    const holds = missing.length === 0 && extra.length === 0
    return new Finding(
      unsure && !holds ? 'unknown' : holds,
      () => (found.length > 0 ? placesOf(inquiry, found) : inquiry.whole()),
      { missing, extra, ...(unsure ? incomplete(inquiry) : {}) },
      unreadLike(inquiry, among.patterns),
    )
  }
}

/** Words by which a line that is asked for stands for several. */
function isOpenWord(word: string): boolean {
  return word === '*' || word === '...' || /^<[a-z_][\w:]*(?:\.\.\.)?>$/i.test(word) || /^\{[^{}]+\}$/.test(word)
}

function isMatch(statement: Statement, pattern: Pattern, { device, scope }: EvaluationContext): boolean {
  return (
    statement.negated === pattern.negated && matchPattern(pattern, device.opaque.wordsOf(statement, scope)) !== null
  )
}

export function askOrder(sources: readonly string[], contiguous: boolean): CompiledCondition {
  const patterns = sources.map(compilePattern)
  return (inquiry) => {
    const { statements } = inquiry.scope
    const steps: Statement[] = []
    let at = -1
    for (const pattern of patterns) {
      const next = statements.findIndex((statement, i) => i > at && isMatch(statement, pattern, inquiry))
      if (next < 0 || (contiguous && at >= 0 && next !== at + 1))
        return outOfOrder(
          inquiry,
          patterns.map((one) => statements.find((statement) => isMatch(statement, one, inquiry))),
          sources,
        )
      at = next
      const step = statements[next]
      if (step) steps.push(step)
    }
    return new Finding(true, () => placesOf(inquiry, steps), undefined, unreadHere(inquiry))
  }
}

function outOfOrder(
  inquiry: EvaluationContext,
  found: readonly (Statement | undefined)[],
  sources: readonly string[],
): Finding {
  const missing = sources.filter((_, i) => found[i] === undefined)
  const present = found.filter((one) => one !== undefined)
  const unsure = inquiry.mayHideLines && missing.length > 0
  return new Finding(
    unsure ? 'unknown' : false,
    () => (present.length > 0 ? placesOf(inquiry, present) : inquiry.whole()),
    { missing, ...(unsure ? incomplete(inquiry) : {}) },
  )
}

export function askCount({
  of,
  where,
  atLeast = 0,
  atMost = Infinity,
}: {
  readonly of: string | readonly string[]
  readonly where?: string | undefined
  readonly atLeast?: number | undefined
  readonly atMost?: number | undefined
}): CompiledCondition {
  const lines = new LineMatcher([of].flat(), where)
  return (inquiry) => {
    const found = lines.all(inquiry).map(({ statement }) => statement)
    inquiry.bind({ count: BigInt(found.length) })
    // Lines that are hidden can only make the count larger.
    const unsure = inquiry.mayHideLines && found.length <= atMost && (found.length < atLeast || atMost !== Infinity)
    return new Finding(
      unsure ? 'unknown' : found.length >= atLeast && found.length <= atMost,
      () =>
        found.length > 0
          ? placesOf(inquiry, found)
          : searched(inquiry.device.record, inquiry.device.held.tree, inquiry.scope.openers),
      unsure ? incomplete(inquiry) : undefined,
      unreadLike(inquiry, lines.patterns),
    )
  }
}

function placesOf({ device }: EvaluationContext, statements: readonly Statement[]): Place[] {
  return statements.flatMap(({ nodes }) => nodes.map((node) => placeOf(device.record, node)))
}

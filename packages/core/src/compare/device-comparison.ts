import { DeviceAnalysis } from '../analysis/index.ts'
import { textOfRecord, type ReadConfiguration, type ReadRecord } from '../state/index.ts'
import {
  blocksAround,
  lastLineOf,
  maskLine,
  stableLines,
  type ConfigNode,
  type Mask,
  type NoiseRule,
  type Scope,
  type Statement,
  type Syntax,
} from '../syntax/index.ts'
import { accessListChanges, joinedLines, type AccessListChange } from './access-list-changes.ts'
import { modelChanges, type CitedLines, type ModelChange } from './model-changes.ts'
import { Noise } from './noise.ts'
import { stateChanges, type StateChange } from './state-changes.ts'
import { statementChanges, statementText, type StatementChange } from './statements.ts'

/** A statement that is on one side only or at another place, with its secrets masked. */
export interface ShownStatement {
  readonly change: StatementChange['change']
  /** Openers of the blocks around it, outermost first: of A where it is removed, else of B. */
  readonly around: readonly string[]
  readonly text: string
  /** How many statements are in its own block. */
  readonly inner: number
  /** Whether the reader made nothing of it: what it means is not among the changes of the model. */
  readonly unparsed: boolean
  readonly a: readonly CitedLines[]
  readonly b: readonly CitedLines[]
}

/** Two records of one kind. */
export interface RecordComparison {
  readonly kind: string
  /** Null where that side has none. */
  readonly a: string | null
  readonly b: string | null
  readonly statements: readonly ShownStatement[]
}

/**
 * Why a comparison is not the whole truth. `incomplete`: a record is not whole, so that what seems removed may be
 * there. `not-captured`: one side has no such output, or no such record. `dialects`, `listings`: what is listed differs
 * in form.
 * `unparsed-output`: lines of an output that nothing was made of. `no-configuration`: nothing to compare.
 */
export interface ComparisonDoubt {
  readonly code: 'incomplete' | 'not-captured' | 'dialects' | 'listings' | 'unparsed-output' | 'no-configuration'
  readonly side: 'a' | 'b' | null
  /** Of `not-captured`: the table or the kind of record. */
  readonly part: string | null
  readonly lines: readonly CitedLines[]
  /** Of `incomplete`: what is missing. */
  readonly reason: string | null
}

/** What differs between two sides: two states of one device, or two devices. */
export interface DeviceComparison {
  readonly records: readonly RecordComparison[]
  readonly model: readonly ModelChange[]
  readonly accessLists: readonly AccessListChange[]
  readonly state: readonly StateChange[]
  readonly doubts: readonly ComparisonDoubt[]
}

/** Whether nothing differs, as far as is known. */
export function isEqual({ records, model, accessLists, state }: DeviceComparison): boolean {
  return (
    records.every(({ statements }) => statements.length === 0) && model.length + accessLists.length + state.length === 0
  )
}

/**
 * Compares two sides: what holds of their configurations, what that means in the device model and for packets, and the
 * rows of their state.
 * @param noise rules of the engagement, beside those that ship
 */
export function compareDevices(
  before: DeviceAnalysis,
  after: DeviceAnalysis,
  noise: readonly NoiseRule[] = [],
): DeviceComparison {
  const doubts: ComparisonDoubt[] = []
  const [a, b] = sameListing(before, after, doubts)
  const quiet = new Noise(b.dialect, noise)
  const records = a.dialect.id === b.dialect.id ? recordComparisons(a, b, quiet, doubts) : []
  if (a.dialect.id !== b.dialect.id) doubts.push(doubt('dialects', null))
  const [left, right] = doubts.some(({ code }) => code === 'listings') ? [null, null] : [a.modelled, b.modelled]
  for (const [side, one] of [
    ['a', a],
    ['b', b],
  ] as const)
    if (!one.judged) doubts.push(doubt('no-configuration', side))
  doubts.push(...incomplete('a', a), ...incomplete('b', b), ...unparsedOutputs('a', a), ...unparsedOutputs('b', b))
  const state = stateChanges({ reading: a.state, records: a.records }, { reading: b.state, records: b.records }, quiet)
  for (const { table, side } of state.notCaptured) doubts.push(doubt('not-captured', side, table))
  return {
    records,
    model: left && right ? withoutNoise(modelChanges(left, right), noiseLines(a, quiet), noiseLines(b, quiet)) : [],
    accessLists: left && right ? accessListChanges(left, right) : [],
    state: state.changes,
    doubts,
  }
}

function doubt(code: ComparisonDoubt['code'], side: 'a' | 'b' | null, part: string | null = null): ComparisonDoubt {
  return { code, side, part, lines: [], reason: null }
}

/** A listing with defaults differs from every other in all of them: both sides are taken in the same form. */
function sameListing(
  a: DeviceAnalysis,
  b: DeviceAnalysis,
  doubts: ComparisonDoubt[],
): [DeviceAnalysis, DeviceAnalysis] {
  if (!a.judged || !b.judged || a.judged.kind === b.judged.kind) return [a, b]
  const [left, right] = [ordinary(a), ordinary(b)]
  if (left && right) return [left, right]
  doubts.push(doubt('listings', null))
  return [a, b]
}

function ordinary(one: DeviceAnalysis): DeviceAnalysis | null {
  if (one.judged?.kind === 'config') return one
  const records = one.records.filter(({ kind }) => kind !== 'config.full')
  return records.some(({ kind }) => kind === 'config') ? new DeviceAnalysis(one.dialect, records, one.mask) : null
}

/** The kinds of record that are listings of what runs, or files beside it. */
function comparedKinds(a: DeviceAnalysis, b: DeviceAnalysis): string[] {
  const kinds = [...a.records, ...b.records].map(({ kind }) => kind)
  const main = a.judged?.kind ?? b.judged?.kind
  return [...new Set(kinds)].filter(
    (kind) => !kind.startsWith('state/') && (!kind.startsWith('config') || kind === main),
  )
}

function recordComparisons(
  a: DeviceAnalysis,
  b: DeviceAnalysis,
  noise: Noise,
  doubts: ComparisonDoubt[],
): RecordComparison[] {
  if (doubts.some(({ code }) => code === 'listings')) return []
  return comparedKinds(a, b).flatMap((kind): RecordComparison[] => {
    const [mine, theirs] = [recordOf(a, kind), recordOf(b, kind)]
    if (!mine || !theirs) {
      doubts.push(doubt('not-captured', mine ? 'b' : 'a', kind))
      return []
    }
    const statements =
      mine.tree && theirs.tree
        ? statementsBetween({ device: a, record: mine }, { device: b, record: theirs }, noise)
        : linesBetween(mine, theirs, b)
    return [{ kind, a: mine.id, b: theirs.id, statements }]
  })
}

/** Lines of the configuration that differ by themselves, `RECORD LINE`; found out when first asked for. */
function noiseLines(device: DeviceAnalysis, noise: Noise): () => ReadonlySet<string> {
  let known: Set<string> | null = null
  const add = (into: Set<string>, scope: Scope, openers: readonly string[]): void => {
    for (const statement of scope.statements) {
      const text = statementText(statement)
      if (noise.cleaned(text, openers) !== text)
        for (const { line, lastLine } of statement.nodes)
          for (let at = line; at <= lastLine; at++) into.add(`${device.judged?.id ?? ''} ${at}`)
      if (statement.scope) add(into, statement.scope, [...openers, statement.text])
    }
  }
  return () => {
    if (known) return known
    known = new Set<string>()
    if (device.effective) add(known, device.effective.scope, [])
    return known
  }
}

/** Changes of the model that rest on such lines alone are none. */
function withoutNoise(
  changes: readonly ModelChange[],
  a: () => ReadonlySet<string>,
  b: () => ReadonlySet<string>,
): ModelChange[] {
  const isNoise = (lines: readonly CitedLines[], noise: ReadonlySet<string>): boolean =>
    lines.every(({ record, from }) => noise.has(`${record} ${from}`))
  return changes.filter(
    (change) => change.a.length + change.b.length === 0 || !(isNoise(change.a, a()) && isNoise(change.b, b())),
  )
}

function recordOf(device: DeviceAnalysis, kind: string): ReadRecord | null {
  return device.records.find((record) => record.kind === kind) ?? null
}

interface Side {
  readonly device: DeviceAnalysis
  readonly record: ReadConfiguration
}

function statementsBetween(a: Side, b: Side, noise: Noise): ShownStatement[] {
  const [left, right] = [a.device.effectiveOf(a.record), b.device.effectiveOf(b.record)]
  return statementChanges(left.scope, right.scope, right.dialect, noise).map((change) => {
    const [side, of] = change.b ? [b, change.b] : [a, change.a]
    const shown = shownOf(side.device, of)
    const around = shown.around(change.around[change.b ? 'b' : 'a'])
    return {
      change: change.change,
      around,
      text: shown.text,
      inner: of?.scope ? innerCount(of) : 0,
      unparsed: of !== null && isUnparsed(side, of),
      a: change.a ? linesOf(a.record, change.a) : [],
      b: change.b ? linesOf(b.record, change.b) : [],
    }
  })
}

function shownOf(
  { dialect, mask }: DeviceAnalysis,
  statement: Statement | null,
): { text: string; around: (openers: readonly string[]) => string[] } {
  const node = statement?.nodes[0]
  return {
    text: statement ? maskLine(statementText(statement), node ? blocksAround(node, dialect) : null, dialect, mask) : '',
    around: (openers) => openers.map((opener, i) => maskLine(opener, openers[i - 1] ?? null, dialect, mask)),
  }
}

function innerCount({ scope }: Statement): number {
  return (scope?.statements ?? []).reduce((sum, child) => sum + 1 + innerCount(child), 0)
}

/** Whether nothing was made of a statement, or of one in its block. */
function isUnparsed({ device, record }: Side, statement: Statement): boolean {
  if (record !== device.judged) return false
  const { modelled } = device
  const unread = (one: Statement): boolean =>
    modelled?.isUnread(one) === true || (one.scope?.statements ?? []).some(unread)
  return unread(statement)
}

function linesOf({ id }: ReadRecord, { nodes }: Statement): CitedLines[] {
  return joinedLines(nodes.map((node: ConfigNode) => ({ record: id, from: node.line, to: lastLineOf(node) })))
}

/** Records of which nothing is known but their lines, in whatever order they stand. */
function linesBetween(a: ReadRecord, b: ReadRecord, { dialect, mask }: DeviceAnalysis): ShownStatement[] {
  const [left, right] = [plainLines(a), plainLines(b)]
  const waiting = new Map<string, number[]>()
  right.forEach(({ text, line }) => waiting.set(text, [...(waiting.get(text) ?? []), line]))
  const gone = left.filter(({ text }) => waiting.get(text)?.shift() === undefined)
  const come = [...waiting].flatMap(([text, lines]) => lines.map((line) => ({ text, line })))
  return [
    ...gone.map((one) => shownLine('removed', one, a.id, dialect, mask)),
    ...come.sort((x, y) => x.line - y.line).map((one) => shownLine('added', one, b.id, dialect, mask)),
  ]
}

interface PlainLine {
  readonly text: string
  readonly line: number
}

function plainLines(record: ReadRecord): PlainLine[] {
  const lines = textOfRecord(record).split(/\r?\n|\r/)
  return lines.flatMap((line, i) => {
    const [text] = stableLines([line])
    return text === undefined || text.trim() === '' || text.trim().startsWith('#') ? [] : [{ text, line: i + 1 }]
  })
}

function shownLine(
  change: 'removed' | 'added',
  { text, line }: PlainLine,
  record: string,
  dialect: Syntax,
  mask: Mask,
): ShownStatement {
  const cited = [{ record, from: line, to: line }]
  return {
    change,
    around: [],
    text: maskLine(text.trim(), null, dialect, mask),
    inner: 0,
    unparsed: false,
    a: change === 'removed' ? cited : [],
    b: change === 'added' ? cited : [],
  }
}

/** Faults of the records that are compared. */
function incomplete(side: 'a' | 'b', { records }: DeviceAnalysis): ComparisonDoubt[] {
  return records.flatMap(({ id, tree }) =>
    (tree?.faults ?? []).map(({ line, reason }): ComparisonDoubt => ({
      ...doubt('incomplete', side),
      lines: [{ record: id, from: line, to: line }],
      reason,
    })),
  )
}

/** Outputs of which lines were not understood: rows may be missing. */
function unparsedOutputs(side: 'a' | 'b', { state, records }: DeviceAnalysis): ComparisonDoubt[] {
  return state.records.flatMap(({ record, reason, unread }) =>
    reason === null && unread.length === 0
      ? []
      : [
          {
            ...doubt('unparsed-output', side, records.find(({ id }) => id === record)?.kind ?? null),
            lines: joinedLines(unread.map((line) => ({ record, from: line, to: line }))),
            reason,
          },
        ],
  )
}

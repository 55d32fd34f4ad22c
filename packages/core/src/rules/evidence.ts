import { lastLineOf, type ConfigNode, type LocatedTree } from '../syntax/index.ts'
import type { SourceRange } from '../model/index.ts'

/** Lines of one record: `absent` where nothing was found in them. */
export interface CitedRange {
  /** The device whose record it is, where that is not the one that is judged; its record is then named by its kind. */
  readonly device?: string
  readonly record: string
  readonly from: number
  readonly to: number
  readonly absent: boolean
  /** First and last column, where the lines hold more than is meant. */
  readonly columns?: readonly [from: number, to: number]
}

/** What a finding says besides: what is missing and extra, and why it is unknown. */
export interface Reasons {
  readonly missing?: readonly string[] | undefined
  readonly extra?: readonly string[] | undefined
  readonly why?: string | undefined
}

const NO_REASONS: Reasons = Object.freeze({})

/** Whether something holds, and what that rests on. `unknown` where a record that is not whole cannot tell. */
export class Finding {
  constructor(
    readonly truth: boolean | 'unknown',
    /** Computed only for findings that decide: most do not. */
    readonly places: () => readonly CitedRange[],
    readonly reasons: Reasons = NO_REASONS,
    /** Lines that nobody understood and that might say otherwise. */
    readonly doubts: Doubts = NO_DOUBTS,
  ) {}
}

/** The evidence of a finding that rests on no line. */
export const NOWHERE = (): readonly CitedRange[] => []

export type Doubts = () => readonly CitedRange[]
export const NO_DOUBTS: Doubts = () => []

/** The doubts of several findings together. */
export function doubtsOf(findings: readonly Finding[]): Doubts {
  const own = findings.filter(({ doubts }) => doubts !== NO_DOUBTS)
  return own.length === 0 ? NO_DOUBTS : () => own.flatMap(({ doubts }) => doubts())
}

/** What is missing, or extra, by several findings together. */
export function allOf(findings: readonly Finding[], side: 'missing' | 'extra'): readonly string[] | undefined {
  return findings.some(({ reasons }) => reasons[side] !== undefined)
    ? findings.flatMap(({ reasons }) => reasons[side] ?? [])
    : undefined
}

export function placeOf(record: string, node: SourceRange): CitedRange {
  const place = { record, from: node.line, to: node.lastLine, absent: false }
  return node.columns ? { ...place, columns: node.columns } : place
}

/** The whole of some blocks, as the range that was searched. */
export function searched(record: string, tree: LocatedTree, openers: readonly ConfigNode[]): CitedRange[] {
  if (openers.length === 0) return [{ record, from: 1, to: Math.max(1, tree.lines.length), absent: true }]
  return openers.map((node) => ({ record, from: node.line, to: lastLineOf(node), absent: true }))
}

/** Lines that are cited at most. Counts of subjects and of missing lines are never cut. */
export const MAX_PLACES = 60

/** Places without repetition; those with lines before those without, in the order of lines. */
export function tidy(places: readonly CitedRange[], limit: number): CitedRange[] {
  const inOrder = [...places].sort(
    (a, b) =>
      Number(a.absent) - Number(b.absent) ||
      compareDevices(a, b) ||
      a.from - b.from ||
      a.to - b.to ||
      (a.record < b.record ? -1 : Number(a.record > b.record)),
  )
  return inOrder.filter((place, i) => i === 0 || !samePlace(place, inOrder[i - 1])).slice(0, limit)
}

/** The device that is judged comes first. */
function compareDevices({ device: a = '' }: CitedRange, { device: b = '' }: CitedRange): number {
  return a < b ? -1 : Number(a > b)
}

function samePlace(a: CitedRange, b: CitedRange | undefined): boolean {
  return (
    b !== undefined &&
    a.from === b.from &&
    a.to === b.to &&
    a.absent === b.absent &&
    a.record === b.record &&
    a.device === b.device &&
    a.columns?.[0] === b.columns?.[0]
  )
}

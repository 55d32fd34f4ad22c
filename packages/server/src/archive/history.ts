import { diffArrays } from 'diff'

/** One state of a record, for as long as it stayed the same. */
export interface RecordState {
  /** The record in which it was first seen. */
  readonly record: number
  readonly fingerprint: string
  readonly lines: number
  /** RFC 3339: when it was seen first and last. */
  readonly from: string
  readonly to: string
  /** The user who imported or collected it first. */
  readonly by: string
  /** Titles of the snapshots that hold it. */
  readonly snapshots: readonly string[]
}

export interface SeenRecord {
  readonly record: number
  readonly kind: string
  readonly fingerprint: string
  /** Equal where only what a listing says of itself differs. */
  readonly settled: string
  readonly lines: number
  readonly snapshot: string
  readonly at: string
  readonly by: string
}

/** By kind, the states of a device's records in the order of time; a content that comes back is a state of its own. */
export function recordStatesOf(seen: readonly SeenRecord[]): Map<string, RecordState[]> {
  const kinds = new Map<string, RecordState[]>()
  const last = new Map<string, string>()
  for (const { record, kind, fingerprint, settled, lines, snapshot, at, by } of seen.toSorted((a, b) =>
    a.at < b.at ? -1 : a.at > b.at ? 1 : a.record - b.record,
  )) {
    const spells = kinds.get(kind) ?? []
    const before = spells.at(-1)
    if (before && last.get(kind) === settled)
      spells[spells.length - 1] = { ...before, to: at, snapshots: [...before.snapshots, snapshot] }
    else spells.push({ record, fingerprint, lines, from: at, to: at, by, snapshots: [snapshot] })
    kinds.set(kind, spells)
    last.set(kind, settled)
  }
  return kinds
}

/** A row of two texts side by side; a line number is null where the other side has lines of its own. */
export interface SideBySide {
  readonly a: number | null
  readonly b: number | null
  readonly left: string
  readonly right: string
  readonly same: boolean
}

/** Longer than this, texts are too different to be laid beside each other line by line. */
const LONGEST_MS = 3000

/**
 * Two texts beside each other, line by line, with what stays the same around a change cut to some lines; a row that is
 * null stands for what was cut. Null where they differ too much.
 */
export function sideBySide(
  left: readonly string[],
  right: readonly string[],
  around = 3,
): (SideBySide | null)[] | null {
  const parts = diffArrays([...left], [...right], { timeout: LONGEST_MS })
  if (!parts) return null
  const rows: SideBySide[] = []
  let [a, b] = [0, 0]
  for (let i = 0; i < parts.length; i++) {
    const part = parts[i]
    if (!part) continue
    if (!part.added && !part.removed) {
      for (const text of part.value) rows.push({ a: ++a, b: ++b, left: text, right: text, same: true })
      continue
    }
    // What went and what came in its place stand beside each other.
    const next = parts[i + 1]
    const paired = part.removed && next?.added === true
    const gone = part.removed ? part.value : []
    const come = part.added ? part.value : paired ? next.value : []
    if (paired) i++
    for (let n = 0; n < Math.max(gone.length, come.length); n++)
      rows.push({
        a: n < gone.length ? ++a : null,
        b: n < come.length ? ++b : null,
        left: gone[n] ?? '',
        right: come[n] ?? '',
        same: false,
      })
  }
  const near = new Set<number>()
  rows.forEach(({ same }, at) => {
    if (!same) for (let n = at - around; n <= at + around; n++) near.add(n)
  })
  const out: (SideBySide | null)[] = []
  rows.forEach((row, at) => {
    if (near.has(at)) out.push(row)
    else if (out.at(-1) !== null) out.push(null)
  })
  return out
}

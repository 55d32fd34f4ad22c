/** Records of a device as worker threads take them. */
import type { ReadRecord } from '@jurybox/core/state'
import { readRecord } from '@jurybox/core/snapshot'

export interface TaskRecord {
  readonly id: string
  readonly kind: string
  /** `none` for outputs of commands. */
  readonly dialect: string
  readonly text: string
  readonly takenAt: string | null
}

interface HeldContent {
  readonly kind: string
  readonly sha256: string
}

/** In a fixed order, so that the same records give the same analysis. */
export function inOrder<R extends HeldContent>(records: readonly R[]): R[] {
  const place = ({ kind, sha256 }: R): string => `${kind} ${sha256}`
  return [...records].sort((a, b) => (place(a) < place(b) ? -1 : Number(place(a) > place(b))))
}

/** Known by their places among the records: what is remembered of a content holds for each record that brings it. */
export function numbered<R extends { readonly kind: string; readonly dialect: string; readonly takenAt: Date | null }>(
  records: readonly R[],
  textOf: (record: R) => string,
  prefix = '',
): TaskRecord[] {
  return records.map((record, i) => ({
    id: `${prefix}${i}`,
    kind: record.kind,
    dialect: record.dialect,
    text: textOf(record),
    takenAt: record.takenAt?.toISOString() ?? null,
  }))
}

export function readOf({ id, kind, text, dialect, takenAt }: TaskRecord): ReadRecord {
  return dialect === 'none'
    ? { id, kind, tree: null, text, takenAt }
    : { id, kind, tree: readRecord(text, dialect), takenAt }
}

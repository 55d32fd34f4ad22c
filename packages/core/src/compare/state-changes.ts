import { originOf } from '../model/index.ts'
import type { ReadRecord, StateReading } from '../state/index.ts'
import { grouped } from '../syntax/grouped.ts'
import type { CitedLines } from './model-changes.ts'
import type { Noise } from './noise.ts'
import { STATE_TABLES, type StateTable } from './state-tables.ts'

type Row = Readonly<Record<string, unknown>>

/** A row of the state that appeared, vanished or has other values. */
export interface StateChange {
  readonly table: string
  readonly title: string
  /** What the row is called by: `10.40.0.0/16`; empty of what there is one of. */
  readonly key: string
  readonly change: 'appeared' | 'vanished' | 'changed'
  /** Fields with other values, as text; of a row on one side all that it states. Null: not stated. */
  readonly fields: readonly { readonly field: string; readonly before: string | null; readonly after: string | null }[]
  readonly a: readonly CitedLines[]
  readonly b: readonly CitedLines[]
}

/** A table of which one side says nothing. */
export interface NotCaptured {
  readonly table: string
  readonly title: string
  readonly side: 'a' | 'b'
}

/** The state of one side, with the records that it is made of. */
export interface StateSide {
  readonly reading: StateReading
  readonly records: readonly Pick<ReadRecord, 'id' | 'kind'>[]
}

/** Rows by their keys: what appeared, what vanished, what has other values. Counters and ages are no difference. */
export function stateChanges(
  a: StateSide,
  b: StateSide,
  noise: Noise,
): { readonly changes: readonly StateChange[]; readonly notCaptured: readonly NotCaptured[] } {
  const changes: StateChange[] = []
  const notCaptured: NotCaptured[] = []
  for (const table of STATE_TABLES) {
    const [mine, theirs] = [isCaptured(table, a), isCaptured(table, b)]
    if (mine && theirs) changes.push(...tableChanges(table, a, b, noise))
    else if (mine !== theirs) notCaptured.push({ table: table.id, title: table.title, side: mine ? 'b' : 'a' })
  }
  return { changes, notCaptured }
}

/** Whether some output tells of a table: a recognised one of its kinds, or one of another kind that holds rows. */
export function isCaptured({ kinds, rows, key }: StateTable, { reading, records }: StateSide): boolean {
  const recognised = new Set(reading.records.flatMap(({ record, form }) => (form === null ? [] : [record])))
  return (
    records.some(({ id, kind }) => recognised.has(id) && kinds.includes(kind.slice('state/'.length))) ||
    (key.length > 0 && rows(reading.state).length > 0)
  )
}

interface Placed {
  readonly row: Row
  readonly lines: readonly CitedLines[]
  /** All that it says, less what differs by itself. */
  readonly said: string
}

function tableChanges(table: StateTable, a: StateSide, b: StateSide, noise: Noise): StateChange[] {
  const keyOf = ({ row }: Placed): string => keyOfRow(table, row)
  const [left, right] = [grouped(placedIn(table, a, noise), keyOf), grouped(placedIn(table, b, noise), keyOf)]
  const out: StateChange[] = []
  for (const key of new Set([...left.keys(), ...right.keys()])) {
    const [mine, theirs] = withoutEqual(left.get(key) ?? [], right.get(key) ?? [])
    for (let n = 0; n < Math.max(mine.length, theirs.length); n++) {
      const [one, other] = [mine[n] ?? null, theirs[n] ?? null]
      out.push({
        table: table.id,
        title: table.title,
        key,
        change: one === null ? 'appeared' : other === null ? 'vanished' : 'changed',
        fields: changedFields(table, one?.row ?? null, other?.row ?? null, noise),
        a: one?.lines ?? [],
        b: other?.lines ?? [],
      })
    }
  }
  return out
}

export function keyOfRow({ key }: StateTable, row: Row): string {
  return key.flatMap((name) => (row[name] === null || row[name] === undefined ? [] : [textOf(row[name])])).join(' ')
}

function placedIn(table: StateTable, { reading }: StateSide, noise: Noise): Placed[] {
  // Tables may be parts of a list: the places of rows are those in the whole list.
  const all = valueOf(reading.state, table.path)
  return table.rows(reading.state).map((row) => {
    const at = Array.isArray(all) ? all.indexOf(row) : -1
    const origin = originOf(reading.origins, at < 0 ? table.path : `${table.path}[${at}]`)
    const lines =
      origin?.kind === 'line' ? origin.lines.map(({ from, to }) => ({ record: origin.record, from, to })) : []
    const said = Object.keys(row)
      .filter((field) => !noise.ignoresField(table.id, field))
      .map((field) => `${field} ${textOf(row[field])}`)
      .join('\n')
    return { row, lines, said }
  })
}

function valueOf(state: unknown, path: string): unknown {
  return path.split('.').reduce<unknown>((at, name) => (at as Row)[name], state)
}

/** Rows under one key that say the same are no change, in whatever order they stand. */
function withoutEqual(mine: readonly Placed[], theirs: readonly Placed[]): [Placed[], Placed[]] {
  const waiting = [...theirs]
  const left = mine.filter(({ said }) => {
    const at = waiting.findIndex((other) => other.said === said)
    if (at >= 0) waiting.splice(at, 1)
    return at < 0
  })
  const bySaid = (x: Placed, y: Placed): number => (x.said < y.said ? -1 : x.said > y.said ? 1 : 0)
  return [left.sort(bySaid), waiting.sort(bySaid)]
}

function changedFields(table: StateTable, one: Row | null, other: Row | null, noise: Noise): StateChange['fields'] {
  const names = Object.keys(one ?? other ?? {})
  return names.flatMap((field) => {
    if (table.key.includes(field) || noise.ignoresField(table.id, field)) return []
    const [before, after] = [valueText(one?.[field]), valueText(other?.[field])]
    return before === after ? [] : [{ field: fieldWords(field), before, after }]
  })
}

/** `nextHops` as people write it. */
export function fieldWords(name: string): string {
  return name.replace(/([a-z])([A-Z])/g, '$1 $2').toLowerCase()
}

function valueText(value: unknown): string | null {
  const text = value === undefined || value === null ? '' : textOf(value)
  return text === '' ? null : text
}

/** A value of a row as text; lists of next hops and addresses in one order. */
export function textOf(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value)) return value.map(textOf).sort().join(', ')
  if (typeof value === 'object') {
    const hop = value as Row
    return Object.entries(hop)
      .flatMap(([name, inner]) => {
        if (inner === null || inner === false || inner === '') return []
        return [inner === true ? name : textOf(inner)]
      })
      .join(' ')
  }
  return String(value)
}

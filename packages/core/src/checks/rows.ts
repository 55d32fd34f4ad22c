import type { DeviceAnalysis } from '../analysis/index.ts'
import {
  LISTS,
  STATE_TABLES,
  isCaptured,
  joinedLines,
  keyOfEntry,
  keyOfRow,
  type CitedLines,
} from '../compare/index.ts'
import { originOf, valueAt, type Origins } from '../model/index.ts'

/** A row of a table of one side. */
export interface TableRow {
  readonly key: string
  readonly row: Readonly<Record<string, unknown>>
  readonly lines: readonly CitedLines[]
}

/**
 * Why rows of a table are not known, or not all of them. `not-captured`: no output tells of it. `incomplete`: a record
 * is not whole. `unparsed`: lines of the output that nothing was made of.
 */
export interface TableDoubt {
  readonly code: 'not-captured' | 'incomplete' | 'unparsed'
  readonly lines: readonly CitedLines[]
}

/** The rows of one side, and what is doubtful about them. */
export interface TableRows {
  readonly rows: readonly TableRow[]
  readonly doubt: TableDoubt | null
}

/** The rows of a table of a device. @param table `state.interfaces`, `model.bgp.neighbours` */
export function rowsOf(device: DeviceAnalysis, table: string): TableRows {
  return table.startsWith('state.')
    ? stateRows(device, table.slice('state.'.length))
    : modelRows(device, table.slice('model.'.length))
}

function stateRows({ state, records }: DeviceAnalysis, id: string): TableRows {
  const table = STATE_TABLES.find((one) => one.id === id)
  if (!table || !isCaptured(table, { reading: state, records }))
    return { rows: [], doubt: { code: 'not-captured', lines: [] } }
  const all = valueAt(state.state, table.path)
  const own = new Set(
    records.filter(({ kind }) => table.kinds.includes(kind.slice('state/'.length))).map((record) => record.id),
  )
  const unread = state.records.flatMap(({ record, unread: lines }) =>
    own.has(record) ? lines.map((line): CitedLines => ({ record, from: line, to: line })) : [],
  )
  return {
    rows: table.rows(state.state).map((row) => {
      const at = Array.isArray(all) ? all.indexOf(row) : -1
      const path = at < 0 ? table.path : `${table.path}[${at}]`
      return { key: keyOfRow(table, row), row, lines: linesAt(state.origins, path) }
    }),
    doubt: unread.length > 0 ? { code: 'unparsed', lines: joinedLines(unread) } : null,
  }
}

function modelRows({ modelled, judged }: DeviceAnalysis, path: string): TableRows {
  if (!modelled || !judged) return { rows: [], doubt: { code: 'not-captured', lines: [] } }
  const [fault] = judged.tree.faults
  return {
    rows: entriesAt(modelled.model, path.split('.'), '', '', '').map(({ key, row, at }) => ({
      key,
      row,
      lines: linesAt(modelled.origins, at),
    })),
    doubt: fault ? { code: 'incomplete', lines: [{ record: judged.id, from: fault.line, to: fault.line }] } : null,
  }
}

interface Entry {
  readonly key: string
  readonly row: Readonly<Record<string, unknown>>
  readonly at: string
}

/** Entries of a list, and of lists within entries: those are called by the entries around them, too. */
function entriesAt(
  holder: unknown,
  [name = '', ...rest]: readonly string[],
  form: string,
  at: string,
  around: string,
): Entry[] {
  const value = (holder as Readonly<Record<string, unknown>>)[name]
  const [formHere, here] = [form, at].map((path) => (path === '' ? name : `${path}.${name}`))
  if (!Array.isArray(value)) return entriesAt(value, rest, formHere ?? '', here ?? '', around)
  const rule = LISTS[formHere ?? '']
  return value.flatMap((entry: Readonly<Record<string, unknown>>, i): Entry[] => {
    const key = [around, rule ? keyOfEntry(entry, rule) : ''].filter((part) => part !== '').join(' ')
    const place = `${here ?? ''}[${i}]`
    return rest.length === 0 ? [{ key, row: entry, at: place }] : entriesAt(entry, rest, formHere ?? '', place, key)
  })
}

function linesAt(origins: Origins, path: string): CitedLines[] {
  const origin = originOf(origins, path)
  return origin?.kind === 'line' ? origin.lines.map(({ from, to }) => ({ record: origin.record, from, to })) : []
}

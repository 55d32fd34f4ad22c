import type { Column } from '../shared/columns.ts'

/** A piece of a cell: a value that opens the lines it is from, or words beside it. */
export interface Part {
  /** Null where the device does not state it. */
  readonly text: string | null
  /** In the model or the state; without one it is words. */
  readonly path?: string
  readonly mono?: boolean
  readonly quiet?: boolean
  /** On a line of its own. */
  readonly below?: boolean
}

/** A row of values; what a column does not have stays empty. */
export interface SaidRow {
  readonly id: string
  readonly cells: Readonly<Record<string, readonly Part[]>>
}

export interface SaidTableOf {
  readonly title: string
  readonly columns: readonly Column<SaidRow>[]
  readonly rows: readonly SaidRow[]
  /** The columns need no heads. */
  readonly headless?: boolean
}

/** A value of the device, with its path. */
export const said = (path: string, text: string | null, more: Omit<Part, 'path' | 'text'> = {}): Part => ({
  path,
  text,
  ...more,
})
export const words = (text: string, more: Omit<Part, 'path' | 'text'> = {}): Part => ({ text, ...more })
/** Left out where there is none. */
export type Word = string | number | null | undefined | false
/** Words beside a value: those that there are, in one piece; nothing where there are none. */
export function beside(...texts: readonly Word[]): Part[] {
  const some = texts.filter((text) => text !== null && text !== undefined && text !== false && text !== '')
  return some.length === 0 ? [] : [words(some.join(', '), { quiet: true })]
}

/** What is sorted, filtered and exported of a cell. */
function valueOf(parts: readonly Part[], numeric: boolean): string | number {
  const text = parts.map((part) => part.text ?? '').join(' ')
  return numeric && /^-?\d+$/.test(text) ? Number(text) : text
}

export function saidColumn(key: string, title: string, more: Partial<Column<SaidRow>> = {}): Column<SaidRow> {
  return { key, title, value: ({ cells }) => valueOf(cells[key] ?? [], more.numeric ?? false), ...more }
}

import { FORMULA } from '@jurybox/core/report'
import papaparse from 'papaparse'
import { t } from '../messages/index.ts'
import { saveFile } from './files.ts'
import { grouped } from './numbers.ts'

/** A column of a table. */
export interface Column<R> {
  readonly key: string
  readonly title: string
  /** What is sorted, filtered and exported. */
  readonly value: (row: R) => string | number
  /** What is exported beside it in a column of its own, where the value is words for people. */
  readonly raw?: (row: R) => string | number
  readonly width?: string
  readonly numeric?: boolean
  /** A number that is a name, such as a line or a VLAN: its thousands are not grouped. */
  readonly plain?: boolean
  readonly mono?: boolean
  /** Its words stay on one line. */
  readonly nowrap?: boolean
  readonly quiet?: boolean
  readonly hidden?: boolean
  /** The column shows a picture or a button: there is nothing to filter by. */
  readonly noFilter?: boolean
  /** It holds buttons: there is nothing to sort by or to export either, and its title is for those who cannot see. */
  readonly acts?: boolean
}

const collator = new Intl.Collator('en', { numeric: true })
/** Numbers by size, texts as people order them: `port 2` before `port 10`. */
export function compareValues(a: string | number, b: string | number): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b))
}

/** `>3`, `<10` and `=0` for numbers; for texts, that the text holds the words. */
export function matchesFilter(value: string | number, wanted: string): boolean {
  const bound = /^([<>=])\s*(-?\d+)$/.exec(wanted)
  if (typeof value === 'number' && bound)
    return bound[1] === '<'
      ? value < Number(bound[2])
      : bound[1] === '>'
        ? value > Number(bound[2])
        : value === Number(bound[2])
  return String(value).toLowerCase().includes(wanted.toLowerCase())
}

/** Rows that have every word of a text in some column. */
export function rowsWith<R>(rows: readonly R[], columns: readonly Column<R>[], text: string): readonly R[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  if (words.length === 0) return rows
  return rows.filter((row) => {
    const all = columns.map((column) => String(column.value(row)).toLowerCase()).join('\n')
    return words.every((word) => all.includes(word))
  })
}

/** @param sort key of a column, with `-` before it where the greatest comes first; empty: as they came */
export function sortedRows<R>(rows: readonly R[], columns: readonly Column<R>[], sort: string): readonly R[] {
  const column = columns.find(({ key }) => key === sort.replace(/^-/, ''))
  if (!column) return rows
  const order = sort.startsWith('-') ? -1 : 1
  return rows.toSorted((a, b) => order * compareValues(column.value(a), column.value(b)))
}

/** Upwards, downwards, as they came. */
export function nextSort(sort: string, key: string): string {
  return sort === key ? `-${key}` : sort === `-${key}` ? '' : key
}

/** The rows as CSV; raw values beside words in columns of their own. */
export function csvOf<R>(rows: readonly R[], columns: readonly Column<R>[]): string {
  return papaparse.unparse(
    rows.map((row) =>
      Object.fromEntries(
        columns
          .filter(({ acts }) => acts !== true)
          .flatMap((column) => [
            [column.title, column.value(row)],
            ...(column.raw ? [[`${column.title} (${t('shared.raw')})`, column.raw(row)]] : []),
          ]),
      ),
    ),
    { escapeFormulae: FORMULA },
  )
}

/** What a cell shows: numbers by thousands, unless they are names. */
export function shownOf<R>(column: Column<R>, row: R): string | number {
  const value = column.value(row)
  return typeof value === 'number' && column.plain !== true ? grouped(value) : value
}

/** Hands a text to the person as a file. */
export function saveText(name: string, text: string, type: string): void {
  saveFile(name, new Blob([text], { type }))
}

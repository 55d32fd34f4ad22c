import papaparse from 'papaparse'

/** How a cell begins that a spreadsheet would run, over several lines as well. */
export const FORMULA = /^[=+\-@\t\r]/

/** A table as CSV (RFC 4180). Cells that a spreadsheet would run as a formula are made plain text. */
export function csvOf(fields: readonly string[], rows: readonly (readonly unknown[])[]): string {
  return `${papaparse.unparse({ fields: [...fields], data: rows.map((row) => [...row]) }, { escapeFormulae: FORMULA, newline: '\r\n' })}\r\n`
}

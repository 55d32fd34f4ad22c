import { remedyText, type AuditDocument } from '../audit/index.ts'
import { csvOf } from '../syntax/index.ts'
import type { ReportFormat } from './format.ts'

/** One row a verdict. Cells that a spreadsheet would run as a formula are made plain text. */
const COLUMNS = [
  'device',
  'benchmark',
  'rule',
  'outcome',
  'severity',
  'branch',
  'note',
  'record',
  'lines',
  'missing',
  'extra',
  'remedy',
  'references',
] as const

export function writeCsv(document: AuditDocument): string {
  const rows: Record<(typeof COLUMNS)[number], string | number>[] = [...document.verdicts, ...document.expected].map(
    (verdict) => ({
      device: verdict.device,
      benchmark: verdict.benchmark,
      rule: verdict.rule,
      outcome: verdict.outcome,
      severity: verdict.severity,
      branch: verdict.branch,
      note: verdict.note,
      record: verdict.exhibits[0]?.record ?? '',
      lines: verdict.exhibits
        .map(({ from, to, absent }) => `${absent ? 'searched ' : ''}${from === to ? from : `${from}-${to}`}`)
        .join('; '),
      missing: verdict.missing.join('\n'),
      extra: verdict.extra.join('\n'),
      remedy: remedyText(verdict.remedy),
      references: verdict.references.join(' '),
    }),
  )
  return csvOf(
    COLUMNS,
    rows.map((row) => COLUMNS.map((column) => row[column])),
  )
}

export const csvFormat: ReportFormat = {
  form: 'csv',
  title: 'CSV',
  what: 'one row per verdict',
  type: 'text/csv; charset=utf-8',
  write: ({ document }) => writeCsv(document),
}

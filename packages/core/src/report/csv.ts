import type { AuditDocument } from '../audit/index.ts'
import { csvOf } from '../config/index.ts'

/** One row a verdict. Cells that a spreadsheet would run as a formula are made plain text. */
export function writeCsv(document: AuditDocument): string {
  const rows = [...document.verdicts, ...document.expected].map((verdict) => ({
    device: verdict.device,
    benchmark: verdict.benchmark,
    rule: verdict.rule,
    outcome: verdict.outcome,
    severity: verdict.severity,
    branch: verdict.branch,
    note: verdict.note,
    record: verdict.exhibits[0]?.record ?? '',
    lines: verdict.exhibits.map(({ from, to, absent }) => `${absent ? 'searched ' : ''}${from === to ? from : `${from}-${to}`}`).join('; '),
    missing: verdict.missing.join('\n'),
    extra: verdict.extra.join('\n'),
    remedy: verdict.remedy === null ? '' : 'words' in verdict.remedy ? verdict.remedy.words : verdict.remedy.commands.join('\n'),
    references: verdict.references.join(' '),
  }))
  const fields = Object.keys(rows[0] ?? {})
  return csvOf(fields, rows.map((row) => Object.values(row)))
}

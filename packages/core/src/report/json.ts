import type { ReportFormat } from './format.ts'

/** The audit document itself (`docs/formats/audit-document.md`). */
export const jsonFormat: ReportFormat = {
  form: 'json',
  title: 'JSON',
  what: 'everything, for machines',
  type: 'application/json; charset=utf-8',
  write: ({ document }) => `${JSON.stringify(document, null, 2)}\n`,
}

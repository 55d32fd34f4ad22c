/** The evidence report and its writers. */
export { FORMULA } from '../syntax/index.ts'
export { writeCsv } from './csv.ts'
export type { ReportFormat, ReportParts } from './format.ts'
export { REPORT_FORMATS } from './formats.ts'
export { OUTCOME_WORDS, writeHtml } from './html.ts'
export { findingWords, makeReport, type Finding, type Report, type RequirementLine, type RuleLine } from './report.ts'
export { writeSarif } from './sarif.ts'
export { tidyItems, writeChangeLogCsv, writeChangeLogMarkdown, type TidyItem, type TidyMark } from './tidying.ts'

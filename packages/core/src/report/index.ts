/** The evidence report and its writers. */
export { writeCsv } from './csv.ts'
export { OUTCOME_WORDS, writeHtml } from './html.ts'
export { makeReport, type Finding, type Report, type RequirementLine, type RuleLine } from './report.ts'
export { writeSarif } from './sarif.ts'

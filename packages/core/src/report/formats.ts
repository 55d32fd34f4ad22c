import { csvFormat } from './csv.ts'
import { markdownFormat } from './markdown.ts'
import type { ReportFormat } from './format.ts'
import { htmlFormat } from './html.ts'
import { EXCHANGE_FORMATS } from './exchanged.ts'
import { jsonFormat } from './json.ts'
import { sarifFormat } from './sarif.ts'

/** Every form of report, one file each: command line, server and pages offer what stands here. */
export const REPORT_FORMATS: readonly ReportFormat[] = [
  htmlFormat,
  markdownFormat,
  csvFormat,
  jsonFormat,
  sarifFormat,
  ...EXCHANGE_FORMATS,
]

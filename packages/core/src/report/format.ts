import type { AuditDocument } from '../audit/index.ts'
import type { BenchmarkSource } from '../benchmarks/index.ts'
import type { FindingMarks } from '../exchange/index.ts'
import type { Report } from './report.ts'

/** What a format is written from. The report is made when a format asks for it: some need the document alone. */
export interface ReportParts {
  readonly document: AuditDocument
  /** Those by which was judged. */
  readonly benchmarks: readonly BenchmarkSource[]
  report(): Report
  /** What people said of findings; empty where nobody did. */
  readonly marks?: FindingMarks
}

/** A form in which an evidence report is written: its id is the ending of its files. */
export interface ReportFormat {
  readonly form: string
  readonly title: string
  /** What it is for, in a few words. */
  readonly what: string
  /** Media type (RFC 6838). */
  readonly type: string
  write(parts: ReportParts): string
}

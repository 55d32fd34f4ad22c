import type { BenchmarkSource } from '../benchmarks/index.ts'
import type { Report } from './report.ts'

/** A form in which an evidence report is written: its id is the ending of its files. */
export interface ReportFormat {
  readonly form: string
  readonly title: string
  /** What it is for, in a few words. */
  readonly what: string
  /** Media type (RFC 6838). */
  readonly type: string
  /** @param benchmarks those by which was judged */
  write(report: Report, benchmarks: readonly BenchmarkSource[]): string
}

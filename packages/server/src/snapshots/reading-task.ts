import { stableText } from '@jurybox/core/syntax'
import { analysisFor, type AnalysisTask } from '../analysis/analyses.ts'
import { sha256 } from '../vault/vault.ts'

/** What is kept beside a record. */
export interface Reading {
  /** Numbers of the lines that no reader used. */
  readonly unread: number[]
  /** SHA-256 of the text less what its listing says of itself. */
  readonly settled: string
}

/** In the order of the records. Runs in a worker thread. */
export function readingTask(task: AnalysisTask): Reading[] {
  const unread = analysisFor(task)?.unread
  return task.records.map((record) => ({
    unread: [...(unread?.get(record.id) ?? [])],
    settled: sha256(stableText(record.text)),
  }))
}

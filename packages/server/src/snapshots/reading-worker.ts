import { dialectById } from '@jurybox/core'
import { unreadByRecord } from '@jurybox/core/analysis'
import { settledText } from '@jurybox/core/syntax'
import { readOf, type TaskRecord } from '../audits/worker.ts'
import { sha256 } from '../vault/vault.ts'

/** Runs in a worker thread: the records of one device. */
export interface ReadingTask {
  readonly dialect: string
  readonly records: readonly TaskRecord[]
}

/** What is kept beside a record. */
export interface Reading {
  /** Numbers of the lines that no reader used. */
  readonly unread: number[]
  /** Of the text less what its listing says of itself. */
  readonly settled: string
}

/** In the order of the records. */
export default function readingTask({ dialect: id, records }: ReadingTask): Reading[] {
  const dialect = dialectById(id)
  const unread = dialect ? unreadByRecord(dialect, records.map(readOf)) : new Map<string, number[]>()
  return records.map((record) => ({ unread: unread.get(record.id) ?? [], settled: sha256(settledText(record.text)) }))
}

/** Devices that stay read in a worker thread, under everything that they were read from. */
import { createHash } from 'node:crypto'
import { dialectById, maskWithKey } from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { SizedCache } from '@jurybox/core/syntax'
import { readOf, type TaskRecord } from './task-records.ts'

/** The records of a device that is to be analysed. */
export interface AnalysisTask {
  readonly dialect: string
  readonly records: readonly TaskRecord[]
  /** Null: secrets are shown as they are. */
  readonly maskKey: Uint8Array | null
}

/**
 * Characters of text whose devices stay read in each worker: about 35 bytes of memory each, 140 MB in all
 * (docs/limits.md).
 */
export const KEPT_CHARACTERS = 4_000_000

const kept = new SizedCache<DeviceAnalysis>(KEPT_CHARACTERS)

/** Null where the dialect is none that is known. */
export function analysisFor(task: AnalysisTask): DeviceAnalysis | null {
  const dialect = dialectById(task.dialect)
  if (!dialect) return null
  const mask = task.maskKey ? maskWithKey(task.maskKey) : (secret: string): string => secret
  const read = (): DeviceAnalysis => new DeviceAnalysis(dialect, task.records.map(readOf), mask)
  // With real secrets in it, nothing stays.
  if (!task.maskKey) return read()
  const key = keyOf(task)
  const known = kept.get(key)
  if (known) return known
  const fresh = read()
  kept.set(key, fresh, fresh.size)
  return fresh
}

function keyOf({ dialect, records, maskKey }: AnalysisTask): string {
  const hash = createHash('sha256')
  hash.update(JSON.stringify([dialect, records.map(({ text: _, ...record }) => record)]))
  hash.update(maskKey ?? '')
  for (const { text } of records) hash.update(`${text.length} `).update(text)
  return hash.digest('base64')
}

import type { SourceLocation } from '@jurybox/core/estate'
import type { Audit } from '../audits/entity.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from './service.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { EstateDevice } from './service.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly database: DataSource
  readonly estate: EstateService
  readonly snapshots: SnapshotService
}

type Counts = Map<number, Record<string, number>>

/** How many verdicts of an audit each device has, by a column of theirs. @param which the rest of the condition */
async function counted(
  { database }: Pick<Needs, 'database'>,
  audit: Audit | null,
  column: 'outcome' | 'severity',
  which = '',
): Promise<Counts> {
  const rows: { device_id: number; value: string; count: string }[] = audit
    ? await database.query(
        `SELECT device_id, ${column} AS value, COUNT(*) AS count FROM audit_verdicts
         WHERE audit_id = ? ${which} GROUP BY device_id, ${column}`,
        [audit.id],
      )
    : []
  const counts: Counts = new Map()
  for (const { device_id: device, value, count } of rows)
    counts.set(device, { ...counts.get(device), [value]: Number(count) })
  return counts
}

/** Verdicts of an audit by device and outcome. */
export function countsOf(services: Needs, audit: Audit | null): Promise<Counts> {
  return counted(services, audit, 'outcome')
}

/** Failed rules of an audit by device and severity. */
export function failuresOf(services: Needs, audit: Audit | null): Promise<Counts> {
  return counted(services, audit, 'severity', "AND outcome = 'fail'")
}

/** Lines that something stands on, by the record that people open. */
export function placeIn(
  { estate }: Pick<Needs, 'estate'>,
  device: EstateDevice | undefined,
  at: SourceLocation | null,
): { record: number; from: number; to: number } | null {
  const record = device && at ? estate.recordOf(device, at.record) : null
  return record === null || at === null ? null : { record, from: at.from, to: at.to }
}

/** By device, how its configuration stands to that of the snapshot before. */
export async function changedSince(
  { snapshots, estate }: Pick<Needs, 'snapshots' | 'estate'>,
  engagementId: number,
  snapshotId: number,
): Promise<Map<number, 'same' | 'changed' | 'new'>> {
  const snapshot = await snapshots.find(snapshotId, engagementId)
  const before = await snapshots.before(snapshot)
  if (!before) return new Map()
  const then = new Map((await estate.devices(before)).map(({ id, config }) => [id, config.settled]))
  return new Map(
    (await estate.devices(snapshot)).map(({ id, config }) => [
      id,
      !then.has(id) ? 'new' : then.get(id) === config.settled ? 'same' : 'changed',
    ]),
  )
}

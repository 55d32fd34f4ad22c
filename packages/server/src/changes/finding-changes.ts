import type { Severity } from '@jurybox/core/rules'
import type { DataSource } from 'typeorm'
import type { AuditService } from '../audits/service.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'

/** A finding of one of two audits, or of both. */
export interface FindingChange {
  readonly change: 'new' | 'resolved' | 'open'
  readonly audit: number
  readonly verdict: number
  readonly benchmark: string
  readonly rule: string
  readonly severity: Severity
  readonly outcome: 'fail' | 'unknown' | 'error'
}

export interface Needs {
  readonly audits: AuditService
  readonly database: DataSource
}

interface Row {
  readonly id: number
  readonly device_id: number
  readonly benchmark: string
  readonly rule: string
  readonly severity: Severity
  readonly outcome: FindingChange['outcome']
}

/**
 * By device, the findings of the audits of two snapshots: new, resolved, still open. Only benchmarks that both audits
 * asked are compared; empty where one of the snapshots was not audited.
 */
export async function findingChanges(
  { audits, database }: Needs,
  a: SnapshotRow,
  b: SnapshotRow,
): Promise<Map<number, FindingChange[]>> {
  const [before, after] = [await audits.of(a.id), await audits.of(b.id)]
  const found = new Map<number, FindingChange[]>()
  if (!before || !after) return found
  const asked = before.choices
    .map(({ benchmark }) => benchmark)
    .filter((id) => after.choices.some(({ benchmark }) => benchmark === id))
  if (asked.length === 0) return found
  const openIn = async (audit: number): Promise<Row[]> =>
    database.query(
      `SELECT id, device_id, benchmark, rule, severity, outcome FROM audit_verdicts
        WHERE audit_id = ? AND benchmark IN (?) AND outcome IN ('fail', 'unknown', 'error')`,
      [audit, asked],
    )
  const judgedIn = async (audit: number): Promise<Set<number>> =>
    new Set(
      (
        (await database.query('SELECT DISTINCT device_id AS id FROM audit_judgements WHERE audit_id = ?', [audit])) as {
          id: number
        }[]
      ).map(({ id }) => id),
    )
  const [was, is, judgedBefore, judgedAfter] = await Promise.all([
    openIn(before.id),
    openIn(after.id),
    judgedIn(before.id),
    judgedIn(after.id),
  ])
  const keyOf = ({ device_id: device, benchmark, rule }: Row): string => `${device} ${benchmark} ${rule}`
  const [earlier, later] = [new Set(was.map(keyOf)), new Set(is.map(keyOf))]
  const tell = (row: Row, audit: number, change: FindingChange['change']): void => {
    const { id, device_id: device, benchmark, rule, severity, outcome } = row
    const own = found.get(device) ?? []
    own.push({ change, audit, verdict: id, benchmark, rule, severity, outcome })
    found.set(device, own)
  }
  // A device that only one audit judged has neither new nor resolved findings: nothing is known of the other time.
  for (const row of is)
    if (judgedBefore.has(row.device_id)) tell(row, after.id, earlier.has(keyOf(row)) ? 'open' : 'new')
  for (const row of was) if (judgedAfter.has(row.device_id) && !later.has(keyOf(row))) tell(row, before.id, 'resolved')
  return found
}

import type { TrendPoint } from '@jurybox/api/chronicle'
import type { Severity } from '@jurybox/core/rules'
import type { DataSource } from 'typeorm'
import type { Audit } from '../audits/entity.ts'
import type { AuditService } from '../audits/service.ts'
import type { EstateService } from '../estate/service.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'

interface Needs {
  readonly audits: AuditService
  readonly database: DataSource
  readonly estate: EstateService
  readonly snapshots: SnapshotService
}

const DAY_MS = 86_400_000
const SEVERITIES: readonly Severity[] = ['high', 'medium', 'low', 'info']

/** One point for each audited snapshot. @param belongs whether a device is asked about */
export async function trendPoints(
  services: Needs,
  engagementId: number,
  belongs: (name: string) => boolean,
): Promise<TrendPoint[]> {
  const points: TrendPoint[] = []
  for (const snapshot of await services.snapshots.list(engagementId)) {
    const audit = await services.audits.of(snapshot.id)
    if (audit) points.push(await pointOf(services, snapshot, audit, belongs))
  }
  return points
}

async function pointOf(
  { database, estate }: Needs,
  snapshot: SnapshotRow,
  audit: Audit,
  belongs: (name: string) => boolean,
): Promise<TrendPoint> {
  const devices = (await estate.devices(snapshot)).filter(({ name }) => belongs(name))
  const ids = new Set(devices.map(({ id }) => id))
  const rows = (
    (await database.query(
      `SELECT device_id, outcome, severity, COUNT(*) AS count FROM audit_verdicts
        WHERE audit_id = ? GROUP BY device_id, outcome, severity`,
      [audit.id],
    )) as { device_id: number; outcome: string; severity: Severity; count: string }[]
  ).filter(({ device_id: device }) => ids.has(device))
  const sum = (holds: (row: (typeof rows)[number]) => boolean): number =>
    rows.filter(holds).reduce((all, { count }) => all + Number(count), 0)
  const open = (outcome: string): boolean => outcome === 'fail' || outcome === 'unknown' || outcome === 'error'
  const [pass, objected] = [sum(({ outcome }) => outcome === 'pass'), sum(({ outcome }) => open(outcome))]
  const ages = devices.flatMap(({ config }) =>
    config.takenAt ? [Math.max(0, snapshot.takenAt.getTime() - config.takenAt.getTime()) / DAY_MS] : [],
  )
  const judged = new Set(rows.map(({ device_id: device }) => device)).size
  return {
    audit: audit.id,
    at: snapshot.takenAt.toISOString(),
    title: snapshot.title,
    score: pass + objected === 0 ? null : round((pass / (pass + objected)) * 100),
    severities: Object.fromEntries(
      SEVERITIES.map((severity) => [severity, sum((row) => row.severity === severity && open(row.outcome))]),
    ) as Record<Severity, number>,
    ageDays: ages.length === 0 ? null : round(ages.reduce((all, age) => all + age, 0) / ages.length),
    coverage: devices.length === 0 ? 0 : round((judged / devices.length) * 100),
    devices: devices.length,
  }
}

function round(value: number): number {
  return Math.round(value * 10) / 10
}

/** `2026-W47`: the week of a day (ISO 8601), which belongs to the year of its Thursday. */
export function isoWeek(at: Date): string {
  const day = new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth(), at.getUTCDate()))
  day.setUTCDate(day.getUTCDate() + 4 - (day.getUTCDay() || 7))
  const start = Date.UTC(day.getUTCFullYear(), 0, 1)
  const week = Math.ceil(((day.getTime() - start) / DAY_MS + 1) / 7)
  return `${day.getUTCFullYear()}-W${String(week).padStart(2, '0')}`
}

/** How many changes each week had, weeks without one included. */
export function changesPerWeek(times: readonly Date[]): { week: string; changes: number }[] {
  if (times.length === 0) return []
  const sorted = times.toSorted((a, b) => a.getTime() - b.getTime())
  const [first, last] = [sorted[0], sorted.at(-1)]
  if (!first || !last) return []
  const counts = new Map<string, number>()
  for (let at = first.getTime(); at <= last.getTime() + 6 * DAY_MS; at += 7 * DAY_MS)
    counts.set(isoWeek(new Date(at)), 0)
  for (const at of sorted) counts.set(isoWeek(at), (counts.get(isoWeek(at)) ?? 0) + 1)
  const end = isoWeek(last)
  return [...counts].map(([week, changes]) => ({ week, changes })).filter(({ week }) => week <= end)
}

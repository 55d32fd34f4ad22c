import { type AlertKind } from '@jurybox/api/channel'
import type { FindingView } from '@jurybox/api/findings'
import type { Verdict } from '@jurybox/core'
import { isFinding } from '@jurybox/core/audit'
import type { KnownDevice, Sighting } from '@jurybox/core/estate'
import { lastChangeIn } from '@jurybox/core/snapshot'
import { stableLines } from '@jurybox/core/syntax'
import { diffArrays } from 'diff'
import { In, LessThan, Not } from 'typeorm'
import { Explanations, authorsWords } from '../changes/explanations.ts'
import type { DeviceResult } from '../collect/service.ts'
import { Verdicts, type Audit, type StoredVerdict } from '../audits/entity.ts'
import type { AnswerRequest } from '../attestations/entity.ts'
import type { MadeReport } from '../reports/entity.ts'
import type { Job } from '../jobs/entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import { Sightings } from '../discovery/entity.ts'
import { ruleTitles } from '../audits/titles.ts'
import { findingKey } from '@jurybox/core/exchange'
import type { AuditService } from '../audits/service.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import type { DataSource } from 'typeorm'
import type { EstateService } from '../estate/service.ts'
import type { FindingService } from '../findings/service.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SealedVerdicts } from '../audits/sealed-verdicts.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import type { TrafficService } from '../traffic/service.ts'
import { kindTitle, type HeldRecord } from '../snapshots/service.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly database: DataSource
  readonly estate: EstateService
  readonly findings: FindingService
  readonly records: RecordStore
  readonly sealedVerdicts: SealedVerdicts
  readonly snapshots: SnapshotService
  readonly traffic: TrafficService
}

/** What is needed of a verdict to name it. */
const BRIEF = { id: true, device: true, benchmark: true, rule: true, severity: true, note: true } as const

/** An event. `source` identifies what caused it, so that it is reported once. */
export interface AlertEvent {
  readonly source: string
  readonly kind: AlertKind
  readonly device: string | null
  readonly subject: string | null
  readonly severity: Verdict['severity']
  readonly title: string
  readonly detail: string
}

/** What an audit finds that the one before did not, and what has gone; nothing where there is none to compare with. */
export async function eventsFromAudit(
  {
    database,
    audits,
    benchmarks,
    sealedVerdicts,
  }: Pick<Needs, 'database' | 'audits' | 'benchmarks' | 'sealedVerdicts'>,
  audit: Audit,
): Promise<AlertEvent[]> {
  const before = await audits.before(audit)
  if (!before) return []
  // What both audits name, they say alike: only devices that came to something else are looked at.
  const named: { device: number }[] = await database.query(
    `SELECT DISTINCT a.device_id AS device
      FROM audit_judgements a
      WHERE a.audit_id IN (?)
      GROUP BY a.device_id, a.judgement_id HAVING COUNT(*) = 1`,
    [[before.id, audit.id]],
  )
  if (named.length === 0) return []
  const devices = In(named.map(({ device }) => device))
  const brief = { id: true, deviceId: true, benchmark: true, rule: true, outcome: true } as const
  const [then, now] = await Promise.all(
    [before, audit].map(({ id }) =>
      database.getRepository(Verdicts).find({ where: { auditId: id, deviceId: devices }, select: brief }),
    ),
  )
  const was = new Map((then ?? []).map((row) => [`${row.deviceId} ${row.benchmark} ${row.rule}`, row.outcome]))
  const compared = new Set(before.choices.map(({ benchmark }) => benchmark))
  const changed = (now ?? []).filter((row) => {
    // What the audit before was not asked is neither new nor resolved.
    if (!compared.has(row.benchmark)) return false
    const earlier = was.get(`${row.deviceId} ${row.benchmark} ${row.rule}`)
    return row.outcome === 'fail'
      ? earlier !== 'fail'
      : row.outcome === 'pass' && earlier !== undefined && isFinding(earlier)
  })
  if (changed.length === 0) return []
  const rows = await database
    .getRepository(Verdicts)
    .find({ where: { auditId: audit.id, id: In(changed.map(({ id }) => id)) }, order: { device: 'ASC', place: 'ASC' } })
  const titles = new Map(
    (await Promise.all(audit.choices.map(({ hash }) => benchmarks.version(hash)))).flatMap(({ source }) =>
      source.rules.map(({ id, title }) => [`${source.id} ${id}`, title] as const),
    ),
  )
  const verdicts = await audits.waived(audit.engagementId, await sealedVerdicts.open(rows))
  return verdicts
    .filter(({ waived }) => !waived)
    .map(({ device, benchmark, rule, outcome, severity, note, subjects }) => ({
      source: `audit ${audit.snapshotId} ${outcome} ${device} ${benchmark} ${rule}`,
      kind: outcome === 'fail' ? 'new' : 'resolved',
      device,
      subject:
        outcome === 'fail'
          ? subjects
              .filter((one) => one.outcome === 'fail' && one.name !== '')
              .map(({ name }) => name)
              .slice(0, 4)
              .join(', ')
              .slice(0, 250) || null
          : null,
      severity,
      title: titles.get(`${benchmark} ${rule}`) ?? rule,
      detail: note,
    }))
}

/** Devices that were not collected, and configurations that are other than they were. */
export async function eventsFromCollection(
  services: Needs,
  job: Job,
  results: readonly DeviceResult[],
  snapshot: SnapshotRow | null,
): Promise<AlertEvent[]> {
  const missing = results.flatMap(({ device, ok, step, reason }): AlertEvent[] =>
    ok
      ? []
      : [
          {
            source: `collection ${job.id} ${device}`,
            kind: 'collection',
            device,
            subject: null,
            severity: step === 'key' ? 'high' : 'medium',
            title: `Not collected, failed at step “${step}”`,
            detail: reason ?? '',
          },
        ],
  )
  return [...missing, ...(snapshot ? await drift(services, snapshot) : [])]
}

/**
 * Expectations that this snapshot violates and the one before did not. One that was never met may be a mistake: it is
 * not reported before somebody confirms it.
 */
export async function eventsFromTraffic(
  { estate, traffic, audits }: Pick<Needs, 'estate' | 'traffic' | 'audits'>,
  snapshot: SnapshotRow,
): Promise<AlertEvent[]> {
  const answered = await estate.patiently(() => traffic.expectations(snapshot))
  const verdicts = await audits.verdictsOf(snapshot.engagementId, answered, () => '')
  return answered.flatMap(({ stated, answer, since, everHeld, confirmedBy }, i): AlertEvent[] =>
    answer.outcome !== 'violated' ||
    verdicts[i]?.waived ||
    (everHeld ? since.snapshot !== snapshot.id : confirmedBy === null)
      ? []
      : [
          {
            source: everHeld ? `expectation ${snapshot.id} ${stated.id}` : `expectation confirmed ${stated.id}`,
            kind: 'expectation',
            device: answer.example?.trace.paths[0]?.device ?? null,
            subject: null,
            severity: stated.severity,
            title: stated.title,
            detail: answer.words,
          },
        ],
  )
}

/** Devices that a discovery found for the first time, and those that it did not find any more. */
export async function eventsFromDiscovery(
  { database }: Pick<Needs, 'database'>,
  job: Job,
  sightings: readonly Sighting[],
  gone: readonly KnownDevice[],
): Promise<AlertEvent[]> {
  // A device that came back and vanishes again is news; one that is still away is not.
  const met = new Map(
    (
      await database
        .getRepository(Sightings)
        .find({
          where: {
            engagementId: job.engagementId,
            device: In(gone.map(({ name }) => name)),
            kind: Not('vanished'),
            jobId: LessThan(job.id),
          },
          order: { id: 'ASC' },
        })
    ).map(({ device, jobId }) => [device, jobId]),
  )
  const appeared = sightings.filter(({ kind }) => kind === 'appeared')
  return [
    ...appeared.map(({ as, why, found }): AlertEvent => ({
      source: `appeared ${as} ${found.serial ?? found.reachedAt}`,
      kind: 'appeared',
      device: as,
      subject: null,
      severity: 'medium',
      title: `A device that is not in the inventory answers at ${found.reachedAt}`,
      detail: [found.model, found.version, found.serial && `serial ${found.serial}`, why].filter(Boolean).join(', '),
    })),
    ...gone.map(({ name, reachedAt, serial }): AlertEvent => ({
      source: `vanished ${name} ${serial ?? reachedAt ?? ''} ${met.get(name) ?? 0}`,
      kind: 'vanished',
      device: name,
      subject: null,
      severity: 'medium',
      title: 'The device was not found any more',
      detail: reachedAt === null ? '' : `It was reached at ${reachedAt}.`,
    })),
  ]
}

/** An answer that somebody is asked for. It has no severity of its own. */
export function eventFromRequest(
  { benchmark, attestation, dueOn, note, askedByName, askedAt }: AnswerRequest,
  question: string,
  of: string,
): AlertEvent {
  return {
    source: `request ${benchmark} ${attestation} ${askedAt.toISOString()}`,
    kind: 'request',
    device: null,
    subject: null,
    severity: 'info',
    title: question,
    detail: [`${askedByName} asks ${of} for an answer until ${dueOn}.`, note].filter(Boolean).join(' '),
  }
}

/** A report that was made after an audit. It has no severity of its own. */
export function eventFromReport(
  { id, engagementId, title, format, size }: MadeReport,
  publicUrl: URL | null,
): AlertEvent {
  const path = `/e/${engagementId}/reports`
  return {
    source: `report ${id}`,
    kind: 'report',
    device: null,
    subject: null,
    severity: 'info',
    title,
    detail:
      `${format.toUpperCase()}, ${Math.ceil(size / 1024)} KiB, on the page Reports: ` +
      (publicUrl === null ? path : new URL(path, publicUrl).href),
  }
}

/** Findings that got an owner. */
export async function eventsFromAssignment(
  services: Needs,
  audit: Audit,
  findings: readonly (FindingView & { verdict: number })[],
): Promise<AlertEvent[]> {
  const rows = await services.database
    .getRepository(Verdicts)
    .find({ where: { auditId: audit.id, id: In(findings.map(({ verdict }) => verdict)) }, select: BRIEF })
  const titles = await ruleTitles(services, audit.choices)
  const at = new Date().toISOString()
  return rows.flatMap((row) => {
    const finding = findings.find(({ verdict }) => verdict === row.id)
    if (!finding?.owner) return []
    const due = finding.due === null ? '' : `, due ${finding.due}`
    const source = `assigned ${findingKey(row)} ${finding.owner.id} ${at}`
    return [findingEvent('assigned', row, titles, source, `Assigned to ${finding.owner.name}${due}`)]
  })
}

/** Findings of the latest snapshot that are past their due date. */
export async function eventsFromDueDates(services: Needs, engagementId: number): Promise<AlertEvent[]> {
  const overdue = new Map(
    [...(await services.findings.of(engagementId))].filter(([, { overdue: isOverdue }]) => isOverdue),
  )
  const snapshot = overdue.size === 0 ? null : await services.snapshots.latest(engagementId)
  const audit = snapshot && (await services.audits.of(snapshot.id))
  if (!audit) return []
  const rows = await services.database
    .getRepository(Verdicts)
    .find({ where: { auditId: audit.id, outcome: In(['fail', 'unknown', 'error']) }, select: BRIEF })
  const titles = await ruleTitles(services, audit.choices)
  return rows.flatMap((row) => {
    const finding = overdue.get(findingKey(row))
    if (!finding) return []
    const owner = finding.owner ? `owner ${finding.owner.name}` : 'without owner'
    const source = `overdue ${findingKey(row)} ${finding.due ?? ''}`
    return [findingEvent('overdue', row, titles, source, `Due ${finding.due ?? ''}, ${owner}`)]
  })
}

/** An event about a finding. @param said what has become of it; its reason follows */
function findingEvent(
  kind: AlertKind,
  { device, benchmark, rule, severity, note }: Pick<StoredVerdict, keyof typeof BRIEF>,
  titles: ReadonlyMap<string, string>,
  source: string,
  said: string,
): AlertEvent {
  return {
    source,
    kind,
    device,
    subject: null,
    severity: severity as AlertEvent['severity'],
    title: titles.get(`${benchmark} ${rule}`) ?? rule,
    detail: `${said}. ${note}`,
  }
}

/** Configurations of a snapshot that differ from those of the snapshot before. */
async function drift(
  { database, estate, snapshots, records }: Pick<Needs, 'database' | 'estate' | 'snapshots' | 'records'>,
  snapshot: SnapshotRow,
): Promise<AlertEvent[]> {
  const before = await snapshots.before(snapshot)
  if (!before) return []
  const explained = await new Explanations({ database, estate }).between(before, snapshot)
  const configs = async (of: SnapshotRow): Promise<HeldRecord[]> =>
    (await snapshots.held(of)).filter(({ kind, carried }) => (kind === 'config' || kind === 'filters') && !carried)
  const earlierBy = new Map((await configs(before)).map((record) => [`${record.deviceId} ${record.kind}`, record]))
  const found: AlertEvent[] = []
  for (const record of await configs(snapshot)) {
    const earlier = earlierBy.get(`${record.deviceId} ${record.kind}`)
    if (!earlier || earlier.settled === record.settled) continue
    const [then = [], now = []] = await Promise.all(
      [earlier, record].map((one) => records.maskedLines(one, snapshot.engagementId)),
    )
    const [a, b] = [stableLines(then), stableLines(now)]
    const parts = diffArrays(a, b, { timeout: 2000 }) ?? []
    const count = (of: 'added' | 'removed'): number =>
      parts.reduce((sum, part) => sum + (part[of] ? part.value.length : 0), 0)
    const lines = parts.flatMap((part) =>
      part.added
        ? part.value.map((line) => `+ ${line.trim()}`)
        : part.removed
          ? part.value.map((line) => `− ${line.trim()}`)
          : [],
    )
    const { deviceId: id, device: name, settled } = record
    const authors = explained.authorsOf(name, lastChangeIn(now.join('\n')))
    const meant = explained.of({ id, name, config: { settled } }, authors)
    const because = meant === null ? 'No window or approval explains it' : `Explained by ${meant.kind} “${meant.title}”`
    const said = [authorsWords(authors), because].filter(Boolean).join('. ')
    found.push({
      source: `drift ${record.deviceId} ${record.kind} ${earlier.sha256} ${record.sha256} ${snapshot.id}`,
      kind: 'drift',
      device: record.device,
      subject: null,
      severity: 'medium',
      title: `The ${kindTitle(record.kind)} changed: ${count('added')} lines added, ${count('removed')} removed`,
      detail: [said, lines.slice(0, 12).join('; ')].filter(Boolean).join('. '),
    })
  }
  return found
}

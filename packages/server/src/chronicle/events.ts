import type { ChronicleEvent, EventKind } from '@jurybox/api/chronicle'
import type { Sent } from '@jurybox/api/endpoint'
import { lastChangeIn } from '@jurybox/core/snapshot'
import { In, type DataSource } from 'typeorm'
import { SnapshotTags } from '../archive/entity.ts'
import type { AuditService } from '../audits/service.ts'
import { Users } from '../auth/entity.ts'
import { ApprovedStates, ChangeMessages } from '../changes/entity.ts'
import { APPROVED } from '../changes/explanations.ts'
import { findingChanges } from '../changes/finding-changes.ts'
import type { ChangeService } from '../changes/service.ts'
import { Devices } from '../estate/entity.ts'
import type { RecordStore } from '../snapshots/records.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { TrafficOutcomes, type TrafficOutcome } from '../traffic/entity.ts'
import type { TrafficService } from '../traffic/service.ts'
import { ChangeWindows } from '../windows/entity.ts'

type TimelineEvent = Sent<ChronicleEvent>

interface Needs {
  readonly audits: AuditService
  readonly changes: ChangeService
  readonly database: DataSource
  readonly records: RecordStore
  readonly snapshots: SnapshotService
  readonly traffic: TrafficService
}

/** Snapshots that are compared with the one before them for sessions that went down: each costs a comparison. */
const COMPARED = 12
/** Changes whose listing is looked into for who made them. */
const LOOKED_INTO = 400

/** Everything that happened in an engagement, in no order. @param names devices that are asked about; null: all */
export async function eventsOf(
  services: Needs,
  engagementId: number,
  kinds: ReadonlySet<EventKind>,
  names: ReadonlySet<string> | null,
): Promise<TimelineEvent[]> {
  const snapshots = await services.snapshots.list(engagementId)
  const sources: Readonly<Record<EventKind, () => Promise<TimelineEvent[]>>> = {
    snapshot: async () => snapshots.map(snapshotEvent),
    change: async () => changeEvents(services, engagementId, names),
    finding: async () => findingEvents(services, snapshots, names),
    expectation: async () => expectationEvents(services, engagementId, snapshots),
    incident: async () => [...unreached(snapshots), ...(await sessionsDown(services, snapshots))],
    window: async () => windowEvents(services, engagementId),
    approval: async () => approvalEvents(services, engagementId, snapshots),
  }
  const all = await Promise.all([...kinds].map(async (kind) => sources[kind]()))
  return all
    .flat()
    .filter(({ devices }) => names === null || devices.length === 0 || devices.some((name) => names.has(name)))
}

const EMPTY = { until: null, devices: [], by: null, place: null, count: null, resolved: null } as const

function snapshotEvent({ id, title, takenAt }: SnapshotRow): TimelineEvent {
  return {
    ...EMPTY,
    id: `snapshot ${id}`,
    kind: 'snapshot',
    code: 'snapshot-taken',
    at: takenAt.toISOString(),
    title,
    opens: { path: 'snapshots', query: { b: String(id) } },
  }
}

interface ConfigRow {
  readonly device: string
  readonly sha256: string
  readonly settled: string
  readonly taken_at: Date | null
  readonly snapshot_id: number
  readonly snapshot_at: Date
}

/** Configurations that became other ones, and changes that devices reported and no snapshot shows yet. */
async function changeEvents(
  { database, records }: Needs,
  engagementId: number,
  names: ReadonlySet<string> | null,
): Promise<TimelineEvent[]> {
  const rows: ConfigRow[] = await database.query(
    `SELECT d.name AS device, r.sha256, r.settled, r.taken_at, s.id AS snapshot_id, s.taken_at AS snapshot_at
       FROM snapshots s
       JOIN snapshot_records l ON l.snapshot_id = s.id AND l.carried = 0
       JOIN records r ON r.id = l.record_id AND r.kind = 'config'
       JOIN devices d ON d.id = r.device_id
      WHERE s.engagement_id = ?
      ORDER BY d.name, s.taken_at, s.id`,
    [engagementId],
  )
  const messages = await database
    .getRepository(ChangeMessages)
    .find({ where: { engagementId }, order: { at: 'ASC', id: 'ASC' } })
  const told = new Set<number>()
  const changed: { row: ConfigRow; before: ConfigRow }[] = []
  rows.forEach((row, i) => {
    const before = rows[i - 1]
    if (before?.device === row.device && before.settled !== row.settled && (names?.has(row.device) ?? true))
      changed.push({ row, before })
  })
  const looked = changed.slice(-LOOKED_INTO)
  const texts = await records.texts([...new Set(looked.map(({ row }) => row.sha256))])
  const events = changed.flatMap(({ row, before }): TimelineEvent[] => {
    const own = messages.filter(
      ({ device, at }) => device === row.device && at > before.snapshot_at && at <= row.snapshot_at,
    )
    for (const { id } of own) told.add(id)
    const opens = {
      path: 'changes/device',
      query: { device: row.device, a: String(before.snapshot_id), b: String(row.snapshot_id) },
    }
    const base = {
      ...EMPTY,
      kind: 'change',
      code: 'configuration-changed',
      title: '',
      devices: [row.device],
      opens,
    } as const
    // Each person who changed it has a mark of their own.
    if (own.length > 0)
      return own.map(({ id, at, author, place }) => ({
        ...base,
        id: `change ${id}`,
        at: at.toISOString(),
        by: author,
        place,
      }))
    const text = texts.get(row.sha256)
    const said = text === undefined ? null : lastChangeIn(text)
    const from = before.snapshot_at.getTime()
    const at =
      said?.at !== undefined && said.at !== null && Date.parse(said.at) > from ? new Date(said.at) : row.snapshot_at
    return [{ ...base, id: `change ${row.device} ${row.snapshot_id}`, at: at.toISOString(), by: said?.by ?? null }]
  })
  const reported = messages
    .filter(({ id, device }) => !told.has(id) && (names?.has(device) ?? true))
    .map(({ id, device, at, author, place }): TimelineEvent => ({
      ...EMPTY,
      id: `reported ${id}`,
      kind: 'change',
      code: 'change-reported',
      at: at.toISOString(),
      title: '',
      devices: [device],
      by: author,
      place,
      opens: { path: 'changes', query: {} },
    }))
  return [...events, ...reported]
}

/** How many findings each audit opened and resolved. */
async function findingEvents(
  services: Needs,
  snapshots: readonly SnapshotRow[],
  names: ReadonlySet<string> | null,
): Promise<TimelineEvent[]> {
  const audited: { snapshot: SnapshotRow; audit: NonNullable<Awaited<ReturnType<AuditService['of']>>> }[] = []
  for (const snapshot of snapshots) {
    const audit = await services.audits.of(snapshot.id)
    if (audit) audited.push({ snapshot, audit })
  }
  const own = names === null ? null : await idsOf(services, snapshots[0]?.engagementId ?? 0, names)
  const events: TimelineEvent[] = []
  for (const [i, { snapshot, audit }] of audited.entries()) {
    const before = audited[i - 1]
    if (!before) continue
    const turned = [...(await findingChanges(services, before.snapshot, snapshot))].flatMap(([device, found]) =>
      own === null || own.has(device) ? found : [],
    )
    const count = (change: 'new' | 'resolved'): number => turned.filter((one) => one.change === change).length
    const [fresh, resolved] = [count('new'), count('resolved')]
    if (fresh + resolved === 0) continue
    events.push({
      ...EMPTY,
      id: `finding ${audit.id}`,
      kind: 'finding',
      code: 'findings-turned',
      at: (audit.finishedAt ?? snapshot.takenAt).toISOString(),
      title: snapshot.title,
      count: fresh,
      resolved,
      opens: { path: 'changes', query: { a: String(before.snapshot.id), b: String(snapshot.id), kind: 'findings' } },
    })
  }
  return events
}

async function idsOf({ database }: Needs, engagementId: number, names: ReadonlySet<string>): Promise<Set<number>> {
  const rows = await database.getRepository(Devices).findBy({ engagementId, name: In([...names]) })
  return new Set(rows.map(({ id }) => id))
}

const OUTCOME_CODES = {
  met: 'expectation-met',
  violated: 'expectation-violated',
  undecided: 'expectation-undecided',
} as const

/** Expectations whose answer became another one from one snapshot to the next, as far as they were asked. */
async function expectationEvents(
  { database, traffic }: Needs,
  engagementId: number,
  snapshots: readonly SnapshotRow[],
): Promise<TimelineEvent[]> {
  if (snapshots.length === 0) return []
  const titles = new Map((await traffic.stated(engagementId)).map(({ id, title }) => [id, title]))
  const rows = await database.getRepository(TrafficOutcomes).findBy({ snapshotId: In(snapshots.map(({ id }) => id)) })
  const last = new Map<string, TrafficOutcome>()
  const events: TimelineEvent[] = []
  for (const snapshot of snapshots)
    for (const row of rows.filter(({ snapshotId }) => snapshotId === snapshot.id)) {
      const before = last.get(row.expectation)
      last.set(row.expectation, row)
      // Another wording is another expectation.
      if (!before || before.statedHash !== row.statedHash || before.outcome === row.outcome) continue
      events.push({
        ...EMPTY,
        id: `expectation ${row.expectation} ${snapshot.id}`,
        kind: 'expectation',
        code: OUTCOME_CODES[row.outcome],
        at: snapshot.takenAt.toISOString(),
        title: titles.get(row.expectation) ?? row.expectation,
        opens: { path: 'traffic', query: { b: String(snapshot.id) } },
      })
    }
  return events
}

/** Devices that a collection did not reach. */
function unreached(snapshots: readonly SnapshotRow[]): TimelineEvent[] {
  return snapshots.flatMap(({ id, takenAt, refused }) => {
    const devices = refused.flatMap(({ path, step }) => (step === undefined ? [] : [path]))
    return devices.length === 0
      ? []
      : [
          {
            ...EMPTY,
            devices,
            id: `incident ${id}`,
            kind: 'incident',
            code: 'device-not-reached',
            at: takenAt.toISOString(),
            title: '',
            opens: { path: 'snapshots', query: { b: String(id) } },
          } satisfies TimelineEvent,
        ]
  })
}

/** Sessions and interfaces that were up in one snapshot and are not in the next. */
async function sessionsDown({ changes }: Needs, snapshots: readonly SnapshotRow[]): Promise<TimelineEvent[]> {
  const events: TimelineEvent[] = []
  const latest = snapshots.slice(-COMPARED)
  for (const [i, b] of latest.entries()) {
    const a = latest[i - 1]
    if (!a) continue
    for (const { device, compared } of await changes.between(a, b))
      for (const { table, title, key, change, fields } of compared?.comparison.state ?? []) {
        const isSession = table === 'bgp' || table === 'ospf'
        const isDown =
          (isSession &&
            (change === 'vanished' || fields.some(({ field, after }) => field === 'up' && after === 'no'))) ||
          (table === 'interfaces' &&
            fields.some(({ field, before, after }) => field === 'oper' && before === 'up' && after === 'down'))
        if (!isDown) continue
        events.push({
          ...EMPTY,
          id: `down ${b.id} ${device.name} ${table} ${key}`,
          kind: 'incident',
          code: isSession ? 'session-down' : 'interface-down',
          at: b.takenAt.toISOString(),
          title: `${title} ${key}`,
          devices: [device.name],
          opens: { path: 'changes/device', query: { device: device.name, a: String(a.id), b: String(b.id) } },
        })
      }
  }
  return events
}

async function windowEvents({ database }: Needs, engagementId: number): Promise<TimelineEvent[]> {
  const windows = await database.getRepository(ChangeWindows).findBy({ engagementId })
  return windows
    .filter(({ state }) => state !== 'cancelled')
    .map(({ id, title, beginsAt, endsAt, changedAt, devices, createdByName }) => ({
      ...EMPTY,
      title,
      devices,
      id: `window ${id}`,
      kind: 'window',
      code: 'window',
      at: beginsAt.toISOString(),
      until: (changedAt ?? endsAt).toISOString(),
      by: createdByName,
      opens: { path: 'changes/windows', query: { window: String(id) } },
    }))
}

async function approvalEvents(
  { database }: Needs,
  engagementId: number,
  snapshots: readonly SnapshotRow[],
): Promise<TimelineEvent[]> {
  const titles = new Map(snapshots.map(({ id, title }) => [id, title]))
  const tags =
    snapshots.length === 0
      ? []
      : await database
          .getRepository(SnapshotTags)
          .findBy({ tag: APPROVED, snapshotId: In(snapshots.map(({ id }) => id)) })
  const people = new Map(
    (await database.getRepository(Users).find({ select: { id: true, fullName: true } })).map(({ id, fullName }) => [
      id,
      fullName,
    ]),
  )
  const states = await database.getRepository(ApprovedStates).findBy({ engagementId })
  const devices = new Map(
    (await database.getRepository(Devices).findBy({ engagementId })).map(({ id, name }) => [id, name]),
  )
  return [
    ...tags.map(({ snapshotId, setBy, setAt }): TimelineEvent => ({
      ...EMPTY,
      id: `approved ${snapshotId}`,
      kind: 'approval',
      code: 'snapshot-approved',
      at: setAt.toISOString(),
      title: titles.get(snapshotId) ?? '',
      by: people.get(setBy) ?? null,
      opens: { path: 'snapshots', query: { b: String(snapshotId) } },
    })),
    ...states.map(({ id, deviceId, reason, approvedByName, approvedAt, snapshotId }): TimelineEvent => ({
      ...EMPTY,
      id: `state ${id}`,
      kind: 'approval',
      code: 'state-approved',
      at: approvedAt.toISOString(),
      title: reason,
      devices: [devices.get(deviceId) ?? ''],
      by: approvedByName,
      opens: {
        path: 'changes/device',
        query: { device: devices.get(deviceId) ?? '', ...(snapshotId === null ? {} : { b: String(snapshotId) }) },
      },
    })),
  ]
}

import { type Channel } from '@jurybox/api/channel'
import type { FindingView } from '@jurybox/api/findings'
import { channelSchema } from '@jurybox/api/channel'
import type { KnownDevice, Sighting } from '@jurybox/core/estate'
import { Cron } from 'croner'
import { In, IsNull, LessThanOrEqual, type EntityManager } from 'typeorm'
import {
  AlertEvents,
  Alerts,
  Deliveries,
  AlertedEvents,
  type Delivery,
  type StoredAlert,
  type StoredEvent,
} from './entity.ts'
import { Engagements } from '../engagements/entity.ts'
import type { AnswerRequest } from '../attestations/entity.ts'
import type { MadeReport } from '../reports/entity.ts'
import type { Audit } from '../audits/entity.ts'
import type { Job } from '../jobs/entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { DeviceResult } from '../collect/service.ts'
import { missedSince } from '../schedules/when.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { Needs as EventNeeds } from './events.ts'
import type { Logger } from 'pino'
import type { Settings } from '../operation/settings.ts'
import type { Vault } from '../vault/vault.ts'
import { sha256 } from '../vault/vault.ts'
import { placeOf, send } from './channels.ts'
import {
  eventsFromAssignment,
  eventsFromAudit,
  eventsFromCollection,
  eventsFromDiscovery,
  eventsFromDueDates,
  eventsFromTraffic,
  eventFromReport,
  eventFromRequest,
  type AlertEvent,
} from './events.ts'
import { renderNotification } from './notification.ts'
import { AllowedTargets } from './targets.ts'

/** What is needed of the rest of the server. */
export interface Needs extends EventNeeds {
  readonly activity: ActivityLog
  readonly log: Logger
  readonly settings: Settings
  readonly vault: Vault
}

/** Minutes after which a delivery is tried again; after the last it has failed. */
const AGAIN_MINUTES = [1, 5, 15, 60, 240]
/** Deliveries that are looked at together. */
const AT_ONCE = 50
const ONCE_MORE_MS = 30_000
/** What has no severity is told whatever the least one is. */
const UNGRADED: ReadonlySet<string> = new Set(['report', 'request'])
const SEVERITIES = ['info', 'low', 'medium', 'high']

/** Notifies people and other systems of events: at once or in a digest; each event once. */
export class AlertService {
  readonly #digests = new Map<number, Cron>()
  #work: Promise<void> = Promise.resolve()
  #next: NodeJS.Timeout | null = null
  #hourly: Cron | null = null
  #closed = false
  /** For tests: less than a minute. */
  minute = 60_000

  readonly #targets: AllowedTargets
  /** By engagement: what is on its way. */
  readonly #underWay = new Map<number, Promise<void>>()

  constructor(readonly services: Needs) {
    this.#targets = new AllowedTargets(services.settings.alertTargets)
  }

  /** At the start of the server. What was on its way when it stopped may have arrived: it is not sent again. */
  async open(now = new Date()): Promise<void> {
    await this.#deliveries.update(
      { state: 'sending' },
      {
        state: 'unsure',
        said: 'The server stopped during delivery. The message is not sent again, since it may have arrived.',
      },
    )
    for (const alert of await this.#alerts.find()) {
      this.arm(alert)
      if (alert.cron === null || alert.paused) continue
      const waiting = await this.#tolds.findOne({
        where: { alertId: alert.id, deliveryId: IsNull() },
        order: { eventId: 'ASC' },
      })
      const event = waiting && (await this.#events.findOneBy({ id: waiting.eventId }))
      if (event && missedSince(alert.cron, alert.zone, event.at, now)) await this.#digest(alert.id)
    }
    this.#hourly = new Cron(
      '7 * * * *',
      { unref: true },
      () => void this.dueDates().catch((error: unknown) => this.#wentWrong(error)),
    )
    this.#begin()
  }

  arm(alert: StoredAlert): void {
    this.disarm(alert.id)
    if (alert.cron !== null && !alert.paused)
      this.#digests.set(
        alert.id,
        new Cron(
          alert.cron,
          { timezone: alert.zone, unref: true },
          () =>
            void this.#digest(alert.id).then(
              () => this.#begin(),
              (error: unknown) => this.#wentWrong(error),
            ),
        ),
      )
  }

  disarm(id: number): void {
    this.#digests.get(id)?.stop()
    this.#digests.delete(id)
  }

  /** After an audit. What goes wrong here spoils no audit. */
  async audited(audit: Audit): Promise<void> {
    await this.#tell(audit.engagementId, () => eventsFromAudit(this.services, audit))
    await this.#tell(audit.engagementId, () => eventsFromDueDates(this.services, audit.engagementId))
  }

  /** After a discovery. */
  async discovered(job: Job, sightings: readonly Sighting[], gone: readonly KnownDevice[]): Promise<void> {
    await this.#tell(job.engagementId, () => eventsFromDiscovery(this.services, job, sightings, gone))
  }

  /** After findings got an owner. */
  async assigned(audit: Audit, findings: readonly (FindingView & { verdict: number })[]): Promise<void> {
    await this.#tell(audit.engagementId, () => eventsFromAssignment(this.services, audit, findings))
  }

  /** What has become overdue, in every engagement with an alert; asked once an hour. */
  async dueDates(): Promise<void> {
    for (const engagementId of new Set((await this.#alerts.find()).map(({ engagementId: id }) => id)))
      await this.#tell(engagementId, () => eventsFromDueDates(this.services, engagementId))
  }

  /** After a collection. */
  async collected(job: Job, results: readonly DeviceResult[], snapshot: SnapshotRow | null): Promise<void> {
    await this.#tell(job.engagementId, () => eventsFromCollection(this.services, job, results, snapshot))
  }

  /** After somebody was asked for an answer. */
  async requested(request: AnswerRequest, question: string, of: string): Promise<void> {
    await this.#tell(request.engagementId, () => Promise.resolve([eventFromRequest(request, question, of)]))
  }

  /** After a report was made: where it is, never the report itself; whoever may read it signs in. */
  async reported(made: MadeReport): Promise<void> {
    await this.#tell(made.engagementId, () =>
      Promise.resolve([eventFromReport(made, this.services.settings.publicUrl)]),
    )
  }

  async afterSnapshot(snapshot: SnapshotRow): Promise<void> {
    await this.#tell(snapshot.engagementId, () => eventsFromTraffic(this.services, snapshot))
  }

  /** A message that says that it is a test, whatever has happened. */
  async test(alert: StoredAlert): Promise<void> {
    await begun(this.services.database.manager, alert.id, true)
    this.#begin()
  }

  seal(engagementId: number, secret: string): Buffer {
    return this.services.vault.seal(Buffer.from(secret), placeOf(engagementId))
  }

  /** When nothing is on its way. For tests, and the end of the server. */
  async settled(): Promise<void> {
    await this.#work
  }

  async close(): Promise<void> {
    this.#closed = true
    this.#hourly?.stop()
    for (const id of [...this.#digests.keys()]) this.disarm(id)
    if (this.#next) clearTimeout(this.#next)
    await this.#work
  }

  async #tell(engagementId: number, find: () => Promise<readonly AlertEvent[]>): Promise<void> {
    try {
      if ((await this.#alerts.countBy({ engagementId })) === 0) return
      const happened = await find()
      // An alert that is stored without its recipients would never be sent: both are stored, or neither.
      await this.services.database.transaction(async (manager) => {
        const events = await kept(manager, engagementId, happened)
        if (events.length > 0)
          for (const alert of await manager.findBy(Alerts, { engagementId, paused: false }))
            await assign(manager, alert, events)
      })
      this.#begin()
    } catch (error) {
      this.#wentWrong(error)
    }
  }

  /** What has come together becomes one delivery. */
  async #digest(alertId: number): Promise<void> {
    await this.services.database.transaction(async (manager) => {
      if ((await manager.countBy(AlertedEvents, { alertId, deliveryId: IsNull() })) === 0) return
      await manager.update(
        AlertedEvents,
        { alertId, deliveryId: IsNull() },
        { deliveryId: await begun(manager, alertId) },
      )
    })
  }

  /** Sends what is due, for each engagement one after the other, and waits for what is due later. */
  #begin(): void {
    this.#work = this.#work
      .then(() => this.#sendDue())
      .catch((error: unknown) => {
        this.#wentWrong(error)
        // The database may be away: what waits is not forgotten.
        if (!this.#closed) this.#next = setTimeout(() => this.#begin(), ONCE_MORE_MS).unref()
      })
  }

  async #sendDue(): Promise<void> {
    while (!this.#closed) {
      const waiting = await this.#deliveries.find({
        where: { state: 'waiting', nextAt: LessThanOrEqual(new Date()) },
        order: { id: 'ASC' },
        take: AT_ONCE,
      })
      const engagements = new Map(
        (await this.#alerts.findBy({ id: In(waiting.map(({ alertId }) => alertId)) })).map(({ id, engagementId }) => [
          id,
          engagementId,
        ]),
      )
      // A service that is slow for one engagement does not hold up the others.
      for (const delivery of waiting) {
        const engagementId = engagements.get(delivery.alertId) ?? 0
        if (this.#underWay.has(engagementId) || this.#closed) continue
        this.#underWay.set(
          engagementId,
          this.#deliver(delivery)
            .catch((error: unknown) => this.#wentWrong(error))
            .finally(() => this.#underWay.delete(engagementId)),
        )
      }
      if (this.#underWay.size === 0) break
      await Promise.race(this.#underWay.values())
    }
    await Promise.all(this.#underWay.values())
    const [later] = await this.#deliveries.find({ where: { state: 'waiting' }, order: { nextAt: 'ASC' }, take: 1 })
    if (this.#next) clearTimeout(this.#next)
    this.#next =
      later && !this.#closed
        ? setTimeout(
            () => this.#begin(),
            Math.max(0, Math.min(later.nextAt.getTime() - Date.now() + 1, 3_600_000)),
          ).unref()
        : null
  }

  async #deliver(delivery: Delivery): Promise<void> {
    const alert = await this.#alerts.findOneByOrFail({ id: delivery.alertId })
    const { title: engagement } = await this.services.database
      .getRepository(Engagements)
      .findOneByOrFail({ id: alert.engagementId })
    const attempts = delivery.attempts + 1
    await this.#deliveries.update({ id: delivery.id }, { state: 'sending', attempts })
    try {
      const letter = delivery.test
        ? {
            ...renderNotification(engagement, []),
            subject: `${engagement}: test message`,
            text: `This is a test of the alert “${alert.title}”. No action is needed.`,
          }
        : renderNotification(engagement, await this.#eventsOf(delivery.id))
      const secret =
        alert.secret && this.services.vault.unseal(alert.secret, placeOf(alert.engagementId)).toString('utf8')
      const said = await send(
        channelOf(alert),
        secret,
        {
          id: sha256(`delivery ${alert.engagementId} ${alert.id} ${delivery.id}`).slice(0, 32),
          engagement,
          test: delivery.test,
          letter,
        },
        this.#targets,
      )
      await this.#deliveries.update({ id: delivery.id }, { state: 'sent', said, sentAt: new Date() })
    } catch (error) {
      const minutes = delivery.test ? undefined : AGAIN_MINUTES[attempts - 1]
      const said = error instanceof Error ? error.message : String(error)
      await this.#deliveries.update(
        { id: delivery.id },
        {
          state: minutes === undefined ? 'failed' : 'waiting',
          said,
          ...(minutes === undefined ? {} : { nextAt: new Date(Date.now() + minutes * this.minute) }),
        },
      )
      if (minutes === undefined)
        await this.services.activity.add({
          userId: null,
          engagementId: alert.engagementId,
          action: 'alert failed',
          detail: { alert: alert.title, attempts, reason: said },
        })
    }
  }

  async #eventsOf(deliveryId: number): Promise<StoredEvent[]> {
    const told = await this.#tolds.findBy({ deliveryId })
    return this.#events.find({ where: { id: In(told.map(({ eventId }) => eventId)) }, order: { id: 'ASC' } })
  }

  #wentWrong(error: unknown): void {
    if (!this.#closed)
      this.services.log.error(
        { error: error instanceof Error ? { message: error.message, stack: error.stack } : String(error) },
        'alerts went wrong',
      )
  }

  get #alerts() {
    return this.services.database.getRepository(Alerts)
  }

  get #events() {
    return this.services.database.getRepository(AlertEvents)
  }

  get #deliveries() {
    return this.services.database.getRepository(Deliveries)
  }

  get #tolds() {
    return this.services.database.getRepository(AlertedEvents)
  }
}

export function channelOf({ channel, settings }: Pick<StoredAlert, 'channel' | 'settings'>): Channel {
  return channelSchema.parse({ ...settings, channel })
}

/** Those that were not known yet. */
async function kept(manager: EntityManager, engagementId: number, all: readonly AlertEvent[]): Promise<StoredEvent[]> {
  const rows = new Map(all.map((one) => [sha256(one.source), one]))
  if (rows.size === 0) return []
  const known = new Set(
    (
      await manager.find(AlertEvents, {
        where: { engagementId, source: In([...rows.keys()]) },
        select: { id: true, source: true },
      })
    ).map(({ source }) => source),
  )
  const at = new Date()
  return manager.save(
    AlertEvents,
    [...rows].flatMap(([source, one]) =>
      known.has(source) ? [] : [manager.create(AlertEvents, { ...one, engagementId, source, at })],
    ),
  )
}

/** A delivery that waits to be sent. @returns its id */
async function begun(manager: EntityManager, alertId: number, test = false): Promise<number> {
  const now = new Date()
  return (
    await manager.save(
      Deliveries,
      manager.create(Deliveries, {
        alertId,
        state: 'waiting',
        attempts: 0,
        nextAt: now,
        said: '',
        createdAt: now,
        sentAt: null,
        test,
      }),
    )
  ).id
}

/** Assigns events to deliveries: at once in one delivery, or with the next digest. */
async function assign(manager: EntityManager, alert: StoredAlert, events: readonly StoredEvent[]): Promise<void> {
  const least = SEVERITIES.indexOf(alert.severity)
  const wanted = events.filter(
    ({ kind, severity }) => alert.kinds.includes(kind) && (UNGRADED.has(kind) || SEVERITIES.indexOf(severity) >= least),
  )
  if (wanted.length === 0) return
  const deliveryId = alert.cron === null ? await begun(manager, alert.id) : null
  await manager.insert(
    AlertedEvents,
    wanted.map(({ id }) => ({ alertId: alert.id, eventId: id, deliveryId })),
  )
}

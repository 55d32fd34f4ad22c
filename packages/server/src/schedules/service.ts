import { Cron } from 'croner'
import { Schedules, type Schedule } from './entity.ts'
import type { AuditScope } from '../audits/entity.ts'
import type { Job } from '../jobs/entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SyslogMessage } from '@jurybox/core/state'
import { scopeOf } from '../audits/scope.ts'
import { Problem } from '../http/problem.ts'
import type { ActivityLog } from '../activity/activity.ts'
import type { AuditService } from '../audits/service.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'
import type { CollectService } from '../collect/service.ts'
import type { DataSource } from 'typeorm'
import type { DiscoveryService } from '../discovery/service.ts'
import type { EstateService } from '../estate/service.ts'
import type { JobBoard } from '../jobs/board.ts'
import type { Logger } from 'pino'
import type { SnapshotService } from '../snapshots/service.ts'
import { SyslogListener } from './listener.ts'
import { longestGap, missedSince } from './when.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly activity: ActivityLog
  readonly audits: AuditService
  readonly benchmarks: BenchmarkRepository
  readonly collecting: CollectService
  readonly database: DataSource
  readonly discovery: DiscoveryService
  readonly estate: EstateService
  readonly jobs: JobBoard
  readonly log: Logger
  readonly snapshots: SnapshotService
}

/** What a schedule last said while it runs. */
const RUNNING = 'running'

/** Collects and audits at their times; what was missed while the server was down is done once. */
export class ScheduleService {
  readonly #armed = new Map<number, Cron>()
  readonly #running = new Set<Promise<void>>()
  readonly #stop = new AbortController()
  readonly listener = new SyslogListener(
    (message) =>
      void this.heard(message).catch((error: unknown) =>
        this.services.log.error({ error: String(error) }, 'a syslog message went wrong'),
      ),
  )
  /** Devices that said the word of a schedule, until it begins. */
  readonly #told = new Map<number, { readonly devices: Set<string>; readonly timer: NodeJS.Timeout }>()
  /** When a schedule began for a device at its word, in milliseconds since 1970. */
  readonly #begun = new Map<string, number>()
  /** Called with every message before schedules are. */
  whenHeard: (message: SyslogMessage) => Promise<void> = async () => undefined
  /** Milliseconds that words are gathered for; for tests less. */
  gather = 5000

  constructor(readonly services: Needs) {}

  /** At the start of the server. */
  async open(now = new Date()): Promise<void> {
    await this.#rows.update({ lastSaid: RUNNING }, { lastSaid: 'interrupted: the server stopped' })
    for (const schedule of await this.#rows.find()) {
      this.arm(schedule)
      if (!schedule.paused && missedSince(schedule.cron, schedule.zone, schedule.lastAt ?? schedule.createdAt, now))
        this.#begin(schedule.id)
    }
  }

  /** Waits for the next time; a schedule that is paused waits for none. */
  arm(schedule: Schedule): void {
    this.disarm(schedule.id)
    if (!schedule.paused)
      this.#armed.set(
        schedule.id,
        new Cron(schedule.cron, { timezone: schedule.zone, unref: true }, () => this.#begin(schedule.id)),
      )
  }

  disarm(id: number): void {
    this.#armed.get(id)?.stop()
    this.#armed.delete(id)
  }

  /**
   * A device said something: schedules that wait for a word of it begin for that device, together with others that say
   * it soon after.
   */
  async heard(message: SyslogMessage): Promise<void> {
    await this.whenHeard(message)
    const { host, app, id: kind, text } = message
    if (host === null) return
    const said = [app, kind, text].join(' ').toLowerCase()
    for (const schedule of await this.#rows.findBy({ paused: false })) {
      if (schedule.word === null || !said.includes(schedule.word.toLowerCase())) continue
      if (schedule.devices !== null && !schedule.devices.includes(host)) continue
      if (!(await this.services.collecting.connections(schedule.engagementId)).some(({ device }) => device === host))
        continue
      // A device that logs all the time is not collected from all the time.
      if (Date.now() - (this.#begun.get(`${schedule.id} ${host}`) ?? 0) < 12 * this.gather) continue
      this.#begun.set(`${schedule.id} ${host}`, Date.now())
      const waiting = this.#told.get(schedule.id)
      if (waiting) waiting.devices.add(host)
      else {
        const devices = new Set([host])
        const timer = setTimeout(() => {
          this.#told.delete(schedule.id)
          this.#begin(schedule.id, [...devices])
        }, this.gather)
        this.#told.set(schedule.id, { devices, timer: timer.unref() })
      }
    }
  }

  /** Does it now, whatever its times. @param only these of its devices */
  async run(id: number, only: readonly string[] | null = null): Promise<void> {
    const schedule = await this.#rows.findOneBy({ id })
    if (!schedule) return
    await this.#rows.update({ id }, { lastAt: new Date(), lastSaid: RUNNING })
    let said: string
    try {
      said = await this.#done(await this.#withGroup(schedule), only)
    } catch (error) {
      said = `failed: ${error instanceof Error ? error.message : String(error)}`
      await this.services.activity.add({
        userId: null,
        engagementId: schedule.engagementId,
        action: 'schedule failed',
        detail: { schedule: schedule.title, reason: said },
      })
    }
    await this.#rows.update({ id }, { lastSaid: said })
  }

  /** Begins at once, whatever its times. @throws Problem where it is already running */
  async runNow({ id, lastSaid }: Schedule): Promise<void> {
    if (lastSaid === RUNNING) throw new Problem(409, 'The schedule is already running.')
    await this.#rows.update({ id }, { lastAt: new Date(), lastSaid: RUNNING })
    this.#begin(id)
  }

  /** The devices that a schedule names, as far as the snapshot has them; the others are told. */
  async #ofNamed(snapshot: SnapshotRow, named: readonly string[], said: string[]): Promise<AuditScope | null> {
    const known = new Set((await this.services.estate.devices(snapshot)).map(({ name }) => name))
    const missing = named.filter((name) => !known.has(name))
    if (missing.length > 0) said.push(`not in the snapshot: ${missing.join(', ')}`)
    return scopeOf(this.services, snapshot, { devices: named.filter((name) => known.has(name)) })
  }

  /** A schedule for the members that its group has now. */
  async #withGroup(schedule: Schedule): Promise<Schedule> {
    if (schedule.group === null) return schedule
    const snapshot = await this.services.snapshots.latest(schedule.engagementId)
    if (!snapshot) throw new Error('there is no snapshot yet, so the group has no members')
    const scope = await scopeOf(this.services, snapshot, { group: schedule.group })
    return { ...schedule, devices: [...(scope?.devices ?? [])] }
  }

  /** How often audits are scheduled in an engagement, in days; null where they are not. */
  async everyDays(engagementId: number): Promise<number | null> {
    const audits = (await this.#rows.findBy({ engagementId, paused: false })).filter(
      ({ does }) => does === 'audit' || does === 'both',
    )
    return audits.length === 0 ? null : Math.min(...audits.map(({ cron, zone }) => longestGap(cron, zone, new Date())))
  }

  async close(): Promise<void> {
    for (const id of [...this.#armed.keys()]) this.disarm(id)
    for (const { timer } of this.#told.values()) clearTimeout(timer)
    this.#stop.abort()
    await this.listener.close()
    await Promise.allSettled(this.#running)
  }

  #begin(id: number, only: readonly string[] | null = null): void {
    const work = this.run(id, only)
    this.#running.add(work)
    void work.finally(() => this.#running.delete(work))
  }

  /** @param only devices that begin it by themselves: these alone are collected from, and all are judged */
  async #done(
    { engagementId, createdBy, does, devices: named, group, benchmarks, title, looks, discovery: plan }: Schedule,
    only: readonly string[] | null,
  ): Promise<string> {
    const { collecting, audits, snapshots, discovery, benchmarks: shelf } = this.services
    if (plan) {
      const job = await this.#ended(
        await discovery.start(engagementId, createdBy, plan, await discovery.tries(engagementId, plan)),
      )
      if (job.state !== 'done') throw new Error(job.message)
      return job.message
    }
    const said: string[] = []
    let devices = only ?? named
    if (does !== 'audit' && looks) {
      const { looked, changed, missing } = await collecting.look(engagementId, devices, this.#stop.signal)
      const unseen = missing.length > 0 ? `; not reached: ${missing.join(', ')}` : ''
      if (changed.length === 0) return `${looked} checked, none changed${unseen}`
      said.push(`${looked} checked, changed: ${changed.join(', ')}${unseen}`)
      devices = changed
    }
    if (does !== 'audit') {
      const job = await this.#ended(
        await collecting.start(
          engagementId,
          createdBy,
          devices,
          `${title}, ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`,
          does === 'collect',
        ),
      )
      said.push(job.message)
      if (job.state !== 'done') throw new Error(job.message)
    }
    if (does !== 'collect') {
      const snapshot = await snapshots.latest(engagementId)
      if (!snapshot) throw new Error('there is no snapshot to audit')
      const choices = await Promise.all(benchmarks.map((id) => shelf.choice(engagementId, id, undefined)))
      // What a schedule is for, its audit is limited to: of a group, those that the snapshot has.
      const scope =
        group !== null
          ? await scopeOf(this.services, snapshot, { group })
          : named !== null
            ? await this.#ofNamed(snapshot, named, said)
            : null
      const job = await this.#ended(await audits.start(engagementId, createdBy, snapshot, choices, scope))
      said.push(job.message)
      if (job.state !== 'done') throw new Error(job.message)
    }
    return said.join('; ')
  }

  /** The job as it is when it has ended. */
  async #ended({ id, engagementId }: Job): Promise<Job> {
    for (;;) {
      const job = await this.services.jobs.find(id, engagementId)
      if (!job) throw new Error('the job no longer exists')
      if (job.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
  }

  get #rows() {
    return this.services.database.getRepository(Schedules)
  }
}

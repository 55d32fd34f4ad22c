import { Cron } from 'croner'
import { Schedules, type Job, type Schedule } from '../db/entities.ts'
import type { SyslogMessage } from '@jurybox/core/state'
import type { Services } from '../services.ts'
import { SyslogListener } from './listener.ts'
import { longestGap, missedSince } from './when.ts'

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
  /** Milliseconds that words are gathered for; for tests less. */
  gather = 5000

  constructor(readonly services: Services) {}

  /** At the start of the server. */
  async open(now = new Date()): Promise<void> {
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
  async heard({ host, app, id: kind, text }: SyslogMessage): Promise<void> {
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
    await this.#rows.update({ id }, { lastAt: new Date(), lastSaid: 'running' })
    let said: string
    try {
      said = await this.#done(only === null ? schedule : { ...schedule, devices: [...only] })
    } catch (error) {
      said = `not done: ${error instanceof Error ? error.message : String(error)}`
      await this.services.activity.add({
        userId: null,
        engagementId: schedule.engagementId,
        action: 'schedule failed',
        detail: { schedule: schedule.title, reason: said },
      })
    }
    await this.#rows.update({ id }, { lastSaid: said })
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

  async #done({
    engagementId,
    createdBy,
    does,
    devices: named,
    benchmarks,
    title,
    looks,
    discovery: plan,
  }: Schedule): Promise<string> {
    const { collecting, audits, snapshots, discovery, benchmarks: shelf } = this.services
    if (plan) {
      const job = await this.#ended(
        await discovery.start(engagementId, createdBy, plan, await discovery.tries(engagementId, plan)),
      )
      if (job.state !== 'done') throw new Error(job.message)
      return job.message
    }
    const said: string[] = []
    let devices = named
    if (does !== 'audit' && looks) {
      const { looked, changed, missing } = await collecting.look(engagementId, named, this.#stop.signal)
      const unseen = missing.length > 0 ? `; not reached: ${missing.join(', ')}` : ''
      if (changed.length === 0) return `looked at ${looked}, nothing has changed${unseen}`
      said.push(`looked at ${looked}, changed: ${changed.join(', ')}${unseen}`)
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
      const job = await this.#ended(await audits.start(engagementId, createdBy, snapshot, choices))
      said.push(job.message)
      if (job.state !== 'done') throw new Error(job.message)
    }
    return said.join('; ')
  }

  /** The job as it is when it has ended. */
  async #ended({ id, engagementId }: Job): Promise<Job> {
    for (;;) {
      const job = await this.services.jobs.find(id, engagementId)
      if (!job) throw new Error('the work is gone')
      if (job.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 250))
    }
  }

  get #rows() {
    return this.services.database.getRepository(Schedules)
  }
}

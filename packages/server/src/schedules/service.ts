import { Cron } from 'croner'
import { Schedules, type Job, type Schedule } from '../db/entities.ts'
import type { Services } from '../services.ts'
import { longestGap, missedSince } from './when.ts'

/** Collects and audits at their times; what was missed while the server was down is done once. */
export class ScheduleService {
  readonly #armed = new Map<number, Cron>()
  readonly #running = new Set<Promise<void>>()

  constructor(readonly services: Services) {}

  /** At the start of the server. */
  async open(now = new Date()): Promise<void> {
    for (const schedule of await this.#rows.find()) {
      this.arm(schedule)
      if (!schedule.paused && missedSince(schedule.cron, schedule.zone, schedule.lastAt ?? schedule.createdAt, now)) this.#begin(schedule.id)
    }
  }

  /** Waits for the next time; a schedule that is paused waits for none. */
  arm(schedule: Schedule): void {
    this.disarm(schedule.id)
    if (!schedule.paused) this.#armed.set(schedule.id, new Cron(schedule.cron, { timezone: schedule.zone, unref: true }, () => this.#begin(schedule.id)))
  }

  disarm(id: number): void {
    this.#armed.get(id)?.stop()
    this.#armed.delete(id)
  }

  /** Does it now, whatever its times. */
  async run(id: number): Promise<void> {
    const schedule = await this.#rows.findOneBy({ id })
    if (!schedule) return
    await this.#rows.update({ id }, { lastAt: new Date(), lastSaid: 'running' })
    let said: string
    try {
      said = await this.#done(schedule)
    } catch (error) {
      said = `not done: ${error instanceof Error ? error.message : String(error)}`
      await this.services.activity.add({ userId: null, engagementId: schedule.engagementId, action: 'schedule failed', detail: { schedule: schedule.title, reason: said } })
    }
    await this.#rows.update({ id }, { lastSaid: said })
  }

  /** How often audits are scheduled in an engagement, in days; null where they are not. */
  async everyDays(engagementId: number): Promise<number | null> {
    const audits = (await this.#rows.findBy({ engagementId, paused: false })).filter(({ does }) => does !== 'collect')
    return audits.length === 0 ? null : Math.min(...audits.map(({ cron, zone }) => longestGap(cron, zone, new Date())))
  }

  async close(): Promise<void> {
    for (const id of [...this.#armed.keys()]) this.disarm(id)
    await Promise.allSettled(this.#running)
  }

  #begin(id: number): void {
    const work = this.run(id)
    this.#running.add(work)
    void work.finally(() => this.#running.delete(work))
  }

  async #done({ engagementId, createdBy, does, devices, benchmarks, title }: Schedule): Promise<string> {
    const { collecting, audits, snapshots, benchmarks: shelf } = this.services
    const said: string[] = []
    if (does !== 'audit') {
      const job = await this.#ended(await collecting.start(engagementId, createdBy, devices, `${title}, ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`))
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

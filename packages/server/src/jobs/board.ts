import { EventEmitter } from 'node:events'
import type { DataSource } from 'typeorm'
import { Jobs, type Job, type JobState } from '../db/entities.ts'

export interface JobView {
  readonly id: number
  readonly kind: string
  readonly state: JobState
  readonly done: number
  readonly total: number
  readonly message: string
  readonly params: Record<string, unknown>
  readonly createdAt: string
  readonly finishedAt: string | null
}

/** Long work: what runs, how far it is, and the means to stop it. */
export class JobBoard {
  readonly #events = new EventEmitter().setMaxListeners(0)
  readonly #stops = new Map<number, AbortController>()
  /** Progress is told at once and written down at most this often. */
  readonly #written = new Map<number, number>()

  constructor(readonly database: DataSource) {}

  /** What was running when the server went down did not finish. */
  async markInterrupted(): Promise<void> {
    await this.database.getRepository(Jobs).update({ state: 'running' }, { state: 'interrupted', finishedAt: new Date(), message: 'The server stopped while this was running. Run it again.' })
  }

  async open(job: Pick<Job, 'engagementId' | 'kind' | 'total' | 'params' | 'createdBy' | 'message'>): Promise<{ job: Job; signal: AbortSignal }> {
    const jobs = this.database.getRepository(Jobs)
    const saved = await jobs.save(jobs.create({ ...job, state: 'running', done: 0, createdAt: new Date(), finishedAt: null }))
    const controller = new AbortController()
    this.#stops.set(saved.id, controller)
    this.#tell(saved)
    return { job: saved, signal: controller.signal }
  }

  async progress(job: Job, done: number): Promise<void> {
    job.done = done
    this.#tell(job)
    const now = Date.now()
    if (now - (this.#written.get(job.id) ?? 0) < 500) return
    this.#written.set(job.id, now)
    await this.database.getRepository(Jobs).update({ id: job.id }, { done })
  }

  async finish(job: Job, state: Exclude<JobState, 'running'>, message: string): Promise<void> {
    Object.assign(job, { state, message, finishedAt: new Date() })
    this.#stops.delete(job.id)
    this.#written.delete(job.id)
    await this.database.getRepository(Jobs).save(job)
    this.#tell(job)
  }

  /** Whether there was something to stop. */
  stop(id: number): boolean {
    const controller = this.#stops.get(id)
    controller?.abort()
    return controller !== undefined
  }

  async list(engagementId: number, limit: number): Promise<JobView[]> {
    const jobs = await this.database.getRepository(Jobs).find({ where: { engagementId }, order: { id: 'DESC' }, take: limit })
    return jobs.map(viewOf)
  }

  async find(id: number, engagementId: number): Promise<Job | null> {
    return this.database.getRepository(Jobs).findOneBy({ id, engagementId })
  }

  /** The last work of a kind that came to its end. @param fits whether it is one of those */
  async lastDone(engagementId: number, kind: string, fits: (params: Record<string, unknown>) => boolean = () => true): Promise<Job | null> {
    const jobs = await this.database.getRepository(Jobs).find({ where: { engagementId, kind, state: 'done' }, order: { id: 'DESC' }, take: 50 })
    return jobs.find(({ params }) => fits(params)) ?? null
  }

  /** @returns a function that ends the listening */
  listen(engagementId: number, hear: (job: JobView) => void): () => void {
    const name = String(engagementId)
    this.#events.on(name, hear)
    return () => this.#events.off(name, hear)
  }

  /** How many hear of an engagement's work. */
  listeners(engagementId: number): number {
    return this.#events.listenerCount(String(engagementId))
  }

  #tell(job: Job): void {
    this.#events.emit(String(job.engagementId), viewOf(job))
  }
}

export function viewOf({ id, kind, state, done, total, message, params, createdAt, finishedAt }: Job): JobView {
  return { id, kind, state, done, total, message, params, createdAt: createdAt.toISOString(), finishedAt: finishedAt?.toISOString() ?? null }
}

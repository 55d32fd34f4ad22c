import { EventEmitter, setMaxListeners } from 'node:events'
import type { DataSource } from 'typeorm'
import type { Logger } from 'pino'
import { Jobs, type Job, type JobState } from './entity.ts'
import { Problem } from '../http/problem.ts'
import { OUTAGE_WORDS, outageOf } from '../operation/availability.ts'

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

const WRITE_AGAIN_MS = 1000

/** Long work: what runs, how far it is, and the means to stop it. */
export class JobBoard {
  readonly #events = new EventEmitter().setMaxListeners(0)
  readonly #stops = new Map<number, AbortController>()
  /** Progress is sent at once and stored at most this often. */
  readonly #written = new Map<number, number>()

  /** Ends that could not be written down yet. */
  readonly #unwritten = new Map<number, Job>()
  #writing: NodeJS.Timeout | null = null

  constructor(
    readonly database: DataSource,
    readonly log: Logger,
  ) {}

  close(): void {
    if (this.#writing) clearTimeout(this.#writing)
  }

  /** What was running when the server went down did not finish. */
  async markInterrupted(): Promise<void> {
    await this.database
      .getRepository(Jobs)
      .update(
        { state: 'running' },
        { state: 'interrupted', finishedAt: new Date(), message: 'The server stopped during this job. Run it again.' },
      )
  }

  async open(
    job: Pick<Job, 'engagementId' | 'kind' | 'total' | 'params' | 'createdBy' | 'message'>,
  ): Promise<{ job: Job; signal: AbortSignal }> {
    const jobs = this.database.getRepository(Jobs)
    const saved = await jobs.save(
      jobs.create({ ...job, state: 'running', done: 0, createdAt: new Date(), finishedAt: null }),
    )
    const controller = new AbortController()
    // Each device that is worked on listens for the stop.
    setMaxListeners(0, controller.signal)
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

  /**
   * From here on the result is saved, and the work can no longer be stopped: a stop that was accepted is kept to.
   * @returns whether it may be saved; not where a stop came before
   */
  mayBeSaved(job: Job): boolean {
    if (this.#stops.get(job.id)?.signal.aborted) return false
    this.#stops.delete(job.id)
    return true
  }

  async finish(job: Job, state: Exclude<JobState, 'running'>, message: string): Promise<void> {
    Object.assign(job, { state, message, finishedAt: new Date() })
    this.#stops.delete(job.id)
    this.#written.delete(job.id)
    await this.#write(job)
    this.#tell(job)
  }

  /**
   * Ends work that went wrong: stopped by a person, interrupted by an outage, or failed.
   * @param what the work, as a title begins: `The audit`
   * @param kept what of it is there, in a sentence
   */
  async fail(
    job: Job,
    signal: AbortSignal,
    error: unknown,
    { what, kept }: { readonly what: string; readonly kept: string },
  ): Promise<void> {
    if (signal.aborted) return this.finish(job, 'stopped', `Stopped. ${kept}`)
    const outage = outageOf(error)
    this.log.error(
      {
        job: job.id,
        kind: job.kind,
        outage,
        error: error instanceof Error ? { message: error.message, stack: error.stack } : String(error),
      },
      'job failed',
    )
    if (outage) return this.finish(job, 'interrupted', `${OUTAGE_WORDS[outage]} ${kept}`)
    return this.finish(
      job,
      'failed',
      `${what} failed: ${error instanceof Problem ? error.message : 'see the server log'}. ${kept}`,
    )
  }

  /** During an outage an end is kept until it can be written: by then the work counts as interrupted. */
  async #write(job: Job): Promise<void> {
    try {
      await this.database.getRepository(Jobs).save(job)
      this.#unwritten.delete(job.id)
    } catch (error) {
      if (!outageOf(error)) throw error
      if (job.state === 'done')
        Object.assign(job, {
          state: 'interrupted',
          message: 'The database was unavailable when this ended. Check whether the result exists, or run it again.',
        })
      this.#unwritten.set(job.id, job)
      this.#writing ??= setTimeout(() => void this.#writeAgain(), WRITE_AGAIN_MS).unref()
    }
  }

  async #writeAgain(): Promise<void> {
    this.#writing = null
    for (const job of [...this.#unwritten.values()]) {
      try {
        await this.#write(job)
        this.#tell(job)
      } catch (error) {
        this.#unwritten.delete(job.id)
        this.log.error({ job: job.id, error: String(error) }, 'the end of a job was not written')
      }
    }
  }

  /** Whether there was something to stop. */
  stop(id: number): boolean {
    const controller = this.#stops.get(id)
    controller?.abort()
    return controller !== undefined
  }

  async list(engagementId: number, limit: number): Promise<JobView[]> {
    const jobs = await this.database
      .getRepository(Jobs)
      .find({ where: { engagementId }, order: { id: 'DESC' }, take: limit })
    return jobs.map(viewOf)
  }

  async find(id: number, engagementId: number): Promise<Job | null> {
    return this.database.getRepository(Jobs).findOneBy({ id, engagementId })
  }

  /** The last work of a kind that came to its end. @param fits whether it is one of those */
  async lastDone(
    engagementId: number,
    kind: string,
    fits: (params: Record<string, unknown>) => boolean = () => true,
  ): Promise<Job | null> {
    const jobs = await this.database
      .getRepository(Jobs)
      .find({ where: { engagementId, kind, state: 'done' }, order: { id: 'DESC' }, take: 50 })
    return jobs.find(({ params }) => fits(params)) ?? null
  }

  /** @returns a function that ends the listening */
  listen(engagementId: number, hear: (job: JobView) => void): () => void {
    const name = String(engagementId)
    this.#events.on(name, hear)
    return () => this.#events.off(name, hear)
  }

  /** How many clients listen to the jobs of an engagement. */
  listeners(engagementId: number): number {
    return this.#events.listenerCount(String(engagementId))
  }

  #tell(job: Job): void {
    this.#events.emit(String(job.engagementId), viewOf(job))
  }
}

export function viewOf({ id, kind, state, done, total, message, params, createdAt, finishedAt }: Job): JobView {
  return {
    id,
    kind,
    state,
    done,
    total,
    message,
    params,
    createdAt: createdAt.toISOString(),
    finishedAt: finishedAt?.toISOString() ?? null,
  }
}

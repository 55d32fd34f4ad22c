import { createHash } from 'node:crypto'
import { availableParallelism } from 'node:os'
import { openPool, type RunOptions } from '../jobs/pool.ts'
import type * as Worker from './worker.ts'

type Tasks = typeof Worker
type TaskName = keyof Tasks

/** At least two, so that a device that takes long does not keep all others waiting. */
const THREADS = Math.max(2, availableParallelism() - 1)
/** Tasks that may wait for the thread that knows a device before another thread reads it anew. */
const WORTH_WAITING = 3

/**
 * Worker threads that keep devices read: judging, the estate and the pages of a device ask the same analysis. A device
 * is asked for in the thread that knows it, unless many wait there.
 */
export class AnalysisPool {
  readonly #threads = Array.from({ length: THREADS }, () =>
    openPool(new URL('./worker.ts', import.meta.url), {
      threads: 1,
      idleSeconds: 60,
      // A thread loads one of them when it begins; the others are beside it.
      task: 'auditTask',
      memoryMb: 1024,
      // Judging makes many small things that live for one device: with room for them, few are kept longer than that.
      youngMb: 96,
    }),
  )
  readonly #waiting = this.#threads.map(() => 0)

  get size(): number {
    return THREADS
  }

  /**
   * @param key of the device: the same key is asked in the same thread
   * @param how what ends the thread, and with it all that it keeps
   * @throws TookTooLong
   */
  async run<N extends TaskName>(
    name: N,
    key: string,
    task: Parameters<Tasks[N]>[0],
    how: Pick<RunOptions, 'signal' | 'limitMs'> = {},
  ): Promise<ReturnType<Tasks[N]>> {
    const at = this.#threadFor(key)
    this.#waiting[at] = (this.#waiting[at] ?? 0) + 1
    try {
      return (await this.#threads[at]?.run(task, { name, ...how })) as ReturnType<Tasks[N]>
    } finally {
      this.#waiting[at] = (this.#waiting[at] ?? 1) - 1
    }
  }

  #threadFor(key: string): number {
    const own = createHash('sha1').update(key).digest().readUInt32BE() % THREADS
    const least = this.#waiting.indexOf(Math.min(...this.#waiting))
    return (this.#waiting[own] ?? 0) - (this.#waiting[least] ?? 0) < WORTH_WAITING ? own : least
  }

  async close(): Promise<void> {
    await Promise.all(this.#threads.map(async (thread) => thread.close({ force: true })))
  }
}

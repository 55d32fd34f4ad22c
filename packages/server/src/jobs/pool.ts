import { EventEmitter } from 'node:events'
import { Piscina } from 'piscina'

export interface PoolOptions {
  /** Most threads at a time. */
  readonly threads: number
  /** Seconds after which a thread without work ends. */
  readonly idleSeconds: number
  /** Memory that a thread may take, in MB; beyond it the thread is ended and made anew. */
  readonly memoryMb: number
  /** Of this the part for what lives shortly, in MB. */
  readonly youngMb?: number
  /** The exported function that does the work, where it is not the default one. */
  readonly task?: string
}

export interface RunOptions {
  /** The exported function that does the work, where it is not that of the pool. */
  readonly name?: string
  /** Ends the thread, whether it works or waits. */
  readonly signal?: AbortSignal
  /** Milliseconds that the work may take, from its begin; beyond them the thread is ended and made anew. */
  readonly limitMs?: number
}

/** Work that was ended at its limit. */
export class TookTooLong extends Error {
  constructor(readonly limitMs: number) {
    super(`The work took more than ${limitMs} ms and was stopped.`)
  }
}

/** Whether the sources run as they are, through a loader; else as compiled. */
const FROM_SOURCE = import.meta.url.endsWith('.ts')

/** All that are open, for the figures of the server. */
export const pools = new Set<Piscina<never, unknown>>()

/** Faults of threads outside of any task: they are logged. */
export const poolFaults = new EventEmitter<{ fault: [unknown] }>()

/**
 * The pool of the library keeps tasks in its queue for ever where a worker cannot be loaded, or where a thread ends
 * while others wait. Here a task is handed over when a thread is free for it, so that nothing waits in that queue; and
 * where a worker cannot be loaded, that is what each task gets for an answer.
 */
export class WorkerPool<Task, Answer> extends Piscina<Task, Answer> {
  /** Threads without a task. */
  #free: number
  /** Called in turn, each when a thread is free for it. */
  readonly #waiting = new Set<() => void>()
  #fault: unknown = null

  constructor(options: NonNullable<ConstructorParameters<typeof Piscina>[0]>, threads: number) {
    super(options)
    this.#free = threads
    // An `error` event without a listener would end the process.
    this.on('error', (error) => {
      poolFaults.emit('fault', error)
      if (super.queueSize === 0 || this.threads.length > 0) return
      this.#fault = error
      void this.destroy()
    })
  }

  override get queueSize(): number {
    return super.queueSize + this.#waiting.size
  }

  /** @throws TookTooLong where the work itself does; waiting for a thread does not count */
  override async run(task: Task, { name, signal, limitMs }: RunOptions = {}): Promise<Answer> {
    await this.#turn(signal ?? null)
    const ending = signal || limitMs !== undefined ? new AbortController() : null
    const stop = (): void => ending?.abort()
    const state = { late: false }
    const atLimit = (): void => {
      state.late = true
      stop()
    }
    const timer = limitMs === undefined ? undefined : setTimeout(atLimit, limitMs)
    signal?.addEventListener('abort', stop)
    if (signal?.aborted) stop()
    try {
      if (this.#fault !== null) throw this.#fault
      return await super.run(task, {
        ...(name === undefined ? {} : { name }),
        ...(ending ? { signal: ending.signal } : {}),
      })
    } catch (error) {
      throw state.late ? new TookTooLong(limitMs ?? 0) : (this.#fault ?? error)
    } finally {
      clearTimeout(timer)
      signal?.removeEventListener('abort', stop)
      this.#passOn()
    }
  }

  async #turn(signal: AbortSignal | null): Promise<void> {
    if (this.#free > 0) {
      this.#free--
      return
    }
    await new Promise<void>((resolve, reject) => {
      const begin = (): void => {
        signal?.removeEventListener('abort', stop)
        resolve()
      }
      const stop = (): void => {
        this.#waiting.delete(begin)
        reject(new DOMException('The task was stopped before it began.', 'AbortError'))
      }
      this.#waiting.add(begin)
      if (signal?.aborted === true) stop()
      else signal?.addEventListener('abort', stop, { once: true })
    })
  }

  /** Gives the thread to the task that has waited longest. */
  #passOn(): void {
    const [next] = this.#waiting
    if (!next) this.#free++
    else {
      this.#waiting.delete(next)
      next()
    }
  }
}

/**
 * Worker threads for one kind of work.
 * @param file the worker, with a default export, as `new URL('./worker.ts', import.meta.url)`
 */
export function openPool<Task, Answer>(file: URL, options: PoolOptions): WorkerPool<Task, Answer> {
  const { threads, idleSeconds, memoryMb, youngMb, task } = options
  const settings = {
    filename: FROM_SOURCE ? file.href : file.href.replace(/\.ts$/, '.js'),
    ...(task === undefined ? {} : { name: task }),
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: idleSeconds * 1000,
    resourceLimits: {
      maxOldGenerationSizeMb: memoryMb,
      ...(youngMb === undefined ? {} : { maxYoungGenerationSizeMb: youngMb }),
    },
  }
  const pool = new WorkerPool<Task, Answer>(settings, threads)
  pools.add(pool)
  pool.once('close', () => pools.delete(pool))
  return pool
}

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

/** Whether the sources run as they are, through a loader; else as compiled. */
const FROM_SOURCE = import.meta.url.endsWith('.ts')

/** All that are open, for the figures of the server. */
export const pools = new Set<Piscina<never, unknown>>()

/** Faults of threads outside of any task: they are logged. */
export const poolFaults = new EventEmitter<{ fault: [unknown] }>()

/**
 * Worker threads for one kind of work.
 * @param file the worker, with a default export, as `new URL('./worker.ts', import.meta.url)`
 */
export function openPool<Task, Answer>(file: URL, options: PoolOptions): Piscina<Task, Answer> {
  const { threads, idleSeconds, memoryMb, youngMb, task } = options
  const pool = new Piscina<Task, Answer>({
    filename: FROM_SOURCE ? file.href : file.href.replace(/\.ts$/, '.js'),
    ...(FROM_SOURCE ? { execArgv: ['--import', 'tsx'] } : {}),
    ...(task === undefined ? {} : { name: task }),
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: idleSeconds * 1000,
    resourceLimits: {
      maxOldGenerationSizeMb: memoryMb,
      ...(youngMb === undefined ? {} : { maxYoungGenerationSizeMb: youngMb }),
    },
  })
  // An `error` that nobody hears ends the process; whoever waits for a task is told of its own.
  pool.on('error', (error) => poolFaults.emit('fault', error))
  pools.add(pool)
  pool.once('close', () => pools.delete(pool))
  return pool
}

import { monitorEventLoopDelay, type IntervalHistogram } from 'node:perf_hooks'
import { Counter, Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client'
import type { DataSource } from 'typeorm'
import { pools } from '../jobs/pool.ts'
import { Jobs } from '../jobs/entity.ts'
import type { FreeSpace } from './availability.ts'

/** From this on the main thread's delay counts as a block: people notice it. In milliseconds. */
export const LONG_BLOCK_MS = 250

const LOOK_MS = 1000

/**
 * Figures of a running server, in the text format of Prometheus (OpenMetrics). They name no device, person or
 * engagement.
 */
export class Metrics {
  readonly registry = new Registry()
  readonly requests = new Histogram({
    name: 'jurybox_http_request_seconds',
    help: 'Time until a request is answered',
    labelNames: ['method', 'route', 'status'],
    buckets: [0.005, 0.025, 0.1, 0.25, 1, 2.5, 10, 60],
    registers: [this.registry],
  })
  readonly longBlocks = new Counter({
    name: 'jurybox_long_blocks_total',
    help: `Times that the main thread did nothing else for more than ${LONG_BLOCK_MS} ms`,
    registers: [this.registry],
  })
  readonly databaseRestarts = new Counter({
    name: 'jurybox_database_restarts_total',
    help: 'Times that the database ended unasked',
    registers: [this.registry],
  })
  readonly #delay: IntervalHistogram = monitorEventLoopDelay({ resolution: 20 })
  readonly #looking: NodeJS.Timeout
  /** Longest delay of the main thread so far, in milliseconds. */
  longestBlock = 0

  constructor(database: DataSource, space: FreeSpace) {
    collectDefaultMetrics({ register: this.registry })
    const gauge = (name: string, help: string, collect: (gauge: Gauge) => Promise<void> | void): void => {
      new Gauge({
        name,
        help,
        registers: [this.registry],
        collect(this: Gauge) {
          return collect(this)
        },
      })
    }
    gauge('jurybox_worker_threads', 'Threads that do heavy work', (it) =>
      it.set(sumOf(({ threads }) => threads.length)),
    )
    gauge('jurybox_worker_tasks_waiting', 'Tasks that wait for a thread', (it) =>
      it.set(sumOf(({ queueSize }) => queueSize)),
    )
    gauge('jurybox_free_disk_megabytes', 'Room where the data lie', async (it) => it.set(await space.mb()))
    gauge('jurybox_jobs_running', 'Long work that runs', async (it) => {
      // The database may be away: the other figures are told all the same.
      it.set(
        await database
          .getRepository(Jobs)
          .countBy({ state: 'running' })
          .catch(() => Number.NaN),
      )
    })
    this.#delay.enable()
    this.#looking = setInterval(() => this.#look(), LOOK_MS).unref()
  }

  #look(): void {
    const longest = this.#delay.max / 1e6
    this.#delay.reset()
    if (longest > LONG_BLOCK_MS) this.longBlocks.inc()
    this.longestBlock = Math.max(this.longestBlock, longest)
  }

  close(): void {
    clearInterval(this.#looking)
    this.#delay.disable()
    this.registry.clear()
  }
}

function sumOf(count: (pool: { readonly threads: readonly unknown[]; readonly queueSize: number }) => number): number {
  return [...pools].reduce((sum, pool) => sum + count(pool), 0)
}

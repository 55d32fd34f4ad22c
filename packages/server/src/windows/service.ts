import type { WindowState } from '@jurybox/api/windows'
import type { CheckResult } from '@jurybox/core/checks'
import type { Logger } from 'pino'
import { In, type DataSource } from 'typeorm'
import type { ActivityLog } from '../activity/activity.ts'
import type { User } from '../auth/entity.ts'
import { checkShelf, chosenChecks, runChecks, type CheckedDevice, type Needs as CheckNeeds } from '../changes/checks.ts'
import type { DeviceChange } from '../changes/service.ts'
import type { CollectService } from '../collect/service.ts'
import { StillReading } from '../estate/still-reading.ts'
import { Problem } from '../http/problem.ts'
import type { JobBoard } from '../jobs/board.ts'
import type { Job } from '../jobs/entity.ts'
import type { SnapshotRow } from '../snapshots/entity.ts'
import type { SnapshotService } from '../snapshots/service.ts'
import { ChangeWindows, type ChangeWindow } from './entity.ts'

/** What is needed of the rest of the server. */
export interface Needs extends CheckNeeds {
  readonly activity: ActivityLog
  readonly collecting: CollectService
  readonly database: DataSource
  readonly jobs: JobBoard
  readonly log: Logger
  readonly snapshots: SnapshotService
}

/** The results of a window. */
export interface WindowResults {
  /** Of the planned devices that both snapshots have. */
  readonly changes: readonly DeviceChange[]
  /** Devices with another configuration that it does not plan. */
  readonly unplanned: readonly DeviceChange[]
  readonly checked: readonly CheckedDevice[]
  /** Seconds after the change in which each check may still settle. */
  readonly settles: ReadonlyMap<string, number>
}

/** A timer may not be set further ahead. */
const LONGEST_TIMER = 2 ** 31 - 1
const OBJECTED: ReadonlySet<string> = new Set(['fail', 'unknown', 'error'])

/**
 * Change windows: collected before at their begin and after at their end, checked until their checks are steady. What
 * was missed while the server was down is done once it is up.
 */
export class WindowService {
  readonly #timers = new Map<number, NodeJS.Timeout>()
  readonly #running = new Set<Promise<void>>()
  /** Milliseconds between two collections of a window that settles; for tests less. */
  again = 60_000
  readonly #stop = new AbortController()
  #closed = false

  constructor(readonly services: Needs) {}

  /** At the start of the server. */
  async open(): Promise<void> {
    // What was being collected when the server stopped is collected anew.
    await this.#rows.update({ state: 'before' }, { state: 'planned' })
    await this.#rows.update({ state: 'after' }, { state: 'open' })
    for (const window of await this.#rows.findBy({ state: In(['planned', 'open', 'settling']) })) this.arm(window)
  }

  async list(engagementId: number): Promise<ChangeWindow[]> {
    return this.#rows.find({ where: { engagementId }, order: { beginsAt: 'DESC', id: 'DESC' } })
  }

  /** @throws Problem where the engagement has no such window */
  async find(id: number, engagementId: number): Promise<ChangeWindow> {
    const window = await this.#rows.findOneBy({ id, engagementId })
    if (!window) throw new Problem(404, 'There is no such window in this engagement.')
    return window
  }

  async add(
    engagementId: number,
    plan: Pick<ChangeWindow, 'title' | 'reason' | 'beginsAt' | 'endsAt' | 'devices' | 'checks'>,
    user: User,
  ): Promise<ChangeWindow> {
    if (plan.checks !== null) chosenChecks(await checkShelf(this.services.changes, engagementId), { set: plan.checks })
    const window = await this.#rows.save(
      this.#rows.create({
        ...plan,
        engagementId,
        state: 'planned',
        beforeId: null,
        afterId: null,
        problem: '',
        createdBy: user.id,
        createdByName: user.fullName,
        createdAt: new Date(),
        changedAt: null,
      }),
    )
    this.arm(window)
    return window
  }

  /** Waits for the next time of a window. */
  arm({ id, state, beginsAt, endsAt }: ChangeWindow): void {
    clearTimeout(this.#timers.get(id))
    const next: Partial<Record<WindowState, () => Promise<void>>> = {
      planned: async () => this.begin(id),
      open: async () => this.end(id),
      settling: async () => this.end(id),
    }
    const work = next[state]
    if (!work || this.#closed) return
    const due = state === 'planned' ? beginsAt.getTime() : state === 'open' ? endsAt.getTime() : Date.now() + this.again
    const wait = Math.min(Math.max(0, due - Date.now()), LONGEST_TIMER)
    const timer = setTimeout(() => this.soon(async () => (due > Date.now() ? this.#rearm(id) : work())), wait)
    this.#timers.set(id, timer.unref())
  }

  async #rearm(id: number): Promise<void> {
    const window = await this.#rows.findOneBy({ id })
    if (window) this.arm(window)
  }

  /** Does something that whoever asks does not wait for. */
  soon(work: () => Promise<void>): void {
    const running = work().catch((error: unknown) =>
      this.services.log.error({ error: String(error) }, 'a change window went wrong'),
    )
    this.#running.add(running)
    void running.finally(() => this.#running.delete(running))
  }

  /** Collects the planned devices as they are before the change. */
  async begin(id: number): Promise<void> {
    await this.#collected(
      id,
      ['planned'],
      'before',
      async ({ devices }) => ({ names: devices, problem: '' }),
      async (window, snapshotId) => this.#set(window, { state: 'open', beforeId: snapshotId }),
    )
  }

  /** Collects them as they are after it, and again until the checks are steady. */
  async end(id: number): Promise<void> {
    const from: WindowState[] = ['open', 'settling', 'closed']
    await this.#collected(
      id,
      from,
      'after',
      async (window) => this.#alsoChanged(window),
      async (window, snapshotId) => {
        const changedAt = window.changedAt ?? new Date()
        const done = { ...window, afterId: snapshotId, changedAt }
        const pending = this.#closed ? false : await this.#isPending(done)
        await this.#set(window, { state: pending ? 'settling' : 'closed', afterId: snapshotId, changedAt })
      },
    )
  }

  /** The planned devices, and all others whose configuration is not what it was: what changed elsewhere is named. */
  async #alsoChanged({ engagementId, devices }: ChangeWindow): Promise<{ names: string[]; problem: string }> {
    const { changed, missing } = await this.services.collecting.look(engagementId, null, this.#stop.signal)
    const unseen = missing.filter((name) => !devices.includes(name))
    return {
      names: [...new Set([...devices, ...changed])],
      problem: unseen.length === 0 ? '' : `Not reached: ${unseen.join(', ')}. Changes there are unknown.`,
    }
  }

  /** Chooses snapshots that were taken some other way. */
  async choose(window: ChangeWindow, before: SnapshotRow | null, after: SnapshotRow | null): Promise<void> {
    const state: WindowState = after ? 'closed' : before ? 'open' : 'planned'
    await this.#set(window, {
      beforeId: before?.id ?? null,
      afterId: after?.id ?? null,
      state,
      problem: '',
      changedAt: after ? (window.changedAt ?? after.takenAt) : null,
    })
  }

  async cancel(window: ChangeWindow): Promise<void> {
    clearTimeout(this.#timers.get(window.id))
    await this.#set(window, { state: 'cancelled' })
  }

  /** One step of the collection, with the job that does it; what goes wrong is kept with the window. */
  async #collected(
    id: number,
    from: readonly WindowState[],
    state: 'before' | 'after',
    whom: (window: ChangeWindow) => Promise<{ readonly names: readonly string[]; readonly problem: string }>,
    done: (window: ChangeWindow, snapshotId: number) => Promise<void>,
  ): Promise<void> {
    const window = await this.#rows.findOneBy({ id })
    if (!window || !from.includes(window.state)) return
    const was = window.state
    await this.#set(window, { state })
    try {
      const { collecting } = this.services
      const { names, problem } = await whom(window)
      const job = await this.#ended(
        await collecting.start(
          window.engagementId,
          window.createdBy,
          names,
          state === 'before' ? `Before: ${window.title}` : `After: ${window.title}`,
        ),
      )
      const snapshotId = job.params['snapshotId']
      if (job.state !== 'done' || typeof snapshotId !== 'number') throw new Problem(422, job.message)
      await done(Object.assign(window, { problem }), snapshotId)
      await this.#rows.update({ id }, { problem })
    } catch (error) {
      this.services.log.warn({ window: id, error: String(error) }, 'a window was not collected')
      await this.#set(window, {
        state: was,
        problem: error instanceof Problem ? error.message : 'The collection failed. The server log has the details.',
      })
      clearTimeout(this.#timers.get(id))
    }
  }

  async #set(window: ChangeWindow, change: Partial<ChangeWindow>): Promise<void> {
    await this.#rows.update({ id: window.id }, change)
    Object.assign(window, change)
    this.arm(window)
  }

  /** The job as it is when it has ended. */
  async #ended({ id, engagementId }: Job): Promise<Job> {
    for (;;) {
      const job = await this.services.jobs.find(id, engagementId)
      if (!job) throw new Error('the job no longer exists')
      if (job.state !== 'running') return job
      if (this.#closed) throw new Problem(503, 'The server is shutting down.')
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
  }

  async #isPending(window: ChangeWindow): Promise<boolean> {
    for (;;) {
      try {
        const results = await this.results(window)
        return (
          results !== null &&
          results.checked.some(({ results: own }) => own.some((one) => isPending(one, window, results.settles)))
        )
      } catch (error) {
        if (!(error instanceof StillReading) || this.#closed) throw error
      }
    }
  }

  /** The results of a window; null while it lacks a snapshot. @throws StillReading */
  async results(window: ChangeWindow, patience?: number): Promise<WindowResults | null> {
    const { snapshots, changes } = this.services
    if (window.beforeId === null || window.afterId === null) return null
    const a = await snapshots.find(window.beforeId, window.engagementId)
    const b = await snapshots.find(window.afterId, window.engagementId)
    const all = await changes.between(a, b, patience)
    const planned = new Set(window.devices)
    const checks =
      window.checks === null ? [] : chosenChecks(await checkShelf(changes, window.engagementId), { set: window.checks })
    return {
      changes: all.filter(({ device }) => planned.has(device.name)),
      unplanned: all.filter(
        ({ device, configured, standing }) =>
          !planned.has(device.name) && (configured || ['added', 'removed', 'unreadable'].includes(standing)),
      ),
      checked: checks.length === 0 ? [] : await runChecks(this.services, a, b, checks, window.devices, patience),
      settles: new Map(checks.flatMap(({ id, settles }) => (settles === undefined ? [] : [[id, settles] as const]))),
    }
  }

  async close(): Promise<void> {
    this.#closed = true
    this.#stop.abort()
    for (const timer of this.#timers.values()) clearTimeout(timer)
    await Promise.allSettled(this.#running)
  }

  get #rows() {
    return this.services.database.getRepository(ChangeWindows)
  }
}

/** Whether a check is objected to and may still settle. */
export function isPending(
  { check, outcome }: CheckResult,
  { changedAt, state }: Pick<ChangeWindow, 'changedAt' | 'state'>,
  settles: ReadonlyMap<string, number>,
  now = Date.now(),
): boolean {
  const seconds = settles.get(check)
  return (
    state !== 'closed' &&
    seconds !== undefined &&
    changedAt !== null &&
    OBJECTED.has(outcome) &&
    now < changedAt.getTime() + seconds * 1000
  )
}

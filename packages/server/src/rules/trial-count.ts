import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'
import type { ActivityLog } from '../activity/activity.ts'
import { Problem } from '../http/problem.ts'

/** Trials of one person in a minute: more than anybody types. */
export const TRIALS_A_MINUTE = 240
const MINUTE_MS = 60_000

interface Counted {
  trials: number
  since: number
}

/** Counts the trials of rules: each minute of them is one entry of the audit log. */
export class TrialCount {
  readonly #limit = new RateLimiterMemory({ points: TRIALS_A_MINUTE, duration: 60 })
  readonly #counted = new Map<string, Counted>()

  constructor(readonly activity: ActivityLog) {}

  /** @throws Problem where there are too many */
  async count(userId: number, engagementId: number, benchmark: string, now = Date.now()): Promise<void> {
    try {
      await this.#limit.consume(userId)
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error
      throw new Problem(429, `More than ${TRIALS_A_MINUTE} trials in a minute. Wait a moment.`)
    }
    const key = `${userId} ${engagementId} ${benchmark}`
    const counted = this.#counted.get(key)
    if (counted && now - counted.since < MINUTE_MS) {
      counted.trials++
      return
    }
    // The first is written at once; those of a minute come with the next one after it.
    const before = counted?.trials ?? 0
    this.#counted.set(key, { trials: 0, since: now })
    await this.activity.add({ userId, engagementId, action: 'rules tried', detail: { benchmark, more: before } })
  }
}

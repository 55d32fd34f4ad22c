import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'
import { Problem } from '../http/problem.ts'

/** Wrong passwords or codes for one account in a quarter of an hour. */
export const MOST_FAILED_LOGINS = 10
const WINDOW_SECONDS = 15 * 60
/** How long an address from which somebody signed in counts as theirs. */
const KNOWN_SECONDS = 20 * 24 * 3600

/**
 * Counts failed logins of each account. Attempts from other addresses do not lock out the owner: addresses from which
 * the account was signed in to are counted apart.
 */
export class LoginAttempts {
  readonly #wrong = new RateLimiterMemory({ points: MOST_FAILED_LOGINS, duration: WINDOW_SECONDS })
  readonly #known = new RateLimiterMemory({ points: 1_000_000, duration: KNOWN_SECONDS })

  /** @throws Problem where there were too many */
  async require(name: string, address: string): Promise<void> {
    const spent = await this.#wrong.get(await this.#keyOf(name, address))
    if (spent && spent.consumedPoints >= MOST_FAILED_LOGINS) {
      const minutes = Math.ceil(spent.msBeforeNext / 60_000)
      throw new Problem(
        429,
        `Too many wrong attempts for this account. Try again in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}.`,
      )
    }
  }

  async wrong(name: string, address: string): Promise<void> {
    try {
      await this.#wrong.consume(await this.#keyOf(name, address))
    } catch (error) {
      // Beyond the limit; `require` reports it.
      if (!(error instanceof RateLimiterRes)) throw error
    }
  }

  async right(name: string, address: string): Promise<void> {
    await this.#wrong.delete(await this.#keyOf(name, address))
    await this.#known.consume(`${name}\n${address}`)
  }

  async #keyOf(name: string, address: string): Promise<string> {
    const known = await this.#known.get(`${name}\n${address}`)
    return known ? `${name}\n${address}` : name
  }
}

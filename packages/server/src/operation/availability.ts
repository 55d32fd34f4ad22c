import { statfs } from 'node:fs/promises'
import { Problem } from '../http/problem.ts'

/** Codes by which the database, or the system below it, says that it cannot be worked with at present. */
const AWAY: ReadonlySet<string> = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'ENOENT',
  'PROTOCOL_CONNECTION_LOST',
  'PROTOCOL_ENQUEUE_AFTER_FATAL_ERROR',
  'PROTOCOL_ENQUEUE_AFTER_QUIT',
  'ER_SERVER_SHUTDOWN',
  'ER_CONNECTION_KILLED',
  'ER_CON_COUNT_ERROR',
  'ER_NEW_ABORTING_CONNECTION',
])
const FULL: ReadonlySet<string> = new Set([
  'ENOSPC',
  'EDQUOT',
  'ER_DISK_FULL',
  'ER_RECORD_FILE_FULL',
  'ER_ERROR_ON_WRITE',
])

export type Outage = 'database-away' | 'disk-full'

/** What keeps the server from working, where it is this that an error tells of; null for any other error. */
export function outageOf(error: unknown): Outage | null {
  if (!(error instanceof Error)) return null
  const codes = [error, 'driverError' in error ? error.driverError : null].flatMap((one) =>
    one instanceof Error && 'code' in one ? [String(one.code)] : [],
  )
  if (codes.some((code) => FULL.has(code))) return 'disk-full'
  // Only of the database: a device or a mail server that refuses is another matter.
  const ofDatabase =
    'driverError' in error ||
    ('fatal' in error && error.fatal === true) ||
    codes.some((code) => /^(?:PROTOCOL|ER)_/.test(code))
  return ofDatabase && codes.some((code) => AWAY.has(code)) ? 'database-away' : null
}

export const OUTAGE_WORDS: Readonly<Record<Outage, string>> = {
  'database-away': 'The database does not answer. The server reconnects automatically. Try again in a moment.',
  'disk-full': 'The disk of the server is full. Free some space; the server then continues.',
}

/** Free space below which nothing is imported: the database needs some to work at all. */
export const RESERVE_MB = 64

const LOOK_AGAIN_MS = 2000

/** How much room is left where the data lie. */
export class FreeSpace {
  #looked = 0
  #mb = Number.POSITIVE_INFINITY

  constructor(readonly folder: string) {}

  /** In MB; read from the system at most every two seconds. */
  async mb(now = Date.now()): Promise<number> {
    if (now - this.#looked >= LOOK_AGAIN_MS) {
      this.#looked = now
      const { bavail, bsize } = await statfs(this.folder)
      this.#mb = Math.floor((bavail * bsize) / 1_048_576)
    }
    return this.#mb
  }

  /** @throws Problem where nothing more can be kept */
  async require(): Promise<void> {
    if ((await this.mb()) < RESERVE_MB) throw new Problem(503, OUTAGE_WORDS['disk-full'])
  }
}

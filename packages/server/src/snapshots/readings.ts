import { grouped } from '@jurybox/core/syntax'
import type { AnalysisPool } from '../analysis/pool.ts'
import { In, Not, type DataSource } from 'typeorm'
import { Devices } from '../estate/entity.ts'
import { Records } from './entity.ts'
import { intactText } from './damage.ts'
import type { RecordStore } from './records.ts'
import type { Reading } from './reading-task.ts'

/** A record that is read: of a device of one dialect. */
export interface ReadingRecord {
  readonly kind: string
  readonly dialect: string
  readonly sha256: string
  readonly text: string
}

/** Devices that are read again at a time. */
const AT_ONCE = 20

/** Counts the unparsed lines of records in worker threads; the same content is read once by each build. */
export class Readings {
  #again: Promise<void> = Promise.resolve()
  #closed = false

  constructor(
    readonly database: DataSource,
    readonly records: RecordStore,
    readonly build: string,
    readonly analyses: AnalysisPool,
  ) {}

  /** The readings of devices, each in the order of its records. */
  async of(
    devices: readonly { readonly dialect: string; readonly records: readonly ReadingRecord[] }[],
  ): Promise<Reading[][]> {
    const hashes = devices.flatMap(({ records }) => records.map(({ sha256 }) => sha256))
    const rows =
      hashes.length === 0
        ? []
        : await this.database
            .getRepository(Records)
            .find({
              where: { sha256: In([...new Set(hashes)]), readBy: this.build },
              select: { id: true, kind: true, sha256: true, dialect: true, unread: true, settled: true },
            })
    const known = new Map(rows.map((row) => [keyOf(row), { unread: row.unread, settled: row.settled }]))
    return Promise.all(
      devices.map(async ({ dialect, records }) => {
        const remembered = records.map((record) => known.get(keyOf(record)))
        return remembered.every((reading) => reading !== undefined) ? remembered : this.#read(dialect, records)
      }),
    )
  }

  async #read(dialect: string, records: readonly ReadingRecord[]): Promise<Reading[]> {
    return this.analyses.run('readingTask', records[0]?.sha256 ?? '', {
      dialect,
      maskKey: null,
      records: records.map(({ kind, dialect: own, text }, i) => ({
        id: String(i),
        kind,
        dialect: own,
        text,
        takenAt: null,
      })),
    })
  }

  /** At the start of a server: what another build counted is counted again, while others are answered. */
  begin(failed: (error: unknown) => void): void {
    this.#again = this.readAgain().catch((error: unknown) => {
      if (!this.#closed) failed(error)
    })
  }

  /** When nothing is left that another build counted. */
  async settled(): Promise<void> {
    await this.#again
  }

  /** Reads again what another build read: all records that came of a device at one time together. */
  async readAgain(): Promise<void> {
    const rows = this.database.getRepository(Records)
    const stale = await rows.find({
      where: { readBy: Not(this.build) },
      select: { id: true, deviceId: true, kind: true, sha256: true, dialect: true, createdAt: true },
    })
    const dialects = new Map(
      (stale.length === 0
        ? []
        : await this.database.getRepository(Devices).find({ select: { id: true, dialect: true } })
      ).map(({ id, dialect }) => [id, dialect]),
    )
    const together = [
      ...grouped(stale, ({ deviceId, createdAt }) => `${deviceId} ${createdAt.getTime()}`).values(),
    ].map((records) => ({ dialect: dialects.get(records[0]?.deviceId ?? 0) ?? '', records }))
    for (let from = 0; from < together.length && !this.#closed; from += AT_ONCE) {
      const all = together.slice(from, from + AT_ONCE)
      const texts = await this.records.texts(all.flatMap(({ records }) => records.map(({ sha256 }) => sha256)))
      // Damaged records are not read; they are reported wherever they are asked for.
      const some = all.filter(({ records }) => records.every(({ sha256 }) => texts.has(sha256)))
      const readings = await this.of(
        some.map(({ dialect, records }) => ({
          dialect,
          records: records.map((record) => ({ ...record, text: intactText(texts, record) })),
        })),
      )
      for (const [i, { records }] of some.entries()) {
        for (const [at, { id }] of records.entries())
          await rows.update({ id }, { ...readings[i]?.[at], readBy: this.build })
      }
    }
  }

  async close(): Promise<void> {
    this.#closed = true
    await this.#again
  }
}

/** The same content of the same kind in the same dialect reads the same. */
function keyOf({ sha256, dialect, kind }: Pick<ReadingRecord, 'sha256' | 'dialect' | 'kind'>): string {
  return `${sha256} ${dialect} ${kind}`
}

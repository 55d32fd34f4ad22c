import { isSigned, logHeadMessage, type SignedLogHead } from '@jurybox/core/evidence'
import { Cron } from 'croner'
import type { Logger } from 'pino'
import { IsNull, LessThan, Not, type DataSource } from 'typeorm'
import { Activities } from '../activity/entity.ts'
import { LogHeads, SigningKeys } from './entity.ts'
import type { SigningKeyRing } from './keys.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly database: DataSource
  readonly log: Logger
}

/** Heads of the audit log, one for each day, signed with the key of each engagement that has one. */
export class LogHeadService {
  #daily: Cron | null = null

  constructor(
    readonly services: Needs,
    readonly keys: SigningKeyRing,
  ) {}

  open(): void {
    this.#daily = new Cron(
      '7 0 * * *',
      { timezone: 'UTC', unref: true },
      () =>
        void this.signAll().catch((error: unknown) =>
          this.services.log.error({ err: error }, 'the head of the audit log was not signed'),
        ),
    )
  }

  close(): void {
    this.#daily?.stop()
  }

  async signAll(now = new Date()): Promise<void> {
    const keys = await this.services.database.getRepository(SigningKeys).findBy({ engagementId: Not(IsNull()) })
    for (const { engagementId } of keys) if (engagementId !== null) await this.sign(engagementId, now)
  }

  /** Signs the head of the last day that has ended, where it is not signed yet; a day without an entry has none. */
  async sign(engagementId: number, now = new Date()): Promise<void> {
    const midnight = new Date(`${now.toISOString().slice(0, 10)}T00:00:00Z`)
    const [last] = await this.services.database
      .getRepository(Activities)
      .find({ where: { at: LessThan(midnight) }, order: { id: 'DESC' }, take: 1 })
    if (!last) return
    const head = { day: last.at.toISOString().slice(0, 10), entry: last.id, hash: last.hash }
    if (await this.#rows.existsBy({ engagementId, day: head.day })) return
    const { sign } = await this.keys.signer({ engagementId })
    const signature = Buffer.from(sign(logHeadMessage(head))).toString('base64')
    await this.#rows
      .createQueryBuilder()
      .insert()
      .values({ engagementId, ...head, signature })
      .orIgnore()
      .execute()
  }

  /** In the order of the days. */
  async of(engagementId: number): Promise<SignedLogHead[]> {
    const rows = await this.#rows.find({ where: { engagementId }, order: { day: 'ASC' } })
    return rows.map(({ day, entry, hash, signature }) => ({ day, entry, hash, signature }))
  }

  /** Each with whether its signature holds and the entry still has that hash, the newest first. */
  async checked(engagementId: number): Promise<(Omit<SignedLogHead, 'signature'> & { holds: boolean })[]> {
    const key = await this.keys.publicKey({ engagementId })
    const entries = this.services.database.getRepository(Activities)
    const heads: (Omit<SignedLogHead, 'signature'> & { holds: boolean })[] = []
    for (const { signature, ...head } of (await this.of(engagementId)).toReversed()) {
      const isOurs =
        key !== null && isSigned(logHeadMessage(head), new Uint8Array(Buffer.from(signature, 'base64')), bytesOf(key))
      heads.push({ ...head, holds: isOurs && (await entries.existsBy({ id: head.entry, hash: head.hash })) })
    }
    return heads
  }

  get #rows() {
    return this.services.database.getRepository(LogHeads)
  }
}

const bytesOf = (base64: string): Uint8Array => new Uint8Array(Buffer.from(base64, 'base64'))

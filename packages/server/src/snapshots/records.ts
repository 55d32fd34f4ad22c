import type { Logger } from 'pino'
import { In, type DataSource, type EntityManager } from 'typeorm'
import type { TaskRecord } from '../analysis/task-records.ts'
import { fingerprintWithKey } from '@jurybox/core'
import { decodeText, type Fingerprint } from '@jurybox/core/syntax'
import { Contents, type StoredRecord } from './entity.ts'
import { Engagements } from '../engagements/entity.ts'
import { DamagedContent, intactText } from './damage.ts'
import type { Workbench } from '../outside/workbench.ts'
import type { Vault } from '../vault/vault.ts'

/** Immutable records: each content once under its SHA-256, sealed. */
export class RecordStore {
  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
    readonly outside: Workbench,
    readonly log: Logger,
  ) {}

  /** Stores contents that are not there yet; one that is there and damaged is made good. */
  async keep(manager: EntityManager, contents: ReadonlyMap<string, Uint8Array>): Promise<void> {
    for (const [hash, bytes] of contents) {
      const known = await manager.findOneBy(Contents, { sha256: hash })
      // Two people may bring the same in at once.
      if (!known)
        await manager
          .createQueryBuilder()
          .insert()
          .into(Contents)
          .values({ sha256: hash, size: bytes.length, body: this.vault.seal(bytes, hash) })
          .orIgnore()
          .execute()
      else if (!this.#opened(hash, known.body))
        await manager.update(Contents, { sha256: hash }, { body: this.vault.seal(bytes, hash) })
    }
  }

  /** A content as it was imported. @throws DamagedContent */
  async bytes(hash: string): Promise<Uint8Array> {
    const found = await this.database.getRepository(Contents).findOneBy({ sha256: hash })
    const bytes = found && this.#opened(hash, found.body)
    if (!bytes) throw new DamagedContent({ sha256: hash })
    return bytes
  }

  /** Texts by SHA-256, as decoded on import. One that is missing or damaged has none: see `intactText`. */
  async texts(hashes: readonly string[]): Promise<Map<string, string>> {
    const found = await this.database.getRepository(Contents).findBy({ sha256: In([...new Set(hashes)]) })
    return new Map(
      found.flatMap(({ sha256: hash, body }) => {
        const bytes = this.#opened(hash, body)
        const decoded = bytes && decodeText(bytes)
        // Only texts that decode were imported.
        return decoded?.ok ? [[hash, decoded.text] as const] : []
      }),
    )
  }

  /** Null where it is not what was sealed. */
  #opened(hash: string, body: Buffer): Buffer | null {
    try {
      return this.vault.unseal(body, hash)
    } catch (error) {
      this.log.error({ content: hash, error: String(error) }, 'a content is damaged')
      return null
    }
  }

  /** Records of one device as worker threads take them. @throws DamagedContent */
  async asTasks(
    records: readonly Pick<StoredRecord, 'id' | 'kind' | 'sha256' | 'dialect' | 'takenAt'>[],
  ): Promise<TaskRecord[]> {
    const texts = await this.texts(records.map(({ sha256 }) => sha256))
    return records.map((record) => {
      const { id, kind, dialect, takenAt } = record
      return { id: String(id), kind, dialect, text: intactText(texts, record), takenAt: takenAt?.toISOString() ?? null }
    })
  }

  /** What tells the records of an engagement apart outside of it. */
  async fingerprints(engagementId: number): Promise<Fingerprint> {
    return fingerprintWithKey(await this.maskKeyOf(engagementId))
  }

  async maskKeyOf(engagementId: number): Promise<Buffer> {
    const engagement = await this.database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
    return this.vault.unseal(engagement.maskKey, 'mask key')
  }

  /** The lines of a record as people may see them. */
  async maskedLines(record: Pick<StoredRecord, 'sha256' | 'dialect'>, engagementId: number): Promise<string[]> {
    const [bytes, maskKey] = [await this.bytes(record.sha256), await this.maskKeyOf(engagementId)]
    return this.outside.maskedLines({ bytes, dialect: record.dialect, maskKey })
  }
}

import { In, type DataSource, type EntityManager } from 'typeorm'
import { decodeText, dialectById, dialects, maskLine, maskWithKey, MaskedLines, readRecord, type LocatedTree, type Mask, type ReadRecord } from '@jurybox/core'
import { Contents, Engagements, type StoredRecord } from '../db/entities.ts'
import type { Vault } from '../vault/vault.ts'

/** Immutable records: each content once under its SHA-256, sealed. */
export class RecordStore {
  readonly #masks = new Map<number, Mask>()

  constructor(
    readonly database: DataSource,
    readonly vault: Vault,
  ) {}

  /** Stores contents that are not there yet. */
  async keep(manager: EntityManager, contents: ReadonlyMap<string, Uint8Array>): Promise<void> {
    const present = new Set((await manager.find(Contents, { where: { sha256: In([...contents.keys()]) }, select: { sha256: true } })).map((content) => content.sha256))
    for (const [hash, bytes] of contents) {
      if (!present.has(hash)) await manager.insert(Contents, { sha256: hash, size: bytes.length, body: this.vault.seal(bytes, hash) })
    }
  }

  /** A content as it was brought in. @throws Error where there is none */
  async bytes(hash: string): Promise<Uint8Array> {
    const { body } = await this.database.getRepository(Contents).findOneByOrFail({ sha256: hash })
    return this.vault.unseal(body, hash)
  }

  /** Texts by SHA-256, as they were decoded when taken in. */
  async texts(hashes: readonly string[]): Promise<Map<string, string>> {
    const found = await this.database.getRepository(Contents).findBy({ sha256: In([...new Set(hashes)]) })
    return new Map(
      found.map(({ sha256, body }) => {
        const decoded = decodeText(this.vault.unseal(body, sha256))
        return [sha256, decoded.ok ? decoded.text : '']
      }),
    )
  }

  async tree(record: Pick<StoredRecord, 'sha256' | 'dialect'>): Promise<{ tree: LocatedTree; text: string }> {
    const text = (await this.texts([record.sha256])).get(record.sha256) ?? ''
    return { tree: readRecord(text, record.dialect), text }
  }

  /** Records of one device as the core takes them: configurations read, outputs as text. */
  async read(records: readonly Pick<StoredRecord, 'id' | 'kind' | 'sha256' | 'dialect'>[]): Promise<ReadRecord[]> {
    const texts = await this.texts(records.map(({ sha256 }) => sha256))
    return records.map(({ id, kind, sha256, dialect }) => {
      const text = texts.get(sha256) ?? ''
      return dialect === 'none' ? { id: String(id), kind, tree: null, text } : { id: String(id), kind, tree: readRecord(text, dialect) }
    })
  }

  /** The marks for secrets of one engagement: equal secrets look equal within it, and only within it. */
  async maskOf(engagementId: number): Promise<Mask> {
    const known = this.#masks.get(engagementId)
    if (known) return known
    const mask = maskWithKey(await this.maskKeyOf(engagementId))
    this.#masks.set(engagementId, mask)
    return mask
  }

  async maskKeyOf(engagementId: number): Promise<Buffer> {
    const engagement = await this.database.getRepository(Engagements).findOneByOrFail({ id: engagementId })
    return this.vault.unseal(engagement.maskKey, 'mask key')
  }

  /** The lines of a record as people may see them. */
  async maskedLines(record: Pick<StoredRecord, 'sha256' | 'dialect'>, engagementId: number): Promise<string[]> {
    const dialect = dialectById(record.dialect)
    if (!dialect) {
      // An output of a command has no dialect yet: whatever any dialect takes for a secret is hidden.
      const text = (await this.texts([record.sha256])).get(record.sha256) ?? ''
      const mask = await this.maskOf(engagementId)
      return text.split(/\r?\n/).map((line) => dialects.reduce((masked, known) => maskLine(masked, null, known, mask), line))
    }
    const { tree } = await this.tree(record)
    return new MaskedLines(tree, dialect, await this.maskOf(engagementId)).all()
  }
}

import type { DataSource, EntityManager } from 'typeorm'
import { Activities, type ActivityEntry } from '../db/entities.ts'
import { sha256 } from '../vault/vault.ts'

export interface Deed {
  readonly userId: number | null
  readonly engagementId: number | null
  readonly action: string
  readonly detail: Readonly<Record<string, unknown>>
}

const FIRST = '0'.repeat(64)

function hashOf(entry: Omit<ActivityEntry, 'id' | 'hash'>): string {
  return sha256(JSON.stringify([entry.previous, entry.at.toISOString(), entry.userId, entry.engagementId, entry.action, entry.detail]))
}

/** Who did what: append-only (the database refuses anything else), each entry bound to the one before by its hash. */
export class ActivityLog {
  constructor(readonly database: DataSource) {}

  async add(deed: Deed): Promise<void> {
    await this.database.transaction(async (manager) => {
      const previous = await this.#last(manager)
      const entry = { at: new Date(), userId: deed.userId, engagementId: deed.engagementId, action: deed.action, detail: JSON.stringify(deed.detail), previous }
      await manager.insert(Activities, { ...entry, hash: hashOf(entry) })
    })
  }

  /** Hash of the last entry, locked so that two writers cannot chain to the same one. */
  async #last(manager: EntityManager): Promise<string> {
    const rows: { hash: string }[] = await manager.query('SELECT hash FROM activity ORDER BY id DESC LIMIT 1 FOR UPDATE')
    return rows[0]?.hash ?? FIRST
  }

  /** Id of the first entry that does not follow from the one before it; null where the chain is whole. */
  async firstBreak(): Promise<number | null> {
    let previous = FIRST
    for (const entry of await this.database.getRepository(Activities).find({ order: { id: 'ASC' } })) {
      if (entry.previous !== previous || entry.hash !== hashOf(entry)) return entry.id
      previous = entry.hash
    }
    return null
  }

  async of(engagementId: number, limit: number, offset: number): Promise<ActivityEntry[]> {
    return this.database.getRepository(Activities).find({ where: { engagementId }, order: { id: 'DESC' }, take: limit, skip: offset })
  }
}

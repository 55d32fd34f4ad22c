import { randomBytes } from 'node:crypto'
import type { DataTable } from '@jurybox/api/data'
import { MoreThan, type DataSource } from 'typeorm'
import type { User } from '../auth/entity.ts'
import { Memberships } from '../engagements/entity.ts'
import { sha256 } from '../vault/vault.ts'
import { ApiTokens, type ApiToken } from './entity.ts'

const DAY_MS = 86_400_000
/** How a token begins, so that one that leaked is known for what it is. */
const BEGIN = 'jurybox_'
/** It is noted at most this often that a token was used. */
const NOTED_MS = 60_000

/** Tokens by which other tools read tables of an engagement. */
export class TokenStore {
  constructor(readonly database: DataSource) {}

  async list(engagementId: number): Promise<ApiToken[]> {
    return this.#rows.find({ where: { engagementId }, order: { id: 'ASC' } })
  }

  /** @returns the token, which is not kept */
  async make(
    engagementId: number,
    { title, tables, days }: { title: string; tables: readonly DataTable[]; days: number },
    by: User,
  ): Promise<{ token: string; row: ApiToken }> {
    const token = `${BEGIN}${randomBytes(32).toString('base64url')}`
    const now = new Date()
    const row = await this.#rows.save(
      this.#rows.create({
        engagementId,
        title,
        hash: sha256(token),
        begins: token.slice(0, BEGIN.length + 4),
        tables: [...new Set(tables)],
        createdBy: by.id,
        createdByName: by.fullName,
        createdAt: now,
        expiresAt: new Date(now.getTime() + days * DAY_MS),
        usedAt: null,
      }),
    )
    return { token, row }
  }

  /** Null for one that is not known, has expired, or whose maker is no member any more. */
  async find(token: string, engagementId: number, now = new Date()): Promise<ApiToken | null> {
    if (!token.startsWith(BEGIN)) return null
    const row = await this.#rows.findOneBy({ engagementId, hash: sha256(token), expiresAt: MoreThan(now) })
    if (!row) return null
    const isMember = await this.database
      .getRepository(Memberships)
      .existsBy({ engagementId, userId: row.createdBy, role: 'lead' })
    if (!isMember) return null
    if (now.getTime() - (row.usedAt?.getTime() ?? 0) > NOTED_MS)
      await this.#rows.update({ id: row.id }, { usedAt: now })
    return row
  }

  /** Whether there was one. */
  async revoke(engagementId: number, id: number): Promise<ApiToken | null> {
    const row = await this.#rows.findOneBy({ engagementId, id })
    if (row) await this.#rows.delete({ id })
    return row
  }

  get #rows() {
    return this.database.getRepository(ApiTokens)
  }
}

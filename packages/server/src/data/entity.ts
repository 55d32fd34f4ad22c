import type { DataTable } from '@jurybox/api/data'
import { EntitySchema } from 'typeorm'
import { id, int, json, text, time } from '../db/columns.ts'

/** A secret by which another tool reads tables of one engagement; only its hash is kept. */
export interface ApiToken {
  id: number
  engagementId: number
  title: string
  /** SHA-256 in hexadecimal digits. */
  hash: string
  begins: string
  tables: DataTable[]
  createdBy: number
  createdByName: string
  createdAt: Date
  expiresAt: Date
  usedAt: Date | null
}
export const ApiTokens = new EntitySchema<ApiToken>({
  name: 'api_tokens',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    hash: text('hash'),
    begins: text('begins'),
    tables: json('tables'),
    createdBy: int('created_by'),
    createdByName: text('created_by_name'),
    createdAt: time('created_at'),
    expiresAt: time('expires_at'),
    usedAt: time('used_at', true),
  },
})

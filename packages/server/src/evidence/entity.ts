import type { Countersignature } from '@jurybox/core/evidence'
import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

/** An Ed25519 key of an engagement, or of a person who countersigns; its private part is sealed. */
export interface SigningKey {
  id: number
  /** One of the two is set. */
  engagementId: number | null
  userId: number | null
  /** 32 bytes in base64. */
  publicKey: string
  /** PKCS #8 (RFC 8410), sealed. */
  privateKey: Buffer
  createdAt: Date
}
export const SigningKeys = new EntitySchema<SigningKey>({
  name: 'signing_keys',
  columns: {
    id,
    engagementId: { ...int('engagement_id'), nullable: true },
    userId: { ...int('user_id'), nullable: true },
    publicKey: text('public_key'),
    privateKey: { type: 'varbinary', name: 'private_key' },
    createdAt: time('created_at'),
  },
})

/** A pack of evidence as it was signed. */
export interface EvidencePack {
  id: number
  engagementId: number
  auditId: number
  snapshotId: number
  masked: boolean
  root: string
  files: number
  size: number
  /** How many verdicts do not come out again of what it holds. */
  notReproduced: number
  /** Of the archive, among the contents. */
  sha256: string
  countersignatures: Countersignature[]
  /** A request for a time stamp and the answer to it (RFC 3161, DER); null: there is none. */
  timeRequest: Buffer | null
  timeAnswer: Buffer | null
  madeBy: number
  madeByName: string
  madeAt: Date
}
export const EvidencePacks = new EntitySchema<EvidencePack>({
  name: 'evidence_packs',
  columns: {
    id,
    engagementId: int('engagement_id'),
    auditId: int('audit_id'),
    snapshotId: int('snapshot_id'),
    masked: { type: 'boolean', name: 'masked' },
    root: text('root'),
    files: int('files'),
    size: int('size'),
    notReproduced: int('not_reproduced'),
    sha256: text('sha256'),
    countersignatures: json('countersignatures'),
    timeRequest: { type: 'blob', name: 'time_request', nullable: true },
    timeAnswer: { type: 'mediumblob', name: 'time_answer', nullable: true },
    madeBy: int('made_by'),
    madeByName: text('made_by_name'),
    madeAt: time('made_at'),
  },
})

/** The last entry of the audit log of a day, signed with the key of an engagement. */
export interface LogHead {
  engagementId: number
  /** `YYYY-MM-DD`, UTC. */
  day: string
  entry: number
  hash: string
  /** Ed25519, in base64. */
  signature: string
}
export const LogHeads = new EntitySchema<LogHead>({
  name: 'log_heads',
  columns: {
    engagementId: key(int('engagement_id')),
    day: { type: 'date', name: 'day', primary: true },
    entry: int('entry'),
    hash: text('hash'),
    signature: text('signature'),
  },
})

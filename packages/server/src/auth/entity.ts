import { EntitySchema } from 'typeorm'
import { flag, id, int, json, key, text, time } from '../db/columns.ts'

export interface User {
  id: number
  name: string
  fullName: string
  passwordHash: string
  createdAt: Date
  /** Looks after the installation: accounts, keys, figures. */
  isAdmin: boolean
  /** May open engagements. */
  mayOpen: boolean
  disabled: boolean
  /** The password was given by someone else: it opens nothing but the change of it. */
  mustChange: boolean
  signedInAt: Date | null
  /** Secret of the second factor, sealed; null without one. */
  totp: Buffer | null
  /** The last step of time whose code was used. */
  totpStep: number
  /** Hashes of the recovery codes that are left. */
  recovery: string[] | null
}
export const Users = new EntitySchema<User>({
  name: 'users',
  columns: {
    id,
    name: text('name'),
    fullName: text('full_name'),
    passwordHash: text('password_hash'),
    createdAt: time('created_at'),
    isAdmin: flag('is_admin'),
    mayOpen: flag('may_open'),
    disabled: flag('disabled'),
    mustChange: flag('must_change'),
    signedInAt: time('signed_in_at', true),
    totp: { type: 'varbinary', nullable: true },
    totpStep: { type: 'int', name: 'totp_step' },
    recovery: { ...json('recovery'), nullable: true },
  },
})

export interface Session {
  tokenHash: string
  userId: number
  csrf: string
  /** From where it was opened, and by which browser. */
  address: string
  agent: string
  createdAt: Date
  seenAt: Date
  /** When its owner last confirmed their identity. */
  provedAt: Date | null
}
export const Sessions = new EntitySchema<Session>({
  name: 'sessions',
  columns: {
    tokenHash: key(text('token_hash')),
    userId: int('user_id'),
    csrf: text('csrf'),
    address: text('address'),
    agent: text('agent'),
    createdAt: time('created_at'),
    seenAt: time('seen_at'),
    provedAt: time('proved_at', true),
  },
})

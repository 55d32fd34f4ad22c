import type { ModelName } from '@jurybox/core/estate'
import type { Role } from '@jurybox/api/roles'
import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

export interface Engagement {
  id: number
  title: string
  client: string
  periodFrom: string | null
  periodTo: string | null
  maskKey: Buffer
  createdAt: Date
  /** Prefixes in which a collection may try by TCP connects what answers; none: nowhere. */
  connectRanges: string[]
  /** Prefixes that are reached through others of the same length (address translation on the way). */
  translations: { from: string; to: string }[]
  modelNames: ModelName[]
  /** Places that are those of guests, as traffic names them. */
  guests: string[]
  /** A picture of the client for reports: its media type and its bytes. */
  logoType: string | null
  logo: Buffer | null
}
export const Engagements = new EntitySchema<Engagement>({
  name: 'engagements',
  columns: {
    id,
    title: text('title'),
    client: text('client'),
    periodFrom: { type: 'date', name: 'period_from', nullable: true },
    periodTo: { type: 'date', name: 'period_to', nullable: true },
    maskKey: { type: 'varbinary', name: 'mask_key' },
    connectRanges: json('connect_ranges'),
    translations: json('translations'),
    modelNames: json('model_names'),
    guests: json('guests'),
    logoType: { ...text('logo_type'), nullable: true },
    logo: { type: 'mediumblob', name: 'logo', nullable: true },
    createdAt: time('created_at'),
  },
})

export interface Membership {
  engagementId: number
  userId: number
  role: Role
}
export const Memberships = new EntitySchema<Membership>({
  name: 'memberships',
  columns: { engagementId: key(int('engagement_id')), userId: key(int('user_id')), role: text('role') },
})

import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

export interface Device {
  id: number
  engagementId: number
  name: string
  dialect: string
  facts: Record<string, unknown>
  createdAt: Date
}
export const Devices = new EntitySchema<Device>({
  name: 'devices',
  columns: {
    id,
    engagementId: int('engagement_id'),
    name: text('name'),
    dialect: text('dialect'),
    facts: json('facts'),
    createdAt: time('created_at'),
  },
})

/** A place that holds devices, or other places. */
export interface Site {
  engagementId: number
  name: string
  title: string
  /** Name of the site around it; null where there is none. */
  around: string | null
}
export const Sites = new EntitySchema<Site>({
  name: 'sites',
  columns: {
    engagementId: key(int('engagement_id')),
    name: key(text('name')),
    title: text('title'),
    around: { ...text('around'), nullable: true },
  },
})

/** What a device is to its estate, read once from its records; sealed, for it holds lines. */
export interface StoredDigest {
  digestKey: string
  /** Content of the configuration that it tells of: it goes with it. */
  sha256: string
  body: Buffer
}
export const Digests = new EntitySchema<StoredDigest>({
  name: 'digests',
  columns: { digestKey: key(text('digest_key')), sha256: text('sha256'), body: { type: 'longblob' } },
})

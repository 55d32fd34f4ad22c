import { EntitySchema } from 'typeorm'
import { id, int, json, key, text, time } from '../db/columns.ts'

/** A login for devices. */
export interface StoredCredential {
  id: number
  engagementId: number
  title: string
  userName: string
  /** Sealed by the vault. */
  secret: Buffer
  createdBy: number
  createdAt: Date
}
export const Credentials = new EntitySchema<StoredCredential>({
  name: 'credentials',
  columns: {
    id,
    engagementId: int('engagement_id'),
    title: text('title'),
    userName: text('user_name'),
    secret: { type: 'longblob' },
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})

/** How a device is reached, and what was seen of it there. */
export interface DeviceConnection {
  engagementId: number
  device: string
  dialect: string
  address: string
  port: number
  /** May speak algorithms that RFC 9142 deprecates. */
  old: boolean
  /** Ports at which it is asked over NETCONF and SNMP as well; null where it is not. */
  netconfPort: number | null
  snmpPort: number | null
  /** SHA-256 in base64; null until it was seen once. */
  hostKey: string | null
  /** The credential that fitted last. */
  credentialId: number | null
  /** What is known of the device before its first collection. */
  facts: FirstFacts | null
}

export type FirstFacts = Readonly<Partial<Record<'site' | 'role', string>>>
export const DeviceConnections = new EntitySchema<DeviceConnection>({
  name: 'reach',
  columns: {
    engagementId: key(int('engagement_id')),
    device: key(text('device')),
    dialect: text('dialect'),
    address: text('address'),
    port: int('port'),
    old: { type: 'boolean', name: 'old' },
    netconfPort: { ...int('netconf_port'), nullable: true },
    snmpPort: { ...int('snmp_port'), nullable: true },
    hostKey: { ...text('host_key'), nullable: true },
    credentialId: { ...int('credential_id'), nullable: true },
    facts: { ...json('facts'), nullable: true },
  },
})

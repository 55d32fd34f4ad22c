import { z } from 'zod'
import { count, flag, names, secretSchema, text } from './parts.ts'

const serviceSchema = z.object({
  enabled: flag,
  /** Access list or filter that limits who may connect. */
  accessList: text,
  authentication: text,
})

export const ntpServerSchema = z.object({ address: z.string(), key: count, prefer: z.boolean(), vrf: text })
export const ntpKeySchema = z.object({ id: z.number(), algorithm: text, secret: secretSchema.nullable() })
export const logHostSchema = z.object({ address: z.string(), vrf: text, protocol: text, port: count, severity: text })
export const communitySchema = z.object({ secret: secretSchema, name: z.string(), access: text, accessList: text, isDefault: z.boolean() })
export const snmpGroupSchema = z.object({ name: z.string(), version: z.string(), level: text })
export const snmpUserSchema = z.object({ name: z.string(), group: text, authentication: text, privacy: text })
export const trapHostSchema = z.object({ address: z.string(), version: z.string(), level: text })
export const hostSchema = z.object({ name: z.string(), addresses: names })
export const methodListSchema = z.object({ purpose: z.string(), name: z.string(), methods: names })
export const aaaServerSchema = z.object({ protocol: z.string(), name: z.string(), address: text, secret: secretSchema.nullable() })
export const userSchema = z.object({ name: z.string(), privilege: count, role: text, secret: secretSchema.nullable(), keys: z.number() })
export const terminalSchema = z.object({
  name: z.string(),
  kind: z.enum(['console', 'auxiliary', 'remote']),
  /** Protocols that log in here; null where not stated. */
  protocols: names.nullable(),
  idleSeconds: count,
  accessList4: text,
  accessList6: text,
  login: text,
  secret: secretSchema.nullable(),
})

/** The device as a whole (names after openconfig-system and RFC 7317). */
export const systemSchema = z.object({
  hostname: text,
  domainName: text,
  nameServers: names,
  /** Whether it asks them for names; null where not stated. */
  looksUpNames: flag,
  /** Names whose addresses the device is told by its own lines. */
  hosts: z.array(hostSchema),
  timeZone: text,
  /** Whether it hands on packets that are not for itself. */
  forwards: flag,
  /** Software version as the listing states it, and the model where it does. */
  version: text,
  model: text,
  serial: text,
  banners: z.object({ login: text, motd: text, exec: text }),
  ntp: z.object({ enabled: flag, authenticate: flag, servers: z.array(ntpServerSchema), keys: z.array(ntpKeySchema), trustedKeys: names, source: text }),
  logging: z.object({ enabled: flag, hosts: z.array(logHostSchema), timestamps: text, source: text, buffered: text }),
  snmp: z.object({ communities: z.array(communitySchema), groups: z.array(snmpGroupSchema), users: z.array(snmpUserSchema), hosts: z.array(trapHostSchema), source: text, contact: text, location: text }),
  aaa: z.object({ enabled: flag, methods: z.array(methodListSchema), servers: z.array(aaaServerSchema), groups: z.array(z.object({ name: z.string(), protocol: z.string(), servers: names, source: text })), sources: z.array(z.object({ protocol: z.string(), interface: z.string() })) }),
  users: z.array(userSchema),
  /** The secret of the highest privilege. */
  enableSecret: secretSchema.nullable(),
  lockout: z.object({ attempts: count, windowSeconds: count, lockSeconds: count, untilUnlocked: flag }),
  terminals: z.array(terminalSchema),
  services: z.object({
    /** Algorithms as listed; none: those of the software. */
    ssh: serviceSchema.extend({ version: text, rootLogin: text, timeoutSeconds: count, retries: count, ciphers: names, macs: names, keyExchange: names, hostKeys: names }),
    telnet: serviceSchema,
    http: serviceSchema,
    https: serviceSchema.extend({ tlsVersions: names, ciphers: names }),
    ftp: serviceSchema,
    tftp: serviceSchema,
    netconf: serviceSchema,
    bootp: serviceSchema,
    rsh: serviceSchema,
    rcp: serviceSchema,
    finger: serviceSchema,
    smallServers: serviceSchema,
    lldp: serviceSchema,
    sourceRouting: serviceSchema,
    passwordEncryption: serviceSchema,
  }),
})

import { z } from 'zod'
import { count, flag, names, secretSchema, text } from './parts.ts'

const serviceSchema = z.object({
  enabled: flag,
  /** Access list or filter that limits who may connect. */
  accessList: text,
  authentication: text,
})

/** `peer`: it is asked and answered as an equal. */
export const ntpServerSchema = z.object({
  address: z.string(),
  key: count,
  prefer: z.boolean(),
  vrf: text,
  peer: flag,
  /** Whether it is asked over NTS (RFC 8915). */
  secured: flag,
})
export const ntpKeySchema = z.object({ id: z.number(), algorithm: text, secret: secretSchema.nullable() })
/** What is sent there, by facility; none: what the device as a whole sends. */
export const logHostSchema = z.object({
  address: z.string(),
  vrf: text,
  source: text,
  protocol: text,
  port: count,
  severity: text,
  facilities: z.array(z.object({ facility: z.string(), severity: z.string() })),
})
export const communitySchema = z.object({
  secret: secretSchema,
  name: z.string(),
  access: text,
  accessList: text,
  /** Prefixes that may use it; `!` before those that may not. */
  clients: names,
  isDefault: z.boolean(),
})
export const snmpGroupSchema = z.object({ name: z.string(), version: z.string(), level: text })
export const snmpUserSchema = z.object({ name: z.string(), group: text, authentication: text, privacy: text })
export const trapHostSchema = z.object({ address: z.string(), version: z.string(), level: text })
export const hostSchema = z.object({ name: z.string(), addresses: names })
export const methodListSchema = z.object({ purpose: z.string(), name: z.string(), methods: names })
/** `asked`: whether a list of methods for logins asks it. */
export const aaaServerSchema = z.object({
  protocol: z.string(),
  name: z.string(),
  address: text,
  secret: secretSchema.nullable(),
  asked: flag,
})
export const userSchema = z.object({
  name: z.string(),
  privilege: count,
  role: text,
  secret: secretSchema.nullable(),
  keys: z.number(),
})
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
  /** Whether it gives a session at all. */
  session: flag,
  privilege: count,
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
  forwards6: flag,
  /** Whether it tells hosts of a better way; null where each interface says so for itself. */
  redirects: flag,
  acceptsRedirects: flag,
  /** Whether every interface tells of the device that does not say otherwise. */
  lldpOnAll: flag,
  /** Fewest characters of a new password. */
  passwordLength: count,
  /** How new passwords are kept, by its name in crypt(5). */
  passwordHash: text,
  /** Whether what listens on the device was listed. */
  listens: flag,
  /** The policy for packets to the device itself. */
  controlPlanePolicy: text,
  /** Guards of a switch as a whole. */
  switching: z.object({
    edgeByDefault: flag,
    guardByDefault: flag,
    filterByDefault: flag,
    dhcpSnooping: flag,
    snoopedVlans: text,
    inspectedVlans: text,
    portAuthentication: flag,
    vtpMode: text,
    vtpDomain: text,
  }),
  /** Software version as the listing states it, and the model where it does. */
  version: text,
  model: text,
  serial: text,
  banners: z.object({ login: text, motd: text, exec: text }),
  ntp: z.object({
    enabled: flag,
    authenticate: flag,
    servers: z.array(ntpServerSchema),
    keys: z.array(ntpKeySchema),
    trustedKeys: names,
    source: text,
  }),
  logging: z.object({
    enabled: flag,
    hosts: z.array(logHostSchema),
    /** Files in which messages are kept, with what goes there. */
    files: z.array(
      z.object({ name: z.string(), facilities: z.array(z.object({ facility: z.string(), severity: z.string() })) }),
    ),
    timestamps: text,
    source: text,
    buffered: text,
    trap: text,
    successfulLogins: flag,
    failedLogins: flag,
  }),
  snmp: z.object({
    communities: z.array(communitySchema),
    groups: z.array(snmpGroupSchema),
    users: z.array(snmpUserSchema),
    hosts: z.array(trapHostSchema),
    clientLists: z.array(z.object({ name: z.string(), prefixes: names })),
    trapGroups: z.array(z.object({ name: z.string(), version: text, targets: names })),
    targets: z.array(z.object({ name: z.string(), address: text, parameters: text })),
    targetParameters: z.array(z.object({ name: z.string(), level: text, model: text })),
    source: text,
    contact: text,
    location: text,
  }),
  aaa: z.object({
    enabled: flag,
    methods: z.array(methodListSchema),
    servers: z.array(aaaServerSchema),
    groups: z.array(z.object({ name: z.string(), protocol: z.string(), servers: names, source: text, vrf: text })),
    sharedKeys: z.array(z.object({ protocol: z.string(), secret: secretSchema })),
    sources: z.array(z.object({ protocol: z.string(), interface: z.string() })),
  }),
  users: z.array(userSchema),
  /** The secret of the highest privilege. */
  enableSecret: secretSchema.nullable(),
  lockout: z.object({ attempts: count, windowSeconds: count, lockSeconds: count, untilUnlocked: flag }),
  terminals: z.array(terminalSchema),
  services: z.object({
    /** Algorithms as listed; none: those of the software. */
    ssh: serviceSchema.extend({
      version: text,
      rootLogin: text,
      timeoutSeconds: count,
      retries: count,
      ciphers: names,
      macs: names,
      keyExchange: names,
      hostKeys: names,
      minimumBits: count,
    }),
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
    cdp: serviceSchema,
    sourceRouting: serviceSchema,
    passwordEncryption: serviceSchema,
  }),
})

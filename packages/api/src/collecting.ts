import { z } from 'zod'
import { lineOf } from './text.ts'
import { isPrefix } from './text.ts'
import { PROBES } from '@jurybox/core/dialects'
import { jobView } from './jobs.ts'
import { endpoint } from './endpoint.ts'

export const reachSchema = z.strictObject({
  device: z.string().regex(/^[\w.-]{1,160}$/, 'a name of letters, digits, dots, dashes and underscores'),
  dialect: z.string(),
  address: z
    .string()
    .trim()
    .min(1)
    .max(255)
    .regex(/^[\w.:-]+$/, 'a name or an address'),
  port: z.int().min(1).max(65535).default(22),
  old: z.boolean().default(false),
  netconfPort: z.int().min(1).max(65535).nullable().default(null),
  snmpPort: z.int().min(1).max(65535).nullable().default(null),
})

export const credentialRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  user: z.string(),
  createdAt: z.string(),
})
export type CredentialRow = z.infer<typeof credentialRow>

export const connectionRow = z.strictObject({
  device: z.string(),
  dialect: z.string(),
  address: z.string(),
  port: z.number(),
  old: z.boolean(),
  hostKey: z.string().nullable(),
  credentialId: z.number().nullable(),
  netconfPort: z.number().nullable(),
  snmpPort: z.number().nullable(),
})
export type ConnectionRow = z.infer<typeof connectionRow>

export const connectionsView = z.strictObject({
  steps: z.array(z.strictObject({ step: z.string(), title: z.string() })),
  dialects: z.array(z.string()),
  devices: z.array(connectionRow),
  connectRanges: z.array(z.string()),
})
export type ConnectionsView = z.infer<typeof connectionsView>

/** Credentials for devices, without secrets. */
export const listCredentials = endpoint({
  method: 'get',
  path: '/engagements/:engagement/credentials',
  access: 'read',
  summary: 'Credentials for devices, without secrets',
  response: z.array(credentialRow),
})

/** Adds a credential; its secrets are encrypted and never shown again. */
export const addCredential = endpoint({
  method: 'post',
  path: '/engagements/:engagement/credentials',
  access: 'manage',
  summary: 'Adds a credential; its secrets are encrypted and never shown again',
  body: z
    .strictObject({
      title: lineOf(120),
      user: lineOf(120),
      /** May be empty where a private key logs in. */
      password: z.string().max(1000),
      privileged: z.string().max(1000).optional(),
      /** In PEM or OpenSSH form, without a passphrase: it is stored encrypted. */
      privateKey: z.string().max(20_000).optional(),
      snmp: z
        .strictObject({
          user: z.string().min(1).max(32),
          auth: z.string().min(8).max(1000),
          privacy: z.string().min(8).max(1000),
        })
        .optional(),
    })
    .refine(({ password, privateKey }) => password !== '' || privateKey, {
      path: ['password'],
      message: 'must be given, or a private key',
    }),
  response: z.strictObject({ id: z.number() }),
})

/** Deletes a credential. */
export const deleteCredential = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/credentials/:credential',
  access: 'manage',
  summary: 'Deletes a credential',
})

/** How each device is reached, and the scan ranges. */
export const listConnections = endpoint({
  method: 'get',
  path: '/engagements/:engagement/connections',
  access: 'read',
  summary: 'How each device is reached, and the scan ranges',
  response: connectionsView,
})

/** Sets how devices are reached. */
export const setConnections = endpoint({
  method: 'put',
  path: '/engagements/:engagement/connections',
  access: 'manage',
  summary: 'Sets how devices are reached',
  large: true,
  body: z.strictObject({ devices: z.array(reachSchema).min(1).max(5000) }),
})

/** Sets the ranges in which addresses may be tried. */
export const setConnectRanges = endpoint({
  method: 'put',
  path: '/engagements/:engagement/scan-ranges',
  access: 'manage',
  summary: 'Sets the ranges in which addresses may be tried',
  body: z.strictObject({
    ranges: z.array(z.string().trim().refine(isPrefix, 'a prefix, such as 10.40.0.0/16')).max(100),
  }),
  response: z.strictObject({ ranges: z.array(z.string()) }),
})

export const rungState = z.enum(['passed', 'failed', 'not-reached'])

/** Logs in to a device and asks one command, step by step; nothing is kept. */
export const testConnection = endpoint({
  method: 'post',
  path: '/engagements/:engagement/connections/:name/test',
  access: 'collect',
  summary: 'Logs in to a device and asks one command, step by step; nothing is kept',
  response: z.strictObject({
    steps: z.array(
      z.strictObject({ step: z.string(), title: z.string(), state: rungState, reason: z.string().nullable() }),
    ),
    /** SNMP and NETCONF, where the connection names a port for them. */
    beside: z.array(z.strictObject({ what: z.enum(['NETCONF', 'SNMP']), ok: z.boolean(), reason: z.string() })),
    /** Milliseconds that it took. */
    took: z.number(),
  }),
})

/** Removes a device from collection; its records stay. */
export const deleteConnection = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/connections/:name',
  access: 'manage',
  summary: 'Removes a device from collection; its records stay',
})

/** Deletes the recorded host key of a device, so that a new key is accepted once. */
export const deleteHostKey = endpoint({
  method: 'post',
  path: '/engagements/:engagement/connections/:name/delete-host-key',
  access: 'manage',
  summary: 'Deletes the recorded host key of a device, so that a new key is accepted once',
})

/** Asks a device to ping or trace an address; the output becomes a record. */
export const runProbe = endpoint({
  method: 'post',
  path: '/engagements/:engagement/probes',
  access: 'collect',
  summary: 'Asks a device to ping or trace an address; the output becomes a record',
  body: z.strictObject({
    device: z.string(),
    probe: z.enum(PROBES),
    target: z
      .string()
      .trim()
      .regex(/^[A-Za-z0-9][\w.:-]{0,252}$/, 'a name or an address'),
  }),
  response: jobView,
})

/** Collects the configurations and states of devices into a new snapshot. */
export const startCollection = endpoint({
  method: 'post',
  path: '/engagements/:engagement/collections',
  access: 'collect',
  summary: 'Collects the configurations and states of devices into a new snapshot',
  large: true,
  body: z.strictObject({ devices: z.array(z.string()).min(1).max(5000).nullable().default(null), title: lineOf(160) }),
  response: jobView,
})

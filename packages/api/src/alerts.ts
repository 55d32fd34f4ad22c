import { z } from 'zod'
import { lineOf } from './text.ts'
import { channelSchema } from './channel.ts'
import { KINDS } from './channel.ts'
import { rhythmSchema } from './rhythm.ts'
import { endpoint } from './endpoint.ts'

export const deliveryRow = z.strictObject({
  id: z.number(),
  state: z.enum(['waiting', 'sending', 'sent', 'failed', 'unsure']),
  attempts: z.number(),
  said: z.string(),
  test: z.boolean(),
  createdAt: z.string(),
  sentAt: z.string().nullable(),
  nextAt: z.string().nullable(),
})
export type DeliveryRow = z.infer<typeof deliveryRow>

export const alertRow = z.strictObject({
  id: z.number(),
  title: z.string(),
  channel: z.enum(['mail', 'webhook', 'ticket']),
  settings: z.strictObject({
    host: z.string().optional(),
    port: z.number().optional(),
    tls: z.string().optional(),
    from: z.string().optional(),
    user: z.string().optional(),
    to: z.array(z.string()).optional(),
    url: z.string().optional(),
  }),
  hasSecret: z.boolean(),
  kinds: z.array(z.string()),
  severity: z.string(),
  when: z.string(),
  zone: z.string(),
  paused: z.boolean(),
  deliveries: z.array(deliveryRow),
})
export type AlertRow = z.infer<typeof alertRow>

/** Alerts, each with its last deliveries. */
export const listAlerts = endpoint({
  method: 'get',
  path: '/engagements/:engagement/alerts',
  access: 'read',
  summary: 'Alerts, each with its last deliveries',
  response: z.array(alertRow),
})

/** Adds an alert: by mail, signed webhook or ticket. */
export const addAlert = endpoint({
  method: 'post',
  path: '/engagements/:engagement/alerts',
  access: 'manage',
  summary: 'Adds an alert: by mail, signed webhook or ticket',
  body: z.strictObject({
    title: lineOf(120),
    to: channelSchema,
    secret: z.string().min(1).max(500).optional(),
    kinds: z.array(z.enum(KINDS)).min(1),
    severity: z.enum(['info', 'low', 'medium', 'high']),
    digest: rhythmSchema.nullable().default(null),
    zone: z.string().min(1).max(64).default('UTC'),
  }),
  response: alertRow,
})

/** Sends a test message to an alert. */
export const testAlert = endpoint({
  method: 'post',
  path: '/engagements/:engagement/alerts/:alert/test',
  access: 'manage',
  summary: 'Sends a test message to an alert',
  response: deliveryRow.optional(),
})

/** Pauses or resumes an alert. */
export const pauseAlert = endpoint({
  method: 'put',
  path: '/engagements/:engagement/alerts/:alert',
  access: 'manage',
  summary: 'Pauses or resumes an alert',
  body: z.strictObject({ paused: z.boolean() }),
  response: alertRow,
})

/** Deletes an alert with the record of its deliveries. */
export const deleteAlert = endpoint({
  method: 'delete',
  path: '/engagements/:engagement/alerts/:alert',
  access: 'manage',
  summary: 'Deletes an alert with the record of its deliveries',
})

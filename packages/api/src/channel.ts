import { z } from 'zod'

/** An address is shown; what has to stay secret is kept beside it, sealed. */
const url = z
  .url({ protocol: /^https?$/ })
  .max(500)
  .refine(
    (text) => URL.canParse(text) && new URL(text).username === '' && new URL(text).password === '',
    'an address without user and password: give what has to stay secret as the key or the token',
  )
export const channelSchema = z.discriminatedUnion('channel', [
  z.strictObject({
    channel: z.literal('mail'),
    host: z.string().min(1).max(255),
    port: z.int().min(1).max(65535),
    tls: z.enum(['none', 'starttls', 'tls']),
    from: z.email(),
    to: z.array(z.email()).min(1).max(20),
    user: z.string().max(120).optional(),
  }),
  z.strictObject({ channel: z.literal('webhook'), url }),
  z.strictObject({ channel: z.literal('ticket'), url }),
])
export type Channel = z.infer<typeof channelSchema>

/** What alerts are sent about. */
export const KINDS = [
  'new',
  'resolved',
  'drift',
  'collection',
  'expectation',
  'assigned',
  'overdue',
  'appeared',
  'vanished',
  'report',
  'request',
] as const
export type AlertKind = (typeof KINDS)[number]

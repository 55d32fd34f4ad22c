import { z } from 'zod'

/** Is it there, what is its address, which way does it lie. */
export const PROBES = ['ping', 'lookup', 'path'] as const

/** By which command a device gives a record. */
const recordCommandSchema = z.strictObject({
  /** Kind of record, as in a snapshot folder: `config`, `config.saved`, `state/routes`. */
  kind: z
    .string()
    .regex(
      /^(?:config(?:\.saved|\.full)?|filters6?|sysctl|sockets|files\/(?:sshd_config|chrony\.conf|ntp\.conf|rsyslog\.conf|login\.defs|resolv\.conf|timezone)|state\/[\w-]+)$/,
    ),
  command: z.string().min(1),
  /** Without it the device counts as not collected. */
  needed: z.boolean().default(false),
  /** The last line of a whole listing. */
  ends: z.string().optional(),
  /** How what it prints is written. */
  form: z.enum(['text', 'json']).default('text'),
})

/** How devices of a dialect are talked to: what is typed, and how what comes back is told apart. */
export const commandSetSchema = z.strictObject({
  dialect: z.enum(['indented', 'braced', 'setlines', 'data', 'linux']),
  /** `shell`: one session with a prompt; `exec`: a channel for each command; `netconf`: requests of RFC 6241. */
  talk: z.enum(['shell', 'exec', 'netconf']).default('shell'),
  /** Typed first, so that listings come in one piece; whatever the device answers. */
  quiet: z.array(z.string()).default([]),
  /**
   * How more rights are asked for, where the prompt shows that there are few; the device asks for a secret with the
   * words `asks`.
   */
  privileged: z.strictObject({ command: z.string(), asks: z.string(), few: z.string(), many: z.string() }).optional(),
  /** Words by which an answer that refuses a command begins. */
  refused: z.array(z.string()).default([]),
  records: z.array(recordCommandSchema).min(1),
  /** What is asked of a device about others when somebody wants to know; `{target}` is a name or an address. */
  probes: z.partialRecord(z.enum(PROBES), z.string().includes('{target}')).default({}),
})
export type CommandSet = z.infer<typeof commandSetSchema>

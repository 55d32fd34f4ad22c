/** Heads of the audit log, one for each day, signed with the key of an engagement: what was logged by then stays. */
import { z } from 'zod'

export const LOG_HEADS = 'log-heads.json'

export const logHeadSchema = z.strictObject({
  /** `YYYY-MM-DD`, UTC. */
  day: z.iso.date(),
  /** Id and hash of the last entry of that day. */
  entry: z.int().positive(),
  hash: z.string().regex(/^[\da-f]{64}$/),
  /** Ed25519, in base64. */
  signature: z.string().regex(/^[A-Za-z\d+/]{86}==$/),
})
export type SignedLogHead = z.infer<typeof logHeadSchema>

/** The bytes that are signed: day, entry and hash. */
export function logHeadMessage({ day, entry, hash }: Omit<SignedLogHead, 'signature'>): Uint8Array {
  return new TextEncoder().encode(JSON.stringify(['jurybox-log-head', 1, day, entry, hash]))
}

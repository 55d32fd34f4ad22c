import { z } from 'zod'

/** Not stated, and no default known: null. Every field of the model can be. */
export const text = z.string().nullable()
export const count = z.number().nullable()
export const flag = z.boolean().nullable()
export const names = z.array(z.string())

/**
 * A password, key or community: how it is kept and whether that stands up to an attacker who has the listing. Its text
 * is not here; two equal ones have one fingerprint (HMAC-SHA256 under the engagement's key).
 */
export const secretSchema = z.object({
  kind: z.enum([
    'clear',
    'reversible',
    'md5-crypt',
    'sha1',
    'sha256',
    'sha256-crypt',
    'sha512-crypt',
    'scrypt',
    'pbkdf2',
    'bcrypt',
    'des-crypt',
    'none',
    'unknown',
  ]),
  strong: z.boolean(),
  fingerprint: z.string(),
})
export type Secret = z.infer<typeof secretSchema>

export const filterSchema = z.object({
  /** Name of the access list, by direction and family. */
  in4: text,
  out4: text,
  in6: text,
  out6: text,
})

import { randomBytes, scrypt as scryptWithCallback, timingSafeEqual, type ScryptOptions } from 'node:crypto'

const scrypt = (password: string, salt: Buffer, length: number, options: ScryptOptions): Promise<Buffer> =>
  new Promise((resolve, reject) => scryptWithCallback(password, salt, length, options, (error, key) => (error ? reject(error) : resolve(key))))

/** RFC 7914 parameters: 2^15 blocks of 8, one lane; 32 MiB a guess. */
const COST = { N: 32_768, r: 8, p: 1, maxmem: 64 * 1024 * 1024 }

/** `scrypt$N$r$p$salt$hash`, base64url. */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16)
  const key = await scrypt(password.normalize('NFKC'), salt, 32, COST)
  return ['scrypt', COST.N, COST.r, COST.p, salt.toString('base64url'), key.toString('base64url')].join('$')
}

export async function passwordMatches(password: string, stored: string): Promise<boolean> {
  const [kind, n, r, p, salt = '', hash = ''] = stored.split('$')
  if (kind !== 'scrypt') return false
  const expected = Buffer.from(hash, 'base64url')
  const key = await scrypt(password.normalize('NFKC'), Buffer.from(salt, 'base64url'), expected.length, { N: Number(n), r: Number(r), p: Number(p), maxmem: COST.maxmem })
  return timingSafeEqual(key, expected)
}

/** A hash that no password has, so that an unknown name costs as much time as a wrong password. */
export const NOBODY = `scrypt$${COST.N}$${COST.r}$${COST.p}$${Buffer.alloc(16).toString('base64url')}$${Buffer.alloc(32).toString('base64url')}`

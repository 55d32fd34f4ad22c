import { PASSWORD_LENGTH } from '@jurybox/api/sessions'
import * as common from '@zxcvbn-ts/language-common'
import { ZxcvbnFactory } from '@zxcvbn-ts/core'
import { randomBytes, randomInt, scrypt as scryptWithCallback, timingSafeEqual, type ScryptOptions } from 'node:crypto'

const scrypt = (password: string, salt: Buffer, length: number, options: ScryptOptions): Promise<Buffer> =>
  new Promise((resolve, reject) =>
    scryptWithCallback(password, salt, length, options, (error, key) => (error ? reject(error) : resolve(key))),
  )

/** RFC 7914 parameters: 2^15 blocks of 8, one lane; 32 MiB a guess. */
const COST = { N: 32_768, r: 8, p: 1, maxmem: 64 * 1024 * 1024 }

const strength = new ZxcvbnFactory({ dictionary: common.dictionary, graphs: common.adjacencyGraphs })
/** Of five grades (0 to 4): below this a password is found within 10^8 guesses. */
const LEAST_GRADE = 3

/**
 * Why a password is refused, in words; null for one that may be used. There are no rules of composition, as NIST SP
 * 800-63B asks: only length, and that it is none of those that are guessed first.
 * @param about names that whoever guesses knows
 */
export function passwordFault(password: string, about: readonly string[]): string | null {
  const plain = password.normalize('NFKC')
  const length = [...plain].length
  if (length < PASSWORD_LENGTH.least)
    return `A password needs at least ${PASSWORD_LENGTH.least} characters. Several words are fine.`
  // Its time grows with the length; what follows makes no password weaker.
  const { score } = strength.check(plain.slice(0, 64), [...about, 'jury', 'box', 'jurybox'])
  return score < LEAST_GRADE ? 'This password is easy to guess. Choose another, such as several unrelated words.' : null
}

/** A password to hand over, which its owner has to change: 100 bits in five groups. */
export function oneTimePassword(): string {
  return Array.from({ length: 5 }, () =>
    Array.from({ length: 4 }, () => LETTERS[randomInt(LETTERS.length)]).join(''),
  ).join('-')
}

/** 32 that are not mistaken for each other. */
const LETTERS = 'abcdefghijkmnpqrstuvwxyz23456789'

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
  const key = await scrypt(password.normalize('NFKC'), Buffer.from(salt, 'base64url'), expected.length, {
    N: Number(n),
    r: Number(r),
    p: Number(p),
    maxmem: COST.maxmem,
  })
  return timingSafeEqual(key, expected)
}

/** A hash that no password has, so that an unknown name costs as much time as a wrong password. */
const ZEROS = (octets: number): string => Buffer.alloc(octets).toString('base64url')
export const NOBODY = ['scrypt', COST.N, COST.r, COST.p, ZEROS(16), ZEROS(32)].join('$')

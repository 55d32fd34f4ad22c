import { z } from 'zod'

/** Control characters and line ends, which would break lines of logs, mails and file names. */
const CONTROL = /\p{Cc}/u
const message = 'one line, without control characters'

/** A title or name: one line of at least one character. */
export function lineOf(longest: number, missing?: string): z.ZodString {
  return z
    .string()
    .trim()
    .min(1, missing)
    .max(longest)
    .refine((text) => !CONTROL.test(text), message)
}

/** One line that may be empty. */
export function lineOrNone(longest: number): z.ZodString {
  return z
    .string()
    .trim()
    .max(longest)
    .refine((text) => !CONTROL.test(text), message)
}

/** A prefix as it is written: `10.40.0.0/16`, `2001:db8::/32`. */
export function isPrefix(text: string): boolean {
  const [address = '', length = '', ...more] = text.split('/')
  if (more.length > 0 || !/^\d{1,3}$/.test(length)) return false
  if (z.ipv4().safeParse(address).success) return Number(length) <= 32
  return z.ipv6().safeParse(address).success && Number(length) <= 128
}

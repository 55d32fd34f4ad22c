import type { z } from 'zod'
import { Problem } from './problem.ts'

/** One field of a request that is not as its schema asks. */
export interface FieldFault {
  /** Names of the fields from the outside in, joined by dots; empty for the whole. */
  readonly field: string
  readonly message: string
}

/** Fields in error, each with a message for people; a form shows each beside its field. */
export function fieldFaults(error: z.ZodError): FieldFault[] {
  return error.issues.map((issue) => ({
    field: issue.path.map((part) => shortened([String(part)])).join('.'),
    message: wordsFor(issue),
  }))
}

/** What is wrong with one field, in plain words. */
function wordsFor(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return /received (undefined|null)$/.test(issue.message) ? 'is required' : `must be ${article(issue.expected)}`
    case 'too_small':
      return issue.origin === 'string' || issue.origin === 'array'
        ? Number(issue.minimum) <= 1
          ? 'is required'
          : `must have at least ${issue.minimum} ${issue.origin === 'string' ? 'characters' : 'entries'}`
        : `must be at least ${issue.minimum}`
    case 'too_big':
      return issue.origin === 'string' || issue.origin === 'array'
        ? `may have at most ${issue.maximum} ${issue.origin === 'string' ? 'characters' : 'entries'}`
        : `must be at most ${issue.maximum}`
    case 'unrecognized_keys':
      return `has ${issue.keys.length === 1 ? 'an unknown field' : 'unknown fields'}: ${shortened(issue.keys)}`
    case 'invalid_value':
      return `must be one of: ${issue.values.map(String).join(', ')}`
    case 'invalid_format':
      return FORMATS[issue.format] ?? `must be ${issue.message.replace(/^Invalid /, 'a valid ')}`
    case 'invalid_union':
      return 'is none of the allowed forms'
    // A message of our own says what the field must be, or stands as it is where it begins with "must".
    default:
      if (issue.message.startsWith('must ')) return issue.message
      return issue.message.startsWith('Invalid') ? 'is not valid' : `must be ${issue.message}`
  }
}

/** Names come from outside: few of them, and their beginnings. */
function shortened(names: readonly string[]): string {
  const shown = names.slice(0, 3).map((name) => (name.length > 60 ? `${name.slice(0, 60)}…` : name))
  return names.length > shown.length ? `${shown.join(', ')} and ${names.length - shown.length} more` : shown.join(', ')
}

/** By the name that the schema library gives to a format. */
const FORMATS: Readonly<Record<string, string>> = {
  datetime: 'must be a date and time with its zone, such as 2026-11-30T09:00:00Z',
  date: 'must be a date, such as 2026-11-30',
  time: 'must be a time, such as 06:30',
  email: 'must be a mail address',
  url: 'must be an address that begins with https:// or http://',
}

const article = (type: string): string => `${/^[aeio]/.test(type) ? 'an' : 'a'} ${type}`

/** The problem of a request that does not fit its schema: a sentence, and each field with its fault. */
export function invalid(error: z.ZodError, what: 'body' | 'query'): Problem {
  const fields = fieldFaults(error)
  const [first] = fields
  const others = fields.length > 1 ? ` (and ${fields.length - 1} more)` : ''
  const named = first && first.field !== '' ? `“${first.field}”` : what === 'body' ? 'The request' : 'The address'
  return new Problem(400, `${named} ${first?.message ?? 'is not valid'}${others}.`, { code: 'invalid', fields })
}

/** Parts that several kinds have in common: their schemas, their words, their fields in the form. */
import { z } from 'zod'
import type { FormField } from './kind.ts'

/** One pattern, or several of which one matches. */
export const patternsSchema = z.union([z.string(), z.array(z.string()).min(1)])
export type Patterns = z.infer<typeof patternsSchema>

export const nameSchema = z.string().regex(/^[a-z]\w*$/, 'expected a name of lower-case letters, digits and _')

export const familySchema = z.enum(['ipv4', 'ipv6'])
export type Family = z.infer<typeof familySchema>

export const IN_FIELD: FormField = {
  path: ['in'],
  title: 'In the block',
  as: 'patterns',
  optional: true,
  hint: 'Patterns of the blocks that lead there, outermost first',
}

export const WHERE_FIELD: FormField = {
  path: ['where'],
  title: 'Where',
  as: 'text',
  optional: true,
  hint: 'An expression over what the pattern names',
}

export function linesOf(text: string): string[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
}

export function quoted(lines: readonly string[]): string {
  return lines.map((line) => `‹${line}›`).join(', ')
}

export function eitherOf(patterns: Patterns): string {
  return [patterns]
    .flat()
    .map((pattern) => `‹${pattern}›`)
    .join(' or ')
}

/** Where it looks, as words. */
export function inWords(chain: Patterns | undefined): string {
  return chain === undefined
    ? ''
    : ` in ${[chain]
        .flat()
        .map((step) => `‹${step}›`)
        .join(' › ')}`
}

export function whereWords(expression: string | undefined): string {
  return expression === undefined ? '' : ` where ${expression}`
}

/** What an expression that may be left out needs. */
export function expressionsOf(...sources: readonly (string | undefined)[]): string[] {
  return sources.filter((source) => source !== undefined)
}

import { z } from 'zod'
import { readBeside } from '../../syntax/index.ts'

const places = z
  .union([z.string().min(1), z.array(z.string().min(1)).min(1)])
  .transform((one) => (typeof one === 'string' ? [one] : one))

const MUSTS =
  'arrive, not-arrive, be-answered, or one of pass-through, never-through, protected and paths with what it needs'

/** Names the keys that there are, where one is not among them. */
function keysOf(shape: object): {
  error: (issue: { code?: string | undefined; keys?: readonly string[] | undefined }) => string | undefined
} {
  return {
    error: ({ code, keys }) =>
      code === 'unrecognized_keys'
        ? `unknown key ${(keys ?? []).map((key) => `"${key}"`).join(', ')}; expected one of ` +
          `${Object.keys(shape).join(', ')}`
        : undefined,
  }
}

/** What must be true of packets from some places to others. */
export const mustSchema = z.union(
  [
    z.enum(['arrive', 'not-arrive', 'be-answered']),
    z.strictObject({ 'pass-through': places }),
    z.strictObject({ 'never-through': places }),
    z.strictObject({
      protected: z.strictObject({
        by: z
          .array(z.enum(['ipsec', 'macsec', 'attested']))
          .min(1)
          .default(['ipsec', 'macsec']),
        /** At least one of these is in use, as lines or captured associations name them. */
        algorithms: z.array(z.string().min(1)).default([]),
        /** From one device to another; without, on every link between devices. */
        between: z.tuple([z.string(), z.string()]).optional(),
      }),
    }),
    z.strictObject({ paths: z.int().min(2).max(4) }),
  ],
  { error: ({ input }) => `${JSON.stringify(input)} is not a requirement; expected ${MUSTS}` },
)
export type Must = z.infer<typeof mustSchema>

/** A statement about traffic that must hold. */
const expectationShape = {
  id: z.string().regex(/^[a-z0-9][a-z0-9-]*$/, 'expected lower-case letters, digits and hyphens'),
  title: z.string().min(1),
  from: places,
  to: places,
  /** A class of headers in the syntax of pcap-filter(7). */
  only: z.string().optional(),
  /** `first`: packets that begin a connection; `all`: every header. */
  packets: z.enum(['first', 'all']).default('first'),
  must: mustSchema,
  severity: z.enum(['info', 'low', 'medium', 'high']).default('medium'),
  /** Requirements that it is evidence for, as `framework:number`. */
  references: z.array(z.string()).default([]),
}
export const expectationSchema = z.strictObject(expectationShape, keysOf(expectationShape))
export type Expectation = z.infer<typeof expectationSchema>

export const expectationsFileSchema = z.strictObject({
  expectations: z.array(expectationSchema).superRefine((all, context) => {
    const seen = new Set<string>()
    for (const { id } of all) {
      if (seen.has(id)) context.addIssue({ code: 'custom', message: `the id ${id} is there twice` })
      seen.add(id)
    }
  }),
})

/** Reads `expectations.yaml`. @throws CompanionFileError */
export function readExpectations(file: { readonly path: string; readonly text: string }): readonly Expectation[] {
  return readBeside(file, expectationsFileSchema).expectations
}

/** What must hold, in words. */
export function mustWords(must: Must): string {
  if (must === 'arrive') return 'must arrive'
  if (must === 'not-arrive') return 'must not arrive'
  if (must === 'be-answered') return 'must arrive, and replies must return'
  if ('pass-through' in must) return `must pass through ${must['pass-through'].join(' or ')}`
  if ('never-through' in must) return `must never pass through ${must['never-through'].join(' or ')}`
  if ('paths' in must) return `must have ${must.paths} paths that share no device`
  const { by, algorithms, between } = must.protected
  return (
    'must be protected by ' +
    `${by.join(' or ')}${algorithms.length > 0 ? ` (${algorithms.join(', ')})` : ''} ` +
    `${between ? `from ${between.join(' to ')}` : 'on every link'}`
  )
}

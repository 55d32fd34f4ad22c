/** Values that programs trip over, and bodies made of them after a JSON Schema. Every draw comes from one seed. */

/** Numbers from 0 to 1, the same for the same seed (mulberry32, public domain). */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let t = state
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

export type Random = () => number

export function oneOf<T>(random: Random, all: readonly T[]): T {
  return all[Math.floor(random() * all.length)] as T
}

const TEXTS = [
  '',
  ' ',
  '\0',
  'a\nb\r\nSet-Cookie: x=1',
  '‮',
  '\ud800',
  'x'.repeat(5_000),
  'x'.repeat(60_000),
  `${'\n '.repeat(3_000)}x`,
  "'; DROP TABLE users; --",
  '" OR 1=1 --',
  '<script>alert(1)</script>',
  '../../../../etc/passwd',
  '__proto__',
  'constructor',
  'toString',
  '${7*7}',
  '{{7*7}}',
  '%00%2e%2e',
  '=HYPERLINK("http://x")',
  'null',
  'NaN',
  '(a+)+$',
  '[',
  '(?=x)',
  'a'.repeat(64),
  '2026-13-45T99:99:99Z',
  '9999-12-31T23:59:59Z',
  '0000-00-00',
  '* * * * *',
  '10.0.0.0/33',
  '::ffff:127.0.0.1',
  '255.255.255.255',
  'interfaces.all(x, interfaces.all(y, true))',
  'site == "qs"',
]
/** As they stand in JSON: some cannot be written otherwise. */
const NUMBERS = ['0', '-1', '1', '0.5', '1e308', '1e400', '-1e400', '9007199254740993', '4294967296', '-0', '1e-400']

interface Schema {
  readonly type?: string | readonly string[]
  readonly properties?: Readonly<Record<string, Schema>>
  readonly required?: readonly string[]
  readonly items?: Schema
  readonly anyOf?: readonly Schema[]
  readonly oneOf?: readonly Schema[]
  readonly enum?: readonly unknown[]
  readonly const?: unknown
  readonly additionalProperties?: Schema | boolean
  readonly format?: string
  readonly pattern?: string
}

/** JSON that a schema asks for, with hostile values in the places of its leaves. */
export function bodyAfter(schema: Schema, random: Random, depth = 0): string {
  // Now and then something else than was asked for.
  if (random() < 0.04)
    return oneOf(random, [
      'null',
      '[]',
      '{}',
      '""',
      'true',
      '[[[[[[[[1]]]]]]]]',
      `"${'y'.repeat(2_000)}"`,
      `${'['.repeat(60)}${']'.repeat(60)}`,
    ])
  if (schema.const !== undefined) return JSON.stringify(schema.const)
  if (schema.enum)
    return random() < 0.9 ? JSON.stringify(oneOf(random, schema.enum)) : JSON.stringify(oneOf(random, TEXTS))
  const choice = schema.anyOf ?? schema.oneOf
  if (choice) return bodyAfter(oneOf(random, choice), random, depth)
  const type = Array.isArray(schema.type) ? oneOf(random, schema.type as readonly string[]) : schema.type
  switch (type) {
    case 'object': {
      const fields = Object.entries(schema.properties ?? {}).filter(
        ([name]) => (schema.required?.includes(name) ?? false) || random() < 0.6,
      )
      const text = fields
        .filter(() => random() > 0.03)
        .map(([name, inner]) => `${JSON.stringify(name)}:${bodyAfter(inner, random, depth + 1)}`)
      if (schema.additionalProperties && typeof schema.additionalProperties === 'object') {
        for (const name of ['a', 'constructor', '__proto__'])
          text.push(`${JSON.stringify(name)}:${bodyAfter(schema.additionalProperties, random, depth + 1)}`)
      }
      if (random() < 0.03) text.push(`${JSON.stringify(oneOf(random, TEXTS))}:1`)
      return `{${text.join(',')}}`
    }
    case 'array': {
      const length = depth > 4 ? 0 : oneOf(random, [0, 1, 1, 2, 3, 200])
      return `[${Array.from({ length }, () => bodyAfter(schema.items ?? {}, random, depth + 1)).join(',')}]`
    }
    case 'integer':
    case 'number':
      return oneOf(random, NUMBERS)
    case 'boolean':
      return oneOf(random, ['true', 'false', '1'])
    case 'null':
      return 'null'
    default:
      return JSON.stringify(
        oneOf(
          random,
          schema.format === 'date-time' && random() < 0.7 ? ['2026-11-02T10:00:00Z', '1970-01-01T00:00:00Z'] : TEXTS,
        ),
      )
  }
}

/** Values for the parts of a path. */
export const IN_PATHS = [
  '1',
  '2',
  '0',
  '-1',
  '999999',
  '1e400',
  '%',
  '%00',
  '..%2f..%2fetc',
  'constructor',
  '1;2',
  'a'.repeat(2_000),
]

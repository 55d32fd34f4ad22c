import { utf8ToBytes } from '@noble/hashes/utils.js'
import { z } from 'zod'
import { CoreError, firstLineOf, lineOfError, readLocatedYaml, sha256Hex, type LocatedYaml } from '../syntax/index.ts'
import { isAddress, parsePrefix } from '../model/index.ts'
import {
  compileRule,
  ruleSchema,
  severitySchema,
  userPattern,
  valueSchema,
  type Rule,
  type ValueSource,
} from '../rules/index.ts'

export const benchmarkSchema = z.strictObject({
  id: z.string().regex(/^[a-z][a-z0-9-]*$/),
  title: z.string(),
  version: z.string(),
  statement: z.string(),
  /** From the smallest to the widest: each holds the rules of those before it. */
  profiles: z.array(z.strictObject({ id: z.string(), title: z.string() })).min(1),
  /** Topics of the rules, in the order in which they are shown. */
  topics: z.array(z.string()).default([]),
  values: z.record(z.string(), valueSchema).default({}),
  rules: z.array(ruleSchema).default([]),
  /** What only a person can answer. */
  attestations: z
    .array(
      z.strictObject({
        id: z.string().regex(/^[a-z][a-z0-9-]*$/),
        title: z.string().min(1),
        topic: z.string().min(1),
        severity: severitySchema,
        profile: z.string().min(1),
        question: z.string().min(1),
        /** What is to be shown for it. */
        evidence: z.string().min(1),
        references: z.array(z.string()).default([]),
        /** How long an answer counts. */
        days: z.int().min(1).default(365),
      }),
    )
    .default([]),
})
export type AttestationSource = BenchmarkSource['attestations'][number]
export type BenchmarkSource = z.infer<typeof benchmarkSchema>

export interface Benchmark {
  readonly source: BenchmarkSource
  readonly rules: readonly Rule[]
  /** SHA-256 of the text it was read from: its version in every record of an audit. */
  readonly hash: string
}

/** A value as set by people: text, a whole number, or a list of texts. */
export type Value = string | number | readonly string[]

/**
 * Reads a benchmark from its YAML text.
 * @throws CoreError `benchmark` that names the line and what was expected there
 */
export function readBenchmark(text: string): Benchmark {
  let located: LocatedYaml
  try {
    located = readLocatedYaml(text)
  } catch (error) {
    throw invalid(lineOfError(error), `The benchmark is not valid YAML: ${firstLineOf(error)}`)
  }
  const parsed = benchmarkSchema.safeParse(located.data)
  if (!parsed.success) {
    const faults = parsed.error.issues.map(({ path, message }) => ({
      line: located.lineAt(path),
      text: `(${pathText(path)}): ${message}`,
    }))
    const told = faults.map(({ line, text }) => `line ${line} ${text}`).join('\n')
    throw invalid(faults[0]?.line, `The benchmark is not valid: ${told}`)
  }
  const source = parsed.data
  const profiles = new Set(source.profiles.map((profile) => profile.id))
  const seen = new Set<string>()
  if (source.rules.length + source.attestations.length === 0)
    throw invalid(1, `Benchmark "${source.id}" has neither rules nor attestations`)
  for (const part of ['rules', 'attestations'] as const) {
    for (const [i, { id, profile }] of source[part].entries()) {
      const wrong = (reason: string): CoreError => invalid(located.lineAt([part, i]), `Rule "${id}"${reason}`)
      if (!profiles.has(profile)) throw wrong(`: profile "${profile}" is not one of ${[...profiles].join(', ')}`)
      if (seen.has(id)) throw wrong(' stands twice')
      seen.add(id)
    }
  }
  const rules = source.rules.map((rule, i) => {
    try {
      return compileRule(rule)
    } catch (error) {
      const line = located.lineAt(['rules', i])
      throw invalid(line, `Line ${line}: ${error instanceof Error ? error.message : String(error)}`)
    }
  })
  return { source, rules, hash: hashOf(text) }
}

/**
 * A benchmark that was read before, when it was compiled: nothing is checked again.
 * @param source what `readBenchmark` made of the same text
 */
export function benchmarkAsRead(source: BenchmarkSource, text: string): Benchmark {
  return { source, rules: source.rules.map((rule) => compileRule(rule, 'when asked')), hash: hashOf(text) }
}

/** @returns SHA-256 of a text in hexadecimal digits */
function hashOf(text: string): string {
  return sha256Hex(utf8ToBytes(text))
}

function invalid(line: number | undefined, message: string): CoreError {
  return new CoreError('benchmark', message, line === undefined ? {} : { line })
}

function pathText(path: readonly PropertyKey[]): string {
  return path.map((step, i) => (typeof step === 'number' ? `[${step}]` : `${i > 0 ? '.' : ''}${String(step)}`)).join('')
}

/** Rules of a profile; all of them where none is named. @throws CoreError `profile` that names those there are */
export function rulesOf(benchmark: Benchmark, profile: string | null): readonly Rule[] {
  if (profile === null) return benchmark.rules
  const order = benchmark.source.profiles.map((p) => p.id)
  const level = order.indexOf(profile)
  if (level < 0)
    throw new CoreError(
      'profile',
      `Benchmark "${benchmark.source.id}" has no profile "${profile}" (it has ${order.join(', ')})`,
    )
  return benchmark.rules.filter((rule) => order.indexOf(rule.source.profile) <= level)
}

/**
 * The values that rules see: what is set, else the default, else null. Whole numbers as bigint.
 * @throws CoreError `value` that names the value and what was expected
 */
export function effectiveValues(
  source: BenchmarkSource,
  set: Readonly<Record<string, Value>>,
): Record<string, unknown> {
  for (const name of Object.keys(set)) {
    if (!Object.hasOwn(source.values, name))
      throw new CoreError(
        'value',
        `Benchmark "${source.id}" has no value "${name}" (it has ${Object.keys(source.values).join(', ')})`,
      )
  }
  return Object.fromEntries(
    Object.entries(source.values).map(([name, value]) => {
      const given = Object.hasOwn(set, name) ? set[name] : value.default
      if (given === undefined) return [name, null]
      const checked = checkValue(name, value, given)
      return [name, typeof checked === 'number' ? BigInt(checked) : checked]
    }),
  )
}

/** Checks one value against its type. Texts are read as people type them: `a,b` is a list. @throws CoreError `value` */
export function checkValue(name: string, value: ValueSource, given: Value): Value {
  const fail = (expected: string): never => {
    throw new CoreError('value', `Value "${name}": expected ${expected}, got ${JSON.stringify(given)}`)
  }
  switch (value.type) {
    case 'int': {
      const number =
        typeof given === 'number'
          ? given
          : typeof given === 'string' && /^-?\d+$/.test(given.trim())
            ? Number(given)
            : fail('a whole number')
      if (!Number.isSafeInteger(number)) return fail('a whole number')
      if (value.min !== undefined && number < value.min) return fail(`at least ${value.min}`)
      if (value.max !== undefined && number > value.max) return fail(`at most ${value.max}`)
      return number
    }
    case 'text':
      return typeof given === 'string' ? given : fail('a text')
    case 'pattern':
      if (typeof given !== 'string') return fail('a pattern in RE2 syntax')
      userPattern(given)
      return given
    case 'hosts':
    case 'prefixes': {
      const list = (typeof given === 'string' ? given.split(',') : typeof given === 'number' ? [String(given)] : given)
        .map((item) => item.trim())
        .filter(Boolean)
      for (const item of list) {
        if (value.type === 'prefixes' && !parsePrefix(item))
          return fail(`prefixes such as 10.0.0.0/8 (not ${JSON.stringify(item)})`)
        if (
          value.type === 'hosts' &&
          !isAddress(item) &&
          (!/^[A-Za-z0-9]([A-Za-z0-9.-]*[A-Za-z0-9])?$/.test(item) || /^[\d.]+$/.test(item))
        )
          return fail(`addresses or host names (not ${JSON.stringify(item)})`)
      }
      return list
    }
  }
}

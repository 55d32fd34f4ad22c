import { Environment } from '@marcbachmann/cel-js'
import { RE2JS } from 're2js'
import { Recent, withoutFingerprints } from '../syntax/index.ts'
import { currentClock } from './clock.ts'
import type { Node } from './steadiness.ts'
import { addressWords, addressesMeet, coversAddresses, parsePrefix, type Bindings } from '../model/index.ts'

/** A compiled CEL expression over the values of the benchmark and what patterns have bound. */
export interface Expression {
  readonly source: string
  /** As it was parsed. */
  readonly ast: Node
  /** @throws Error with the expression's own message, where it cannot be evaluated */
  evaluate(names: Bindings): unknown
}

/**
 * A compiled RE2 pattern that remembers what it said of recent texts: the linear-time engine is thorough, not quick.
 */
export interface UserPattern {
  test(text: string): boolean
}

const patterns = new Map<string, UserPattern>()

/** Compiles an RE2 pattern once. @throws Error that names the pattern */
export function userPattern(source: string): UserPattern {
  let compiled = patterns.get(source)
  if (!compiled) {
    try {
      compiled = remembering(RE2JS.compile(source))
    } catch (error) {
      throw new Error(
        `Pattern ${JSON.stringify(source)} is not RE2 syntax: ${error instanceof Error ? error.message : String(error)}`,
      )
    }
    if (patterns.size > 1_000) patterns.clear()
    patterns.set(source, compiled)
  }
  return compiled
}

function remembering(pattern: RE2JS): UserPattern {
  const recent = new Recent<boolean>(2_000)
  return {
    test: (stated) => {
      const text = withoutFingerprints(stated)
      if (text.length > 240) return pattern.test(text)
      let answer = recent.get(text)
      if (answer === undefined) recent.set(text, (answer = pattern.test(text)))
      return answer
    },
  }
}

/** The same address written differently (`2001:DB8::1`, `2001:db8:0::1`) is the same; names compare without case. */
export function sameHost(a: string, b: string): boolean {
  return canonicalHost(a) === canonicalHost(b)
}

export function canonicalHost(text: string): string {
  const v4 = addressWords(text, 'ipv4')
  if (v4 !== null) return `4:${v4.join()}`
  const v6 = addressWords(text, 'ipv6')
  return v6 === null ? text.toLowerCase().replace(/\.$/, '') : `6:${v6.join()}`
}

const environment = new Environment({
  unlistedVariablesAreDyn: true,
  limits: { maxAstNodes: 500, maxDepth: 24, maxListElements: 200, maxMapEntries: 50, maxCallArguments: 8 },
})
  // RE2 syntax in linear time, in place of `matches`, which backtracks and is refused.
  .registerFunction('found(string, string): bool', (text: string, pattern: string) => userPattern(pattern).test(text))
  .registerFunction('without(string, string): string', (text: string, word: string) =>
    text
      .split(' ')
      .filter((w) => w !== word)
      .join(' '),
  )
  .registerFunction('words(string): list<string>', (text: string) => text.split(' '))
  .registerFunction('among(string, list<dyn>): bool', (host: string, hosts: unknown[]) =>
    hosts.some((other) => sameHost(host, String(other))),
  )
  // Numbers as configurations list them: "4", "1 - 3".
  .registerFunction('numbered(string, list<dyn>): bool', (text: string, ranges: unknown[]) =>
    ranges.some((range) => {
      const [from, to = from] = String(range).split('-').map(Number)
      return from !== undefined && to !== undefined && Number(text) >= from && Number(text) <= to
    }),
  )
  .registerFunction('inside(string, string): bool', isInside)

/**
 * Functions of the language that look into a text, with those that stand in for them: the digits of a mark are no text
 * that anybody stated, so that they are not found.
 */
const LOOKING_INTO: Readonly<Record<string, string>> = {
  contains: 'holdsText',
  indexOf: 'placeOfText',
  lastIndexOf: 'lastPlaceOfText',
  split: 'partsOfText',
}

environment
  .registerFunction('string.holdsText(string): bool', (text: string, part: string) =>
    withoutFingerprints(text).includes(part),
  )
  .registerFunction('string.placeOfText(string): int', (text: string, part: string) =>
    BigInt(withoutFingerprints(text).indexOf(part)),
  )
  .registerFunction('string.placeOfText(string, int): int', (text: string, part: string, from: bigint) =>
    BigInt(withoutFingerprints(text).indexOf(part, placeIn(text, from))),
  )
  .registerFunction('string.lastPlaceOfText(string): int', (text: string, part: string) =>
    BigInt(withoutFingerprints(text).lastIndexOf(part)),
  )
  .registerFunction('string.lastPlaceOfText(string, int): int', (text: string, part: string, from: bigint) =>
    BigInt(withoutFingerprints(text).lastIndexOf(part, placeIn(text, from))),
  )
  .registerFunction('string.partsOfText(string): list<string>', (text: string, by: string) =>
    withoutFingerprints(text).split(by),
  )
  .registerFunction('string.partsOfText(string, int): list<string>', (text: string, by: string, most: bigint) => {
    const parts = withoutFingerprints(text).split(by)
    const limit = Number(most)
    // The last part is all that is left; a limit below zero is none.
    return limit < 0 || parts.length <= limit
      ? parts
      : limit === 0
        ? []
        : [...parts.slice(0, limit - 1), parts.slice(limit - 1).join(by)]
  })

function placeIn(text: string, from: bigint): number {
  if (from < 0n || from >= BigInt(text.length)) throw new Error(`${from} is no place in a text of ${text.length}`)
  return Number(from)
}

/** Puts the functions above in place of those that they stand in for. */
function lookIntoStatedText(node: unknown): void {
  if (Array.isArray(node)) return node.forEach(lookIntoStatedText)
  if (typeof node !== 'object' || node === null || !('args' in node)) return
  const { op, args } = node as { readonly op?: unknown; readonly args: unknown }
  if (op === 'rcall' && Array.isArray(args)) args[0] = LOOKING_INTO[String(args[0])] ?? args[0]
  lookIntoStatedText(args)
}

function isInside(address: string, prefix: string): boolean {
  const outer = parsePrefix(prefix)
  const inner = parsePrefix(address)
  return (
    !!outer && !!inner && outer.family === inner.family && addressesMeet(outer, inner) && coversAddresses(outer, inner)
  )
}

/** VLANs as configurations list them: `10,20-29`, `all`, `except 1-9`, `none` (IEEE 802.1Q: 1 to 4094). */
/** Marks that may stand around a text, the usual one first. */
const DELIMITERS = '#%$&~^|@'

export function vlansOf(text: string): Set<number> {
  const words = text.trim().toLowerCase()
  if (words === 'all') return vlansOf('1-4094')
  if (words === 'none' || words === '') return new Set()
  if (words.startsWith('except ')) {
    const left = vlansOf('all')
    for (const one of vlansOf(words.slice('except '.length))) left.delete(one)
    return left
  }
  return new Set(
    words.split(/[\s,]+/).flatMap((part) => {
      const [from = 0, to = from] = part.split('-').map(Number)
      return from >= 1 && to <= 4094 ? Array.from({ length: to - from + 1 }, (_, i) => from + i) : []
    }),
  )
}

/** How often the entries of a list have each value at a path; counted once for each list, however many entries ask. */
function countsOf(list: unknown[], path: string): ReadonlyMap<unknown, number> {
  let byPath = counted.get(list)
  if (!byPath) counted.set(list, (byPath = new Map()))
  const known = byPath.get(path)
  if (known) return known
  const counts = new Map<unknown, number>()
  const steps = path.split('.')
  for (const entry of list) {
    const value = steps.reduce<unknown>(
      (inner, step) => (typeof inner === 'object' && inner !== null ? (inner as Record<string, unknown>)[step] : null),
      entry,
    )
    if (value !== null && value !== undefined) counts.set(value, (counts.get(value) ?? 0) + 1)
  }
  byPath.set(path, counts)
  return counts
}

const counted = new WeakMap<unknown[], Map<string, ReadonlyMap<unknown, number>>>()

const DAY = 86_400_000

environment
  // Text as it is typed: in quotes with what would end them escaped, and between marks that it does not hold.
  .registerFunction(
    'quoted(string): string',
    (text: string) => `"${text.replace(/[\\"]/g, '\\$&').replaceAll('\n', '\\n')}"`,
  )
  .registerFunction('delimited(string): string', (text: string) => {
    const mark = [...DELIMITERS].find((one) => !text.includes(one)) ?? ''
    if (mark === '') throw new Error(`the text holds every one of ${DELIMITERS}: none is left to end it`)
    return `${mark}${text}${mark}`
  })
  .registerFunction('vlanCount(string): int', (text: string) => BigInt(vlansOf(text).size))
  // Whether all VLANs of one list are in another.
  .registerFunction('vlansWithin(string, string): bool', (inner: string, outer: string) => {
    const held = vlansOf(outer)
    return [...vlansOf(inner)].every((one) => held.has(one))
  })
  .registerFunction('overlaps(string, string): bool', (a: string, b: string) => {
    const [left, right] = [parsePrefix(a), parsePrefix(b)]
    return !!left && !!right && left.family === right.family && addressesMeet(left, right)
  })
  // Whether some prefix of a list holds the whole of another.
  .registerFunction('covered(string, list<dyn>): bool', (prefix: string, by: unknown[]) =>
    by.some((outer) => isInside(prefix, String(outer))),
  )
  .registerFunction('holdsAll(list<dyn>, list<dyn>): bool', (list: unknown[], wanted: unknown[]) =>
    wanted.every((one) => list.includes(one)),
  )
  .registerFunction('meet(list<dyn>, list<dyn>): bool', (a: unknown[], b: unknown[]) =>
    a.some((one) => b.includes(one)),
  )
  // Elements of a list that another does not have.
  .registerFunction('lacking(list<dyn>, list<dyn>): list<dyn>', (list: unknown[], other: unknown[]) =>
    list.filter((one) => !other.includes(one)),
  )
  .registerFunction(
    'repeated(list<dyn>, string, dyn): bool',
    (list: unknown[], path: string, value: unknown) => (countsOf(list, path).get(value) ?? 0) > 1,
  )
  // Times as RFC 3339: whether it has come, or comes within so many days.
  .registerFunction('expired(string): bool', (time: string) => currentClock().reached(momentOf(time)))
  .registerFunction('expiresWithin(string, int): bool', (time: string, days: bigint) =>
    currentClock().reached(momentOf(time) - Number(days) * DAY),
  )

function momentOf(time: string): number {
  const moment = Date.parse(time)
  if (Number.isNaN(moment)) throw new Error(`"${time}" is no time (expected RFC 3339)`)
  return moment
}

/** @throws Error that names the expression and what is wrong with it */
export function compileExpression(source: string): Expression {
  if (/\.\s*matches\s*\(|\bmatches\s*\(/.test(source))
    throw new Error(
      `Expression "${source}": "matches" has no bound on its run time; use found(text, pattern), in RE2 syntax`,
    )
  let run: ReturnType<typeof environment.parse>
  try {
    run = environment.parse(source)
    lookIntoStatedText(run.ast)
  } catch (error) {
    throw new Error(
      `Expression "${source}": ${error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error)}`,
    )
  }
  return {
    source,
    ast: run.ast as unknown as Node,
    evaluate: (names) => run(names as Record<string, unknown>) as unknown,
  }
}

/** Names and fields that an expression reads: `system.ntp.servers`, the names of methods left out. */
export function fieldsIn(expression: string): string[] {
  const bare = expression.replace(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'/g, '""')
  const fields = [...bare.matchAll(/(?<![\w.])([a-zA-Z_]\w*(?:\.[a-zA-Z_]\w*)*)(\s*\()?/g)].map(
    ([, path = '', call]) => (call === undefined ? path : path.split('.').slice(0, -1).join('.')),
  )
  return [...new Set(fields.filter(Boolean))]
}

/** Text with `${expression}` in it. */
export interface Template {
  readonly source: string
  render(names: Bindings, show?: (value: string) => string): string
}

/** The expressions in a text with `${expression}` in it. */
export function expressionsInTemplate(source: string): string[] {
  return source.split(TEMPLATE_PART).filter((_, i) => i % 2 === 1)
}

const TEMPLATE_PART = /\$\{([^}]*)\}/

/**
 * An expression that is one name needs no evaluation, unless the name is not bound: then the error is the language's
 * own.
 */
function nameAlone(name: string): Expression {
  const expression = compileExpression(name)
  return { ...expression, evaluate: (names) => names[name] ?? expression.evaluate(names) }
}

function shown(value: unknown): string {
  return Array.isArray(value) ? value.map(String).join(', ') : String(value)
}

/** @throws Error as `compileExpression` */
export function compileTemplate(source: string): Template {
  const parts = source.split(TEMPLATE_PART)
  const compiled = parts.map((part, i) =>
    i % 2 === 0 ? part : /^[a-z_]\w*$/i.test(part) ? nameAlone(part) : compileExpression(part),
  )
  return {
    source,
    render: (names, show = (value) => value) =>
      compiled.map((part) => (typeof part === 'string' ? part : show(shown(part.evaluate(names))))).join(''),
  }
}

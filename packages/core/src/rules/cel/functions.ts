/** The functions that expressions have besides those of the language. */
import { addressWords, addressesMeet, coversAddresses, parsePrefix, vlansOf } from '../../model/index.ts'
import { withoutFingerprints } from '../../syntax/index.ts'
import { currentClock } from '../clock.ts'
import { userPattern } from './user-pattern.ts'

/** One function: `name(types): type`, or `type.name(types): type` of what stands before the dot. */
export interface CelFunction {
  readonly signature: string
  readonly run: (...args: never[]) => unknown
}

export const FUNCTIONS: CelFunction[] = []

function define<A extends never[]>(signature: string, run: (...args: A) => unknown): void {
  FUNCTIONS.push({ signature, run: run as CelFunction['run'] })
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

// RE2 syntax in linear time, in place of `matches`, which backtracks and is refused.
define('found(string, string): bool', (text: string, pattern: string) => userPattern(pattern).test(text))
define('without(string, string): string', (text: string, word: string) =>
  text
    .split(' ')
    .filter((w) => w !== word)
    .join(' '),
)
define('words(string): list<string>', (text: string) => text.split(' '))
define('among(string, list<dyn>): bool', (host: string, hosts: unknown[]) =>
  hosts.some((other) => sameHost(host, String(other))),
)
// Numbers as configurations list them: "4", "1 - 3".
define('numbered(string, list<dyn>): bool', (text: string, ranges: unknown[]) =>
  ranges.some((range) => {
    const [from, to = from] = String(range).split('-').map(Number)
    return from !== undefined && to !== undefined && Number(text) >= from && Number(text) <= to
  }),
)
define('inside(string, string): bool', isInside)

define('string.holdsText(string): bool', (text: string, part: string) => withoutFingerprints(text).includes(part))
define('string.placeOfText(string): int', (text: string, part: string) =>
  BigInt(withoutFingerprints(text).indexOf(part)),
)
define('string.placeOfText(string, int): int', (text: string, part: string, from: bigint) =>
  BigInt(withoutFingerprints(text).indexOf(part, placeIn(text, from))),
)
define('string.lastPlaceOfText(string): int', (text: string, part: string) =>
  BigInt(withoutFingerprints(text).lastIndexOf(part)),
)
define('string.lastPlaceOfText(string, int): int', (text: string, part: string, from: bigint) =>
  BigInt(withoutFingerprints(text).lastIndexOf(part, placeIn(text, from))),
)
define('string.partsOfText(string): list<string>', (text: string, by: string) => withoutFingerprints(text).split(by))
define('string.partsOfText(string, int): list<string>', (text: string, by: string, most: bigint) => {
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

function isInside(address: string, prefix: string): boolean {
  const outer = parsePrefix(prefix)
  const inner = parsePrefix(address)
  return (
    !!outer && !!inner && outer.family === inner.family && addressesMeet(outer, inner) && coversAddresses(outer, inner)
  )
}

/** VLANs as configurations list them: `10,20-29`, `all`, `except 1-9`, `none` (IEEE 802.1Q: 1 to 4094). */
/** Delimiters for a text, the usual one first. */
const DELIMITERS = '#%$&~^|@'

/** @throws Error where the list is not read: a list of which nothing is known is within no other, and holds none */
function vlansIn(text: string): ReadonlySet<number> {
  const vlans = vlansOf(text)
  if (vlans === null) throw new Error(`“${text}” is no list of VLANs (expected 30,40-42, all, none or except 30)`)
  return vlans
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

// Text as it is typed: in quotes with what would end them escaped, and between marks that it does not hold.
define('quoted(string): string', (text: string) => `"${text.replace(/[\\"]/g, '\\$&').replaceAll('\n', '\\n')}"`)
define('delimited(string): string', (text: string) => {
  const mark = [...DELIMITERS].find((one) => !text.includes(one)) ?? ''
  if (mark === '') throw new Error(`the text holds every one of ${DELIMITERS}: none is left to end it`)
  return `${mark}${text}${mark}`
})
define('vlanCount(string): int', (text: string) => BigInt(vlansIn(text).size))
// Whether all VLANs of one list are in another.
define('vlansWithin(string, string): bool', (inner: string, outer: string) => {
  const held = vlansIn(outer)
  return [...vlansIn(inner)].every((one) => held.has(one))
})
define('overlaps(string, string): bool', (a: string, b: string) => {
  const [left, right] = [parsePrefix(a), parsePrefix(b)]
  return !!left && !!right && left.family === right.family && addressesMeet(left, right)
})
// Whether some prefix of a list holds the whole of another.
define('covered(string, list<dyn>): bool', (prefix: string, by: unknown[]) =>
  by.some((outer) => isInside(prefix, String(outer))),
)
define('holdsAll(list<dyn>, list<dyn>): bool', (list: unknown[], wanted: unknown[]) =>
  wanted.every((one) => list.includes(one)),
)
define('meet(list<dyn>, list<dyn>): bool', (a: unknown[], b: unknown[]) => a.some((one) => b.includes(one)))
// Elements of a list that another does not have.
define('lacking(list<dyn>, list<dyn>): list<dyn>', (list: unknown[], other: unknown[]) =>
  list.filter((one) => !other.includes(one)),
)
define(
  'repeated(list<dyn>, string, dyn): bool',
  (list: unknown[], path: string, value: unknown) => (countsOf(list, path).get(value) ?? 0) > 1,
)
// Times as RFC 3339: whether it has come, or comes within so many days.
define('expired(string): bool', (time: string) => currentClock().reached(momentOf(time)))
define('expiresWithin(string, int): bool', (time: string, days: bigint) =>
  currentClock().reached(momentOf(time) - Number(days) * DAY),
)

function momentOf(time: string): number {
  const moment = Date.parse(time)
  if (Number.isNaN(moment)) throw new Error(`"${time}" is no time (expected RFC 3339)`)
  return moment
}

/** Bits of a field as a diagram tests them, and the ranges and prefixes that they are. */
import type { AddressMatch, Range } from '../model/index.ts'

/** Bits of a field as they are tested: value and care, most significant word first, as many as the field needs. */
export interface Cube {
  readonly value: readonly number[]
  readonly care: readonly number[]
}
/** Free bits before the last that is not: each doubles what has to be said. */
export const MOST_GAPS = 8

/** Free bits before the last that is asked about. IPv4 has masks for them. */
export function gapsIn(care: readonly number[], width: number, masks = false): number {
  const last = care.findLastIndex((word) => word !== 0)
  if (last < 0 || (last === 0 && width === 32 && !masks)) return 0
  const end = Math.log2(((care[last] ?? 0) & -(care[last] ?? 0)) >>> 0)
  return care.slice(0, last + 1).reduce((gaps, word, i) => gaps + width - onesOf(word) - (i === last ? end : 0), 0)
}

export function onesOf(word: number): number {
  let ones = 0
  for (let rest = word; rest !== 0; rest &= rest - 1) ones++
  return ones
}

/** The narrowest prefix that holds some cubes. */
export function prefixAroundCubes(cubes: readonly Cube[]): AddressMatch | null {
  const [first] = cubes
  if (!first) return null
  const value: number[] = []
  const care: number[] = []
  let ended = false
  for (let word = 0; word < first.care.length; word++) {
    let mask = 0
    for (let bit = 31; bit >= 0 && !ended; bit--) {
      const one = 2 ** bit
      const same = cubes.every(
        (cube) =>
          ((cube.care[word] ?? 0) & one) !== 0 && ((cube.value[word] ?? 0) & one) === ((first.value[word] ?? 0) & one),
      )
      if (same) mask = (mask | one) >>> 0
      else ended = true
    }
    care.push(mask)
    value.push(((first.value[word] ?? 0) & mask) >>> 0)
  }
  return { value, care }
}

/** What of a cube is in a prefix; null where nothing is. */
export function meetingOf(cube: Cube, prefix: AddressMatch): Cube | null {
  const apart = cube.care.some(
    (care, i) => (care & (prefix.care[i] ?? 0) & ((cube.value[i] ?? 0) ^ (prefix.value[i] ?? 0))) !== 0,
  )
  if (apart) return null
  return {
    value: cube.value.map((word, i) => (word | (prefix.value[i] ?? 0)) >>> 0),
    care: cube.care.map((word, i) => (word | (prefix.care[i] ?? 0)) >>> 0),
  }
}

/** Sets of addresses of IPv4 as ranges; null where they would be too many. */
export function rangesOfAddresses(matches: readonly AddressMatch[]): Range[] | null {
  if (matches.some(({ care }) => gapsIn(care, 32, true) > MOST_GAPS)) return null
  return merged(
    matches.flatMap((match) =>
      prefixesOfCube(match).map(({ value: [from = 0], care: [held = 0] }): Range => [from, (from | ~held) >>> 0]),
    ),
  )
}

/** The narrowest prefix that holds some ranges. */
export function prefixAround(ranges: readonly Range[]): {
  readonly match: AddressMatch
  readonly first: number
  readonly last: number
} {
  const [from, to] = [ranges[0]?.[0] ?? 0, ranges.at(-1)?.[1] ?? 0]
  const length = Math.clz32(from ^ to)
  const care = length === 0 ? 0 : (0xffffffff << (32 - length)) >>> 0
  const first = (from & care) >>> 0
  return { match: { value: [first], care: [care] }, first, last: (first | ~care) >>> 0 }
}

export function prefixesOf(from: number, to: number): AddressMatch[] {
  const prefixes: AddressMatch[] = []
  for (let at = from; at <= to;) {
    let size = 1
    while (size < 2 ** 32 && at % (size * 2) === 0 && at + size * 2 - 1 <= to) size *= 2
    prefixes.push({ value: [at], care: [(0xffffffff - (size - 1)) >>> 0] })
    at += size
  }
  return prefixes
}

/** A set of addresses as prefixes: of IPv6, pcap-filter(7) knows nothing else. */
export function prefixesOfCube({ value, care }: AddressMatch): AddressMatch[] {
  const last = care.reduce((found, word, i) => (word === 0 ? found : i * 32 + 32 - Math.log2((word & -word) >>> 0)), 0)
  for (let bit = 0; bit < last; bit++) {
    const [word, mask] = [bit >> 5, (1 << (31 - (bit & 31))) >>> 0]
    if (((care[word] ?? 0) & mask) !== 0) continue
    const cared = care.map((held, i) => (i === word ? (held | mask) >>> 0 : held))
    return [value, value.map((held, i) => (i === word ? (held | mask) >>> 0 : held))].flatMap((one) =>
      prefixesOfCube({ value: one, care: cared }),
    )
  }
  return [{ value, care }]
}

/** Cubes of a field of up to 16 bits as ranges of its numbers. */
export function rangesOf(cubes: readonly Cube[], bits: number): Range[] {
  return merged(
    cubes.flatMap(({ value, care }): Range[] => {
      const free = (~(care[0] ?? 0) & (2 ** bits - 1)) >>> 0
      // Free bits at the end make one range; each of those before doubles them.
      const tail = lowMask(free)
      const before = free & ~tail
      const starts: number[] = []
      for (let part = before; ; part = (part - 1) & before) {
        starts.push((value[0] ?? 0) | part)
        if (part === 0) break
      }
      return starts.map((from): Range => [from, from + tail])
    }),
  )
}

/** The run of ones at the end. */
function lowMask(bits: number): number {
  let mask = 0
  while ((bits >> Math.log2(mask + 1)) & 1) mask = mask * 2 + 1
  return mask
}

function merged(ranges: readonly Range[]): Range[] {
  const all: [number, number][] = []
  for (const [from, to] of [...ranges].sort((a, b) => a[0] - b[0])) {
    const last = all.at(-1)
    if (last && from <= last[1] + 1) last[1] = Math.max(last[1], to)
    else all.push([from, to])
  }
  return all
}

export function without(ranges: readonly Range[], most: number, least = 0): Range[] {
  const left: Range[] = []
  let next = least
  for (const [from, to] of ranges) {
    if (from > next) left.push([next, from - 1])
    next = to + 1
  }
  if (next <= most) left.push([next, most])
  return left
}

import { addressWords, hostMatch, type AddressMatch } from '../../model/index.ts'
import { ALL, Diagrams, FIELDS, Headers, NOTHING, ComplexityLimitError, type Packet } from '../../headers/index.ts'
import type { DestinationClasses } from './classes.ts'

const MOST_CLASSES = 2 ** FIELDS.destinationClass.bits

/**
 * Sets of headers whose destination is told by its class. They are made, joined and cut like all others; only what
 * speaks of destinations and families is another: the field of classes stands for both.
 */
export class ClassHeaders extends Headers {
  /** By set of addresses: the classes in it. */
  readonly #classes = new Map<string, readonly number[]>()

  /** @throws ComplexityLimitError where there are more classes than their field can tell apart */
  constructor(
    readonly classes: DestinationClasses,
    diagrams = new Diagrams(),
  ) {
    if (classes.count > MOST_CLASSES)
      throw new ComplexityLimitError(MOST_CLASSES, 'classes of destinations that something tells apart')
    super(diagrams, {
      ipv4: classSet(diagrams, classes.within([0], 0)),
      ipv6: classSet(diagrams, classes.within([0, 0, 0, 0], 0)),
    })
  }

  protected override bitsOf(side: 'source' | 'destination', match: AddressMatch): number {
    return side === 'destination' ? this.within(match, false) : super.bitsOf(side, match)
  }

  /** Headers to the destinations of a set; with `partly`, to every class that has some of them. */
  within(match: AddressMatch, partly: boolean): number {
    return match.care.length === 0 ? ALL : classSet(this.diagrams, this.#classesOf(match, partly))
  }

  /** Headers to any of some destinations that are looked at: made at once, without joining one set after the other. */
  toAny(matches: readonly AddressMatch[], of = ALL): number {
    if (matches.some(({ care }) => care.length === 0)) return of
    const [only] = matches
    if (only && matches.length === 1) return classSet(this.diagrams, this.#classesOf(only, false), of)
    const found = new Set<number>()
    for (const match of matches) for (const held of this.#classesOf(match, false)) found.add(held)
    return classSet(this.diagrams, Int32Array.from(found).sort(), of)
  }

  override atAny(side: 'source' | 'destination', matches: readonly AddressMatch[], of: number): number {
    const { level, bits } = FIELDS.destinationClass
    return side === 'destination' && this.diagrams.level(of) >= level + bits
      ? this.toAny(matches, of)
      : super.atAny(side, matches, of)
  }

  /** The classes that are in a set of destinations; with `partly`, those of which some are. In order. */
  #classesOf(match: AddressMatch, partly: boolean): readonly number[] {
    const key = `${partly ? 'some' : 'all'} ${match.value.join('.')} ${match.care.join('.')}`
    let found = this.#classes.get(key)
    if (found === undefined) {
      const parts = prefixesOf(match).map(({ words, length }) => this.classes.within(words, length, partly))
      found = parts.length === 1 ? (parts[0] ?? []) : [...new Set(parts.flat())].sort((a, b) => a - b)
      this.#classes.set(key, found)
    }
    return found
  }

  /** Headers to destinations of some classes, given in ascending order. */
  ofClasses(classes: ArrayLike<number>): number {
    return classSet(this.diagrams, classes)
  }

  /** The classes that a set has headers to, in order; null where they are more than `most`. */
  classesIn(set: number, most: number): Int32Array | null {
    const { level, bits } = FIELDS.destinationClass
    const { diagrams, classes } = this
    const found: number[] = []
    const visit = (node: number, depth: number, value: number): boolean => {
      if (node === NOTHING || value >= classes.count) return true
      const here = diagrams.level(node)
      if (depth === bits || here >= level + bits) {
        const end = Math.min(value + 2 ** (bits - depth), classes.count)
        if (found.length + end - value > most) return false
        for (let held = value; held < end; held++) found.push(held)
        return true
      }
      const tests = here === level + depth
      const half = 2 ** (bits - 1 - depth)
      return (
        visit(tests ? diagrams.low(node) : node, depth + 1, value) &&
        visit(tests ? diagrams.high(node) : node, depth + 1, value + half)
      )
    }
    return visit(set, 0, 0) ? Int32Array.from(found) : null
  }

  /** The classes that a set has headers to, each with what is asked of the rest of the header. */
  parts(set: number): Map<number, number[]> {
    const { level, bits } = FIELDS.destinationClass
    const parts = new Map<number, number[]>()
    const { diagrams } = this
    const visit = (node: number, depth: number, value: number): void => {
      if (node === NOTHING || value >= this.classes.count) return
      if (depth === bits) {
        const held = parts.get(node)
        if (held) held.push(value)
        else parts.set(node, [value])
        return
      }
      const here = diagrams.level(node) === level + depth
      const bit = 2 ** (bits - 1 - depth)
      visit(here ? diagrams.low(node) : node, depth + 1, value)
      visit(here ? diagrams.high(node) : node, depth + 1, value + bit)
    }
    visit(set, 0, 0)
    return parts
  }

  /**
   * The same set with its destinations as addresses, among `headers` of the same store.
   * @param asked headers by addresses of which alone it matters whether they are in it: the rest may be, or not
   */
  expand(set: number, headers: Headers, asked = ALL): number {
    const { diagrams } = this
    const { prefixes } = this.classes
    const { order, parent, end } = prefixes.sorted
    let all = NOTHING
    const restOf = new Map<number, number>()
    for (const [rest, classes] of this.parts(set)) for (const one of classes) restOf.set(one, rest)
    // Wider prefixes come first, and what is inside them after: each writes over what was there.
    for (let at = 0; at < order.length; at++) {
      const id = order[at] as number
      // Nothing inside it is asked about either.
      if (asked !== ALL && !hasDestinations(diagrams, asked, prefixes.matchOf(id))) {
        at = (end[id] as number) - 1
        continue
      }
      const rest = restOf.get(this.classes.classOf(id)) ?? NOTHING
      const around = parent[id] as number
      const before = around < 0 ? NOTHING : (restOf.get(this.classes.classOf(around)) ?? NOTHING)
      if (around >= 0 && rest === before && this.classes.classOf(around) >= 0) continue
      const region = headers.address('destination', prefixes.matchOf(id))
      all = diagrams.or(diagrams.minus(all, region), diagrams.and(region, rest))
    }
    return all
  }

  override packet(packet: Packet): number {
    const words = addressWords(packet.destination, packet.family) ?? []
    const around = this.classes.prefixes.around(words, packet.family === 'ipv4' ? 32 : 128)
    const held = this.classes.classOf(around)
    return this.all(
      held < 0 ? NOTHING : this.ofClasses([held]),
      this.address('source', hostMatch(addressWords(packet.source, packet.family) ?? [])),
      this.fieldsOf(packet),
    )
  }
}

/** Whether a set has headers to a prefix: follows its bits, and makes no nodes. */
function hasDestinations(diagrams: Diagrams, set: number, { value, care }: AddressMatch): boolean {
  const { family, destination } = FIELDS
  let node = set
  if (diagrams.level(node) === family.level) node = care.length === 1 ? diagrams.low(node) : diagrams.high(node)
  for (let bit = 0; bit < care.length * 32 && node !== NOTHING; bit++) {
    if ((((care[bit >> 5] ?? 0) >>> (31 - (bit & 31))) & 1) === 0) break
    if (diagrams.level(node) === destination.level + bit)
      node = (((value[bit >> 5] ?? 0) >>> (31 - (bit & 31))) & 1) === 1 ? diagrams.high(node) : diagrams.low(node)
  }
  return node !== NOTHING
}

/** Headers to destinations of some classes, in order, whose later fields are in `rest`. */
function classSet(diagrams: Diagrams, classes: ArrayLike<number>, rest = ALL): number {
  const { level, bits } = FIELDS.destinationClass
  const build = (from: number, to: number, depth: number): number => {
    if (from === to) return NOTHING
    // Every class that agrees in the bits above: no need to look at each.
    if (to - from === 2 ** (bits - depth)) return rest
    // A class is a number of fewer than 31 bits.
    const shift = bits - 1 - depth
    let middle = from
    let end = to
    // The first that has the bit: they are in order, and agree in the bits above.
    while (middle < end) {
      const half = (middle + end) >> 1
      if ((((classes[half] as number) >> shift) & 1) === 1) end = half
      else middle = half + 1
    }
    return diagrams.make(level + depth, build(from, middle, depth + 1), build(middle, to, depth + 1))
  }
  return build(0, classes.length, 0)
}

/** The most bits in the midst of a set of destinations that may be free: it is looked at as that many prefixes. */
const MOST_GAPS = 12

/** A set of addresses as prefixes. @throws RangeError where they would be too many */
export function prefixesOf({
  value,
  care,
}: AddressMatch): { readonly words: readonly number[]; readonly length: number }[] {
  const plain = lengthOfPrefix(care)
  if (plain !== null) return [{ words: value, length: plain }]
  const bits = care.length * 32
  const bitOf = (words: readonly number[], bit: number): number => ((words[bit >> 5] ?? 0) >>> (31 - (bit & 31))) & 1
  let length = 0
  const gaps: number[] = []
  for (let bit = 0; bit < bits; bit++) if (bitOf(care, bit) === 1) length = bit + 1
  for (let bit = 0; bit < length; bit++) if (bitOf(care, bit) === 0) gaps.push(bit)
  if (gaps.length > MOST_GAPS) throw new RangeError(`a set of addresses with ${gaps.length} free bits in its midst`)
  return Array.from({ length: 2 ** gaps.length }, (_, choice) => {
    const words = [...value]
    gaps.forEach((bit, i) => {
      if ((choice >> i) & 1) words[bit >> 5] = ((words[bit >> 5] ?? 0) | (1 << (31 - (bit & 31)))) >>> 0
    })
    return { words, length }
  })
}

/** How many bits a mask has where all of them are at its begin; null of another. */
function lengthOfPrefix(care: readonly number[]): number | null {
  let length = 0
  for (let i = 0; i < care.length; i++) {
    const free = ~(care[i] as number)
    if (length < i * 32 ? free !== -1 : (free & (free + 1)) !== 0) return null
    if (length === i * 32) length += Math.clz32(free)
  }
  return length
}

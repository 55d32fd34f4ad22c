import { addressOf, addressText, type AddressMatch, type Range } from '../model/index.ts'
import { ALL, END, NOTHING } from './diagram.ts'
import { FIELDS, TCP_FLAGS, type FieldName } from './fields.ts'
import type { Headers } from './headers.ts'
import {
  type Cube,
  MOST_GAPS,
  gapsIn,
  onesOf,
  prefixAroundCubes,
  meetingOf,
  rangesOfAddresses,
  prefixAround,
  prefixesOf,
  prefixesOfCube,
  rangesOf,
  without,
} from './cubes.ts'

/** A set of headers in words that `readFilterText` reads: any of the classes. */
export interface Readable {
  readonly classes: readonly string[]
  /** Whether they are the whole set; false: there are more. */
  readonly whole: boolean
}

/** Values of a field that lead on to the same rest. */
interface Branch {
  readonly rest: number
  readonly cubes: Cube[]
  /** All other values of the field. */
  others: readonly Cube[]
}

/** Classes of a set that somebody wants whole: a page shows the first few, and all of them on demand. */
export const MANY_CLASSES = 200
const MOST_CUBES = 600
const NAMES: Readonly<Partial<Record<number, string>>> = {
  6: 'tcp',
  17: 'udp',
  2: 'igmp',
  50: 'esp',
  51: 'ah',
  103: 'pim',
  112: 'vrrp',
  132: 'sctp',
}
const FIELD_ORDER: readonly FieldName[] = [
  'family',
  'destination',
  'source',
  'protocol',
  'fragment',
  'destinationPort',
  'sourcePort',
  'icmpType',
  'icmpCode',
  'tcpFlags',
  'dscp',
]

/** At other octets in either family. */
const APART: ReadonlySet<FieldName> = new Set(['icmpType', 'icmpCode', 'fragment', 'dscp'])

/** The order in which people say them. */
const SPOKEN: readonly FieldName[] = [
  'family',
  'protocol',
  'source',
  'destination',
  'sourcePort',
  'destinationPort',
  'icmpType',
  'icmpCode',
  'tcpFlags',
  'fragment',
  'dscp',
]

interface Said {
  readonly words: readonly { readonly of: FieldName; readonly text: string }[]
  readonly family: number | null
  /**
   * First or only fragments, which need no word once something is asked of them that fragments after the first do not
   * have.
   */
  readonly unfragmented: boolean
}

/**
 * A short list of classes for a set. Each class is wholly in the set, and together they are the set where `whole` says
 * so.
 * @param limit classes at most
 */
export function readableOf(headers: Headers, set: number, limit = 12): Readable {
  const begun: Said = { words: [], family: null, unfragmented: false }
  let writer = new ClassWriter(headers, limit)
  writer.write(set, 0, begun)
  if (writer.needsFamily) {
    writer = new ClassWriter(headers, limit)
    for (const [family, word, of] of [
      [0, 'ip', headers.ipv4],
      [1, 'ip6', headers.ipv6],
    ] as const)
      writer.write(
        headers.diagrams.exists(headers.diagrams.and(set, of), FIELDS.family.level, FIELDS.destination.level),
        1,
        { ...begun, family, words: [{ of: 'family', text: word }] },
      )
  }
  return { classes: writer.classes, whole: writer.whole }
}

class ClassWriter {
  readonly classes: string[] = []
  whole = true
  /** A field was written that each address family writes in its own way. */
  needsFamily = false

  constructor(
    readonly headers: Headers,
    readonly limit: number,
  ) {}

  write(set: number, at: number, said: Said): void {
    if (set === NOTHING || (!this.whole && this.classes.length >= this.limit)) return
    const name = FIELD_ORDER[at]
    if (set === ALL || name === undefined) {
      if (said.unfragmented && said.family === null) this.needsFamily = true
      if (this.classes.length >= this.limit) this.whole = false
      else this.classes.push(sentence(said))
      return
    }
    for (const { rest, cubes, others } of this.#branches(set, name)) {
      const words = wordsOf(name, cubes, said, others)
      if (said.family === null && APART.has(name) && words.some((some) => some.words.length > 0))
        this.needsFamily = true
      for (const more of words)
        this.write(rest, at + 1, {
          ...said,
          ...more,
          words: [...said.words, ...more.words.map((text) => ({ of: name, text }))],
        })
    }
  }

  /** How the set goes on below a field, by the values that lead there. */
  #branches(set: number, name: FieldName): Branch[] {
    const { diagrams } = this.headers
    const { level, bits } = FIELDS[name]
    const branches = new Map<number, Branch>()
    const words = Math.ceil(bits / 32)
    const width = Math.min(bits, 32)
    let cubes = 0
    const nothing: Cube[] = []
    const visit = (node: number, value: number[], care: number[]): void => {
      if (node === NOTHING) {
        nothing.push({ value, care })
        return
      }
      const here = node < 2 ? END : diagrams.level(node)
      if (here >= level + bits) {
        if (++cubes > MOST_CUBES || gapsIn(care, width) > MOST_GAPS) {
          this.whole = false
          return
        }
        const branch = branches.get(node) ?? { rest: node, cubes: [], others: [] }
        branch.cubes.push({ value, care })
        branches.set(node, branch)
        return
      }
      const word = Math.floor((here - level) / 32)
      const bit = 2 ** (width - 1 - ((here - level) % 32))
      const cared = care.map((held, i) => (i === word ? (held | bit) >>> 0 : held))
      visit(diagrams.low(node), value, cared)
      visit(
        diagrams.high(node),
        value.map((held, i) => (i === word ? (held | bit) >>> 0 : held)),
        cared,
      )
    }
    visit(set, Array<number>(words).fill(0), Array<number>(words).fill(0))
    for (const branch of branches.values())
      branch.others = [...nothing, ...[...branches.values()].flatMap((other) => (other === branch ? [] : other.cubes))]
    // What is true of most comes first.
    return [...branches.values()].sort((a, b) => freedom(b) - freedom(a))
  }
}

function freedom({ cubes }: Branch): number {
  return cubes.reduce((sum, { care }) => sum + 2 ** -care.reduce((ones, word) => ones + onesOf(word), 0), 0)
}

type Words = { readonly words: readonly string[] } & Partial<Omit<Said, 'words'>>

/** How some values of a field are said; several where one text cannot say it. */
function wordsOf(name: FieldName, cubes: readonly Cube[], said: Said, others: readonly Cube[]): Words[] {
  if (cubes.some(({ care }) => care.every((word) => word === 0))) return [{ words: [] }]
  switch (name) {
    case 'family':
      return cubes.map(({ value }) => ({ words: [value[0] === 0 ? 'ip' : 'ip6'], family: value[0] ?? 0 }))
    case 'destination':
    case 'source':
      return addressWordsOf(name === 'source' ? 'src' : 'dst', cubes, said, others)
    case 'protocol': {
      const protocols = rangesOf(cubes, 8).flatMap(([from, to]) =>
        Array.from({ length: to - from + 1 }, (_, i) => from + i),
      )
      const few = protocols.length <= 128
      return [
        { words: [`${few ? '' : 'not '}${oneOf((few ? protocols : complement(protocols)).map(protocolName(said)))}`] },
      ]
    }
    case 'fragment':
      return cubes.map(({ value }) =>
        value[0] === 1 ? { words: [fragmentWords(said, true)] } : { words: [], unfragmented: true },
      )
    case 'destinationPort':
    case 'sourcePort': {
      const words = portWords(name === 'sourcePort' ? 'src' : 'dst', rangesOf(cubes, 16))
      return [{ words: [words], ...(words.startsWith('not ') ? {} : { unfragmented: false }) }]
    }
    case 'icmpType':
    case 'icmpCode':
      return [
        {
          words: [
            oneOf(
              rangesOf(cubes, 8).map((range) =>
                octetWords(
                  `${said.family === 1 ? 'icmp6' : 'icmp'}[${name === 'icmpType' ? 'icmptype' : 'icmpcode'}]`,
                  range,
                ),
              ),
            ),
          ],
          unfragmented: false,
        },
      ]
    case 'tcpFlags':
      return [{ words: [oneOf(cubes.map(flagWords))], unfragmented: false }]
    case 'dscp':
      return [
        {
          words: [
            oneOf(
              rangesOf(cubes, 6).map((range) =>
                octetWords(said.family === 1 ? 'ip6[0:2] & 0x0fc0' : 'ip[1] & 0xfc', range, said.family === 1 ? 64 : 4),
              ),
            ),
          ],
        },
      ]
    case 'destinationClass':
      return [{ words: [] }]
  }
}

function sentence(said: Said): string {
  const words = said.unfragmented
    ? [...said.words, { of: 'fragment' as const, text: fragmentWords(said, false) }]
    : said.words
  // An address says its family.
  const told = words.some(({ of, text }) => (of === 'source' || of === 'destination') && !text.startsWith('not '))
  const spoken = words
    .filter(({ of }) => of !== 'family' || !told)
    .sort((a, b) => SPOKEN.indexOf(a.of) - SPOKEN.indexOf(b.of))
  return spoken.map(({ text }) => text).join(' and ') || 'ip or ip6'
}

function fragmentWords({ family }: Said, later: boolean): string {
  return `${family === 1 ? 'ip6[42:2] & 0xfff8' : 'ip[6:2] & 0x1fff'} ${later ? '!=' : '=='} 0`
}

function oneOf(texts: readonly string[]): string {
  return texts.length === 1 ? (texts[0] ?? '') : `(${texts.join(' or ')})`
}

function complement(protocols: readonly number[]): number[] {
  const held = new Set(protocols)
  return Array.from({ length: 256 }, (_, i) => i).filter((protocol) => !held.has(protocol))
}

function protocolName({ family }: Said): (protocol: number) => string {
  return (protocol) =>
    protocol === 1 && family === 0
      ? 'icmp'
      : protocol === 58 && family === 1
        ? 'icmp6'
        : (NAMES[protocol] ?? `proto ${protocol}`)
}

function portWords(side: 'src' | 'dst', ranges: readonly Range[]): string {
  const text = ([from, to]: Range): string => (from === to ? `${side} port ${from}` : `${side} portrange ${from}-${to}`)
  const others = without(ranges, 65535)
  return others.length < ranges.length ? `not ${oneOf(others.map(text))}` : oneOf(ranges.map(text))
}

function octetWords(what: string, [from, to]: Range, step = 1): string {
  if (from === to) return `${what} == ${from * step}`
  return from === 0 ? `${what} <= ${to * step}` : `(${what} >= ${from * step} and ${what} <= ${to * step})`
}

function flagWords({ value, care }: Cube): string {
  const names = (bits: number): string =>
    TCP_FLAGS.filter((_, i) => (bits >> (5 - i)) & 1)
      .map((flag) => `tcp-${flag === 'psh' ? 'push' : flag}`)
      .join('|') || '0'
  const [looked = 0, set = 0] = [care[0], value[0]]
  return `tcp[tcpflags] & (${names(looked)}) == ${set === 0 ? '0' : `(${names(set)})`}`
}

/** Addresses as a list of prefixes, or as the prefix around them and what of it is left out: whichever is shorter. */
function addressWordsOf(side: 'src' | 'dst', cubes: readonly Cube[], said: Said, others: readonly Cube[]): Words[] {
  const matches = cubes.flatMap(({ value, care }): AddressMatch[] =>
    said.family === 0 ? [{ value: value.slice(0, 1), care: care.slice(0, 1) }] : prefixesOfCube({ value, care }),
  )
  if (said.family === 0) {
    const ranges = rangesOfAddresses(matches)
    if (ranges !== null) {
      const around = prefixAround(ranges)
      const others = without(ranges, around.last, around.first).flatMap(([from, to]) => prefixesOf(from, to))
      const listed = ranges.flatMap(([from, to]) => prefixesOf(from, to))
      if (others.length + 1 < Math.min(listed.length, matches.length)) {
        const left = `not ${oneOf(others.map((match) => netWords(side, match)))}`
        return [{ words: [around.match.care[0] === 0 ? left : `${netWords(side, around.match)} and ${left}`] }]
      }
      if (listed.length <= matches.length + 2) return [{ words: [oneOf(listed.map((match) => netWords(side, match)))] }]
    }
  }
  const around = said.family === 1 ? prefixAroundCubes(cubes) : null
  if (around) {
    const left = others.flatMap((cube) => meetingOf(cube, around) ?? []).flatMap(prefixesOfCube)
    if (left.length + 1 < matches.length) {
      const none = `not ${oneOf(left.map((match) => netWords(side, match)))}`
      return [{ words: [around.care[0] === 0 ? none : `${netWords(side, around)} and ${none}`] }]
    }
  }
  return [{ words: [oneOf(matches.map((match) => netWords(side, match)))] }]
}

function netWords(side: 'src' | 'dst', match: AddressMatch): string {
  const text = addressText(match)
  const [address = '', length] = text.split('/')
  if (length === undefined)
    return match.care.length === 1
      ? `${side} net ${addressOf(match.value)} mask ${addressOf(match.care)}`
      : `${side} net ${text}`
  return length === (match.care.length === 1 ? '32' : '128') ? `${side} host ${address}` : `${side} net ${text}`
}

import type { ModelledDevice } from '../model/index.ts'
import { originOf } from '../model/index.ts'
import { forwardingRulesOf } from '../dialects/index.ts'
import {
  ComplexityLimitError,
  Headers,
  ListSets,
  MANY_CLASSES,
  NOTHING,
  circumstancesOf,
  readableOf,
  type ModelList,
  type Readable,
} from '../headers/index.ts'
import type { CitedLines } from './model-changes.ts'

/** What another text of an access list means for packets. */
export interface AccessListChange {
  readonly list: string
  readonly family: 'ipv4' | 'ipv6'
  /** The interfaces that packets are filtered at by it, on either side: `Vlan30 in`. */
  readonly interfaces: readonly string[]
  /** Packets that it permits now and denied before; null: none. */
  readonly permits: Readable | null
  /** Packets that it denies now and permitted before; null: none. */
  readonly denies: Readable | null
  /** Undecided packets: unparsed terms decide them on one side; null: none. */
  readonly undecided: Readable | null
  /** Whether it is too intricate to be compared as sets: then nothing is said of packets. */
  readonly tooComplex: boolean
  readonly a: readonly CitedLines[]
  readonly b: readonly CitedLines[]
}

/** More contexts than this are not gone through. */
const MOST_CONTEXTS = 256

/** The access lists that both devices have and that say something else, as sets of packets. */
export function accessListChanges(a: ModelledDevice, b: ModelledDevice): AccessListChange[] {
  const pairs = a.model.accessLists.flatMap((mine) => {
    const theirs = b.model.accessLists.find(({ name, family }) => name === mine.name && family === mine.family)
    return theirs ? [[mine, theirs] as const] : []
  })
  const changed = pairs.filter(([mine, theirs]) => wordsOf(mine) !== wordsOf(theirs))
  if (changed.length === 0) return []
  const names = new Set(changed.map(([{ name }]) => name))
  // A list that leads to one that changed may do something else without a changed line of its own.
  const wanted = pairs.filter((pair) => changed.includes(pair) || pair.some((list) => leadsTo(list, names)))
  const headers = new Headers()
  const setsOf = (device: ModelledDevice): ListSets =>
    new ListSets(headers, device.model.accessLists, forwardingRulesOf(device.dialect.id).laterFragments)
  const [before, after] = [setsOf(a), setsOf(b)]
  return wanted.map(([mine, theirs]) => ({
    list: mine.name,
    family: mine.family,
    interfaces: [...new Set([...interfacesOf(a, mine), ...interfacesOf(b, theirs)])].sort(),
    ...meaning(headers, { sets: before, list: mine }, { sets: after, list: theirs }),
    a: linesOf(a, mine),
    b: linesOf(b, theirs),
  }))
}

interface OwnList {
  readonly sets: ListSets
  readonly list: ModelList
}

/** What is permitted, denied and undecided otherwise, over every context that a line of either list asks for. */
export function meaning(
  headers: Headers,
  before: OwnList,
  after: OwnList,
): Pick<AccessListChange, 'permits' | 'denies' | 'undecided' | 'tooComplex'> {
  const { diagrams } = headers
  const contexts = circumstancesOf(before.list, after.list)
  const tooComplex = { permits: null, denies: null, undecided: null, tooComplex: true }
  if (contexts.length > MOST_CONTEXTS) return tooComplex
  let [permits, denies, undecided] = [NOTHING, NOTHING, NOTHING]
  try {
    for (const context of contexts) {
      const [was, is] = [before, after].map(({ sets, list }) => {
        const { permitted, denied } = sets.decide(list, headers.family(list.family), context)
        const both = diagrams.and(permitted, denied)
        return { surely: diagrams.minus(permitted, both), not: diagrams.minus(denied, both), both }
      })
      if (!was || !is) continue
      permits = diagrams.or(permits, diagrams.and(is.surely, was.not))
      denies = diagrams.or(denies, diagrams.and(is.not, was.surely))
      // What was doubtful and is so still may be the same.
      undecided = diagrams.or(
        undecided,
        diagrams.minus(diagrams.or(was.both, is.both), diagrams.and(was.both, is.both)),
      )
    }
  } catch (error) {
    if (error instanceof ComplexityLimitError) return tooComplex
    throw error
  }
  const view = (set: number): Readable | null => (set === NOTHING ? null : readableOf(headers, set, MANY_CLASSES))
  return { permits: view(permits), denies: view(denies), undecided: view(undecided), tooComplex: false }
}

/** What a list says of packets: neither its numbers nor its remarks. */
function wordsOf({ entries, defaultAction }: ModelList): string {
  return JSON.stringify([
    defaultAction,
    entries.map(({ sequence: _, text: _text, remark: _remark, logged: _logged, ...entry }) => entry),
  ])
}

function leadsTo({ name, entries }: ModelList, names: ReadonlySet<string>): boolean {
  return entries.some(
    ({ leadsTo: next, inlines }) =>
      (inlines !== null && names.has(inlines)) || (next !== null && names.has(`${name.split(' ')[0] ?? ''} ${next}`)),
  )
}

const SIDES = [
  ['in4', 'ipv4', 'in'],
  ['out4', 'ipv4', 'out'],
  ['in6', 'ipv6', 'in'],
  ['out6', 'ipv6', 'out'],
] as const

function interfacesOf({ model }: ModelledDevice, { name, family }: ModelList): string[] {
  return model.interfaces.flatMap((port) =>
    SIDES.flatMap(([side, of, way]) => (of === family && port.filters[side] === name ? [`${port.name} ${way}`] : [])),
  )
}

function linesOf({ model, origins }: ModelledDevice, list: ModelList): CitedLines[] {
  const at = `accessLists[${model.accessLists.indexOf(list)}]`
  const all = [at, ...list.entries.map((_, i) => `${at}.entries[${i}]`)].flatMap((path) => {
    const origin = originOf(origins, path)
    return origin?.kind === 'line'
      ? origin.lines.map(({ from, to }): CitedLines => ({ record: origin.record, from, to }))
      : []
  })
  return joinedLines(all)
}

/** Lines of one record that touch each other, as one range. */
export function joinedLines(lines: readonly CitedLines[]): CitedLines[] {
  const out: CitedLines[] = []
  for (const one of lines.toSorted((x, y) => (x.record < y.record ? -1 : x.record > y.record ? 1 : x.from - y.from))) {
    const last = out.at(-1)
    if (last && last.record === one.record && one.from <= last.to + 1)
      out[out.length - 1] = { ...last, to: Math.max(last.to, one.to) }
    else out.push(one)
  }
  return out
}

import type { AccessEntry, AccessList, AddressMatch } from '../model/index.ts'
import { EVERYTHING, boxesOf, contains, intersect, overlap, remainder, type Box } from './header-set.ts'

/** What an access list lets through of some packets: the entries that do, `undecided` where it cannot be said. */
export interface Admission {
  readonly answer: 'some' | 'none' | 'undecided'
  /** The entry that lets a packet through (or may, where undecided). */
  readonly by: AccessEntry | null
  readonly why: string | null
}

const NOTHING: Admission = { answer: 'none', by: null, why: null }

/**
 * Whether a list lets any packet of `wanted` through. The deny at the end that no line states counts (common practice);
 * an entry with words that cannot be weighed is taken to match nothing when it denies and everything it names when it
 * permits, and the answer is `undecided` where that makes the difference.
 */
export function admits(list: AccessList, wanted: Box): Admission {
  const sure = firstAdmission(list, wanted, 'certain')
  if (sure.answer === 'some') return sure
  if (list.entries.every((entry) => entry.notWeighed.length === 0 && entry.action !== 'unknown')) return sure
  const possible = firstAdmission(list, wanted, 'possible')
  if (possible.answer === 'none') return sure
  const words = list.entries.flatMap((entry) => entry.notWeighed)
  return {
    answer: 'undecided',
    by: possible.by,
    why:
      words.length > 0
        ? `cannot weigh: ${[...new Set(words)].slice(0, 4).join(', ')}`
        : 'the list is too intricate to decide',
  }
}

const boxesByEntry = new WeakMap<AccessEntry, readonly Box[]>()

/** An entry is asked about once for every prefix; its boxes are made once. */
function boxesOfEntry(entry: AccessEntry): readonly Box[] {
  const known = boxesByEntry.get(entry)
  if (known) return known
  const boxes = boxesOf(entry.match)
  boxesByEntry.set(entry, boxes)
  return boxes
}

/** `certain`: packets surely let through. `possible`: packets that may be, given what cannot be weighed. */
function firstAdmission(list: AccessList, wanted: Box, reading: 'certain' | 'possible'): Admission {
  const denied: Box[] = []
  for (const entry of list.entries) {
    const vague = entry.notWeighed.length > 0
    const boxes = boxesOfEntry(entry)
    // A line that was not understood may let anything through, and may stop anything.
    if (entry.action === 'unknown' && reading === 'certain') {
      denied.push(EVERYTHING)
      continue
    }
    if (entry.action === 'deny') {
      // A vague deny may match less than it names: not counted when asking what may pass, counted when asking what
      // surely does.
      if (vague && reading === 'possible') continue
      for (const box of boxes) {
        if (!overlap(box, wanted)) continue
        // Nothing of what is asked about gets past this entry.
        if (contains(box, wanted)) return NOTHING
        denied.push(box)
      }
      continue
    }
    if (vague && reading === 'certain') continue
    for (const box of boxes) {
      const asked = intersect(box, wanted)
      const left = asked && remainder(asked, denied)
      if (left === 'undecided') {
        if (reading === 'possible') return { answer: 'some', by: entry, why: null }
      } else if (left) return { answer: 'some', by: entry, why: null }
    }
  }
  return NOTHING
}

/** Packets from a set of sources. */
export function fromSources(source: AddressMatch): Box {
  return { ...EVERYTHING, source }
}

/** First packets of a TCP connection to the device: what a remote login is judged by. */
const NEW_TCP: Box = { ...EVERYTHING, protocol: [6, 6], established: [0, 0], fragment: [0, 0] }

/**
 * Whether the list is open: its permits, taken together, name every source, so that whoever is not denied by name gets
 * in. Asked of new TCP connections; lists on terminal lines look at sources.
 */
export function openToAll(list: AccessList): Admission {
  const known = openness.get(list)
  if (known) return known
  const open = weighOpenness(list)
  openness.set(list, open)
  return open
}

/** Asked once of a list, however many lines apply it. */
const openness = new WeakMap<AccessList, Admission>()

function weighOpenness(list: AccessList): Admission {
  if (admits(list, NEW_TCP).answer === 'none') return NOTHING
  const permits = list.entries.filter((entry) => entry.action !== 'deny')
  const certain = permits.filter((entry) => entry.notWeighed.length === 0 && entry.action === 'permit')
  if (everySource(certain)) return { answer: 'some', by: widest(certain), why: null }
  if (everySource(permits))
    return {
      answer: 'undecided',
      by: widest(permits),
      why: 'an entry that permits every source holds words that cannot be weighed',
    }
  return NOTHING
}

function everySource(entries: readonly AccessEntry[]): boolean {
  const sources = entries
    .flatMap(boxesOfEntry)
    .flatMap((box) => (intersect(box, NEW_TCP) ? [{ ...EVERYTHING, source: box.source }] : []))
  return remainder(EVERYTHING, sources) === null
}

function widest(entries: readonly AccessEntry[]): AccessEntry | null {
  return entries.find((entry) => entry.match.sources === undefined) ?? entries.at(-1) ?? null
}

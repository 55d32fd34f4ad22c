import { addressesIn, type AddressMatch, type DeviceModel, type Family } from '../model/index.ts'
import { ALL } from './diagram.ts'
import { TCP_FLAGS, type TcpFlag } from './fields.ts'
import type { Headers } from './headers.ts'

export type ModelList = DeviceModel['accessLists'][number]
export type ListEntry = ModelList['entries'][number]

/** The headers that an entry names, and whether it may mean fewer. */
export interface EntrySet {
  readonly set: number
  readonly vague: boolean
}

/**
 * `never`: a line that asks for ports means none of them. `permitted`: one that permits means them by their addresses
 * alone.
 */
export type LaterFragments = 'never' | 'permitted'

const FLAG_NAMES: ReadonlyMap<string, TcpFlag> = new Map([
  ...TCP_FLAGS.map((flag) => [flag, flag] as const),
  ['push', 'psh'],
  ['urgent', 'urg'],
  ['reset', 'rst'],
])

/** By store: the sets of entries by what they say. Lists of many devices have the same entries. */
const known = new WeakMap<Headers, Map<string, EntrySet>>()

/** The set of an entry; worked out once for all entries that say the same. */
export function setOfEntry(
  headers: Headers,
  entry: ListEntry,
  family: Family,
  laterFragments: LaterFragments,
): EntrySet {
  let sets = known.get(headers)
  if (!sets) known.set(headers, (sets = new Map<string, EntrySet>()))
  const key = `${family} ${laterFragments} ${entry.action} ${entry.notWeighed.length > 0} ${contentOf(entry)}`
  let found = sets.get(key)
  if (!found) sets.set(key, (found = madeSet(headers, entry, family, laterFragments)))
  return found
}

function contentOf(entry: ListEntry): string {
  const { sources, destinations, protocols, sourcePorts, destinationPorts, eitherPorts, icmpTypes, icmpCodes } = entry
  const { dscp, tcpFlags, negated, unreadFields } = entry
  const ranges = [protocols, sourcePorts, destinationPorts, eitherPorts, icmpTypes, icmpCodes, dscp]
    .map((field) => (field.length === 0 ? '' : field.join('/')))
    .join('|')
  const names = [sources, destinations, tcpFlags, negated, unreadFields]
    .map((field) => (field.length === 0 ? '' : field.join()))
    .join('|')
  return `${ranges}|${names}|${entry.established}|${entry.fragments}`
}

/** Built from the last header field to the first: each field is stacked on top of the set so far. */
function madeSet(headers: Headers, entry: ListEntry, family: Family, laterFragments: LaterFragments): EntrySet {
  const { diagrams } = headers
  let vague = entry.notWeighed.length > 0
  let set = ALL
  /** Packets in which the fields of the entry exist at all; negating a field does not change this. */
  let seen = ALL
  /** @param inside narrows a set of headers to those that match the field */
  const narrow = (field: string, stated: boolean, inside: (of: number) => number, among = ALL): void => {
    const negated = entry.negated.includes(field)
    // Where a value of the field could not be read, it may be any: an entry never means more than its set.
    if (!stated || (!negated && entry.unreadFields.includes(field))) return
    seen = diagrams.and(seen, among)
    set = negated ? diagrams.minus(set, inside(set)) : inside(set)
  }
  const addresses = (field: 'sources' | 'destinations'): void =>
    narrow(field, entry[field].length > 0, (of) => {
      const matches = entry[field].map((text) => addressesIn(text))
      const negated = entry.negated.includes(field)
      if (matches.includes(null)) {
        vague = true
        if (!negated) return of
      }
      // An address of the other family is in no packet of the list.
      const known = matches.filter((match): match is AddressMatch => match !== null && isOf(match, family))
      try {
        return headers.atAny(field === 'sources' ? 'source' : 'destination', known, of)
      } catch (error) {
        // Destinations that would have to be told apart one by one.
        if (!(error instanceof RangeError)) throw error
        vague = true
        return negated ? headers.atAny('source', [], of) : of
      }
    })
  narrow('dscp', entry.dscp.length > 0, (of) => headers.inRanges('dscp', entry.dscp, of))
  narrow(
    'tcpFlags',
    entry.tcpFlags.length > 0,
    (of) => {
      const flags = entry.tcpFlags.map((text) => ({
        flag: FLAG_NAMES.get(text.replace('!', '').toLowerCase()),
        set: !text.startsWith('!'),
      }))
      if (flags.some(({ flag }) => flag === undefined)) vague = true
      return headers.all(
        of,
        ...flags.flatMap(({ flag, set: wanted }) => (flag === undefined ? [] : [headers.flag(flag, wanted)])),
      )
    },
    headers.tcp,
  )
  narrow('established', entry.established, (of) => diagrams.and(of, headers.established))
  narrow(
    'icmpTypes',
    entry.icmpTypes.length > 0 || entry.icmpCodes.length > 0,
    (of) => {
      const code = entry.icmpCodes.length > 0 ? headers.inRanges('icmpCode', entry.icmpCodes, of) : of
      return entry.icmpTypes.length > 0 ? headers.inRanges('icmpType', entry.icmpTypes, code) : code
    },
    headers.icmp,
  )
  narrow(
    'eitherPorts',
    entry.eitherPorts.length > 0,
    (of) =>
      headers.any(['sourcePort', 'destinationPort'] as const, (side) => headers.inRanges(side, entry.eitherPorts, of)),
    headers.ported,
  )
  for (const [field, side] of [
    ['sourcePorts', 'sourcePort'],
    ['destinationPorts', 'destinationPort'],
  ] as const)
    narrow(field, entry[field].length > 0, (of) => headers.inRanges(side, entry[field], of), headers.ported)
  // RFC 1858 §2: what would be asked of them stands in the first fragment.
  if (laterFragments === 'permitted' && entry.action === 'permit' && !entry.fragments) {
    set = diagrams.or(diagrams.and(set, seen), headers.fragments)
    seen = ALL
  }
  narrow('fragments', entry.fragments, (of) => diagrams.and(of, headers.fragments))
  narrow('protocols', entry.protocols.length > 0, (of) => headers.inRanges('protocol', entry.protocols, of))
  set = diagrams.and(set, seen)
  addresses('sources')
  addresses('destinations')
  return { set: diagrams.and(set, headers.family(family)), vague }
}

function isOf({ care }: AddressMatch, family: Family): boolean {
  return care.length === 0 || care.length === (family === 'ipv4' ? 1 : 4)
}

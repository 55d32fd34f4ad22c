import type { AddressMatch, EntryMatch, Range } from '../model/index.ts'

/**
 * A set of packet headers as a box: one set per field, the packet being in the box when each of its fields is in the
 * field's set. Fields that do not exist in a packet (ports of ICMP) are free there and are not asked about.
 */
export interface Box {
  readonly source: AddressMatch
  readonly destination: AddressMatch
  readonly protocol: Range
  readonly sourcePort: Range
  readonly destinationPort: Range
  readonly icmpType: Range
  /** [1,1]: ACK or RST set. */
  readonly established: Range
  /** [1,1]: a fragment other than the first. */
  readonly fragment: Range
}

const RANGE_FIELDS = ['protocol', 'sourcePort', 'destinationPort', 'icmpType', 'established', 'fragment'] as const
const ADDRESS_FIELDS = ['source', 'destination'] as const
const ANY_ADDRESS: AddressMatch = { value: 0n, care: 0n }
const ANY_PORT: Range = [0, 65535]

/** Every packet. */
export const EVERYTHING: Box = {
  source: ANY_ADDRESS,
  destination: ANY_ADDRESS,
  protocol: [0, 255],
  sourcePort: ANY_PORT,
  destinationPort: ANY_PORT,
  icmpType: [0, 255],
  established: [0, 1],
  fragment: [0, 1],
}

/** The packets that an access-list entry asks for, as a union of boxes. */
export function boxesOf(match: EntryMatch): Box[] {
  let boxes: Box[] = [{ ...EVERYTHING, established: match.established ? [1, 1] : [0, 1], fragment: match.fragments ? [1, 1] : [0, 1] }]
  // TCP flags and ports are not seen in later fragments; an entry that asks for them meets first fragments only (RFC 1858).
  if (match.established || match.sourcePorts || match.destinationPorts || match.icmpTypes) boxes = boxes.map((box) => ({ ...box, fragment: [0, 0] }))
  const spread = <K extends keyof Box>(field: K, sets: readonly Box[K][] | undefined): void => {
    if (sets) boxes = boxes.flatMap((box) => sets.map((set) => ({ ...box, [field]: set })))
  }
  spread('protocol', match.protocols)
  spread('source', match.sources)
  spread('destination', match.destinations)
  spread('sourcePort', match.sourcePorts)
  spread('destinationPort', match.destinationPorts)
  spread('icmpType', match.icmpTypes)
  return boxes
}

export function intersect(a: Box, b: Box): Box | null {
  const out: { -readonly [K in keyof Box]: Box[K] } = { ...a }
  for (const field of ADDRESS_FIELDS) {
    const both = intersectAddresses(a[field], b[field])
    if (!both) return null
    out[field] = both
  }
  for (const field of RANGE_FIELDS) {
    const from = Math.max(a[field][0], b[field][0])
    const to = Math.min(a[field][1], b[field][1])
    if (from > to) return null
    out[field] = [from, to]
  }
  return out
}

/** Whether two boxes share a packet; cheaper than building what they share. */
export function overlap(a: Box, b: Box): boolean {
  for (const field of RANGE_FIELDS) if (a[field][0] > b[field][1] || b[field][0] > a[field][1]) return false
  for (const field of ADDRESS_FIELDS) {
    const shared = a[field].care & b[field].care
    if ((a[field].value & shared) !== (b[field].value & shared)) return false
  }
  return true
}

/** Whether every packet of `inner` is in `outer`; asked of boxes that overlap. */
function contains(outer: Box, inner: Box): boolean {
  for (const field of RANGE_FIELDS) if (inner[field][0] < outer[field][0] || inner[field][1] > outer[field][1]) return false
  for (const field of ADDRESS_FIELDS) if ((outer[field].care & ~inner[field].care) !== 0n) return false
  return true
}

export function intersectAddresses(a: AddressMatch, b: AddressMatch): AddressMatch | null {
  const shared = a.care & b.care
  if ((a.value & shared) !== (b.value & shared)) return null
  return { value: a.value | b.value, care: a.care | b.care }
}

/** The packets of `a` that are not in `b`, as disjoint boxes. */
export function* subtract(a: Box, b: Box): Generator<Box> {
  if (!overlap(a, b)) {
    yield a
    return
  }
  let rest = a
  for (const field of ADDRESS_FIELDS) {
    let held: AddressMatch = rest[field]
    // Bits that `b` asks about and `a` leaves free: flip each in turn, then fix it as `b` has it.
    for (let free = b[field].care & ~held.care; free !== 0n; ) {
      const bit: bigint = free & -free
      free &= ~bit
      yield { ...rest, [field]: { value: (held.value & ~bit) | (~b[field].value & bit), care: held.care | bit } }
      held = { value: (held.value & ~bit) | (b[field].value & bit), care: held.care | bit }
      rest = { ...rest, [field]: held }
    }
  }
  for (const field of RANGE_FIELDS) {
    const [from, to]: Range = rest[field]
    const [cutFrom, cutTo] = b[field]
    if (from < cutFrom) yield { ...rest, [field]: [from, cutFrom - 1] }
    if (to > cutTo) yield { ...rest, [field]: [cutTo + 1, to] }
    rest = { ...rest, [field]: [Math.max(from, cutFrom), Math.min(to, cutTo)] }
  }
}

/**
 * A packet set within `box` that none of `minus` covers; null where they cover all of it; 'undecided' where the search
 * would take more than `budget` steps. Depth first: the first gap found ends it.
 */
export function remainder(box: Box, minus: readonly Box[], budget = 200_000): Box | null | 'undecided' {
  let steps = 0
  const relevant: Box[] = []
  for (const other of minus) {
    if (!overlap(box, other)) continue
    if (contains(other, box)) return null
    relevant.push(other)
  }
  const search = (rest: Box, at: number): Box | null | 'undecided' => {
    if (++steps > budget) return 'undecided'
    let next = at
    let other = relevant[next]
    while (other && !overlap(rest, other)) other = relevant[++next]
    if (!other) return rest
    for (const piece of subtract(rest, other)) {
      const found = search(piece, next + 1)
      if (found !== null) return found
    }
    return null
  }
  return relevant.length > 2_000 ? 'undecided' : search(box, 0)
}

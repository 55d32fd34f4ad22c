import {
  ANY_ADDRESS,
  addressesMeet,
  coversAddresses,
  sharedAddresses,
  type AddressMatch,
  type EntryMatch,
  type Range,
} from '../model/index.ts'

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
  readonly icmpCode: Range
  readonly dscp: Range
  /** [1,1]: ACK or RST set. */
  readonly established: Range
  /** [1,1]: a fragment other than the first. */
  readonly fragment: Range
}

const RANGE_FIELDS = [
  'protocol',
  'sourcePort',
  'destinationPort',
  'icmpType',
  'icmpCode',
  'dscp',
  'established',
  'fragment',
] as const
const ADDRESS_FIELDS = ['source', 'destination'] as const
const ANY_PORT: Range = [0, 65535]

/** Every packet. */
export const EVERYTHING: Box = {
  source: ANY_ADDRESS,
  destination: ANY_ADDRESS,
  protocol: [0, 255],
  sourcePort: ANY_PORT,
  destinationPort: ANY_PORT,
  icmpType: [0, 255],
  icmpCode: [0, 255],
  dscp: [0, 63],
  established: [0, 1],
  fragment: [0, 1],
}

/** The packets that an access-list entry asks for, as a union of boxes. */
export function boxesOf(match: EntryMatch): Box[] {
  let boxes: Box[] = [
    { ...EVERYTHING, established: match.established ? [1, 1] : [0, 1], fragment: match.fragments ? [1, 1] : [0, 1] },
  ]
  // TCP flags and ports are not seen in later fragments; an entry that asks for them meets first fragments only (RFC
  // 1858).
  if (match.established || match.sourcePorts || match.destinationPorts || match.icmpTypes)
    boxes = boxes.map((box) => ({ ...box, fragment: [0, 0] }))
  const spread = <K extends keyof Box>(field: K, sets: readonly Box[K][] | undefined): void => {
    if (sets) boxes = boxes.flatMap((box) => sets.map((set) => ({ ...box, [field]: set })))
  }
  spread('protocol', match.protocols)
  spread('source', match.sources)
  spread('destination', match.destinations)
  spread('sourcePort', match.sourcePorts)
  spread('destinationPort', match.destinationPorts)
  spread('icmpType', match.icmpTypes)
  spread('icmpCode', match.icmpCodes)
  spread('dscp', match.dscp)
  return boxes
}

export function intersect(a: Box, b: Box): Box | null {
  if (!overlap(a, b)) return null
  const source = sharedAddresses(a.source, b.source)
  const destination = sharedAddresses(a.destination, b.destination)
  if (!source || !destination) return null
  return {
    source,
    destination,
    protocol: shared(a.protocol, b.protocol),
    sourcePort: shared(a.sourcePort, b.sourcePort),
    destinationPort: shared(a.destinationPort, b.destinationPort),
    icmpType: shared(a.icmpType, b.icmpType),
    icmpCode: shared(a.icmpCode, b.icmpCode),
    dscp: shared(a.dscp, b.dscp),
    established: shared(a.established, b.established),
    fragment: shared(a.fragment, b.fragment),
  }
}

function shared(a: Range, b: Range): Range {
  return [Math.max(a[0], b[0]), Math.min(a[1], b[1])]
}

function meet(a: Range, b: Range): boolean {
  return a[0] <= b[1] && b[0] <= a[1]
}

function within(inner: Range, outer: Range): boolean {
  return inner[0] >= outer[0] && inner[1] <= outer[1]
}

// Field by field rather than in a loop over their names: these two are asked millions of times.
/** Whether two boxes share a packet; cheaper than building what they share. */
export function overlap(a: Box, b: Box): boolean {
  return (
    addressesMeet(a.source, b.source) &&
    addressesMeet(a.destination, b.destination) &&
    meet(a.protocol, b.protocol) &&
    meet(a.destinationPort, b.destinationPort) &&
    meet(a.sourcePort, b.sourcePort) &&
    meet(a.icmpType, b.icmpType) &&
    meet(a.icmpCode, b.icmpCode) &&
    meet(a.dscp, b.dscp) &&
    meet(a.established, b.established) &&
    meet(a.fragment, b.fragment)
  )
}

/** Whether every packet of `inner` is in `outer`; asked of boxes that overlap. */
export function contains(outer: Box, inner: Box): boolean {
  return (
    coversAddresses(outer.source, inner.source) &&
    coversAddresses(outer.destination, inner.destination) &&
    within(inner.protocol, outer.protocol) &&
    within(inner.destinationPort, outer.destinationPort) &&
    within(inner.sourcePort, outer.sourcePort) &&
    within(inner.icmpType, outer.icmpType) &&
    within(inner.icmpCode, outer.icmpCode) &&
    within(inner.dscp, outer.dscp) &&
    within(inner.established, outer.established) &&
    within(inner.fragment, outer.fragment)
  )
}

/** The packets of `a` that are not in `b`, as disjoint boxes. */
export function* subtract(a: Box, b: Box): Generator<Box> {
  if (!overlap(a, b)) {
    yield a
    return
  }
  let rest = a
  for (const field of ADDRESS_FIELDS) {
    const cut = b[field]
    for (let word = 0; word < cut.care.length; word++) {
      // Bits that `b` asks about and `a` leaves free: flip each in turn, then fix it as `b` has it.
      for (let free = (cut.care[word] ?? 0) & ~(rest[field].care[word] ?? 0); free !== 0;) {
        const bit = free & -free
        free &= ~bit
        const wanted = (cut.value[word] ?? 0) & bit
        yield { ...rest, [field]: withBit(rest[field], word, cut.care.length, bit, ~wanted & bit) }
        rest = { ...rest, [field]: withBit(rest[field], word, cut.care.length, bit, wanted) }
      }
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

function withBit(set: AddressMatch, word: number, words: number, bit: number, value: number): AddressMatch {
  const held =
    set.care.length === 0
      ? { value: Array<number>(words).fill(0), care: Array<number>(words).fill(0) }
      : { value: [...set.value], care: [...set.care] }
  held.value[word] = (((held.value[word] ?? 0) & ~bit) | value) >>> 0
  held.care[word] = ((held.care[word] ?? 0) | bit) >>> 0
  return held
}

/**
 * A packet set within `box` that none of `minus` covers; null where they cover all of it; 'undecided' where the search
 * would take more than `budget` steps. Depth first: the first gap found ends it.
 */
export function remainder(box: Box, minus: readonly Box[], budget = 200_000): Box | null | 'undecided' {
  const relevant: Box[] = []
  for (const other of minus) {
    if (!overlap(box, other)) continue
    if (contains(other, box)) return null
    relevant.push(other)
  }
  return relevant.length > 2_000 ? 'undecided' : search(box, relevant, 0, { steps: budget })
}

function search(rest: Box, minus: readonly Box[], at: number, left: { steps: number }): Box | null | 'undecided' {
  if (--left.steps < 0) return 'undecided'
  let next = at
  let other = minus[next]
  while (other && !overlap(rest, other)) other = minus[++next]
  if (!other) return rest
  for (const piece of subtract(rest, other)) {
    const found = search(piece, minus, next + 1, left)
    if (found !== null) return found
  }
  return null
}

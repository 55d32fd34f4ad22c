import { expect } from 'chai'
import fc from 'fast-check'
import ipaddr from 'ipaddr.js'
import { dialectById, readBenchmark, type Dialect } from '../../src/index.ts'
import { accessListsOf } from '../../src/dialects/index.ts'
import {
  EVERYTHING,
  admits,
  boxesOf,
  fromSources,
  intersect,
  openToAll,
  remainder,
  subtract,
  type Box,
} from '../../src/headers/index.ts'
import {
  addressWords,
  addressesMeet,
  hostMatch,
  parsePrefix,
  prefixMatch,
  type AccessList,
  type AddressMatch,
} from '../../src/model/index.ts'
import { benchmarkTexts } from '../../../content/src/index.ts'

const indented = dialectById('indented') as Dialect
const listOf = (lines: string): AccessList => {
  const list = [...accessListsOf(indented.evaluate([indented.read(`ip access-list extended X\n${lines}`)])).values()][0]
  if (!list) throw new Error('no list')
  return list
}

/** Small fields, so that every packet can be tried. */
const range = fc
  .tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 }))
  .map(([a, b]) => [Math.min(a, b), Math.max(a, b)] as const)
/** The lowest bits of the first word, of the last of four, or any address at all. */
const address = fc.oneof(
  fc.tuple(fc.nat({ max: 7 }), fc.nat({ max: 7 })).map(([value, care]) => ({ value: [value & care], care: [care] })),
  fc.constant({ value: [], care: [] }),
)
const inSet = (host: number, set: AddressMatch): boolean => addressesMeet(hostMatch([host]), set)
const box: fc.Arbitrary<Box> = fc.record({
  source: address,
  destination: address,
  protocol: range,
  sourcePort: fc.constant([0, 0] as const),
  destinationPort: fc.constant([0, 0] as const),
  icmpType: fc.constant([0, 0] as const),
  icmpCode: fc.constant([0, 0] as const),
  dscp: fc.constant([0, 0] as const),
  established: fc.constant([0, 0] as const),
  fragment: fc.constant([0, 0] as const),
})

const bytesOf = (words: readonly number[] | null): number[] =>
  (words ?? []).flatMap((word) => [word >>> 24, (word >>> 16) & 255, (word >>> 8) & 255, word & 255])

interface Packet {
  readonly source: number
  readonly destination: number
  readonly protocol: number
}
const PACKETS: Packet[] = []
for (let source = 0; source < 8; source++)
  for (let destination = 0; destination < 8; destination++)
    for (let protocol = 0; protocol < 4; protocol++) PACKETS.push({ source, destination, protocol })
const isIn = ({ source, destination, protocol }: Packet, b: Box): boolean =>
  inSet(source, b.source) && inSet(destination, b.destination) && protocol >= b.protocol[0] && protocol <= b.protocol[1]

describe('header sets', () => {
  it('intersection and difference equal brute force', () => {
    fc.assert(
      fc.property(box, box, (a, b) => {
        const both = intersect(a, b)
        const pieces = [...subtract(a, b)]
        for (const packet of PACKETS) {
          expect(both !== null && isIn(packet, both)).to.equal(isIn(packet, a) && isIn(packet, b))
          const homes = pieces.filter((piece) => isIn(packet, piece)).length
          expect(homes).to.equal(isIn(packet, a) && !isIn(packet, b) ? 1 : 0)
        }
      }),
      { numRuns: 300 },
    )
  })

  it('the remainder is empty exactly where brute force finds none, and lies where it should', () => {
    fc.assert(
      fc.property(box, fc.array(box, { maxLength: 6 }), (a, minus) => {
        const left = remainder(a, minus)
        const brute = PACKETS.filter((packet) => isIn(packet, a) && !minus.some((other) => isIn(packet, other)))
        if (brute.length === 0) expect(left).to.equal(null)
        else {
          if (left === null || left === 'undecided') throw new Error('a packet was overlooked')
          expect(PACKETS.filter((packet) => isIn(packet, left)).every((packet) => brute.includes(packet))).to.equal(
            true,
          )
        }
      }),
      { numRuns: 300 },
    )
  })

  it('gives up in words rather than in hours', () => {
    const holes = Array.from({ length: 24 }, (_, i) => ({
      ...EVERYTHING,
      source: { value: [(1 << i) >>> 0], care: [((1 << i) | (1 << ((i + 7) % 32))) >>> 0] },
      destination: { value: [0], care: [(1 << i) >>> 0] },
    }))
    expect(remainder(EVERYTHING, holes, 50)).to.satisfy(
      (answer: unknown) => answer === 'undecided' || typeof answer === 'object',
    )
  })
})

describe('access lists', () => {
  const bogon = (prefix: string): Box => {
    const parsed = parsePrefix(prefix)
    if (!parsed) throw new Error(prefix)
    return fromSources(parsed)
  }
  const cases: { name: string; lines: string; from: string; is: 'some' | 'none' | 'undecided' }[] = [
    { name: 'the implicit deny', lines: ' permit ip host 8.8.8.8 any', from: '10.0.0.0/8', is: 'none' },
    {
      name: 'ports decide',
      lines:
        ' deny udp 10.0.0.0 0.255.255.255 any lt 1024\n deny udp 10.0.0.0 0.255.255.255 any range 1024 65535\n permit udp any any',
      from: '10.0.0.0/8',
      is: 'some',
    },
    {
      name: 'fragments slip past a deny by port',
      lines: ' deny tcp any any range 0 65535\n deny udp any any\n permit tcp any any',
      from: '10.0.0.0/8',
      is: 'some',
    },
    {
      name: 'fragments denied too',
      lines: ' deny ip any any fragments\n deny tcp any any range 0 65535\n permit tcp any any',
      from: '10.0.0.0/8',
      is: 'none',
    },
    {
      name: 'all but one port',
      lines: ' deny tcp any any fragments\n deny tcp any any neq 22\n deny tcp any any eq ssh\n permit tcp any any',
      from: '10.0.0.0/8',
      is: 'none',
    },
    {
      name: 'an object group',
      lines: ' permit ip object-group G any\nobject-group network G\n 10.1.0.0 255.255.0.0\n',
      from: '10.0.0.0/8',
      is: 'some',
    },
    {
      name: 'an unknown object group',
      lines: ' permit ip object-group NOWHERE any',
      from: '10.0.0.0/8',
      is: 'undecided',
    },
    { name: 'a reflexive list', lines: ' evaluate BACK', from: '10.0.0.0/8', is: 'undecided' },
    {
      name: 'a word that is not weighed, on packets denied before',
      lines: ' deny ip 10.0.0.0 0.255.255.255 any\n permit ip any any dscp ef',
      from: '10.0.0.0/8',
      is: 'none',
    },
  ]
  for (const { name, lines, from, is } of cases)
    it(`${name}: ${is}`, () => expect(admits(listOf(lines), bogon(from)).answer).to.equal(is))

  it('admits equals reading the list packet by packet, on random lists', () => {
    const source = fc.constantFrom(
      'any',
      'host 10.0.0.1',
      '10.0.0.0 0.0.0.1',
      '10.0.0.0 0.0.0.3',
      '10.0.0.0 0.0.0.2',
      'host 10.0.0.2',
    )
    const entry = fc.tuple(fc.constantFrom('permit', 'deny'), fc.constantFrom('ip', 'tcp', 'udp'), source)
    fc.assert(
      fc.property(fc.array(entry, { minLength: 1, maxLength: 7 }), (entries) => {
        const list = listOf(entries.map(([action, protocol, from]) => ` ${action} ${protocol} ${from} any`).join('\n'))
        const wanted = prefixMatch(addressWords('10.0.0.0', 'ipv4') ?? [], 30)
        // The first entry that matches decides, as a router does it; protocols 6, 17 and any third.
        const passes = [0, 1, 2, 3].some((host) =>
          [6, 17, 99].some(
            (protocol) =>
              list.entries.find((one) =>
                boxesOf(one.match).some(
                  (b) => inSet(0x0a000000 + host, b.source) && protocol >= b.protocol[0] && protocol <= b.protocol[1],
                ),
              )?.action === 'permit',
          ),
        )
        expect(admits(list, fromSources(wanted)).answer).to.equal(passes ? 'some' : 'none')
      }),
      { numRuns: 400 },
    )
  })

  it('open means open to whoever is not denied by name', () => {
    expect(openToAll(listOf(' permit tcp any any eq 22')).answer).to.equal('some')
    expect(openToAll(listOf(' permit tcp any any established')).answer).to.equal('none')
    expect(openToAll(listOf(' permit udp any any')).answer).to.equal('none')
    expect(openToAll(listOf(' permit tcp 10.0.0.0 0.255.255.255 any')).answer).to.equal('none')
  })
})

describe('addresses and bogons against ipaddr.js and RFC 6890', () => {
  it('reads addresses and prefixes as ipaddr.js does', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.ipV4(), fc.ipV6()),
        fc.integer({ min: 0, max: 128 }),
        fc.oneof(fc.ipV4(), fc.ipV6()),
        (text, length, other) => {
          // The deprecated IPv4-compatible form (RFC 4291 §2.5.5.1) is the one that ipaddr.js reads otherwise; see the
          // RFC's own examples below.
          fc.pre(![text, other].some((address) => /^::\d+\.\d/.test(address)))
          const family = text.includes(':') ? 'ipv6' : 'ipv4'
          fc.pre(family === 'ipv6' || length <= 32)
          const theirs = ipaddr.parse(text)
          expect(bytesOf(addressWords(text, family))).to.deep.equal(theirs.toByteArray())
          const prefix = prefixMatch(addressWords(text, family) ?? [], length)
          const words = addressWords(other, family)
          if (words !== null && ipaddr.isValid(other) && ipaddr.parse(other).kind() === theirs.kind()) {
            const inTheirs =
              theirs.kind() === 'ipv4'
                ? (ipaddr.parse(other) as ipaddr.IPv4).match(theirs as ipaddr.IPv4, length)
                : (ipaddr.parse(other) as ipaddr.IPv6).match(theirs as ipaddr.IPv6, length)
            expect(addressesMeet(hostMatch(words), prefix)).to.equal(inTheirs)
          }
        },
      ),
    )
  })

  it('reads the examples of RFC 4291 §2.2', () => {
    const pairs = [
      ['2001:DB8:0:0:8:800:200C:417A', '2001:DB8::8:800:200C:417A'],
      ['FF01:0:0:0:0:0:0:101', 'FF01::101'],
      ['0:0:0:0:0:0:0:1', '::1'],
      ['0:0:0:0:0:0:13.1.68.3', '::13.1.68.3'],
      ['0:0:0:0:0:FFFF:129.144.52.38', '::FFFF:129.144.52.38'],
    ] as const
    for (const [long, short] of pairs)
      expect(addressWords(short, 'ipv6'), short).to.deep.equal(addressWords(long, 'ipv6')).and.not.equal(null)
    expect(addressWords('::13.1.68.3', 'ipv6')).to.deep.equal([0, 0, 0, 0x0d014403])
  })

  it('refuses what is no address', () => {
    for (const text of ['', '10.0.0', '10.0.0.256', '10.0.0.1.2', ':::', '1:2:3', 'g::1', '1::2::3'])
      expect(addressWords(text, text.includes(':') ? 'ipv6' : 'ipv4'), text).to.equal(null)
  })

  const benchmark = readBenchmark(benchmarkTexts()[0]?.text ?? '')
  const bogons = benchmark.source.values['bogons']?.default as string[]

  it('the default bogons are the entries of RFC 6890 that are not globally reachable, and of RFC 1918', () => {
    // RFC 6890 table 1 to 16 (IPv4) with "Global: False"; 255.255.255.255/32 lies in 240.0.0.0/4, 192.0.0.0/29 in
    // 192.0.0.0/24.
    const published = [
      '0.0.0.0/8',
      '10.0.0.0/8',
      '100.64.0.0/10',
      '127.0.0.0/8',
      '169.254.0.0/16',
      '172.16.0.0/12',
      '192.0.0.0/24',
      '192.0.2.0/24',
      '192.168.0.0/16',
      '198.18.0.0/15',
      '198.51.100.0/24',
      '203.0.113.0/24',
      '240.0.0.0/4',
    ]
    expect(bogons.toSorted()).to.deep.equal(published.toSorted())
  })

  it('ipaddr.js calls no bogon an ordinary unicast address, and its special ranges are bogons but for four', () => {
    const covered = (text: string): boolean =>
      bogons.some((prefix) => ipaddr.IPv4.parse(text).match(ipaddr.IPv4.parseCIDR(prefix)))
    for (const prefix of bogons) expect(ipaddr.IPv4.parseCIDR(prefix)[0].range(), prefix).to.not.equal('unicast')
    // Not in RFC 6890 as unreachable: multicast (RFC 5771), 6to4 relays, AS112 and AMT anycast are reachable.
    const reachable = new Set(['multicast', 'as112', 'amt', 'as112v6', '6to4'])
    const special = (
      ipaddr.IPv4.prototype as unknown as { SpecialRanges: Record<string, readonly (readonly [ipaddr.IPv4, number])[]> }
    ).SpecialRanges
    for (const [name, ranges] of Object.entries(special)) {
      if (reachable.has(name)) continue
      for (const [start] of ranges.filter(([first]) => first.toString() !== '192.88.99.0'))
        expect(covered(start.toString()), `${name} ${start.toString()}`).to.equal(true)
    }
  })
})

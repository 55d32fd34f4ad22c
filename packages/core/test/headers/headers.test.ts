import { expect } from 'chai'
import fc from 'fast-check'
import type { Packet } from '../../src/index.ts'
import {
  ALL,
  Diagrams,
  FilterTextError,
  Headers,
  NOTHING,
  TCP_FLAGS,
  ComplexityLimitError,
  exampleOf,
  readFilterText,
  readableOf,
  sizeOf,
  type HeaderMatch,
} from '../../src/headers/index.ts'
import { parsePrefix, type AddressMatch, type Range } from '../../src/model/index.ts'

const net = (text: string): AddressMatch => parsePrefix(text) ?? expect.fail(text)

/** Small fields: 12 bits of headers, so that every one of them can be tried. */
const HOSTS = ['10.0.0.0', '10.0.0.1', '10.0.0.2', '10.128.0.1']
const PACKETS: Packet[] = []
for (const source of HOSTS)
  for (const destination of HOSTS)
    for (const protocol of [1, 6, 17, 47])
      for (const fragment of [false, true])
        for (const a of [0, 1, 2, 3])
          for (const b of [0, 1]) {
            const [ported, icmp] = [!fragment && (protocol === 6 || protocol === 17), !fragment && protocol === 1]
            for (const tcpFlags of !fragment && protocol === 6 ? [['syn'], ['ack'], ['syn', 'rst']] : [null])
              PACKETS.push({
                family: 'ipv4',
                source,
                destination,
                protocol,
                fragment,
                sourcePort: ported ? b : null,
                destinationPort: ported ? a : null,
                icmpType: icmp ? a : null,
                icmpCode: icmp ? b : null,
                tcpFlags,
                dscp: b,
              })
          }

const small = fc.tuple(fc.nat({ max: 3 }), fc.nat({ max: 3 })).map(([a, b]): Range => [Math.min(a, b), Math.max(a, b)])
const some = <T>(value: fc.Arbitrary<T>): fc.Arbitrary<readonly T[] | undefined> =>
  fc.option(fc.array(value, { minLength: 1, maxLength: 2 }), { nil: undefined })
const nets = fc.constantFrom('10.0.0.0/31', '10.0.0.0/30', '10.0.0.1/32', '10.128.0.0/9', '0.0.0.0/0').map(net)
const odd = fc.constant<AddressMatch>({ value: [0x0a000001], care: [0xff000001] })
const match: fc.Arbitrary<HeaderMatch> = fc
  .record(
    {
      protocols: some(fc.constantFrom<Range>([1, 1], [6, 6], [6, 17], [17, 17])),
      sources: some(fc.oneof(nets, odd)),
      destinations: some(fc.oneof(nets, odd)),
      sourcePorts: some(small),
      destinationPorts: some(small),
      icmpTypes: some(small),
      icmpCodes: some(small),
      dscp: some(fc.constantFrom<Range>([0, 0], [1, 40])),
      established: fc.boolean(),
      fragments: fc.boolean(),
      tcpFlags: some(fc.record({ flag: fc.constantFrom('syn' as const, 'ack' as const), set: fc.boolean() })),
    },
    { requiredKeys: [] },
  )
  .map((drawn) => Object.fromEntries(Object.entries(drawn).filter(([, value]) => value !== undefined)))

/** The meaning of a match, written out by itself. */
function meets(packet: Packet, wanted: HeaderMatch): boolean {
  const inside = (value: number | null, ranges: readonly Range[] | undefined): boolean =>
    !ranges || (value !== null && ranges.some(([from, to]) => value >= from && value <= to))
  const at = (text: string, matches: readonly AddressMatch[] | undefined): boolean => {
    const word = net(text).value[0] ?? 0
    return !matches || matches.some(({ value: [value = 0], care: [care = 0] }) => (word & care) >>> 0 === value)
  }
  const flags = packet.tcpFlags
  return (
    inside(packet.protocol, wanted.protocols) &&
    at(packet.source, wanted.sources) &&
    at(packet.destination, wanted.destinations) &&
    inside(packet.dscp, wanted.dscp) &&
    inside(packet.sourcePort, wanted.sourcePorts) &&
    inside(packet.destinationPort, wanted.destinationPorts) &&
    inside(packet.icmpType, wanted.icmpTypes) &&
    inside(packet.icmpCode, wanted.icmpCodes) &&
    (wanted.established !== true || (flags !== null && (flags.includes('ack') || flags.includes('rst')))) &&
    (wanted.fragments !== true || packet.fragment) &&
    (!wanted.tcpFlags?.length ||
      (flags !== null && wanted.tcpFlags.every(({ flag, set }) => flags.includes(flag) === set)))
  )
}

type Tree = { readonly leaf: HeaderMatch } | { readonly op: 'and' | 'or' | 'minus'; readonly a: Tree; readonly b: Tree }
const tree: fc.Arbitrary<Tree> = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 3 },
    match.map((leaf) => ({ leaf })),
    fc.record({ op: fc.constantFrom('and' as const, 'or' as const, 'minus' as const), a: tie('tree'), b: tie('tree') }),
  ),
})).tree

const setOf = (headers: Headers, drawn: Tree): number =>
  'leaf' in drawn
    ? headers.match(drawn.leaf, 'ipv4')
    : headers.diagrams[drawn.op](setOf(headers, drawn.a), setOf(headers, drawn.b))
const holds = (packet: Packet, drawn: Tree): boolean => {
  if ('leaf' in drawn) return meets(packet, drawn.leaf)
  const [a, b] = [holds(packet, drawn.a), holds(packet, drawn.b)]
  return drawn.op === 'and' ? a && b : drawn.op === 'or' ? a || b : a && !b
}
const isIn = (headers: Headers, packet: Packet, set: number): boolean =>
  headers.diagrams.meet(headers.packet(packet), set)

describe('sets of headers', () => {
  it('hold the headers that brute force finds, whatever is joined and cut', () => {
    const headers = new Headers()
    const singles = PACKETS.map((packet) => headers.packet(packet))
    fc.assert(
      fc.property(tree, (drawn) => {
        const set = setOf(headers, drawn)
        PACKETS.forEach((packet, i) =>
          expect(headers.diagrams.meet(singles[i] ?? 0, set), JSON.stringify(packet)).to.equal(holds(packet, drawn)),
        )
      }),
      { numRuns: 60 },
    )
  })

  it('equal sets have one number, and laws of sets hold', () => {
    const { diagrams } = new Headers()
    fc.assert(
      fc.property(tree, tree, (x, y) => {
        const fresh = new Headers(diagrams)
        const [a, b] = [setOf(fresh, x), setOf(fresh, y)]
        expect(diagrams.not(diagrams.and(a, b))).to.equal(diagrams.or(diagrams.not(a), diagrams.not(b)))
        expect(diagrams.or(diagrams.minus(a, b), diagrams.and(a, b))).to.equal(a)
        expect(diagrams.meet(a, b)).to.equal(diagrams.and(a, b) !== NOTHING)
        expect(diagrams.within(a, diagrams.or(a, b))).to.equal(true)
        expect(sizeOf(fresh, a) + sizeOf(fresh, b)).to.equal(
          sizeOf(fresh, diagrams.or(a, b)) + sizeOf(fresh, diagrams.and(a, b)),
        )
      }),
      { numRuns: 100 },
    )
  })

  it('counts headers, and not the fields that they do not have', () => {
    const headers = new Headers()
    for (const packet of PACKETS.slice(0, 60)) expect(sizeOf(headers, headers.packet(packet))).to.equal(1n)
    expect(
      sizeOf(
        headers,
        readFilterText(
          headers,
          'ip and tcp and src net 10.0.0.0/8 and dst host 10.1.2.3 and dst port 443 and ip[1] & 0xfc == 0',
        ),
      ),
    ).to.equal(2n ** 24n * 2n ** 16n * 2n ** 6n)
    expect(
      sizeOf(
        headers,
        readFilterText(
          headers,
          'udp and src host 2001:db8::1 and dst host 2001:db8::2 and src port 53 and ip6[0:2] & 0x0fc0 == 0',
        ),
      ),
    ).to.equal(2n ** 16n)
    expect(sizeOf(headers, NOTHING)).to.equal(0n)
  })

  it('an example lies in its set, and is a likely one where the set has it', () => {
    const headers = new Headers()
    fc.assert(
      fc.property(tree, (drawn) => {
        const set = setOf(headers, drawn)
        const example = exampleOf(headers, set)
        if (set === NOTHING) expect(example).to.equal(null)
        else expect(example !== null && isIn(headers, example, set)).to.equal(true)
      }),
      { numRuns: 100 },
    )
    const hosts = headers.all(headers.address('destination', net('10.40.8.0/24')))
    const likely = headers.address('destination', net('10.40.8.17'))
    expect(exampleOf(headers, hosts, [likely]))
      .to.include({
        destination: '10.40.8.17',
        protocol: 6,
        destinationPort: 443,
        sourcePort: 49152,
        fragment: false,
        dscp: 0,
      })
      .and.to.have.property('tcpFlags')
      .deep.equal(['syn'])
    expect(exampleOf(headers, headers.ipv6)).to.include({ family: 'ipv6', protocol: 6 })
  })

  it('exchanges both ends, twice is as before, and another store takes a set as it is', () => {
    const headers = new Headers()
    const turned = ({ source, destination, sourcePort, destinationPort, ...rest }: Packet): Packet => ({
      ...rest,
      source: destination,
      destination: source,
      sourcePort: destinationPort,
      destinationPort: sourcePort,
    })
    fc.assert(
      fc.property(tree, (drawn) => {
        const set = setOf(headers, drawn)
        const back = headers.exchanged(set)
        expect(headers.exchanged(back)).to.equal(set)
        for (const packet of PACKETS.filter((_, i) => i % 11 === 0))
          expect(headers.diagrams.meet(back, headers.packet(turned(packet)))).to.equal(
            headers.diagrams.meet(set, headers.packet(packet)),
          )
        const other = new Headers()
        const taken = other.diagrams.taken(headers.diagrams, set)
        expect(headers.diagrams.taken(other.diagrams, taken)).to.equal(set)
        for (const packet of PACKETS.filter((_, i) => i % 11 === 0))
          expect(other.diagrams.meet(taken, other.packet(packet))).to.equal(
            headers.diagrams.meet(set, headers.packet(packet)),
          )
      }),
      { numRuns: 40 },
    )
  })

  it('answers: SYN with ACK, an echo request with its reply, and tells what they answer', () => {
    const headers = new Headers()
    const asked = readFilterText(
      headers,
      'src net 10.0.0.0/8 and dst host 192.0.2.1 and (tcp dst port 443 and tcp[tcpflags] & (tcp-syn|tcp-ack) == tcp-syn or icmp[icmptype] == 8 or udp dst port 53)',
    )
    const answers = headers.answering(asked)
    expect(answers).to.equal(
      readFilterText(
        headers,
        'dst net 10.0.0.0/8 and src host 192.0.2.1 and not (ip[6:2] & 0x1fff != 0) and (tcp src port 443 and tcp[tcpflags] & (tcp-fin|tcp-syn|tcp-rst|tcp-push|tcp-ack|tcp-urg) == (tcp-syn|tcp-ack) or icmp[icmptype] == 0 or udp src port 53)',
      ),
    )
    expect(headers.answeredBy(answers, asked)).to.equal(asked)
    expect(headers.answeredBy(headers.diagrams.and(answers, headers.tcp), asked)).to.equal(
      headers.diagrams.and(asked, headers.tcp),
    )
  })

  it('rewrites a field, and tells which headers came to lie in a set by it', () => {
    const headers = new Headers()
    const to = headers.value('destinationPort', 8080)
    const sent = readFilterText(headers, 'ip and tcp dst port 80 or udp dst port 53')
    const rewritten = headers.rewrite(headers.all(sent, headers.tcp), 'destinationPort', to)
    expect(rewritten).to.equal(readFilterText(headers, 'ip and tcp dst port 8080'))
    expect(
      headers.beforeRewrite(
        sent,
        'destinationPort',
        to,
        readFilterText(headers, 'tcp dst port 8080 and src net 10.0.0.0/8'),
      ),
    ).to.equal(readFilterText(headers, 'ip and tcp dst port 80 and src net 10.0.0.0/8'))
  })

  it('what takes too much room is refused in words', () => {
    const headers = new Headers(new Diagrams(4_000))
    const intricate = (): number =>
      Array.from({ length: 32 }, (_, i) =>
        headers.match(
          {
            sources: [{ value: [(1 << i) >>> 0], care: [(1 << i) >>> 0] }],
            destinations: [{ value: [(1 << ((i * 7) % 32)) >>> 0], care: [(1 << ((i * 7) % 32)) >>> 0] }],
          },
          'ipv4',
        ),
      ).reduce((all, set) => headers.diagrams.or(all, set), NOTHING)
    expect(intricate).to.throw(ComplexityLimitError, /more than 4000 nodes/)
  })
})

describe('classes of headers as text', () => {
  const headers = new Headers()
  const { diagrams } = headers

  it('what is written of a set is read as that set', () => {
    fc.assert(
      fc.property(tree, (drawn) => {
        const set = setOf(headers, drawn)
        const { classes, whole } = readableOf(headers, set, 400)
        const read = classes
          .map((text) => readFilterText(headers, text))
          .reduce((all, one) => diagrams.or(all, one), NOTHING)
        if (whole) expect(read, classes.join('\n')).to.equal(set)
        else expect(diagrams.within(read, set)).to.equal(true)
      }),
      { numRuns: 100 },
    )
  })

  // The sentences are those of pcap-filter(7), from memory; what they mean is that manual's.
  const same: [string, string, string][] = [
    [
      'qualifiers that are left out are those said last',
      'tcp dst port 80 or 443',
      'tcp dst port 80 or tcp dst port 443',
    ],
    ['src or dst where neither is said', 'host 10.0.0.1', 'src or dst host 10.0.0.1'],
    ['both ends', 'src and dst net 10.0.0.0/8', 'src net 10.0.0.0/8 and dst net 10.0.0.0/8'],
    ['and, or bind alike from left to right', 'udp or tcp and dst port 53', '(udp or tcp) and dst port 53'],
    ['not binds most tightly', 'not host 10.0.0.1 and tcp', '(not host 10.0.0.1) and tcp'],
    ['signs for words', '!host 10.0.0.1 && tcp || udp', 'not host 10.0.0.1 and tcp or udp'],
    ['a port alone is of TCP, UDP and their like', 'ip and tcp port 53', 'ip and tcp and port 53'],
    ['a network in part', 'net 10.40', 'net 10.40.0.0/16'],
    ['a network with its mask', 'dst net 10.40.0.0 mask 255.255.0.0', 'dst net 10.40.0.0/16'],
    ['services by name', 'tcp dst port https', 'tcp dst port 443'],
    ['protocols by number', 'ip proto 6', 'ip and tcp'],
    ['flags by name', 'tcp[tcpflags] & (tcp-syn|tcp-ack) == tcp-syn', 'tcp[13] & 18 == 2'],
    ['types of ICMP', 'icmp[icmptype] == 8', 'icmp[0] = 8'],
    ['ranges of ports', 'udp dst portrange 1024-1025', 'udp and (dst port 1024 or dst port 1025)'],
  ]
  for (const [name, text, other] of same)
    it(name, () =>
      expect(readFilterText(headers, text))
        .to.equal(readFilterText(headers, other))
        .and.not.equal(NOTHING)
        .and.not.equal(ALL),
    )

  it('reads established as every first packet is not', () => {
    expect(readFilterText(headers, 'ip and tcp[tcpflags] & (tcp-ack|tcp-rst) != 0')).to.equal(
      headers.match({ protocols: [[6, 6]], established: true }, 'ipv4'),
    )
    expect(TCP_FLAGS).to.have.length(6)
  })

  it('says what is short', () => {
    const words = (text: string): readonly string[] => readableOf(headers, readFilterText(headers, text)).classes
    expect(words('tcp and dst net 10.40.8.0/24 and dst port 443')).to.deep.equal([
      'tcp and dst net 10.40.8.0/24 and dst port 443',
    ])
    expect(words('ip and dst net 10.40.8.0/24')).to.deep.equal(['dst net 10.40.8.0/24'])
    expect(words('ip and not dst net 10.0.0.0/8')).to.deep.equal(['ip and not dst net 10.0.0.0/8'])
    expect(words('udp dst portrange 1024-65535')).to.deep.equal(['udp and dst portrange 1024-65535'])
    expect(words('icmp[icmptype] == 8')).to.deep.equal(['ip and icmp and icmp[icmptype] == 8'])
    expect(words('dst host 2001:db8::1')).to.deep.equal(['dst host 2001:db8::1'])
    expect(readableOf(headers, ALL).classes).to.deep.equal(['ip or ip6'])
    expect(readableOf(headers, NOTHING)).to.deep.equal({ classes: [], whole: true })
  })

  const wrong: [string, number, string][] = [
    ['tcp and', 8, 'a protocol'],
    ['dst port 70000', 10, 'a port from 0 to 65535'],
    ['host 10.0.0.256', 6, 'an address'],
    ['tcp or (udp', 12, '")"'],
    ['tcp udp', 5, '"and", "or" or the end'],
    ['dst portrange 9-3', 15, 'two ports'],
    ['tcp[4] == 3', 1, 'octets that are looked at here'],
    ['tcp and #', 8, 'a word'],
    // Octets of a header that fields of ours are not in, and widths and masks that take part of one.
    ...[
      'tcp[13:2] & 2 != 0',
      'udp[13] & 2 != 0',
      'icmp[13] = 2',
      'icmp[0] & 1 = 1',
      'icmp[0:2] = 8',
      'icmp[4] = 8',
      'ip[1:2] & 0xfc == 0',
      'ip[1] & 0xff == 0',
      'ip[1] & 0xfc == 3',
      'ip[0] & 0xfc == 0',
      'tcp[1] & 0xfc == 0',
      'ip6[0] & 0x0fc0 == 0',
      'ip6[1:2] & 0x0fc0 == 0',
      'ip6[0:2] & 0x0fc0 == 1',
      'ip6[0:2] & 0x0fff == 64',
      'ip[6] & 0x1fff = 0',
      'ip[4:2] & 0x1fff = 0',
      'ip[6:2] & 0x3fff = 0',
      'ip[6:2] & 0x1fff = 5',
      'ip[6:2] & 0x1fff > 0',
      'ip6[42] & 0xfff8 = 0',
      'ip6[40:2] & 0xfff8 = 0',
      'ip6[42:2] & 0xffff = 0',
      'ip6[42:2] & 0xfff8 = 8',
    ].map((text): [string, number, string] => [text, 1, 'octets that are looked at here']),
  ]
  for (const [text, column, expected] of wrong) {
    it(`says where "${text}" goes wrong`, () => {
      try {
        readFilterText(headers, text)
      } catch (error) {
        if (!(error instanceof FilterTextError)) throw error
        expect(error.column).to.equal(column)
        expect(error.expected).to.contain(expected)
        return
      }
      expect.fail('nothing was refused')
    })
  }

  it('hostile text ends soon', () => {
    expect(() => readFilterText(headers, '('.repeat(15_000))).to.throw(FilterTextError)
    expect(() => readFilterText(headers, 'tcp or '.repeat(10_000))).to.throw(FilterTextError)
    expect(readFilterText(headers, `${'not '.repeat(4_000)}tcp`)).to.equal(headers.value('protocol', 6))
  })
})

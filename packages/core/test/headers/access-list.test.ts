import { expect } from 'chai'
import fc from 'fast-check'
import ipaddr from 'ipaddr.js'
import { dialectById, readBenchmark, type Dialect } from '../../src/index.ts'
import { Headers, standaloneLists, type StandaloneList } from '../../src/headers/index.ts'
import {
  EffectiveConfig,
  addressWords,
  addressesMeet,
  hostMatch,
  modelOf,
  parsePrefix,
  prefixMatch,
  type AddressMatch,
} from '../../src/model/index.ts'
import { benchmarkTexts } from '../../../content/src/index.ts'

const indented = dialectById('indented') as Dialect
/** The first list of a device that was read. */
const listOf = (lines: string): StandaloneList => {
  const effective = EffectiveConfig.of(indented.read(`ip access-list extended X\n${lines}`), indented)
  const { model } = modelOf(effective, { record: 'x', mask: () => '' })
  const list = standaloneLists(new Headers(), model.accessLists, indented.forwarding.laterFragments).find(
    (one) => one.list.name === 'X',
  )
  if (!list) throw new Error('no policy')
  return list
}
const admitsFrom = (list: StandaloneList, source: AddressMatch): string =>
  list.admits(list.sets.headers.address('source', source)).answer
const opens = (list: StandaloneList): string => list.openToAll.answer

const bytesOf = (words: readonly number[] | null): number[] =>
  (words ?? []).flatMap((word) => [word >>> 24, (word >>> 16) & 255, (word >>> 8) & 255, word & 255])

describe('access lists', () => {
  const bogon = (prefix: string): AddressMatch => {
    const parsed = parsePrefix(prefix)
    if (!parsed) throw new Error(prefix)
    return parsed
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
    it(`${name}: ${is}`, () => expect(admitsFrom(listOf(lines), bogon(from))).to.equal(is))

  it('admits equals reading the list packet by packet, on random lists', () => {
    const hosts: Readonly<Record<string, readonly number[]>> = {
      any: [0, 1, 2, 3],
      'host 10.0.0.1': [1],
      '10.0.0.0 0.0.0.1': [0, 1],
      '10.0.0.0 0.0.0.3': [0, 1, 2, 3],
      '10.0.0.0 0.0.0.2': [0, 2],
      'host 10.0.0.2': [2],
    }
    const protocols: Readonly<Record<string, readonly number[]>> = { ip: [6, 17, 99], tcp: [6], udp: [17] }
    const entry = fc.tuple(
      fc.constantFrom('permit', 'deny'),
      fc.constantFrom(...Object.keys(protocols)),
      fc.constantFrom(...Object.keys(hosts)),
    )
    fc.assert(
      fc.property(fc.array(entry, { minLength: 1, maxLength: 7 }), (entries) => {
        const list = listOf(entries.map(([action, protocol, from]) => ` ${action} ${protocol} ${from} any`).join('\n'))
        const wanted = prefixMatch(addressWords('10.0.0.0', 'ipv4') ?? [], 30)
        // The first entry that matches decides, as a router does it; protocols 6, 17 and any third.
        const passes = [0, 1, 2, 3].some((host) =>
          [6, 17, 99].some((number) => {
            const first = entries.find(
              ([, protocol, from]) => protocols[protocol]?.includes(number) && hosts[from]?.includes(host),
            )
            return first?.[0] === 'permit'
          }),
        )
        expect(admitsFrom(list, wanted)).to.equal(passes ? 'some' : 'none')
      }),
      { numRuns: 400 },
    )
  })

  it('a group without members names nobody, not everybody', () => {
    const empty = '\nobject-group network G\n description none yet\n'
    expect(admitsFrom(listOf(` permit ip object-group G any${empty}`), bogon('10.0.0.0/8'))).to.equal('undecided')
    expect(admitsFrom(listOf(` permit tcp any any lt 0`), bogon('10.0.0.0/8'))).to.equal('undecided')
    expect(admitsFrom(listOf(` deny ip object-group G any\n permit ip any any${empty}`), bogon('10.0.0.0/8'))).to.equal(
      'undecided',
    )
  })

  it('says what it could not evaluate, and nothing where a chain hands packets back', () => {
    const wanted = bogon('10.0.0.0/8')
    const ask = (list: StandaloneList) => list.admits(list.sets.headers.address('source', wanted))
    expect(ask(listOf(` permit tcp any any lt 0`)).why).to.equal('cannot evaluate: lt 0')
    const linux = dialectById('linux') as Dialect
    const text = '*filter\n:FORWARD ACCEPT [0:0]\n:X - [0:0]\n-A FORWARD -j X\n-A X -s 10.1.1.1/32 -j DROP\nCOMMIT\n'
    const { model } = modelOf(EffectiveConfig.of(linux.read(text), linux), { record: 'x', mask: () => '' })
    const chain = standaloneLists(new Headers(), model.accessLists, linux.forwarding.laterFragments).find(
      (one) => one.list.name === 'filter X',
    )
    if (!chain) throw new Error('no chain')
    expect(ask(chain)).to.include({ answer: 'undecided', why: null })
  })

  it('open means open to whoever is not denied by name', () => {
    expect(opens(listOf(' permit tcp any any eq 22'))).to.equal('some')
    expect(opens(listOf(' permit tcp any any established'))).to.equal('none')
    expect(opens(listOf(' permit udp any any'))).to.equal('none')
    expect(opens(listOf(' permit tcp 10.0.0.0 0.255.255.255 any'))).to.equal('none')
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

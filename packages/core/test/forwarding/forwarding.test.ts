import { expect } from 'chai'
import { Walker, reach, traceOf, type Fate, type Network, type Packet, type Trace } from '../../src/index.ts'
import { Prefixes, placeOf } from '../../src/forwarding/index.ts'
import { ALL, ComplexityLimitError, exampleOf, readFilterText, readableOf } from '../../src/headers/index.ts'
import { ClassHeaders } from '../../src/forwarding/routing/class-headers.ts'
import { DestinationClasses } from '../../src/forwarding/routing/classes.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

const tcp = (source: string, destination: string, destinationPort: number): Packet =>
  udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'] })

/** Where a packet ends, by what it came. */
function ends(
  network: Network,
  at: string,
  packet: Packet,
): { fates: readonly Fate[]; devices: string[]; words: string[]; trace: Trace } {
  const [device = '', port] = at.split(' ')
  const number = network.indexOf(device)
  const trace = traceOf(
    new Walker(network),
    number,
    port === undefined ? -1 : (network.devices[number]?.interfaces.findIndex(({ name }) => name === port) ?? -1),
    packet,
  )
  return {
    fates: trace.fates,
    devices: trace.paths.map(({ device: name }) => name),
    words: trace.paths.map(({ reason }) => reason.words),
    trace,
  }
}
const router = (name: string, lines: string): ReturnType<typeof deviceOf> =>
  deviceOf(name, 'indented', `hostname ${name}\n${lines}`)
const port = (name: string, address: string, more = ''): string =>
  `interface ${name}\n ip address ${address} 255.255.255.0\n${more}`

const dotted = (value: number): string => [24, 16, 8, 0].map((shift) => (value >>> shift) & 255).join('.')
/** Numbers that look drawn and are the same in every run. */
const numbers =
  (state: number) =>
  (below: number): number =>
    Math.floor(((state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32) * below)

describe('tables and their choice', () => {
  it('RFC 4632 §5.1: of the routes that hold a destination the longest is taken', () => {
    const network = networkOf(
      router(
        'a',
        `${port('up', '10.1.0.1')}${port('left', '10.2.0.1')}${port('right', '10.3.0.1')}ip route 10.24.0.0 255.255.0.0 10.1.0.2\nip route 10.24.12.0 255.255.252.0 10.2.0.2\nip route 10.24.12.0 255.255.255.128 10.3.0.2\n`,
      ),
    )
    const out = (destination: string): string | null | undefined =>
      ends(network, 'a', udp('10.1.0.1', destination, 53)).trace.paths[0]?.hops[0]?.out
    expect(['10.24.1.1', '10.24.13.1', '10.24.12.200', '10.24.12.5', '10.25.0.1'].map(out)).to.deep.equal([
      'up',
      'left',
      'left',
      'right',
      null,
    ])
  })

  it('the least distance comes into use, equal ones all do, and a route whose port is down does not', () => {
    const lines = (down: string): string =>
      `${port('one', '10.1.0.1', down)}${port('two', '10.2.0.1')}${port('three', '10.3.0.1')}ip route 10.50.0.0 255.255.0.0 10.1.0.2 5\nip route 10.50.0.0 255.255.0.0 10.2.0.2 10\nip route 10.60.0.0 255.255.0.0 10.2.0.2\nip route 10.60.0.0 255.255.0.0 10.3.0.2\n`
    const outs = (down: string, destination: string): string[] =>
      ends(networkOf(router('a', lines(down))), 'a', udp('10.1.0.1', destination, 53))
        .trace.paths.map(({ hops }) => hops[0]?.out ?? '')
        .sort()
    expect(outs('', '10.50.1.1')).to.deep.equal(['one'])
    expect(outs(' shutdown\n', '10.50.1.1')).to.deep.equal(['two'])
    expect(outs('', '10.60.1.1')).to.deep.equal(['three', 'two'])
  })

  it('gateways that are not next door are looked up, and a route does not hold itself up', () => {
    const network = networkOf(
      router(
        'a',
        `${port('up', '10.1.0.1')}ip route 10.50.0.0 255.255.0.0 10.1.0.2\nip route 10.60.0.0 255.255.0.0 10.50.3.3\nip route 10.70.0.0 255.255.0.0 10.70.1.1\n`,
      ),
    )
    expect(ends(network, 'a', udp('10.1.0.1', '10.60.1.1', 53)).words).to.deep.equal([
      'a forwards it to 10.1.0.2, outside the estate',
    ])
    expect(ends(network, 'a', udp('10.1.0.1', '10.70.9.9', 53)).words).to.deep.equal(['no route'])
  })

  it('a gateway behind equal routes is reached by all of them, and by none of a greater distance', () => {
    const lines =
      'ip route 10.50.0.0 255.255.0.0 10.3.0.2 200\nip route 10.50.0.0 255.255.0.0 10.1.0.2\nip route 10.50.0.0 255.255.0.0 10.2.0.2\nip route 10.60.0.0 255.255.0.0 10.50.3.3\n'
    const network = networkOf(
      router('a', `${port('up', '10.1.0.1')}${port('left', '10.2.0.1')}${port('right', '10.3.0.1')}${lines}`),
    )
    expect(
      ends(network, 'a', udp('10.1.0.1', '10.60.1.1', 53)).trace.paths.map(({ hops }) => hops[0]?.out),
    ).to.have.members(['up', 'left'])
    const text =
      'Codes: C - connected, B - BGP, S - static\n       > - selected route, * - FIB route\nC>* 10.1.0.0/24 is directly connected, up, 00:01:00\nC>* 10.2.0.0/24 is directly connected, left, 00:01:00\nS>* 10.50.0.0/16 [1/0] via 10.1.0.2, up, 00:01:02\n  *                      via 10.2.0.2, left, 00:01:02\nB>* 10.60.0.0/16 [200/0] via 10.50.3.3, 00:01:00\n'
    const captured = networkOf(
      deviceOf('a', 'indented', `hostname a\n${port('up', '10.1.0.1')}${port('left', '10.2.0.1')}`, {
        'state/routes': text,
      }),
    )
    expect(
      ends(captured, 'a', udp('10.1.0.1', '10.60.1.1', 53)).trace.paths.map(({ hops }) => hops[0]?.out),
    ).to.have.members(['up', 'left'])
  })

  it('discard routes stop, tracked routes say what is assumed, and computed tables say that they are', () => {
    const network = networkOf(
      router(
        'a',
        `${port('up', '10.1.0.1')}ip route 10.50.0.0 255.255.0.0 Null0\nip route 10.60.0.0 255.255.0.0 10.1.0.2 track 7\n`,
      ),
    )
    expect(ends(network, 'a', udp('10.1.0.1', '10.50.1.1', 53))).to.deep.include({
      fates: ['stopped'],
      words: ['a discard route'],
    })
    expect(ends(network, 'a', udp('10.1.0.1', '10.60.1.1', 53)).trace.paths[0]?.hops[0]?.decisions[0]?.result).to.equal(
      '10.60.0.0/16 (static), computed from the configuration; the object of track 7 is assumed to be up',
    )
  })

  it('each VRF has its own table', () => {
    const network = networkOf(
      router(
        'a',
        `vrf definition BLUE\n rd 1:1\n${port('up', '10.1.0.1')}${port('blue', '10.2.0.1', ' vrf forwarding BLUE\n')}ip route 10.50.0.0 255.255.0.0 10.1.0.2\nip route vrf BLUE 10.50.0.0 255.255.0.0 10.2.0.9\n`,
      ),
    )
    expect(ends(network, 'a up', udp('10.1.0.7', '10.50.1.1', 53)).words[0]).to.contain('10.1.0.2')
    expect(ends(network, 'a blue', udp('10.2.0.7', '10.50.1.1', 53)).words[0]).to.contain('10.2.0.9')
    expect(ends(network, 'a blue', udp('10.2.0.7', '10.1.0.77', 53)).words).to.deep.equal(['no route'])
  })

  it('a gateway in the table of another VRF: next door there, by a route there, by nothing, and in turn', () => {
    const blue = (lines: string): Network =>
      networkOf(
        router(
          'a',
          `vrf definition BLUE\n rd 1:1\n${port('up', '10.1.0.1')}${port('blue', '10.2.0.1', ' vrf forwarding BLUE\n')}${lines}`,
        ),
      )
    const words = (lines: string): string[] => ends(blue(lines), 'a blue', udp('10.2.0.7', '10.50.1.1', 53)).words
    const leak = 'ip route vrf BLUE 10.50.0.0 255.255.0.0'
    expect(words(`${leak} 10.1.0.2 global\n`)).to.deep.equal(['a forwards it to 10.1.0.2, outside the estate'])
    expect(words(`${leak} 10.60.0.9 global\nip route 10.60.0.0 255.255.0.0 10.1.0.3\n`)).to.deep.equal([
      'a forwards it to 10.1.0.3, outside the estate',
    ])
    expect(words(`${leak} 10.60.0.9 global\n`)).to.deep.equal(['no route'])
    expect(words(`${leak} 10.60.0.9 global\nrouter ospf 1\n network 10.0.0.0 0.255.255.255 area 0\n`)).to.deep.equal([
      'the gateway 10.60.0.9 is looked up in the global table: the table was not captured, and OSPF would add to it',
    ])
    expect(words(`${leak} 10.1.0.2 global\nrouter ospf 1\n network 10.0.0.0 0.255.255.255 area 0\n`)).to.deep.equal([
      'a forwards it to 10.1.0.2, outside the estate',
    ])
    expect(
      words(
        `vrf definition RED\n rd 1:2\n${leak} 10.60.0.9 nexthop-vrf RED\nip route vrf RED 10.60.0.0 255.255.0.0 10.50.0.9 nexthop-vrf BLUE\n`,
      ).join(),
    ).to.match(/which rests on this one in turn/)
  })

  it('of many prefixes each is known as it was taken in', () => {
    const texts = Array.from({ length: 5_000 }, (_, i) =>
      i % 5 === 0 ? `2001:db8:${(i + 1).toString(16)}::/48` : `100.${i >> 8}.${i & 255}.0/24`,
    )
    const prefixes = new Prefixes()
    const ids = texts.map((text) => prefixes.addText(text) ?? -1)
    expect(ids.map((id) => prefixes.textOf(id))).to.deep.equal(texts)
    expect(ids.every((id) => prefixes.sorted.empty[id] === 0)).to.equal(true)
  })

  it('prefixes that have addresses of another are found: against a look at all of them', () => {
    const draw = numbers(11)
    const prefixes = new Prefixes()
    const ids = Array.from({ length: 400 }, () => {
      const length = draw(33)
      const value = length === 0 ? 0 : ((0x7f000000 + draw(0x100) * 0x10000) & -(2 ** (32 - length))) >>> 0
      return prefixes.add([value], length)
    })
    for (const id of new Set(ids)) {
      const meeting = [...prefixes.meeting(id)]
      const expected = [...new Set([...ids, prefixes.addText('0.0.0.0/0') ?? -1])].filter(
        (other) => prefixes.holds(id, other) || prefixes.holds(other, id),
      )
      expect([...meeting].sort((a, b) => a - b)).to.deep.equal(expected.sort((a, b) => a - b))
    }
  })

  it('of thousands of routes in each other the longest that holds a destination is taken: against a look through all of them', () => {
    const draw = numbers(5)
    const drawn = new Map<string, { value: number; length: number; gateway: number }>()
    while (drawn.size < 3_000) {
      const length = 12 + draw(21)
      const value = ((0x64000000 + draw(0x400000)) & -(2 ** (32 - length))) >>> 0
      drawn.set(`${dotted(value)}/${length}`, { value, length, gateway: 2 + draw(3) })
    }
    const json = JSON.stringify([
      { dst: '10.1.0.0/24', dev: 'up', scope: 'link', flags: [] },
      ...[...drawn].map(([dst, { gateway }]) => ({ dst, gateway: `10.1.0.${gateway}`, dev: 'up', flags: [] })),
    ])
    const network = networkOf(
      deviceOf('a', 'linux', '*filter\n:FORWARD ACCEPT [0:0]\nCOMMIT\n', {
        'state/routes': json,
        'state/interfaces': JSON.stringify([
          {
            ifname: 'up',
            flags: ['UP', 'LOWER_UP'],
            operstate: 'UP',
            addr_info: [{ family: 'inet', local: '10.1.0.1', prefixlen: 24 }],
          },
        ]),
        sysctl: 'net.ipv4.ip_forward = 1\n',
      }),
    )
    for (let i = 0; i < 400; i++) {
      const destination = (0x64000000 + draw(0x500000)) >>> 0
      const held = [...drawn.values()]
        .filter(({ value, length }) => (destination & -(2 ** (32 - length))) >>> 0 === value)
        .sort((a, b) => b.length - a.length)[0]
      expect(ends(network, 'a', udp('10.1.0.1', dotted(destination), 53)).words, dotted(destination)).to.deep.equal([
        held ? `a forwards it to 10.1.0.${held.gateway}, outside the estate` : 'no route',
      ])
    }
  })

  it('a question looks at the routes that it meets, not at each of thousands', () => {
    const routes = Array.from({ length: 3_000 }, (_, i) => `ip route 100.${i >> 8}.${i & 255}.0 255.255.255.0 10.1.0.2`)
    const text = `hostname a
interface Lan
 ip address 10.2.0.1 255.255.255.0
interface Up
 ip address 10.1.0.1 255.255.255.0
${routes.join('\n')}
`
    const network = networkOf(deviceOf('a', 'indented', text))
    const { prefixes, headers } = network
    const { matchOf } = prefixes
    let looks = 0
    prefixes.matchOf = (id) => {
      looks++
      return matchOf.call(prefixes, id)
    }
    const walker = new Walker(network)
    for (const set of [headers.ipv4, ALL]) walker.walk([{ device: 0, port: 0, set }])
    expect(network.tableOf(0, null, 'ipv4')?.routes.size).to.be.greaterThan(3_000)
    expect(looks).to.be.at.most(100)
  })

  it('and of IPv6', () => {
    const draw = numbers(77)
    const colons = (value: bigint): string =>
      Array.from({ length: 8 }, (_, i) => ((value >> BigInt(112 - 16 * i)) & 0xffffn).toString(16)).join(':')
    const address = (): bigint =>
      (0x20010db8n << 96n) | (BigInt(draw(256)) << 80n) | (BigInt(draw(32)) << 61n) | BigInt(draw(65536))
    const cut = (value: bigint, length: number): bigint => (value >> BigInt(128 - length)) << BigInt(128 - length)
    const drawn = new Map<string, { value: bigint; length: number; gateway: number }>()
    while (drawn.size < 2_000) {
      const length = 33 + draw(96)
      const value = cut(address(), length)
      drawn.set(`${colons(value)}/${length}`, { value, length, gateway: 2 + draw(3) })
    }
    const json = JSON.stringify([
      { dst: '2001:db9::/64', dev: 'up', scope: 'link', flags: [] },
      ...[...drawn].map(([dst, { gateway }]) => ({ dst, gateway: `2001:db9::${gateway}`, dev: 'up', flags: [] })),
    ])
    const network = networkOf(
      deviceOf('a', 'linux', '*filter\n:FORWARD ACCEPT [0:0]\nCOMMIT\n', {
        'state/routes': json,
        'state/interfaces': JSON.stringify([
          {
            ifname: 'up',
            flags: ['UP', 'LOWER_UP'],
            operstate: 'UP',
            addr_info: [{ family: 'inet6', local: '2001:db9::1', prefixlen: 64 }],
          },
        ]),
        sysctl: 'net.ipv4.ip_forward = 1\n',
      }),
    )
    for (let i = 0; i < 300; i++) {
      const destination = address()
      const held = [...drawn.values()]
        .filter(({ value, length }) => cut(destination, length) === value)
        .sort((x, y) => y.length - x.length)[0]
      expect(ends(network, 'a', udp('2001:db9::1', colons(destination), 53)).words, colons(destination)).to.deep.equal([
        held ? `a forwards it to 2001:db9::${held.gateway}, outside the estate` : 'no route',
      ])
    }
  })

  it('more classes than their field tells apart are refused, in words', () => {
    const many = Object.create(new DestinationClasses(new Prefixes(), []), {
      count: { value: 2 ** 20 + 1 },
    }) as DestinationClasses
    expect(() => new ClassHeaders(many)).to.throw(
      ComplexityLimitError,
      'it needs more than 1048576 classes of destinations',
    )
  })

  it('many routes by one gateway that is not next door: each leads where that leads', () => {
    const lines = `hostname a\n${port('up', '10.1.0.1')}`
    const routes = Array.from(
      { length: 30_000 },
      (_, i) => `B>* 100.${i >> 8}.${i & 255}.0/24 [200/0] via 10.9.9.9, 00:01:00\n`,
    ).join('')
    const text = `Codes: C - connected, B - BGP, S - static\n       > - selected route, * - FIB route\nC>* 10.1.0.0/24 is directly connected, up, 00:01:00\nS>* 10.9.9.0/24 [1/0] via 10.1.0.2, up, 00:01:02\n${routes}`
    const network = networkOf(deviceOf('a', 'indented', lines, { 'state/routes': text }))
    for (const to of ['100.0.1.1', '100.50.1.1', '100.117.0.9'])
      expect(ends(network, 'a', udp('10.1.0.1', to, 53)).words).to.deep.equal([
        'a forwards it to 10.1.0.2, outside the estate',
      ])
    expect(ends(network, 'a', udp('10.1.0.1', '100.118.0.1', 53)).words).to.deep.equal(['no route'])
  })

  it('a captured table goes before the lines, by letters and as RFC 8349 has it', () => {
    const lines = `hostname a\n${port('up', '10.1.0.1')}${port('other', '10.2.0.1')}router ospf 1\n network 10.0.0.0 0.255.255.255 area 0\n`
    const text =
      'Codes: C - connected, O - OSPF\n       > - selected route, * - FIB route\nC>* 10.1.0.0/24 is directly connected, up, 00:01:00\nO>* 10.50.0.0/16 [110/20] via 10.2.0.2, other, weight 1, 00:01:02\n'
    const json = JSON.stringify({
      'ietf-routing:routing': {
        ribs: {
          rib: [
            {
              name: 'ipv4',
              routes: {
                route: [
                  {
                    'destination-prefix': '10.50.0.0/16',
                    'source-protocol': 'ospf',
                    'next-hop': { 'next-hop-address': '10.1.0.2', 'outgoing-interface': 'up' },
                    active: [null],
                  },
                ],
              },
            },
          ],
        },
      },
    })
    expect(
      ends(networkOf(deviceOf('a', 'indented', lines)), 'a', udp('10.1.0.1', '10.50.1.1', 53)).fates,
    ).to.deep.equal(['undecided'])
    expect(
      ends(networkOf(deviceOf('a', 'indented', lines, { 'state/routes': text })), 'a', udp('10.1.0.1', '10.50.1.1', 53))
        .trace.paths[0]?.hops[0],
    ).to.include({ out: 'other' })
    expect(
      ends(networkOf(deviceOf('a', 'indented', lines, { 'state/routes': json })), 'a', udp('10.1.0.1', '10.50.1.1', 53))
        .trace.paths[0]?.hops[0],
    ).to.include({ out: 'up' })
  })
})

describe('the way from one device to the next', () => {
  it('an address that two share is that of the one with the higher priority', () => {
    const gate = (name: string, own: string, priority: number, down = ''): ReturnType<typeof deviceOf> =>
      router(
        name,
        `interface lan\n ip address ${own} 255.255.255.0\n standby 1 ip 10.5.0.1\n standby 1 priority ${priority}\n${down}`,
      )
    const host = router('h', 'interface eth\n ip address 10.5.0.9 255.255.255.0\nip route 0.0.0.0 0.0.0.0 10.5.0.1\n')
    expect(
      ends(
        networkOf(host, gate('x', '10.5.0.2', 90), gate('y', '10.5.0.3', 110)),
        'h',
        udp('10.5.0.9', '10.77.0.1', 53),
      ).devices,
    ).to.deep.equal(['y'])
    expect(
      ends(
        networkOf(host, gate('x', '10.5.0.2', 90), gate('y', '10.5.0.3', 110, ' shutdown\n')),
        'h',
        udp('10.5.0.9', '10.77.0.1', 53),
      ).devices,
    ).to.deep.equal(['x'])
  })

  it('a host in a subnet, nobody in a subnet of two, and the world outside', () => {
    const network = networkOf(
      router(
        'a',
        'interface pair\n ip address 10.9.0.1 255.255.255.252\ninterface lan\n ip address 10.5.0.1 255.255.255.0\nip route 0.0.0.0 0.0.0.0 10.5.0.254\nip route 10.66.0.0 255.255.0.0 10.9.0.3\n',
      ),
      router('b', 'interface pair\n ip address 10.9.0.2 255.255.255.252\n'),
    )
    expect(ends(network, 'a', udp('10.5.0.1', '10.5.0.77', 53)).fates).to.deep.equal(['arrives'])
    expect(ends(network, 'a', udp('10.5.0.1', '10.66.0.1', 53)).words).to.deep.equal(['no host at pair has 10.9.0.3'])
    expect(ends(network, 'a', udp('10.5.0.1', '198.51.100.1', 53)).fates).to.deep.equal(['leaves'])
    expect(ends(network, 'a', udp('10.5.0.1', '224.0.0.5', 53)).fates).to.deep.equal(['undecided'])
    expect(ends(network, 'b pair', udp('10.9.0.1', '10.9.0.2', 53)).fates).to.deep.equal(['arrives'])
  })

  it('two that send to each other send in circles', () => {
    const one = (name: string, own: number): ReturnType<typeof deviceOf> =>
      router(
        name,
        `interface pair\n ip address 10.9.0.${own} 255.255.255.252\nip route 10.50.0.0 255.255.0.0 10.9.0.${3 - own}\n`,
      )
    const network = networkOf(one('a', 1), one('b', 2))
    expect(ends(network, 'a', udp('10.9.0.1', '10.50.0.1', 53)).fates).to.deep.equal(['loops'])
    const { endings } = new Walker(network).walk([{ device: 0, port: -1, set: network.headers.ipv4 }])
    expect(
      network.headers.diagrams.meet(
        network.headers.any(
          endings.filter(({ fate }) => fate === 'loops'),
          ({ sent }) => sent,
        ),
        network.headers.packet(udp('10.9.0.1', '10.50.0.1', 53)),
      ),
    ).to.equal(true)
  })

  it('a tunnel is a link whose outer packet must arrive', () => {
    const end = (name: string, own: number, protocol: string, more = ''): ReturnType<typeof deviceOf> =>
      router(
        name,
        `interface wan\n ip address 198.51.100.${own} 255.255.255.252\n${more}interface Tunnel1\n ip address 10.8.0.${own} 255.255.255.252\n tunnel source wan\n tunnel destination 198.51.100.${3 - own}\n${protocol}interface lan\n ip address 10.${own}.0.1 255.255.255.0\nip route 10.${3 - own}.0.0 255.255.255.0 Tunnel1\nip access-list extended ONLY-ESP\n permit esp any any\n`,
      )
    const shielded = ' tunnel mode ipsec ipv4\n tunnel protection ipsec profile P\n'
    expect(ends(networkOf(end('a', 1, ''), end('b', 2, '')), 'a lan', udp('10.1.0.9', '10.2.0.9', 53))).to.deep.include(
      { fates: ['arrives'], devices: ['b'] },
    )
    expect(
      ends(
        networkOf(end('a', 1, ''), end('b', 2, '', ' ip access-group ONLY-ESP in\n')),
        'a lan',
        udp('10.1.0.9', '10.2.0.9', 53),
      ).words,
    ).to.deep.equal(['the outer packet at b: filter in: ONLY-ESP'])
    expect(
      ends(
        networkOf(end('a', 1, shielded), end('b', 2, shielded, ' ip access-group ONLY-ESP in\n')),
        'a lan',
        udp('10.1.0.9', '10.2.0.9', 53),
      ).fates,
    ).to.deep.equal(['arrives'])
  })
})

describe('reverse-path checks', () => {
  // RFC 2827 §3: an ingress filter drops sources that do not belong behind the port; RFC 3704 §2.2 and §2.4 name the
  // checks.
  const checked = (mode: string): Network =>
    networkOf(
      router(
        'isp',
        `interface customer\n ip address 204.69.207.1 255.255.255.0\n ip verify unicast source reachable-via ${mode}\ninterface up\n ip address 192.0.2.1 255.255.255.0\nip route 0.0.0.0 0.0.0.0 192.0.2.2\nip route 10.0.0.0 255.0.0.0 Null0\n`,
      ),
    )
  it('RFC 2827 §3: the customer 204.69.207.0/24 may send from its own prefix and from no other', () => {
    expect(ends(checked('rx'), 'isp customer', tcp('204.69.207.9', '198.51.100.1', 80)).fates).to.deep.equal(['leaves'])
    expect(ends(checked('rx'), 'isp customer', tcp('203.0.113.9', '198.51.100.1', 80))).to.deep.include({
      fates: ['stopped'],
      words: ['the strict reverse path check at customer'],
    })
  })
  it('RFC 3704 §2.4: a loose check asks for a route alone, which a discard route is not', () => {
    expect(ends(checked('any'), 'isp customer', tcp('203.0.113.9', '198.51.100.1', 80)).fates).to.deep.equal(['leaves'])
    expect(ends(checked('any'), 'isp customer', tcp('10.3.3.3', '198.51.100.1', 80)).fates).to.deep.equal(['stopped'])
  })
})

describe('zones, translation and lists on the way', () => {
  const zoned = (book: string, policy: string): Network =>
    networkOf(
      deviceOf(
        'fw',
        'setlines',
        `set interfaces ge-0/0/0 unit 0 family inet address 10.1.0.1/24\nset interfaces ge-0/0/1 unit 0 family inet address 10.2.0.1/24\nset interfaces ge-0/0/2 unit 0 family inet address 10.3.0.1/24\nset security zones security-zone IN interfaces ge-0/0/0.0\nset security zones security-zone OUT interfaces ge-0/0/1.0\n${book}${policy}`,
      ),
    )
  const policy = (match: string): string =>
    `set security policies from-zone IN to-zone OUT policy web match source-address any\nset security policies from-zone IN to-zone OUT policy web match ${match}\nset security policies from-zone IN to-zone OUT policy web match application https\nset security policies from-zone IN to-zone OUT policy web then permit\n`
  it('what a policy permits passes, what none permits does not, and a port of no zone takes nothing', () => {
    const network = zoned(
      'set security address-book global address server 10.2.0.5/32\n',
      policy('destination-address server'),
    )
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 443)).fates).to.deep.equal(['arrives'])
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.6', 443))).to.deep.include({
      fates: ['stopped'],
      words: ['from zone IN to OUT'],
    })
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 80)).fates).to.deep.equal(['stopped'])
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.3.0.5', 443)).words).to.deep.equal([
      'ge-0/0/2.0 is in no zone',
    ])
  })
  it('a name that nothing defines decides nothing', () => {
    expect(
      ends(zoned('', policy('destination-address server')), 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 443)).fates,
    ).to.deep.equal(['undecided'])
  })
  it('groups of groups of groups, each twice in the next: as one of them', () => {
    const groups = Array.from({ length: 40 }, (_, i) =>
      i === 0
        ? 'set security address-book global address server 10.2.0.5/32\nset security address-book global address-set g0 address server\n'
        : `set security address-book global address-set g${i} address-set g${i - 1}\nset security address-book global address-set h${i} address-set g${i - 1}\nset security address-book global address-set g${i} address-set h${i}\n`,
    ).join('')
    const network = zoned(groups, policy('destination-address g39'))
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 443)).fates).to.deep.equal(['arrives'])
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.6', 443)).fates).to.deep.equal(['stopped'])
  })
  it('an application of one’s own', () => {
    const network = zoned(
      'set applications application web protocol tcp\nset applications application web destination-port 8000-8010\n',
      policy('destination-address any').replace('application https', 'application web'),
    )
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 8005)).fates).to.deep.equal(['arrives'])
    expect(ends(network, 'fw ge-0/0/0.0', tcp('10.1.0.9', '10.2.0.5', 8011)).fates).to.deep.equal(['stopped'])
  })

  const INTERFACES = JSON.stringify([
    {
      ifname: 'wan',
      flags: ['UP', 'LOWER_UP'],
      operstate: 'UP',
      addr_info: [{ family: 'inet', local: '203.0.113.1', prefixlen: 24 }],
    },
    {
      ifname: 'lan',
      flags: ['UP', 'LOWER_UP'],
      operstate: 'UP',
      addr_info: [{ family: 'inet', local: '10.1.0.1', prefixlen: 24 }],
    },
  ])
  const ROUTES = JSON.stringify([
    { dst: '203.0.113.0/24', dev: 'wan', protocol: 'kernel', scope: 'link' },
    { dst: '10.1.0.0/24', dev: 'lan', protocol: 'kernel', scope: 'link' },
  ])
  const gate = (rules: string, more: Record<string, string> = {}): Network =>
    networkOf(deviceOf('gate', 'linux', rules, { 'state/interfaces': INTERFACES, 'state/routes': ROUTES, ...more }))

  it('what is asked is told as it was sent, though its destination is changed on the way', () => {
    const network = gate(
      '*nat\n-A PREROUTING -d 203.0.113.1/32 -p tcp -m tcp --dport 443 -j DNAT --to-destination 10.1.0.5:8443\nCOMMIT\n*filter\n:FORWARD DROP [0:0]\n-A FORWARD -d 10.1.0.5/32 -p tcp -m tcp --dport 8443 -j ACCEPT\nCOMMIT\n',
    )
    const walker = new Walker(network)
    const answer = reach(
      walker,
      placeOf(network, 'gate:wan'),
      placeOf(network, '203.0.113.1'),
      readFilterText(network.addressed, 'tcp'),
    )
    const arrives = network.addressed.any(
      answer.parts.filter(({ fate, port: at }) => fate === 'arrives' && at === 'lan'),
      ({ set }) => set,
    )
    expect(
      readableOf(
        network.addressed,
        network.addressed.diagrams.and(arrives, readFilterText(network.addressed, 'src host 198.51.100.7')),
      ).classes,
    ).to.deep.equal(['tcp and src host 198.51.100.7 and dst host 203.0.113.1 and dst port 443'])
    expect(exampleOf(network.addressed, arrives)).to.include({ destination: '203.0.113.1', destinationPort: 443 })
  })

  it('a kernel that does not hand on stops what is not for itself', () => {
    const network = gate('*filter\n:FORWARD ACCEPT [0:0]\n:INPUT ACCEPT [0:0]\nCOMMIT\n', {
      sysctl: 'net.ipv4.ip_forward = 0\n',
    })
    expect(ends(network, 'gate wan', udp('203.0.113.9', '10.1.0.9', 53)).words).to.deep.equal([
      'gate does not forward packets',
    ])
    expect(ends(network, 'gate wan', udp('203.0.113.9', '10.1.0.1', 53)).fates).to.deep.equal(['arrives'])
  })

  it('the return path is looked for as for an answer that comes in by the port out: rules for tables that name that port count', () => {
    const routes = JSON.stringify([
      { dst: '203.0.113.0/24', dev: 'wan', protocol: 'kernel', scope: 'link' },
      { dst: '10.1.0.0/24', dev: 'lan', protocol: 'kernel', scope: 'link' },
      { dst: 'default', gateway: '203.0.113.2', dev: 'wan', table: '100' },
    ])
    const rules = (port: string): string =>
      JSON.stringify([
        { priority: 0, src: 'all', table: 'local' },
        { priority: 100, src: '10.1.0.0', srclen: 24, iif: port, table: '100' },
        { priority: 32766, src: 'all', table: 'main' },
      ])
    const fates = (port: string, mode: number): readonly Fate[] =>
      ends(
        gate('*filter\n:FORWARD ACCEPT [0:0]\nCOMMIT\n', {
          'state/routes': routes,
          'state/rules': rules(port),
          sysctl: `net.ipv4.ip_forward = 1\nnet.ipv4.conf.wan.rp_filter = ${mode}\n`,
        }),
        'gate wan',
        udp('198.51.100.9', '10.1.0.9', 53),
      ).fates
    expect(fates('lan', 2)).to.deep.equal(['arrives'])
    expect(fates('lan', 1)).to.deep.equal(['arrives'])
    expect(fates('wan', 2)).to.deep.equal(['stopped'])
  })

  it('answers pass where what they answer was let through', () => {
    const network = gate(
      '*filter\n:FORWARD DROP [0:0]\n-A FORWARD -m conntrack --ctstate ESTABLISHED -j ACCEPT\n-A FORWARD -i lan -j ACCEPT\nCOMMIT\n',
    )
    const answer = udp('203.0.113.9', '10.1.0.9', 1024, { sourcePort: 53 })
    expect(traceOf(new Walker(network), 0, 0, answer).fates).to.deep.equal(['stopped'])
    expect(traceOf(new Walker(network), 0, 0, answer, new Map([[0, []]])).fates).to.deep.equal(['arrives'])
  })

  it('lists on terminal lines are asked for remote logins alone', () => {
    const network = networkOf(
      router(
        'a',
        `${port('lan', '10.5.0.1')}line vty 0 4\n access-class MGMT in\nip access-list standard MGMT\n permit 10.5.0.0 0.0.0.15\n`,
      ),
    )
    expect(ends(network, 'a lan', tcp('10.5.0.9', '10.5.0.1', 22)).fates).to.deep.equal(['arrives'])
    expect(ends(network, 'a lan', tcp('10.5.0.99', '10.5.0.1', 22)).fates).to.deep.equal(['stopped'])
    expect(ends(network, 'a lan', tcp('10.5.0.99', '10.5.0.1', 443)).fates).to.deep.equal(['arrives'])
  })

  it('every decision of a path has its lines', () => {
    const network = networkOf(
      router(
        'a',
        `${port('lan', '10.5.0.1', ' ip access-group IN in\n')}${port('up', '10.6.0.1')}ip route 10.7.0.0 255.255.0.0 10.6.0.2\nip access-list extended IN\n permit ip any any\n`,
      ),
    )
    const { trace } = ends(network, 'a lan', udp('10.5.0.9', '10.7.0.1', 53))
    expect(trace.paths[0]?.hops[0]?.decisions.map(({ stage, exhibits }) => [stage, exhibits.length])).to.deep.equal([
      ['filter in', 1],
      ['lookup', 1],
      ['next hop', 0],
    ])
  })
})

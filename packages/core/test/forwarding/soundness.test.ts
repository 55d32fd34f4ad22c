import { expect } from 'chai'
import {
  Network,
  Walker,
  answerTo,
  readExpectations,
  traceOf,
  type Network as NetworkType,
  type Packet,
} from '../../src/index.ts'
import {
  expectationSchema,
  forwardingOf,
  readLinksFile,
  type NetworkDevice,
  type TracePath,
} from '../../src/forwarding/index.ts'
import { CompanionFileError } from '../../src/syntax/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

/**
 * Answers that were sure and wrong, each with what makes it right. Behaviour of dialects: common practice, no published
 * source.
 */
const tcp = (source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet =>
  udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'], ...more })
const pathIn = (network: NetworkType, at: string, packet: Packet): TracePath | undefined => {
  const [device = '', port = ''] = at.split(' ')
  const index = network.indexOf(device)
  return traceOf(
    new Walker(network),
    index,
    port === '' ? -1 : (network.devices[index]?.interfaces.findIndex(({ name }) => name === port) ?? -1),
    packet,
  ).paths[0]
}
const port = (name: string, address: string, more = ''): string =>
  `interface ${name}\n ip address ${address} 255.255.255.0\n${more}`
const router = (name: string, text: string): NetworkDevice => deviceOf(name, 'indented', text)
const firewall = (text: string): NetworkType => networkOf(deviceOf('fw', 'setlines', text))

const ZONED = `set interfaces ge-0/0/0 unit 0 family inet address 10.1.0.1/24
set interfaces ge-0/0/1 unit 0 family inet address 10.2.0.1/24
set security zones security-zone IN interfaces ge-0/0/0.0
set security zones security-zone OUT interfaces ge-0/0/1.0
`
const fate = (text: string, packet: Packet): string | undefined => pathIn(firewall(text), 'fw ge-0/0/0.0', packet)?.fate

describe('no sure answer that is wrong: what packets meet', () => {
  describe('policies of all zones', () => {
    const any = (name: string, action: string): string =>
      `set security policies ${name} match source-address any\nset security policies ${name} match destination-address any\nset security policies ${name} match application any\nset security policies ${name} then ${action}\n`
    const cases: [string, string, string][] = [
      ['what no policy of the pair meets is asked of those of all zones', any('global policy g', 'permit'), 'arrives'],
      [
        'a policy of the pair goes first',
        any('from-zone IN to-zone OUT policy p', 'deny') + any('global policy g', 'permit'),
        'stopped',
      ],
      [
        'of other zones it is none',
        `${any('global policy g', 'permit')}set security policies global policy g match from-zone DMZ\n`,
        'stopped',
      ],
      [
        'of these zones by name it is one',
        `${any('global policy g', 'permit')}set security policies global policy g match from-zone IN\n`,
        'arrives',
      ],
      [
        'the default comes last',
        `${any('global policy g', 'deny')}set security policies default-policy permit-all\n`,
        'stopped',
      ],
      [
        'a policy that is not weighed decides nothing',
        `${any('global policy g', 'permit')}set security policies global policy g match source-identity ada\n`,
        'undecided',
      ],
      ['an action that nobody knows', any('global policy g', 'harbour'), 'undecided'],
      [
        'where a policy should stand and a word stands that nobody knows',
        'set security policies global harbour g then deny\nset security policies default-policy permit-all\n',
        'undecided',
      ],
    ]
    for (const [name, lines, is] of cases)
      it(name, () => expect(fate(ZONED + lines, tcp('10.1.0.9', '10.2.0.9', 443))).to.equal(is))
  })

  describe('route maps that choose the way', () => {
    const device = (map: string, more = ''): NetworkType =>
      networkOf(
        router(
          'r',
          `${port('lan', '10.1.0.1', ' ip policy route-map PBR\n')}${port('a', '10.2.0.1')}${port('b', '10.3.0.1')}ip route 0.0.0.0 0.0.0.0 10.2.0.254\nip access-list extended WEB\n permit tcp any any eq 80\n${map}${more}`,
        ),
      )
    const out = (
      network: NetworkType,
      packet = tcp('10.1.0.9', '192.0.2.1', 80),
    ): [string | undefined, string | null | undefined] => {
      const path = pathIn(network, 'r lan', packet)
      return [path?.fate, path?.hops[0]?.out]
    }
    const entry = (sets: string, action = 'permit'): string =>
      `route-map PBR ${action} 10\n match ip address WEB\n set ${sets}\n`
    it('a next hop next door goes before the table', () =>
      expect(out(device(entry('ip next-hop 10.3.0.254')))).to.deep.equal(['leaves', 'b']))
    it('what it does not match goes by the table', () =>
      expect(out(device(entry('ip next-hop 10.3.0.254')), tcp('10.1.0.9', '192.0.2.1', 22))).to.deep.equal([
        'leaves',
        'a',
      ]))
    it('an entry that denies sends by the table', () =>
      expect(out(device(entry('ip next-hop 10.3.0.254', 'deny')))).to.deep.equal(['leaves', 'a']))
    it('a next hop by a port that is down: the table', () =>
      expect(out(device(entry('ip next-hop 10.3.0.254'), 'interface b\n shutdown\n'))).to.deep.equal(['leaves', 'a']))
    it('a default next hop where there is no route but the one to everywhere', () => {
      expect(out(device(entry('ip default next-hop 10.3.0.254')))).to.deep.equal(['leaves', 'b'])
      expect(
        out(device(entry('ip default next-hop 10.3.0.254'), 'ip route 192.0.2.0 255.255.255.0 10.2.0.254\n')),
      ).to.deep.equal(['leaves', 'a'])
    })
    it('an interface, and the one that discards', () => {
      expect(out(device(entry('interface b')))[1]).to.equal('b')
      expect(out(device(entry('interface Null0')))[0]).to.equal('stopped')
    })
    it('the table of a VRF', () =>
      expect(
        out(
          device(
            entry('vrf RED'),
            'vrf definition RED\ninterface c\n vrf forwarding RED\n ip address 10.4.0.1 255.255.255.0\nip route vrf RED 0.0.0.0 0.0.0.0 10.4.0.254\n',
          ),
        ),
      ).to.deep.equal(['leaves', 'c']))
    it('what is not weighed decides nothing', () => {
      expect(out(device(entry('ip next-hop verify-availability 10.3.0.254 1 track 1')))[0]).to.equal('undecided')
      expect(out(device('route-map PBR permit 10\n match length 3 200\n set ip next-hop 10.3.0.254\n'))[0]).to.equal(
        'undecided',
      )
    })
  })

  describe('filters', () => {
    const filtered = (filter: string, apply = 'set interfaces ge-0/0/0 unit 0 family inet filter input F\n'): string =>
      `set interfaces ge-0/0/0 unit 0 family inet address 10.1.0.1/24\nset interfaces ge-0/0/1 unit 0 family inet address 10.2.0.1/24\n${apply}${filter}`
    const of = (term: string): string => `set firewall family inet filter F term ${term}\n`
    const packet = tcp('10.1.0.9', '10.2.0.9', 443)
    it('a term that sends to a routing instance looks up in its table', () => {
      const instance = `${of('a then routing-instance RED')}set routing-instances RED instance-type virtual-router\nset routing-instances RED interface ge-0/0/2.0\nset interfaces ge-0/0/2 unit 0 family inet address 10.9.0.1/24\n`
      expect(fate(filtered(instance), packet)).to.equal('stopped')
      expect(
        pathIn(
          firewall(
            filtered(
              `${instance}set routing-instances RED routing-options static route 0.0.0.0/0 next-hop 10.9.0.254\n`,
            ),
          ),
          'fw ge-0/0/0.0',
          packet,
        )?.hops[0]?.out,
      ).to.equal('ge-0/0/2.0')
    })
    it('an action that nobody knows, where a deny may have been meant', () =>
      expect(fate(filtered(of('a then harbour') + of('b then accept')), packet)).to.equal('undecided'))
    it('a line in the place of a term', () =>
      expect(
        fate(filtered('set firewall family inet filter F harbour a then discard\n' + of('b then accept')), packet),
      ).to.equal('undecided'))
    it('filters one after the other, of which none decides', () => {
      const chain = 'set interfaces ge-0/0/0 unit 0 family inet filter input-list [ A B ]\n'
      const a =
        'set firewall family inet filter A term x from protocol udp\nset firewall family inet filter A term x then discard\n'
      expect(fate(filtered(`${a}set firewall family inet filter B term y then accept\n`, chain), packet)).to.equal(
        'arrives',
      )
      expect(
        fate(
          filtered(
            `${a}set firewall family inet filter B term y from protocol udp\nset firewall family inet filter B term y then accept\n`,
            chain,
          ),
          packet,
        ),
      ).to.equal('stopped')
    })
    it('a filter within a filter', () => {
      const inner =
        'set firewall family inet filter INNER term x from protocol tcp\nset firewall family inet filter INNER term x then discard\n'
      expect(fate(filtered(`${of('a filter INNER')}${of('b then accept')}${inner}`), packet)).to.equal('stopped')
      expect(
        fate(filtered(`${of('a filter INNER')}${of('b then accept')}${inner}`), udp('10.1.0.9', '10.2.0.9', 53)),
      ).to.equal('arrives')
    })
    it('what is said of a range of interfaces', () => {
      const range =
        'set interfaces interface-range PORTS member ge-0/0/0\nset interfaces interface-range PORTS unit 0 family inet filter input F\n'
      expect(fate(filtered(of('a then discard'), range), packet)).to.equal('stopped')
    })
    it('a line on the port that nobody understood', () =>
      expect(fate(filtered('', 'set interfaces ge-0/0/0 unit 0 family inet harbour input F\n'), packet)).to.equal(
        'undecided',
      ))
    it('groups of services stand for their members', () => {
      const text = (group: string): NetworkType =>
        networkOf(
          router(
            'r',
            `${port('lan', '10.1.0.1', ' ip access-group L in\n')}${port('b', '10.2.0.1')}object-group service SVC\n${group}ip access-list extended L\n permit object-group SVC any any\n`,
          ),
        )
      expect(pathIn(text(' tcp eq 443\n'), 'r lan', packet)?.fate).to.equal('arrives')
      expect(pathIn(text(' tcp eq 80\n udp\n'), 'r lan', packet)?.fate).to.equal('stopped')
      expect(pathIn(text(' tcp harbour\n'), 'r lan', packet)?.fate).to.equal('undecided')
    })
    it('an entry of a list, and a word at the top, that nobody understood', () => {
      const text = (lines: string, top = ''): NetworkType =>
        networkOf(
          router(
            'r',
            `${port('lan', '10.1.0.1', ' ip access-group L in\n')}${port('b', '10.2.0.1')}${top}ip access-list extended L\n${lines}`,
          ),
        )
      expect(pathIn(text(' harbour tcp any any\n permit ip any any\n'), 'r lan', packet)?.fate).to.equal('undecided')
      expect(
        pathIn(text(' permit ip any any\n', 'ip harbour 10.2.0.0 255.255.255.0 Null0\n'), 'r lan', packet)?.fate,
      ).to.equal('undecided')
      expect(pathIn(text(' permit ip any any\n', 'ip tcp synwait-time 10\n'), 'r lan', packet)?.fate).to.equal(
        'arrives',
      )
    })
    it('fragments after the first, against a line with ports', () => {
      const text = (lines: string): NetworkType =>
        networkOf(
          router(
            'r',
            `${port('lan', '10.1.0.1', ' ip access-group L in\n')}${port('b', '10.2.0.1')}ip access-list extended L\n${lines}`,
          ),
        )
      const later = { ...packet, fragment: true, sourcePort: null, destinationPort: null, tcpFlags: null }
      expect(pathIn(text(' permit tcp any any eq 443\n'), 'r lan', later)?.fate).to.equal('arrives')
      expect(pathIn(text(' deny tcp any any eq 443\n permit ip any any\n'), 'r lan', later)?.fate).to.equal('arrives')
      expect(
        fate(filtered(`${of('a from protocol tcp')}${of('a from destination-port 443')}${of('a then accept')}`), later),
      ).to.equal('stopped')
    })
  })

  describe('what frames meet in a VLAN', () => {
    const text = (more: string): NetworkType =>
      networkOf(
        router(
          'sw',
          `vlan 10\nvlan 20\ninterface Vlan10\n ip address 10.1.0.1 255.255.255.0\ninterface Vlan20\n ip address 10.2.0.1 255.255.255.0\ninterface Gi0/1\n switchport mode access\n switchport access vlan 10\n${more}`,
        ),
      )
    const packet = tcp('10.1.0.9', '10.2.0.9', 23)
    const list = 'ip access-list extended T\n permit tcp any any eq 23\n'
    it('the map of a VLAN drops, or forwards the rest', () => {
      expect(
        pathIn(
          text(
            `${list}vlan access-map M 10\n match ip address T\n action drop\nvlan access-map M 20\n action forward\nvlan filter M vlan-list 10\n`,
          ),
          'sw Vlan10',
          packet,
        )?.fate,
      ).to.equal('stopped')
      expect(
        pathIn(
          text(`${list}vlan access-map M 10\n match ip address T\n action forward\nvlan filter M vlan-list 10\n`),
          'sw Vlan10',
          packet,
        )?.fate,
      ).to.equal('arrives')
      expect(
        pathIn(
          text(`${list}vlan access-map M 10\n match ip address T\n action forward\nvlan filter M vlan-list 10\n`),
          'sw Vlan10',
          tcp('10.1.0.9', '10.2.0.9', 22),
        )?.fate,
      ).to.equal('stopped')
      expect(
        pathIn(
          text(`${list}vlan access-map M 10\n match ip address T\n action drop\nvlan filter M vlan-list 30\n`),
          'sw Vlan10',
          packet,
        )?.fate,
      ).to.equal('arrives')
    })
    it('a list on a switched port may be met', () =>
      expect(
        pathIn(
          text(
            `ip access-list extended P\n deny tcp any any eq 23\n permit ip any any\ninterface Gi0/1\n ip access-group P in\n`,
          ),
          'sw Vlan10',
          packet,
        )?.fate,
      ).to.equal('undecided'))
  })

  it('RFC 1812 and RFC 4291: what is for this host, this link or nobody leaves by no route', () => {
    const network = networkOf(
      router(
        'r',
        `${port('lan', '10.1.0.1', ' ipv6 address 2001:db8:1::1/64\n')}${port('wan', '10.2.0.1', ' ipv6 address 2001:db8:2::1/64\n')}ip route 0.0.0.0 0.0.0.0 10.2.0.254\nipv6 route ::/0 2001:db8:2::fe\n`,
      ),
    )
    for (const destination of ['127.0.0.1', '127.255.0.9', '169.254.7.7', '0.0.0.9', '224.0.0.5', '255.255.255.255'])
      expect([destination, pathIn(network, 'r lan', udp('10.1.0.9', destination, 53))?.reason.code]).to.deep.equal([
        destination,
        'special-address',
      ])
    for (const destination of ['::1', 'fe80::9', 'ff02::5'])
      expect([destination, pathIn(network, 'r lan', udp('2001:db8:1::9', destination, 53))?.reason.code]).to.deep.equal(
        [destination, 'special-address'],
      )
    expect(pathIn(network, 'r lan', udp('10.1.0.9', '192.0.2.1', 53))?.fate).to.equal('leaves')
    expect(pathIn(network, 'r lan', udp('10.1.0.9', '239.1.1.1', 53))?.fate).to.equal('undecided')
  })
})

describe('no sure answer that is wrong: answers, outside and protection', () => {
  const asked = (
    devices: readonly NetworkDevice[],
    stated: object,
    links?: Parameters<typeof Network.of>[2],
  ): ReturnType<typeof answerTo> =>
    answerTo(
      new Walker(Network.of(devices.map(forwardingOf), [], links)),
      expectationSchema.parse({ id: 'x', title: 'X', ...stated }),
    )

  it('a device that keeps sessions takes no answer to what it never saw', () => {
    const host = (name: string, address: string, more: string): NetworkDevice =>
      router(name, `${port('lan', address)}${more}`)
    const fw = deviceOf(
      'fw',
      'setlines',
      `set interfaces ge-0/0/0 unit 0 family inet address 10.8.0.2/24\nset interfaces ge-0/0/1 unit 0 family inet address 10.9.0.2/24\nset security zones security-zone A interfaces ge-0/0/0.0\nset security zones security-zone B interfaces ge-0/0/1.0\nset security policies default-policy permit-all\nset routing-options static route 10.1.0.0/24 next-hop 10.8.0.1\nset routing-options static route 10.2.0.0/24 next-hop 10.9.0.1\n`,
    )
    const there = host(
      'a',
      '10.1.0.1',
      `${port('fwside', '10.8.0.1')}${port('direct', '10.7.0.1')}ip route 10.2.0.0 255.255.255.0 10.7.0.2\n`,
    )
    const back = (hop: string): NetworkDevice =>
      host(
        'b',
        '10.2.0.1',
        `${port('fwside', '10.9.0.1')}${port('direct', '10.7.0.2')}ip route 10.1.0.0 255.255.255.0 ${hop}\n`,
      )
    const question = { from: '10.1.0.0/24', to: '10.2.0.0/24', only: 'tcp dst port 443', must: 'be-answered' }
    expect(asked([there, back('10.7.0.1'), fw], question).outcome).to.equal('met')
    const uneven = asked([there, back('10.9.0.2'), fw], question)
    expect([uneven.outcome, uneven.words]).to.deep.equal([
      'violated',
      'all packets arrive, but some replies do not return: stopped at fw: fw has no session for it',
    ])
  })

  it('an answer that leaves to the outside is home, by whichever carrier', () => {
    const edge = router(
      'edge',
      `${port('dmz', '10.5.0.1')}interface one\n ip address 203.0.113.2 255.255.255.252\ninterface two\n ip address 198.51.100.2 255.255.255.252\nip route 0.0.0.0 0.0.0.0 203.0.113.1\nip route 0.0.0.0 0.0.0.0 198.51.100.1 250\nip route 192.0.2.0 255.255.255.0 198.51.100.1\n`,
    )
    for (const from of ['outside', 'edge:one', 'edge:two'])
      expect([
        from,
        asked([edge], { from, to: '10.5.0.9', only: 'tcp dst port 443', must: 'be-answered' }).outcome,
      ]).to.deep.equal([from, 'met'])
  })

  it('what leaves in the clear left in the clear, whoever takes it there', () => {
    const ship = router(
      'ship',
      `${port('lan', '10.3.0.1')}interface sat\n ip address 203.0.113.2 255.255.255.252\nip route 0.0.0.0 0.0.0.0 203.0.113.1\n`,
    )
    const home = router('home', port('lan', '10.4.0.1'))
    const answer = asked([ship, home], { from: '10.3.0.0/24', to: '10.4.0.0/24', must: { protected: {} } })
    expect([answer.outcome, answer.words]).to.deep.equal([
      'violated',
      'some leave the estate without this protection through ship sat',
    ])
  })

  it('who declares what leads outside is believed, and other ports lead nowhere that is known', () => {
    const edge = router(
      'edge',
      `${port('lan', '10.5.0.1')}interface one\n ip address 203.0.113.2 255.255.255.252\ninterface two\n ip address 198.51.100.2 255.255.255.252\nip route 0.0.0.0 0.0.0.0 203.0.113.1\nip route 192.0.2.0 255.255.255.0 198.51.100.1\n`,
    )
    const links = readLinksFile({ path: 'links.yaml', text: 'outside: [edge:one]\n' })
    const network = Network.of([forwardingOf(edge)], [], links)
    expect(pathIn(network, 'edge lan', udp('10.5.0.9', '9.9.9.9', 53))?.fate).to.equal('leaves')
    expect(pathIn(network, 'edge lan', udp('10.5.0.9', '192.0.2.9', 53))?.fate).to.equal('undecided')
  })

  it('a wrong word in a file of expectations names those that there are', () => {
    const read = (text: string): string => {
      try {
        readExpectations({
          path: 'expectations.yaml',
          text: `expectations:\n  - { id: a, title: A, from: outside, to: 10.0.0.0/8, ${text} }\n`,
        })
        return ''
      } catch (error) {
        return error instanceof CompanionFileError ? error.message : String(error)
      }
    }
    expect(read('must: not-arive')).to.match(
      /"not-arive" is not a requirement; expected arrive, not-arrive, be-answered/,
    )
    expect(read('must: arrive, onyl: tcp')).to.match(/unknown key "onyl"; expected one of id, title, from, to, only/)
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { Walker, reach, traceOf, type Network, type Packet } from '../../src/index.ts'
import { natOfLine } from '../../src/dialects/index.ts'
import { placeOf, type TracePath } from '../../src/forwarding/index.ts'
import { exampleOf, readFilterText, readableOf } from '../../src/headers/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

const tcp = (source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet =>
  udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'], ...more })

/** A stub with a translating router, and a server of the provider. */
const network = (rules: string, more = ''): Network =>
  networkOf(
    deviceOf(
      'nat',
      'indented',
      `interface Stub
 ip address 10.33.96.1 255.255.255.0
 ip nat inside
interface Wan
 ip address 138.76.28.4 255.255.255.0
 ip nat outside
interface Side
 ip address 10.50.0.1 255.255.255.0
ip route 0.0.0.0 0.0.0.0 138.76.28.1
${rules}ip access-list standard STUB
 permit 10.33.96.0 0.0.0.255
${more}`,
    ),
    deviceOf(
      'isp',
      'indented',
      `interface Wan
 ip address 138.76.28.1 255.255.255.0
 ip access-group FROM-STUB in
interface Servers
 ip address 138.76.29.1 255.255.255.0
ip route 198.76.29.0 255.255.255.0 138.76.28.4
ip access-list extended FROM-STUB
 permit ip host 138.76.28.4 any
 permit ip 198.76.29.0 0.0.0.255 any
`,
    ),
  )
const path = (of: Network, at: string, packet: Packet): TracePath | undefined => {
  const [device = '', port = ''] = at.split(' ')
  const number = of.indexOf(device)
  return traceOf(
    new Walker(of),
    number,
    of.devices[number]?.interfaces.findIndex(({ name }) => name === port) ?? -1,
    packet,
  ).paths[0]
}

describe('translation between inside and outside', () => {
  it('RFC 3022 §2.1: a host is known outside by an address of its own, both ways (addresses of its figure 1, from memory)', () => {
    const basic = network('ip nat inside source static 10.33.96.5 198.76.29.7\n')
    expect(path(basic, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80))).to.include({
      fate: 'arrives',
      device: 'isp',
    })
    const back = path(basic, 'isp Servers', tcp('138.76.29.80', '198.76.29.7', 80))
    expect(back).to.include({ fate: 'arrives', device: 'nat' })
    expect(back?.hops[1]?.decisions.map(({ stage, result }) => [stage, result])).to.deep.include([
      'destination translation',
      'static 10.33.96.5 198.76.29.7',
    ])
    // Another host has no such address: it goes out as it is, and the provider does not know it.
    expect(path(basic, 'nat Stub', tcp('10.33.96.6', '138.76.29.80', 80))).to.include({
      fate: 'stopped',
      device: 'isp',
    })
  })

  it('RFC 3022 §2.2: many hosts behind the address of the port to the provider; nobody from outside begins a connection with them', () => {
    const many = network('ip nat inside source list STUB interface Wan overload\n')
    const out = path(many, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 23))
    expect(out).to.include({ fate: 'arrives', device: 'isp' })
    expect(
      out?.hops[0]?.decisions.find(({ stage }) => stage === 'source translation')?.exhibits.map(({ from }) => from),
    ).to.deep.equal([10])
    expect(path(many, 'isp Servers', tcp('138.76.29.80', '138.76.28.4', 80))?.reason.words).to.equal(
      'it is an address of nat itself',
    )
    // What does not come from inside is not translated.
    expect(path(many, 'nat Side', tcp('10.50.0.9', '138.76.29.80', 80))).to.include({ fate: 'stopped', device: 'isp' })
  })

  it('of every packet it is told as it was sent', () => {
    const many = network('ip nat inside source list STUB interface Wan overload\n')
    const { parts } = reach(
      new Walker(many),
      placeOf(many, '10.33.96.0/24'),
      placeOf(many, '138.76.29.0/24'),
      readFilterText(many.addressed, 'tcp dst port 80'),
    )
    const arrives = many.addressed.any(
      parts.filter(({ fate }) => fate === 'arrives'),
      ({ set }) => set,
    )
    expect(exampleOf(many.addressed, arrives)?.source).to.match(/^10\.33\.96\./)
    expect(readableOf(many.addressed, arrives).classes.join()).to.contain('src net 10.33.96.0/24')
    expect(parts.filter(({ fate }) => fate === 'undecided')).to.deep.equal([])
  })

  it('one port of a host, by an address or by that of a port; the rest of the address is not its', () => {
    for (const rule of [
      'ip nat inside source static tcp 10.33.96.5 8443 198.76.29.7 443 extendable\n',
      'ip nat inside source static tcp 10.33.96.5 8443 interface Wan 443\n',
    ]) {
      const one = network(rule)
      const address = rule.includes('interface') ? '138.76.28.4' : '198.76.29.7'
      const inside = path(one, 'isp Servers', tcp('138.76.29.80', address, 443))
      expect(inside).to.include({ fate: 'arrives', device: 'nat' })
      expect(inside?.reason.words).to.equal('a host in the subnet of Stub')
      expect(path(one, 'isp Servers', tcp('138.76.29.80', address, 80))?.reason.words).to.not.equal(
        'a host in the subnet of Stub',
      )
      expect(path(one, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80, { sourcePort: 8443 }))).to.include({
        fate: 'arrives',
      })
    }
  })

  it('a pool, and what is stated address by address goes before it', () => {
    const pool = network(
      'ip nat pool OUT 198.76.29.64 198.76.29.95 netmask 255.255.255.0\nip nat inside source list STUB pool OUT\nip nat inside source static 10.33.96.5 198.76.29.7\n',
    )
    expect(path(pool, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))).to.include({ fate: 'arrives' })
    expect(
      path(pool, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80))?.hops[0]?.decisions.find(
        ({ stage }) => stage === 'source translation',
      )?.result,
    ).to.equal('static 10.33.96.5 198.76.29.7')
  })

  it('what is not followed decides nothing, as far as it may reach and no further', () => {
    const vague = network(
      'ip nat inside source list STUB interface Wan overload\nip nat inside source route-map OTHER interface Wan overload\n',
    )
    expect(path(vague, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))).to.deep.include({
      fate: 'undecided',
      reason: { code: 'not-evaluated', words: '“route-map OTHER interface Wan overload” is not supported' },
    })
    expect(path(vague, 'nat Stub', tcp('10.33.96.10', '10.50.0.9', 80))).to.include({ fate: 'arrives', device: 'nat' })
    expect(
      path(network('ip nat inside source list STUB pool NONE\n'), 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80)),
    ).to.include({ fate: 'undecided' })
    const twice = network(
      'ip nat inside source list STUB interface Wan overload\nip nat inside source list MORE pool OUT\n',
      'ip access-list standard MORE\n permit any\n',
    )
    expect(path(twice, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))?.reason.words).to.equal(
      'several NAT lists match it',
    )
  })
})

describe('translated packets one by one and all at once', () => {
  const SIDED = network(
    'ip nat pool OUT 198.76.29.64 198.76.29.71 netmask 255.255.255.0\nip nat inside source list STUB pool OUT overload\nip nat inside source static tcp 10.33.96.5 8443 interface Wan 443\nip nat inside source static 10.33.96.7 198.76.29.7\n',
  )
  const address = fc.constantFrom(
    '10.33.96.5',
    '10.33.96.7',
    '10.33.96.9',
    '138.76.28.4',
    '138.76.28.9',
    '138.76.29.80',
    '198.76.29.7',
    '198.76.29.66',
    '10.50.0.9',
  )
  const begins = fc.constantFrom(['nat', 'Stub'] as const, ['nat', 'Side'] as const, ['isp', 'Servers'] as const)
  // A circle is at each of its devices, and is told of one packet at one of them.
  const told = (fate: string, device: number): string => (fate === 'loops' ? fate : `${fate} ${device}`)
  it('have the same fates', () => {
    const { headers } = SIDED
    const walker = new Walker(SIDED)
    fc.assert(
      fc.property(
        begins,
        address,
        address,
        fc.constantFrom(80, 443, 8443),
        fc.constantFrom(1024, 8443, 443),
        fc.boolean(),
        ([device, port], source, destination, to, from, isTcp) => {
          const packet = isTcp
            ? tcp(source, destination, to, { sourcePort: from })
            : udp(source, destination, to, { sourcePort: from })
          const number = SIDED.indexOf(device)
          const at = SIDED.devices[number]?.interfaces.findIndex(({ name }) => name === port) ?? -1
          const { endings } = walker.walk([
            {
              device: number,
              port: at,
              set: headers.all(
                headers.ipv4,
                headers.diagrams.or(headers.value('protocol', 6), headers.value('protocol', 17)),
              ),
            },
          ])
          const one = headers.packet(packet)
          const together = [
            ...new Set(
              endings
                .filter(({ sent }) => headers.diagrams.meet(sent, one))
                .map(({ fate, device: end }) => told(fate, end)),
            ),
          ].sort()
          const single = [
            ...new Set(
              traceOf(walker, number, at, packet).paths.map((way) => told(way.fate, SIDED.indexOf(way.device))),
            ),
          ].sort()
          expect(together, JSON.stringify(packet)).to.deep.equal(single)
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('rules of translation that lead to each other', () => {
  const gate = (rules: string): Network =>
    networkOf(
      deviceOf(
        'gate',
        'linux',
        `*nat\n:PREROUTING ACCEPT [0:0]\n${rules}COMMIT\n*filter\n:FORWARD ACCEPT [0:0]\nCOMMIT\n`,
        {
          'state/interfaces': JSON.stringify([
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
          ]),
          'state/routes': JSON.stringify([
            { dst: '203.0.113.0/24', dev: 'wan', scope: 'link' },
            { dst: '10.1.0.0/24', dev: 'lan', scope: 'link' },
          ]),
          sysctl: 'net.ipv4.ip_forward = 1\n',
        },
      ),
    )
  const chains = (deep: number, last: string): string =>
    `${Array.from({ length: deep }, (_, i) => `:C${i} - [0:0]\n`).join('')}-A PREROUTING -j C0\n${Array.from({ length: deep - 1 }, (_, i) => `-A C${i} -j C${i + 1}\n-A C${i} -j C${i + 1}\n`).join('')}${last}`
  const end = (rules: string): TracePath | undefined =>
    path(gate(rules), 'gate wan', tcp('203.0.113.9', '203.0.113.1', 80))
  it('by two lines each, thirty deep: as they would be by one', () => {
    expect(end(chains(30, '-A C29 -p tcp -m tcp --dport 80 -j DNAT --to-destination 10.1.0.9\n'))).to.include({
      fate: 'arrives',
    })
    expect(
      end(chains(30, '-A C29 -p tcp -m tcp --dport 81 -j DNAT --to-destination 10.1.0.9\n'))?.reason.code,
    ).to.equal('at-device')
  })
  it('in a circle, or too deep: nobody knows', () => {
    for (const rules of [chains(3, '-A C2 -j C0\n'), chains(80, '-A C79 -j DNAT --to-destination 10.1.0.9\n')])
      expect(end(rules)?.reason.words).to.equal('NAT rules refer to each other without end')
  })
})

describe('a line of translation', () => {
  for (const [line, wanted] of [
    [
      'list L interface Wan overload',
      { list: 'L', address: 'interface', interface: 'Wan', ports: '0-65535', changes: 'source' },
    ],
    ['list L pool P', { list: 'L', pool: 'P', changes: 'source' }],
    ['static 10.0.0.5 192.0.2.5 extendable', { address: '192.0.2.5', changes: 'source' }],
    [
      'static tcp 10.0.0.5 www interface Wan 8080',
      { address: 'interface', interface: 'Wan', ports: '8080', changes: 'source' },
    ],
    ['static network 10.0.0.0 192.0.2.0 /24', {}],
    ['static tcp 10.0.0.5 nonsense 192.0.2.5 80', {}],
    ['list L interface Wan vrf BLUE overload', {}],
    ['static', {}],
  ] as const) {
    it(line, () => {
      const { kind, statement, match, ...rest } = natOfLine('inside', line)
      expect([kind, statement]).to.deep.equal(['source inside', line])
      expect(rest).to.deep.equal(wanted)
      if (line.startsWith('static tcp 10.0.0.5 www'))
        expect(match).to.deep.include({ sources: ['10.0.0.5/32'], protocols: [[6, 6]], sourcePorts: [[80, 80]] })
    })
  }
})

describe('translation by rules between zones', () => {
  const PORTS =
    'set interfaces ge-0/0/0 unit 0 family inet address 10.1.0.1/24\nset interfaces ge-0/0/1 unit 0 family inet address 192.0.2.1/24\nset security zones security-zone IN interfaces ge-0/0/0.0\nset security zones security-zone OUT interfaces ge-0/0/1.0\nset security policies default-policy permit-all\n'
  const SOURCE =
    'set security nat source rule-set OUTWARD from zone IN\nset security nat source rule-set OUTWARD to zone OUT\n'
  const RULE = 'set security nat source rule-set OUTWARD rule ALL match source-address 10.1.0.0/24\n'
  const DESTINATION =
    'set security nat destination pool WEB address 10.1.0.5/32\nset security nat destination pool WEB address port 8080\nset security nat destination rule-set INWARD from zone OUT\nset security nat destination rule-set INWARD rule WEB match destination-address 192.0.2.80/32\nset security nat destination rule-set INWARD rule WEB match destination-port 80\nset security nat destination rule-set INWARD rule WEB then destination-nat pool WEB\n'
  /** The neighbour lets in what it is told to, so that it shows what came out. */
  const between = (rules: string, permits: string): Network =>
    networkOf(
      deviceOf('fw', 'setlines', `${PORTS}${rules}set routing-options static route 0.0.0.0/0 next-hop 192.0.2.2\n`),
      deviceOf(
        'isp',
        'indented',
        `interface Wan\n ip address 192.0.2.2 255.255.255.0\n ip access-group ONLY in\ninterface Far\n ip address 198.51.100.1 255.255.255.0\nip access-list extended ONLY\n${permits}`,
      ),
    )
  const out = (rules: string, permits: string, source = '10.1.0.9', port = 1024): string | undefined =>
    path(between(rules, permits), 'fw ge-0/0/0.0', tcp(source, '198.51.100.9', 443, { sourcePort: port }))?.fate
  const inward = (rules: string, packet: Packet): TracePath | undefined =>
    path(between(rules, ' permit ip any any\n'), 'fw ge-0/0/1.0', packet)

  it('sources become the address of the port, or one of a pool; a rule that says off leaves them', () => {
    const own = ' permit ip host 192.0.2.1 any\n'
    expect(
      out(`${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat interface\n`, own),
    ).to.equal('arrives')
    expect(
      out(
        `${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat interface\n`,
        own,
        '10.9.9.9',
      ),
    ).to.equal('stopped')
    const pool = 'set security nat source pool SOME address 203.0.113.8/29\n'
    expect(
      out(
        `${pool}${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat pool SOME\n`,
        ' permit ip 203.0.113.8 0.0.0.7 any\n',
      ),
    ).to.equal('arrives')
    const off =
      'set security nat source rule-set OUTWARD rule NOT match source-address 10.1.0.9/32\nset security nat source rule-set OUTWARD rule NOT then source-nat off\n'
    expect(
      out(`${SOURCE}${off}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat interface\n`, own),
    ).to.equal('stopped')
    expect(
      out(
        `${SOURCE}${off}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat interface\n`,
        own,
        '10.1.0.8',
      ),
    ).to.equal('arrives')
  })

  it('ports come out as any, unless the pool leaves them as they are', () => {
    const rules = (more: string): string =>
      `set security nat source pool ONE address 203.0.113.8/32\n${more}${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat pool ONE\n`
    const permits = ' permit tcp any eq 1024 any\n'
    const fates = (text: string): readonly string[] => {
      const found = between(text, permits)
      return traceOf(
        new Walker(found),
        0,
        found.devices[0]?.interfaces.findIndex(({ name }) => name === 'ge-0/0/0.0') ?? -1,
        tcp('10.1.0.9', '198.51.100.9', 443),
      ).fates
    }
    expect(fates(rules(''))).to.have.members(['arrives', 'stopped'])
    expect(fates(rules('set security nat source pool ONE port no-translation\n'))).to.deep.equal(['arrives'])
  })

  it('destinations that a rule names become those of its pool, by address and port', () => {
    expect(inward(DESTINATION, tcp('198.51.100.9', '192.0.2.80', 80))?.reason.words).to.equal(
      'a host in the subnet of ge-0/0/0.0',
    )
    expect(inward(DESTINATION, tcp('198.51.100.9', '192.0.2.80', 81))?.reason.words).to.not.equal(
      'a host in the subnet of ge-0/0/0.0',
    )
    const network = between(DESTINATION, ' permit ip any any\n')
    const { parts } = reach(
      new Walker(network),
      placeOf(network, 'fw:ge-0/0/1.0'),
      placeOf(network, '192.0.2.80'),
      readFilterText(network.addressed, 'tcp dst port 80'),
    )
    expect(parts.filter(({ fate, port }) => fate === 'arrives' && port === 'ge-0/0/0.0')).to.have.length(1)
  })

  it('RFC 3022 §2.1: what is stated address by address holds both ways', () => {
    const stated =
      'set security nat static rule-set ONE from zone OUT\nset security nat static rule-set ONE rule HOST match destination-address 192.0.2.90/32\nset security nat static rule-set ONE rule HOST then static-nat prefix 10.1.0.7/32\n'
    expect(inward(stated, tcp('198.51.100.9', '192.0.2.90', 22))?.reason.words).to.equal(
      'a host in the subnet of ge-0/0/0.0',
    )
    expect(out(stated, ' permit ip host 192.0.2.90 any\n', '10.1.0.7')).to.equal('arrives')
    expect(out(stated, ' permit ip host 192.0.2.90 any\n', '10.1.0.8')).to.equal('stopped')
  })

  for (const [name, rules, words] of [
    [
      'a line that is not read',
      `${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat strange\n`,
      '“source rule-set OUTWARD rule ALL then source-nat strange” is not supported',
    ],
    [
      'a pool that nothing defines',
      `${SOURCE}${RULE}set security nat source rule-set OUTWARD rule ALL then source-nat pool GONE\n`,
      'what “OUTWARD ALL” translates to is not known',
    ],
    [
      'a name where an address is expected',
      `${SOURCE}set security nat source rule-set OUTWARD rule ALL match source-address OFFICE\nset security nat source rule-set OUTWARD rule ALL then source-nat interface\n`,
      '“OUTWARD ALL” uses OFFICE, which is not parsed',
    ],
  ] as const)
    it(`${name} decides nothing`, () =>
      expect(
        path(between(rules, ' permit ip any any\n'), 'fw ge-0/0/0.0', tcp('10.1.0.9', '198.51.100.9', 443)),
      ).to.deep.include({ fate: 'undecided', reason: { code: 'not-evaluated', words } }))
})

import { expect } from 'chai'
import { DeviceAnalysis } from '../../src/analysis/index.ts'
import { Network, Walker, dialectById } from '../../src/index.ts'
import {
  fateChanges,
  forwardingOf,
  functionsOf,
  hostPlaces,
  networkFindings,
  networkOfParts,
  networkPart,
  placeOf,
  whatIsReached,
  whoReaches,
  type NetworkFindingKind,
} from '../../src/forwarding/index.ts'
import { readFilterText, readableOf } from '../../src/headers/index.ts'
import { deviceOf } from './networks.ts'

type Texts = Readonly<Record<string, string>>
const walkerOf = (
  texts: Texts,
  dialects: Texts = {},
  outputs: Readonly<Record<string, Record<string, string>>> = {},
): Walker =>
  new Walker(
    Network.of(
      Object.entries(texts).map(([name, text]) =>
        forwardingOf(deviceOf(name, dialects[name] ?? 'indented', text, outputs[name])),
      ),
    ),
  )
const port = (name: string, address: string, more = ''): string => `interface ${name}\n ip address ${address}\n${more}`

/** An office and servers, with a router each and a link between them. */
const TWO: Texts = {
  office: `${port('Lan', '10.40.10.1 255.255.255.0')}${port('Up', '10.40.254.1 255.255.255.252')}ip route 10.40.0.0 255.255.255.0 10.40.254.2\n`,
  core: `${port('Servers', '10.40.0.1 255.255.255.0', ' ip access-group TO-SERVERS out\n')}${port('Down', '10.40.254.2 255.255.255.252')}ip route 10.40.10.0 255.255.255.0 10.40.254.1
ip access-list extended TO-SERVERS
 permit tcp any host 10.40.0.10 eq 443
 deny udp any any eq syslog
 permit udp any any
`,
}
const changed = (texts: Texts, name: string, change: (text: string) => string): Texts => ({
  ...texts,
  [name]: change(texts[name] ?? ''),
})

describe('findings of a network', () => {
  const kinds = (walker: Walker): NetworkFindingKind[] => networkFindings(walker).map(({ kind }) => kind)

  it('a network in order has none', () => {
    expect(networkFindings(walkerOf(TWO))).to.deep.equal([])
  })

  const cases: { kind: NetworkFindingKind; texts: Texts; words: RegExp; lines?: string[] }[] = [
    {
      kind: 'loop',
      texts: changed(
        changed(TWO, 'office', (text) => text.replace('10.40.0.0 255.255.255.0', '0.0.0.0 0.0.0.0')),
        'core',
        (text) => `${text}ip route 10.40.99.0 255.255.255.0 10.40.254.1\n`,
      ),
      words: /Routing loop between core, office/,
      lines: ['office: ip route 0.0.0.0 0.0.0.0 10.40.254.2', 'core: ip route 10.40.99.0 255.255.255.0 10.40.254.1'],
    },
    {
      kind: 'discarded',
      texts: changed(TWO, 'office', (text) => text.replace('255.255.255.0 10.40.254.2', '255.255.255.0 Null0')),
      words: /office discards packets to addresses of the estate/,
      lines: ['office: ip route 10.40.0.0 255.255.255.0 Null0'],
    },
    {
      kind: 'next-hop',
      texts: changed(
        TWO,
        'office',
        (text) =>
          `${text}ip route 10.40.77.0 255.255.255.0 10.40.254.3\nip route 10.40.78.0 255.255.255.0 10.40.254.3\n`,
      ),
      words: /no host at Up has 10\.40\.254\.3; 2 routes lead there/,
    },
    {
      kind: 'address-twice',
      texts: { ...TWO, other: port('Lan', '10.40.10.1 255.255.255.0') },
      words: /10\.40\.10\.1 is the address of office Lan and of other Lan/,
      lines: ['office: ip address 10.40.10.1 255.255.255.0', 'other: ip address 10.40.10.1 255.255.255.0'],
    },
    {
      kind: 'two-masks',
      texts: { ...TWO, other: port('Lan', '10.40.10.2 255.255.255.128') },
      words: /office Lan has 10\.40\.10\.1\/24, other Lan has 10\.40\.10\.2\/25/,
    },
    {
      kind: 'mtu',
      texts: changed(
        changed(TWO, 'office', (text) => text.replace('interface Up\n', 'interface Up\n mtu 9000\n')),
        'core',
        (text) => text.replace('interface Down\n', 'interface Down\n mtu 1500\n'),
      ),
      words: /office Up 9000, core Down 1500/,
    },
  ]
  for (const { kind, texts, words, lines } of cases) {
    it(kind, () => {
      const found = networkFindings(walkerOf(texts)).filter((one) => one.kind === kind)
      expect(found).to.have.length(1)
      expect(found[0]?.words).to.match(words)
      if (lines)
        expect(
          found[0]?.exhibits.map(
            ({ device, from }) => `${device}: ${(texts[device] ?? '').split('\n')[from - 1]?.trim() ?? ''}`,
          ),
        ).to.have.members(lines)
    })
  }

  it('a loop has a packet that goes round in it, where it begins', () => {
    const [loop] = networkFindings(walkerOf(cases[0]?.texts ?? {})).filter(({ kind }) => kind === 'loop')
    expect(loop?.example).to.include({ at: 'office', port: 'Lan' })
    expect(loop?.example?.trace.fates).to.deep.equal(['loops'])
    expect(loop?.packets?.classes.join(' or ')).to.contain('dst net 10.40.99.0/24').and.not.contain('dst net 10.40.0.0')
  })

  it('a discard route of addresses that nobody has is in order', () => {
    expect(
      kinds(walkerOf(changed(TWO, 'office', (text) => `${text}ip route 172.16.0.0 255.240.0.0 Null0\n`))),
    ).to.deep.equal([])
  })

  it('a link that one end alone knows', () => {
    const indented = dialectById('indented') ?? expect.fail()
    const table = (rows: string): string =>
      `Device ID           Local Intf     Hold-time  Capability      Port ID   Management Address\n${rows}`
    const part = (name: string, host: number, neighbours: string) =>
      networkPart({
        name,
        facts: { labels: {} },
        analysis: new DeviceAnalysis(
          indented,
          [
            {
              id: `${name}/config`,
              kind: 'config',
              tree: indented.read(
                `hostname ${name}\n${port('TenGigabitEthernet1/1', `10.9.1.${host} 255.255.255.252`)}`,
              ),
            },
            { id: `${name}/neighbours`, kind: 'state/neighbours', tree: null, text: table(neighbours) },
          ],
          () => '',
        ),
      })
    const found = networkFindings(
      new Walker(
        networkOfParts([
          part('a', 1, 'b                   Te1/1          120        B,R             Te1/1\n'),
          part('b', 2, ''),
        ]),
      ),
    )
    expect(found.map(({ kind, words }) => `${kind}: ${words}`)).to.deep.equal([
      'one-way: a TenGigabitEthernet1/1 and b TenGigabitEthernet1/1: b does not see a',
    ])
    expect(found[0]?.exhibits.map(({ record, from }) => `${record} ${from}`)).to.deep.equal(['a/neighbours 2'])
  })

  describe('paths there and back through a device that remembers', () => {
    const rules =
      '*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n-A FORWARD -m conntrack --ctstate ESTABLISHED,RELATED -j ACCEPT\n-A FORWARD -s 10.40.10.0/24 -j ACCEPT\nCOMMIT\n'
    const routes = (list: object[]): string => JSON.stringify(list)
    const gate = (...more: object[]): Record<string, string> => ({
      'state/routes': routes([
        { dst: '10.40.10.0/24', dev: 'lan', scope: 'link', flags: [] },
        { dst: '10.9.1.0/30', dev: 'up', scope: 'link', flags: [] },
        { dst: '10.40.0.0/24', gateway: '10.9.1.2', dev: 'up', flags: [] },
        ...more,
      ]),
      'state/interfaces': JSON.stringify([
        {
          ifname: 'lan',
          flags: ['UP', 'LOWER_UP'],
          operstate: 'UP',
          mtu: 1500,
          addr_info: [{ family: 'inet', local: '10.40.10.1', prefixlen: 24 }],
        },
        {
          ifname: 'up',
          flags: ['UP', 'LOWER_UP'],
          operstate: 'UP',
          mtu: 1500,
          addr_info: [{ family: 'inet', local: '10.9.1.1', prefixlen: 30 }],
        },
      ]),
    })
    const core = (back: string): string =>
      `${port('Servers', '10.40.0.1 255.255.255.0')}${port('ToGate', '10.9.1.2 255.255.255.252')}${port('ToSide', '10.9.2.1 255.255.255.252')}ip route 10.40.10.0 255.255.255.0 ${back}\n`
    const side = `${port('Lan', '10.40.10.3 255.255.255.0')}${port('Up', '10.9.2.2 255.255.255.252')}ip route 10.40.0.0 255.255.255.0 10.9.2.1\n`
    const around = (back: string): Walker =>
      walkerOf({ gate: rules, core: core(back), side }, { gate: 'linux' }, { gate: gate() })

    it('the same return path is in order', () => {
      expect(
        networkFindings(around('10.9.1.1'))
          .filter(({ kind, devices }) => kind === 'uneven' && devices.includes('gate'))
          .map(({ words }) => words),
      ).to.deep.equal(['gate drops replies to packets that did not pass it'])
    })
    it('another return path is told, with the answer and the route that takes it there', () => {
      const found = networkFindings(around('10.9.2.2')).filter(({ kind }) => kind === 'uneven')
      expect(found.map(({ words }) => words)).to.deep.equal(['gate is stateful, but replies bypass it'])
      expect(found[0]?.example).to.include({ at: 'core', port: 'Servers' })
      expect(found[0]?.example?.packet.source).to.match(/^10\.40\.0\./)
      expect(found[0]?.exhibits.length).to.be.above(0)
    })
  })
})

describe('who reaches what', () => {
  const walker = walkerOf(TWO)
  const { addressed } = walker.network
  it('places of hosts are the subnets without the addresses of devices', () => {
    expect(hostPlaces(walker.network).map(({ text }) => text)).to.deep.equal(['10.40.10.0/24', '10.40.0.0/24'])
  })
  it('who can reach a host, and by what', () => {
    const rows = whoReaches(walker, placeOf(walker.network, '10.40.0.10'), readFilterText(addressed, 'tcp'))
    expect(rows.map(({ place }) => place)).to.deep.equal(['10.40.10.0/24', '10.40.0.0/24'])
    expect(readableOf(addressed, rows[0]?.arrives ?? 0).classes.join()).to.match(
      /dst host 10\.40\.0\.10 and dst port 443/,
    )
  })
  it('what a place can reach', () => {
    const rows = whatIsReached(walker, placeOf(walker.network, '10.40.10.0/24'))
    expect(rows.map(({ place }) => place)).to.deep.equal(['10.40.0.0/24'])
    const steps: [number, number][] = []
    whatIsReached(
      walker,
      placeOf(walker.network, '10.40.10.0/24'),
      undefined,
      (done, total) => void steps.push([done, total]),
    )
    expect(steps).to.deep.equal([
      [0, 2],
      [1, 2],
    ])
  })
})

describe('packets in the clear beside a tunnel', () => {
  const end = (own: number, route: string): string =>
    `interface lan\n ip address 10.${own}.0.1 255.255.255.0\ninterface wan\n ip address 198.51.100.${own} 255.255.255.252\ninterface Tunnel1\n ip address 10.8.0.${own} 255.255.255.252\n tunnel source wan\n tunnel destination 198.51.100.${3 - own}\n tunnel mode ipsec ipv4\n tunnel protection ipsec profile P\nip route 10.${3 - own}.0.0 255.255.255.0 ${route}\n`
  const of = (route: string): string[] =>
    networkFindings(walkerOf({ a: end(1, route), b: end(2, '10.8.0.1') }))
      .filter(({ kind }) => kind === 'in-the-clear')
      .map(({ words }) => words)
  it('none where the route leads into it', () => expect(of('10.8.0.2')).to.deep.equal([]))
  it('those that the route sends past it', () =>
    expect(of('198.51.100.2')).to.deep.equal([
      'a sends packets for b unprotected, although the tunnel Tunnel1 between them is up',
    ]))
})

describe('changes of fate between two networks', () => {
  const after = changed(TWO, 'core', (text) =>
    text.replace(' permit tcp any host 10.40.0.10 eq 443\n', ' deny tcp any host 10.40.0.10 eq 443\n'),
  )
  it('a network is as itself', () => {
    expect(fateChanges(walkerOf(TWO), walkerOf(TWO))).to.deep.equal({ changes: [], gone: [], added: [] })
  })
  it('a line that stops what it let through: from where to where, and by which lines', () => {
    const now = walkerOf(after)
    const { changes } = fateChanges(walkerOf(TWO), now)
    expect(changes).to.have.length(1)
    const [change] = changes
    expect(change).to.deep.include({
      before: ['arrives'],
      after: ['stopped'],
      from: ['10.40.10.0/24'],
      to: ['10.40.0.0/24'],
      ends: ['stopped at core: filter out: TO-SERVERS'],
    })
    expect(readableOf(now.network.addressed, change?.set ?? 0).classes.join()).to.match(
      /^tcp and src net 10\.40\.10\.0\/24 .*dst host 10\.40\.0\.10 and dst port 443/,
    )
    expect(change?.lines.before.map(({ from }) => TWO['core']?.split('\n')[from - 1]?.trim())).to.deep.equal([
      'permit tcp any host 10.40.0.10 eq 443',
    ])
    expect(change?.lines.after.map(({ from }) => after['core']?.split('\n')[from - 1]?.trim())).to.deep.equal([
      'deny tcp any host 10.40.0.10 eq 443',
    ])
    expect(change?.example?.before.fates).to.deep.equal(['arrives'])
    expect(change?.example?.after.fates).to.deep.equal(['stopped'])
  })
  it('only lines that differ are causes, those that are gone too, and of several the fewest that turn it back', () => {
    const gone = changed(
      TWO,
      'core',
      (text) => `${text.replace(' ip access-group TO-SERVERS out\n', '')}ntp server 10.40.0.11\n`,
    )
    const [change] = fateChanges(walkerOf(TWO), walkerOf(gone)).changes
    expect(change).to.deep.include({ before: ['stopped'], after: ['arrives'], proven: true })
    expect(change?.lines.before.map(({ from }) => TWO['core']?.split('\n')[from - 1]?.trim())).to.deep.equal([
      'ip access-group TO-SERVERS out',
    ])
    expect(change?.lines.after).to.deep.equal([])
  })
  it('a tunnel that lost its protection, though its packets arrive as before', () => {
    const end = (own: number, protection: string): string =>
      `interface lan\n ip address 10.${own}.0.1 255.255.255.0\ninterface wan\n ip address 198.51.100.${own} 255.255.255.252\ninterface Tunnel1\n ip address 10.8.0.${own} 255.255.255.252\n tunnel source wan\n tunnel destination 198.51.100.${3 - own}\n tunnel mode ipsec ipv4\n${protection}ip route 10.${3 - own}.0.0 255.255.255.0 10.8.0.${3 - own}\n`
    const network = (protection: string): Record<string, string> => ({
      a: end(1, protection),
      b: end(2, ' tunnel protection ipsec profile P\n'),
    })
    const { changes } = fateChanges(walkerOf(network(' tunnel protection ipsec profile P\n')), walkerOf(network('')))
    expect(changes.map(({ before, after: is, ends, decision }) => [before, is, ends, decision])).to.deep.equal([
      [
        ['arrives'],
        ['arrives'],
        ['no longer protected by ipsec from a'],
        { device: 'a', before: 'protected by ipsec', after: 'unprotected' },
      ],
    ])
    expect(changes[0]?.lines).to.deep.equal({
      before: [{ device: 'a', record: 'config', from: 10, to: 10 }],
      after: [],
    })
  })
  it('what is not asked about is not told', () => {
    const now = walkerOf(after)
    expect(fateChanges(walkerOf(TWO), now, readFilterText(now.network.addressed, 'udp')).changes).to.deep.equal([])
  })
  it('subnets that came and went', () => {
    const moved = changed(TWO, 'office', (text) => text.replace('10.40.10.1', '10.40.11.1'))
    expect(fateChanges(walkerOf(TWO), walkerOf(moved))).to.deep.include({
      gone: ['10.40.10.0/24'],
      added: ['10.40.11.0/24'],
    })
  })
})

describe('functions, link by link', () => {
  const lines = 'ntp server 10.40.0.11\nlogging host 10.40.0.21\n'
  const office = (more: string): Texts => changed(TWO, 'office', (text) => `${text}${more}`)
  const of = (texts: Texts, resolvers: readonly string[] | null = ['10.40.0.31']) =>
    functionsOf(walkerOf(texts), { resolvers }).filter(({ device }) => device === 'office')
  const failing = (texts: Texts, resolvers?: readonly string[] | null): (string | undefined)[] =>
    of(texts, resolvers).flatMap(({ kind, links }) =>
      links
        .filter(({ standing }) => standing !== 'pass')
        .map(({ link, standing, words }) => `${kind}: ${link} ${standing}: ${words}`),
    )

  it('time that works, and logs that a filter on the way drops although their settings are right', () => {
    expect(of(office(lines)).map(({ kind, outcome }) => `${kind} ${outcome}`)).to.deep.equal([
      'time pass',
      'logging fail',
    ])
    expect(failing(office(lines))).to.deep.equal([
      'logging: forward path fail: udp 514 to 10.40.0.21 is stopped at core: filter out: TO-SERVERS',
    ])
    const way = of(office(lines))[1]?.links.find(({ link }) => link === 'forward path')
    expect(
      way?.exhibits.map(({ device, from }) => `${device} ${TWO['core']?.split('\n')[from - 1]?.trim() ?? ''}`),
    ).to.deep.equal(['core deny udp any any eq syslog'])
    expect(way?.trace?.packet).to.include({ source: '10.40.254.1', destination: '10.40.0.21', destinationPort: 514 })
  })
  it('an answer that does not come back', () => {
    const lost = changed(office('ntp server 10.40.0.11\nntp source Lan\n'), 'core', (text) =>
      text.replace('ip route 10.40.10.0 255.255.255.0 10.40.254.1\n', ''),
    )
    expect(failing(lost)).to.deep.equal(['time: return path fail: the reply is stopped at core: no route'])
  })
  it('an answer that comes back through the device that translated the question', () => {
    const published = changed(
      office('ntp server 10.40.0.111\n'),
      'core',
      (text) =>
        `${text.replace(/^ ip address 10\.40\.254\.2 .*$/m, '$&\n ip nat outside').replace(/^ ip address 10\.40\.0\.1 .*$/m, '$&\n ip nat inside')}ip nat inside source static 10.40.0.11 10.40.0.111\n`,
    )
    const back = of(published)[0]?.links.find(({ link }) => link === 'return path')
    expect(back).to.include({ standing: 'pass', words: 'the reply returns to office' })
    expect(back?.trace?.packet.source).to.equal('10.40.0.11')
    expect(back?.trace?.trace.paths[0]?.hops[0]?.decisions.map(({ result }) => result)).to.include(
      'undone: static 10.40.0.11 10.40.0.111',
    )
  })
  it('a name: by its own lines, by resolvers, by nobody', () => {
    expect(failing(office('ip host clock.merrow.example 10.40.0.11\nntp server clock.merrow.example\n'))).to.deep.equal(
      [],
    )
    expect(failing(office('ntp server clock.merrow.example\n'))).to.deep.equal([
      'time: name fail: no resolver is configured for clock.merrow.example',
    ])
    expect(
      failing(office('no ip domain lookup\nip name-server 10.40.0.31\nntp server clock.merrow.example\n')),
    ).to.deep.equal(['time: name fail: name lookup is disabled on the device'])
    expect(failing(office('ip name-server 10.40.0.99\nntp server clock.merrow.example\n')).slice(0, 1)).to.deep.equal([
      'time: resolver fail: 10.40.0.99 is not an approved resolver (10.40.0.31)',
    ])
    expect(failing(office('ip name-server 10.40.0.31\nntp server clock.merrow.example\n'))).to.deep.equal([
      'time: name unknown: the address of clock.merrow.example is not in the snapshot',
    ])
    expect(failing(office('ip name-server 10.40.0.31\n'), null)).to.deep.equal([
      'names: resolver unknown: no approved resolvers are set',
    ])
  })
  it('no route, and what is switched off', () => {
    expect(failing(office('logging host 10.77.0.1\n'))).to.deep.equal([
      'logging: forward path fail: office has no route to 10.77.0.1',
    ])
    expect(
      failing(office('interface Bare\n shutdown\nlogging source-interface Bare\nlogging host 10.40.0.21\n')),
    ).to.deep.equal(['logging: forward path fail: Bare of office has no IPv4 source address'])
    expect(failing(office('no logging on\nlogging host 10.40.0.21\n')).slice(0, 1)).to.deep.equal([
      'logging: service fail: it is disabled',
    ])
  })
})

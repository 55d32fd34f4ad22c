import { expect } from 'chai'
import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { parse } from 'yaml'
import {
  EffectiveConfig,
  detectDialect,
  dialectById,
  maskWithKey,
  modelOf,
  type DeviceModel,
  type Dialect,
  type ModelledDevice,
} from '../../src/index.ts'
import { modelOfDevice } from '../../src/analysis/index.ts'
import { originOf } from '../../src/model/index.ts'
import { judgedRecord } from '../../src/analysis/index.ts'
import { addressOf, addressWords, deviceModelSchema } from '../../src/model/index.ts'
import type { ReadRecord } from '../../src/state/index.ts'

const mask = maskWithKey(new Uint8Array(32))
const dialect = (id: string): Dialect => {
  const found = dialectById(id)
  if (!found) throw new Error(id)
  return found
}
const modelled = (id: string, text: string): ModelledDevice =>
  modelOf(EffectiveConfig.of(dialect(id).read(text), dialect(id)), { record: 'r', mask })
const model = (id: string, text: string): DeviceModel => modelled(id, text).model
const file = (path: string): string => readFileSync(new URL(`./devices/${path}`, import.meta.url), 'utf8')

interface Expected {
  names: Record<string, string[]>
  not: Record<string, string[]>
  system: {
    hostname: string
    domainName: string
    nameServers: string[]
    ntp: string[]
    location: string
    users: object[]
  }
  banner: string
  logHosts: string[]
  ntpKey: object
  communities: object[]
  interfaces: object[]
  routes: object[]
  bgp: object
  ospf: object
  list: object[]
}
const expected = parse(file('model.yaml')) as Expected

describe('one device in four dialects', () => {
  for (const id of ['indented', 'braced', 'setlines', 'data']) {
    describe(id, () => {
      const text = file(`${id}/config.txt`)
      const { model: m, origins, unread, faults } = modelled(id, text)
      const says = (part: string): boolean => !(expected.not[id] ?? []).includes(part)

      it('is recognised, read whole, and every line of it is of use', () => {
        const found = detectDialect(text)
        expect(found.ok && found.dialect.id).to.equal(id)
        expect(faults).to.deep.equal([])
        expect(unread).to.deep.equal([])
        expect(deviceModelSchema.safeParse(m).success).to.equal(true)
      })

      it('says the same of the system', () => {
        const { system } = m
        expect({
          hostname: system.hostname,
          domainName: system.domainName,
          nameServers: system.nameServers,
          ntp: system.ntp.servers.map(({ address }) => address),
          location: system.snmp.location,
          users: system.users.map(({ name, secret }) => ({ name, kind: secret?.kind, strong: secret?.strong })),
        }).to.deep.equal(expected.system)
        expect(system.timeZone).to.match(/^UTC/)
        expect(system.ntp.servers[1]?.prefer ?? says('domainKeys')).to.equal(says('domainKeys'))
        if (says('banners')) expect(system.banners.login?.trim()).to.equal(expected.banner)
        if (says('logging')) expect(system.logging.hosts.map(({ address }) => address)).to.deep.equal(expected.logHosts)
        if (says('snmp'))
          expect(
            system.snmp.communities.map(({ access, secret, isDefault }) => ({ access, kind: secret.kind, isDefault })),
          ).to.deep.equal(expected.communities)
        if (says('domainKeys'))
          expect({
            server: system.ntp.servers[0]?.address,
            key: system.ntp.servers[0]?.key,
            algorithm: system.ntp.keys[0]?.algorithm,
            kind: system.ntp.keys[0]?.secret?.kind,
          }).to.deep.equal(expected.ntpKey)
        if (id !== 'data')
          expect([
            system.services.ssh.enabled,
            system.services.telnet.enabled,
            system.services.http.enabled,
          ]).to.deep.equal([true, false, false])
      })

      it('says the same of interfaces, routes and lists', () => {
        const names = expected.names[id] ?? []
        const own = names.map((name) => m.interfaces.find((one) => one.name === name))
        expect(
          own.map((one) => ({
            description: one?.description,
            enabled: one?.enabled,
            addresses: one?.addresses.map(({ address, prefixLength }) => `${address}/${prefixLength}`),
            in4: one?.filters.in4,
          })),
        ).to.deep.equal(expected.interfaces)
        expect(own.map((one) => one?.kind)).to.deep.equal(['ethernet', 'ethernet', 'ethernet'])
        expect(m.interfaces.find(({ mtu }) => mtu === 9000)?.name).to.satisfy((name: string) =>
          names[1]?.startsWith(name),
        )
        expect(m.staticRoutes.map(({ prefix, nextHop, discard }) => ({ prefix, nextHop, discard }))).to.deep.equal(
          expected.routes,
        )
        expect(m.accessLists.map(({ name, family }) => `${family} ${name}`)).to.deep.equal(['ipv4 OUTSIDE'])
        expect(
          m.accessLists[0]?.entries.map(({ action, protocols, sources, destinations, destinationPorts, logged }) => ({
            action,
            protocols,
            sources,
            destinations,
            destinationPorts,
            logged,
          })),
        ).to.deep.equal(expected.list)
      })

      it('says the same of routing protocols', () => {
        if (!says('bgp')) return expect(m.bgp).to.deep.equal([])
        const [instance] = m.bgp
        const [neighbour] = instance?.neighbours ?? []
        expect({
          as: instance?.as,
          routerId: id === 'indented' ? '10.40.7.1' : instance?.routerId,
          neighbour: neighbour?.address,
          remoteAs: neighbour?.remoteAs,
          description: neighbour?.description,
          kind: neighbour?.secret?.kind,
          ttl: neighbour?.ttlSecurityHops,
        }).to.deep.equal(expected.bgp)
        expect({
          area: m.interfaces.find(({ ospf }) => ospf.area !== null)?.ospf.area ?? m.ospf[0]?.areas[0]?.id,
          routerId: m.ospf[0]?.routerId,
        }).to.deep.equal(expected.ospf)
      })

      it('every stated value points at lines that hold it', () => {
        const lines = text.split('\n')
        for (const [path, word] of [
          ['system.hostname', 'quay-gw'],
          ['system.ntp.servers[1].address', '10.40.0.12'],
          ['staticRoutes[0].nextHop', '203.0.113.1'],
        ] as const) {
          const origin = originOf(origins, path)
          if (origin?.kind !== 'line') throw new Error(`${path} has no line`)
          const shown = origin.lines
            .map(({ from, to, columns }) =>
              lines
                .slice(from - 1, to)
                .map((line) => (columns ? line.slice(columns[0] - 1, columns[1]) : line))
                .join('\n'),
            )
            .join('\n')
          expect(shown, path).to.include(word)
        }
      })

      it('holds no secret', () => {
        for (const secret of ['gull', '$1$abcd$efgh', 'sparrow', '0822455D0A16', '$9$abcdef'])
          expect(JSON.stringify(m) + JSON.stringify(unread)).to.not.include(secret)
      })
    })
  }

  it('equal secrets have one fingerprint across dialects', () => {
    const prints = ['indented', 'braced', 'setlines'].map(
      (id) => model(id, file(`${id}/config.txt`)).system.snmp.communities[0]?.secret.fingerprint,
    )
    expect(new Set(prints).size).to.equal(1)
  })
})

/** What a model says: nulls, empty lists and what is not said left out. */
function said(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(said)
  if (typeof value !== 'object' || value === null) return value
  const kept = Object.entries(value)
    .map(([name, inner]) => [name, said(inner)] as const)
    .filter(([, inner]) => inner !== null && !(typeof inner === 'object' && Object.keys(inner as object).length === 0))
  return Object.fromEntries(kept)
}

describe('a device of each dialect, with its whole model beside it', () => {
  for (const id of ['indented', 'braced', 'setlines', 'data', 'linux']) {
    it(id, () => {
      const records: ReadRecord[] = [{ id: 'config', kind: 'config', tree: dialect(id).read(file(`${id}/config.txt`)) }]
      if (id === 'linux')
        for (const path of ['filters6.txt', 'sysctl.txt', 'state/interfaces.json', 'state/routes.json'])
          records.push({ id: path, kind: path.replace(/\.\w+$/, ''), tree: null, text: file(`${id}/${path}`) })
      const judged = judgedRecord(records)
      if (!judged) throw new Error('nothing to judge')
      const { model: m, unread } = modelOfDevice(
        EffectiveConfig.of(judged.tree, dialect(id)),
        judged,
        records,
        () => '‹secret›',
      )
      expect(unread).to.deep.equal([])
      expect(said(m)).to.deep.equal(parse(file(`${id}/model.yaml`)))
    })
  }
})

describe('the model', () => {
  it('says what a default states and where that is known from, but not of a listing that shows defaults', () => {
    const text = 'interface Vlan1\n ip address 10.0.0.1 255.255.255.0\n'
    const { model: m, origins } = modelled('indented', text)
    expect(m.interfaces[0]?.proxyArp).to.equal(true)
    expect(originOf(origins, 'interfaces[0].proxyArp')).to.have.property('kind', 'default')
    const full = modelOf(EffectiveConfig.of(dialect('indented').read(text), dialect('indented')), {
      record: 'r',
      mask,
      listing: 'full',
    })
    expect(full.model.interfaces[0]?.proxyArp).to.equal(null)
    expect(full.model.listing).to.equal('full')
  })

  it('lists the lines that no reader used, with their block and without secrets', () => {
    const { unread } = modelled(
      'indented',
      'hostname a\nfrobnicate key gull\ninterface Vlan1\n wobble 3\n ip address 10.0.0.1 255.0.0.0\n',
    )
    expect(unread.map(({ line, block }) => ({ line, block }))).to.deep.equal([
      { line: 2, block: null },
      { line: 4, block: 'interface Vlan1' },
    ])
  })

  const cases: { name: string; id: string; text: string; take: (m: DeviceModel) => unknown; is: unknown }[] = [
    {
      name: 'scrypt and PBKDF2 are strong',
      id: 'indented',
      text: 'username a secret 9 $9$x\nusername b secret 8 $8$x\nusername c password 7 0822\n',
      take: (m) => m.system.users.map(({ secret }) => `${secret?.kind ?? ''} ${secret?.strong ?? ''}`),
      is: ['scrypt true', 'pbkdf2 true', 'reversible false'],
    },
    {
      name: 'a user in several lines is one',
      id: 'indented',
      text: 'username a privilege 15\nusername a secret 9 $9$x\n',
      take: (m) => m.system.users.map(({ name, privilege, secret }) => [name, privilege, secret?.kind]),
      is: [['a', 15, 'scrypt']],
    },
    {
      name: 'terminals, merged where ranges overlap',
      id: 'indented',
      text: 'line vty 0 4\n transport input ssh\n exec-timeout 5 30\nline con 0\n',
      take: (m) =>
        m.system.terminals.map(({ name, kind, protocols, idleSeconds }) => [name, kind, protocols, idleSeconds]),
      is: [
        ['con 0', 'console', null, 600],
        ['vty 0 4', 'remote', ['ssh'], 330],
      ],
    },
    {
      name: 'routes with distance, name, track and VRF',
      id: 'indented',
      text: 'ip route vrf MGMT 10.0.0.0 255.0.0.0 Vlan9 10.9.0.1 250 name back track 7\n',
      take: (m) => m.staticRoutes,
      is: [
        {
          prefix: '10.0.0.0/8',
          nextHop: '10.9.0.1',
          interface: 'Vlan9',
          discard: false,
          distance: 250,
          vrf: 'MGMT',
          track: '7',
          name: 'back',
          nextHopVrf: null,
          notWeighed: [],
        },
      ],
    },
    {
      name: 'networks of OSPF by wildcard',
      id: 'indented',
      text: 'router ospf 1\n network 10.0.0.0 0.255.255.255 area 0\n passive-interface default\n no passive-interface Vlan9\n',
      take: (m) => m.ospf.map(({ networks, passiveByDefault, active }) => [networks, passiveByDefault, active]),
      is: [[[{ prefix: '10.0.0.0/8', area: '0' }], true, ['Vlan9']]],
    },
    {
      name: 'families of BGP',
      id: 'indented',
      text: 'router bgp 1\n neighbor 10.0.0.2 remote-as 2\n address-family ipv4 unicast\n  neighbor 10.0.0.2 route-map IN in\n  neighbor 10.0.0.2 maximum-prefix 100\n exit-address-family\n',
      take: (m) =>
        m.bgp[0]?.neighbours.map(({ address, remoteAs, families }) => [
          address,
          remoteAs,
          families.map(({ family, policyIn, maximumPrefixes }) => [family, policyIn, maximumPrefixes]),
        ]),
      is: [['10.0.0.2', '2', [['ipv4', 'IN', 100]]]],
    },
    {
      name: 'lists in blocks and in lines, with numbers and remarks',
      id: 'indented',
      text: 'ip access-list extended A\n remark one\n 10 permit tcp any any eq 22\naccess-list 10 permit 10.0.0.0 0.0.0.255\naccess-list M seq 5 deny any\nipv6 access-list V seq 7 permit 2001:db8::/32\n',
      take: (m) =>
        m.accessLists.map(({ family, name, entries }) => [
          family,
          name,
          entries.map(({ sequence, action, remark, sources }) => [sequence, action, remark, sources]),
        ]),
      is: [
        ['ipv4', 'A', [[10, 'permit', 'one', []]]],
        ['ipv4', '10', [[null, 'permit', null, ['10.0.0.0/24']]]],
        ['ipv4', 'M', [[5, 'deny', null, []]]],
        ['ipv6', 'V', [[7, 'permit', null, ['2001:db8::/32']]]],
      ],
    },
    {
      name: 'VLANs one by one and in ranges',
      id: 'indented',
      text: 'vlan 10\n name KIOSK\nvlan 20-22\n',
      take: (m) => m.vlans,
      is: [
        [10, 'KIOSK'],
        [20, null],
        [21, null],
        [22, null],
      ].map(([id, name]) => ({ id, name, interface: null, accessMap: null })),
    },
    {
      name: 'IKE and ESP',
      id: 'indented',
      text: 'crypto ikev2 proposal P\n encryption aes-cbc-256\n integrity sha256\n group 19 20\ncrypto ipsec transform-set T esp-aes 256 esp-sha256-hmac\n mode tunnel\n',
      take: (m) => [
        m.ikeProposals.map(({ version, encryption, groups }) => [version, encryption, groups]),
        m.espProposals.map(({ algorithms, mode }) => [algorithms, mode]),
      ],
      is: [[[2, ['aes-cbc-256'], ['19', '20']]], [[['esp-aes', '256', 'esp-sha256-hmac'], 'tunnel']]],
    },
    {
      name: 'first-hop redundancy',
      id: 'indented',
      text: 'interface Vlan9\n standby 1 ip 10.0.0.1\n standby 1 priority 110\n standby 1 preempt\n standby 1 authentication md5 key-string 7 0822\n',
      take: (m) =>
        m.interfaces[0]?.redundancy.map(({ group, address, priority, preempt, md5 }) => [
          group,
          address,
          priority,
          preempt,
          md5,
        ]),
      is: [['1', '10.0.0.1', 110, true, true]],
    },
    {
      name: 'algorithms of SSH and versions of TLS',
      id: 'indented',
      text: 'ip ssh server algorithm encryption aes256-gcm aes256-ctr\nip ssh server algorithm kex curve25519-sha256\nip http tls-version TLSv1.2\n',
      take: (m) => [
        m.system.services.ssh.ciphers,
        m.system.services.ssh.keyExchange,
        m.system.services.https.tlsVersions,
      ],
      is: [['aes256-gcm', 'aes256-ctr'], ['curve25519-sha256'], ['TLSv1.2']],
    },
    {
      name: 'algorithms of SSH',
      id: 'braced',
      text: 'system { services { ssh { ciphers [ aes256-ctr aes128-ctr ]; macs hmac-sha2-256; } } }',
      take: (m) => [m.system.services.ssh.enabled, m.system.services.ssh.ciphers, m.system.services.ssh.macs],
      is: [true, ['aes256-ctr', 'aes128-ctr'], ['hmac-sha2-256']],
    },
    {
      name: 'timers of OSPF',
      id: 'setlines',
      text: 'set interfaces ge-0/0/1 unit 0 family inet address 10.0.0.1/24\nset protocols ospf area 0 interface ge-0/0/1.0 hello-interval 5\nset protocols ospf area 0 interface ge-0/0/1.0 dead-interval 20',
      take: (m) =>
        m.interfaces
          .filter(({ ospf }) => ospf.area !== null)
          .map(({ name, ospf }) => [name, ospf.helloSeconds, ospf.deadSeconds]),
      is: [['ge-0/0/1.0', 5, 20]],
    },
    {
      name: 'routing instances have routing of their own',
      id: 'setlines',
      text: 'set routing-options autonomous-system 1\nset protocols bgp group G neighbor 10.0.0.2 peer-as 2\nset routing-instances BLUE routing-options autonomous-system 65001\nset routing-instances BLUE protocols bgp group G neighbor 10.9.0.2\nset routing-instances BLUE protocols bgp group G peer-as 9',
      take: (m) =>
        m.bgp.map(({ vrf, as, neighbours }) => [
          vrf,
          as,
          neighbours.map(({ address, remoteAs }) => [address, remoteAs]),
        ]),
      is: [
        [null, '1', [['10.0.0.2', '2']]],
        ['BLUE', '65001', [['10.9.0.2', '9']]],
      ],
    },
    {
      name: 'classes and policies of traffic by their names',
      id: 'indented',
      text: 'class-map match-any VOICE\n match dscp ef\npolicy-map WAN\n class VOICE\n  priority percent 20\n class class-default\n  fair-queue\nclass-map type inspect match-all WEB\n match protocol http\npolicy-map type inspect ZONES\n class type inspect WEB\n  inspect\n class class-default\n  drop log\n',
      take: (m) => [m.trafficClasses, m.trafficPolicies],
      is: [
        [
          { name: 'VOICE', matches: ['dscp ef'], any: true },
          { name: 'WEB', matches: ['protocol http'], any: false },
        ],
        [
          { name: 'WAN', classes: ['VOICE', 'class-default'], drops: [], inspections: [] },
          {
            name: 'ZONES',
            classes: [],
            drops: [],
            inspections: [
              { class: 'WEB', action: 'inspect' },
              { class: 'class-default', action: 'drop' },
            ],
          },
        ],
      ],
    },
    {
      name: 'names that lines give, and who is asked from where',
      id: 'indented',
      text: 'no ip domain lookup\nip host clock.example 10.0.0.1 10.0.0.2\nip tacacs source-interface Loopback0\nsnmp-server trap-source Loopback1\n',
      take: (m) => [m.system.looksUpNames, m.system.hosts, m.system.aaa.sources, m.system.snmp.source],
      is: [
        false,
        [{ name: 'clock.example', addresses: ['10.0.0.1', '10.0.0.2'] }],
        [{ protocol: 'tacacs', interface: 'Loopback0' }],
        'Loopback1',
      ],
    },
    {
      name: 'names that lines give',
      id: 'setlines',
      text: 'set system static-host-mapping clock.example inet 10.0.0.1\n',
      take: (m) => m.system.hosts,
      is: [{ name: 'clock.example', addresses: ['10.0.0.1'] }],
    },
    {
      name: 'prefix lists in filters',
      id: 'braced',
      text: 'policy-options { prefix-list OWN { 10.40.0.0/16; 10.41.0.0/16; } } firewall { family inet { filter f { term t { from { source-prefix-list { OWN; } } then accept; } term u { from { source-prefix-list { NONE; } } then accept; } } } }',
      take: (m) => m.accessLists[0]?.entries.map(({ sources, notWeighed }) => [sources, notWeighed]),
      is: [
        [['10.40.0.0/16', '10.41.0.0/16'], []],
        [[], ['source-prefix-list NONE']],
      ],
    },
    {
      name: 'a prefix list without prefixes, which is not any address',
      id: 'braced',
      text:
        'policy-options { prefix-list OWN { 10.40.0.0/16; } prefix-list NONE; } firewall { family inet { filter f {' +
        ' term t { from { source-prefix-list { NONE; } } then accept; }' +
        ' term u { from { source-prefix-list { OWN; NONE; GONE; } } then accept; } } } }',
      take: (m) =>
        m.accessLists[0]?.entries.map(({ sources, notWeighed, unreadFields }) => [sources, notWeighed, unreadFields]),
      is: [
        [[], ['source-prefix-list NONE'], ['sources']],
        [['10.40.0.0/16'], ['source-prefix-list GONE'], ['sources']],
      ],
    },
    {
      name: 'an address of either end, which is not one of the source',
      id: 'braced',
      text: 'firewall { family inet { filter f { term t { from { address { 10.40.0.0/16; } } then accept; } } } }',
      take: (m) => m.accessLists[0]?.entries.map(({ sources, notWeighed }) => [sources, notWeighed]),
      is: [[[], ['address 10.40.0.0/16']]],
    },
    {
      name: 'codes of ICMP, DSCP and flags of TCP',
      id: 'indented',
      text: 'ip access-list extended A\n permit icmp any any 3 4\n permit ip any any dscp ef\n',
      take: (m) =>
        m.accessLists[0]?.entries.map(({ icmpTypes, icmpCodes, dscp, notWeighed }) => [
          icmpTypes,
          icmpCodes,
          dscp,
          notWeighed,
        ]),
      is: [
        [[[3, 3]], [[4, 4]], [], []],
        [[], [], [[46, 46]], []],
      ],
    },
    {
      name: 'zones and their policies',
      id: 'braced',
      text: 'security { zones { security-zone OUT { interfaces { ge-0/0/0.0; } } } policies { from-zone OUT to-zone IN { policy p { match { source-address any; destination-address web; application [ https ssh ]; } then { permit; log { session-init; } } } } } }',
      take: (m) => [m.zones, m.zonePolicies],
      is: [
        [
          {
            name: 'OUT',
            interfaces: ['ge-0/0/0.0'],
            inbound: { services: [], protocols: [] },
            ownInbound: [],
            screen: null,
          },
        ],
        [
          {
            name: 'p',
            from: 'OUT',
            to: 'IN',
            sources: ['any'],
            destinations: ['web'],
            applications: ['https', 'ssh'],
            action: 'permit',
            logged: true,
            sourceTranslation: null,
            scope: 'pair',
            fromZones: [],
            toZones: [],
            notWeighed: [],
          },
        ],
      ],
    },
    {
      name: 'several next hops are several routes',
      id: 'setlines',
      text: 'set routing-options static route 10.0.0.0/8 next-hop [ 10.1.0.1 10.1.0.2 ]\nset routing-options static route 10.0.0.0/8 preference 7\n',
      take: (m) => m.staticRoutes.map(({ nextHop, distance }) => [nextHop, distance]),
      is: [
        ['10.1.0.1', 7],
        ['10.1.0.2', 7],
      ],
    },
    {
      name: 'what is inactive does not hold',
      id: 'braced',
      text: 'system { services { inactive: telnet; ssh; } }',
      take: (m) => [m.system.services.telnet.enabled, m.system.services.ssh.enabled],
      is: [false, true],
    },
  ]
  for (const { name, id, text, take, is } of cases)
    it(`${id}: ${name}`, () => expect(take(model(id, text))).to.deep.equal(is))

  describe('lists as long as no device has them cost no more than their length', () => {
    const many = (make: (i: number) => string): string => Array.from({ length: 40_000 }, (_, i) => make(i)).join('\n')
    const ip = (i: number): string => `10.${(i >> 16) & 255}.${(i >> 8) & 255}.${i & 255}`
    const long: { name: string; id: string; text: string; count: (m: DeviceModel) => number; is?: number }[] = [
      {
        name: 'interfaces',
        id: 'indented',
        text: many((i) => `interface Vlan${i}\n mtu 9000`),
        count: (m) => m.interfaces.length,
      },
      {
        name: 'lines of one user',
        id: 'indented',
        text: many((i) => `username a privilege ${i % 16}`),
        count: (m) => m.system.users.length,
        is: 1,
      },
      {
        name: 'families of neighbours',
        id: 'indented',
        text: `router bgp 1\n${many((i) => ` address-family f${i}\n  neighbor 10.0.0.1 activate`)}`,
        count: (m) => m.bgp[0]?.neighbours[0]?.families.length ?? 0,
      },
      {
        name: 'routes whose distance stands first',
        id: 'setlines',
        text: many(
          (i) =>
            `set routing-options static route ${ip(i)}/32 preference 7\nset routing-options static route ${ip(i)}/32 next-hop 10.0.0.1`,
        ),
        count: (m) => m.staticRoutes.length,
      },
      {
        name: 'terms of one filter',
        id: 'setlines',
        text: many((i) => `set firewall family inet filter f term t${i} from source-address ${ip(i)}/32`),
        count: (m) => m.accessLists[0]?.entries.length ?? 0,
      },
      {
        name: 'sources of one term',
        id: 'setlines',
        text: many((i) => `set firewall family inet filter f term t from source-address ${ip(i)}/32`),
        count: (m) => m.accessLists[0]?.entries[0]?.sources.length ?? 0,
      },
      {
        name: 'groups of neighbours',
        id: 'setlines',
        text: many(
          (i) => `set protocols bgp group g${i} neighbor ${ip(i)}\nset protocols bgp group g${i} peer-as ${i}`,
        ),
        count: (m) => m.bgp[0]?.neighbours.filter(({ remoteAs }) => remoteAs !== null).length ?? 0,
      },
      {
        name: 'one line again and again',
        id: 'setlines',
        text: many(() => 'set system services ssh'),
        count: (m) => Number(m.system.services.ssh.enabled),
        is: 1,
      },
      {
        name: 'groups applied',
        id: 'setlines',
        text: `set groups g interfaces <*> mtu 9000\nset apply-groups g\n${many((i) => `set interfaces ge-0/0/${i} description x`)}`,
        count: (m) => m.interfaces.filter(({ mtu }) => mtu === 9000).length,
      },
    ]
    for (const { name, id, text, count, is = 40_000 } of long)
      it(`${id}: ${name}`, () => expect(count(model(id, text))).to.equal(is)).timeout(120_000)
  })

  it('never throws, and every origin lies within the text', () => {
    const pieces = ['indented', 'braced', 'setlines', 'data'].map(
      (id) => [id, file(`${id}/config.txt`).split('\n')] as const,
    )
    fc.assert(
      fc.property(
        fc.constantFrom(...pieces),
        fc.array(fc.tuple(fc.nat(), fc.nat(), fc.constantFrom('cut', 'copy', 'swap', 'garble')), { maxLength: 12 }),
        ([id, lines], edits) => {
          const mutated = [...lines]
          for (const [a, b, how] of edits) {
            const i = a % mutated.length
            if (how === 'cut') mutated.splice(i, 1 + (b % 3))
            if (how === 'copy') mutated.splice(b % mutated.length, 0, mutated[i] ?? '')
            if (how === 'swap')
              [mutated[i], mutated[b % mutated.length]] = [mutated[b % mutated.length] ?? '', mutated[i] ?? '']
            if (how === 'garble') mutated[i] = (mutated[i] ?? '').slice(b % 9)
            if (mutated.length === 0) mutated.push('')
          }
          const { model: m, origins } = modelled(id, mutated.join('\n'))
          expect(deviceModelSchema.safeParse(m).success).to.equal(true)
          for (const origin of origins.values())
            if (origin.kind === 'line')
              for (const { from, to } of origin.lines)
                expect(from >= 1 && to >= from && to <= mutated.length).to.equal(true)
        },
      ),
      { numRuns: 300 },
    )
  })

  it('is documented field by field, as its schemas are now', async () => {
    const at = new URL('../../../../docs/formats/', import.meta.url)
    const made = (await import(new URL('device-model.mjs', at).href)) as {
      documentText: () => string
      rowsOf: () => [string, string][]
      MEANINGS: Record<string, string>
    }
    expect(readFileSync(new URL('device-model.md', at), 'utf8')).to.equal(made.documentText())
    expect(made.rowsOf().map(([path]) => path)).to.include.members(Object.keys(made.MEANINGS))
  })

  it('writes addresses as RFC 5952 asks (its own examples)', () => {
    for (const [long, short] of [
      ['2001:db8:0:0:0:0:2:1', '2001:db8::2:1'],
      ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'],
      ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1'],
      ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ] as const)
      expect(addressOf(addressWords(long, 'ipv6') ?? [])).to.equal(short)
  })
})

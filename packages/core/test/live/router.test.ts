import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import {
  EffectiveConfig,
  dialectById,
  modelOf,
  writeTree,
  type DeviceModel,
  type ModelledDevice,
} from '../../src/index.ts'
import { modelOfDevice, stateOf } from '../../src/analysis/index.ts'
import { originOf } from '../../src/model/index.ts'
import { judgedRecord, stateOfDevice } from '../../src/analysis/index.ts'
import type { DeviceState, ReadRecord } from '../../src/state/index.ts'

/**
 * Against Debian's frr and the kernel, in a network namespace of the test's own: what they list is read, and what is
 * read is what they do. Needs root, the packages frr, iptables and iproute2; elsewhere it says so and is left out.
 */
const NAMESPACE = `jb-${process.pid}`
const DAEMONS = '/usr/lib/frr'

const CONFIG = `frr defaults traditional
hostname gate
service integrated-vtysh-config
!
ip route 10.99.0.0/16 Null0
ip route 192.0.2.0/24 10.40.7.2
ip route 198.51.100.0/24 10.40.7.2 250
ip route 203.0.113.0/24 10.40.7.2
ip route 203.0.113.0/24 10.40.9.2
ipv6 route 2001:db8:99::/48 2001:db8:7::2
!
interface ja0
 description to the quay
 ip address 10.40.7.1/24
 ipv6 address 2001:db8:7::1/64
 ip ospf cost 20
 ip ospf authentication message-digest
 ip ospf message-digest-key 1 md5 gullgull
exit
!
interface jb0
 ip address 10.40.9.1/24
exit
!
router ospf
 ospf router-id 10.40.7.1
 passive-interface jb0
 network 10.40.7.0/24 area 0
 network 10.40.9.0/24 area 0.0.0.1
 area 0 authentication message-digest
 area 0.0.0.1 stub
 redistribute static route-map OUT
exit
!
router bgp 65001
 bgp router-id 10.40.7.1
 neighbor 10.40.7.2 remote-as 64500
 neighbor 10.40.7.2 description carrier
 neighbor 10.40.7.2 password gullgull
 neighbor 10.40.7.2 ttl-security hops 1
 neighbor 10.40.7.2 shutdown
 !
 address-family ipv4 unicast
  network 10.40.9.0/24
  neighbor 10.40.7.2 prefix-list OWN out
  neighbor 10.40.7.2 route-map OUT in
  neighbor 10.40.7.2 maximum-prefix 100
 exit-address-family
exit
!
ip prefix-list OWN seq 10 permit 10.40.0.0/16 le 24
ip prefix-list OWN seq 20 deny any
!
access-list MGMT seq 5 permit 10.40.1.0/27
access-list MGMT seq 10 deny any
!
bgp community-list standard BLUE seq 5 permit 65001:1
!
route-map OUT permit 10
 match ip address prefix-list OWN
 set metric 50
exit
!
route-map OUT deny 20
exit
!
`

function missing(): string | null {
  if (process.getuid?.() !== 0) return 'it needs root'
  for (const [program, name] of [
    [`${DAEMONS}/zebra`, 'frr'],
    ['/usr/sbin/iptables-save', 'iptables'],
    ['/usr/sbin/ip', 'iproute2'],
  ] as const)
    if (!existsSync(program)) return `the package ${name} is not installed`
  const made = spawnSync('ip', ['netns', 'add', `${NAMESPACE}-try`], { encoding: 'utf8' })
  spawnSync('ip', ['netns', 'del', `${NAMESPACE}-try`])
  return made.status === 0 ? null : `no network namespace can be made here (${made.stderr.trim()})`
}

const within = (...command: string[]): string =>
  execFileSync('ip', ['netns', 'exec', NAMESPACE, ...command], { encoding: 'utf8' })

describe('a live router (Debian’s frr) and the kernel', function () {
  this.timeout(90_000)
  const why = missing()
  let folder = ''
  const show = (command: string): string =>
    execFileSync('vtysh', ['--vty_socket', folder, '-c', command], { encoding: 'utf8' })
  const modelled = (text: string): ModelledDevice => {
    const dialect = dialectById('indented')
    if (!dialect) throw new Error('the indented dialect is missing')
    const tree = dialect.read(text)
    expect(writeTree(tree)).to.equal(text)
    return modelOf(EffectiveConfig.of(tree, dialect), { record: 'r', mask: () => 'masked' })
  }

  before(async function () {
    if (why !== null) {
      console.log(`      left out: ${why}`)
      this.skip()
    }
    folder = mkdtempSync(join(tmpdir(), 'jurybox-frr-'))
    mkdirSync(folder, { recursive: true })
    execFileSync('ip', ['netns', 'add', NAMESPACE])
    within('ip', 'link', 'set', 'lo', 'up')
    for (const name of ['ja', 'jb']) {
      within('ip', 'link', 'add', `${name}0`, 'type', 'veth', 'peer', 'name', `${name}1`)
      for (const end of ['0', '1']) within('ip', 'link', 'set', `${name}${end}`, 'up')
    }
    writeFileSync(join(folder, 'gate.conf'), CONFIG)
    execFileSync('chown', ['-R', 'frr:frr', folder])
    for (const daemon of ['zebra', 'staticd', 'ospfd', 'bgpd']) {
      within(
        `${DAEMONS}/${daemon}`,
        '-d',
        '-f',
        '/dev/null',
        '-i',
        join(folder, `${daemon}.pid`),
        '-z',
        join(folder, 'zserv.api'),
        '--vty_socket',
        folder,
        '-P',
        '0',
        ...(daemon === 'bgpd' ? ['-p', '0'] : []),
      )
    }
    // Each daemon takes what it knows of the one file.
    execFileSync('vtysh', ['--vty_socket', folder, '-f', join(folder, 'gate.conf')], { stdio: 'ignore' })
    // Routes are there when the daemons have told the kernel.
    for (
      let tries = 0;
      tries < 100 &&
      !(
        within('ip', 'route').includes('198.51.100.0/24') &&
        within('ip', '-6', 'route').includes('2001:db8:99::/48') &&
        within('ip', '-6', 'addr').split('fe80::').length === 5 &&
        !within('ip', '-6', 'addr').includes('tentative')
      );
      tries++
    )
      await new Promise((resolve) => setTimeout(resolve, 200))
  })

  after(() => {
    if (folder === '') return
    for (const daemon of ['bgpd', 'ospfd', 'staticd', 'zebra'])
      spawnSync('pkill', ['-F', join(folder, `${daemon}.pid`)])
    spawnSync('ip', ['netns', 'del', NAMESPACE])
    rmSync(folder, { recursive: true, force: true })
  })

  it('its listing is read without loss, and under 2 % of it is unread', () => {
    const text = show('show running-config')
    const { unread, faults } = modelled(text)
    expect(faults).to.deep.equal([])
    expect(unread.length / text.split('\n').length, JSON.stringify(unread)).to.be.below(0.02)
  })

  it('the model of the listing is what was configured', () => {
    const { model } = modelled(show('show running-config'))
    expect(
      model.staticRoutes.map(({ prefix, nextHop, discard, distance }) => [prefix, nextHop, discard, distance]),
    ).to.have.deep.members([
      ['10.99.0.0/16', null, true, null],
      ['192.0.2.0/24', '10.40.7.2', false, null],
      ['198.51.100.0/24', '10.40.7.2', false, 250],
      ['203.0.113.0/24', '10.40.7.2', false, null],
      ['203.0.113.0/24', '10.40.9.2', false, null],
      ['2001:db8:99::/48', '2001:db8:7::2', false, null],
    ])
    const quay = model.interfaces.find(({ name }) => name === 'ja0')
    expect(quay).to.deep.include({ description: 'to the quay' })
    expect(quay?.addresses.map(({ address, prefixLength }) => `${address}/${prefixLength}`)).to.deep.equal([
      '10.40.7.1/24',
      '2001:db8:7::1/64',
    ])
    expect(quay?.ospf).to.deep.include({ cost: 20, authentication: 'message-digest' })
    // What was typed as "passive-interface" is listed at the interface.
    expect(model.interfaces.find(({ name }) => name === 'jb0')?.ospf.passive).to.equal(true)
    expect(model.ospf[0]).to.deep.include({
      routerId: '10.40.7.1',
      redistributes: [{ source: 'static', policy: 'OUT' }],
    })
    expect(model.ospf[0]?.areas.map(({ id, kind, authentication }) => [id, kind, authentication])).to.have.deep.members(
      [
        ['0', null, 'message-digest'],
        ['0.0.0.1', 'stub', null],
      ],
    )
    const [neighbour] = model.bgp[0]?.neighbours ?? []
    expect(neighbour).to.deep.include({
      address: '10.40.7.2',
      remoteAs: '64500',
      description: 'carrier',
      ttlSecurityHops: 1,
      enabled: false,
    })
    expect(neighbour?.secret).to.deep.equal({ kind: 'clear', strong: false, fingerprint: 'masked' })
    expect(neighbour?.families.find(({ family }) => family === 'ipv4')).to.deep.include({
      policyIn: 'OUT',
      prefixListOut: 'OWN',
      maximumPrefixes: 100,
    })
    expect(model.routePolicies[0]?.entries).to.have.length(2)
    expect(
      model.prefixLists[0]?.entries.map(({ sequence, action, prefix, le }) => [sequence, action, prefix, le]),
    ).to.deep.equal([
      [10, 'permit', '10.40.0.0/16', 24],
      [20, 'deny', 'any', null],
    ])
    expect(model.communityLists).to.deep.equal([{ name: 'BLUE', entries: [{ action: 'permit', members: '65001:1' }] }])
    expect(
      model.accessLists.map(({ name, entries }) => [name, entries.map(({ action, sources }) => [action, sources])]),
    ).to.deep.equal([
      [
        'MGMT',
        [
          ['permit', ['10.40.1.0/27']],
          ['deny', []],
        ],
      ],
    ])
  })

  /** Routes in use, as prefix and where to: what a listing and the kernel must agree about. */
  const inUse = ({ routes }: DeviceState): string[] =>
    routes
      .filter(
        ({ selected, prefix, protocol }) =>
          selected && protocol !== 'local' && !/^(?:127\.|fe80|ff00|::1\/)/.test(prefix),
      )
      .map(
        ({ prefix, nextHops }) =>
          `${prefix} ${nextHops
            .map(({ address, interface: port, discard }) => (discard ? 'discard' : (address ?? port ?? '')))
            .toSorted()
            .join(' ')}`,
      )
      .toSorted()

  it('its table of routes, as text and as JSON, is the kernel’s', () => {
    const text = stateOf([
      { record: 'a', kind: 'routes', text: show('show ip route') },
      { record: 'b', kind: 'routes6', text: show('show ipv6 route') },
    ])
    const json = stateOf([
      { record: 'a', kind: 'routes', text: show('show ip route json') },
      { record: 'b', kind: 'routes6', text: show('show ipv6 route json') },
    ])
    const kernel = stateOf([
      { record: 'k', kind: 'routes', text: within('ip', '-j', 'route', 'show', 'table', 'all') },
      { record: 'l', kind: 'routes', text: within('ip', '-6', '-j', 'route', 'show', 'table', 'all') },
    ])
    for (const { records } of [text, json, kernel])
      for (const { reason, unread } of records) expect([reason, unread]).to.deep.equal([null, []])
    const wanted = [...new Set(inUse(kernel.state))]
    expect(wanted).to.include.members([
      '10.99.0.0/16 discard',
      '192.0.2.0/24 10.40.7.2',
      '203.0.113.0/24 10.40.7.2 10.40.9.2',
      '10.40.7.0/24 ja0',
      '2001:db8:99::/48 2001:db8:7::2',
    ])
    expect([...new Set(inUse(text.state))]).to.deep.equal(wanted)
    expect([...new Set(inUse(json.state))]).to.deep.equal(wanted)
  })

  it('its interfaces are the kernel’s', () => {
    const own = stateOf([{ record: 'a', kind: 'interfaces', text: show('show interface') }]).state.interfaces
    const kernel = stateOf([{ record: 'k', kind: 'interfaces', text: within('ip', '-j', '-s', 'addr') }]).state
      .interfaces
    const brief = (list: DeviceState['interfaces']): unknown =>
      list
        .filter(({ name }) => name.startsWith('j'))
        .map(({ name, admin, oper, mtu, mac, addresses }) => ({
          name,
          admin,
          oper,
          mtu,
          mac,
          addresses: addresses.toSorted(),
        }))
        .toSorted((a, b) => (a.name < b.name ? -1 : 1))
    expect(brief(own)).to.deep.equal(brief(kernel))
    expect(kernel.every(({ counters }) => counters.inOctets !== null)).to.equal(true)
  })

  it('the file that each daemon writes for itself is read without loss, and together they say what the listing says', () => {
    writeFileSync(join(folder, 'vtysh.conf'), 'no service integrated-vtysh-config\n')
    // Where the daemons read no file of their own they have none to write: what each would write is what it lists.
    const files = ['zebra', 'staticd', 'ospfd', 'bgpd'].map((daemon) =>
      execFileSync('vtysh', ['--vty_socket', folder, '-d', daemon, '-c', 'show running-config'], { encoding: 'utf8' }),
    )
    const models = files.map((text) => {
      const { model, unread, faults } = modelled(text)
      expect([faults, unread], text).to.deep.equal([[], []])
      return model
    })
    const whole = modelled(show('show running-config')).model
    expect(models.flatMap(({ staticRoutes }) => staticRoutes)).to.deep.equal(whole.staticRoutes)
    expect(models.flatMap(({ ospf }) => ospf)).to.deep.equal(whole.ospf)
    expect(models.flatMap(({ bgp }) => bgp)).to.deep.equal(whole.bgp)
    const addresses = (all: readonly DeviceModel[]): string[] =>
      all
        .flatMap(({ interfaces }) =>
          interfaces.flatMap(({ name, addresses }) => addresses.map(({ address }) => `${name} ${address}`)),
        )
        .toSorted()
    expect(addresses(models)).to.deep.equal(addresses([whole]))
  })

  it('rules of the kernel for choosing a table, and its settings, are what was entered', () => {
    within('ip', 'rule', 'add', 'from', '10.40.9.0/24', 'lookup', '77', 'priority', '900')
    within(
      'sysctl',
      '-w',
      'net.ipv4.conf.all.rp_filter=1',
      'net.ipv4.conf.all.accept_source_route=0',
      'net.ipv4.conf.ja0.rp_filter=2',
      'net.ipv4.conf.all.send_redirects=0',
      'net.ipv4.conf.ja0.send_redirects=0',
    )
    within('ip6tables', '-A', 'INPUT', '-s', '2001:db8:7::/64', '-p', 'tcp', '--dport', '22', '-j', 'ACCEPT')
    const linux = dialectById('linux')
    if (!linux) throw new Error('the dialect of saved rules is missing')
    const records: ReadRecord[] = [
      { id: 'filters', kind: 'config', tree: linux.read(within('iptables-save')) },
      { id: 'filters6', kind: 'filters6', tree: linux.read(within('ip6tables-save')) },
      { id: 'sysctl', kind: 'sysctl', tree: null, text: within('sysctl', '-a') },
      ...(['addr', 'link', 'rule'] as const).map((what): ReadRecord => ({
        id: what,
        kind: `state/${what}`,
        tree: null,
        text: within('ip', '-j', what),
      })),
      { id: 'routes', kind: 'state/routes', tree: null, text: within('ip', '-j', 'route', 'show', 'table', 'all') },
    ]
    const judged = judgedRecord(records)
    if (!judged) throw new Error('no record to judge')
    const { model, unread, origins } = modelOfDevice(EffectiveConfig.of(judged.tree, linux), judged, records, () => '')
    expect(unread).to.deep.equal([])
    expect(stateOfDevice(records).state.policyRules).to.deep.include({
      priority: 900,
      source: '10.40.9.0/24',
      destination: null,
      interface: null,
      table: '77',
      action: null,
      notWeighed: [],
    })
    const [quay, other] = ['ja0', 'jb0'].map((name) => model.interfaces.find((one) => one.name === name))
    // The higher of what is set for all and for the one counts (the kernel's ip-sysctl documentation).
    expect([quay?.reversePath, quay?.redirects, other?.reversePath]).to.deep.equal(['loose', false, 'strict'])
    expect(quay?.addresses.map(({ address }) => address)).to.include.members(['10.40.7.1', '2001:db8:7::1'])
    expect(model.system.services.sourceRouting.enabled).to.equal(false)
    expect(originOf(origins, 'system.services.sourceRouting.enabled')).to.have.property('record', 'sysctl')
    expect(
      model.accessLists
        .find(({ name, family }) => name === 'filter INPUT' && family === 'ipv6')
        ?.entries.map(({ sources, destinationPorts }) => [sources, destinationPorts]),
    ).to.deep.equal([[['2001:db8:7::/64'], [[22, 22]]]])
    expect(model.staticRoutes.map(({ prefix }) => prefix)).to.include.members(['10.99.0.0/16', '192.0.2.0/24'])
  })

  it('filter rules that were entered are the rules that are read from what iptables-save writes', () => {
    const rules = [
      '-A INPUT -s 10.40.1.0/27 -p tcp --dport 22 -j ACCEPT',
      '-A INPUT -p udp -m multiport --dports 53,123 -j ACCEPT',
      '-A INPUT -p icmp --icmp-type echo-request -j DROP',
      '-A FORWARD -s 10.40.0.0/16 -d 192.0.2.0/24 -m comment --comment "to the carrier" -j ACCEPT',
    ]
    within('iptables', '-P', 'INPUT', 'DROP')
    for (const rule of rules)
      within('iptables', ...(rule.match(/"[^"]*"|\S+/g) ?? []).map((word) => word.replace(/"/g, '')))
    const saved = within('iptables-save')
    const dialect = dialectById('linux')
    if (!dialect) throw new Error('the dialect of saved rules is missing')
    const tree = dialect.read(saved)
    expect(writeTree(tree)).to.equal(saved)
    const { model, unread, faults } = modelOf(EffectiveConfig.of(tree, dialect), { record: 'r', mask: () => '' })
    expect([unread, faults]).to.deep.equal([[], []])
    expect(
      model.accessLists.map(({ name, defaultAction, entries }) => [
        name,
        defaultAction,
        entries.map(
          ({ action, protocols, sources, destinations, destinationPorts, icmpTypes, remark, notWeighed }) => ({
            action,
            protocols,
            sources,
            destinations,
            destinationPorts,
            icmpTypes,
            remark,
            notWeighed,
          }),
        ),
      ]),
    ).to.deep.equal([
      [
        'filter INPUT',
        'deny',
        [
          {
            action: 'permit',
            protocols: [[6, 6]],
            sources: ['10.40.1.0/27'],
            destinations: [],
            destinationPorts: [[22, 22]],
            icmpTypes: [],
            remark: null,
            notWeighed: [],
          },
          {
            action: 'permit',
            protocols: [[17, 17]],
            sources: [],
            destinations: [],
            destinationPorts: [
              [53, 53],
              [123, 123],
            ],
            icmpTypes: [],
            remark: null,
            notWeighed: [],
          },
          {
            action: 'deny',
            protocols: [[1, 1]],
            sources: [],
            destinations: [],
            destinationPorts: [],
            icmpTypes: [[8, 8]],
            remark: null,
            notWeighed: [],
          },
        ],
      ],
      [
        'filter FORWARD',
        'permit',
        [
          {
            action: 'permit',
            protocols: [],
            sources: ['10.40.0.0/16'],
            destinations: ['192.0.2.0/24'],
            destinationPorts: [],
            icmpTypes: [],
            remark: 'to the carrier',
            notWeighed: [],
          },
        ],
      ],
      ['filter OUTPUT', 'permit', []],
    ])
  })
})

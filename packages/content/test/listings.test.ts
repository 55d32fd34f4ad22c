import { expect } from 'chai'
import { auditDevice, prepare, type Verdict } from '@jurybox/core'
import type { ReadRecord } from '@jurybox/core/state'
import { benchmark, dialect, mask } from './hardening.ts'

const audited = (id: string, records: readonly ReadRecord[]): Map<string, Verdict> =>
  new Map(
    auditDevice('device', dialect(id), records, [prepare({ benchmark, profile: null, values: {} })], mask).map(
      (verdict) => [verdict.rule, verdict],
    ),
  )

describe('listings that show defaults', () => {
  const ordinary =
    'hostname a\ninterface GigabitEthernet0/1\n ip address 10.40.7.1 255.255.255.0\nline vty 0 4\n transport input ssh\n'
  const full = `${ordinary}no ip http server\nip source-route\n`
  const record = (kind: string, text: string): ReadRecord => ({ id: kind, kind, tree: dialect('indented').read(text) })

  const cases: { rule: string; ordinary: Verdict['outcome']; full: Verdict['outcome']; why: string }[] = [
    { rule: 'http-server-off', ordinary: 'fail', full: 'pass', why: 'the default is shown' },
    {
      rule: 'https-server-off-or-strong',
      ordinary: 'unknown',
      full: 'notapplicable',
      why: 'the software has no such server',
    },
    { rule: 'bootp-server-off', ordinary: 'fail', full: 'notapplicable', why: 'the software has no such server' },
    { rule: 'rsh-off', ordinary: 'pass', full: 'notapplicable', why: 'the software has no such service' },
    { rule: 'source-route-off', ordinary: 'fail', full: 'fail', why: 'it is shown to be on' },
    { rule: 'vty-ssh-only', ordinary: 'pass', full: 'pass', why: 'both state it' },
  ]
  for (const { rule, ordinary: is, full: becomes, why } of cases) {
    it(`${rule}: ${is}, with defaults ${becomes}, since ${why}`, () => {
      expect(audited('indented', [record('config', ordinary)]).get(rule)?.outcome).to.equal(is)
      const both = audited('indented', [record('config', ordinary), record('config.full', full)]).get(rule)
      expect(both?.outcome, both?.note).to.equal(becomes)
      for (const { record: shown } of both?.exhibits ?? []) expect(shown).to.equal('config.full')
    })
  }

  it('what is saved is compared with the ordinary listing, not with all the defaults', () => {
    const verdict = audited('indented', [
      record('config', ordinary),
      record('config.full', full),
      record('config.saved', ordinary),
    ]).get('saved-equals-running')
    expect(verdict?.outcome, verdict?.note).to.equal('pass')
  })
})

describe('a Linux gateway', () => {
  const rules = (...lines: string[]): ReadRecord => ({
    id: 'filters',
    kind: 'config',
    tree: dialect('linux').read(`*filter\n:INPUT DROP [0:0]\n${lines.map((line) => `${line}\n`).join('')}COMMIT\n`),
  })
  const settings = (text: string): ReadRecord => ({ id: 'sysctl', kind: 'sysctl', tree: null, text })
  const ports = (address: string): ReadRecord => ({
    id: 'ports',
    kind: 'state/interfaces',
    tree: null,
    text: JSON.stringify([
      { ifname: 'eth0', flags: ['UP'], mtu: 1500, operstate: 'UP', addr_info: [{ local: address, prefixlen: 24 }] },
    ]),
  })
  const ssh = '-A INPUT -s 10.40.1.0/27 -p tcp -m tcp --dport 22 -j ACCEPT'

  const cases: {
    name: string
    rule: string
    records: readonly ReadRecord[]
    is: Verdict['outcome']
    branch: string
  }[] = [
    {
      name: 'logins from chosen addresses',
      rule: 'vty-access-class',
      records: [rules('-A INPUT -i lo -j ACCEPT', '-A INPUT -m state --state ESTABLISHED -j ACCEPT', ssh)],
      is: 'pass',
      branch: 'filtered',
    },
    {
      name: 'logins from everywhere',
      rule: 'vty-access-class',
      records: [rules('-A INPUT -p tcp -m tcp --dport 22 -j ACCEPT')],
      is: 'fail',
      branch: 'open',
    },
    {
      name: 'everything from everywhere',
      rule: 'vty-access-class',
      records: [rules('-A INPUT -j ACCEPT')],
      is: 'fail',
      branch: 'open',
    },
    {
      name: 'trap: ports around the one of logins',
      rule: 'vty-access-class',
      records: [rules('-A INPUT -p tcp -m multiport --dports 20:30 -j ACCEPT')],
      is: 'fail',
      branch: 'open',
    },
    {
      name: 'trap: another service from everywhere',
      rule: 'vty-access-class',
      records: [rules('-A INPUT -p tcp -m tcp --dport 443 -j ACCEPT', ssh)],
      is: 'pass',
      branch: 'filtered',
    },
    {
      name: 'IPv6 is not filtered',
      rule: 'vty-access-class',
      records: [rules(ssh), ports('2001:db8:7::1')],
      is: 'fail',
      branch: 'ipv6-open',
    },
    {
      name: 'silent: the settings were not captured',
      rule: 'source-route-off',
      records: [rules(ssh)],
      is: 'unknown',
      branch: 'not-captured',
    },
    {
      name: 'dropped',
      rule: 'source-route-off',
      records: [rules(ssh), ports('10.40.7.1'), settings('net.ipv4.conf.all.accept_source_route = 0\n')],
      is: 'pass',
      branch: 'off',
    },
    {
      name: 'trap: accepted on one interface and not for all',
      rule: 'source-route-off',
      records: [
        rules(ssh),
        ports('10.40.7.1'),
        settings('net.ipv4.conf.eth0.accept_source_route = 1\nnet.ipv4.conf.all.accept_source_route = 0\n'),
      ],
      is: 'pass',
      branch: 'off',
    },
    {
      name: 'accepted',
      rule: 'source-route-off',
      records: [
        rules(ssh),
        ports('10.40.7.1'),
        settings('net.ipv4.conf.eth0.accept_source_route = 1\nnet.ipv4.conf.all.accept_source_route = 1\n'),
      ],
      is: 'fail',
      branch: 'on',
    },
    {
      name: 'ARP for itself only',
      rule: 'proxy-arp-off',
      records: [rules(ssh), ports('10.40.7.1'), settings('net.ipv4.conf.eth0.proxy_arp = 0\n')],
      is: 'pass',
      branch: 'off',
    },
    {
      name: 'trap: set for all',
      rule: 'proxy-arp-off',
      records: [
        rules(ssh),
        ports('10.40.7.1'),
        settings('net.ipv4.conf.eth0.proxy_arp = 0\nnet.ipv4.conf.all.proxy_arp = 1\n'),
      ],
      is: 'fail',
      branch: 'on',
    },
  ]
  for (const { name, rule, records, is, branch } of cases) {
    it(`${rule}, ${name}: ${is}`, () => {
      const verdict = audited('linux', records).get(rule)
      expect([verdict?.outcome, verdict?.branch], verdict?.note).to.deep.equal([is, branch])
      if (is === 'fail') expect(verdict?.remedy).to.have.property('words')
      expect((verdict?.exhibits.length ?? 0) + (verdict?.missing.length ?? 0)).to.be.above(0)
    })
  }
})

describe('data of YANG models', () => {
  const data = (value: object): ReadRecord[] => [
    { id: 'config', kind: 'config', tree: dialect('data').read(JSON.stringify(value, null, 1)) },
  ]
  const port = (more: object): object => ({
    'ietf-interfaces:interfaces': { interface: [{ name: 'eth0', type: 'iana-if-type:ethernetCsmacd', ...more }] },
  })
  const list = (...aces: object[]): object => ({
    ...port({ description: 'Carrier uplink' }),
    'ietf-access-control-list:acls': {
      acl: [{ name: 'IN', type: 'ipv4-acl-type', aces: { ace: aces } }],
      'attachment-points': {
        interface: [{ 'interface-id': 'eth0', ingress: { 'acl-sets': { 'acl-set': [{ name: 'IN' }] } } }],
      },
    },
  })
  const ace = (name: string, source: string | null, forwarding: string): object => ({
    name,
    matches: source === null ? {} : { ipv4: { 'source-ipv4-network': source } },
    actions: { forwarding: `ietf-access-control-list:${forwarding}` },
  })

  const cases: { name: string; rule: string; config: object; is: Verdict['outcome'] }[] = [
    { name: 'unused and enabled', rule: 'unused-ports-down', config: port({ enabled: true }), is: 'fail' },
    { name: 'unused and disabled', rule: 'unused-ports-down', config: port({ enabled: false }), is: 'pass' },
    { name: 'silent: in use', rule: 'unused-ports-down', config: port({ description: 'desk' }), is: 'notapplicable' },
    { name: 'no policy', rule: 'bogons-filtered', config: port({ description: 'Carrier uplink' }), is: 'fail' },
    {
      name: 'only what is named gets in',
      rule: 'bogons-filtered',
      config: list(ace('a', '8.8.0.0/16', 'accept'), ace('z', null, 'drop')),
      is: 'pass',
    },
    {
      name: 'a prefix gets in',
      rule: 'bogons-filtered',
      config: list(ace('a', '10.0.0.0/8', 'accept'), ace('z', null, 'drop')),
      is: 'fail',
    },
    {
      name: 'an order of methods',
      rule: 'aaa-login',
      config: {
        'ietf-system:system': {
          authentication: { 'user-authentication-order': ['ietf-system:radius', 'ietf-system:local-users'] },
        },
      },
      is: 'pass',
    },
    { name: 'silent', rule: 'aaa-login', config: { 'ietf-system:system': { hostname: 'a' } }, is: 'fail' },
  ]
  for (const { name, rule, config, is } of cases) {
    it(`${rule}, ${name}: ${is}`, () => {
      const verdict = audited('data', data(config)).get(rule)
      expect(verdict?.outcome, verdict?.note).to.equal(is)
    })
  }
})

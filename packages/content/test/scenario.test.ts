import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { parse } from 'yaml'
import {
  auditSnapshot,
  fingerprintWithKey,
  maskWithKey,
  readBenchmark,
  readSnapshot,
  type AuditDocument,
  type Snapshot,
} from '@jurybox/core'
import { benchmarkTexts } from '../src/index.ts'

const scenario = fileURLToPath(new URL('../../../scenario', import.meta.url))
const folder = join(scenario, '2026-11-16')
const files = readdirSync(folder, { recursive: true, withFileTypes: true })
  .filter((entry) => entry.isFile())
  .map((entry) => join(entry.parentPath, entry.name))
const snapshot: Snapshot = readSnapshot(
  files.map((path) => ({ path: path.slice(folder.length + 1), bytes: readFileSync(path) })),
)
const facts = parse(readFileSync(join(scenario, 'engagement.yaml'), 'utf8')) as {
  fittings: Record<string, { profile: string; values: Record<string, string[]> }>
}
const fitting = facts.fittings['network-hardening']
const audit: AuditDocument = auditSnapshot(
  snapshot,
  [
    {
      benchmark: readBenchmark(benchmarkTexts()[0]?.text ?? ''),
      profile: fitting?.profile ?? null,
      values: fitting?.values ?? {},
    },
  ],
  { build: 'test', mask: maskWithKey(new Uint8Array(32)), fingerprint: fingerprintWithKey(new Uint8Array(32)) },
)
const failing = (device: string): string[] =>
  audit.verdicts.filter((v) => v.device === device && v.outcome === 'fail').map((v) => v.rule)

describe('the demo scenario', () => {
  it('holds at least twelve devices of 80 to 410 lines, all read', () => {
    expect(snapshot.refused).to.deep.equal([])
    expect(snapshot.devices.length).to.be.at.least(12)
    // A gateway's filter rules are short; everything else is a whole listing.
    for (const device of audit.devices)
      expect(device.lines, device.name).to.be.within(device.dialect === 'linux' ? 20 : 80, 410)
  })

  it('has lines of a feature that nobody knows at the dry dock only, and few that no reader used elsewhere', () => {
    const unknown = snapshot.devices.map(({ name, records }) => [
      name,
      records.filter(({ kind }) => kind === 'config').reduce((sum, { tree }) => sum + (tree?.unread.length ?? 0), 0),
    ])
    expect(unknown.filter(([, count]) => count !== 0)).to.deep.equal([['dd-sw1', 2]])
    for (const { name, unread, lines } of audit.devices) expect(unread / lines, name).to.be.below(0.07)
    expect(audit.devices.find(({ name }) => name === 'dd-sw1')?.unread).to.be.at.least(2)
  })

  // The troubles that were planted, device by device.
  const planted: Record<string, string[]> = {
    'ops-core1': [],
    // The dry dock says that its second uplink ends at another port than the core says.
    'ops-core2': ['saved-equals-running', 'addresses-unique', 'links-vlans'],
    'ops-edge1': ['lldp-not-outside', 'bgp-ttl-security', 'ike-version-2'],
    'ops-acc1': ['access-ports-authenticated'],
    'dd-gw1': ['log-source', 'lists-deny-logged'],
    'dd-fw1': [
      'vty-ssh-only',
      'idle-timeout',
      'login-lockout',
      'login-banner',
      'ssh-key-exchange',
      'ssh-macs',
      'users-strong-hash',
      'users-not-generic',
      'password-length',
      'log-two-hosts',
      'snmp-no-default-community',
      'snmp-v3-only',
      'ntp-authenticated',
      'redirects-off',
      'unused-ports-down',
    ],
    'ops-fw2': ['users-strong-hash', 'users-not-generic', 'http-server-off', 'log-two-hosts', 'ntp-authenticated'],
    'ops-fw1': ['log-source', 'reverse-path-checked', 'lists-deny-logged', 'lists-not-everything'],
    'qn-acc1': ['access-ports-authenticated'],
    'qn-acc2': ['vty-access-class', 'log-timestamps', 'logins-logged', 'access-ports-authenticated'],
    'qn-dist1': ['lists-deny-logged', 'addresses-unique'],
    'dd-sw1': [
      'users-strong-hash',
      'login-lockout',
      'log-remote',
      'unused-ports-down',
      'password-length',
      'log-source',
      'logins-logged',
      'access-ports-authenticated',
      'links-vlans',
    ],
    'ves-petrel': [
      'lldp-not-outside',
      'reverse-path-checked',
      'lists-deny-logged',
      'lists-not-everything',
      'ike-version-2',
    ],
    'ves-tern': [
      'lldp-not-outside',
      'reverse-path-checked',
      'lists-deny-logged',
      'lists-not-everything',
      'ike-version-2',
    ],
    'ves-gannet': [
      'users-strong-hash',
      'ntp-authenticated',
      'proxy-arp-off',
      'bogons-filtered',
      'lldp-not-outside',
      'redirects-off',
      'unreachables-off-outside',
      'reverse-path-checked',
      'lists-deny-logged',
      'lists-not-everything',
      'ike-version-2',
      'tunnels-protected',
    ],
    'ops-edge2': [
      'source-route-off',
      'idle-timeout',
      'proxy-arp-off',
      'unused-ports-down',
      'bogons-filtered',
      'lldp-not-outside',
      'bgp-ttl-security',
      'redirects-off',
      'unreachables-off-outside',
      'ike-version-2',
    ],
  }
  for (const [device, rules] of Object.entries(planted))
    it(`${device}: ${rules.join(', ') || 'nothing'}`, () => expect(failing(device)).to.have.members(rules))

  it('one address is on a core and on a distribution switch, and Gannet’s tunnel is bare', () => {
    const twin = audit.verdicts.find(({ device, rule }) => device === 'ops-core2' && rule === 'addresses-unique')
    expect(twin?.extra).to.deep.equal(['10.40.110.1 on qn-dist1'])
    expect(failing('ves-gannet')).to.include('tunnels-protected')
  })

  it('Quay South logs in over clear text, and its access switch has a default community', () => {
    expect(failing('qs-dist1')).to.include('vty-ssh-only')
    expect(failing('qs-acc1')).to.include.members(['vty-ssh-only', 'snmp-no-default-community', 'log-remote'])
  })

  it('the gatehouse firewall at Quay South fails in its own dialect, with remedies typed as set lines', () => {
    expect(failing('qs-fw1')).to.have.members([
      'aaa-commands-recorded',
      'zone-policies-narrow',
      'http-server-off',
      'vty-ssh-only',
      'idle-timeout',
      'ssh-version-2',
      'enable-secret-strong',
      'users-strong-hash',
      'aaa-login',
      'login-lockout',
      'login-banner',
      'snmp-no-default-community',
      'snmp-v3-only',
      'ntp-servers',
      'ntp-authenticated',
      'log-timestamps',
      'proxy-arp-off',
      'bogons-filtered',
      'ssh-attempts',
      'root-login-denied',
      'password-length',
      'lldp-not-outside',
      'snmp-communities-restricted',
      'log-two-hosts',
      'log-source',
      'ospf-authenticated',
      'redirects-off',
      'reverse-path-checked',
      'ike-version-2',
    ])
    const telnet = audit.verdicts.find(({ device, rule }) => device === 'qs-fw1' && rule === 'vty-ssh-only')
    expect(telnet?.remedy).to.deep.include({
      commands: ['delete system services telnet'],
      rollback: ['set system services telnet connection-limit 5'],
    })
  })

  it('the words of its banners are never taken for commands', () => {
    const verdict = audit.verdicts.find((v) => v.device === 'ops-core1' && v.rule === 'http-server-off')
    expect(verdict?.exhibits).to.have.length(1)
    expect(verdict?.exhibits[0]?.text).to.equal('no ip http server')
  })
})

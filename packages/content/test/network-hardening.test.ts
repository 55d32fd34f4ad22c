import { expect } from 'chai'
import { auditDevice, prepare, readSnapshot, type Snapshot, type Verdict } from '@jurybox/core'
import { tryExamples } from '@jurybox/core/audit'
import { benchmark, dialect, mask } from './hardening.ts'

interface One {
  readonly name: string
  readonly config: string
  readonly is: string
  readonly values?: Readonly<Record<string, string | number | readonly string[]>>
}
function verdictFor(rule: string, one: One, id: string, form: (config: string) => string): Verdict {
  const records = [{ id: 'config.txt', kind: 'config', tree: dialect(id).read(form(one.config)) }]
  const verdict = auditDevice(
    'device',
    dialect(id),
    records,
    [prepare({ benchmark, profile: null, values: one.values ?? {} })],
    mask,
  ).find((v) => v.rule === rule)
  if (!verdict) throw new Error(`no verdict for ${rule}`)
  return verdict
}

describe('network-hardening', () => {
  it('every rule stands under a topic of the benchmark', () => {
    for (const { source } of benchmark.rules) expect(benchmark.source.topics).to.include(source.topic)
  })

  it('names a remedy that may cut off management, and what to check first', () => {
    for (const rule of ['vty-ssh-only', 'aaa-login']) {
      const found = benchmark.rules.find(({ source }) => source.id === rule)
      const remedy =
        found &&
        tryExamples(benchmark, found).find(({ example }) => example.is === 'fail' && example.dialect === 'indented')
          ?.verdict?.remedy
      expect(remedy).to.have.property('risk', 'session')
      expect(remedy).to.have.property('check').that.has.length.greaterThan(0)
    }
  })

  it('level-1 is a part of level-2', () => {
    const ids = (profile: string): string[] =>
      prepare({ benchmark, profile, values: {} }).rules.map((rule) => rule.source.id)
    expect(ids('level-2')).to.include.members(ids('level-1'))
    expect(ids('level-1')).to.not.include('snmp-v3-only')
  })

  it('masks secrets in everything it says', () => {
    const config =
      'snmp-server community sparrowhawk RO\nsnmp-server community public RW\nsnmp-server host 10.0.0.1 version 2c sparrowhawk\nusername ada password 0 sparrowhawk\nenable password sparrowhawk\nntp authenticate\nntp authentication-key 1 md5 sparrowhawk\n'
    const snapshot: Snapshot = readSnapshot([{ path: 'a.cfg', bytes: new TextEncoder().encode(config) }])
    expect(snapshot.devices).to.have.length(1)
    expect(
      JSON.stringify(
        auditDevice(
          'device',
          dialect('indented'),
          [{ id: 'config.txt', kind: 'config', tree: dialect('indented').read(config) }],
          [prepare({ benchmark, profile: null, values: { ntp_servers: ['10.0.0.1'] } })],
          mask,
        ),
      ),
    ).to.not.contain('sparrowhawk')
  })

  it('a rule that does not speak of a dialect is not checked, and says so', () => {
    const verdict = verdictFor(
      'http-server-off',
      { name: '', config: '{"ietf-system:system": {"hostname": "a"}}', is: 'notchecked' },
      'data',
      (config) => config,
    )
    expect(verdict).to.include({ outcome: 'notchecked', branch: 'other-dialect' })
    expect(verdict.note).to.include('data')
  })

  it('what a listing that is cut off does not show is not known to be absent', () => {
    const cut = (config: string, rule: string): Verdict =>
      verdictFor(rule, { name: '', config, is: 'unknown' }, 'braced', (text) => text)
    const config = 'system {\n    services {\n        telnet;\n    }\n    host-name a;\n'
    expect(cut(config, 'vty-ssh-only').outcome).to.equal('fail')
    for (const rule of [
      'http-server-off',
      'login-banner',
      'vty-access-class',
      'users-strong-hash',
      'proxy-arp-off',
      'log-remote',
    ]) {
      const verdict = cut(config, rule)
      expect(verdict.outcome, `${rule}: ${verdict.note}`).to.equal('unknown')
      expect(verdict.note, rule).to.match(/incomplete/)
    }
    expect(
      cut('system { services { web-management { https; } } }\ninterfaces {\n', 'https-server-off-or-strong').outcome,
    ).to.equal('unknown')
  })

  it('asks JSON data what it can: time servers and how passwords are kept', () => {
    const config =
      '{"ietf-system:system": {"hostname": "gw", "ntp": {"server": [{"name": "a", "udp": {"address": "10.40.0.11"}}]},\n "authentication": {"user": [{"name": "ada", "password": "$1$x"}]}}}'
    const own = (rule: string): Verdict =>
      verdictFor(
        rule,
        { name: '', config, is: 'fail', values: { ntp_servers: ['10.40.0.12'] } },
        'data',
        (text) => text,
      )
    expect(own('ntp-servers')).to.deep.include({ outcome: 'fail', missing: ['10.40.0.12'], extra: ['10.40.0.11'] })
    const users = own('users-strong-hash')
    expect(users.outcome).to.equal('fail')
    expect(users.exhibits[0]).to.deep.include({ from: 2, to: 2 })
    expect(users.exhibits[0]?.columns).to.have.length(2)
    expect(JSON.stringify(users)).to.not.include('$1$x')
    expect(own('http-server-off').outcome).to.equal('notchecked')
  })
})

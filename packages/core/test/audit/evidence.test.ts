import { auditSnapshot, readBenchmark, readSnapshot, type Verdict } from '@jurybox/core'
import { elsewhereIn, withElsewhere } from '@jurybox/core/audit'
import { expect } from 'chai'

const rule = (id: string, when: string): string => `
  - id: ${id}
    title: t
    topic: T
    statement: s
    severity: low
    profile: all
    dialects: [indented]
    decide:
      - { id: holds, when: ${when}, outcome: pass, note: n }
      - { id: not, outcome: fail, note: n }`
const benchmark = readBenchmark(`
id: evidence
version: "1"
title: Evidence
statement: s
profiles: [{ id: all, title: All }]
rules:${[
  rule('addresses', '{ unique: "interfaces.map(i, i.addresses.map(a, a.address))" }'),
  rule('domain', '{ same: system.domainName }'),
  rule('mtu', '{ ends: mtu }'),
  rule('associated', '{ model: "state.ntp.synchronised == true" }'),
  rule('routes', '{ change: { of: "state.routes.map(r, r.prefix)", is: unchanged } }'),
].join('')}
`)

type Files = Readonly<Record<string, string>>
const snapshotOf = (files: Files) =>
  readSnapshot(
    Object.entries({ 'snapshot.yaml': 'title: x\ntakenAt: 2026-11-16T06:00:00Z\n', ...files }).map(([path, text]) => ({
      path,
      bytes: new TextEncoder().encode(text),
    })),
  )
const citedBy = (id: string, device: string, files: Files, before?: Files): string[] => {
  const { verdicts } = auditSnapshot(snapshotOf(files), [{ benchmark, profile: 'all', values: {} }], {
    build: 'b',
    mask: () => 'masked',
    fingerprint: () => 'fingerprint',
    ...(before ? { before: snapshotOf(before) } : {}),
  })
  const found = verdicts.find((verdict) => verdict.rule === id && verdict.device === device)
  return (found?.exhibits ?? [])
    .filter(({ absent }) => !absent)
    .map(({ record, from, text }) => `${record}:${from} ${text.trim()}`)
}
const port = (name: string, address: string, mtu = 1500): string =>
  `hostname ${name}\nip domain name ${name}.example\ninterface Vlan1\n ip address ${address} 255.255.255.252\n mtu ${mtu}\n`

describe('the evidence of a verdict', () => {
  const twins = {
    'devices/a/config.txt': port('a', '10.0.0.1'),
    'devices/b/config.txt': `!\n${port('b', '10.0.0.1')}`,
    'devices/c/config.txt': port('c', '10.0.0.9'),
  }

  it('of a duplicate is the line on both devices, and on no other', () => {
    expect(citedBy('addresses', 'a', twins)).to.deep.equal([
      'devices/a/config.txt:4 ip address 10.0.0.1 255.255.255.252',
      'devices/b/config.txt:5 ip address 10.0.0.1 255.255.255.252',
    ])
    expect(citedBy('addresses', 'b', twins)).to.deep.equal([
      'devices/b/config.txt:5 ip address 10.0.0.1 255.255.255.252',
      'devices/a/config.txt:4 ip address 10.0.0.1 255.255.255.252',
    ])
  })

  it('of a value that differs is what the others state', () => {
    expect(citedBy('domain', 'a', twins)).to.deep.equal(
      ['a', 'b', 'c'].map(
        (name) => `devices/${name}/config.txt:${name === 'b' ? 3 : 2} ip domain name ${name}.example`,
      ),
    )
  })

  it('of a link is what both ends state', () => {
    const link = { 'devices/a/config.txt': port('a', '10.0.0.1', 9000), 'devices/b/config.txt': port('b', '10.0.0.2') }
    expect(citedBy('mtu', 'a', link)).to.deep.equal(
      ['a', 'b'].flatMap((name) => [
        `devices/${name}/config.txt:3 interface Vlan1`,
        `devices/${name}/config.txt:5 mtu ${name === 'a' ? 9000 : 1500}`,
      ]),
    )
  })

  it('of what a device does is the output that says it, not the configuration', () => {
    const output = 'Clock is unsynchronized, stratum 16, no reference clock'
    expect(
      citedBy('associated', 'a', {
        'devices/a/config.txt': 'hostname a\nntp server 10.0.0.1\n',
        'devices/a/state/ntp.txt': `${output}\n`,
      }),
    ).to.deep.equal([`devices/a/state/ntp.txt:1 ${output}`])
    const routes = (prefix: string): Files => ({
      'devices/a/config.txt': 'hostname a\n',
      'devices/a/state/routes.json': `[{"dst":"${prefix}","gateway":"10.0.0.1","dev":"eth0"}]`,
    })
    expect(
      citedBy('routes', 'a', routes('10.2.0.0/16'), routes('10.1.0.0/16')).map((line) => line.split(':')[0]),
    ).to.deep.equal(['devices/a/state/routes.json'])
  })

  it('of another device that the snapshot does not hold is left out', () => {
    const verdict = {
      exhibits: [
        { record: 'r', from: 1, to: 1, text: 'x' },
        { record: 'config', device: 'b', from: 2, to: 2, text: '' },
      ],
    } as unknown as Verdict
    expect(elsewhereIn([verdict])).to.deep.equal([{ device: 'b', kind: 'config' }])
    expect(withElsewhere([verdict], () => null)[0]?.exhibits).to.deep.equal([
      { record: 'r', from: 1, to: 1, text: 'x' },
    ])
    expect(withElsewhere([verdict], () => ({ id: '7', text: () => 'hostname b' }))[0]?.exhibits[1]).to.deep.equal({
      record: '7',
      device: 'b',
      from: 2,
      to: 2,
      text: 'hostname b',
    })
  })
})

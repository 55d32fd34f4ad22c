import { auditSnapshot, fingerprintWithKey, maskWithKey, readBenchmark, readSnapshot } from '@jurybox/core'
import { expect } from 'chai'
import { benchmarkTexts } from '../src/index.ts'

const snapshotOf = (files: Readonly<Record<string, string>>) =>
  readSnapshot(Object.entries(files).map(([path, text]) => ({ path, bytes: new TextEncoder().encode(text) })))

describe('commands that are offered', () => {
  const hardening = readBenchmark(
    benchmarkTexts().find(({ text }) => text.includes('id: network-hardening'))?.text ?? '',
  )
  const commandsFor = (id: string, config: string): string[] => {
    const { verdicts } = auditSnapshot(
      snapshotOf({ 'devices/a/config.txt': config }),
      [{ benchmark: hardening, profile: null, values: {} }],
      { build: 'b', mask: maskWithKey(new Uint8Array(32)), fingerprint: fingerprintWithKey(new Uint8Array(32)) },
    )
    const remedy = verdicts.find((verdict) => verdict.rule === id)?.remedy
    return remedy && 'commands' in remedy ? [...remedy.commands, ...remedy.rollback] : []
  }

  it('can be typed: a secret is a placeholder with its name and the number of its mark', () => {
    const commands = commandsFor('snmp-no-default-community', 'hostname a\nsnmp-server community public RO\n')
    expect(commands).to.not.have.length(0)
    expect(commands.join('\n'))
      .to.match(/<community [0-9a-f]{8}>/)
      .and.not.contain('‹')
    const masked = auditSnapshot(
      snapshotOf({ 'devices/a/config.txt': 'hostname a\nsnmp-server community public RO\n' }),
      [{ benchmark: hardening, profile: null, values: {} }],
      { build: 'b', mask: maskWithKey(new Uint8Array(32)), fingerprint: fingerprintWithKey(new Uint8Array(32)) },
    )
    const print = /<community ([0-9a-f]{8})>/.exec(commands.join('\n'))?.[1] ?? ''
    expect(
      JSON.stringify(masked.verdicts.find(({ rule: id }) => id === 'snmp-no-default-community')?.exhibits),
      'the mark of the line',
    ).to.contain(`‹secret:${print}›`)
  })

  it('ask once for what several parts of a device need', () => {
    const lines = ['line vty 0 4', ' transport input telnet', 'line vty 5 15', ' transport input telnet']
    const commands = commandsFor('vty-ssh-only', ['hostname a', ...lines, ''].join('\n'))
    expect(commands.filter((command) => command === 'ip ssh version 2')).to.have.length(1)
    expect(commands.filter((command) => command.trim() === 'transport input ssh')).to.have.length(2)
  })

  it('say what their rollback does not bring back', () => {
    const { verdicts } = auditSnapshot(
      snapshotOf({ 'devices/a/config.txt': 'hostname a\n' }),
      [{ benchmark: hardening, profile: null, values: {} }],
      { build: 'b', mask: () => 'm', fingerprint: () => 'f' },
    )
    const remedy = verdicts.find(({ rule: id }) => id === 'password-encryption')?.remedy
    expect(remedy && 'unrestored' in remedy ? remedy.unrestored : null).to.contain('stays obscured')
  })

  it('say what comes back with a part that they activate', () => {
    const { verdicts } = auditSnapshot(
      snapshotOf({
        'devices/a/config.txt':
          'set system host-name a\nset system syslog time-format millisecond\nset system syslog host 10.0.0.1 any any\ndeactivate system syslog\n',
      }),
      [{ benchmark: hardening, profile: null, values: {} }],
      { build: 'b', mask: () => 'm', fingerprint: () => 'f' },
    )
    const remedy = verdicts.find(({ rule: id }) => id === 'log-timestamps')?.remedy
    expect(remedy && 'check' in remedy ? remedy.check.join() : '').to.contain(
      '“system syslog” is deactivated, and is activated with all that is in it (2 statements)',
    )
  })
})

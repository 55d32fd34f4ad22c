import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { expect } from 'chai'
import fc from 'fast-check'
import { unifiedDiff } from '@jurybox/core/compare'
import { compareCommand } from '../src/compare.ts'
import { referenceCommand } from '../src/reference.ts'

const CORE =
  'hostname core\ninterface lan\n ip address 10.1.0.1 255.255.255.0\n' +
  ' ip access-group IN in\ninterface pair\n ip address 10.9.0.1 255.255.255.252\n' +
  'ip route 10.2.0.0 255.255.255.0 10.9.0.2\nip access-list extended IN\n' +
  ' permit tcp any any eq 443\n deny ip any any\nsnmp-server community sparrowhawk RO\n'
const FAR =
  'hostname far\ninterface pair\n ip address 10.9.0.2 255.255.255.252\n' +
  'interface lan\n ip address 10.2.0.1 255.255.255.0\n'
const ARP =
  'Protocol  Address          Age (min)  Hardware Addr   Type   Interface\n' +
  'Internet  10.1.0.9         3          0011.2233.4455  ARPA   lan\n'

describe('jurybox compare and reference', () => {
  let folder = ''
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-compare-'))
    for (const side of ['a', 'b']) {
      write(`${side}/snapshot.yaml`, `title: Side ${side}\ntakenAt: 2026-11-20T06:00:00Z\n`)
      write(`${side}/devices/core/config.txt`, CORE)
      write(`${side}/devices/core/state/arp.txt`, ARP)
      write(`${side}/devices/far/config.txt`, FAR)
    }
  })
  afterEach(() => rmSync(folder, { recursive: true, force: true }))
  function write(path: string, text: string): string {
    const whole = join(folder, path)
    mkdirSync(dirname(whole), { recursive: true })
    writeFileSync(whole, text)
    return whole
  }
  type Command = typeof compareCommand
  function run(command: Command, ...args: string[]): { status: number; out: string; err: string } {
    let [out, err] = ['', '']
    const status = command(args, { stdout: (text) => (out += text), stderr: (text) => (err += text) })
    return { status, out, err }
  }
  const compare = (...more: string[]): ReturnType<typeof run> =>
    run(compareCommand, join(folder, 'a'), join(folder, 'b'), ...more)
  const open = (): void => {
    write(
      'b/devices/core/config.txt',
      CORE.replace(' deny ip', ' permit tcp any any eq 8080\n deny ip').replace('sparrowhawk', 'goshawk'),
    )
    write('b/devices/core/state/arp.txt', ARP.replace('10.1.0.9 ', '10.1.0.8 '))
  }

  it('two equal snapshots: nothing, exit status 0', () => {
    const { status, out } = compare()
    expect(status).to.equal(0)
    expect(out).to.contain('0 of 2 devices changed').and.contain('Devices without a change\n  core, far')
  })

  it('says what changed, what it means for packets, and which rows', () => {
    open()
    const { status, out } = compare('--flows')
    expect(status).to.equal(1)
    expect(out).to.contain('access list IN (lan in): now also permits ip and tcp and dst port 8080')
    expect(out).to.contain('+ ip access-list extended IN › permit tcp any any eq 8080')
    expect(out)
      .to.contain('resolved address lan 10.1.0.8: appeared')
      .and.contain('resolved address lan 10.1.0.9: vanished')
    expect(out).to.match(/10\.1\.0\.0\/24.* to .*10\.2\.0\.0\/24.*stopped → arrives/)
    expect(out).not.to.match(/sparrowhawk|goshawk/)
  })

  it('as JSON, HTML and Markdown', () => {
    open()
    const document = JSON.parse(compare('--format', 'json', '--devices', 'core').out) as {
      devices: { name: string; standing: string; comparison: { accessLists: { list: string }[] } }[]
    }
    expect(document.devices.map(({ name, standing }) => [name, standing])).to.deep.equal([['core', 'changed']])
    expect(document.devices[0]?.comparison.accessLists[0]?.list).to.equal('IN')
    expect(compare('--format', 'html').out)
      .to.match(/^<!doctype html>/)
      .and.contain('permit tcp any any eq 8080')
    expect(compare('--format', 'markdown').out).to.contain('## core: lines')
  })

  it('runs checks of a set or of a file; their outcome is the exit status', () => {
    open()
    const { status, out } = compare('--checks', 'filter-change')
    expect(status).to.equal(1)
    expect(out).to.contain('fail: Every connection has the fate it had')
    const file = write(
      'checks.yaml',
      'checks:\n- { id: c, title: Addresses are there, topic: T, of: state.addresses, is: kept }\n' +
        'sets:\n- { id: s, title: S, checks: [c, users-no-new] }\n',
    )
    const own = compare('--checks', file)
    expect(own.status).to.equal(1)
    expect(own.out).to.contain('fail: Addresses are there').and.contain('lan 10.1.0.9: vanished, present → -')
    const quiet = write(
      'quiet.yaml',
      'checks:\n- { id: c, title: No new user, topic: T, of: model.system.users, is: no-new }\n',
    )
    expect(compare('--checks', quiet).status).to.equal(0)
  })

  it('two devices of whatever names, and two listings of one', () => {
    const [one, other] = [write('one.cfg', CORE), write('other.cfg', CORE.replace('hostname core', 'hostname twin'))]
    const twins = run(compareCommand, one, other)
    expect(twins.status).to.equal(1)
    expect(twins.out).to.contain('core and twin').and.contain('hostname core → twin')
    write('a/devices/core/config.saved.txt', CORE.replace('ip route', 'ip route vrf x'))
    const listings = run(
      compareCommand,
      join(folder, 'a'),
      join(folder, 'a'),
      '--devices',
      'core',
      '--listing-a',
      'config.saved',
    )
    expect(listings.status).to.equal(2)
    expect(listings.err).to.contain('far has no record "config.saved"')
    rmSync(join(folder, 'a/devices/far'), { recursive: true })
    const saved = run(compareCommand, join(folder, 'a'), join(folder, 'a'), '--listing-a', 'config.saved')
    expect(saved.out).to.contain('+ ip route 10.2.0.0')
  })

  it('noise of a file is left out', () => {
    write('b/devices/core/config.txt', `${CORE}snmp-server contact heron\n`)
    expect(compare().status).to.equal(1)
    const noise = write('noise.yaml', 'noise:\n- { id: contact, title: Contact, statement: ^snmp-server contact }\n')
    expect(compare('--noise', noise).status).to.equal(0)
  })

  for (const [name, args, wrong] of [
    ['one snapshot', ['x'], /name two snapshots/],
    ['a format', ['x', 'y', '--format', 'heron'], /unknown format "heron"/],
    ['a set', ['x', 'y', '--checks', 'heron'], /no set of checks "heron"/],
    ['a listing', ['x', 'y', '--listing-a', 'heron'], /unknown listing "heron"/],
    ['a file that is not there', ['x', 'y', '--noise', 'heron.yaml'], /heron\.yaml cannot be read/],
  ] as const)
    it(`refuses ${name}`, () => {
      const { status, err } = run(compareCommand, ...args)
      expect(status).to.equal(2)
      expect(err).to.match(wrong)
    })

  // Debian's patch is the judge of what is a unified difference.
  it('unified output applies with patch', () => {
    open()
    const { out } = compare('--format', 'unified', '--devices', 'core')
    expect(out).to.contain('--- a/core').and.contain('+ permit tcp any any eq 8080')
    const text = (): fc.Arbitrary<string[]> =>
      fc.array(fc.constantFrom('a', 'b', 'c', '!', ' d', '-x', '+y', ''), { maxLength: 24 })
    fc.assert(
      fc.property(text(), text(), (a, b) => {
        const difference = unifiedDiff({ name: 'file', lines: a }, { name: 'file', lines: b })
        const body = (lines: readonly string[]): string => lines.map((line) => `${line}\n`).join('')
        if (difference === '') {
          expect(a).to.deep.equal(b)
          return
        }
        const [file, patch] = [write('file', body(a)), write('file.diff', difference)]
        execFileSync('patch', ['--silent', '--no-backup-if-mismatch', file, patch])
        // A file of which nothing is left is removed.
        expect(b.length === 0 ? '' : readFileSync(file, 'utf8')).to.equal(body(b))
      }),
      { numRuns: 60 },
    )
  })

  it('derives what devices have in common, as a file that devices are held to', () => {
    for (const name of ['s1', 's2', 's3', 's4', 's5'])
      write(
        `c/devices/${name}/config.txt`,
        `hostname ${name}\nntp authenticate\nntp server 10.40.0.1${name.slice(1)}\n` +
          `${name === 's5' ? 'ntp peer 192.0.2.1\n' : ''}`,
      )
    const file = join(folder, 'references.yaml')
    const derived = run(referenceCommand as Command, 'derive', join(folder, 'c'), '--feature', 'ntp', '--out', file)
    expect(derived.status).to.equal(1)
    expect(run(referenceCommand as Command, 'derive', join(folder, 'c'), '--feature', 'ntp', '--format', 'text').out)
      .to.contain('ntp server <ntp_server>')
      .and.contain('outlier s5\n  extra: ntp peer 192.0.2.1')
    const held = run(referenceCommand as Command, 'check', join(folder, 'c'), '--references', file)
    expect(held.status).to.equal(1)
    expect(held.out)
      .to.contain('s1: ntp-indented: conforms')
      .and.contain('s5: ntp-indented: departs\n  extra: ntp peer 192.0.2.1')
    write('c/devices/s2/config.txt', 'hostname s2\nntp server 10.40.0.12\n')
    expect(
      run(referenceCommand as Command, 'check', join(folder, 'c'), '--references', file, '--devices', 's2').out,
    ).to.contain('missing: ntp authenticate\n  commands:\n    ntp authenticate')
    expect(run(referenceCommand as Command, 'check', join(folder, 'c')).status).to.equal(2)
    expect(run(referenceCommand as Command, 'derive', join(folder, 'c'), '--feature', 'heron').err).to.contain(
      'no feature "heron"',
    )
  })

  it('reference check: values of a benchmark are those of the fitting, its overrides included', () => {
    const references = write(
      'references.yaml',
      'references:\n- id: r\n  title: R\n  feature: NTP\n  dialect: indented\n' +
        '  values: { servers: { benchmark: network-hardening, value: ntp_servers } }\n' +
        "  parts: [{ lines: ['ntp server <servers>'] }]\n",
    )
    const fitting = write(
      'fitting.yaml',
      'benchmark: network-hardening\nvalues: { ntp_servers: [10.40.0.11] }\n' +
        `overrides: [{ title: Far, scope: 'device.name == "far"', values: { ntp_servers: [10.43.0.9] } }]\n`,
    )
    const { out } = run(referenceCommand, 'check', join(folder, 'a'), '--references', references, '--fitting', fitting)
    expect(out).to.contain('core: r: departs\n  missing: ntp server 10.40.0.11')
    expect(out).to.contain('far: r: departs\n  missing: ntp server 10.43.0.9')
  })
})

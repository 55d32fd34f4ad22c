import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { zipSync } from 'fflate'
import { auditDocumentSchema } from '@jurybox/core/audit'
import { deviceModelSchema } from '@jurybox/core/model'
import { auditCommand } from '../src/audit.ts'
import { readCommand } from '../src/read.ts'

const GOOD = `hostname good
no ip http server
no ip http secure-server
no ip bootp server
no ip source-route
service password-encryption
service timestamps log datetime msec localtime show-timezone
enable secret 9 $9$x
aaa new-model
aaa authentication login default local
login block-for 1800 attempts 5 within 60
banner login #Keep out#
ip ssh time-out 60
security passwords min-length 12
aaa accounting commands 15 default start-stop group tacacs+
login on-failure log
logging buffered 64000
logging host 10.0.0.5
ntp server 10.0.0.1
ntp server 10.0.0.2
ip domain name merrow.example
ip name-server 10.0.0.3
`

describe('jurybox audit', () => {
  let folder = ''
  beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'jurybox-cli-'))))
  afterEach(() => rmSync(folder, { recursive: true, force: true }))

  function run(...args: string[]): { status: number; out: string; err: string } {
    let [out, err] = ['', '']
    const status = auditCommand(args, { stdout: (text) => (out += text), stderr: (text) => (err += text) })
    return { status, out, err }
  }
  const put = (name: string, text: string | Uint8Array): string => {
    const path = join(folder, name)
    mkdirSync(join(path, '..'), { recursive: true })
    writeFileSync(path, text)
    return path
  }
  const chosen = ['--benchmark', 'network-hardening']

  it('takes a benchmark of one’s own, and a fitting, from files', () => {
    const own = put(
      'own.yaml',
      'id: own\ntitle: Own\nversion: 1.0.0\nstatement: s\ntopics: [t]\nprofiles: [{ id: base, title: Base }]\nvalues: { most: { type: int, title: Most, default: 1 } }\nrules:\n  - { id: named, title: Named, topic: t, severity: low, profile: base, statement: s, remedy: { words: w }, decide: [{ id: few, when: { expr: most > 1 }, outcome: pass, note: n }, { id: none, outcome: fail, note: n }] }\n',
    )
    const good = put('a/good.cfg', GOOD)
    const outcome = (...more: string[]): string =>
      (JSON.parse(run(good, '--benchmark', own, ...more).out) as { verdicts: { outcome: string }[] }).verdicts[0]
        ?.outcome ?? 'none'
    expect(outcome()).to.equal('fail')
    expect(outcome('--fitting', put('fit.yaml', 'benchmark: own\nprofile: base\nvalues: { most: 2 }\n'))).to.equal(
      'pass',
    )
    expect(
      outcome(
        '--fitting',
        put(
          'scoped.yaml',
          'benchmark: own\noverrides: [{ title: Here, scope: \'device.name == "good"\', values: { most: 2 } }]\n',
        ),
      ),
    ).to.equal('pass')
    expect(
      outcome(
        '--fitting',
        put('left.yaml', 'benchmark: own\ntailoring: [{ rule: named, selected: false, reason: not here }]\n'),
      ),
    ).to.equal('none')
  })

  it('2: a fitting or a benchmark that is wrong is named', () => {
    const good = put('a/good.cfg', GOOD)
    const wrong = (name: string, text: string): string => run(good, ...chosen, '--fitting', put(name, text)).err
    expect(wrong('1.yaml', 'benchmark: other\n')).to.contain(
      '"other" belongs to no selected benchmark (selected: network-hardening)',
    )
    expect(wrong('2.yaml', 'benchmark: network-hardening\nprofil: a\n'))
      .to.contain('2.yaml is not a fitting')
      .and.contain('profil')
    expect(wrong('3.yaml', 'benchmark: network-hardening\ntailoring: [{ rule: nowhere, reason: r }]\n')).to.contain(
      'has no rule "nowhere"',
    )
    expect(run(good, '--benchmark', put('4.yaml', 'id: x\n')).err).to.contain('4.yaml')
  })

  it('0: nothing to object to', () => {
    const { status, out } = run(
      put('good.cfg', GOOD),
      ...chosen,
      '--profile',
      'level-1',
      '--value',
      'ntp_servers=10.0.0.1,10.0.0.2',
      '--value',
      'name_servers=10.0.0.3',
    )
    const document = auditDocumentSchema.parse(JSON.parse(out))
    expect(
      document.verdicts.filter(({ outcome }) => outcome === 'fail' || outcome === 'unknown').map(({ rule }) => rule),
    ).to.deep.equal([])
    expect(status).to.equal(0)
  })

  it('1: a fail, an unknown, or a refused file', () => {
    expect(run(put('bad.cfg', 'hostname bad\nip http server\n'), ...chosen).status).to.equal(1)
    expect(run(put('good.cfg', GOOD), ...chosen, '--profile', 'level-1').status, 'ntp_servers is not set').to.equal(1)
    put('all/good.cfg', GOOD)
    put('all/photo.jpg', Buffer.from([0xff, 0xd8, 0xff]))
    const { status, err } = run(
      join(folder, 'all'),
      ...chosen,
      '--profile',
      'level-1',
      '--value',
      'ntp_servers=10.0.0.1,10.0.0.2',
      '--value',
      'name_servers=10.0.0.3',
    )
    expect(status).to.equal(1)
    expect(err).to.match(/photo\.jpg: .*JPEG/)
  })

  it('expectations of a snapshot are verdicts of its audit, with their lines, in every form', () => {
    put('harbour/snapshot.yaml', 'title: A harbour\ntakenAt: 2026-11-20T06:00:00Z\n')
    put(
      'harbour/devices/core/config.txt',
      'hostname core\ninterface lan\n ip address 10.1.0.1 255.255.255.0\ninterface far\n ip address 10.2.0.1 255.255.255.0\n ip access-group NO out\nip access-list extended NO\n deny udp any any\n permit ip any any\n',
    )
    put(
      'harbour/expectations.yaml',
      'expectations:\n  - { id: names, title: Names are resolved, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp dst port 53, must: arrive, severity: high, references: [pci-dss-4.0.1:1.2.1] }\n  - { id: web, title: The web, from: 10.1.0.0/24, to: 10.2.0.0/24, only: tcp dst port 80, must: arrive }\n',
    )
    const { out, err, status } = run(join(folder, 'harbour'), ...chosen)
    const { expected } = auditDocumentSchema.parse(JSON.parse(out))
    expect(
      expected.map(({ rule, outcome, severity, branch, device }) => [rule, outcome, severity, branch, device]),
    ).to.deep.equal([
      ['names', 'fail', 'high', 'violated', 'core'],
      ['web', 'pass', 'medium', 'met', ''],
    ])
    expect(expected[0]?.exhibits.map(({ text }) => text)).to.deep.equal([' deny udp any any'])
    expect(expected[0]?.statement).to.equal('From 10.1.0.0/24 to 10.2.0.0/24, udp dst port 53: must arrive.')
    expect(err).to.contain('2 expectations: 1 met, 1 violated or undecided')
    expect(status).to.equal(1)
    const waiver = put(
      'borne.yaml',
      '- { benchmark: expectations, rule: names, reason: Until the resolver moves, owner: I. Wren, expires: 2099-01-01T00:00:00Z }\n',
    )
    const borne = run(join(folder, 'harbour'), ...chosen, '--waivers', waiver)
    expect(borne.err).to.contain('1 violated or undecided; 1 waived')
    expect(
      auditDocumentSchema
        .parse(JSON.parse(borne.out))
        .expected.map(({ outcome, waived }) => [outcome, waived?.[0]?.owner]),
    ).to.deep.equal([
      ['fail', 'I. Wren'],
      ['pass', undefined],
    ])
    const written = (form: string): string => run(join(folder, 'harbour'), ...chosen, '--format', form).out
    expect(written('csv')).to.match(/core,expectations,names,fail,high,violated,/)
    const html = written('html')
    expect(html).to.contain('Expectations').and.contain('<strong>Names are resolved</strong>')
    expect(html.match(/<article /g)?.length).to.be.above(1)
    expect(
      (JSON.parse(written('sarif')) as { runs: { results: { ruleId: string; kind: string }[] }[] }).runs[0]?.results
        .filter(({ ruleId }) => ruleId.startsWith('expectations/'))
        .map(({ ruleId, kind }) => [ruleId, kind]),
    ).to.deep.equal([
      ['expectations/names', 'fail'],
      ['expectations/web', 'pass'],
    ])
  })

  it('2: expectations that are not as they should be', () => {
    put('harbour/devices/core/config.txt', 'hostname core\n')
    put('harbour/expectations.yaml', 'expectations:\n  - { id: A, title: x, from: a, to: b, must: arrive }\n')
    expect(run(join(folder, 'harbour'), ...chosen))
      .to.deep.include({ status: 2 })
      .and.to.have.property('err')
      .match(/expectations\.yaml: .*lower-case/)
  })

  const usage: [string, (file: string) => string[], RegExp][] = [
    ['no file', () => chosen, /name at least one/],
    ['no benchmark', (file) => [file], /--benchmark/],
    ['an unknown benchmark', (file) => [file, '--benchmark', 'x'], /network-hardening/],
    ['an unknown profile', (file) => [file, ...chosen, '--profile', 'x'], /level-1/],
    ['an unknown value', (file) => [file, ...chosen, '--value', 'x=1'], /"x"/],
    ['a wrong value', (file) => [file, ...chosen, '--value', 'idle_limit=soon'], /whole number/],
    ['an unknown format', (file) => [file, ...chosen, '--format', 'docx'], /docx/],
    ['an unknown option', (file) => [file, ...chosen, '--colour'], /colour/],
    ['a file that is not there', () => ['/nowhere.cfg', ...chosen], /Nothing readable/],
  ]
  for (const [name, args, words] of usage) {
    it(`2: ${name}`, () => {
      const { status, err } = run(...args(put('good.cfg', GOOD)))
      expect(status).to.equal(2)
      expect(err).to.match(words)
    })
  }

  it('judges by a time, with waivers, and beside a snapshot before', () => {
    const path = join(folder, 'a.cfg')
    writeFileSync(path, 'hostname a\nip http server\n')
    const waivers = join(folder, 'waivers.yaml')
    writeFileSync(
      waivers,
      '- { benchmark: network-hardening, rule: http-server-off, device: a, reason: Replaced in spring, owner: Quay desk, expires: "2027-03-01T00:00:00Z" }\n',
    )
    const waivedAt = (...args: string[]): number =>
      auditDocumentSchema.parse(
        JSON.parse(run(path, '--benchmark', 'network-hardening', '--waivers', waivers, ...args).out),
      ).counts.waived
    expect(waivedAt('--now', '2027-02-01T00:00:00Z')).to.equal(1)
    expect(waivedAt('--now', '2027-04-01T00:00:00Z'), 'an expired waiver covers nothing').to.equal(0)
    expect(waivedAt('--now', '2027-02-01T00:00:00Z', '--before', path)).to.equal(1)
    expect(run(path, '--benchmark', 'network-hardening', '--now', 'tomorrow'))
      .to.include({ status: 2 })
      .and.property('err')
      .contain('--now expects')
    writeFileSync(waivers, '- { rule: x }\n')
    expect(run(path, '--benchmark', 'network-hardening', '--waivers', waivers))
      .to.include({ status: 2 })
      .and.property('err')
      .contain('not valid')
    expect(run(path, '--benchmark', 'network-hardening', '--before', join(folder, 'nothing')).status).to.equal(2)
  })

  it('gives the same answer for files, a folder, a snapshot folder and a zip', () => {
    const key = put('key', '0123456789abcdef')
    const outcomes = (path: string): string[] =>
      auditDocumentSchema
        .parse(JSON.parse(run(path, ...chosen, '--key-file', key).out))
        .verdicts.map((v) => `${v.device} ${v.rule} ${v.outcome}`)
    const bare = outcomes(put('bare.cfg', GOOD))
    put('folder/good.conf', GOOD)
    put('snap/snapshot.yaml', 'title: S\n')
    put('snap/devices/good/config.txt', GOOD)
    const zip = put(
      'snap.zip',
      zipSync({ 'snap/snapshot.yaml': Buffer.from('title: S\n'), 'snap/devices/good/config.txt': Buffer.from(GOOD) }),
    )
    expect(outcomes(join(folder, 'folder'))).to.deep.equal(bare)
    expect(outcomes(join(folder, 'snap'))).to.deep.equal(bare)
    expect(outcomes(zip)).to.deep.equal(bare)
  })

  it('writes each format, to a file when asked', () => {
    const file = put('bad.cfg', 'hostname bad\nsnmp-server community sparrowhawk RO\n')
    for (const format of ['json', 'csv', 'html', 'sarif']) {
      const out = join(folder, `out.${format}`)
      expect(run(file, ...chosen, '--format', format, '--out', out).out).to.equal('')
      const text = readFileSync(out, 'utf8')
      expect(text.length).to.be.above(1000)
      expect(text).to.not.contain('sparrowhawk')
    }
  })

  it('marks equal secrets alike under one key file', () => {
    const key = put('key', '0123456789abcdef')
    const file = put('bad.cfg', 'hostname bad\nsnmp-server community sparrowhawk RO\n')
    const marks = (): string[] => run(file, ...chosen, '--key-file', key).out.match(/‹secret:\w+›/g) ?? []
    expect(marks()).to.deep.equal(marks()).and.not.have.length(0)
  })
})

describe('jurybox read', () => {
  const scenario = new URL('../../../scenario/2026-11-16', import.meta.url).pathname
  function run(...args: string[]): { status: number; out: string; err: string } {
    let [out, err] = ['', '']
    const status = readCommand(args, { stdout: (text) => (out += text), stderr: (text) => (err += text) })
    return { status, out, err }
  }

  it('prints the models of a whole snapshot, and nothing secret', () => {
    const { status, out } = run(scenario)
    const { devices } = JSON.parse(out) as {
      devices: { name: string; dialect: string; model: unknown; origins: Record<string, unknown> }[]
    }
    expect(status).to.equal(0)
    expect(new Set(devices.map(({ dialect }) => dialect))).to.deep.equal(
      new Set(['indented', 'braced', 'setlines', 'linux', 'editblocks', 'xmlentries']),
    )
    for (const { name, model, origins, dialect } of devices) {
      expect(deviceModelSchema.safeParse(model).success, name).to.equal(true)
      expect(Object.keys(origins).length, name).to.be.above(dialect === 'linux' ? 15 : 40)
    }
    for (const secret of ['quaywatch', '$9$Kx8MWXws4oJDk', '$1$Kd83jsQa']) expect(out).to.not.include(secret)
  })

  it('lists the lines that no reader used, with their share', () => {
    const { out } = run(join(scenario, 'devices/dd-sw1/config.txt'), '--unread')
    const { out: both } = run(join(scenario, 'devices/dd-sw1/config.txt'), '--unread', '--harmless')
    expect(both).to.contain('(harmless: ').and.contain(out.trim())
    expect(out).to.not.contain('(harmless: ')
    expect(out).to.match(/config\.txt: \d+ of 327 lines unparsed \(\d\.\d %\)/)
    expect(out).to.match(/config\.txt:\d+: harbourlink agent mode passive/)
  })

  it('2: bad usage, or nothing readable', () => {
    expect(run().status).to.equal(2)
    expect(run('--format', 'xml', scenario)).to.deep.include({ status: 2, out: '' })
    expect(run(join(scenario, 'nowhere'))).to.have.property('status', 2)
  })
})

import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { expect } from 'chai'
import { changesCommand, functionsCommand, networkCommand } from '../src/network.ts'
import { filtersCommand, reachCommand, traceCommand, trafficCommand } from '../src/traffic.ts'

const FILES: Record<string, string> = {
  'snapshot.yaml': 'title: A harbour\ntakenAt: 2026-11-20T06:00:00Z\n',
  'devices/core/config.txt':
    'hostname core\ninterface lan\n ip address 10.1.0.1 255.255.255.0\ninterface pair\n ip address 10.9.0.1 255.255.255.252\nip route 10.2.0.0 255.255.255.0 10.9.0.2\nsnmp-server community sparrowhawk RO\n',
  'devices/far/config.txt':
    'hostname far\ninterface pair\n ip address 10.9.0.2 255.255.255.252\n ip access-group IN in\ninterface lan\n ip address 10.2.0.1 255.255.255.0\nip access-list extended IN\n permit tcp any any eq 443\n permit tcp host 10.1.0.9 any eq 443\n deny ip any any\nip access-list standard OLD\n permit 10.0.0.0 0.255.255.255\n',
  'expectations.yaml':
    'expectations:\n  - { id: web, title: The web, from: 10.1.0.0/24, to: 10.2.0.0/24, only: tcp dst port 443, must: arrive, references: [pci-dss-4.0.1:1.3.1] }\n  - { id: nothing-else, title: Nothing else, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp, must: not-arrive }\n',
}

describe('jurybox traffic, trace, reach, filters, network, functions and changes', () => {
  let folder = ''
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-traffic-'))
    for (const [path, text] of Object.entries(FILES)) write(path, text)
  })
  afterEach(() => rmSync(folder, { recursive: true, force: true }))
  const write = (path: string, text: string): string => {
    const whole = join(folder, path)
    mkdirSync(dirname(whole), { recursive: true })
    writeFileSync(whole, text)
    return whole
  }

  function run(command: typeof traceCommand, ...args: string[]): { status: number; out: string; err: string } {
    let [out, err] = ['', '']
    const status = command([folder, ...args], { stdout: (text) => (out += text), stderr: (text) => (err += text) })
    return { status, out, err }
  }
  const QUESTION = ['--at', 'core:lan', '--src', '10.1.0.9', '--dst', '10.2.0.9', '--proto', 'tcp', '--dport', '443']

  it('trace gives the documented form, with the text of every line', () => {
    const { status, out } = run(traceCommand, ...QUESTION, '--format', 'json')
    const trace = JSON.parse(out) as {
      fates: string[]
      paths: {
        fate: string
        device: string
        protection: string[]
        hops: {
          device: string
          in: string | null
          out: string | null
          decisions: { stage: string; result: string; exhibits: { text: string }[] }[]
        }[]
      }[]
    }
    expect(status).to.equal(0)
    expect(trace.fates).to.deep.equal(['arrives'])
    expect(trace.paths[0]).to.include({ fate: 'arrives', device: 'far' })
    expect(trace.paths[0]?.protection).to.deep.equal([])
    expect(trace.paths[0]?.hops.map((hop) => [hop.device, hop.in, hop.out])).to.deep.equal([
      ['core', 'lan', 'pair'],
      ['far', 'pair', 'lan'],
    ])
    expect(trace.paths[0]?.hops[1]?.decisions[0]).to.deep.include({ stage: 'filter in', result: 'permitted by IN' })
    expect(trace.paths[0]?.hops[1]?.decisions[0]?.exhibits[0]?.text).to.equal(' permit tcp any any eq 443')
    expect(run(traceCommand, ...QUESTION).out)
      .to.contain('path 1: arrives at far')
      .and.contain('devices/core/config.txt:6: ip route 10.2.0.0')
  })

  it('trace --each answers a line for a line, in order', () => {
    const questions = write(
      'questions.jsonl',
      `${JSON.stringify({ at: 'core:lan', src: '10.1.0.9', dst: '10.2.0.9', proto: 'tcp', dport: 443 })}\n\n${JSON.stringify({ at: 'core', src: '10.1.0.1', dst: '10.2.0.9', proto: 17, sport: 7, dport: 53 })}\n`,
    )
    const { status, out } = run(traceCommand, '--each', questions)
    expect(status).to.equal(0)
    expect(
      out
        .trim()
        .split('\n')
        .map((line) => (JSON.parse(line) as { fates: string[] }).fates),
    ).to.deep.equal([['arrives'], ['stopped']])
    const wrong = write('wrong.jsonl', '{"at":"core"}\n')
    expect(run(traceCommand, '--each', wrong))
      .to.deep.include({ status: 2 })
      .and.to.have.property('err')
      .match(/wrong\.jsonl, line 1: .*expected \{"at"/)
    expect(
      run(
        traceCommand,
        '--each',
        write('more.jsonl', `${JSON.stringify({ at: 'nobody', src: '10.1.0.9', dst: '10.2.0.9', proto: 'tcp' })}\n`),
      ).err,
    ).to.match(/question 1: There is no device "nobody"\. Devices: core, far\./)
  })

  it('reach tells every fate with its classes', () => {
    const { status, out } = run(
      reachCommand,
      '--from',
      '10.1.0.0/24',
      '--to',
      '10.2.0.0/24',
      '--only',
      'tcp',
      '--format',
      'json',
    )
    const { parts } = JSON.parse(out) as {
      parts: { fate: string; device: string; classes: string[]; example: { destinationPort: number } | null }[]
    }
    expect(status).to.equal(0)
    expect(parts.find(({ fate, device }) => fate === 'arrives' && device === 'far')?.example).to.include({
      destinationPort: 443,
    })
    expect(parts.filter(({ fate }) => fate === 'stopped').map(({ classes }) => classes[0])).to.deep.equal([
      'tcp and src net 10.1.0.0/24 and dst net 10.2.0.0/24 and not (dst host 10.2.0.0 or dst host 10.2.0.255) and not dst port 443 and ip[6:2] & 0x1fff == 0',
    ])
  })

  it('traffic answers the expectations of the snapshot, and says with its status whether all hold', () => {
    expect(run(trafficCommand)).to.include({
      status: 0,
      out: 'met: web (The web; must arrive): all packets arrive\nmet: nothing-else (Nothing else; must not arrive): none arrive\n',
    })
    const other = write(
      'other.yaml',
      'expectations:\n  - { id: dns, title: Names, from: 10.1.0.0/24, to: 10.2.0.0/24, only: udp dst port 53, must: arrive }\n',
    )
    const { status, out } = run(trafficCommand, '--expectations', other, '--format', 'json')
    const { answers, counts } = JSON.parse(out) as {
      answers: {
        outcome: string
        packets: { classes: string[] }
        exhibits: { text: string }[]
        example: { trace: { fates: string[] } }
      }[]
      counts: object
    }
    expect(status).to.equal(1)
    expect(counts).to.deep.equal({ met: 0, violated: 1, undecided: 0 })
    expect(answers[0]?.exhibits.map(({ text }) => text)).to.deep.equal([' deny ip any any'])
    expect(answers[0]?.example.trace.fates).to.deep.equal(['stopped'])
  })

  it('filters lists what is odd, and says so with its status', () => {
    const { status, out } = run(filtersCommand, '--format', 'json')
    const { findings } = JSON.parse(out) as { findings: { kind: string; list: string; exhibits: { from: number }[] }[] }
    expect(status).to.equal(1)
    expect(findings.map(({ kind, list, exhibits }) => [kind, list, exhibits.map(({ from }) => from)])).to.deep.equal([
      ['never-matches', 'IN', [9, 8]],
      ['nowhere', 'OLD', [11]],
    ])
  })

  it('reach with one place alone tells who reaches it, and what it reaches', () => {
    const places = (...args: string[]): { place: string; arrives: { classes: string[] } | null }[] =>
      (
        JSON.parse(run(reachCommand, ...args, '--format', 'json').out) as {
          places: { place: string; arrives: { classes: string[] } | null }[]
        }
      ).places
    expect(places('--to', '10.2.0.0/24').map(({ place, arrives }) => [place, arrives?.classes])).to.deep.equal([
      ['10.1.0.0/24', ['tcp and dst port 443']],
    ])
    expect(places('--from', '10.1.0.0/24', '--only', 'udp')).to.deep.equal([])
    expect(run(reachCommand, '--to', '10.2.0.0/24').out).to.match(/^10\.1\.0\.0\/24\n {2}tcp and dst port 443/)
  })

  it('network lists what does not fit together', () => {
    expect(run(networkCommand)).to.include({ status: 0, out: '\n' })
    write('devices/core/config.txt', (FILES['devices/core/config.txt'] ?? '').replace('10.9.0.1', '10.9.0.2'))
    const { status, out } = run(networkCommand, '--format', 'json')
    const { findings } = JSON.parse(out) as {
      findings: { kind: string; devices: string[]; exhibits: { text: string }[] }[]
    }
    expect(status).to.equal(1)
    expect(findings.find(({ kind }) => kind === 'address-twice')?.exhibits.map(({ text }) => text)).to.deep.equal([
      ' ip address 10.9.0.2 255.255.255.252',
      ' ip address 10.9.0.2 255.255.255.252',
    ])
  })

  it('functions explains which link fails, with its line', () => {
    write(
      'devices/core/config.txt',
      `${FILES['devices/core/config.txt'] ?? ''}logging host 10.2.0.9\nip name-server 10.2.0.53\n`,
    )
    const { status, out } = run(functionsCommand, '--resolvers', '10.2.0.53', '--format', 'json')
    const { functions } = JSON.parse(out) as {
      functions: {
        kind: string
        outcome: string
        links: { link: string; standing: string; exhibits: { text: string }[] }[]
      }[]
    }
    expect(status).to.equal(1)
    expect(functions.map(({ kind, outcome }) => [kind, outcome])).to.deep.equal([
      ['logging', 'fail'],
      ['names', 'fail'],
    ])
    expect(
      functions[0]?.links
        .filter(({ standing }) => standing === 'fail')
        .map(({ link, exhibits }) => [link, exhibits[0]?.text]),
    ).to.deep.equal([['forward path', ' deny ip any any']])
    expect(run(functionsCommand).out).to.contain(
      'fail: core logging 10.2.0.9\n  forward path fail: udp 514 to 10.2.0.9 is stopped at far: filter in: IN\n    devices/far/config.txt:10:  deny ip any any',
    )
  })

  it('changes tells which flows have another fate, and by which lines', () => {
    const before = mkdtempSync(join(tmpdir(), 'jurybox-before-'))
    try {
      for (const [path, text] of Object.entries(FILES)) {
        mkdirSync(dirname(join(before, path)), { recursive: true })
        writeFileSync(join(before, path), text)
      }
      expect(run(changesCommand, '--before', before)).to.include({ status: 0, out: '\n' })
      write(
        'devices/far/config.txt',
        (FILES['devices/far/config.txt'] ?? '').replace(
          ' permit tcp any any eq 443\n',
          ' permit udp any any eq 53\n permit tcp any any eq 443\n',
        ),
      )
      const { status, out } = run(changesCommand, '--before', before)
      expect(status).to.equal(1)
      expect(out).to.match(
        /^stopped → arrives: from 10\.1\.0\.0\/24 to 10\.2\.0\.0\/24, elsewhere\n {2}arrives at far: it is an address of far itself\n {2}arrives at far: a host in the subnet of lan\n {2}udp and \(.*dst host 10\.9\.0\.2\) and dst port 53\n {2}after: devices\/far\/config\.txt:8: {2}permit udp any any eq 53\n$/,
      )
    } finally {
      rmSync(before, { recursive: true, force: true })
    }
  })

  const wrong: [string, typeof traceCommand, string[], RegExp][] = [
    ['no question', traceCommand, [], /--at, --src, --dst and --proto say what is asked/],
    [
      'an address that is none',
      traceCommand,
      ['--at', 'core', '--src', '10.1.0.300', '--dst', '10.2.0.9', '--proto', 'tcp'],
      /"10\.1\.0\.300" is not an address/,
    ],
    [
      'a protocol that is none',
      traceCommand,
      ['--at', 'core', '--src', '10.1.0.3', '--dst', '10.2.0.9', '--proto', 'tpc'],
      /"tpc" is not a protocol/,
    ],
    [
      'an interface that is none',
      traceCommand,
      ['--at', 'core:wan', '--src', '10.1.0.3', '--dst', '10.2.0.9', '--proto', 'tcp'],
      /core has no interface "wan" \(it has lan, pair\)/,
    ],
    ['a place that is none', reachCommand, ['--from', 'core:wan', '--to', 'far'], /core has no port "wan"/],
    ['a class that is none', reachCommand, ['--from', 'core', '--to', 'far', '--only', 'tcp dst prot 4'], /column 9/],
    ['no earlier snapshot', changesCommand, [], /--before names the earlier snapshot/],
    ['nothing asked of reach', reachCommand, [], /--from and --to say what is asked/],
    ['a form that is none', filtersCommand, ['--format', 'xml'], /unknown format "xml"/],
  ]
  for (const [name, command, args, words] of wrong) {
    it(`${name}: status 2, and words`, () => {
      const { status, err, out } = run(command, ...args)
      expect(status).to.equal(2)
      expect(err).to.match(words)
      expect(out).to.equal('')
    })
  }

  it('no secret is in any answer', () => {
    for (const [command, args] of [
      [traceCommand, QUESTION],
      [filtersCommand, []],
      [trafficCommand, []],
      [networkCommand, []],
      [functionsCommand, []],
    ] as const)
      expect(run(command, ...args, '--format', 'json').out).to.not.contain('sparrowhawk')
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { applyCommands, dialectById, type Dialect } from '../../src/index.ts'
import { DeviceAnalysis } from '../../src/analysis/index.ts'
import {
  CompiledReference,
  deriveReference,
  readReferences,
  referenceSchema,
  type Feature,
  type Reference,
  type ReferenceAnswer,
} from '../../src/references/index.ts'
import { prepare, readBenchmark } from '../../src/benchmarks/index.ts'
import { statementText } from '../../src/compare/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { maskWithKey } from '../../src/syntax/index.ts'

const mask = maskWithKey(new Uint8Array(32).fill(3))

function device(config: string, outputs: Readonly<Record<string, string>> = {}, id = 'indented'): DeviceAnalysis {
  return new DeviceAnalysis(
    dialectById(id) as Dialect,
    [
      { id: 'config', kind: 'config', tree: readRecord(config, id), takenAt: null },
      ...Object.entries(outputs).map(([kind, text]) => ({ id: kind, kind, tree: null, text, takenAt: null })),
    ],
    mask,
  )
}
const reference = (body: object): Reference =>
  referenceSchema.parse({ id: 'r', title: 'R', feature: 'F', dialect: 'indented', ...body })
const answer = (body: object, config: string, labels = {}): ReferenceAnswer =>
  new CompiledReference(reference(body)).answer(device(config), { name: 'd', labels })
const told = ({ lines }: ReferenceAnswer): string[] =>
  lines.map(({ state, block, text }) => `${state}: ${[...block, text].join(' › ')}`)

const NTP = {
  values: { servers: { is: ['10.40.0.11', '10.40.0.12'] } },
  parts: [{ covers: ['ntp ...'], lines: ['ntp server <servers>', { line: 'ntp source <any>', kind: 'optional' }] }],
}

const CASES: readonly {
  name: string
  body: object
  config: string
  labels?: object
  is: readonly string[]
  outcome: string
}[] = [
  {
    name: 'each value of a list has its line',
    body: NTP,
    config: 'ntp server 10.40.0.11\nntp server 192.0.2.123\nntp source Vlan99',
    is: ['matching: ntp server 10.40.0.11', 'missing: ntp server 10.40.0.12', 'extra: ntp server 192.0.2.123'],
    outcome: 'departs',
  },
  {
    name: 'all is as it is meant to be',
    body: NTP,
    config: 'hostname a\nntp server 10.40.0.11\nntp server 10.40.0.12',
    is: ['matching: ntp server 10.40.0.11', 'matching: ntp server 10.40.0.12'],
    outcome: 'conforms',
  },
  {
    name: 'a value of a label',
    body: { values: { site: { label: 'site_name' } }, parts: [{ lines: ['snmp-server location <site>'] }] },
    config: 'snmp-server location quay',
    labels: { site_name: 'quay' },
    is: ['matching: snmp-server location quay'],
    outcome: 'conforms',
  },
  {
    name: 'a label that nobody set leaves its line undecided',
    body: { values: { site: { label: 'site_name' } }, parts: [{ lines: ['snmp-server location <site>'] }] },
    config: 'snmp-server location quay',
    is: ['undecided: snmp-server location <site>'],
    outcome: 'undecided',
  },
  {
    name: 'a value of the model',
    body: { values: { name: { model: 'system.hostname' } }, parts: [{ lines: ['snmp-server chassis-id <name>'] }] },
    config: 'hostname kittiwake\nsnmp-server chassis-id kittiwake',
    is: ['matching: snmp-server chassis-id kittiwake'],
    outcome: 'conforms',
  },
  {
    name: 'a line that must not be there',
    body: { parts: [{ lines: [{ line: 'ip http server', kind: 'forbidden' }] }] },
    config: 'ip http server',
    is: ['forbidden: ip http server'],
    outcome: 'departs',
  },
  {
    name: 'lines of a block, and of a block that is not there',
    body: { parts: [{ block: 'line vty <from> <to>', lines: ['transport input ssh'] }] },
    config: 'line con 0\n login local',
    is: ['missing: line vty <from> <to> › transport input ssh'],
    outcome: 'departs',
  },
  {
    name: 'every block that matches',
    body: { parts: [{ block: 'line vty <from> <to>', lines: ['transport input ssh'] }] },
    config: 'line vty 0 4\n transport input ssh\nline vty 5 15\n transport input telnet',
    is: ['matching: line vty 0 4 › transport input ssh', 'missing: line vty 5 15 › transport input ssh'],
    outcome: 'departs',
  },
  {
    name: 'once for each interface that qualifies',
    body: {
      parts: [
        {
          each: 'interface.switching.mode == "access"',
          block: 'interface <interface>',
          covers: ['switchport ...'],
          lines: [
            'switchport mode access',
            { line: 'switchport access ...', kind: 'optional' },
            'spanning-tree portfast',
          ],
        },
      ],
    },
    config:
      'interface GigabitEthernet0/1\n switchport mode access\n switchport access vlan 10\n spanning-tree portfast\n' +
      'interface GigabitEthernet0/2\n switchport mode access\n switchport nonegotiate\n' +
      'interface GigabitEthernet0/3\n switchport mode trunk',
    is: [
      'matching: interface GigabitEthernet0/1 › switchport mode access',
      'matching: interface GigabitEthernet0/1 › spanning-tree portfast',
      'matching: interface GigabitEthernet0/2 › switchport mode access',
      'missing: interface GigabitEthernet0/2 › spanning-tree portfast',
      'extra: interface GigabitEthernet0/2 › switchport nonegotiate',
    ],
    outcome: 'departs',
  },
  {
    name: 'lines in another order',
    body: {
      parts: [
        {
          block: 'ip access-list extended X',
          ordered: true,
          lines: ['permit tcp any any eq 22', 'permit udp any any eq 53', 'deny ip any any'],
        },
      ],
    },
    config: 'ip access-list extended X\n permit udp any any eq 53\n permit tcp any any eq 22\n deny ip any any',
    is: [
      // As little as possible is out of order: of two lines that changed places, one.
      'out-of-order: ip access-list extended X › permit tcp any any eq 22',
      'matching: ip access-list extended X › permit udp any any eq 53',
      'matching: ip access-list extended X › deny ip any any',
    ],
    outcome: 'departs',
  },
  {
    name: 'a record that is not whole may hold what seems missing',
    body: NTP,
    config: 'ntp server 10.40.0.11\nbanner motd ^C\nheron',
    is: ['matching: ntp server 10.40.0.11', 'undecided: ntp server 10.40.0.12'],
    outcome: 'undecided',
  },
  {
    name: 'a block of another part is not extra',
    body: {
      parts: [
        { covers: ['archive ...', 'logging ...'], lines: ['logging console critical'] },
        { block: 'archive', lines: ['write-memory'] },
      ],
    },
    config: 'logging console critical\narchive\n write-memory',
    is: ['matching: logging console critical', 'matching: archive › write-memory'],
    outcome: 'conforms',
  },
]

describe('references', () => {
  for (const { name, body, config, labels, is, outcome } of CASES)
    it(name, () => {
      const found = answer(body, config, labels)
      expect(told(found)).to.have.members(is)
      expect(found.outcome).to.equal(outcome)
    })

  it('cites the lines that it has', () => {
    expect(answer(NTP, 'hostname a\nntp server 10.40.0.11').lines[0]?.lines).to.deep.equal([
      { record: 'config', from: 2, to: 2 },
    ])
  })

  it('is for the devices of its scope and dialect alone', () => {
    const body = { ...NTP, scope: 'device.site == "qn"' }
    const compiled = new CompiledReference(reference(body))
    const of = (site?: string): string =>
      compiled.answer(device('hostname a'), { name: 'd', labels: {}, ...(site ? { site } : {}) }).outcome
    expect([of('qn'), of('qs'), of()]).to.deep.equal(['departs', 'outside', 'undecided'])
    expect(
      compiled.answer(device('set system host-name a', {}, 'setlines'), { name: 'd', labels: {}, site: 'qn' }).outcome,
    ).to.equal('outside')
  })

  it('a value that is overridden says by whom', () => {
    const body = {
      ...NTP,
      overrides: [
        { title: 'Ships', scope: 'device.site == "ves-tern"', values: { servers: '10.43.0.9' }, by: 'Isolde Wren' },
      ],
    }
    const compiled = new CompiledReference(reference(body))
    const own = compiled.answer(device('ntp server 10.43.0.9'), { name: 'd', labels: {}, site: 'ves-tern' })
    expect(own.outcome).to.equal('conforms')
    expect(own.values).to.deep.equal([
      { name: 'servers', value: ['10.43.0.9'], from: 'override', override: { title: 'Ships', by: 'Isolde Wren' } },
    ])
  })

  it('a value of a benchmark is the one that holds for the device', () => {
    const benchmark = readBenchmark(`
id: own
title: Own
version: '1'
statement: s
profiles: [{ id: base, title: Base }]
values:
  servers: { type: hosts, title: Servers, default: [10.40.0.11] }
rules:
  - id: r
    title: R
    topic: T
    severity: low
    profile: base
    statement: s
    decide: [{ id: x, outcome: pass, note: n }]
`)
    const bench = prepare({
      benchmark,
      profile: null,
      values: { servers: ['10.40.0.11', '10.40.0.12'] },
      overrides: [{ title: 'Ships', scope: 'device.site == "fleet"', values: { servers: ['10.43.0.9'] } }],
    })
    const asked = (site: string, benches = [bench], value = 'servers'): ReferenceAnswer =>
      new CompiledReference(reference({ ...NTP, values: { servers: { benchmark: 'own', value } } }), benches).answer(
        device('ntp server 10.40.0.11\nntp server 10.40.0.12'),
        { name: 'd', labels: {}, site },
      )
    expect(asked('shore').outcome).to.equal('conforms')
    expect(asked('shore').values).to.deep.equal([
      { name: 'servers', value: ['10.40.0.11', '10.40.0.12'], from: 'benchmark', override: null },
    ])
    expect(told(asked('fleet'))).to.include('missing: ntp server 10.43.0.9')
    expect(asked('shore', []).outcome, 'no such benchmark at hand').to.equal('undecided')
    expect(asked('shore', [bench], 'none').outcome, 'no such value').to.equal('undecided')
  })

  it('without a value no line is extra or free of what is forbidden for sure', () => {
    const values = { servers: { label: 'servers' }, old: { label: 'old' } }
    const config = 'ntp server 192.0.2.1\nntp peer 10.40.0.9'
    const wanted = { covers: ['ntp ...'], lines: ['ntp server <servers>'] }
    expect(told(answer({ values, parts: [wanted] }, config))).to.deep.equal([
      'undecided: ntp server <servers>',
      'extra: ntp peer 10.40.0.9',
    ])
    const forbidden = { covers: [], lines: [{ line: 'ntp server <old>', kind: 'forbidden' }] }
    const open = answer({ values, parts: [forbidden] }, config)
    expect([open.outcome, told(open)]).to.deep.equal(['undecided', ['undecided: ntp server <old>']])
    expect(open.lines[0]?.lines).to.deep.equal([{ record: 'config', from: 1, to: 1 }])
    expect(answer({ values, parts: [forbidden] }, 'ntp peer 10.40.0.9').outcome).to.equal('conforms')
    expect(answer({ values, parts: [forbidden] }, config, { old: '192.0.2.1' }).outcome).to.equal('departs')
  })

  it('no template finds out what a secret says', () => {
    const config = 'snmp-server community heron-on-the-weir ro'
    const body = (text: string): object => ({
      parts: [{ covers: ['snmp-server ...'], lines: [`snmp-server community ${text} ro`] }],
    })
    expect(told(answer(body('heron-on-the-weir'), config))).to.deep.equal([
      'missing: snmp-server community heron-on-the-weir ro',
      `extra: snmp-server community ${mask('heron-on-the-weir')} ro`,
    ])
    expect(answer(body('<any>'), config).outcome).to.equal('conforms')
  })

  it('what the state is meant to be', () => {
    const body = (that: string): object => ({ state: [{ title: 'S', that }] })
    const bgp =
      'Neighbor        V    AS MsgRcvd MsgSent   TblVer  InQ OutQ Up/Down  State/PfxRcd\n' +
      '192.0.2.1       4 65002     100     100        1    0    0 01:00:00        5'
    const outcome = (that: string, outputs = {}): unknown =>
      new CompiledReference(reference(body(that))).answer(device('hostname a', outputs), { name: 'd', labels: {} })
        .state[0]
    const up = 'state.adjacencies.exists(a, a.protocol == "bgp" && a.up)'
    expect(outcome(up, { 'state/bgp': bgp })).to.deep.include({ outcome: 'met' })
    expect(outcome(up, { 'state/bgp': bgp.replace('        5', '   Idle') })).to.deep.include({ outcome: 'violated' })
    expect(outcome(up)).to.deep.equal({
      title: 'S',
      outcome: 'undecided',
      reason: { code: 'not-captured', what: 'bgp' },
    })
    expect(outcome('system.hostname')).to.deep.include({ outcome: 'undecided' })
    const ospf =
      'Neighbor ID     Pri   State           Dead Time   Address         Interface\n' +
      '10.255.0.1        1   FULL/DR         00:00:35    10.40.99.1      Vlan99'
    expect(outcome(up, { 'state/ospf': ospf }), 'OSPF says nothing of BGP').to.deep.equal({
      title: 'S',
      outcome: 'undecided',
      reason: { code: 'not-captured', what: 'bgp' },
    })
  })

  it('its commands put in what is missing, and their rollback takes it out again', () => {
    const lines = [
      'ntp server 10.40.0.11',
      'ntp server 10.40.0.12',
      'ip http server',
      'no ip http server',
      'hostname a',
    ]
    const dialect = dialectById('indented') as Dialect
    const compiled = new CompiledReference(
      reference({
        ...NTP,
        parts: [
          ...NTP.parts,
          { lines: [{ line: 'ip http server', kind: 'forbidden' }] },
          { block: 'line vty 0 4', lines: ['transport input ssh', 'exec-timeout 10 0'] },
        ],
      }),
    )
    fc.assert(
      fc.property(
        fc.subarray([...lines, 'line vty 0 4\n transport input telnet', 'line vty 0 4\n exec-timeout 5 0']),
        (own) => {
          const before = device(own.join('\n'))
          const found = compiled.answer(before, { name: 'd', labels: {} })
          const tree = readRecord(own.join('\n'), 'indented')
          const after = compiled.answer(device([own.join('\n'), ...found.commands].join('\n')), {
            name: 'd',
            labels: {},
          })
          expect(after.lines.filter(({ state }) => state === 'missing' || state === 'forbidden')).to.deep.equal([])
          const text = (commands: readonly string[]): string[] =>
            applyCommands(tree, commands, dialect)
              .statements.flatMap((one) => [
                statementText(one),
                ...(one.scope?.statements ?? []).map((inner) => `${one.text} › ${statementText(inner)}`),
              ])
              .sort()
          const restored = text([...found.commands, ...found.rollback]).filter(
            (one) => !one.startsWith('line vty 0 4') || one.includes('›'),
          )
          expect(restored).to.deep.equal(text([]).filter((one) => !one.startsWith('line vty 0 4') || one.includes('›')))
        },
      ),
    )
  })

  it('a file that is not as it should be names the place', () => {
    const read = (text: string) => () => readReferences({ path: 'references.yaml', text })
    expect(read('references:\n- { id: Heron }\n')).to.throw(/references\.yaml/)
    expect(read(JSON.stringify({ references: [{ ...reference(NTP), parts: [{ lines: ['<x...> ntp'] }] }] }))).to.throw(
      /it must begin with/,
    )
    expect(read(JSON.stringify({ references: [{ id: 'r', title: 'R', feature: 'F', dialect: 'heron' }] }))).to.throw(
      /no such dialect/,
    )
  })
})

const FEATURE: Feature = {
  id: 'ntp',
  title: 'NTP',
  statements: { indented: ['ntp ...', 'no ntp ...', 'clock timezone ...'] },
  state: [],
}

describe('what devices have in common', () => {
  /** One of 200: its own name and source, servers of one of three sites, a line that half of them have. */
  const config = (i: number): string[] => [
    `hostname sw-${i}`,
    'clock timezone UTC 0 0',
    'ntp authenticate',
    `ntp server 10.${40 + (i % 3)}.0.11`,
    `ntp source Vlan${100 + (i % 40)}`,
    ...(i % 2 === 0 ? ['ntp logging'] : []),
  ]
  /** Seven that depart, each in a way of its own. */
  const planted = new Map<number, (lines: string[]) => string[]>([
    [7, (lines) => lines.filter((line) => line !== 'ntp authenticate')],
    [31, (lines) => [...lines, 'ntp server 192.0.2.123 prefer']],
    [58, (lines) => lines.map((line) => (line.startsWith('clock') ? 'clock timezone CET 1 0' : line))],
    [90, (lines) => lines.filter((line) => !line.startsWith('ntp server'))],
    [121, (lines) => lines.map((line) => (line === 'ntp authenticate' ? 'no ntp authenticate' : line))],
    [160, (lines) => lines.filter((line) => !line.startsWith('ntp source'))],
    [199, (lines) => [...lines, 'ntp peer 198.51.100.9']],
  ])
  const devices = Array.from({ length: 200 }, (_, i) => ({
    name: `sw-${i}`,
    analysis: device((planted.get(i) ?? ((lines: string[]) => lines))(config(i)).join('\n')),
  }))
  const found = deriveReference(devices, FEATURE, 'indented')

  it('finds the seven that were planted among two hundred, and no other', () => {
    expect(found?.derived.outliers.map(({ name }) => name).sort()).to.deep.equal(
      [...planted.keys()].map((i) => `sw-${i}`).sort(),
    )
  })
  it('says how they depart', () => {
    const said = (name: string): string[] =>
      (found?.derived.outliers.find((one) => one.name === name)?.deviations ?? []).map(
        ({ kind, text }) => `${kind} ${text}`,
      )
    expect(said('sw-7')).to.deep.equal(['missing ntp authenticate'])
    expect(said('sw-31')).to.deep.equal(['extra ntp server 192.0.2.123 prefer'])
    expect(said('sw-58')).to.have.members(['missing clock timezone UTC 0 0', 'extra clock timezone CET 1 0'])
    expect(said('sw-121')).to.have.members(['missing ntp authenticate', 'extra no ntp authenticate'])
  })
  it('values that differ are placeholders, with the spread of values', () => {
    const server = found?.derived.values.find(({ line }) => line === 'ntp server <ntp_server>')
    expect(server?.values.map(({ value }) => value)).to.have.members(['10.40.0.11', '10.41.0.11', '10.42.0.11'])
    expect(server?.values.reduce((sum, { samples }) => sum + samples.length, 0)).to.equal(199)
    expect(found?.reference.parts[0]?.lines).to.deep.include.members([
      { line: 'ntp authenticate', kind: 'required' },
      { line: 'ntp logging', kind: 'optional' },
    ])
  })
  it('as a reference, the others conform to it and the seven do not', () => {
    const compiled = new CompiledReference(referenceSchema.parse(found?.reference))
    const departing = devices.filter(
      ({ name, analysis }) => compiled.answer(analysis, { name, labels: {} }).outcome !== 'conforms',
    )
    expect(departing.map(({ name }) => name)).to.deep.equal([...planted.keys()].map((i) => `sw-${i}`))
  })
  it('interfaces of a kind are compared with each other, not devices', () => {
    const port = (n: number, more = ''): string =>
      `interface GigabitEthernet0/${n}\n switchport mode access\n` +
      ` switchport access vlan ${10 + (n % 3)}\n spanning-tree portfast${more}`
    const ports = deriveReference(
      [
        { name: 'a', analysis: device([1, 2, 3, 4, 5].map((n) => port(n)).join('\n')) },
        {
          name: 'b',
          analysis: device([1, 2, 3, 4].map((n) => port(n)).join('\n') + '\n' + port(5, '\n lldp transmit')),
        },
      ],
      {
        id: 'p',
        title: 'P',
        each: 'interface.switching.mode == "access"',
        statements: { indented: ['* ...'] },
        state: [],
      },
      'indented',
    )
    expect(ports?.derived.samples).to.equal(10)
    expect(ports?.derived.outliers.map(({ name }) => name)).to.deep.equal(['b GigabitEthernet0/5'])
    expect(ports?.reference.parts[0]?.block).to.deep.equal(['interface <interface>'])
  })
  describe('of the state', () => {
    const sessions = (...rows: readonly (readonly [string, string])[]): string =>
      [
        'Neighbor        V    AS MsgRcvd MsgSent   TblVer  InQ OutQ Up/Down  State/PfxRcd',
        ...rows.map(
          ([address, state]) => `${address.padEnd(15)} 4 65002     100     100        1    0    0 01:00:00 ${state}`,
        ),
      ].join('\n')
    const feature: Feature = {
      id: 'bgp',
      title: 'BGP',
      statements: { indented: [] },
      state: [
        { title: 'Sessions', value: 'state.adjacencies.filter(a, a.protocol == "bgp" && a.up).map(a, a.neighbour)' },
        { title: 'Peers', value: 'size(state.adjacencies.filter(a, a.protocol == "bgp"))' },
        { title: 'Name', value: 'system.hostname' },
      ],
    }
    const both = sessions(['192.0.2.1', '5'], ['192.0.2.2', '7'])
    const outputs: Record<string, string | null> = {
      a: both,
      b: both,
      'other-order': sessions(['192.0.2.2', '7'], ['192.0.2.1', '5']),
      c: both,
      d: sessions(['192.0.2.1', '5'], ['192.0.2.2', 'Idle']),
      e: null,
    }
    const own = Object.entries(outputs).map(([name, bgp]) => ({
      name,
      analysis: device(`hostname ${name}`, bgp === null ? {} : { 'state/bgp': bgp }),
    }))
    const result = deriveReference(own, feature, 'indented')
    const held = (name: string): ReferenceAnswer | undefined => {
      const analysis = own.find((one) => one.name === name)?.analysis
      return result && analysis
        ? new CompiledReference(result.reference).answer(analysis, { name, labels: {} })
        : undefined
    }

    it('what most have becomes an expectation, in whichever order they say it', () => {
      expect(result?.derived.state.map(({ title, that }) => [title, that !== null])).to.deep.equal([
        ['Sessions', true],
        ['Peers', true],
        ['Name', false],
      ])
      expect(result?.derived.outliers).to.deep.equal([
        { name: 'd', deviations: [{ kind: 'state', block: [], text: 'Sessions: ["192.0.2.1"]', lines: [] }] },
      ])
    })
    it('who has not said it is named, and takes no part', () => {
      expect(result?.derived.state.map(({ unknown }) => unknown)).to.deep.equal([['e'], ['e'], []])
    })
    it('those that are as most conform to the reference; the others depart, or are undecided', () => {
      const outcomes = Object.keys(outputs).map((name) => [name, held(name)?.outcome])
      expect(outcomes).to.deep.equal([
        ['a', 'conforms'],
        ['b', 'conforms'],
        ['other-order', 'conforms'],
        ['c', 'conforms'],
        ['d', 'departs'],
        ['e', 'undecided'],
      ])
    })
  })

  it('an estate of another dialect has nothing in common', () => {
    expect(deriveReference(devices, FEATURE, 'setlines')).to.equal(null)
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { dialectById, maskWithKey } from '../../src/index.ts'
import { DeviceAnalysis, stateOf } from '../../src/analysis/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import {
  approvalOf,
  approvalSchema,
  digestOf,
  imagesFor,
  labelSchema,
  linksOf,
  membersOf,
  readDevices,
  readLabel,
  readsModel,
  recognise,
  setFromFacts,
  sitesAround,
  tableOf,
  vanishedOf,
  writeDevices,
  type DeviceDigest,
  type Digested,
  type FilteredDevice,
  type FoundDevice,
  type KnownDevice,
  type LabelDefinition,
  type LabelValue,
  type Link,
} from '../../src/estate/index.ts'
import { MODEL_ROOTS } from '../../src/rules/index.ts'

const mask = maskWithKey(new Uint8Array(32))
function digest(config: string, outputs: Record<string, string> = {}, dialectId = 'indented'): DeviceDigest {
  const dialect = dialectById(dialectId)
  const read =
    dialect &&
    digestOf(
      new DeviceAnalysis(
        dialect,
        [
          { id: 'c', kind: 'config', tree: readRecord(config, dialectId) },
          ...Object.entries(outputs).map(([kind, text]) => ({ id: kind, kind: `state/${kind}`, tree: null, text })),
        ],
        mask,
      ),
    )
  if (!read) throw new Error('not read')
  return read.digest
}
const label = (definition: Partial<LabelDefinition> & Pick<LabelDefinition, 'name' | 'type'>): LabelDefinition =>
  labelSchema.parse(definition)

describe('values of labels', () => {
  const cases: [type: LabelDefinition['type'], given: LabelValue, value: LabelValue | null | 'refused'][] = [
    ['text', ' dry dock ', 'dry dock'],
    ['text', '  ', null],
    ['number', '12', 12],
    ['number', 0.5, 0.5],
    ['number', '1e3', 'refused'],
    ['number', 'twelve', 'refused'],
    ['date', '2026-11-30', '2026-11-30'],
    ['date', '2026-02-30', 'refused'],
    ['date', '30.11.2026', 'refused'],
    ['flag', 'Yes', true],
    ['flag', false, false],
    ['flag', 'perhaps', 'refused'],
    ['choice', 'high', 'high'],
    ['choice', 'High', 'refused'],
    ['person', 'Ada Marlow', 'Ada Marlow'],
  ]
  for (const [type, given, value] of cases)
    it(`${type}: ${JSON.stringify(given)} is ${JSON.stringify(value)}`, () => {
      const read = readLabel({ type, choices: type === 'choice' ? ['low', 'high'] : [] }, given)
      expect(read.ok ? read.value : 'refused').to.equal(value)
      if (!read.ok) expect(read.expected).to.not.equal('')
    })
  const wrong: [definition: unknown, words: string][] = [
    [{ name: 'Card data', type: 'flag' }, 'small letters'],
    [{ name: 'constructor', type: 'flag' }, 'another name'],
    [{ name: 'tier', type: 'choice' }, 'expected choices'],
    [{ name: 'tier', type: 'flag', choices: ['a'] }, 'only a choice'],
    [{ name: 'tier', type: 'text', sets: 'device.(' }, 'Expression'],
  ]
  for (const [definition, words] of wrong)
    it(`${JSON.stringify(definition)} defines no label`, () =>
      expect(labelSchema.safeParse(definition).error?.message).to.include(words))
})

describe('labels that are set from facts', () => {
  const devices: Parameters<typeof setFromFacts>[1] = [
    { name: 'ops-core1', dialect: 'indented', facts: { labels: { tier: 'low' }, role: 'core', site: 'ops' } },
    { name: 'qs-acc1', dialect: 'indented', facts: { labels: { tier: 'low' }, role: 'access', site: 'qs' } },
    { name: 'dd-gw1', dialect: 'linux', facts: { labels: {} } },
  ]
  const tier = label({
    name: 'tier',
    type: 'choice',
    choices: ['low', 'high'],
    sets: 'device.role == "core" ? "high" : "low"',
  })
  it('follow the facts; a fact that nobody stated sets nothing', () =>
    expect(setFromFacts([tier], devices, () => false)).to.deep.equal({
      changes: [{ device: 'ops-core1', label: 'tier', before: 'low', after: 'high' }],
      refused: [],
    }))
  it('leave what a person has set', () =>
    expect(setFromFacts([tier], devices, (device) => device === 'ops-core1').changes).to.deep.equal([]))
  it('refuse a value of another type, by device', () =>
    expect(
      setFromFacts([label({ name: 'tier', type: 'number', sets: 'device.site' })], devices, () => false).refused.map(
        ({ device, reason }) => [device, reason],
      ),
    ).to.deep.equal([
      ['ops-core1', '“ops” (expected a number, such as 12 or 0.5)'],
      ['qs-acc1', '“qs” (expected a number, such as 12 or 0.5)'],
    ]))
})

describe('lists of devices', () => {
  const devices: Parameters<typeof writeDevices>[0] = [
    { name: 'a', dialect: 'indented', facts: { labels: { owner: '=net', card: true }, site: 'qs' } },
    { name: 'b', dialect: 'braced', facts: { labels: {} } },
  ]
  const definitions = [label({ name: 'owner', type: 'text' }), label({ name: 'card', type: 'flag' })]
  it('come back as they were written: nothing changes', () => {
    const text = writeDevices(devices, ['owner', 'card'])
    expect(text.split('\r\n')[1]).to.equal(`a,indented,qs,,,,,,"'=net",yes`)
    expect(readDevices(text, devices, definitions)).to.deep.equal({ labels: [], facts: [], refused: [] })
  })
  it('come back whatever labels hold', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.string({ unit: 'grapheme' }), fc.boolean()), { minLength: 1, maxLength: 5 }),
        (values) => {
          const some = values.map(([owner, card], i) => ({
            name: `d${i}`,
            dialect: 'indented',
            facts: { labels: { ...(owner.trim() ? { owner: owner.trim() } : {}), card } },
          }))
          fc.pre(values.every(([owner]) => !/^'[=+\-@]/.test(owner.trim()) && !/[\t\r]/.test(owner)))
          expect(readDevices(writeDevices(some, ['owner', 'card']), some, definitions)).to.deep.equal({
            labels: [],
            facts: [],
            refused: [],
          })
        },
      ),
    )
  })
  it('name what they would change, and the lines that are wrong', () => {
    expect(
      readDevices(
        '\ufeffdevice,site,label:card,label:shelf\nb,ops,no,3\na,,perhaps,\nc,ops,,\nb,qs,,\n',
        devices,
        definitions,
      ),
    ).to.deep.equal({
      labels: [{ device: 'b', label: 'card', before: null, after: false }],
      facts: [{ device: 'b', fact: 'site', before: null, after: 'ops' }],
      refused: [
        {
          line: 1,
          reason:
            'column “label:shelf” is not a fact (site, role, model, os, version, managementAddress) or a label of this engagement (label:NAME)',
        },
        { line: 3, reason: '“perhaps” is not a flag for card (expected yes or no)' },
        { line: 4, reason: 'there is no device “c”' },
        { line: 5, reason: '“b” has a duplicate line' },
      ],
    })
  })
  it('have a column “device”', () =>
    expect(readDevices('name of it,site\na,qs\n', devices, definitions).refused[0]).to.deep.equal({
      line: 1,
      reason: 'there is no column “device” (expected a first line with the names of columns)',
    }))
})

describe('sites', () => {
  const parents = new Map([
    ['qs', 'terminals'],
    ['terminals', 'shore'],
    ['a', 'b'],
    ['b', 'a'],
  ])
  it('are in sites', () => expect(sitesAround('qs', parents)).to.deep.equal(['qs', 'terminals', 'shore']))
  it('that are in themselves end where the circle closes', () =>
    expect(sitesAround('a', parents)).to.deep.equal(['a', 'b']))
})

describe('groups', () => {
  const one: FilteredDevice = {
    name: 'qs-acc1',
    dialect: 'indented',
    facts: { labels: { card: true, floor: 3 }, site: 'qs', role: 'access' },
    sites: ['qs', 'shore'],
    takenAt: '2026-11-16T10:00:00Z',
    changedAt: '2026-11-01T10:00:00Z',
    changedDays: 15,
  }
  const cases: [filter: string, answer: boolean | 'undecided'][] = [
    ['device.labels.card', true],
    ['device.labels.floor > 3', false],
    ['"shore" in device.sites', true],
    ['device.role == "core" || device.site == "qs"', true],
    ['device.changedDays > 14', true],
    ['device.changedDays > 30', false],
    ['device.changedAt < "2026-11-10"', true],
    ['device.labels.owner == "ada"', 'undecided'],
    ['interfaces.exists(i, i.kind == "tunnel")', true],
    ['device.site', 'undecided'],
  ]
  for (const [filter, answer] of cases)
    it(`${filter}: ${String(answer)}`, () => {
      const { inside, undecided } = membersOf(filter, [one], () => ({ interfaces: [{ kind: 'tunnel' }] }))
      expect(undecided.length > 0 ? 'undecided' : inside.length > 0).to.equal(answer)
      if (undecided[0]) expect(undecided[0].why).to.not.equal('')
    })
  it('know whether they read the model', () => {
    expect(readsModel('interfaces.exists(i, i.mtu > 9000)', MODEL_ROOTS)).to.equal(true)
    expect(readsModel('device.labels.interfaces == "system"', MODEL_ROOTS)).to.equal(false)
  })
  it('name what is wrong with a filter', () =>
    expect(() => membersOf('device.site ==', [one])).to.throw('device.site =='))
})

describe('approved versions', () => {
  const approval = (given: object) => approvalSchema.parse({ version: '7.4', ...given })
  const family = approval({
    models: ['C-24', 'C-24P'],
    image: 'os-7.4.bin',
    fits: ['C-24', 'C-24P'],
    reviewedBy: 'Ada',
    reviewedAt: '2026-10-01',
  })
  const ship = approval({ label: { name: 'ship', value: true }, version: '7.3' })
  const own = approval({ device: 'dd-sw1', version: '6.9', image: 'os-6.9.bin', fits: ['C-44'] })
  const device = { name: 'x', model: 'C-24P', version: '7.4', labels: {} }
  const exception = { device: 'x', version: '7.1', reason: 'its module needs it', until: '2026-12-31' }
  const cases: [name: string, of: object, standing: string, why: string][] = [
    ['another code of the same family', {}, 'on', '7.4 is approved for C-24P'],
    ['another version', { version: '7.2' }, 'off', '7.2 is not approved for C-24P; approved: 7.4'],
    ['a label goes before the model', { labels: { ship: true } }, 'off', 'for devices with label ship: true'],
    ['a label of another value', { labels: { ship: false } }, 'on', 'C-24P'],
    [
      'one device goes before all',
      { name: 'dd-sw1', version: '6.9', labels: { ship: true } },
      'on',
      '6.9 is approved for this device',
    ],
    ['an exception', { version: '7.1' }, 'on', 'an exception until 2026-12-31: its module needs it'],
    ['an exception of another version', { version: '7.0' }, 'off', '7.4'],
    ['no policy', { model: 'OR-3100' }, 'none', 'no policy applies'],
    ['no model', { model: null }, 'none', 'no policy applies'],
    ['no version', { version: null }, 'unknown', 'version unknown'],
  ]
  for (const [name, of, standing, why] of cases)
    it(name, () => {
      const answer = approvalOf({ ...device, ...of }, [family, ship, own], [exception], '2026-11-26')
      expect(answer.standing).to.equal(standing)
      expect(answer.why).to.include(why)
    })
  it('an exception ends', () =>
    expect(approvalOf({ ...device, version: '7.1' }, [family], [exception], '2027-01-01').standing).to.equal('off'))
  it('an image is named for hardware that runs it only', () => {
    expect(imagesFor(device, [family, own]).images.map(({ image }) => image)).to.deep.equal(['os-7.4.bin'])
    expect(imagesFor({ ...device, name: 'dd-sw1' }, [family, own])).to.deep.equal({ images: [], unfit: [own] })
    expect(imagesFor({ ...device, model: null, name: 'dd-sw1' }, [own]).images).to.deep.equal([])
  })
  const wrong: [given: object, words: string][] = [
    [{ models: ['A'], fits: ['B'] }, 'must include the model “A”'],
    [{}, 'expected models, a label or a device'],
    [{ models: ['A'], device: 'x' }, 'expected models, a label or a device'],
    [{ models: ['A'], reviewedBy: 'Ada' }, 'a person and a date'],
    [{ models: ['A'], sha256: 'abc' }, '64 hexadecimal digits'],
  ]
  for (const [given, words] of wrong)
    it(`refuses ${JSON.stringify(given)}`, () =>
      expect(approvalSchema.safeParse({ version: '1', ...given }).error?.message).to.include(words))
})

describe('who a device is that was found', () => {
  const known: KnownDevice[] = [
    {
      name: 'core1',
      serial: 'S1',
      addresses: ['10.0.0.1', '127.0.0.1'],
      reachedAt: '10.0.0.1:22',
      neighbourOf: ['dist1'],
    },
    { name: 'dist1', serial: 'S2', addresses: ['10.0.0.2'], reachedAt: '10.0.0.2:22', neighbourOf: ['core1'] },
    { name: 'acc1', serial: null, addresses: ['10.0.0.3'], reachedAt: null },
  ]
  const found = (given: Partial<FoundDevice>): FoundDevice => ({
    name: 'new1',
    reachedAt: '10.0.0.9:22',
    dialect: 'indented',
    model: null,
    version: null,
    serial: null,
    addresses: ['10.0.0.9'],
    neighbourOf: [],
    ...given,
  })
  const core = { name: 'core1', serial: 'S1', addresses: ['10.0.0.1'], reachedAt: '10.0.0.1:22' }
  const cases: [name: string, found: Partial<FoundDevice>[], is: [kind: string, as: string][]][] = [
    ['one that nobody knew', [{}], [['appeared', 'new1']]],
    ['one that is there as it was', [core], [['known', 'core1']]],
    ['reached elsewhere', [{ ...core, reachedAt: '10.0.9.1:22' }], [['moved', 'core1']]],
    [
      'reached elsewhere under another name',
      [{ ...core, name: 'core9', reachedAt: '10.0.9.1:22' }],
      [['moved', 'core1']],
    ],
    ['connected elsewhere', [{ ...core, neighbourOf: ['edge1'] }], [['moved', 'core1']]],
    ['connected as before', [{ ...core, neighbourOf: ['dist1', 'edge1'] }], [['known', 'core1']]],
    ['other hardware under the same name', [{ ...core, serial: 'S9' }], [['replaced', 'core1']]],
    [
      'other hardware at the same place, nameless yet',
      [{ ...core, serial: 'S9', name: 'factory' }],
      [['replaced', 'core1']],
    ],
    [
      'a serial that was not known before',
      [{ name: 'acc1', serial: 'S3', addresses: ['10.0.0.3'] }],
      [['known', 'acc1']],
    ],
    [
      'the same hardware found twice',
      [{ serial: 'S8' }, { serial: 'S8', name: 'other', reachedAt: '10.0.0.10:22' }],
      [
        ['appeared', 'new1'],
        ['duplicate', 'new1'],
      ],
    ],
    [
      'one of the estate found at two addresses',
      [core, { ...core, reachedAt: '10.0.0.5:22' }],
      [
        ['known', 'core1'],
        ['duplicate', 'core1'],
      ],
    ],
    ['an address of another', [{ addresses: ['10.0.0.9', '10.0.0.2'] }], [['duplicate', 'dist1']]],
    [
      'the same address twice among those found',
      [{}, { name: 'other', reachedAt: '10.0.0.10:22' }],
      [
        ['appeared', 'new1'],
        ['duplicate', 'new1'],
      ],
    ],
    ['an address that everybody has', [{ addresses: ['127.0.0.1'] }], [['appeared', 'new1']]],
    [
      'an address written in another way',
      [{ addresses: ['::ffff:0', '2001:DB8:0::1'] }, { name: 'other', addresses: ['2001:db8::1'], reachedAt: 'x' }],
      [
        ['appeared', 'new1'],
        ['duplicate', 'new1'],
      ],
    ],
  ]
  for (const [name, some, is] of cases)
    it(name, () => {
      const sightings = recognise(some.map(found), known)
      expect(sightings.map(({ kind, as }) => [kind, as])).to.deep.equal(is)
      expect(sightings.every(({ why }) => why !== '')).to.equal(true)
    })
  it('and who has vanished of those that were looked for', () =>
    expect(
      vanishedOf(recognise([found(core), found({ addresses: ['10.0.0.2'] })], known), known.slice(0, 2)).map(
        ({ name }) => name,
      ),
    ).to.deep.equal(['dist1']))
  it('gives no device of the estate to two that were found', () => {
    const one = fc.record({
      name: fc.constantFrom('core1', 'dist1', 'acc1', 'x', 'y'),
      serial: fc.constantFrom('S1', 'S2', 'S7', null),
      addresses: fc.subarray(['10.0.0.1', '10.0.0.2', '10.0.0.3', '10.0.0.8']),
      reachedAt: fc.constantFrom('10.0.0.1:22', '10.0.0.2:22', '10.0.0.8:22'),
    })
    fc.assert(
      fc.property(fc.array(one, { maxLength: 6 }), (some) => {
        const given = recognise(some.map(found), known).flatMap(({ kind, as }) =>
          kind === 'duplicate' || kind === 'appeared' ? [] : [as],
        )
        expect(new Set(given).size).to.equal(given.length)
      }),
    )
  })
})

const HEAD = 'Device ID           Local Intf     Hold-time  Capability      Port ID   Management Address\n'
const seen = (...rows: [system: string, local: string, port: string, address?: string][]): string =>
  HEAD +
  rows
    .map(([system, local, port, address = '']) =>
      `${system.padEnd(20)}${local.padEnd(15)}120        B,R             ${port}   ${address}`.trimEnd(),
    )
    .join('\n') +
  '\n'
const ports = (name: string, ...some: string[]): string =>
  `hostname ${name}\n${some.map((port) => `interface ${port}\n no shutdown\n`).join('')}end\n`

describe('links', () => {
  const estate = (...devices: [name: string, config: string, neighbours?: string, address?: string][]): Digested[] =>
    devices.map(([name, config, neighbours, managementAddress]) => ({
      name,
      managementAddress,
      digest: digest(config, neighbours === undefined ? {} : { neighbours }),
    }))
  const short = ({ a, b, standing }: Link): string => `${a.device} ${a.port} ${standing} ${b.device} ${b.port}`
  const A = ports('a', 'TenGigabitEthernet1/1', 'TenGigabitEthernet1/2')
  const B = ports('b.ferries.example', 'TenGigabitEthernet1/7')
  const cases: [name: string, devices: Parameters<typeof estate>, links: string[]][] = [
    [
      'both ends agree, in short and whole names',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'])],
        ['b', B, seen(['a', 'Te1/7', 'Te1/1'])],
      ],
      ['a TenGigabitEthernet1/1 agreed b TenGigabitEthernet1/7'],
    ],
    [
      'one end is silent',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'])],
        ['b', B, HEAD],
      ],
      ['a TenGigabitEthernet1/1 one-sided b TenGigabitEthernet1/7'],
    ],
    [
      'of one end no table was captured',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'])],
        ['b', B],
      ],
      ['a TenGigabitEthernet1/1 untold b TenGigabitEthernet1/7'],
    ],
    [
      'the ends name different ports',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'])],
        ['b', B, seen(['a', 'Te1/7', 'Te1/2'])],
      ],
      ['a TenGigabitEthernet1/1 disagreeing b TenGigabitEthernet1/7'],
    ],
    [
      'the other end names another device',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'])],
        ['b', B, seen(['c', 'Te1/7', 'Te1/1'])],
      ],
      ['a TenGigabitEthernet1/1 disagreeing b TenGigabitEthernet1/7'],
    ],
    ['a stranger', [['a', A, seen(['carrier', 'Te1/1', 'Te9/9'])]], ['a TenGigabitEthernet1/1 untold carrier Te9/9']],
    [
      'known by its host name with a domain',
      [
        ['a', A, seen(['b.ferries.example', 'Te1/1', 'Te1/7'])],
        ['switch-b', B],
      ],
      ['a TenGigabitEthernet1/1 untold switch-b TenGigabitEthernet1/7'],
    ],
    [
      'known by its management address',
      [
        ['a', A, seen(['unnamed', 'Te1/1', 'Te1/7', '10.40.1.9'])],
        ['b', B, undefined, '10.40.1.9'],
      ],
      ['a TenGigabitEthernet1/1 untold b TenGigabitEthernet1/7'],
    ],
    [
      'two links between the same devices',
      [
        ['a', A, seen(['b', 'Te1/1', 'Te1/7'], ['b', 'Te1/2', 'Te1/8'])],
        [
          'b',
          ports('b', 'TenGigabitEthernet1/7', 'TenGigabitEthernet1/8'),
          seen(['a', 'Te1/7', 'Te1/1'], ['a', 'Te1/8', 'Te1/2']),
        ],
      ],
      [
        'a TenGigabitEthernet1/1 agreed b TenGigabitEthernet1/7',
        'a TenGigabitEthernet1/2 agreed b TenGigabitEthernet1/8',
      ],
    ],
    [
      'a shared subnet of two, where no table tells of one',
      [
        ['a', 'hostname a\ninterface Tunnel1\n ip address 10.9.0.1 255.255.255.252\nend\n'],
        ['b', 'hostname b\ninterface Tunnel7\n ip address 10.9.0.2 255.255.255.252\nend\n'],
      ],
      ['a Tunnel1 subnet b Tunnel7'],
    ],
    [
      'three in a subnet are no link',
      [
        ['a', 'hostname a\ninterface Tunnel1\n ip address 10.9.0.1 255.255.255.252\nend\n'],
        ['b', 'hostname b\ninterface Tunnel7\n ip address 10.9.0.2 255.255.255.252\nend\n'],
        ['c', 'hostname c\ninterface Tunnel7\n ip address 10.9.0.2 255.255.255.252\nend\n'],
      ],
      [],
    ],
  ]
  for (const [name, devices, links] of cases)
    it(name, () => expect(linksOf(estate(...devices)).map(short)).to.deep.equal(links))
  it('tell of each end by its line', () => {
    const [link] = linksOf(estate(['a', A, seen(['b', 'Te1/1', 'Te1/7'])], ['b', B, seen(['a', 'Te1/7', 'Te1/1'])]))
    expect(link?.a.at).to.deep.equal({ record: 'neighbours', from: 2, to: 2 })
    expect(link?.b.at).to.deep.equal({ record: 'neighbours', from: 2, to: 2 })
  })
  it('are each told once, whatever the tables say, and hold every row of them', () => {
    const names = ['a', 'b', 'c']
    const row = fc.tuple(
      fc.constantFrom(...names, 'stranger'),
      fc.constantFrom('Te1/1', 'Te1/2', 'Te1/3'),
      fc.constantFrom('Te1/1', 'Te1/2', 'Te1/3'),
    )
    fc.assert(
      fc.property(
        fc.array(fc.uniqueArray(row, { selector: ([, local]) => local, maxLength: 3 }), { minLength: 3, maxLength: 3 }),
        (tables) => {
          const devices = estate(
            ...tables.map((rows, i): [string, string, string] => [
              names[i] ?? '',
              ports(names[i] ?? '', 'TenGigabitEthernet1/1', 'TenGigabitEthernet1/2', 'TenGigabitEthernet1/3'),
              seen(...rows),
            ]),
          )
          const links = linksOf(devices)
          expect(links.reduce((sum, { a, b }) => sum + Number(a.at !== null) + Number(b.at !== null), 0)).to.equal(
            tables.flat().length,
          )
          // Renaming the devices' order changes which end comes first, not what is said of a link.
          const sides = (some: readonly Link[]): string[] =>
            some
              .map(
                ({ a, b, standing }) =>
                  `${standing} ${[`${a.device} ${a.port}`, `${b.device} ${b.port}`].sort().join(' ')}`,
              )
              .filter((text) => text.startsWith('agreed'))
              .sort()
          expect(sides(linksOf([...devices].reverse()))).to.deep.equal(sides(links))
        },
      ),
    )
  })
})

describe('neighbours by the fields of IEEE 802.1AB (YANG names from memory)', () => {
  const heard = (...remotes: object[]) =>
    stateOf([
      {
        record: 'n',
        kind: 'neighbours',
        text: JSON.stringify(
          {
            'ieee802-dot1ab-lldp:lldp': {
              port: [{ name: 'eth0', 'dest-mac-address': '01-80-C2-00-00-0E', 'remote-systems-data': remotes }],
            },
          },
          null,
          1,
        ),
      },
    ]).state.neighbours
  const whole = {
    'remote-index': 1,
    'chassis-id-subtype': 'mac-address',
    'chassis-id': '02-00-00-00-00-01',
    'port-id-subtype': 'interface-name',
    'port-id': 'xe-0/0/1',
    'port-desc': 'to the core',
    'system-name': 'ops-core1',
    'system-capabilities-supported': 'bridge router',
    'system-capabilities-enabled': 'router',
    'management-address': [{ 'address-subtype': 'ipv4', address: '10.40.255.1' }],
  }
  it('name, port, what it does, and where it is managed', () =>
    expect(heard(whole)).to.deep.equal([
      { interface: 'eth0', system: 'ops-core1', port: 'xe-0/0/1', capability: 'R', managementAddress: '10.40.255.1' },
    ]))
  it('a system without a name is known by its chassis (the name is optional, §8.5.6)', () =>
    expect(heard({ ...whole, 'system-name': undefined })[0]?.system).to.equal('02-00-00-00-00-01'))
  it('a port identifier that is a MAC address names no port (§8.5.3)', () =>
    expect(heard({ ...whole, 'port-id-subtype': 'mac-address', 'port-id': '02-00-00-00-00-02' })[0]?.port).to.equal(
      'to the core',
    ))
  it('what is supported stands where nothing says what is enabled (§8.5.8)', () =>
    expect(heard({ ...whole, 'system-capabilities-enabled': undefined })[0]?.capability).to.equal('B,R'))
  it('a management address that is no address is none', () =>
    expect(
      heard({ ...whole, 'management-address': [{ 'address-subtype': 'dns', address: 'core.example' }] })[0]
        ?.managementAddress,
    ).to.equal(null))
  it('the same in XML, as NETCONF carries it', () => {
    const text =
      '<data><lldp xmlns="urn:ieee:std:802.1AB:yang:ieee802-dot1ab-lldp"><port><name>eth0</name><remote-systems-data><remote-index>1</remote-index><port-id-subtype>interface-name</port-id-subtype><port-id>xe-0/0/1</port-id><system-name>ops-core1</system-name><management-address><address-subtype>ipv4</address-subtype><address>10.40.255.1</address></management-address></remote-systems-data></port></lldp></data>'
    expect(stateOf([{ record: 'n', kind: 'neighbours', text }]).state.neighbours).to.deep.equal([
      { interface: 'eth0', system: 'ops-core1', port: 'xe-0/0/1', capability: null, managementAddress: '10.40.255.1' },
    ])
  })
  it('several systems on one port are all told (a hub between)', () =>
    expect(heard(whole, { ...whole, 'system-name': 'other' })).to.have.length(2))
})

describe('estate-wide tables', () => {
  const device = (name: string, config: string, facts = {}, outputs = {}) => ({
    name,
    digest: digest(config, outputs),
    facts,
  })
  const estate = [
    device(
      'a',
      'hostname a\nvlan 30\n name KIOSKS\ninterface Vlan30\n ip address 10.40.30.2 255.255.255.0\n standby 30 ip 10.40.30.1\n standby 30 priority 110\ninterface GigabitEthernet1/0/1\n description Kiosk 1\n switchport mode access\n switchport access vlan 30\ninterface GigabitEthernet1/0/2\n switchport mode trunk\nend\n',
      { os: 'OstOS', version: '7.4', model: 'C-24', approved: 'on' },
    ),
    device(
      'b',
      'hostname b\nvlan 30\n name CARDS\ninterface Vlan30\n ip address 10.40.30.3 255.255.255.0\n standby 30 ip 10.40.30.1\nend\n',
      { os: 'OstOS', version: '7.2', model: 'C-24' },
    ),
  ]
  const rows = (name: Parameters<typeof tableOf>[0]) => tableOf(name, estate).rows
  it('subnets', () =>
    expect(
      rows('subnets').map(({ values, members }) => [
        values['prefix'],
        values['devices'],
        members.map(({ device: of, what, at }) => `${of} ${what} ${at?.from}`),
      ]),
    ).to.deep.equal([['10.40.30.0/24', 2, ['a Vlan30 10.40.30.2 5', 'b Vlan30 10.40.30.3 5']]]))
  it('VLANs, with every name that they go by', () =>
    expect(
      rows('vlans').map(({ values }) => [values['vlan'], values['names'], values['devices'], values['places']]),
    ).to.deep.equal([[30, 'CARDS, KIOSKS', 2, 3]]))
  it('redundancy groups, with their members', () =>
    expect(
      rows('redundancy').map(({ values, members }) => [
        values['address'],
        members.map(({ device: of, what }) => `${of}: ${what}`),
      ]),
    ).to.deep.equal([['10.40.30.1', ['a: Vlan30, priority 110', 'b: Vlan30, priority by default']]]))
  it('versions and models', () => {
    expect(rows('versions').map(({ values, members }) => [values['version'], members[0]?.what])).to.deep.equal([
      ['7.2', 'C-24'],
      ['7.4', 'C-24, approved'],
    ])
    expect(rows('models').map(({ values }) => [values['model'], values['devices']])).to.deep.equal([['C-24', 2]])
  })
  it('end ports: those that face no device of the network', () =>
    expect(
      rows('end-ports').map(({ values }) => [values['device'], values['port'], values['vlan'], values['state']]),
    ).to.deep.equal([['a', 'GigabitEthernet1/0/1', 30, 'not captured']]))
  it('every row opens a line', () => {
    for (const name of ['subnets', 'vlans', 'redundancy', 'end-ports'] as const)
      for (const { members } of rows(name)) for (const { at } of members) expect(at?.from).to.be.greaterThan(0)
  })
})

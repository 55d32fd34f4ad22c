import { readFileSync, readdirSync } from 'node:fs'
import { expect } from 'chai'
import fc from 'fast-check'
import { z } from 'zod'
import { dialectById, maskWithKey, readSnapshot, type Dialect, type SnapshotFile } from '../../src/index.ts'
import { DeviceAnalysis, analysisOf } from '../../src/analysis/index.ts'
import {
  LISTS,
  STATE_TABLES,
  compareDevices,
  isEqual,
  readNoise,
  type DeviceComparison,
  type ModelChange,
} from '../../src/compare/index.ts'
import { Headers, ListSets, NOTHING, differenceOf, readFilterText } from '../../src/headers/index.ts'
import { deviceModelSchema } from '../../src/model/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { deviceStateSchema } from '../../src/state/index.ts'
import { indentedText } from './configurations.ts'

const mask = maskWithKey(new Uint8Array(32).fill(7))

/** A device of records by kind. */
function device(records: Readonly<Record<string, string>>, id = 'indented'): DeviceAnalysis {
  return new DeviceAnalysis(
    dialectById(id) as Dialect,
    Object.entries(records).map(([kind, text]) =>
      kind.startsWith('state/')
        ? { id: kind, kind, tree: null, text, takenAt: null }
        : { id: kind, kind, tree: readRecord(text, id), takenAt: null },
    ),
    mask,
  )
}
const compared = (a: string, b: string, id = 'indented'): DeviceComparison =>
  compareDevices(device({ config: a }, id), device({ config: b }, id))
const told = ({ change, subject, field, before, after }: ModelChange): string =>
  [change, [...subject, field].filter((part) => part !== '').join(': '), `${before ?? '-'} → ${after ?? '-'}`].join(' ')

const MEANINGS: readonly { name: string; a: string; b: string; is: readonly string[]; id?: string }[] = [
  {
    name: 'another value of an interface',
    a: 'interface Vlan1\n mtu 1500',
    b: 'interface Vlan1\n mtu 9000',
    is: ['changed interface Vlan1: mtu 1500 → 9000'],
  },
  {
    name: 'an interface more',
    a: 'hostname a',
    b: 'hostname a\ninterface Loopback0\n ip address 192.0.2.1 255.255.255.255',
    is: ['added interface Loopback0 - → kind loopback, addresses address 192.0.2.1, prefix length 32, family ipv4'],
  },
  {
    name: 'another secret of a user, told by its fingerprint alone',
    a: 'username kittiwake secret 0 first-on-the-quay',
    b: 'username kittiwake secret 0 second-on-the-quay',
    is: [`changed user kittiwake: secret ${mask('first-on-the-quay')} (clear) → ${mask('second-on-the-quay')} (clear)`],
  },
  {
    name: 'methods in another order',
    a: 'aaa new-model\naaa authentication login default group tacacs+ local',
    b: 'aaa new-model\naaa authentication login default local group tacacs+',
    is: ['moved AAA methods authentication login default: methods local: no. 3 → local: no. 1'],
  },
  {
    name: 'name servers in another order, which says nothing in this dialect',
    a: 'ip name-server 192.0.2.1\nip name-server 192.0.2.2',
    b: 'ip name-server 192.0.2.2\nip name-server 192.0.2.1',
    is: [],
  },
  {
    name: 'the same in another dialect of the hierarchy',
    id: 'setlines',
    a: 'set interfaces ge-0/0/0 mtu 1500',
    b: 'set interfaces ge-0/0/0 mtu 9000',
    is: ['changed interface ge-0/0/0: mtu 1500 → 9000'],
  },
  {
    name: 'policies between zones in another order',
    id: 'setlines',
    a: policies('one', 'two'),
    b: policies('two', 'one'),
    is: ['moved policy pair a b two: place no. 2 → no. 1'],
  },
]

function policies(...names: readonly string[]): string {
  return names
    .flatMap((name) => [
      `set security policies from-zone a to-zone b policy ${name} match source-address any`,
      `set security policies from-zone a to-zone b policy ${name} match destination-address any`,
      `set security policies from-zone a to-zone b policy ${name} match application any`,
      `set security policies from-zone a to-zone b policy ${name} then permit`,
    ])
    .join('\n')
}

describe('what a change of the configuration means', () => {
  for (const { name, a, b, is, id } of MEANINGS)
    it(name, () => expect(compared(a, b, id).model.map(told)).to.have.members(is))

  it('cites the lines of both sides', () => {
    const [change] = compared('hostname a\ninterface Vlan1\n mtu 1500', 'interface Vlan1\n mtu 9000\nhostname a').model
    expect(change?.a).to.deep.equal([{ record: 'config', from: 3, to: 3 }])
    expect(change?.b).to.deep.equal([{ record: 'config', from: 2, to: 2 }])
  })

  it('every list of the model is known, and no other', () => {
    expect(
      Object.keys(LISTS).filter((path) => !listsIn(deviceModelSchema).includes(path) && LISTS[path]?.key.length !== 0),
    ).to.deep.equal([])
    expect(listsIn(deviceModelSchema).filter((path) => !(path in LISTS))).to.deep.equal([])
  })

  it('every table of the state is compared', () => {
    const own = deviceStateSchema.shape
    const compare = new Set(STATE_TABLES.map(({ path }) => path.split('.')[0]))
    expect(Object.keys(own).filter((name) => !compare.has(name))).to.deep.equal([])
  })
})

/** Paths of lists of entries within a schema; of entries in what is compared as sets, none. */
function listsIn(schema: z.ZodType, path = ''): string[] {
  if (schema instanceof z.ZodNullable) return listsIn(schema.unwrap() as z.ZodType, path)
  if (schema instanceof z.ZodObject)
    return Object.entries(schema.shape as Record<string, z.ZodType>).flatMap(([name, inner]) =>
      listsIn(inner, path === '' ? name : `${path}.${name}`),
    )
  if (!(schema instanceof z.ZodArray)) return []
  const inner = schema.element as z.ZodType
  if (!(inner instanceof z.ZodObject)) return []
  return [path, ...(LISTS[path]?.asSets === true ? [] : listsIn(inner, path))]
}

describe('what another text of an access list means', () => {
  const list = (...lines: readonly string[]): string =>
    [
      'interface Vlan30',
      ' ip access-group CARDS in',
      'ip access-list extended CARDS',
      ...lines.map((line) => ` ${line}`),
    ].join('\n')

  it('as packets, with the interfaces that they are filtered at', () => {
    const [change, ...others] = compared(
      list('permit tcp 10.40.30.0 0.0.0.255 any eq 443', 'deny ip any any'),
      list(
        'permit tcp 10.40.30.0 0.0.0.255 any eq 443',
        'permit tcp 10.40.30.0 0.0.0.255 any eq 8080',
        'deny ip any any',
      ),
    ).accessLists
    expect(others).to.deep.equal([])
    expect(change?.interfaces).to.deep.equal(['Vlan30 in'])
    expect(change?.permits?.classes).to.deep.equal(['tcp and src net 10.40.30.0/24 and dst port 8080'])
    expect(change?.denies).to.equal(null)
    expect(change?.undecided).to.equal(null)
  })

  it('another text that means the same', () => {
    const [change] = compared(
      list('permit ip 10.40.30.0 0.0.0.127 any', 'permit ip 10.40.30.128 0.0.0.127 any'),
      list('permit ip 10.40.30.0 0.0.0.255 any'),
    ).accessLists
    expect([change?.permits, change?.denies, change?.undecided]).to.deep.equal([null, null, null])
  })

  it('what was not understood is no sure answer', () => {
    const [change] = compared(
      list('permit tcp any any eq 443'),
      list('permit tcp any any eq 443 heron-lock'),
    ).accessLists
    expect(change?.permits).to.equal(null)
    expect(change?.undecided?.classes.length).to.be.greaterThan(0)
  })

  it('no change of numbers or remarks', () => {
    expect(
      compared(list('10 permit ip any any'), list('remark heron', '20 permit ip any any')).accessLists,
    ).to.deep.equal([])
  })

  it('equals the difference of the sets of headers', () => {
    const entry = fc
      .tuple(
        fc.constantFrom('permit', 'deny'),
        fc.constantFrom('ip', 'tcp', 'udp'),
        fc.constantFrom('any', 'host 10.0.0.1', '10.0.0.0 0.0.0.255'),
        fc.constantFrom('any', 'host 192.0.2.1', '192.0.2.0 0.0.0.127'),
        fc.constantFrom('', ' eq 443', ' range 1 1023'),
      )
      .map(
        ([action, protocol, from, to, ports]) => `${action} ${protocol} ${from} ${to}${protocol === 'ip' ? '' : ports}`,
      )
    const entries = fc.array(entry, { maxLength: 5 }).map((own) => list(...own))
    fc.assert(
      fc.property(entries, entries, (a, b) => {
        const [left, right] = [device({ config: a }), device({ config: b })]
        const headers = new Headers()
        const [one, other] = [left, right].map(({ modelled }) => {
          const lists = modelled?.model.accessLists ?? []
          const own = lists.find(({ name }) => name === 'CARDS')
          return own && { sets: new ListSets(headers, lists, left.dialect.forwarding.laterFragments), list: own }
        })
        const [change] = compareDevices(left, right).accessLists
        if (!one || !other) {
          expect(change).to.equal(undefined)
          return
        }
        const { onlyFirst, onlySecond } = differenceOf(headers, one, other)
        const setOf = (
          readable: { readonly classes: readonly string[]; readonly whole: boolean } | null | undefined,
        ): number =>
          (readable?.classes ?? []).reduce(
            (all, text) => headers.diagrams.or(all, readFilterText(headers, text)),
            NOTHING,
          )
        expect(change?.permits?.whole ?? true).to.equal(true)
        expect(setOf(change?.permits)).to.equal(onlySecond)
        expect(setOf(change?.denies)).to.equal(onlyFirst)
      }),
      { numRuns: 150 },
    )
  })
})

const ROUTES = [
  'Codes: C - connected, S - static, O - OSPF',
  'O        10.40.1.0/24 [110/20] via 10.40.0.1, 00:10:00, Vlan1',
  'S        10.41.0.0/16 [1/0] via 10.40.0.9',
].join('\n')

describe('rows of the state by their keys', () => {
  const base = { config: 'hostname a' }
  const state = (a: Readonly<Record<string, string>>, b: Readonly<Record<string, string>>): string[] =>
    compareDevices(device({ ...base, ...a }), device({ ...base, ...b })).state.map(({ change, title, key, fields }) =>
      [
        change,
        title,
        key,
        ...fields.map(({ field, before, after }) => `${field} ${before ?? '-'} → ${after ?? '-'}`),
      ].join(' '),
    )

  it('a route by its prefix (RFC 8349)', () => {
    const changed = ROUTES.replace('[110/20] via 10.40.0.1', '[110/30] via 10.40.0.2').replace(/\nS .*/, '')
    expect(state({ 'state/routes': ROUTES }, { 'state/routes': changed })).to.have.members([
      'changed route 10.40.1.0/24 metric 20 → 30 next hops 10.40.0.1 Vlan1 → 10.40.0.2 Vlan1',
      'vanished route 10.41.0.0/16 family ipv4 → - ' +
        'protocol static → - distance 1 → - metric 0 → - selected yes → - next hops 10.40.0.9 → -',
    ])
  })

  it('an interface by its name (RFC 8343); counters tell nothing', () => {
    const json = (status: string, octets: number): string =>
      JSON.stringify({
        'ietf-interfaces:interfaces': {
          interface: [
            { name: 'eth0', 'admin-status': 'up', 'oper-status': status, statistics: { 'in-octets': String(octets) } },
          ],
        },
      })
    expect(state({ 'state/interfaces': json('up', 5) }, { 'state/interfaces': json('up', 9) })).to.deep.equal([])
    expect(state({ 'state/interfaces': json('up', 5) }, { 'state/interfaces': json('down', 9) })).to.deep.equal([
      'changed interface eth0 oper up → down',
    ])
  })

  it('what one side did not capture has not vanished', () => {
    const { state: changes, doubts } = compareDevices(device({ ...base, 'state/routes': ROUTES }), device(base))
    expect(changes).to.deep.equal([])
    expect(doubts.map(({ code, side, part }) => [code, side, part])).to.deep.include(['not-captured', 'b', 'routes'])
  })
})

describe('two sides as a whole', () => {
  const folder = new URL('../../../../scenario/2026-11-16/', import.meta.url)
  const files: SnapshotFile[] = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => `${entry.parentPath}/${entry.name}`)
    .map((path) => ({ path: path.slice(folder.pathname.length - 1).replace(/^\/+/, ''), bytes: readFileSync(path) }))
  const { devices } = readSnapshot(files)

  for (const one of devices)
    it(`${one.name} (${one.dialect.id}) does not differ from itself`, () => {
      expect(isEqual(compareDevices(analysisOf(one, mask), analysisOf(one, mask)))).to.equal(true)
    })

  it('exchanging the sides exchanges what is told', () => {
    const turned: Readonly<Record<string, string>> = { added: 'removed', removed: 'added' }
    fc.assert(
      fc.property(indentedText, indentedText, (a, b) => {
        const there = compared(a, b).model.map((one) =>
          told({
            ...one,
            change: (turned[one.change] ?? one.change) as ModelChange['change'],
            before: one.after,
            after: one.before,
          }),
        )
        expect(compared(b, a).model.map(told)).to.have.members(there)
      }),
      { numRuns: 100 },
    )
  })

  it('no statement of a configuration changes without a change of text, and every secret is masked', () => {
    const secret = 'heron-behind-the-lock'
    const { records, model } = compared(
      'hostname a',
      `hostname a\nsnmp-server community ${secret} ro\nusername k secret 0 ${secret}`,
    )
    expect(records[0]?.statements).to.have.length(2)
    expect(JSON.stringify([records, model])).not.to.include(secret)
  })

  it('statements of which nothing was made are marked', () => {
    const { records } = compared('hostname a', 'hostname a\nheron mode tidal\nip http server')
    expect(records[0]?.statements.map(({ text, unparsed }) => [text, unparsed])).to.have.deep.members([
      ['heron mode tidal', true],
      ['ip http server', false],
    ])
  })

  it('noise of the engagement is left out', () => {
    const noise = readNoise({
      path: 'noise.yaml',
      text:
        'noise:\n- { id: contact, title: Contact, statement: "^snmp-server contact " }\n' +
        '- { id: hop, title: Metric, state: routes.metric }\n',
    })
    const a = device({ config: 'snmp-server contact a', 'state/routes': ROUTES })
    const b = device({ config: 'snmp-server contact b', 'state/routes': ROUTES.replace('[110/20]', '[110/30]') })
    expect(isEqual(compareDevices(a, b))).to.equal(false)
    expect(isEqual(compareDevices(a, b, noise))).to.equal(true)
    expect(() => readNoise({ path: 'noise.yaml', text: 'noise:\n- { id: x }\n' })).to.throw(/noise\.yaml/)
  })

  it('a record that is not whole is a doubt, with its line', () => {
    const { doubts } = compared('hostname a\nbanner motd ^C\nheron', 'hostname a')
    expect(doubts.map(({ code, side }) => [code, side])).to.deep.include(['incomplete', 'a'])
    expect(doubts[0]?.lines[0]?.record).to.equal('config')
  })

  it('a listing with defaults is not compared with one without', () => {
    const full = device({ 'config.full': 'hostname a\nno ip http server' })
    const { records, doubts } = compareDevices(full, device({ config: 'hostname a' }))
    expect(records).to.deep.equal([])
    expect(doubts.map(({ code }) => code)).to.include('listings')
    // Where the ordinary listing is there as well, that is compared.
    const both = device({ 'config.full': 'hostname a\nno ip http server', config: 'hostname a' })
    expect(isEqual(compareDevices(both, device({ config: 'hostname a' })))).to.equal(true)
  })

  it('devices of two dialects by their models', () => {
    const { records, model, doubts } = compareDevices(
      device({ config: 'interface Vlan1\n mtu 1500' }),
      device({ config: 'set interfaces Vlan1 mtu 9000' }, 'setlines'),
    )
    expect(records).to.deep.equal([])
    expect(doubts.map(({ code }) => code)).to.include('dialects')
    expect(model.map(told)).to.include('changed interface Vlan1: mtu 1500 → 9000')
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { EffectiveConfig, dialectById, modelOf, type Dialect } from '../../src/index.ts'
import { joinAnswers } from '../../src/audit/index.ts'
import {
  Clock,
  EstateView,
  askOne,
  compileRule,
  compileScope,
  judgedDevice,
  ruleSchema,
  type DeviceParts,
  type JudgedDevice,
  type RawJudgement,
} from '../../src/rules/index.ts'
import type { ReadRecord } from '../../src/state/index.ts'

const dialect = (id: string): Dialect => {
  const found = dialectById(id)
  if (!found) throw new Error(id)
  return found
}
function device(config: string, more: Partial<DeviceParts> & { dialect?: string } = {}): JudgedDevice {
  const own = dialect(more.dialect ?? 'indented')
  const effective = EffectiveConfig.of(own.read(config), own)
  return judgedDevice({
    name: 'd',
    record: 'r',
    effective,
    model: () => modelOf(effective, { record: 'r', mask: (text) => `mark of ${text.length}` }),
    ...more,
  })
}
const ruleOf = (rule: object) =>
  compileRule(
    ruleSchema.parse({ id: 'r', title: 'R', topic: 'T', severity: 'low', profile: 'a', statement: 's', ...rule }),
  )
/** `pass` where the condition holds, `fail` where it does not. */
const asked = (when: unknown, on: JudgedDevice, values: Record<string, unknown> = {}): RawJudgement =>
  ruleOf({
    dialects: ['indented', 'braced', 'setlines'],
    decide: [
      { id: 'holds', when, outcome: 'pass', note: 'n' },
      { id: 'not', outcome: 'fail', note: 'n' },
    ],
  }).judge(on, values)

describe('scopes', () => {
  const facts = { labels: { card: true, floor: 3 }, site: 'qs', role: 'access', groups: ['terminals'] }
  const cases: [scope: string, inside: boolean | 'unknown', term: string][] = [
    ['device.site == "qs"', true, 'device.site == "qs"'],
    ['device.site == "qn" || device.labels.card', true, 'device.labels.card'],
    ['device.labels.card && device.labels.floor > 3', false, 'device.labels.floor > 3'],
    ['!(device.role == "access")', false, '!(device.role == "access")'],
    ['device.labels.owner == "ada"', 'unknown', 'device.labels.owner == "ada"'],
    ['device.labels.owner == "ada" && device.site == "qn"', false, 'device.site == "qn"'],
    ['device.labels.owner == "ada" || device.site == "qs"', true, 'device.site == "qs"'],
    ['(device.site == "qs" && (device.role == "core" || device.role == "access"))', true, 'device.role == "access"'],
    ['interfaces.exists(i, i.kind == "tunnel") || device.name == "a && b"', false, 'device.name == "a && b"'],
    ['device.dialect == "indented"', true, 'device.dialect == "indented"'],
    ['"terminals" in device.groups', true, '"terminals" in device.groups'],
    ['"ships" in device.groups', false, '"ships" in device.groups'],
  ]
  for (const [scope, inside, term] of cases) {
    it(`${scope}: ${String(inside)}`, () => {
      const rule = ruleOf({ scope, decide: [{ id: 'x', outcome: 'pass', note: 'n' }] })
      const on = device('hostname d', { facts })
      expect(rule.inScope(on, {})).to.include({ inside, term })
      const { outcome, note } = rule.judge(on, {})
      expect(outcome).to.equal(inside === true ? 'pass' : inside === false ? 'notapplicable' : 'unknown')
      if (inside !== true) expect(note).to.include(inside === 'unknown' ? 'owner' : term)
    })
  }

  it('refuses names that there are not, and says which there are', () => {
    expect(() => compileScope('device.sit == "qs"')).to.throw('a device has no "sit" (it has name, dialect, site')
    expect(() => compileScope('system.hostnam == "a"')).to.throw('system has no "hostnam" (it has hostname, ')
    expect(() => compileScope('system.services.sshd.enabled')).to.throw('system.services has no "sshd"')
    for (const right of [
      'device.labels.anything == 1',
      'system.services.ssh.enabled == true',
      'interfaces.exists(i, i.mtu > 9000)',
      '"x" in device.groups',
    ])
      compileScope(right)
  })

  it('joins terms as Kleene does, whatever their nesting', () => {
    // Each of the three truth values as a term; a name that is not bound is unknown.
    const leaf = fc.constantFrom(['true', true], ['false', false], ['a.b', 'unknown']) as fc.Arbitrary<
      [string, boolean | 'unknown']
    >
    const not = (truth: boolean | 'unknown'): boolean | 'unknown' => (truth === 'unknown' ? truth : !truth)
    const and = (a: boolean | 'unknown', b: boolean | 'unknown'): boolean | 'unknown' =>
      a === false || b === false ? false : a === 'unknown' || b === 'unknown' ? 'unknown' : true
    const tree: fc.Arbitrary<[string, boolean | 'unknown']> = fc.letrec<{ node: [string, boolean | 'unknown'] }>(
      (tie) => ({
        node: fc.oneof(
          { depthSize: 'small' },
          leaf,
          fc
            .tuple(tie('node'), tie('node'), fc.boolean())
            .map(([[a, x], [b, y], both]): [string, boolean | 'unknown'] =>
              both ? [`(${a} && ${b})`, and(x, y)] : [`(${a} || ${b})`, not(and(not(x), not(y)))],
            ),
          tie('node').map(([a, x]): [string, boolean | 'unknown'] => [`!(${a})`, not(x)]),
        ),
      }),
    ).node
    fc.assert(
      fc.property(tree, ([text, truth]) => {
        expect(compileScope(text)({}).inside, text).to.equal(truth)
      }),
      { numRuns: 400 },
    )
  })

  it('refuses what is no expression, and names it', () => {
    expect(() => ruleOf({ scope: 'device.site ==', decide: [{ id: 'x', outcome: 'pass', note: 'n' }] })).to.throw(
      /device\.site ==/,
    )
  })
})

const ROUTER = `hostname d
router bgp 65001
 neighbor 10.0.0.2 remote-as 2
 address-family ipv4 unicast
  neighbor 10.0.0.2 maximum-prefix 100
  neighbor 10.0.0.3 activate
 exit-address-family
ip access-list extended A
 10 permit tcp any any eq 22
 20 deny tcp any any
 30 permit ip any any
logging host 10.0.0.5
logging host 10.0.0.6
`

describe('conditions over lines and blocks', () => {
  const chain = ['router bgp <asn>', 'address-family ipv4 ...']
  const cases: { name: string; when: unknown; is: 'pass' | 'fail'; missing?: string[]; extra?: string[] }[] = [
    {
      name: 'a line in a block named by its chain',
      when: { line: 'neighbor <peer> maximum-prefix <most>', in: chain },
      is: 'pass',
    },
    {
      name: 'trap: the same line one block further out',
      when: { line: 'neighbor <peer> maximum-prefix <most>', in: ['router bgp <asn>'] },
      is: 'fail',
    },
    { name: 'absent from the block', when: { absent: 'neighbor * route-map ...', in: chain }, is: 'pass' },
    { name: 'absent from a block that is not there', when: { absent: 'x', in: 'router ospf *' }, is: 'pass' },
    {
      name: 'what a chain binds is known afterwards',
      when: {
        all: [
          { line: 'neighbor <peer> maximum-prefix <most>', in: chain },
          { expr: 'asn == "65001" && most == "100"' },
        ],
      },
      is: 'pass',
    },
    { name: 'RE2 over a line as listed', when: { matching: '^logging host 10\\.0\\.0\\.[56]$' }, is: 'pass' },
    { name: 'RE2 in a block', when: { matching: 'maximum-prefix', in: chain }, is: 'pass' },
    {
      name: 'a pasted block',
      when: {
        holds:
          'router bgp 65001\n address-family ipv4 unicast\n  neighbor 10.0.0.2 maximum-prefix 100\nlogging host 10.0.0.5',
      },
      is: 'pass',
    },
    {
      name: 'a pasted block of which a line is missing',
      when: { holds: 'router bgp 65001\n neighbor 10.0.0.2 remote-as 2\n neighbor 10.0.0.9 remote-as 9' },
      is: 'fail',
      missing: ['router bgp 65001 › neighbor 10.0.0.9 remote-as 9'],
    },
    {
      name: 'trap: a pasted line that stands in another block',
      when: { holds: 'neighbor 10.0.0.2 remote-as 2' },
      is: 'fail',
      missing: ['neighbor 10.0.0.2 remote-as 2'],
    },
    {
      name: 'exactly these',
      when: { exactly: { of: 'logging host ...', lines: ['logging host 10.0.0.6', 'logging host 10.0.0.5'] } },
      is: 'pass',
    },
    {
      name: 'one missing, one too many',
      when: { exactly: { of: 'logging host ...', lines: 'logging host 10.0.0.5\nlogging host 10.0.0.9' } },
      is: 'fail',
      missing: ['logging host 10.0.0.9'],
      extra: ['logging host 10.0.0.6'],
    },
    {
      name: 'in this order',
      when: {
        order: ['* permit tcp ...', '* permit ip any any'].map((text) =>
          text.replace('* ', '10 ').replace('10 permit ip', '30 permit ip'),
        ),
        in: 'ip access-list extended A',
      },
      is: 'pass',
    },
    {
      name: 'not contiguous',
      when: { order: ['10 permit tcp ...', '30 permit ip ...'], contiguous: true, in: 'ip access-list extended A' },
      is: 'fail',
    },
    {
      name: 'contiguous',
      when: { order: ['10 permit tcp ...', '20 deny tcp ...'], contiguous: true, in: 'ip access-list extended A' },
      is: 'pass',
    },
    {
      name: 'trap: the other way round',
      when: { order: ['30 permit ip ...', '10 permit tcp ...'], in: 'ip access-list extended A' },
      is: 'fail',
    },
    {
      name: 'one of the order is missing',
      when: { order: ['10 permit tcp ...', '40 deny ...'], in: 'ip access-list extended A' },
      is: 'fail',
      missing: ['40 deny ...'],
    },
    { name: 'at least two', when: { count: { of: 'logging host ...', atLeast: 2 } }, is: 'pass' },
    { name: 'at most one', when: { count: { of: 'logging host ...', atMost: 1 } }, is: 'fail' },
    {
      name: 'counted where something holds',
      when: { count: { of: 'logging host <host>', where: 'host == "10.0.0.5"', atMost: 1 } },
      is: 'pass',
    },
  ]
  for (const { name, when, is, missing, extra } of cases) {
    it(`${name}: ${is}`, () => {
      const judged = asked(when, device(ROUTER))
      expect(judged.outcome, judged.note).to.equal(is)
      if (missing) expect(judged.missing).to.deep.equal(missing)
      if (extra) expect(judged.extra).to.deep.equal(extra)
      expect(judged.places).to.not.have.length(0)
    })
  }

  it('what is pasted is read in the dialect of the device', () => {
    const braced = device('system { services { ssh; } host-name d; }', { dialect: 'braced' })
    expect(asked({ holds: 'system {\n services {\n  ssh;\n }\n}' }, braced).outcome).to.equal('pass')
    expect(asked({ holds: 'system { services { telnet; } }' }, braced)).to.deep.include({
      outcome: 'fail',
      missing: ['system services telnet'],
    })
  })

  it('what a pattern binds goes before a part of the model of that name', () => {
    const rule = ruleOf({
      decide: [
        { id: 'x', when: { line: 'logging host <system>' }, outcome: 'pass', note: '${system}' },
        { id: 'y', outcome: 'fail', note: 'n' },
      ],
    })
    expect(rule.judge(device(ROUTER), {}).note).to.equal('10.0.0.5')
  })

  it('lines that may be hidden leave it open', () => {
    const cut = 'hostname d\nlogging host 10.0.0.5\nbanner motd ^\nno end'
    for (const when of [
      { holds: 'ntp server 10.0.0.1' },
      { exactly: { of: 'logging host ...', lines: ['logging host 10.0.0.5', 'logging host 10.0.0.6'] } },
      { count: { of: 'logging host ...', atLeast: 2 } },
      { matching: 'ntp' },
      { line: 'x', in: 'router bgp *' },
      { order: ['logging host ...', 'ntp server ...'] },
    ])
      expect(asked(when, device(cut)).outcome, JSON.stringify(when)).to.equal('unknown')
    expect(asked({ count: { of: 'logging host ...', atMost: 0 } }, device(cut)).outcome).to.equal('fail')
  })

  it('subjects by a chain of blocks, and entries of lists within lists', () => {
    const families = ruleOf({
      each: { block: 'address-family <family> ...', in: 'router bgp <asn>' },
      nothing: { outcome: 'notapplicable', note: 'n' },
      decide: [{ id: 'x', outcome: 'pass', note: '${family} in ${asn}' }],
    }).judge(device(ROUTER), {})
    expect([families.subjects.map(({ name }) => name), families.note]).to.deep.equal([
      ['address-family ipv4 unicast'],
      'ipv4 in 65001',
    ])
    const neighbours = ruleOf({
      each: { model: 'bgp.neighbours', as: 'peer', name: 'peer.address' },
      nothing: { outcome: 'notapplicable', note: 'n' },
      decide: [
        { id: 'as', when: { model: 'peer.remoteAs != null' }, outcome: 'pass', note: 'n' },
        { id: 'x', outcome: 'fail', note: 'n' },
      ],
    }).judge(device(ROUTER), {})
    expect(neighbours.subjects.map(({ name, outcome }) => [name, outcome])).to.deep.equal([
      ['10.0.0.2', 'pass'],
      ['10.0.0.3', 'fail'],
    ])
    expect(neighbours.places.map(({ from }) => from)).to.deep.equal([6])
  })
})

describe('which entries of a list of the model are meant', () => {
  const TWO = 'hostname d\ninterface Vlan1\n mtu 9000\ninterface Vlan2\n mtu 1500\n'
  const meant = (where: string): string[] =>
    ruleOf({
      each: { model: 'interfaces', as: 'port', name: 'port.name', where },
      nothing: { outcome: 'notapplicable', note: 'n' },
      decide: [{ id: 'x', outcome: 'pass', note: 'n' }],
    })
      .judge(device(TWO), {})
      .subjects.map(({ name }) => name)
  for (const [where, names] of [
    ['port.mtu == 9000', ['Vlan1']],
    // What asks of more than the entry is answered another way, and the same.
    ['port.mtu == 9000 && origin("system.hostname") == "line"', ['Vlan1']],
    ['origin("port.mtu") == "line" && port.mtu < 9000', ['Vlan2']],
    ['origin("system.hostname") == "absent"', []],
  ] as const)
    it(where, () => expect(meant(where)).to.deep.equal(names))
})

describe('expressions over the model', () => {
  const cases: [when: string, is: 'pass' | 'fail'][] = [
    ['origin("system.hostname") == "line"', 'pass'],
    ['origin("system.services.bootp.enabled") == "default"', 'pass'],
    ['origin("system.banners.login") == "absent"', 'pass'],
    ['overlaps("10.0.0.0/8", "10.40.0.0/16") && !overlaps("10.0.0.0/8", "11.0.0.0/8")', 'pass'],
    ['covered("10.40.1.0/24", ["10.40.0.0/16", "192.0.2.0/24"])', 'pass'],
    ['covered("10.0.0.0/8", ["10.40.0.0/16"])', 'fail'],
    ['holdsAll(["a", "b"], ["b"]) && meet(["a"], ["a", "c"]) && lacking(["a", "b"], ["b"]) == ["a"]', 'pass'],
  ]
  for (const [when, is] of cases)
    it(`${when}: ${is}`, () => expect(asked({ model: when }, device('hostname d')).outcome).to.equal(is))

  it('a subject can ask where its own value is from', () => {
    const rule = ruleOf({
      each: { model: 'interfaces', as: 'port', name: 'port.name' },
      nothing: { outcome: 'notapplicable', note: 'n' },
      decide: [
        { id: 'stated', when: { model: 'origin("port.proxyArp") == "line"' }, outcome: 'pass', note: 'n' },
        { id: 'x', outcome: 'fail', note: 'n' },
      ],
    })
    expect(
      rule
        .judge(device('interface Vlan1\n no ip proxy-arp\ninterface Vlan2\n mtu 9000\n'), {})
        .subjects.map(({ outcome }) => outcome),
    ).to.deep.equal(['pass', 'fail'])
  })
})

const hours = (count: number): number => count * 3_600_000

describe('conditions over state', () => {
  const taken = '2026-11-16T06:00:00Z'
  const outputs = (text: string, takenAt: string | null = taken): ReadRecord[] => [
    { id: 'ntp', kind: 'state/ntp', tree: null, text, takenAt },
  ]
  const at = (after: number): Clock => new Clock(Date.parse(taken) + after)
  const synced = 'Clock is synchronized, stratum 3, reference is 10.0.0.1\n'
  const when = { state: 'state.ntp.synchronised == true', of: 'ntp', maxAge: 3600 * 24 }
  const cases: { name: string; records: ReadRecord[]; clock: Clock; is: RawJudgement['outcome']; why?: RegExp }[] = [
    { name: 'holds', records: outputs(synced), clock: at(hours(1)), is: 'pass' },
    {
      name: 'does not hold',
      records: outputs('Clock is unsynchronized, stratum 16, no reference clock\n'),
      clock: at(hours(1)),
      is: 'fail',
    },
    { name: 'was not captured', records: [], clock: at(0), is: 'unknown', why: /"ntp" was not captured/ },
    { name: 'is too old', records: outputs(synced), clock: at(hours(24)), is: 'unknown', why: /older than 86400 s/ },
    {
      name: 'nobody knows how old it is',
      records: outputs(synced, null),
      clock: at(0),
      is: 'unknown',
      why: /is unknown/,
    },
    {
      name: 'is in no known form',
      records: outputs('what is this\n'),
      clock: at(0),
      is: 'unknown',
      why: /unsupported form/,
    },
  ]
  for (const { name, records, clock, is, why } of cases) {
    it(`${name}: ${is}`, () => {
      const judged = asked(when, device('hostname d', { records, clock }))
      expect(judged.outcome, judged.note).to.equal(is)
      if (why) expect(judged.note).to.match(why)
      if (is === 'pass') expect(judged.places).to.deep.equal([{ record: 'ntp', from: 1, to: 1, absent: false }])
    })
  }

  it('tells until when an answer that rests on time holds', () => {
    const clock = at(hours(1))
    asked(when, device('hostname d', { records: outputs(synced), clock }))
    expect(clock.until).to.equal(Date.parse(taken) + hours(24))
    const later = new Clock(Date.parse('2026-11-01T00:00:00Z'))
    expect(
      asked({ model: 'expiresWithin("2026-12-01T00:00:00Z", 10)' }, device('hostname d', { clock: later })).outcome,
    ).to.equal('fail')
    expect(later.until).to.equal(Date.parse('2026-11-21T00:00:00Z'))
    expect(
      asked({ model: 'expired("2026-10-01T00:00:00Z")' }, device('hostname d', { clock: later })).outcome,
    ).to.equal('pass')
  })
})

describe('conditions over change', () => {
  const pair = (before: string, now: string): JudgedDevice => device(now, { before: device(before) })
  const vlans = (...ids: number[]): string => ids.map((id) => `vlan ${id}\n`).join('')
  const cases: {
    name: string
    change: object
    before: string
    now: string
    is: 'pass' | 'fail'
    missing?: string[]
    extra?: string[]
  }[] = [
    {
      name: 'unchanged',
      change: { of: 'system.ntp.servers.map(s, s.address)', is: 'unchanged' },
      before: 'ntp server 10.0.0.1\nntp server 10.0.0.2',
      now: 'ntp server 10.0.0.2\nntp server 10.0.0.1',
      is: 'pass',
    },
    {
      name: 'not unchanged',
      change: { of: 'system.hostname', is: 'unchanged' },
      before: 'hostname a',
      now: 'hostname b',
      is: 'fail',
      missing: ['a'],
      extra: ['b'],
    },
    {
      name: 'something appeared',
      change: { of: 'vlans.map(v, v.id)', is: 'appeared' },
      before: vlans(1, 2),
      now: vlans(2, 3),
      is: 'pass',
      missing: ['1'],
      extra: ['3'],
    },
    {
      name: 'nothing vanished',
      change: { of: 'vlans.map(v, v.id)', is: 'vanished' },
      before: vlans(1),
      now: vlans(1, 2),
      is: 'fail',
    },
    { name: 'grew', change: { of: 'vlans', is: 'grew' }, before: vlans(1), now: vlans(1, 2), is: 'pass' },
    { name: 'kept its size', change: { of: 'vlans', is: 'kept' }, before: vlans(1, 2), now: vlans(3, 4), is: 'pass' },
    {
      name: 'within a number',
      change: { of: 'vlans', is: 'within', by: 1 },
      before: vlans(1, 2),
      now: vlans(1, 2, 3),
      is: 'pass',
    },
    {
      name: 'not within a share',
      change: { of: 'vlans', is: 'within', percent: 10 },
      before: vlans(1, 2),
      now: vlans(1, 2, 3),
      is: 'fail',
    },
  ]
  for (const { name, change, before, now, is, missing, extra } of cases) {
    it(`${name}: ${is}`, () => {
      const judged = asked({ change }, pair(before, now))
      expect(judged.outcome, judged.note).to.equal(is)
      if (missing) expect(judged.missing).to.deep.equal(missing)
      if (extra) expect(judged.extra).to.deep.equal(extra)
    })
  }
  it('puts both values into the note', () => {
    const { note } = ruleOf({
      decide: [
        { id: 'same', when: { change: { of: 'system.hostname', is: 'unchanged' } }, outcome: 'pass', note: 'n' },
        { id: 'x', outcome: 'fail', note: 'It was ${before} and is ${after}.' },
      ],
    }).judge(pair('hostname a', 'hostname b'), {})
    expect(note).to.equal('It was a and is b.')
  })
  it('is unknown where no output was captured on a side', () => {
    const routes = { id: 'r', kind: 'state/routes', tree: null, text: '[]' } as const
    const change = { of: 'size(state.routes)', is: 'within', by: 0 }
    const [bare, captured] = [device('hostname a'), device('hostname a', { records: [routes] })]
    for (const [now, before] of [
      [bare, bare],
      [captured, bare],
      [bare, captured],
    ])
      expect(asked({ change }, { ...now, before: before ?? null } as JudgedDevice).outcome).to.equal('unknown')
    expect(asked({ change }, { ...captured, before: captured }).outcome).to.equal('pass')
  })
  it('is unknown without an earlier snapshot', () =>
    expect(asked({ change: { of: 'vlans', is: 'kept' } }, device('hostname d')).outcome).to.equal('unknown'))
})

describe('conditions across devices', () => {
  interface Given {
    readonly name: string
    readonly config: string
    readonly neighbours?: string
    readonly labels?: Record<string, string>
  }
  /** Puts a rule to an estate; outcomes by device. */
  function across(when: object, given: readonly Given[]): Record<string, RawJudgement> {
    const rule = ruleOf({
      decide: [
        { id: 'holds', when, outcome: 'pass', note: 'n' },
        { id: 'not', outcome: 'fail', note: 'n' },
      ],
    })
    const make = ({ name, config, neighbours, labels = {} }: Given, estate: DeviceParts['estate']): JudgedDevice =>
      device(config, {
        name,
        facts: { labels },
        ...(estate ? { estate } : {}),
        records:
          neighbours === undefined
            ? []
            : [
                {
                  id: 'n',
                  kind: 'state/neighbours',
                  tree: null,
                  text: `Device ID           Local Intf     Hold-time  Capability      Port ID\n${neighbours}\n`,
                },
              ],
      })
    const answers = joinAnswers(
      given.map(
        (one) =>
          [
            one.name,
            new Map(
              rule.estateQuestions.flatMap((question) =>
                askOne(question, make(one, null), {}).map((answer) => [question.key, answer] as const),
              ),
            ),
          ] as const,
      ),
    )
    return Object.fromEntries(given.map((one) => [one.name, rule.judge(make(one, new EstateView(answers)), {})]))
  }
  const outcomes = (judged: Record<string, RawJudgement>): Record<string, string> =>
    Object.fromEntries(Object.entries(judged).map(([name, { outcome }]) => [name, outcome]))

  it('the same value on all of a group', () => {
    const given = [
      { name: 'a', config: 'ip domain name x.example', labels: { site: 'qs' } },
      { name: 'b', config: 'ip domain name x.example', labels: { site: 'qs' } },
      { name: 'c', config: 'ip domain name y.example', labels: { site: 'qn' } },
    ]
    expect(outcomes(across({ same: 'system.domainName', among: 'device.labels.site == "qs"' }, given))).to.deep.equal({
      a: 'pass',
      b: 'pass',
      c: 'fail',
    })
    const all = across({ same: 'system.domainName' }, given)
    expect(all['a']?.extra).to.deep.equal(['c: y.example'])
  })

  it('unique in the estate: addresses, and secrets by their fingerprints', () => {
    const port = (address: string): string => `interface Vlan1\n ip address ${address} 255.255.255.0\n`
    const given = [
      { name: 'a', config: port('10.0.0.1') },
      { name: 'b', config: port('10.0.0.2') },
      { name: 'c', config: port('10.0.0.1') },
    ]
    const judged = across({ unique: 'interfaces.map(i, i.addresses.map(a, a.address)[0])' }, given)
    expect(outcomes(judged)).to.deep.equal({ a: 'fail', b: 'pass', c: 'fail' })
    expect(judged['a']?.extra).to.deep.equal(['10.0.0.1 on c'])
    const secrets = across({ unique: 'system.enableSecret == null ? [] : [system.enableSecret.fingerprint]' }, [
      { name: 'a', config: 'enable secret 9 gull' },
      { name: 'b', config: 'enable secret 9 gull' },
      { name: 'c', config: 'enable secret 9 albatross' },
    ])
    expect(outcomes(secrets)).to.deep.equal({ a: 'fail', b: 'fail', c: 'pass' })
    expect(JSON.stringify(secrets)).to.not.include('gull')
  })

  const end = (lines: string): string => `interface GigabitEthernet1/0/1\n${lines}`
  const links: { name: string; ends: string; a: string; b: string; is: string }[] = [
    { name: 'MTU agrees', ends: 'mtu', a: ' mtu 9000\n', b: ' mtu 9000\n', is: 'pass' },
    { name: 'MTU mismatch', ends: 'mtu', a: ' mtu 9000\n', b: ' mtu 1500\n', is: 'fail' },
    { name: 'trap: MTU stated at one end only', ends: 'mtu', a: ' mtu 9000\n', b: ' no shutdown\n', is: 'pass' },
    {
      name: 'VLANs differ',
      ends: 'vlans',
      a: ' switchport mode trunk\n switchport trunk allowed vlan 10,20\n',
      b: ' switchport mode trunk\n switchport trunk allowed vlan 10\n',
      is: 'fail',
    },
    {
      name: 'every VLAN, stated or by default',
      ends: 'vlans',
      a: ' switchport mode trunk\n switchport trunk allowed vlan all\n',
      b: ' switchport mode trunk\n',
      is: 'pass',
    },
    {
      name: 'one list in two writings',
      ends: 'vlans',
      a: ' switchport mode trunk\n switchport trunk allowed vlan 10-12\n',
      b: ' switchport mode trunk\n switchport trunk allowed vlan 12,10,11\n',
      is: 'pass',
    },
    {
      name: 'trap: lists that nobody can read are not equal',
      ends: 'vlans',
      a: ' switchport mode trunk\n switchport trunk allowed vlan CARDS\n',
      b: ' switchport mode trunk\n switchport trunk allowed vlan CARDS\n',
      is: 'unknown',
    },
    {
      name: 'one end is no trunk',
      ends: 'vlans',
      a: ' switchport mode trunk\n',
      b: ' switchport mode access\n',
      is: 'fail',
    },
    {
      name: 'areas are written differently and are one',
      ends: 'ospf',
      a: ' ip ospf 1 area 0\n',
      b: ' ip ospf 1 area 0.0.0.0\n',
      is: 'pass',
    },
    {
      name: 'timers of OSPF differ',
      ends: 'ospf',
      a: ' ip ospf 1 area 0\n ip ospf hello-interval 5\n',
      b: ' ip ospf 1 area 0\n',
      is: 'fail',
    },
    { name: 'one end is protected', ends: 'protection', a: ' macsec\n', b: ' no shutdown\n', is: 'fail' },
    { name: 'speed differs', ends: 'speed', a: ' speed 1000\n', b: ' speed 100\n', is: 'fail' },
  ]
  for (const { name, ends, a, b, is } of links) {
    it(`both ends of a link: ${name}: ${is}`, () => {
      // One-sided: only `a` has seen its neighbour, by the short name of the port.
      const judged = across({ ends }, [
        {
          name: 'a',
          config: end(a),
          neighbours: 'b.example           Gi1/0/1          120        B,R          Gi1/0/1',
        },
        { name: 'b', config: end(b) },
      ])
      expect(judged['a']?.outcome, judged['a']?.note).to.equal(is)
      if (is === 'fail') expect(judged['a']?.extra[0]).to.match(/GigabitEthernet1\/0\/1.*; b GigabitEthernet1\/0\/1/)
    })
  }
  it('both ends of a link: by a subnet for two, and unknown where no other end is known', () => {
    const port = (address: string, mtu: number): string =>
      `interface Vlan1\n ip address ${address} 255.255.255.252\n mtu ${mtu}\n`
    expect(
      outcomes(
        across({ ends: 'mtu' }, [
          { name: 'a', config: port('10.0.0.1', 9000) },
          { name: 'b', config: port('10.0.0.2', 1500) },
          { name: 'c', config: port('10.9.0.1', 1500) },
        ]),
      ),
    ).to.deep.equal({ a: 'fail', b: 'fail', c: 'unknown' })
  })
  it('is unknown while the others were not asked', () =>
    expect(asked({ unique: 'system.hostname' }, device('hostname d')).outcome).to.equal('unknown'))
})

import { expect } from 'chai'
import {
  auditSnapshot,
  fingerprintWithKey,
  maskWithKey,
  prepare,
  readBenchmark,
  readSnapshot,
  type AuditDocument,
  type Snapshot,
  type Verdict,
} from '../../src/index.ts'
import type { Outcome } from '../../src/rules/index.ts'
import { applyWaivers, auditDocumentSchema, scoreOf, type AuditOptions, type Waiver } from '../../src/audit/index.ts'
import {
  answersTo,
  coverageOf,
  frameworkSchema,
  reviewsOf,
  type AttestationAnswer,
  type Choice,
  type Reviewing,
} from '../../src/benchmarks/index.ts'

const benchmark = readBenchmark(`
id: own
title: Own
version: '1'
statement: s
profiles: [{id: base, title: Base}, {id: more, title: More}]
values:
  limit: {type: int, title: Limit, default: 600}
  hosts: {type: hosts, title: Hosts}
rules:
  - {id: mtu, title: MTU, topic: Ports, severity: low, profile: base, statement: s, references: ['f:1.1'], each: {model: interfaces, as: port, name: port.name}, nothing: {outcome: notapplicable, note: n}, decide: [{id: small, when: {model: port.mtu == limit}, outcome: pass, note: n}, {id: other, outcome: fail, note: '\${port.name} has \${port.mtu}, not \${limit}.'}]}
  - {id: named, title: Named, topic: Names, severity: high, profile: base, statement: s, decide: [{id: yes, when: {unique: system.hostname}, outcome: pass, note: n}, {id: twice, outcome: fail, note: 'Also \${twins}.'}]}
  - {id: extra, title: Extra, topic: Names, severity: low, profile: more, statement: s, decide: [{id: x, outcome: pass, note: n}]}
attestations:
  - {id: trained, title: People are trained, topic: People, severity: medium, profile: base, question: Are they?, evidence: A list of names, references: ['f:2.1'], days: 30}
`)
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const config = (name: string, ...mtus: number[]): string =>
  `hostname ${name}\n${mtus.map((mtu, i) => `interface Vlan${i + 1}\n mtu ${mtu}\n`).join('')}`
const snapshotOf = (devices: Record<string, { config: string; facts?: string }>): Snapshot =>
  readSnapshot(
    Object.entries(devices).flatMap(([name, { config: text, facts }]) => [
      { path: `devices/${name}/config.txt`, bytes: bytes(text) },
      ...(facts === undefined ? [] : [{ path: `devices/${name}/device.yaml`, bytes: bytes(facts) }]),
    ]),
  )
const estate = snapshotOf({
  a: { config: config('a', 600, 900), facts: 'site: qs\n' },
  b: { config: config('b', 900), facts: 'site: qn\nlabels: { card: true }\n' },
})
const audited = (choice: Partial<Choice> = {}, options: Partial<AuditOptions> = {}, snapshot = estate): AuditDocument =>
  auditSnapshot(snapshot, [{ benchmark, profile: null, values: {}, ...choice }], {
    build: 'test',
    mask: maskWithKey(new Uint8Array(32)),
    fingerprint: fingerprintWithKey(new Uint8Array(32)),
    ...options,
  })
const verdict = (document: AuditDocument, device: string, rule: string): Verdict => {
  const found = document.verdicts.find((one) => one.device === device && one.rule === rule)
  if (!found) throw new Error(`${device} ${rule}`)
  return found
}

describe('fitting a benchmark', () => {
  it('a value holds for the engagement, for a site and for a device; each verdict says which and who set it', () => {
    const document = audited({
      values: { limit: 500 },
      overrides: [
        { scope: 'device.site == "qn"', title: 'Quay North', values: { limit: 900 } },
        { scope: 'device.name == "a"', title: 'device a', values: { limit: 600 } },
      ],
    })
    expect(verdict(document, 'a', 'mtu').values).to.deep.equal([{ name: 'limit', value: '600', from: 'device a' }])
    expect(verdict(document, 'b', 'mtu')).to.deep.include({
      outcome: 'pass',
      values: [{ name: 'limit', value: '900', from: 'Quay North' }],
    })
    expect(verdict(audited({ values: { limit: 500 } }), 'a', 'mtu').values[0]?.from).to.equal('engagement')
    expect(verdict(audited(), 'a', 'mtu').values[0]).to.deep.equal({ name: 'limit', value: '600', from: 'default' })
    expect(verdict(document, 'a', 'named').values).to.deep.equal([])
  })

  it('a scope that cannot be said of a device overrides nothing there', () => {
    const document = audited({ overrides: [{ scope: 'device.labels.card', title: 'card', values: { limit: 900 } }] })
    expect([
      verdict(document, 'a', 'mtu').values[0]?.from,
      verdict(document, 'b', 'mtu').values[0]?.from,
    ]).to.deep.equal(['default', 'card'])
  })

  it('refuses what the benchmark does not have', () => {
    const cases: [Partial<Choice>, RegExp][] = [
      [{ overrides: [{ scope: 'true', title: 't', values: { nothing: 1 } }] }, /no value "nothing"/],
      [{ overrides: [{ scope: 'device.', title: 't', values: {} }] }, /device\./],
      [{ tailoring: [{ rule: 'nothing', selected: false, reason: 'r', by: '' }] }, /no rule "nothing"/],
      [{ profile: 'none' }, /no profile "none"/],
    ]
    for (const [choice, why] of cases)
      expect(() => prepare({ benchmark, profile: null, values: {}, ...choice })).to.throw(why)
  })

  it('a rule left out is not selected, a severity changed is another one, and the reasons are told', () => {
    const document = audited({
      tailoring: [
        { rule: 'named', selected: false, reason: 'names are given elsewhere', by: 'ada' },
        { rule: 'mtu', severity: 'high', reason: 'it broke twice', by: 'ada' },
      ],
    })
    expect(document.verdicts.map(({ rule }) => rule)).to.not.include('named')
    expect(document.counts.notselected).to.equal(2)
    expect(verdict(document, 'a', 'mtu').severity).to.equal('high')
    expect(document.tailored).to.deep.equal([
      { benchmark: 'own', rule: 'named', what: 'left out', reason: 'names are given elsewhere', by: 'ada' },
      { benchmark: 'own', rule: 'mtu', what: 'severity high', reason: 'it broke twice', by: 'ada' },
    ])
    expect(auditDocumentSchema.parse(document)).to.deep.equal(document)
  })

  it('a profile holds the rules of those before it', () => {
    expect(audited({ profile: 'base' }).verdicts.map(({ rule }) => rule)).to.not.include('extra')
    expect(audited({ profile: 'more' }).verdicts.map(({ rule }) => rule)).to.include('extra')
  })
})

describe('judging an estate', () => {
  it('puts the questions across devices to all of them before it judges one', () => {
    const twice = audited(
      {},
      {},
      snapshotOf({
        x: { config: config('same', 600) },
        y: { config: config('same', 600) },
        z: { config: config('z', 600) },
      }),
    )
    expect(['x', 'y', 'z'].map((name) => verdict(twice, name, 'named').outcome)).to.deep.equal(['fail', 'fail', 'pass'])
    expect(verdict(twice, 'x', 'named').note).to.equal('Also same on y.')
  })
})

describe('waivers', () => {
  const now = Date.parse('2026-11-20T00:00:00Z')
  const waiver = (more: Partial<Waiver>): Waiver => ({
    benchmark: 'own',
    rule: 'mtu',
    device: null,
    subject: null,
    reason: 'replaced in spring',
    owner: 'orla',
    expires: '2026-12-31T00:00:00Z',
    ...more,
  })
  const cases: { name: string; waivers: Waiver[]; a: boolean; b: boolean }[] = [
    { name: 'for every device', waivers: [waiver({})], a: true, b: true },
    { name: 'for one device', waivers: [waiver({ device: 'b' })], a: false, b: true },
    {
      name: 'for one subject, which is all that is objected to',
      waivers: [waiver({ device: 'a', subject: 'Vlan2' })],
      a: true,
      b: false,
    },
    {
      name: 'for a subject that nothing is wrong with',
      waivers: [waiver({ device: 'a', subject: 'Vlan1' })],
      a: false,
      b: false,
    },
    { name: 'of another rule', waivers: [waiver({ rule: 'named' })], a: false, b: false },
    { name: 'of another benchmark', waivers: [waiver({ benchmark: 'other' })], a: false, b: false },
    { name: 'that has expired', waivers: [waiver({ expires: '2026-11-20T00:00:00Z' })], a: false, b: false },
  ]
  for (const { name, waivers, a, b } of cases) {
    it(name, () => {
      const document = audited({}, { waivers, now })
      for (const [device, is] of [
        ['a', a],
        ['b', b],
      ] as const) {
        const own = verdict(document, device, 'mtu')
        expect([own.outcome, own.waived !== undefined]).to.deep.equal(['fail', is])
      }
      expect(document.counts).to.include({ fail: 2, waived: Number(a) + Number(b) })
    })
  }
  it('two of two subjects, or nothing', () => {
    const two = audited({}, {}, snapshotOf({ a: { config: config('a', 900, 901) } })).verdicts
    expect(applyWaivers(two, [waiver({ subject: 'Vlan1' })], now).find(({ rule }) => rule === 'mtu')?.waived).to.equal(
      undefined,
    )
    expect(
      applyWaivers(two, [waiver({ subject: 'Vlan1' }), waiver({ subject: 'Vlan2' })], now).find(
        ({ rule }) => rule === 'mtu',
      )?.waived,
    ).to.have.length(2)
  })
})

describe('attestations', () => {
  const answer = (more: Partial<AttestationAnswer>): AttestationAnswer => ({
    benchmark: 'own',
    attestation: 'trained',
    outcome: 'pass',
    note: 'n',
    by: 'ada',
    at: '2026-11-01T00:00:00Z',
    until: '2026-12-01T00:00:00Z',
    files: [],
    ...more,
  })
  const at = (time: string, answers: AttestationAnswer[]): [string, boolean] => {
    const [one] = answersTo(benchmark.source, answers, Date.parse(time))
    return [one?.outcome ?? '', one?.expired ?? false]
  }
  it('are not checked until answered, count until they end, and the last one counts', () => {
    expect(at('2026-11-10T00:00:00Z', [])).to.deep.equal(['notchecked', false])
    expect(at('2026-11-10T00:00:00Z', [answer({})])).to.deep.equal(['pass', false])
    expect(at('2026-12-01T00:00:00Z', [answer({})])).to.deep.equal(['notchecked', true])
    expect(
      at('2026-11-10T00:00:00Z', [answer({ at: '2026-11-05T00:00:00Z', outcome: 'fail' }), answer({})]),
    ).to.deep.equal(['fail', false])
    expect(
      at('2026-11-10T00:00:00Z', [answer({ at: '2026-11-11T00:00:00Z', outcome: 'fail' }), answer({})]),
    ).to.deep.equal(['pass', false])
  })
  it('stand in the document beside the verdicts', () => {
    const { attested } = audited(
      {},
      { answers: [answer({ files: [{ name: 'names.pdf', sha256: 'ab' }] })], now: Date.parse('2026-11-10T00:00:00Z') },
    )
    expect(attested).to.have.length(1)
    expect(attested[0]).to.include({ id: 'trained', outcome: 'pass', by: 'ada' })
  })
})

const framework = frameworkSchema.parse({
  id: 'f',
  title: 'F',
  remark: 'r',
  parts: { '1.': 'One', '2.': 'Two' },
  requirements: {
    '1.1': { title: 'Ports', by: 'machine', review: 182 },
    '1.2': 'Names',
    '2.1': { title: 'People', by: 'person' },
    '2.2': { title: 'Doors', by: 'outside' },
    '2.3': { title: 'Flows', traffic: 'cards reach only the payment gateway' },
  },
})

describe('coverage and reviews', () => {
  it('says of each requirement who decides it', () => {
    expect(
      coverageOf([benchmark.source], [framework]).map(({ requirement, part, coverage, rules, attestations }) => [
        requirement,
        part,
        coverage,
        rules,
        attestations,
      ]),
    ).to.deep.equal([
      ['1.1', 'One', 'machine', ['mtu'], []],
      ['1.2', 'One', 'none', [], []],
      ['2.1', 'Two', 'person', [], ['trained']],
      ['2.2', 'Two', 'outside', [], []],
      ['2.3', 'Two', 'none', [], []],
    ])
  })
  it('expectations of traffic speak to requirements as rules do', () => {
    const lines = coverageOf([benchmark.source], [framework], [{ id: 'flows', references: ['f:2.3', 'f:1.1'] }])
    expect(
      lines.map(({ requirement, coverage, expectations }) => [requirement, coverage, expectations]),
    ).to.deep.include.members([
      ['2.3', 'partly', ['flows']],
      ['1.1', 'machine', ['flows']],
      ['1.2', 'none', []],
    ])
  })
  it('reviews are met, overdue, or scheduled too rarely', () => {
    const now = Date.parse('2026-11-20T00:00:00Z')
    const done = (...audits: string[]): Map<string, Reviewing[]> =>
      new Map([['f:1.1', audits.map((at) => ({ at, by: 'audit' }))]])
    const answer = (audits: string[], every: number | null): string | undefined =>
      reviewsOf([framework], done(...audits), every, now)[0]?.answer
    expect(answer(['2026-06-01T00:00:00Z'], 90)).to.equal('met')
    expect(answer(['2026-06-01T00:00:00Z'], null)).to.equal('met')
    expect(answer(['2026-06-01T00:00:00Z'], 200)).to.equal('scheduled too rarely')
    expect(answer(['2026-01-01T00:00:00Z'], 90)).to.equal('overdue')
    expect(answer([], 90)).to.equal('overdue')
    expect(reviewsOf([framework], done('2026-06-01T00:00:00Z'), null, now)[0]?.due).to.equal('2026-11-30T00:00:00.000Z')
    // 2025-11-01 to 2026-06-01 are 212 days, more than the 182 that are asked for.
    expect(
      reviewsOf([framework], done('2026-06-01T00:00:00Z', '2025-11-01T00:00:00Z', '2026-10-01T00:00:00Z'), null, now)[0]
        ?.lapse,
    ).to.equal(212)
    expect(reviewsOf([framework], done('2026-06-01T00:00:00Z', '2026-10-01T00:00:00Z'), null, now)[0]?.lapse).to.equal(
      null,
    )
    expect(
      reviewsOf([framework], new Map([['f:2.1', [{ at: '2026-11-01T00:00:00Z', by: 'audit' }]]]), null, now)[0]?.answer,
      'what reviews another requirement does not count',
    ).to.equal('overdue')
  })
})

describe('scores', () => {
  const of = (...outcomes: [rule: string, outcome: Outcome][]): { rule: string; outcome: Outcome }[] =>
    outcomes.map(([rule, outcome]) => ({ rule, outcome }))
  const topic = (rule: string): string => rule.slice(0, 1)
  it('flat: a point for each that passes, of those that count', () => {
    expect(
      scoreOf(
        'b',
        of(['a1', 'pass'], ['a1', 'fail'], ['a2', 'unknown'], ['b1', 'notapplicable'], ['b2', 'notchecked']),
        topic,
      ).flat,
    ).to.deep.equal({ points: 1, of: 3 })
  })
  it('weighted: the mean of topics, each the mean of its rules', () => {
    // Topic a: rule a1 half, rule a2 whole: 75. Topic b: nought. Together 37.5.
    expect(scoreOf('b', of(['a1', 'pass'], ['a1', 'fail'], ['a2', 'pass'], ['b1', 'error']), topic).weighted).to.equal(
      37.5,
    )
    expect(scoreOf('b', of(['a1', 'notapplicable']), topic).weighted).to.equal(null)
  })
})

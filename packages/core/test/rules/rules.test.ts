import Ajv from 'ajv'
import { expect } from 'chai'
import { readFileSync } from 'node:fs'
import { parse as parseYaml } from 'yaml'
import { benchmarkTexts } from '../../../content/src/index.ts'
import { EffectiveConfig, dialectById, modelOf, readBenchmark, type Dialect } from '../../src/index.ts'
import type { Outcome } from '../../src/rules/index.ts'
import { effectiveValues, rulesOf } from '../../src/benchmarks/index.ts'
import { compilePattern, matchPattern } from '../../src/model/index.ts'
import {
  judgedDevice,
  combine,
  compileExpression,
  compileRule,
  conditionInWords,
  ruleSchema,
  userPattern,
} from '../../src/rules/index.ts'
import { Command } from '../../src/syntax/index.ts'
import { deviceOf, ruleOf } from './judging.ts'

const BENCHMARK = `
id: own
title: Own
version: '1'
statement: s
profiles: [{id: a, title: A}, {id: b, title: B}]
values:
  limit: {type: int, title: L, default: 5, min: 1}
  hosts: {type: hosts, title: H}
rules:
  - {id: one, title: O, topic: T, severity: low, profile: a, statement: s, decide: [{id: x, when: ip http server, outcome: fail, note: n}, {id: y, outcome: pass, note: n}]}
  - {id: two, title: O, topic: T, severity: low, profile: b, statement: s, decide: [{id: y, outcome: pass, note: n}]}
`
function judged(rule: unknown, config: string, values: Record<string, unknown> = {}) {
  return ruleOf(rule as object).judge(deviceOf(config), values)
}
const decide = (...branches: [string, unknown, Outcome][]): object => ({
  decide: branches.map(([id, when, outcome]) => ({ id, ...(when === null ? {} : { when }), outcome, note: 'n' })),
})

describe('patterns', () => {
  const matches: [string, string, Record<string, unknown> | null][] = [
    ['ip http server', 'IP HTTP Server', {}],
    ['ip http server', 'ip http server extra', null],
    ['ntp server <address> ...', 'ntp server 10.0.0.1 prefer', { address: '10.0.0.1' }],
    ['ntp server <address> ...', 'ntp server', null],
    ['exec-timeout <m:int> <s:int>', 'exec-timeout 5 0', { m: 5n, s: 0n }],
    ['exec-timeout <m:int>', 'exec-timeout five', null],
    ['logging host <h:address> ...', 'logging host collector', null],
    ['transport {input|output} <rest...>', 'transport output ssh telnet', { rest: 'ssh telnet' }],
    ['username * ... secret {8|9} *', 'username a privilege 15 secret 9 x', {}],
    ['username * ... secret {8|9} *', 'username secret privilege 15', null],
    ['a ... b ... c', 'a b b c', {}],
    ['a ... b ... c', 'a c b', null],
    // Numbered lines of lists begin with any number.
    ['* permit ip any any', '10 permit ip any any', {}],
    ['<n:int> permit ...', '10 permit ip any any', { n: 10n }],
    ['<n:int> permit ...', 'ten permit ip any any', null],
    ['{permit|deny} ip any any', 'deny ip any any', {}],
  ]
  for (const [pattern, text, bound] of matches)
    it(`${pattern} on "${text}"`, () =>
      expect(matchPattern(compilePattern(pattern), new Command(text, false, false, null, null, false))).to.deep.equal(
        bound,
      ))

  for (const wrong of ['... b', '<a...>', 'a <b...> c', 'a <list>', 'a <b:colour>', 'a ... ... ... ...']) {
    it(`refuses "${wrong}" and says why`, () => expect(() => compilePattern(wrong)).to.throw(`"${wrong}"`))
  }
})

describe('expressions', () => {
  it('refuses what has no bound on its run time, and what is not CEL', () => {
    expect(() => compileExpression('a.matches("(a+)+$")')).to.throw(/found/)
    expect(() => compileExpression('a +')).to.throw(/"a \+"/)
    expect(() => userPattern('(?=x)')).to.throw(/RE2/)
  })
  it('matches in linear time', () => {
    expect(compileExpression('found(text, "^(a+)+$")').evaluate({ text: `${'a'.repeat(50_000)}!` })).to.equal(false)
  })
  const cases: [string, Record<string, unknown>, unknown][] = [
    ['among(h, hosts)', { h: '2001:DB8::1', hosts: ['2001:db8:0::1'] }, true],
    ['numbered(k, ks)', { k: '2', ks: ['1 - 3'] }, true],
    ['inside("10.1.2.3", "10.0.0.0/8")', {}, true],
    ['inside("10.0.0.0/7", "10.0.0.0/8")', {}, false],
    ['without(m, "none")', { m: 'local none' }, 'local'],
  ]
  for (const [source, names, value] of cases)
    it(source, () => expect(compileExpression(source).evaluate(names)).to.equal(value))
})

describe('deciding', () => {
  it('combines outcomes by XCCDF’s AND table (NIST IR 7275 r4; from memory)', () => {
    const table: [Outcome[], Outcome][] = [
      [['pass', 'fail'], 'fail'],
      [['unknown', 'error'], 'unknown'],
      [['pass', 'error'], 'error'],
      [['pass', 'notapplicable'], 'pass'],
      [['notapplicable', 'notchecked'], 'notapplicable'],
      [['fail', 'unknown', 'error'], 'fail'],
    ]
    for (const [outcomes, whole] of table) {
      expect(combine(outcomes)).to.equal(whole)
      expect(combine(outcomes.toReversed())).to.equal(whole)
    }
  })

  const cut = 'banner login ^C\n'
  const open: [string, object, string, Outcome][] = [
    [
      'a line that is there decides, whole or not',
      decide(['on', 'ip http server', 'fail'], ['off', null, 'pass']),
      `ip http server\n${cut}`,
      'fail',
    ],
    [
      'a line that is not there does not, in a record that is not whole',
      decide(['on', 'ip http server', 'fail'], ['off', null, 'pass']),
      `hostname a\n${cut}`,
      'unknown',
    ],
    [
      'the opposite settles an absence',
      decide(['on', 'ip http server', 'fail'], ['off', null, 'pass']),
      `no ip http server\n${cut}`,
      'pass',
    ],
    [
      'doubt does not matter where every way leads to the same',
      decide(['a', 'ip http server', 'fail'], ['b', 'hostname a', 'fail'], ['c', null, 'fail']),
      `hostname a\n${cut}`,
      'fail',
    ],
    [
      'subjects that may be hidden',
      {
        ...decide(['x', null, 'pass']),
        each: { block: 'line vty ...' },
        nothing: { outcome: 'notapplicable', note: 'n' },
      },
      `line vty 0 4\n login local\n${cut}`,
      'unknown',
    ],
    [
      'no subject in sight',
      {
        ...decide(['x', null, 'pass']),
        each: { block: 'line vty ...' },
        nothing: { outcome: 'notapplicable', note: 'n' },
      },
      `hostname a\n${cut}`,
      'unknown',
    ],
    [
      'a failing subject stands',
      {
        ...decide(['x', 'transport input telnet', 'fail'], ['y', null, 'pass']),
        each: { block: 'line vty ...' },
        nothing: { outcome: 'notapplicable', note: 'n' },
      },
      `line vty 0 4\n transport input telnet\n${cut}`,
      'fail',
    ],
  ]
  for (const [name, rule, config, outcome] of open)
    it(`${name}: ${outcome}`, () => expect(judged(rule, config).outcome).to.equal(outcome))

  it('a rule that errs is an error for that device and names its reason', () => {
    const raw = judged(decide(['x', { expr: 'nobody > 3' }, 'fail'], ['y', null, 'pass']), 'hostname a')
    expect(raw.outcome).to.equal('error')
    expect(raw.note).to.contain('nobody')
  })

  it('shows an absence as the range that was searched', () => {
    expect(
      judged(decide(['x', 'ip http server', 'fail'], ['y', null, 'pass']), 'hostname a\nend\n').places,
    ).to.deep.equal([{ record: 'r', from: 1, to: 2, absent: true }])
  })

  it('binds in one condition what the next one uses', () => {
    const rule = decide(
      ['x', { all: ['hostname <name>', { line: 'snmp-server location <place>', where: 'place == name' }] }, 'fail'],
      ['y', null, 'pass'],
    )
    expect(judged(rule, 'hostname a\nsnmp-server location a').outcome).to.equal('fail')
    expect(judged(rule, 'hostname a\nsnmp-server location b').outcome).to.equal('pass')
  })

  it('keeps a secret out of a note that quotes it', () => {
    const raw = judged(
      {
        decide: [
          { id: 'x', when: 'snmp-server community <community> ...', outcome: 'fail', note: 'It is ${community}.' },
          { id: 'y', outcome: 'pass', note: 'n' },
        ],
      },
      'snmp-server community gull RO',
    )
    expect(raw.note).to.match(/^It is ‹secret:[\da-f]{8}›\.$/)
  })

  it('makes a device model only where the body that is asked speaks of it', () => {
    const compiled = compileRule(
      ruleSchema.parse({
        id: 'r',
        title: 'R',
        topic: 'T',
        severity: 'low',
        profile: 'a',
        statement: 's',
        decide: [
          { id: 'x', when: 'ip http server', outcome: 'fail', note: 'n' },
          { id: 'y', outcome: 'pass', note: 'n' },
        ],
        also: [
          {
            dialects: ['setlines'],
            decide: [
              { id: 'x', when: { model: 'system.services.http.enabled == true' }, outcome: 'fail', note: 'n' },
              { id: 'y', outcome: 'pass', note: '${system.hostname}' },
            ],
          },
        ],
      }),
    )
    const made: string[] = []
    const judge = (id: string, text: string): string => {
      const dialect = dialectById(id) as Dialect
      const effective = EffectiveConfig.of(dialect.read(text), dialect)
      const { outcome, note } = compiled.judge(
        judgedDevice({
          name: 'd',
          record: 'r',
          effective,
          model: () => (made.push(id), modelOf(effective, { record: 'r', mask: () => '' })),
        }),
        {},
      )
      return `${outcome} ${note}`
    }
    expect(judge('indented', 'ip http server')).to.equal('fail n')
    expect(made).to.deep.equal([])
    expect(judge('setlines', 'set system host-name gate')).to.equal('pass gate')
    expect(judge('data', '{"ietf-system:system": {"hostname": "a"}}')).to.match(/^notchecked .*"data"/)
    expect(made).to.include('setlines').and.not.include('data')
  })

  it('says a condition in words', () => {
    expect(conditionInWords({ all: ['a b', { absent: 'c', where: 'x > 1' }, { any: ['d', 'e'] }] })).to.equal(
      'there is ‹a b› and there is no ‹c› where x > 1 and (there is ‹d› or there is ‹e›)',
    )
  })
})

describe('benchmarks', () => {
  const benchmark = readBenchmark(BENCHMARK)
  it('profiles hold those before them', () => {
    expect(rulesOf(benchmark, 'a').map((rule) => rule.source.id)).to.deep.equal(['one'])
    expect(rulesOf(benchmark, 'b')).to.have.length(2)
    expect(rulesOf(benchmark, null)).to.have.length(2)
    expect(() => rulesOf(benchmark, 'c')).to.throw(/no profile "c"/)
  })
  it('values have types, bounds and defaults', () => {
    expect(effectiveValues(benchmark.source, {})).to.deep.equal({ limit: 5n, hosts: null })
    expect(effectiveValues(benchmark.source, { limit: '7', hosts: 'a.example, 10.0.0.1' })).to.deep.equal({
      limit: 7n,
      hosts: ['a.example', '10.0.0.1'],
    })
    for (const wrong of [
      { limit: 'x' },
      { limit: 0 },
      { limit: 1.5 },
      { hosts: ['10.0.0.300'] },
      { nothing: 1 },
      { constructor: 1 },
    ])
      expect(
        () => effectiveValues(benchmark.source, wrong as unknown as Record<string, number>),
        JSON.stringify(wrong),
      ).to.throw(/Value|no value/)
  })
  const wrong: [string, string, RegExp][] = [
    ['not YAML', 'a: [', /YAML/],
    ['an unknown field', `${BENCHMARK}colour: red\n`, /colour/],
    ['an unknown profile', BENCHMARK.replace('profile: b', 'profile: z'), /"two".*"z"/],
    ['a rule twice', BENCHMARK.replace('id: two', 'id: one'), /"one" stands twice/],
    [
      'no last branch',
      BENCHMARK.replace(
        '{id: y, outcome: pass, note: n}]}\n  - {id: two',
        '{id: y, when: a, outcome: pass, note: n}]}\n  - {id: two',
      ),
      /last branch/,
    ],
    ['a pattern that is none', BENCHMARK.replace('when: ip http server', "when: 'ip <http'"), /"one".*<http/],
  ]
  it('names the line of what is wrong', () => {
    const line = (text: string, part: string): number => text.slice(0, text.indexOf(part)).split('\n').length
    const unknown = BENCHMARK.replace('profile: b', 'profil: b')
    expect(() => readBenchmark(unknown)).to.throw(`line ${line(unknown, '{id: two')} (rules[1]`)
    const pattern = BENCHMARK.replace('when: ip http server', "when: 'ip <http'")
    expect(() => readBenchmark(pattern)).to.throw(`Line ${line(pattern, '{id: one')}: Rule "one"`)
  })
  for (const [name, text, reason] of wrong)
    it(`refuses ${name} and says where`, () => expect(() => readBenchmark(text)).to.throw(reason))
})

describe('the schema of benchmarks', () => {
  it('is published as JSON Schema, as it is now, and every shipped benchmark is valid by it', async () => {
    const at = new URL('../../../../docs/formats/', import.meta.url)
    const { schemaText } = (await import(new URL('benchmark-schema.mjs', at).href)) as { schemaText: () => string }
    const text = readFileSync(new URL('benchmark.schema.json', at), 'utf8')
    expect(text).to.equal(schemaText())
    const valid = new Ajv({ schemaId: 'auto' }).compile(JSON.parse(text) as object)
    for (const { file, text: yaml } of benchmarkTexts())
      expect(valid(parseYaml(yaml)), `${file}: ${JSON.stringify(valid.errors?.slice(0, 3))}`).to.equal(true)
    expect(valid({ id: 'x' })).to.equal(false)
  })
})

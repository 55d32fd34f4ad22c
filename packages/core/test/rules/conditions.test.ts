import { expect } from 'chai'
import { readFileSync } from 'node:fs'
import { NEEDS_NOTHING, isClosed } from '../../src/rules/conditions/kind.ts'
import { CONDITION_DOCS, CONDITION_FORMS, conditionInWords, conditionSchema } from '../../src/rules/index.ts'
import type { Condition, Rule } from '../../src/rules/index.ts'
import { deviceOf, ruleOf } from './judging.ts'

const starts = CONDITION_FORMS.map(({ key, start }) => [key, start as Condition] as const)

/** A rule that passes where a condition holds. */
const ruleWith = (when: unknown, more: object = {}): Rule =>
  ruleOf({
    decide: [
      { id: 'yes', when, outcome: 'pass', note: 'n' },
      { id: 'no', outcome: 'fail', note: 'n' },
    ],
    ...more,
  })

describe('kinds of conditions', () => {
  for (const [key, start] of starts) {
    it(`${key}: what its form begins with is a condition that compiles and has words`, () => {
      expect(() => ruleWith(start)).not.to.throw()
      expect(conditionInWords(start)).to.match(/\S/)
    })
  }

  for (const [key, start] of starts)
    it(`${key}: what its form begins with can be put to a device`, () => {
      // One asks about the interface that a rule goes through.
      const each = {
        each: { model: 'interfaces', as: 'interface', name: 'interface.name' },
        nothing: { outcome: 'fail', note: 'n' },
      }
      const rule = ruleWith(start, key === 'outside' ? each : {})
      const { outcome, note } = rule.judge(deviceOf('hostname a\ninterface Vlan1\n'), {})
      expect(outcome, note).to.not.equal('error')
    })

  it('each field of a form leads to a part that the schema knows', () => {
    for (const { key, start, fields } of CONDITION_FORMS) {
      const whole = typeof start === 'string' ? { line: start } : (start as object)
      for (const { path, as, choices, optional } of fields) {
        const effective = path.reduce<unknown>((at, step) => (at as Record<string, unknown> | undefined)?.[step], whole)
        if (!optional && as !== 'flag') expect(effective, `${key} ${path.join('.')}`).not.to.equal(undefined)
        if (choices) expect(choices, key).to.include(effective)
        // A choice that is offered is one that can be taken.
        for (const choice of choices ?? []) {
          const filled = JSON.parse(JSON.stringify(whole)) as Record<string, unknown>
          const parent = path
            .slice(0, -1)
            .reduce<Record<string, unknown>>((at, step) => at[step] as Record<string, unknown>, filled)
          parent[path.at(-1) ?? ''] = choice
          if (choice === 'within') parent['by'] = 1
          expect(() => ruleWith(filled), `${key} ${choice}`).not.to.throw()
        }
      }
    }
  })

  it('of two kinds in one condition, and of none, nothing is guessed', () => {
    expect(() => ruleWith({ line: 'a', matching: 'b' })).to.throw()
    expect(() => ruleWith({ lime: 'a' })).to.throw()
  })

  it('are listed in the docs, each in its row', async () => {
    const at = new URL('../../../../docs/formats/', import.meta.url)
    const made = (await import(new URL('benchmark-schema.mjs', at).href)) as { documentText: () => string }
    const document = readFileSync(new URL('benchmark.md', at), 'utf8')
    expect(document).to.equal(made.documentText())
    expect(CONDITION_DOCS).to.have.length(CONDITION_FORMS.length)
    for (const { holds } of CONDITION_DOCS) expect(document).to.include(`| ${holds} |`)
  })
})

describe('what a rule needs', () => {
  const needs = (when: unknown, more?: object) => ruleWith(when, more).needs
  it('outputs, for state and for links', () => {
    expect(needs('hostname *').outputs).to.equal(false)
    expect(needs({ state: 'size(state.neighbours) > 0', of: 'neighbours' }).outputs).to.equal(true)
    expect(needs({ all: [{ ends: 'mtu' }] }).outputs).to.equal(true)
  })
  it('the snapshot before, wherever the condition stands', () => {
    const change = { change: { of: 'system.hostname', is: 'unchanged' } }
    for (const when of [change, { none: [change] }, { device: change }, { some: { block: 'line *', has: change } }])
      expect(needs(when).before).to.equal(true)
    expect(needs('hostname change').before).to.equal(false)
  })
  it('values that its expressions, its templates and its kinds read, and no word of its prose', () => {
    const { fields } = needs(
      { all: [{ line: 'ntp server <host>', where: 'host in ntp_servers' }, { expr: 'quota > 3' }] },
      { statement: 'about banner_words', remedy: { words: 'Ask ${owner}.' } },
    )
    for (const name of ['ntp_servers', 'quota', 'owner']) expect(fields.has(name), name).to.equal(true)
    expect(fields.has('banner_words')).to.equal(false)
    expect(needs({ set: { of: 'x <a>', take: 'a', within: 'wanted' } }).fields.has('wanted')).to.equal(true)
    // A filter is judged by the sources from which devices may be managed, though no expression names them.
    expect(needs({ opens: { service: 'ssh', family: 'ipv4' } }).fields.has('management_sources')).to.equal(true)
    expect(needs({ outside: 'interface.name' }).fields.has('outside_match')).to.equal(true)
  })
  it('questions to all devices, each once', () => {
    const same = { same: 'system.domainName' }
    expect(needs({ any: [same, { none: [same] }] }).questions).to.have.length(2)
    expect(needs('hostname *').questions).to.have.length(0)
  })
})

describe('a condition that is remembered by its block alone', () => {
  it('rests on nothing that is bound or set elsewhere: each kind of need by itself opens it', () => {
    expect(isClosed(NEEDS_NOTHING)).to.equal(true)
    for (const need of [
      { expressions: ['x'] },
      { values: ['x'] },
      { outputs: true },
      { before: true },
      { questions: [{}] as never },
    ])
      expect(isClosed({ ...NEEDS_NOTHING, ...need }), JSON.stringify(need)).to.equal(false)
  })
})

describe('a condition in a block', () => {
  it('is asked anew where a value plays a part, however it is asked', () => {
    const on = deviceOf('hostname d\ninterface a\n description core\n')
    const within = (has: unknown): Rule => ruleWith({ some: { block: 'interface *', has } })
    for (const has of [
      { expr: 'limit > 3' },
      { all: ['description *', { expr: 'limit > 3' }] },
      { model: 'size(interfaces) + limit > 4' },
      { count: { of: 'description *', where: 'limit > 3', atLeast: 1 } },
    ]) {
      const rule = within(has)
      expect(rule.judge(on, { limit: 4n }).outcome, JSON.stringify(has)).to.equal('pass')
      expect(rule.judge(on, { limit: 1n }).outcome, JSON.stringify(has)).to.equal('fail')
    }
  })
})

describe('the form of a condition', () => {
  /** The condition without what stands at a path. */
  function without(condition: unknown, [step, ...rest]: readonly string[]): unknown {
    if (step === undefined || typeof condition !== 'object' || condition === null) return condition
    const { [step]: at, ...others } = condition as Record<string, unknown>
    return rest.length === 0 ? others : { ...others, [step]: without(at, rest) }
  }
  for (const { key, start, fields } of CONDITION_FORMS)
    for (const field of fields) {
      const { path, title } = field
      const left = without(start, path.map(String))
      // What a new condition does not hold may be left out.
      if (JSON.stringify(left) === JSON.stringify(start)) continue
      const isOptional = 'optional' in field && field.optional === true
      it(`${key}: “${title}” may${isOptional ? '' : ' not'} be left out, as the schema says`, () =>
        expect(conditionSchema.safeParse(left).success).to.equal(isOptional))
    }
})

import { expect } from 'chai'
import { HeldConfig, auditDevice, effectiveTree, effectiveValues, judgedDevice, maskWithKey, modelOf, planFor, prepare, readBenchmark, readSnapshot, dialectById, type Dialect, type Plan, type Scope, type Snapshot, type Verdict } from '@jurybox/core'
import { benchmarkTexts } from '../src/index.ts'
import { CASES, type Case } from './cases.ts'

const text = benchmarkTexts().find(({ file }) => file === 'network-hardening.yaml')?.text ?? ''
const benchmark = readBenchmark(text)
const dialect = indentedDialect()

function indentedDialect(): Dialect {
  const found = dialectById('indented')
  if (!found) throw new Error('the indented dialect is missing')
  return found
}

const mask = maskWithKey(new Uint8Array(32))

function verdictsFor(config: string, one: Case): Verdict[] {
  const records = [{ id: 'config.txt', kind: 'config', tree: dialect.read(config) }]
  if (one.saved !== undefined) records.push({ id: 'config.saved.txt', kind: 'config.saved', tree: dialect.read(one.saved) })
  return auditDevice('device', dialect, records, [prepare({ benchmark, profile: null, values: one.values ?? {} })], mask)
}

function verdictFor(rule: string, config: string, one: Case): Verdict {
  const verdict = verdictsFor(config, one).find((v) => v.rule === rule)
  if (!verdict) throw new Error(`no verdict for ${rule}`)
  return verdict
}

/** The commands with their real secrets, where the remedy of a case is commands rather than words. */
function planOf(rule: string, one: Case): { held: HeldConfig; plan: Plan | null } {
  const held = HeldConfig.of(dialect.read(one.config), dialect)
  const bench = prepare({ benchmark, profile: null, values: one.values ?? {} })
  const others = new Map(one.saved === undefined ? [] : [['saved', { record: 'config.saved.txt', held: HeldConfig.of(dialect.read(one.saved), dialect) }]])
  const judged = bench.rules.find((r) => r.source.id === rule)?.judge(judgedDevice({ name: 'device', record: 'config.txt', held, others, model: () => modelOf(held, { record: 'config.txt', mask }) }), effectiveValues(benchmark.source, one.values ?? {}))
  return { held, plan: judged?.remedy?.kind === 'edits' ? planFor(judged.remedy.edits, held.scope, dialect) : null }
}

/** A scope as text, with its blocks: two scopes that hold the same give the same text. */
function shown(scope: Scope): string {
  const line = (indent: string) => (s: Scope['statements'][number]): string[] => [`${indent}${s.negated ? 'no ' : ''}${s.text}`, ...(s.scope?.statements ?? []).flatMap(line(`${indent} `))]
  return scope.statements.flatMap(line('')).sort().join('\n')
}

describe('network-hardening', () => {
  it('has a case of each outcome kind for every rule, and no case without a rule', () => {
    expect(Object.keys(CASES).sort()).to.deep.equal(benchmark.rules.map((rule) => rule.source.id).sort())
    for (const [rule, cases] of Object.entries(CASES)) {
      expect(cases.some((c) => c.is === 'pass'), `${rule} passes`).to.equal(true)
      expect(cases.some((c) => c.is === 'fail'), `${rule} fails`).to.equal(true)
      expect(cases.some((c) => c.name.startsWith('silent')) || cases.some((c) => c.config === 'hostname a'), `${rule} is silent`).to.equal(true)
      expect(cases.some((c) => c.name.startsWith('trap')), `${rule} has a trap`).to.equal(true)
    }
  })

  for (const [rule, cases] of Object.entries(CASES)) {
    describe(rule, () => {
      for (const one of cases) {
        it(`${one.name}: ${one.is}`, () => {
          const verdict = verdictFor(rule, one.config, one)
          expect(verdict.outcome, verdict.note).to.equal(one.is)
          if (one.branch !== undefined) expect(verdict.branch).to.equal(one.branch)
          if (one.missing) expect(verdict.missing).to.deep.equal(one.missing)
          if (one.extra) expect(verdict.extra).to.deep.equal(one.extra)
          if (verdict.outcome === 'fail' || verdict.outcome === 'unknown') {
            expect(verdict.exhibits.length + verdict.missing.length, 'evidence').to.be.greaterThan(0)
          }
          if (verdict.outcome === 'fail') expect(verdict.remedy, 'remedy').to.not.equal(null)
          const lines = (record: string): number => (record === 'config.txt' ? one.config : (one.saved ?? '')).split('\n').length
          for (const { from, to, record } of verdict.exhibits) {
            expect(from).to.be.at.least(1)
            expect(to).to.be.within(from, lines(record))
          }
        })

        const { held, plan } = planOf(rule, one)
        if (!plan) continue
        it(`${one.name}: the commands mend it, and the rollback undoes them`, () => {
          expect(plan.commands).to.not.have.length(0)
          expect(verdictFor(rule, `${one.config}\n${plan.commands.join('\n')}\n`, one).outcome, plan.commands.join('\n')).to.equal('pass')
          const back = effectiveTree([dialect.read(one.config), dialect.read([...plan.commands, ...plan.rollback].join('\n'))], dialect)
          expect(shown(back), plan.rollback.join('\n')).to.equal(shown(held.scope))
        })
      }
    })
  }

  it('names a remedy that may cut off management, and what to check first', () => {
    for (const rule of ['vty-ssh-only', 'aaa-login']) {
      const one = CASES[rule]?.find((c) => c.is === 'fail')
      const remedy = one && verdictFor(rule, one.config, one).remedy
      expect(remedy).to.have.property('risk', 'session')
      expect(remedy).to.have.property('check').that.has.length.greaterThan(0)
    }
  })

  it('level-1 is a part of level-2', () => {
    const ids = (profile: string): string[] => prepare({ benchmark, profile, values: {} }).rules.map((rule) => rule.source.id)
    expect(ids('level-2')).to.include.members(ids('level-1'))
    expect(ids('level-1')).to.not.include('snmp-v3-only')
  })

  it('masks secrets in everything it says', () => {
    const config = 'snmp-server community sparrowhawk RO\nsnmp-server community public RW\nsnmp-server host 10.0.0.1 version 2c sparrowhawk\nusername ada password 0 sparrowhawk\nenable password sparrowhawk\nntp authenticate\nntp authentication-key 1 md5 sparrowhawk\n'
    const snapshot: Snapshot = readSnapshot([{ path: 'a.cfg', bytes: new TextEncoder().encode(config) }])
    expect(snapshot.devices).to.have.length(1)
    expect(JSON.stringify(verdictsFor(config, { name: '', config, is: 'fail', values: { ntp_servers: ['10.0.0.1'] } }))).to.not.contain('sparrowhawk')
  })
})

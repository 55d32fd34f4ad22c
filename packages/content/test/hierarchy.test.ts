import { expect } from 'chai'
import { HeldConfig, auditDevice, dialectById, effectiveValues, judgedDevice, maskWithKey, modelOf, planFor, prepare, readBenchmark, type Dialect, type Plan, type Verdict } from '@jurybox/core'
import { benchmarkTexts } from '../src/index.ts'
import { CASES, type Case } from './cases.ts'
import { HIERARCHY_CASES } from './hierarchy-cases.ts'

const benchmark = readBenchmark(benchmarkTexts().find(({ file }) => file === 'network-hardening.yaml')?.text ?? '')
const mask = maskWithKey(new Uint8Array(32))
const dialect = (id: string): Dialect => {
  const found = dialectById(id)
  if (!found) throw new Error(id)
  return found
}

/** Set lines in braces: every word a block, the last one a statement. What is deactivated is marked, what is deleted left out. */
function inBraces(config: string): string {
  const lines = config.split('\n').map((line) => line.match(/"(?:[^"\\]|\\.)*"|\[[^\]]*\]|\S+/g) ?? [])
  const beginsWith = (path: readonly string[], head: readonly string[]): boolean => head.every((word, i) => path[i] === word)
  const gone = lines.flatMap(([verb, ...path], at) => (verb === 'delete' ? [{ path, at }] : []))
  const asleep = lines.flatMap(([verb, ...path]) => (verb === 'deactivate' ? [path] : []))
  return lines
    .flatMap(([verb, ...path], at) => {
      if (verb !== 'set' || gone.some((other) => other.at > at && beginsWith(path, other.path))) return []
      const marks = asleep.filter((head) => beginsWith(path, head)).map((head) => head.length - 1)
      const words = path.map((word, i) => (marks.includes(i) ? `inactive: ${word}` : word))
      const last = words.pop() ?? ''
      // A list belongs to the word before it.
      const statement = last.startsWith('[') ? `${words.pop() ?? ''} ${last}` : last
      return [`${words.map((word) => `${word} {\n`).join('')}${statement};\n${'}\n'.repeat(words.length)}`]
    })
    .join('')
}

function verdictFor(rule: string, one: Case, id: string, form: (config: string) => string): Verdict {
  const records = [{ id: 'config.txt', kind: 'config', tree: dialect(id).read(form(one.config)) }]
  if (one.saved !== undefined) records.push({ id: 'config.saved.txt', kind: 'config.saved', tree: dialect(id).read(form(one.saved)) })
  const verdict = auditDevice('device', dialect(id), records, [prepare({ benchmark, profile: null, values: one.values ?? {} })], mask).find((v) => v.rule === rule)
  if (!verdict) throw new Error(`no verdict for ${rule}`)
  return verdict
}

function judged(rule: string, held: HeldConfig, one: Case): { outcome: string; plan: Plan | null } {
  const bench = prepare({ benchmark, profile: null, values: one.values ?? {} })
  const found = bench.rules.find(({ source }) => source.id === rule)?.judge(judgedDevice({ name: 'device', record: 'r', held, model: () => modelOf(held, { record: 'r', mask }) }), effectiveValues(benchmark.source, one.values ?? {}))
  return { outcome: found?.outcome ?? '', plan: found?.remedy?.kind === 'edits' ? planFor(found.remedy.edits, held.scope, held.dialect) : null }
}

const shown = (held: HeldConfig): string[] => held.scope.statements.map(({ text }) => text).sort()

describe('network-hardening, put to braces and set lines', () => {
  it('has cases for every rule that speaks of them, silence among them', () => {
    const speaking = benchmark.rules.filter(({ source }) => [source, ...source.also].some(({ dialects }) => dialects.includes('braced'))).map(({ source }) => source.id)
    expect(Object.keys(HIERARCHY_CASES).sort()).to.deep.equal(speaking.sort())
    for (const [rule, cases] of Object.entries(HIERARCHY_CASES)) expect(cases.some(({ name }) => name.startsWith('silent')), rule).to.equal(true)
  })

  for (const [rule, cases] of Object.entries(HIERARCHY_CASES)) {
    describe(rule, () => {
      for (const one of cases) {
        for (const [id, form] of [['setlines', (config: string) => config], ['braced', inBraces]] as const) {
          it(`${id}, ${one.name}: ${one.is}`, () => {
            const verdict = verdictFor(rule, one, id, form)
            expect(verdict.outcome, verdict.note).to.equal(one.is)
            if (one.branch !== undefined) expect(verdict.branch).to.equal(one.branch)
            if (one.missing) expect(verdict.missing).to.deep.equal(one.missing)
            if (one.extra) expect(verdict.extra).to.deep.equal(one.extra)
            if (verdict.outcome === 'fail' || verdict.outcome === 'unknown') expect(verdict.exhibits.length + verdict.missing.length).to.be.above(0)
            if (verdict.outcome === 'fail') expect(verdict.remedy, 'remedy').to.not.equal(null)
            for (const { from, to, text, absent } of verdict.exhibits) if (!absent) expect(text.split('\n')).to.have.length(to - from + 1)
          })

          const by = dialect(id)
          const tree = by.read(form(one.config))
          const held = HeldConfig.of(tree, by)
          const { plan } = judged(rule, held, one)
          if (!plan) continue
          it(`${id}, ${one.name}: the commands mend it, and the rollback undoes them`, () => {
            expect(plan.commands).to.not.have.length(0)
            const after = new HeldConfig(tree, by.apply([tree], plan.commands), by)
            expect(judged(rule, after, one).outcome, plan.commands.join('\n')).to.equal('pass')
            const back = new HeldConfig(tree, by.apply([tree], [...plan.commands, ...plan.rollback]), by)
            expect(shown(back), [...plan.commands, ...plan.rollback].join('\n')).to.deep.equal(shown(held))
          })
        }
      }
    })
  }

  it('a rule that does not speak of a dialect is not checked, and says so', () => {
    const verdict = verdictFor('http-server-off', { name: '', config: '{"ietf-system:system": {"hostname": "a"}}', is: 'notchecked' }, 'data', (config) => config)
    expect(verdict).to.include({ outcome: 'notchecked', branch: 'other-dialect' })
    expect(verdict.note).to.include('data')
    expect(Object.keys(CASES)).to.include('http-server-off')
  })

  it('what a listing that is cut off does not show is not known to be absent', () => {
    const cut = (config: string, rule: string): Verdict => verdictFor(rule, { name: '', config, is: 'unknown' }, 'braced', (text) => text)
    const config = 'system {\n    services {\n        telnet;\n    }\n    host-name a;\n'
    expect(cut(config, 'vty-ssh-only').outcome).to.equal('fail')
    for (const rule of ['http-server-off', 'login-banner', 'vty-access-class', 'users-strong-hash', 'proxy-arp-off', 'log-remote']) {
      const verdict = cut(config, rule)
      expect(verdict.outcome, `${rule}: ${verdict.note}`).to.equal('unknown')
      expect(verdict.note, rule).to.match(/not whole/)
    }
    expect(cut('system { services { web-management { https; } } }\ninterfaces {\n', 'https-server-off-or-strong').outcome).to.equal('unknown')
  })

  it('asks JSON data what it can: time servers and how passwords are kept', () => {
    const config = '{"ietf-system:system": {"hostname": "gw", "ntp": {"server": [{"name": "a", "udp": {"address": "10.40.0.11"}}]},\n "authentication": {"user": [{"name": "ada", "password": "$1$x"}]}}}'
    const own = (rule: string): Verdict => verdictFor(rule, { name: '', config, is: 'fail', values: { ntp_servers: ['10.40.0.12'] } }, 'data', (text) => text)
    expect(own('ntp-servers')).to.deep.include({ outcome: 'fail', missing: ['10.40.0.12'], extra: ['10.40.0.11'] })
    const users = own('users-strong-hash')
    expect(users.outcome).to.equal('fail')
    expect(users.exhibits[0]).to.deep.include({ from: 2, to: 2 })
    expect(users.exhibits[0]?.columns).to.have.length(2)
    expect(JSON.stringify(users)).to.not.include('$1$x')
    expect(own('http-server-off').outcome).to.equal('notchecked')
  })
})

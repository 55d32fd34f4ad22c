import { expect } from 'chai'
import { EffectiveConfig, modelOf, planFor, readBenchmark, type Benchmark, type Plan, type Scope } from '@jurybox/core'
import { lackingExamples, recordsOf, tryExamples } from '@jurybox/core/audit'
import { effectiveValues } from '@jurybox/core/benchmarks'
import { judgedDevice, type Example, type Rule } from '@jurybox/core/rules'
import { benchmarkTexts } from '../src/index.ts'
import { formsOf } from './forms.ts'
import { dialect, mask } from './hardening.ts'

const benchmarks = benchmarkTexts().map(({ text }) => readBenchmark(text))

function judged(
  benchmark: Benchmark,
  rule: Rule,
  example: Example,
  effective: EffectiveConfig,
): { outcome: string; plan: Plan | null } {
  const others = new Map(
    recordsOf(example).flatMap((record) =>
      record.kind === 'config.saved' && record.tree
        ? [['saved', { record: record.id, effective: EffectiveConfig.of(record.tree, effective.dialect) }] as const]
        : [],
    ),
  )
  const raw = rule.judge(
    judgedDevice({
      name: 'example',
      record: 'config.txt',
      effective,
      others,
      model: () => modelOf(effective, { record: 'config.txt', mask }),
    }),
    effectiveValues(benchmark.source, example.values),
  )
  return {
    outcome: raw.outcome,
    plan: raw.remedy?.kind === 'edits' ? planFor(raw.remedy.edits, effective.scope, effective.dialect) : null,
  }
}

/** A scope as text, with its blocks: two scopes that hold the same give the same text. */
function shown(scope: Scope): string {
  const line =
    (indent: string) =>
    (s: Scope['statements'][number]): string[] => [
      `${indent}${s.negated ? 'no ' : ''}${s.text}`,
      ...(s.scope?.statements ?? []).flatMap(line(`${indent} `)),
    ]
  return scope.statements.flatMap(line('')).sort().join('\n')
}

for (const benchmark of benchmarks) {
  describe(`examples of ${benchmark.source.id}`, () => {
    it('there is one that passes, one that fails, one that is silent and a trap for every rule', () => {
      for (const { source } of benchmark.rules) expect(lackingExamples(source), source.id).to.deep.equal([])
    })
    it('every dialect that a rule speaks of has examples', () => {
      for (const { source } of benchmark.rules) {
        const tried = new Set(source.examples.flatMap(formsOf).map((example) => example.dialect))
        for (const { dialects } of [source, ...source.also])
          for (const id of dialects)
            if (id === 'indented' || id === 'braced') expect([...tried], source.id).to.include(id)
      }
    })

    for (const rule of benchmark.rules) {
      describe(rule.source.id, () => {
        for (const example of rule.source.examples.flatMap(formsOf)) {
          it(`${example.dialect}, ${example.name}: ${example.is}`, () => {
            const [trial] = tryExamples(benchmark, { ...rule, source: { ...rule.source, examples: [example] } })
            expect(trial?.wrong).to.deep.equal([])
            const verdict = trial?.verdict
            if (!verdict) throw new Error('no verdict')
            if (verdict.outcome === 'fail' || verdict.outcome === 'unknown')
              expect(verdict.exhibits.length + verdict.missing.length, 'evidence').to.be.above(0)
            if (verdict.outcome === 'fail') expect(verdict.remedy, 'remedy').to.not.equal(null)
            const lines = (record: string, device?: string): number =>
              (device !== undefined
                ? (example.others[device] ?? '')
                : record === 'config.txt'
                  ? example.config
                  : (example.saved ?? '')
              ).split('\n').length
            for (const { from, to, text, record, device, absent } of verdict.exhibits) {
              expect(from).to.be.at.least(1)
              expect(to).to.be.within(from, lines(record, device))
              if (!absent) expect(text.split('\n')).to.have.length(to - from + 1)
            }
          })

          const by = dialect(example.dialect)
          const tree = by.read(example.config)
          const effective = EffectiveConfig.of(tree, by)
          const { plan } = judged(benchmark, rule, example, effective)
          if (!plan) continue
          it(`${example.dialect}, ${example.name}: the commands mend it, and the rollback undoes them`, () => {
            expect(plan.commands).to.not.have.length(0)
            const after = new EffectiveConfig(tree, by.apply([tree], plan.commands), by)
            expect(judged(benchmark, rule, example, after).outcome, plan.commands.join('\n')).to.equal('pass')
            const back = by.apply([tree], [...plan.commands, ...plan.rollback])
            expect(shown(back), [...plan.commands, ...plan.rollback].join('\n')).to.equal(shown(effective.scope))
          })
        }
      })
    }
  })
}

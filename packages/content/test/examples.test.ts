import { expect } from 'chai'
import { HeldConfig, effectiveValues, judgedDevice, lackingExamples, modelOf, planFor, readBenchmark, recordsOf, tryExamples, type Benchmark, type Example, type Plan, type Rule, type Scope } from '@jurybox/core'
import { benchmarkTexts } from '../src/index.ts'
import { dialect, mask } from './hardening.ts'

const benchmarks = benchmarkTexts().map(({ text }) => readBenchmark(text))

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

/** The same example in every form that its dialect has. */
function formsOf(example: Example): Example[] {
  if (example.dialect !== 'setlines') return [example]
  return [example, { ...example, dialect: 'braced', config: inBraces(example.config), others: Object.fromEntries(Object.entries(example.others).map(([name, config]) => [name, inBraces(config)])), ...(example.saved === undefined ? {} : { saved: inBraces(example.saved) }) }]
}

function judged(benchmark: Benchmark, rule: Rule, example: Example, held: HeldConfig): { outcome: string; plan: Plan | null } {
  const others = new Map(recordsOf(example).flatMap((record) => (record.kind === 'config.saved' && record.tree ? [['saved', { record: record.id, held: HeldConfig.of(record.tree, held.dialect) }] as const] : [])))
  const raw = rule.judge(judgedDevice({ name: 'example', record: 'config.txt', held, others, model: () => modelOf(held, { record: 'config.txt', mask }) }), effectiveValues(benchmark.source, example.values))
  return { outcome: raw.outcome, plan: raw.remedy?.kind === 'edits' ? planFor(raw.remedy.edits, held.scope, held.dialect) : null }
}

/** A scope as text, with its blocks: two scopes that hold the same give the same text. */
function shown(scope: Scope): string {
  const line = (indent: string) => (s: Scope['statements'][number]): string[] => [`${indent}${s.negated ? 'no ' : ''}${s.text}`, ...(s.scope?.statements ?? []).flatMap(line(`${indent} `))]
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
        for (const { dialects } of [source, ...source.also]) for (const id of dialects) if (id === 'indented' || id === 'braced') expect([...tried], source.id).to.include(id)
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
            if (verdict.outcome === 'fail' || verdict.outcome === 'unknown') expect(verdict.exhibits.length + verdict.missing.length, 'evidence').to.be.above(0)
            if (verdict.outcome === 'fail') expect(verdict.remedy, 'remedy').to.not.equal(null)
            const lines = (record: string): number => (record === 'config.txt' ? example.config : (example.saved ?? '')).split('\n').length
            for (const { from, to, text, record, absent } of verdict.exhibits) {
              expect(from).to.be.at.least(1)
              expect(to).to.be.within(from, lines(record))
              if (!absent) expect(text.split('\n')).to.have.length(to - from + 1)
            }
          })

          const by = dialect(example.dialect)
          const tree = by.read(example.config)
          const held = HeldConfig.of(tree, by)
          const { plan } = judged(benchmark, rule, example, held)
          if (!plan) continue
          it(`${example.dialect}, ${example.name}: the commands mend it, and the rollback undoes them`, () => {
            expect(plan.commands).to.not.have.length(0)
            const after = new HeldConfig(tree, by.apply([tree], plan.commands), by)
            expect(judged(benchmark, rule, example, after).outcome, plan.commands.join('\n')).to.equal('pass')
            const back = by.apply([tree], [...plan.commands, ...plan.rollback])
            expect(shown(back), [...plan.commands, ...plan.rollback].join('\n')).to.equal(shown(held.scope))
          })
        }
      })
    }
  })
}

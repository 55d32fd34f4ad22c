import { readFileSync, readdirSync } from 'node:fs'
import { expect } from 'chai'
import { readBenchmark } from '@jurybox/core'
import { tryExamples } from '@jurybox/core/audit'
import type { Example } from '@jurybox/core/rules'
import { parse } from 'yaml'
import { benchmarkTexts } from '../src/index.ts'
import { formsOf } from './forms.ts'

/**
 * A way to say something: the dialect, what has to come of it, the configuration, and values of the benchmark where it
 * needs some.
 */
type Row = readonly [dialect: string, outcome: string, config: string, more?: Partial<Example>]

const folder = new URL('variants/', import.meta.url)
const rules = benchmarkTexts()
  .map(({ text }) => readBenchmark(text))
  .flatMap((benchmark) => benchmark.rules.map((rule) => ({ benchmark, rule })))
/** As many as each table has at least. */
const FEWEST = 8

// Every way to say the bad thing and the good thing, rule by rule; a row of set lines is judged in braces too.
for (const file of readdirSync(folder).sort()) {
  const id = file.replace(/\.yaml$/, '')
  const rows = parse(readFileSync(new URL(file, folder), 'utf8')) as Row[]
  describe(`variants of ${id}`, () => {
    const found = rules.find(({ rule }) => rule.source.id === id)
    it('are of a rule that there is, and enough', () => {
      expect(found, id).to.not.equal(undefined)
      expect(rows.length).to.be.at.least(FEWEST)
    })
    if (!found) return
    const { benchmark, rule } = found
    const [like] = rule.source.examples
    if (!like) return
    for (const [dialect, outcome, config, more] of rows) {
      const row = {
        ...like,
        saved: undefined,
        outputs: {},
        taken: undefined,
        at: undefined,
        others: {},
        before: undefined,
        facts: undefined,
        branch: undefined,
        values: {},
        ...more,
        name: 'variant',
        dialect,
        config,
        is: outcome,
      } as unknown as Example
      for (const form of formsOf(row)) {
        it(`${form.dialect}, ${outcome}: ${form.config.replace(/\s*\n\s*/g, ' / ').slice(0, 110)}`, () => {
          expect(
            tryExamples(benchmark, { ...rule, source: { ...rule.source, examples: [form] } })[0]?.wrong,
          ).to.deep.equal([])
        })
      }
    }
  })
}

describe('variants', () => {
  it('are there of every rule', () => {
    const tables = new Set(readdirSync(folder).map((file) => file.replace(/\.yaml$/, '')))
    expect(rules.map(({ rule }) => rule.source.id).filter((id) => !tables.has(id))).to.deep.equal([])
  })
})

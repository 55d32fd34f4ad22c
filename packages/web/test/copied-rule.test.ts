import { shippedBenchmarks } from '@jurybox/content'
import { withRule } from '@jurybox/core/authoring'
import { tryExamples } from '@jurybox/core/audit'
import { readBenchmark } from '@jurybox/core/benchmarks'
import { expect } from 'chai'
import { copiedRule } from '../src/rules/copied-rule.ts'
import { STARTER } from '../src/rules/starter.ts'

describe('a rule copied into a benchmark of one’s own', () => {
  const benchmark = shippedBenchmarks()
    .map((one) => one.benchmark)
    .find(({ source }) => source.rules.length > 50)
  if (!benchmark) throw new Error('the large benchmark is missing')
  const { source } = benchmark
  const view = {
    rules: source.rules.map((rule) => ({ ...rule, selected: true })),
    values: Object.entries(source.values).map(([name, value]) => ({
      name,
      ...value,
      default: value.default ?? null,
      set: null,
    })),
  }

  it('is read again, and says of its examples what the shipped one says: every rule', () => {
    const wrong = source.rules.flatMap(({ id }) => {
      const draft = copiedRule(view, id)
      if (!draft) return [`${id}: not found`]
      const own = readBenchmark(withRule(STARTER, draft).text)
      const rule = own.rules.find((one) => one.source.id === id)
      return rule
        ? tryExamples(own, rule).flatMap(({ wrong: why }) => why.map((one) => `${id}: ${one}`))
        : [`${id}: lost`]
    })
    expect(wrong).to.deep.equal([])
  })

  it('takes along the values that are set here, and no others', () => {
    const named = view.values.find(({ type }) => type === 'int')
    const rule = source.rules.find((one) => JSON.stringify(one).includes(named?.name ?? '?'))
    const values = view.values.map((value) => (value === named ? { ...value, set: 77 } : value))
    const draft = copiedRule({ ...view, values }, rule?.id ?? '')
    expect(draft?.values[named?.name ?? '']).to.deep.include({ type: 'int', default: 77 })
    expect(Object.keys(draft?.values ?? {}).length).to.be.below(view.values.length)
  })

  it('is null where there is none of that id', () => expect(copiedRule(view, 'no-such-rule')).to.equal(null))
})

import { expect } from 'chai'
import type { AuditDocument } from '../../src/audit/index.ts'
import { frameworkSchema, type BenchmarkSource } from '../../src/benchmarks/index.ts'
import { answerCounts, answerWords, assess, citing, reasonWords, textsOf } from '../../src/report/index.ts'

const say = textsOf('en')
const framework = frameworkSchema.parse({
  id: 'std-1',
  title: 'Standard 1',
  remark: '',
  parts: { 1: 'Part 1' },
  requirements: {
    '1.1': { title: 'By machine', by: 'machine' },
    '1.2': { title: 'In part', by: 'partly' },
    '1.3': { title: 'By a person', by: 'person' },
    '1.4': { title: 'Elsewhere', by: 'outside' },
    '1.5': { title: 'Nothing speaks to it', by: 'machine' },
    '1.6': { title: 'As another standard asks', by: 'machine', same: ['std-2:7'] },
  },
})
const benchmark = {
  rules: [
    { id: 'machine', references: ['std-1:1.1'] },
    { id: 'part', references: ['std-1:1.2'] },
    { id: 'same', references: ['std-2:7'] },
    { id: 'other', references: ['std-9:1'] },
  ],
  attestations: [{ id: 'asked', references: ['std-1:1.2', 'std-1:1.3'] }],
} as unknown as BenchmarkSource

type Outcome = AuditDocument['verdicts'][number]['outcome']
const document = (
  verdicts: readonly [rule: string, outcome: Outcome, waived?: boolean][],
  answer: 'pass' | 'fail' | 'notchecked' | null = null,
): Parameters<typeof assess>[0] =>
  ({
    verdicts: verdicts.map(([rule, outcome, waived]) => ({ rule, outcome, ...(waived ? { waived: [{}] } : {}) })),
    expected: [],
    attested: answer === null ? [] : [{ id: 'asked', outcome: answer }],
  }) as unknown as Parameters<typeof assess>[0]

describe('an audit arranged by the requirements of a framework', () => {
  const answers = (of: Parameters<typeof assess>[0]): Record<string, string> =>
    Object.fromEntries(
      assess(of, [benchmark], framework).requirements.map(({ requirement, answer, why }) => [
        requirement,
        why.length === 0 ? answer : `${answer}: ${reasonWords(why, say)}`,
      ]),
    )

  it('is met where all that decides it passes, and a person judged what a machine cannot', () =>
    expect(
      answers(
        document(
          [
            ['machine', 'pass'],
            ['part', 'pass'],
            ['same', 'pass'],
          ],
          'pass',
        ),
      ),
    ).to.deep.equal({
      '1.1': 'met',
      '1.2': 'met',
      '1.3': 'met',
      '1.4': 'outside',
      '1.5': 'not-assessed: nothing here assesses it',
      '1.6': 'met',
    }))

  it('is never met by rules alone where a person must judge the rest', () => {
    const { '1.2': part } = answers(document([['part', 'pass']]))
    expect(part).to.equal('partly: a person must judge the rest')
    expect(answers(document([['part', 'pass']], 'notchecked'))['1.2']).to.equal('undecided: 1 question is not answered')
  })

  it('is not met by one failure, also a waived one, which is told', () => {
    expect(
      answers(
        document([
          ['machine', 'pass'],
          ['machine', 'fail'],
        ]),
      )['1.1'],
    ).to.equal('not-met: 1 failed')
    expect(answers(document([['machine', 'fail', true]]))['1.1']).to.equal(
      'not-met: 1 failed, 1 of the findings waived',
    )
    expect(answers(document([], 'fail'))['1.3']).to.equal('not-met: 1 failed')
  })

  it('is undecided by what could not be decided; what all says does not apply is not applicable, never met', () => {
    expect(
      answers(
        document([
          ['machine', 'pass'],
          ['machine', 'unknown'],
        ]),
      )['1.1'],
    ).to.equal('undecided: 1 could not be decided')
    expect(answers(document([['machine', 'notapplicable']]))['1.1']).to.equal('not-applicable')
    expect(answers(document([['part', 'notapplicable']]))['1.2']).to.match(/^undecided: a person/)
    expect(
      answers(
        document([
          ['machine', 'notchecked'],
          ['machine', 'error'],
        ]),
      )['1.1'],
    ).to.match(/^undecided/)
  })

  it('is called as the framework calls it in reports on it', () => {
    const own = frameworkSchema.parse({ ...framework, answers: { met: 'In place', partly: 'Not tested' } })
    const assessment = assess(document([['machine', 'pass']]), [benchmark], own)
    expect(answerWords(assessment, 'met', say)).to.equal('In place')
    expect(answerWords(assessment, 'not-met', say)).to.equal('not met')
    expect(answerCounts(assessment, say)[0]).to.equal('1 In place')
  })

  it('counts every requirement once', () => {
    const { counts, requirements } = assess(document([['machine', 'pass']], 'notchecked'), [benchmark], framework)
    expect(counts).to.deep.equal({
      met: 1,
      'not-met': 0,
      partly: 0,
      undecided: 2,
      'not-applicable': 0,
      'not-assessed': 2,
      outside: 1,
    })
    expect(requirements).to.have.length(6)
  })

  it('asks the rules and questions that speak to it, also by a requirement that asks the same', () =>
    expect(citing(benchmark, framework)).to.deep.equal({ rules: ['machine', 'part', 'same'], attestations: ['asked'] }))
})

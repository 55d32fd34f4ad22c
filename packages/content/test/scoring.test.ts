import { weightOf, type Scoring } from '@jurybox/core/benchmarks'
import { requirementScore, scoreWords, textsOf, type AssessedRequirement } from '@jurybox/core/report'
import { expect } from 'chai'
import { frameworks } from '../src/index.ts'

/** 32 CFR 170.24 and NIST SP 800-171 DoD Assessment Methodology 1.2.1; the sums are published, and from memory here. */
describe('the score of CMMC Level 2', () => {
  const framework = frameworks().find(({ id }) => id === 'cmmc-2.0')
  const scoring = framework?.scoring as Scoring
  const all = Object.keys(framework?.requirements ?? {})
  const assessed = (answerOf: (requirement: string) => AssessedRequirement['answer']): AssessedRequirement[] =>
    all.map((requirement) => ({
      requirement,
      title: requirement,
      part: '',
      answer: answerOf(requirement),
      why: [],
      rules: [],
      attestations: [],
      expectations: [],
      fail: 0,
      undecided: 0,
      pass: 0,
    }))
  const scored = (answerOf: (requirement: string) => AssessedRequirement['answer']) =>
    requirementScore(assessed(answerOf), scoring)

  it('weighs the 110 requirements: 44 with five, 14 with three, one with none, the others with one', () => {
    expect(all).to.have.length(110)
    const weights = all.map((one) => weightOf(scoring, one).most)
    const count = (weight: number): number => weights.filter((one) => one === weight).length
    expect([count(5), count(3), count(0), count(1)]).to.deep.equal([44, 14, 1, 51])
    const named = [...Object.values(scoring.weights).flat(), ...scoring.required, ...scoring.plan.never]
    expect(named.filter((one) => !all.includes(one))).to.deep.equal([])
  })
  it('is 110 where all are met, and −203 where none is, as the method publishes', () => {
    expect(scored(() => 'met')).to.deep.include({ most: 110, least: 110, open: 0, required: [] })
    expect(scored(() => 'not-met').least).to.equal(-203)
  })
  it('what nobody looked at leaves it open, and is said', () => {
    const score = scored((one) => (one === 'AU.L2-3.3.1' ? 'not-met' : 'not-assessed'))
    expect([score.most, score.least, score.open]).to.deep.equal([105, -203, 109])
    expect(scoreWords(score, textsOf('en')).join(' '))
      .to.contain('between -203 and 105 of 110')
      .and.contain('AU.L2-3.3.1 (−5)')
  })
  it('what may be met in part loses less at the least', () => {
    const score = scored((one) => (one === 'SC.L2-3.13.11' ? 'not-met' : 'met'))
    expect([score.most, score.least]).to.deep.equal([107, 105])
    expect(score.plan.never, 'with three points a plan may leave it open').to.deep.equal([])
  })
  it('no plan of action leaves open what weighs more than one, nor what is named', () => {
    const open = ['AC.L2-3.1.1', 'AC.L2-3.1.20', 'AC.L2-3.1.3']
    const score = scored((one) => (open.includes(one) ? 'not-met' : 'met'))
    expect(score.plan.never).to.deep.equal(['AC.L2-3.1.1', 'AC.L2-3.1.20'])
    expect(scoreWords(score, textsOf('en')).at(-1)).to.equal(
      'No plan of action may leave open: AC.L2-3.1.1, AC.L2-3.1.20.',
    )
  })
  it('without a plan of the system there is no score to report', () => {
    const score = scored((one) => (one === 'CA.L2-3.12.4' ? 'not-assessed' : 'met'))
    expect(score.required).to.deep.equal(['CA.L2-3.12.4'])
    expect(scoreWords(score, textsOf('en')).join(' ')).to.contain(
      'No score can be reported before these are met: CA.L2-3.12.4.',
    )
  })
})

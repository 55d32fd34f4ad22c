import type { GridView } from '@jurybox/api/audits'
import { expect } from 'chai'
import fc from 'fast-check'
import { matrixOf, servedNumbers } from '../src/verdicts/requirement-matrix.ts'

const rule = (id: string, ...references: string[]): GridView['rules'][number] => ({
  benchmark: 'own',
  id,
  title: id,
  topic: 'access',
  severity: 'high',
  references,
})
type Cell = GridView['cells'][number]
const cell = (deviceId: number, id: string, outcome: Cell['outcome'], waived = false): Cell => ({
  id: 1,
  deviceId,
  benchmark: 'own',
  rule: id,
  outcome,
  waived,
  since: null,
})
const rules = [rule('a', 'pci:1.2.10', 'pci:1.2.9'), rule('b', 'pci:1.2.9', 'other:3'), rule('c')]

describe('devices by requirements', () => {
  it('has a column for each requirement that a rule serves, in the order of numbers', () => {
    expect(servedNumbers(rules, 'pci')).to.deep.equal(['1.2.9', '1.2.10'])
    expect(servedNumbers(rules, 'other')).to.deep.equal(['3'])
    expect(servedNumbers(rules, 'none')).to.deep.equal([])
  })

  const together = (...cells: Cell[]) => matrixOf({ rules, cells }, 'pci').get(1)?.get('1.2.9')
  it('tells the gravest verdict and counts the findings', () => {
    expect(together(cell(1, 'a', 'pass'), cell(1, 'b', 'fail'))).to.deep.equal({
      outcome: 'fail',
      waived: false,
      findings: 1,
      verdicts: 2,
    })
  })
  it('does not let a pass make up for a doubt', () =>
    expect(together(cell(1, 'a', 'unknown'), cell(1, 'b', 'pass'))?.outcome).to.equal('unknown'))
  it('tells an open doubt before a waived violation, and a waived violation before a pass', () => {
    expect(together(cell(1, 'a', 'fail', true), cell(1, 'b', 'unknown'))).to.include({
      outcome: 'unknown',
      findings: 1,
    })
    expect(together(cell(1, 'a', 'pass'), cell(1, 'b', 'fail', true))).to.include({
      outcome: 'fail',
      waived: true,
      findings: 0,
    })
  })
  it('has no cell where a device has no verdict: that is not a pass', () => {
    expect(matrixOf({ rules, cells: [cell(1, 'c', 'pass')] }, 'pci').get(1)).to.equal(undefined)
    expect(
      matrixOf({ rules, cells: [cell(1, 'b', 'pass')] }, 'pci')
        .get(1)
        ?.get('1.2.10'),
    ).to.equal(undefined)
  })

  it('is the same in whichever order verdicts come', () => {
    const outcomes = ['fail', 'error', 'unknown', 'notchecked', 'pass', 'notapplicable'] as const
    const some = fc.array(
      fc.record({
        device: fc.integer({ min: 1, max: 3 }),
        rule: fc.constantFrom('a', 'b', 'c'),
        outcome: fc.constantFrom(...outcomes),
        waived: fc.boolean(),
      }),
    )
    fc.assert(
      fc.property(some, (all) => {
        const cells = all.map((one) => cell(one.device, one.rule, one.outcome, one.waived && one.outcome === 'fail'))
        const plain = (matrix: ReturnType<typeof matrixOf>) =>
          [...matrix].map(([id, row]) => [id, [...row].sort()]).sort()
        expect(plain(matrixOf({ rules, cells }, 'pci'))).to.deep.equal(
          plain(matrixOf({ rules, cells: cells.toReversed() }, 'pci')),
        )
      }),
    )
  })
})

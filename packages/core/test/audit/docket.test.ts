import { expect } from 'chai'
import { DOCKET_FORMULA, docketOf, type Exposure, type OpenFinding } from '../../src/audit/index.ts'

const finding = (rule: string, device: string, severity: OpenFinding['severity'], exposure: Exposure): OpenFinding => ({
  benchmark: 'b',
  rule,
  device,
  severity,
  exposure,
})

describe('the docket', () => {
  it('orders by severity × exposure × spread', () => {
    const items = docketOf([
      finding('quiet', 'a', 'high', 'inside'),
      finding('wide', 'a', 'medium', 'inside'),
      finding('wide', 'b', 'medium', 'inside'),
      finding('wide', 'c', 'medium', 'inside'),
      finding('wide', 'd', 'medium', 'inside'),
      finding('open', 'a', 'medium', 'outside'),
      finding('guests', 'a', 'medium', 'guests'),
    ])
    expect(items.map(({ rule, priority }) => [rule, priority])).to.deep.equal([
      ['wide', 12],
      ['open', 12],
      ['guests', 8],
      ['quiet', 8],
    ])
  })
  it('counts the most exposed device, and names it first', () => {
    const [item] = docketOf([finding('r', 'a', 'low', 'inside'), finding('r', 'b', 'low', 'outside')])
    expect(item?.exposure).to.equal('outside')
    expect(item?.findings.map(({ device }) => device)).to.deep.equal(['b', 'a'])
    expect(item?.priority).to.equal(2 * 3 * 2)
  })
  it('doubt about who reaches a device does not make its findings less urgent', () => {
    const [undecided, outside] = (['undecided', 'outside'] as const).map(
      (one) => docketOf([finding('r', 'a', 'low', one)])[0]?.priority,
    )
    expect(undecided).to.equal(outside)
  })
  it('says its formula', () => {
    expect(DOCKET_FORMULA).to.contain('severity').and.contain('exposure').and.contain('spread')
  })
})

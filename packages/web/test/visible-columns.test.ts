import { expect } from 'chai'
import fc from 'fast-check'
import { COLUMN, endOf, firstOf } from '../src/verdicts/visible-columns.ts'

describe('columns of the grid', () => {
  it('draws what is in sight, and little more', () => {
    fc.assert(
      fc.property(fc.nat(2000), fc.nat(3000), fc.nat(80_000), (count, width, scrolled) => {
        const [first, end] = [firstOf(scrolled, count), endOf(scrolled, width, count)]
        expect(first).to.be.at.least(0)
        expect(end).to.be.at.most(count)
        for (const column of [Math.floor(scrolled / COLUMN), Math.floor((scrolled + width - 1) / COLUMN)])
          if (width > 0 && column < count) expect(column).to.be.within(first, end - 1)
        expect(end - first).to.be.at.most(Math.ceil(width / COLUMN) + 18)
      }),
    )
  })
})

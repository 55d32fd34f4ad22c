import { expect } from 'chai'
import fc from 'fast-check'
import type { Verdict } from '../../src/audit/index.ts'
import { placesOf } from '../../src/report/phrases.ts'

type Exhibit = Verdict['exhibits'][number]
const exhibit = (from: number, text: string, more: Partial<Exhibit> = {}): Exhibit => ({
  record: 'a',
  from,
  to: from + text.split('\n').length - 1,
  text,
  ...more,
})

describe('places of a finding', () => {
  it('are one where lines follow each other in a record', () =>
    expect(
      placesOf([exhibit(4, 'line vty 0 4'), exhibit(5, ' login\n transport input ssh'), exhibit(9, 'end')]),
    ).to.deep.equal([exhibit(4, 'line vty 0 4\n login\n transport input ssh'), exhibit(9, 'end')]))

  it('stay apart where another record follows, something was searched for, or lines are not shown', () => {
    const apart = [
      exhibit(1, 'a'),
      exhibit(2, 'b', { record: 'b' }),
      exhibit(3, 'c', { record: 'b', absent: true }),
      exhibit(4, '', { record: 'b' }),
      exhibit(5, 'd', { record: 'b', to: 8 }),
      exhibit(9, 'e', { record: 'b' }),
    ]
    expect(placesOf(apart)).to.deep.equal(apart)
  })

  it('hold every line under its number, whatever is cited', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.nat(6),
            fc.constantFrom('a', 'b'),
            fc.array(fc.stringMatching(/^[a-z]{1,4}$/), { minLength: 1, maxLength: 3 }),
          ),
        ),
        (all) => {
          const cited = all.map(([from, record, lines]) => exhibit(from + 1, lines.join('\n'), { record }))
          const numbered = (places: readonly Exhibit[]): string[] =>
            places.flatMap(({ record, from, text }) =>
              text.split('\n').map((line, i) => `${record} ${from + i} ${line}`),
            )
          expect(numbered(placesOf(cited))).to.deep.equal(numbered(cited))
        },
      ),
    ))
})

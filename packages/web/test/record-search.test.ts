import { expect } from 'chai'
import fc from 'fast-check'
import { MOST_HITS, hitsIn, nextHit, pieces } from '../src/frame/record-search.ts'

describe('search in a record', () => {
  it('finds a text in every line, whatever its case', () =>
    expect(hitsIn(['interface Vlan10', ' ip address 10.0.0.1', 'INTERFACE Vlan20'], 'interface')).to.deep.equal([
      { line: 1, from: 0, to: 9 },
      { line: 3, from: 0, to: 9 },
    ]))

  it('finds nothing of nothing, and no more than anybody goes through', () => {
    expect(hitsIn(['a'], '')).to.deep.equal([])
    expect(
      hitsIn(
        Array.from({ length: 100 }, () => 'a'.repeat(100)),
        'a',
      ),
    ).to.have.length(MOST_HITS)
  })

  it('the pieces of a line are the line, and those that are hit are the text', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 30 }), fc.string({ minLength: 1, maxLength: 3 }), (line, text) => {
        // Letters that change their length with their case are not told apart here.
        fc.pre(line.toLowerCase().length === line.length && text.toLowerCase().length === text.length)
        const parts = pieces(line, hitsIn([line], text))
        expect(parts.map((part) => part.text).join('')).to.equal(line)
        for (const part of parts) if (part.hit) expect(part.text.toLowerCase()).to.equal(text.toLowerCase())
      }),
    ))

  it('goes around the ends', () => {
    const hits = hitsIn(['a', 'a', 'a'], 'a')
    expect([nextHit(hits, 2, 1), nextHit(hits, 0, -1), nextHit([], 0, 1)]).to.deep.equal([0, 2, -1])
  })
})

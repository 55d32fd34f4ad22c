import { expect } from 'chai'
import fc from 'fast-check'
import { Obstacles, aside, bendsAround, meets, type Box, type Point } from '../src/estate/map-routes.ts'

const [left, right] = [
  { x: 0, y: 0 },
  { x: 100, y: 0 },
]
const box = (x: number, y: number, size = 20): Box => ({ owner: `${x}-${y}`, x, y, width: size, height: size })

describe('the ways of links on the map', () => {
  it('are straight where nothing stands between', () =>
    expect(bendsAround(left, right, new Obstacles([box(50, 40)]))).to.deep.equal([]))

  it('go around a device by its nearer side', () => {
    expect(bendsAround(left, right, new Obstacles([box(50, 5)]))).to.deep.equal([{ x: 28, y: -17 }])
    expect(bendsAround(left, right, new Obstacles([box(50, -5)]))?.every(({ y }) => y > 0)).to.equal(true)
  })

  it('may meet the devices that they belong to', () =>
    expect(bendsAround(left, right, new Obstacles([box(100, 0)]), ['100-0'])).to.deep.equal([]))

  it('go around what a way around meets', () => {
    const bends = bendsAround(left, right, new Obstacles([box(50, 5), box(50, -15)]))
    expect(bends?.some(({ y }) => y > 20 || y < -20)).to.equal(true)
  })

  it('are none where an end is within a box', () =>
    expect(bendsAround(left, right, new Obstacles([box(50, 0), box(100, 0)]))).to.equal(null))

  it('touch no box, and are no shorter than the straight line', () => {
    const spot = fc.record({ x: fc.integer({ min: 0, max: 400 }), y: fc.integer({ min: 0, max: 400 }) })
    const boxes = fc.array(
      spot.map(({ x, y }) => box(x, y, 30)),
      { maxLength: 12 },
    )
    let bent = 0
    fc.assert(
      fc.property(spot, spot, boxes, (from, to, all) => {
        const others = all.filter(({ x, y }) => [from, to].every((end) => Math.hypot(end.x - x, end.y - y) > 40))
        const bends = bendsAround(from, to, new Obstacles(others))
        if (bends === null) return
        if (bends.length > 0) bent++
        const line: Point[] = [from, ...bends, to]
        for (const [i, point] of line.entries())
          for (const one of others) expect(meets(line[i - 1] ?? from, point, one)).to.equal(false)
      }),
    )
    expect(bent).to.be.greaterThan(3)
  })

  it('are told as a share of the straight line and a distance from it', () => {
    expect(aside(left, right, { x: 25, y: 10 })).to.deep.equal({ share: 0.25, distance: 10 })
    expect(aside(left, { x: 0, y: 50 }, { x: 10, y: 25 })).to.deep.equal({ share: 0.5, distance: -10 })
    expect(aside(left, left, right)).to.deep.equal({ share: 0, distance: 0 })
  })
})

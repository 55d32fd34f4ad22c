import { expect } from 'chai'
import fc from 'fast-check'
import { namedDays, placeOf, spanOf, ticksOf } from '../src/frame/time-axis.ts'

const DAY = 86_400_000
const NOW = Date.UTC(2026, 5, 30, 12)
const APART = 2.9
const times = fc
  .array(fc.integer({ min: NOW - 900 * DAY, max: NOW }), { maxLength: 400 })
  .map((all) => all.sort((a, b) => a - b))

describe('the scale of the chronicle', () => {
  it('is true: the place on the line is in proportion to time', () => {
    const span = spanOf([NOW - 100 * DAY], NOW)
    expect(placeOf(NOW, span)).to.equal(100)
    const days = [100, 75, 50, 25, 0].map((ago) => placeOf(NOW - ago * DAY, span))
    const steps = days.slice(1).map((place, i) => place - (days[i] ?? 0))
    for (const step of steps) expect(step).to.be.closeTo(steps[0] ?? 0, 1e-9)
  })

  it('shows each snapshot in one tick, in order, the ticks far enough apart to be hit', () => {
    fc.assert(
      fc.property(times, (all) => {
        const span = spanOf(all, NOW)
        const ticks = ticksOf(all, (time) => placeOf(time, span), APART)
        expect(ticks.flatMap(({ members }) => members)).to.deep.equal(all)
        for (let i = 1; i < ticks.length; i++)
          expect((ticks[i]?.at ?? 0) - (ticks[i - 1]?.at ?? 0)).to.be.at.least(APART)
      }),
    )
  })

  it('stays true with many: a tick stands in the middle of what it stands for, never beyond', () => {
    fc.assert(
      fc.property(times, (all) => {
        const span = spanOf(all, NOW)
        for (const { at, members } of ticksOf(all, (time) => placeOf(time, span), APART)) {
          const places = members.map((time) => placeOf(time, span))
          expect(at).to.be.closeTo((Math.min(...places) + Math.max(...places)) / 2, 1e-9)
        }
      }),
    )
  })

  it('leaves one alone that has room, though many crowd elsewhere', () => {
    const crowd = Array.from({ length: 60 }, (_, i) => NOW - DAY + i * 60_000)
    const alone = NOW - 200 * DAY
    const span = spanOf([alone, ...crowd], NOW)
    const ticks = ticksOf([alone, ...crowd], (time) => placeOf(time, span), APART)
    expect(ticks).to.have.length(2)
    expect(ticks[0]?.at).to.equal(placeOf(alone, span))
    expect(ticks[1]?.members).to.have.length(60)
  })

  it('names fewer where there is less room', () => {
    const span = spanOf([NOW - 90 * DAY], NOW)
    for (const most of [1, 2, 4, 8]) expect(namedDays(span, most).length).to.be.within(1, most + 1)
  })

  it('names ten days at most, from a week to thirty years', () => {
    for (const days of [7, 30, 200, 900, 11_000]) {
      const named = namedDays(spanOf([NOW - days * DAY], NOW))
      expect(named.length).to.be.within(3, 11)
      for (const at of named) expect(at % DAY).to.equal(0)
    }
  })
})

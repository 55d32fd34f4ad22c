import { expect } from 'chai'
import fc from 'fast-check'
import { sampleOf, type SampleMember } from '../../src/estate/index.ts'

const members = fc
  .uniqueArray(fc.record({ name: fc.string({ minLength: 1 }), stratum: fc.constantFrom('a', 'b', 'c', 'd') }), {
    selector: ({ name }) => name,
    minLength: 1,
    maxLength: 60,
  })
  .map((all): SampleMember[] => all.map(({ name, stratum }) => ({ name, strata: [stratum] })))
const size = fc.integer({ min: 1, max: 70 })

describe('a sample of a population', () => {
  it('has its size, holds each member once, and only those there are', () => {
    fc.assert(
      fc.property(members, size, fc.string(), (all, wanted, seed) => {
        const { names, population, strata } = sampleOf(all, wanted, seed)
        expect(names).to.have.length(Math.min(wanted, all.length))
        expect(new Set(names).size).to.equal(names.length)
        expect(names.every((name) => all.some((one) => one.name === name))).to.equal(true)
        expect(population).to.equal(all.length)
        expect(strata.reduce((sum, { sampled }) => sum + sampled, 0)).to.equal(names.length)
      }),
    )
  })
  it('is drawn again from the same seed, in whichever order the population comes', () => {
    fc.assert(
      fc.property(members, size, fc.string(), (all, wanted, seed) => {
        expect(sampleOf(all.toReversed(), wanted, seed)).to.deep.equal(sampleOf(all, wanted, seed))
      }),
    )
  })
  it('no stratum is left out where there is room for all, and none is far from its share', () => {
    fc.assert(
      fc.property(members, size, fc.string(), (all, wanted, seed) => {
        const { strata, names } = sampleOf(all, wanted, seed)
        for (const { population, sampled } of strata) {
          if (names.length >= strata.length) expect(sampled).to.be.at.least(1)
          expect(sampled).to.be.at.most(population)
          expect(Math.abs(sampled - (population * names.length) / all.length)).to.be.below(strata.length + 1)
        }
      }),
    )
  })
  it('another seed draws others', () => {
    const all = Array.from({ length: 40 }, (_, i) => ({ name: `sw-${i}`, strata: [] }))
    const drawn = ['one', 'two', 'three'].map((seed) => sampleOf(all, 5, seed).names.join())
    expect(new Set(drawn).size).to.equal(3)
  })
  it('every member is as likely as the others', () => {
    const all = Array.from({ length: 10 }, (_, i) => ({ name: `sw-${i}`, strata: [] }))
    const counts = new Map<string, number>()
    for (let seed = 0; seed < 2000; seed++)
      for (const name of sampleOf(all, 3, String(seed)).names) counts.set(name, (counts.get(name) ?? 0) + 1)
    // 600 expected, standard deviation 20.5 (binomial, n = 2000, p = 0.3): within five of them.
    expect([...counts.values()].every((one) => Math.abs(one - 600) < 103)).to.equal(true)
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { DeviceAnalysis } from '../../src/analysis/index.ts'
import { AuditedDevice } from '../../src/audit/index.ts'
import { EffectiveConfig, dialectById, prepare, readBenchmark } from '../../src/index.ts'
import { digestOf } from '../../src/estate/index.ts'
import { networkPart } from '../../src/forwarding/index.ts'
import type { Dialect } from '../../src/dialects/index.ts'
import type { ReadRecord } from '../../src/state/index.ts'
import { SizedCache } from '../../src/syntax/index.ts'

const indented = dialectById('indented') ?? expect.fail()

/** How often something is made of a tree while work is done. */
function made(work: () => void): number {
  const of = EffectiveConfig.of
  let times = 0
  EffectiveConfig.of = (...asked) => {
    times++
    return of(...asked)
  }
  try {
    work()
  } finally {
    EffectiveConfig.of = of
  }
  return times
}

const config = 'hostname a\ninterface GigabitEthernet0/1\n ip address 10.0.0.1 255.255.255.0\nfrobnicate everything\n'
const records = (dialect: Dialect): ReadRecord[] => [
  { id: 'config', kind: 'config', tree: dialect.read(config) },
  { id: 'saved', kind: 'config.saved', tree: dialect.read(config.replace('hostname a', 'hostname b')) },
  { id: 'neighbours', kind: 'state/neighbours', tree: null, text: 'nothing that is read' },
]

describe('the analysis of a device', () => {
  const benchmark = `id: own
title: Own
version: 1.0.0
statement: s
profiles: [{ id: base, title: All }]
rules:
  - { id: r, title: t, statement: s, topic: T, severity: low, profile: base,
      decide: [{ id: a, when: { model: 'size(interfaces) == 1' }, outcome: pass, note: n }, { id: b, outcome: fail, note: n }] }
`
  it('is made once, whoever asks for it', () => {
    const analysis = new DeviceAnalysis(indented, records(indented), () => '')
    const bench = prepare({ benchmark: readBenchmark(benchmark), profile: null, values: {} })
    const times = made(() => {
      const verdicts = [1, 2].map(() => AuditedDevice.of('a', analysis)?.verdicts([bench])[0]?.outcome)
      expect(verdicts).to.deep.equal(['pass', 'pass'])
      expect(digestOf(analysis)?.digest.hostname).to.equal('a')
      expect(networkPart({ name: 'a', facts: { labels: {} }, analysis }).digested?.digest.hostname).to.equal('a')
    })
    // What runs, and nothing of what is saved until a rule asks for it.
    expect(times).to.equal(1)
    expect(analysis.modelled).to.equal(analysis.modelled)
    expect(analysis.unread.get('config')).to.deep.equal([4])
  })
  it('knows which record is judged, and the unparsed lines of each', () => {
    const analysis = new DeviceAnalysis(indented, records(indented), () => '')
    expect(analysis.judged?.id).to.equal('config')
    expect([...analysis.unread]).to.deep.equal([
      ['config', [4]],
      ['saved', [4]],
      ['neighbours', []],
    ])
    expect(analysis.size).to.equal(2 * config.length + 'nothing that is read'.length)
  })
  it('of outputs alone there is nothing to judge', () => {
    const analysis = new DeviceAnalysis(indented, records(indented).slice(2), () => '')
    expect([analysis.judged, analysis.effective, analysis.modelled]).to.deep.equal([null, null, null])
    expect(AuditedDevice.of('a', analysis)).to.equal(null)
    expect(digestOf(analysis)).to.equal(null)
  })
})

describe('a cache within a limit', () => {
  const step = fc.record({ key: fc.constantFrom('a', 'b', 'c', 'd', 'e'), size: fc.integer({ min: 1, max: 12 }) })
  it('never holds more than its limit, and what was asked for last', () =>
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const cache = new SizedCache<number>(20)
        const sizes = new Map<string, number>()
        for (const { key, size } of steps) {
          cache.set(key, size, size)
          sizes.set(key, size)
          expect(cache.get(key)).to.equal(size)
          const held = [...sizes].filter(([one]) => cache.get(one) !== undefined)
          expect(held.reduce((sum, [, own]) => sum + own, 0)).to.be.at.most(20)
          cache.get(key)
        }
      }),
    ))
  it('drops what was not asked for the longest', () => {
    const cache = new SizedCache<string>(3)
    for (const key of ['a', 'b', 'c']) cache.set(key, key, 1)
    cache.get('a')
    cache.set('d', 'd', 1)
    expect(['a', 'b', 'c', 'd'].map((key) => cache.get(key))).to.deep.equal(['a', undefined, 'c', 'd'])
  })
  it('does not keep what is larger than the limit, nor what it replaces', () => {
    const cache = new SizedCache<string>(3)
    cache.set('a', 'small', 1)
    cache.set('a', 'large', 4)
    expect(cache.get('a')).to.equal(undefined)
    cache.set('b', 'b', 3)
    expect(cache.get('b')).to.equal('b')
  })
})

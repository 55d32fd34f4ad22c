import { benchmarkAsRead, readBenchmark } from '@jurybox/core/benchmarks'
import { auditDevice, prepare, readSnapshot } from '@jurybox/core'
import { expect } from 'chai'
import { benchmarkTexts, benchmarksToKeep, shippedBenchmarks } from '../src/index.ts'

const mask = (): string => 'masked'
const text = 'hostname edge-1\nline vty 0 4\n transport input telnet\nntp server 10.0.0.5\n'

describe('benchmarks that ship, kept as they were read', () => {
  it('are the same when they come back from JSON', () => {
    const kept = Object.values(JSON.parse(JSON.stringify(benchmarksToKeep())))
    expect(kept).to.deep.equal(shippedBenchmarks().map(({ benchmark }) => benchmark.source))
  })

  it('judge as those that are read from their texts', () => {
    const device = readSnapshot([{ path: 'edge-1.cfg', bytes: new TextEncoder().encode(text) }]).devices[0]
    if (!device) throw new Error('not read')
    for (const { text: yaml } of benchmarkTexts()) {
      const read = readBenchmark(yaml)
      const kept = benchmarkAsRead(JSON.parse(JSON.stringify(read.source)), yaml)
      expect(kept.hash).to.equal(read.hash)
      const verdicts = [read, kept].map((benchmark) =>
        auditDevice(
          device.name,
          device.dialect,
          device.records,
          [prepare({ benchmark, profile: null, values: {} })],
          mask,
        ),
      )
      expect(verdicts[1]).to.deep.equal(verdicts[0])
    }
  })
}).timeout(60_000)

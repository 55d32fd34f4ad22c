import { expect } from 'chai'
import { CoreError, prepare, readBenchmark, readExpectations } from '../../src/index.ts'
import { checkValue, rulesOf } from '../../src/benchmarks/index.ts'
import { readLinksFile } from '../../src/forwarding/index.ts'
import { FrameReader } from '../../src/netconf/index.ts'
import { readQuestion } from '../../src/query/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'

const HEAD = `id: house-rules
title: House rules
version: "1"
statement: Made for this test.
profiles: [{ id: all, title: All }]
`
const RULE = `rules:
  - id: one
    title: One
    statement: s
    topic: T
    severity: low
    profile: all
    dialects: [indented]
    decide: [{ id: not, outcome: fail, note: n }]
`
const errorOf = (act: () => unknown): CoreError => {
  try {
    act()
  } catch (error) {
    if (error instanceof CoreError) return error
    throw error
  }
  throw new Error('nothing was thrown')
}

describe('errors of the core', () => {
  it('of a benchmark name its line', () => {
    const { code, where } = errorOf(() => readBenchmark(`${HEAD}rules:\n  - {`))
    expect({ code, line: where.line }).to.deep.equal({ code: 'benchmark', line: 7 })
    const schema = errorOf(() => readBenchmark(`${HEAD}${RULE.replace('severity: low', 'severity: dire')}`))
    expect(schema.where).to.deep.equal({ line: 11 })
    const profile = errorOf(() => readBenchmark(`${HEAD}${RULE.replace('profile: all', 'profile: none')}`))
    expect(profile.where).to.deep.equal({ line: 7 })
    const twice = errorOf(() => readBenchmark(`${HEAD}${RULE}${RULE.slice('rules:\n'.length)}`))
    expect(twice.where).to.deep.equal({ line: 15 })
    expect(twice.message).to.equal('Rule "one" stands twice')
    const empty = errorOf(() => readBenchmark(HEAD))
    expect(empty.code).to.equal('benchmark')
  })

  it('tell a profile, a rule and a value that are not there', () => {
    const benchmark = readBenchmark(`${HEAD}values: { most: { title: M, type: int, default: 3 } }\n${RULE}`)
    expect(errorOf(() => rulesOf(benchmark, 'none')).code).to.equal('profile')
    expect(errorOf(() => prepare({ benchmark, profile: 'all', values: { least: 1 } })).code).to.equal('value')
    const { most } = benchmark.source.values
    expect(errorOf(() => most && checkValue('most', most, 'three')).code).to.equal('value')
  })

  it('of a companion file name the file and the line', () => {
    const links = errorOf(() => readLinksFile({ path: 'links.yaml', text: 'links:\n  - between: [a, b:1]\n' }))
    expect({ code: links.code, ...links.where }).to.deep.equal({ code: 'companion-file', file: 'links.yaml', line: 2 })
    const yaml = errorOf(() => readExpectations({ path: 'e.yaml', text: 'expectations:\n\n  - {' }))
    expect(yaml.where.file).to.equal('e.yaml')
    expect(yaml.where.line).to.be.at.least(3)
  })

  it('tell a dialect, a question and a frame that are none', () => {
    expect(errorOf(() => readRecord('hostname a\n', 'no-such')).code).to.equal('dialect')
    expect(errorOf(() => readQuestion('/(/')).code).to.equal('question')
    const reader = new FrameReader()
    reader.framing = 'chunked'
    expect(errorOf(() => reader.push(new TextEncoder().encode('no chunk'))).code).to.equal('framing')
  })
})

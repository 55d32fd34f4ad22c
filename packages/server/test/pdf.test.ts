import { expect } from 'chai'
import { auditSnapshot, fingerprintWithKey, maskWithKey, readBenchmark, readSnapshot } from '@jurybox/core'
import { makeReport } from '@jurybox/core/report'
import { writePdf } from '../src/reports/pdf.ts'

const RULE = `
id: pairs
title: Pairs
version: 1.0.0
statement: s
topics: [t]
profiles: [{ id: base, title: Base }]
rules:
  - { id: pairs, title: Pairs, topic: t, severity: low, profile: base, statement: s, remedy: { words: w }, decide: [{ id: described, when: 'interface ...', outcome: fail, note: n }, { id: none, outcome: pass, note: n }] }
`

describe('a report as PDF', () => {
  it('holds every pair of printable characters (ASCII, RFC 20) in lines that it cites', async function () {
    this.timeout(60_000)
    const printable = Array.from({ length: 94 }, (_, i) => String.fromCharCode(33 + i))
    const lines = printable.map(
      (first, i) => `interface Vlan${i}\n description ${printable.map((second) => first + second).join(' ')}\n`,
    )
    const benchmark = readBenchmark(RULE)
    const snapshot = readSnapshot([{ path: 'a.cfg', bytes: new TextEncoder().encode(`hostname a\n${lines.join('')}`) }])
    const document = auditSnapshot(snapshot, [{ benchmark, profile: 'base', values: {} }], {
      build: 'test',
      mask: maskWithKey(new Uint8Array(32)),
      fingerprint: fingerprintWithKey(new Uint8Array(32)),
    })
    const [verdict] = document.verdicts
    if (!verdict) throw new Error('nothing was judged')
    const cited = {
      ...document,
      verdicts: [
        { ...verdict, exhibits: lines.map((text, i) => ({ record: 'a.cfg', from: 2 * i + 2, to: 2 * i + 3, text })) },
      ],
    }
    const pdf = await writePdf(
      makeReport(cited, [benchmark.source], [], { title: 'Pairs', engagement: null, madeAt: '2026-11-24T10:00:00Z' }),
    )
    expect(pdf.subarray(0, 5).toString()).to.equal('%PDF-')
    expect(pdf.length).to.be.above(10_000)
  })
})

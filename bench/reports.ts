// What reports of many findings take: seconds beside those of the smallest, and the most memory of the printing
// processes. Prints ratios and MB, one line a size.
import { readFileSync, readdirSync } from 'node:fs'
import { auditSnapshot, fingerprintWithKey, maskWithKey, readBenchmark, readSnapshot } from '@jurybox/core'
import { makeReport, writeHtml, type Report } from '@jurybox/core/report'
import { Printer } from '../packages/server/src/reports/print.ts'
import { writeDocx, writeXlsx } from '../packages/server/src/reports/office.ts'

const RULE = `
id: bench
title: Bench
version: 1.0.0
statement: s
topics: [t]
profiles: [{ id: base, title: Base }]
rules:
  - { id: described, title: Interfaces have a description, topic: t, severity: low, profile: base, statement: What a
      person reads first when something fails., remedy: { words: Describe the interface. }, decide: [{ id: there, when:
      'description ...', outcome: pass, note: n }, { id: none, outcome: fail, note: No description is configured. }] }
`

/** A report with so many findings, each with twelve cited lines. */
function reportOf(findings: number): Report {
  const benchmark = readBenchmark(RULE)
  const files = [{ path: 'a.cfg', bytes: new TextEncoder().encode('hostname a\ninterface Vlan1\n') }]
  const document = auditSnapshot(readSnapshot(files), [{ benchmark, profile: 'base', values: {} }], {
    build: 'bench',
    mask: maskWithKey(new Uint8Array(32)),
    fingerprint: fingerprintWithKey(new Uint8Array(32)),
  })
  const [verdict] = document.verdicts
  if (!verdict) throw new Error('nothing was judged')
  const exhibits = Array.from({ length: 4 }, (_, i) => ({
    record: document.records[0]?.id ?? '',
    from: 3 * i + 1,
    to: 3 * i + 3,
    text: `interface GigabitEthernet1/0/${i}\n switchport mode access\n switchport access vlan 10`,
  }))
  const verdicts = Array.from({ length: findings }, (_, i) => ({ ...verdict, device: `device-${i % 500}`, exhibits }))
  const madeAt = '2026-11-24T10:00:00Z'
  return makeReport({ ...document, verdicts }, [benchmark.source], [], { title: 'Bench', engagement: null, madeAt })
}

/** Memory of all printing processes, in MB; what they share counts once. */
function printingMb(): number {
  let kilobytes = 0
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      if (readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('jurybox-print-'))
        kilobytes += Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1] ?? 0)
    } catch {
      // It ended while it was looked at.
    }
  return Math.round(kilobytes / 1000)
}

const printer = new Printer('/usr/bin/chromium')
let first: Record<string, number> = {}
for (const findings of [300, 1000, 3000]) {
  const report = reportOf(findings)
  const seconds: Record<string, number> = {}
  const bytes: Record<string, number> = {}
  let most = 0
  const watch = setInterval(() => (most = Math.max(most, printingMb())), 100)
  const html = writeHtml(report)
  for (const [form, write] of [
    ['pdf', () => printer.print({ html, head: 'Bench', foot: '' })],
    ['docx', () => writeDocx(report)],
    ['xlsx', () => writeXlsx(report)],
  ] as const) {
    const began = performance.now()
    bytes[form] = (await write()).length
    seconds[form] = (performance.now() - began) / 1000
  }
  clearInterval(watch)
  if (findings === 300) first = seconds
  const said = Object.entries(seconds).map(
    ([form, one]) => `${form} ${(one / (first[form] ?? 1)).toFixed(1)} × (${((bytes[form] ?? 0) / 1e6).toFixed(1)} MB)`,
  )
  console.log(`${findings} findings: ${said.join(', ')}; pdf ${seconds['pdf']?.toFixed(1)} s, printing took ${most} MB`)
}
await printer.close()

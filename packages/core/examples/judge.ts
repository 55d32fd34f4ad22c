/** Judges a device by a benchmark of one rule, and shows the lines that each verdict rests on. */
import { auditDevice, maskWithKey, prepare, readBenchmark, readSnapshot } from '@jurybox/core'

const benchmark = readBenchmark(`
id: house-rules
title: House rules
version: "1"
statement: Made for this example.
profiles: [{ id: all, title: All }]
rules:
  - id: no-telnet
    title: Terminal lines refuse Telnet
    statement: Telnet sends passwords in the clear (RFC 854 has no encryption).
    topic: Management access
    severity: high
    profile: all
    dialects: [indented]
    each: { block: line vty ... }
    nothing: { outcome: notapplicable, note: There are no terminal lines. }
    decide:
      - { id: telnet, when: { line: transport input telnet }, outcome: fail, note: Telnet is accepted. }
      - { id: none, outcome: pass, note: Telnet is not accepted. }
`)

const text = 'hostname edge-1\nline vty 0 4\n transport input telnet\n'
const files = [{ path: 'edge-1.cfg', bytes: new TextEncoder().encode(text) }]
const device = readSnapshot(files).devices[0]
if (!device) throw new Error('edge-1.cfg was not read')

const mask = maskWithKey(crypto.getRandomValues(new Uint8Array(32)))
const chosen = prepare({ benchmark, profile: 'all', values: {} })
for (const verdict of auditDevice(device.name, device.dialect, device.records, [chosen], mask)) {
  console.log(verdict.rule, verdict.outcome, '-', verdict.note)
  for (const { from, text } of verdict.exhibits) console.log(`line ${from}: ${text}`)
}

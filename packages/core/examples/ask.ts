/** Asks what a network of one router does with packets, and gets a packet that shows it. */
import { Walker, answerTo, maskWithKey, networkOfSnapshot, readExpectations, readSnapshot } from '@jurybox/core'

const text = `hostname edge-1
interface Port1
 ip address 10.0.1.1 255.255.255.0
 ip access-group FROM-OFFICE in
interface Port2
 ip address 10.0.2.1 255.255.255.0
ip access-list extended FROM-OFFICE
 permit tcp any any eq 443
 permit tcp any any eq 23
`
const snapshot = readSnapshot([{ path: 'edge-1.cfg', bytes: new TextEncoder().encode(text) }])
const mask = maskWithKey(crypto.getRandomValues(new Uint8Array(32)))
const walker = new Walker(networkOfSnapshot(snapshot, mask))

const expectations = readExpectations({
  path: 'expectations.yaml',
  text: `
expectations:
  - { id: web, title: Web, from: 10.0.1.0/24, to: 10.0.2.0/24, only: tcp and dst port 443, must: arrive }
  - { id: no-telnet, title: No Telnet, from: 10.0.1.0/24, to: 10.0.2.0/24, only: tcp and dst port 23, must: not-arrive }
`,
})
for (const expectation of expectations) {
  const { id, outcome, words, exhibits, example } = answerTo(walker, expectation)
  console.log(id, outcome, '-', words)
  for (const { from } of exhibits) console.log(`line ${from}: ${text.split('\n')[from - 1]}`)
  if (!example) continue
  const { source, destination, destinationPort } = example.packet
  console.log(`for example ${source} to ${destination}, port ${destinationPort}`)
}

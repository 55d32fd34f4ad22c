/** Reads a configuration, and says what it means and which line says so. */
import { EffectiveConfig, maskWithKey, modelOf, readSnapshot } from '@jurybox/core'

const text = `hostname edge-1
ntp server 10.0.0.5
interface Port1
 ip address 10.0.1.1 255.255.255.0
 shutdown
 colour of the cable green
`

// Files become devices; each text becomes a tree in which every command knows its line.
const files = [{ path: 'edge-1.cfg', bytes: new TextEncoder().encode(text) }]
const device = readSnapshot(files).devices[0]
const record = device?.records[0]
if (!device || !record?.tree) throw new Error('edge-1.cfg was not read')

// What holds becomes a model that is the same for all dialects; the key masks what is secret.
const mask = maskWithKey(crypto.getRandomValues(new Uint8Array(32)))
const { model, origins, unread } = modelOf(EffectiveConfig.of(record.tree, device.dialect), { record: record.id, mask })

console.log(device.dialect.id, model.system.hostname, model.interfaces[0]?.enabled)
const origin = origins.get('interfaces[0].enabled')
if (origin?.kind === 'line') console.log('says line', origin.lines[0]?.from)
for (const { line, text: left } of unread) console.log(`not read: line ${line}: ${left}`)

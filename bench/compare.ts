/**
 * A snapshot of a thousand devices compared with another one, of which ten or all devices changed, and a reference
 * derived from five hundred. Prints ratios to reading one such snapshot in this run; nothing here is a test.
 *   npm run bench:compare
 */
import { maskWithKey } from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { compareDevices } from '@jurybox/core/compare'
import { dialectById } from '@jurybox/core/dialects'
import { deriveReference } from '@jurybox/core/references'
import { readRecord } from '@jurybox/core/snapshot'
import { features } from '@jurybox/content'
import { generateDevice } from './generate.ts'

const DEVICES = 1_000
const GROUP = 500
const mask = maskWithKey(new Uint8Array(32))
const print = (name: string, value: string): void => console.log(name.padEnd(62), value)
const dialect = dialectById('indented')
if (!dialect) throw new Error('the dialect of the generated devices is not there')

/** Read and modelled, as after an import. */
function read(text: string): DeviceAnalysis {
  const records = [{ id: 'config', kind: 'config', tree: readRecord(text, 'indented'), takenAt: null }]
  const device = new DeviceAnalysis(dialect as NonNullable<typeof dialect>, records, mask)
  void device.modelled
  return device
}
/** Another MTU, an access list with one entry more, another clock, and a line in another place. */
function changed(text: string): string {
  return text
    .replace(' description Desk', ' mtu 9000\n description Desk')
    .replace(' permit tcp any any established', ' permit tcp any any eq 8443\n permit tcp any any established')
    .replace('ntp server 10.0.0.2 key 1', 'ntp server 10.0.0.3 key 1')
}
function timed<T>(work: () => T): { readonly took: number; readonly result: T } {
  const began = performance.now()
  const result = work()
  return { took: performance.now() - began, result }
}

const texts = Array.from({ length: DEVICES }, (_, i) => generateDevice(i))
// Both are measured warm.
texts.slice(0, 60).forEach((text) => compareDevices(read(text), read(changed(text)), []))
const { took: reading, result: before } = timed(() => texts.map(read))
print(`reading ${DEVICES} devices`, `${reading.toFixed(0)} ms`)

for (const count of [10, DEVICES]) {
  const later = texts.map((text, i) => (i % (DEVICES / count) === 0 ? changed(text) : text))
  const after = later.map((text, i) => (text === texts[i] ? null : read(text)))
  // A device whose records are the same is not compared: cost follows change.
  const { took, result } = timed(() =>
    before.map((a, i) => {
      const b = after[i]
      return b ? compareDevices(a, b, []) : null
    }),
  )
  const differ = result.reduce((sum, one) => sum + (one?.records[0]?.statements.length ?? 0), 0)
  print(
    `comparing, ${count} of ${DEVICES} changed (${differ} statements differ)`,
    `${took.toFixed(0)} ms, ${(took / reading).toFixed(3)} of reading`,
  )
}

for (const feature of features()) {
  if (!feature.statements['indented']) continue
  const group = before.slice(0, GROUP).map((analysis, i) => ({ name: `bench-${i}`, analysis }))
  const { took, result } = timed(() => deriveReference(group, feature, 'indented', 0.8))
  print(
    `deriving ${feature.id} over ${GROUP} (${result?.derived.outliers.length ?? 0} outliers)`,
    `${took.toFixed(0)} ms, ${(took / (reading * (GROUP / DEVICES))).toFixed(3)} of reading them`,
  )
}

import { Bound } from '../../../model/mapping.ts'
import type { Writer } from '../../../model/writer.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'

type Ospf = DeviceModel['ospf'][number]
type Bgp = DeviceModel['bgp'][number]

/** What is taken over from another protocol, and by which policy. */
export function redistributes(w: Writer<Ospf> | Writer<Bgp>, b: Bound): void {
  const options = b.words('options')
  const at = options.indexOf('route-map')
  const entry = {
    source: [b.text('source'), ...(/^\d/.test(options[0] ?? '') ? [options[0]] : [])].join(' '),
    policy: at < 0 ? null : (options[at + 1] ?? null),
  }
  ;(w as Writer<Ospf>).add('redistributes', entry)
}

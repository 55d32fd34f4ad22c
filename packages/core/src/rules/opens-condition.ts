import { admissionTo, type Admission } from './admission.ts'
import type { Ask } from './ask.ts'
import { unreadAbout } from './doubt.ts'
import { Finding } from './evidence.ts'
import type { JudgedDevice } from './inquiry.ts'
import { placesOf } from './model-condition.ts'
import type { Service } from './services.ts'

/** Parts of the model that decide who gets in to the device itself. */
const BEARING = ['accessLists', 'interfaces.filters', 'zones', 'prefixLists']

const known = new WeakMap<JudgedDevice, Map<string, Admission>>()

/** Whether the device's own filters let whoever likes connect to a service; binds `by`, the interface by which they do. */
export function askOpens({ service, family }: { readonly service: Service; readonly family: 'ipv4' | 'ipv6' }): Ask {
  return (inquiry) => {
    const { device, names } = inquiry
    const { faults } = device.modelled()
    const stated = names['management_sources']
    const allowed = Array.isArray(stated) && stated.length > 0 ? stated.map(String) : null
    const key = `${service} ${family} ${allowed?.join() ?? ''}`
    let answers = known.get(device)
    if (!answers) known.set(device, (answers = new Map()))
    let admission = answers.get(key)
    if (!admission) answers.set(key, (admission = admissionTo(device, service, family, allowed)))
    const { open, why, port, paths } = admission
    inquiry.bind({ by: port === null ? 'any interface' : port })
    // Lines that are missing may close what is open, and open what is closed.
    const fault = faults[0]
    const truth = fault ? 'unknown' : open
    const places = paths.flatMap((path) => placesOf(device, path))
    return new Finding(truth, () => (places.length > 0 ? places : inquiry.whole()), fault ? { why: `the record is not whole (line ${fault.line}: ${fault.reason})` } : { why: why ?? undefined }, unreadAbout(device, BEARING))
  }
}

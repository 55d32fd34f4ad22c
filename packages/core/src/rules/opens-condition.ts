import { admissionTo, type Admission } from './admission.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { unreadAbout } from './doubt.ts'
import { Finding } from './evidence.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { placesOf } from './model-condition.ts'
import type { Service } from './services.ts'

/** Parts of the model that decide who gets in to the device itself. */
const BEARING = ['accessLists', 'interfaces.filters', 'zones', 'prefixLists']

const known = new WeakMap<JudgedDevice, Map<string, Admission>>()

/** The prefixes from which devices may be managed, as the value of that name states them; null: nobody said. */
export function managementSources({ names }: Pick<EvaluationContext, 'names'>): readonly string[] | null {
  const stated = names['management_sources']
  return Array.isArray(stated) && stated.length > 0 ? stated.map(String) : null
}

/**
 * Whether the device's own filters let whoever likes connect to a service; binds `by`, the interface by which they do.
 */
export function askOpens({
  service,
  family,
}: {
  readonly service: Service
  readonly family: 'ipv4' | 'ipv6'
}): CompiledCondition {
  return (inquiry) => {
    const { device } = inquiry
    const { faults } = device.modelled()
    const allowed = managementSources(inquiry)
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
    return new Finding(
      truth,
      () => (places.length > 0 ? places : inquiry.whole()),
      fault ? { why: `the record is not whole (line ${fault.line}: ${fault.reason})` } : { why: why ?? undefined },
      unreadAbout(device, BEARING),
    )
  }
}

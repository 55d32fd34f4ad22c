import type { JudgedDevice } from './inquiry.ts'

/** Parts of the device model by which an expression can begin. */
export const MODEL_ROOTS = ['dialect', 'listing', 'system', 'interfaces', 'vlans', 'vrfs', 'staticRoutes', 'ospf', 'bgp', 'routePolicies', 'prefixLists', 'communityLists', 'accessLists', 'zones', 'zonePolicies', 'nat', 'trustPoints', 'ikeProposals', 'espProposals', 'ipsecPeers', 'macsec', 'trafficClasses', 'trafficPolicies'] as const

const known = new WeakMap<JudgedDevice, WeakMap<object, object>>()

/**
 * What every expression about a device knows: the benchmark's values, the parts of its model, `state`, and its `device`
 * facts. Model and state are made when an expression first reads them.
 */
export function namesOf(device: JudgedDevice, values: Readonly<Record<string, unknown>>): object {
  const byValues = known.get(device) ?? new WeakMap<object, object>()
  known.set(device, byValues)
  let names = byValues.get(values)
  if (!names) {
    names = Object.create(values) as object
    for (const root of MODEL_ROOTS) Object.defineProperty(names, root, { enumerable: true, get: () => device.modelled().model[root] })
    Object.defineProperty(names, 'state', { enumerable: true, get: () => device.stated().state })
    Object.defineProperty(names, 'device', { enumerable: true, value: { name: device.name, dialect: device.held.dialect.id, ...device.facts } })
    byValues.set(values, names)
  }
  return names
}

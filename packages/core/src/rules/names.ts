import type { JudgedDevice } from './inquiry.ts'

/** Parts of the device model by which an expression can begin. */
export const MODEL_ROOTS = ['dialect', 'listing', 'system', 'interfaces', 'vlans', 'accessMaps', 'vrfs', 'staticRoutes', 'ospf', 'bgp', 'routePolicies', 'prefixLists', 'communityLists', 'accessLists', 'addressGroups', 'applications', 'zones', 'zonePolicies', 'nat', 'trustPoints', 'ikeProposals', 'espProposals', 'ikeGateways', 'ikePolicies', 'ipsecPolicies', 'vpns', 'ipsecPeers', 'macsec', 'trafficClasses', 'trafficPolicies'] as const

/** A name whose value is made when it is read; what a pattern binds under it goes before it. */
function lazily(names: object, name: string, make: () => unknown): void {
  Object.defineProperty(names, name, {
    enumerable: true,
    get: make,
    set(this: object, value: unknown) {
      Object.defineProperty(this, name, { value, enumerable: true, configurable: true, writable: true })
    },
  })
}

/** By which names expressions know the facts of a device; one that is in no group, or of which nobody said what it may run, has none. */
export function factsByName(device: JudgedDevice): Readonly<Record<string, unknown>> {
  return { name: device.name, dialect: device.held.dialect.id, groups: [], sites: [], approved: 'none', ...device.facts }
}

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
    for (const root of MODEL_ROOTS) lazily(names, root, () => device.modelled().model[root])
    lazily(names, 'state', () => device.stated().state)
    lazily(names, 'device', () => factsByName(device))
    byValues.set(values, names)
  }
  return names
}

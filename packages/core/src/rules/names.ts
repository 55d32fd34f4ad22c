import { NO_NAMES, type Bindings } from '../model/index.ts'
import type { JudgedDevice, Names } from './judged.ts'

/** Parts of the device model by which an expression can begin. */
export const MODEL_ROOTS = [
  'dialect',
  'listing',
  'system',
  'interfaces',
  'vlans',
  'accessMaps',
  'vrfs',
  'staticRoutes',
  'ospf',
  'bgp',
  'routePolicies',
  'prefixLists',
  'communityLists',
  'accessLists',
  'addressGroups',
  'applications',
  'zones',
  'zonePolicies',
  'nat',
  'trustPoints',
  'ikeProposals',
  'espProposals',
  'ikeGateways',
  'ikePolicies',
  'ipsecPolicies',
  'vpns',
  'ipsecPeers',
  'macsec',
  'trafficClasses',
  'trafficPolicies',
] as const

/**
 * By which names expressions know the facts of a device; one that is in no group, or of which nobody said what it may
 * run, has none.
 */
export function factsByName(device: JudgedDevice): Readonly<Record<string, unknown>> {
  return {
    name: device.name,
    dialect: device.effective.dialect.id,
    groups: [],
    sites: [],
    approved: 'none',
    ...device.facts,
  }
}

/** The device that the names belong to. */
const DEVICE = Symbol('device')

type DeviceNames = Names & { [DEVICE]: JudgedDevice }

const beneath = new WeakMap<object, object>()

/** The prototype of the names of all devices: one object, since a prototype stays in memory. */
function rootsOver(values: Readonly<Record<string, unknown>>): object {
  let roots = beneath.get(values)
  if (!roots) {
    roots = Object.create(values) as object
    for (const root of MODEL_ROOTS) lazily(roots, root, (device) => device.modelled().model[root])
    lazily(roots, 'state', (device) => device.stated().state)
    lazily(roots, 'device', factsByName)
    beneath.set(values, roots)
  }
  return roots
}

/** A name whose value is made when it is read; what a pattern binds under it goes before it. */
function lazily(names: object, name: string, make: (device: JudgedDevice) => unknown): void {
  Object.defineProperty(names, name, {
    enumerable: true,
    get(this: DeviceNames) {
      return make(this[DEVICE])
    },
    set(this: object, value: unknown) {
      Object.defineProperty(this, name, { value, enumerable: true, configurable: true, writable: true })
    },
  })
}

const around = new WeakMap<JudgedDevice, WeakMap<object, Names>>()

/**
 * What every rule knows of a device before anything is bound; the same object for all of them, which nobody changes.
 * Model and state are made when an expression first reads them.
 */
export function namesAround(device: JudgedDevice, values: Readonly<Record<string, unknown>>): Names {
  let byValues = around.get(device)
  if (!byValues) around.set(device, (byValues = new WeakMap()))
  let names = byValues.get(values)
  if (!names) byValues.set(values, (names = namesOf(device, values)))
  return names
}

/**
 * What every expression about a device knows: the benchmark's values, the parts of its model, `state`, and its `device`
 * facts. Model and state are made when an expression first reads them.
 * @param own names that go before those
 */
export function namesOf(
  device: JudgedDevice,
  values: Readonly<Record<string, unknown>>,
  own: Bindings = NO_NAMES,
): Names {
  const names = Object.assign(Object.create(rootsOver(values)) as DeviceNames, own)
  names[DEVICE] = device
  return names
}

/** A copy of some names, with more of them; of the same device. */
export function namesWithin(around: Names, ...more: readonly Bindings[]): Names {
  const names = Object.assign(
    Object.create(Object.getPrototypeOf(around) as object) as DeviceNames,
    around,
    ...more,
  ) as DeviceNames
  names[DEVICE] = (around as DeviceNames)[DEVICE]
  return names
}

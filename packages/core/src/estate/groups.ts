import { compileScope, type DeviceContext } from '../rules/index.ts'

/** A device as a saved filter asks for it; times are RFC 3339. */
export interface FilteredDevice {
  readonly name: string
  readonly dialect: string
  readonly facts: DeviceContext
  /** The site and all sites around it. */
  readonly sites: readonly string[]
  /** When its configuration was captured last, and since when it is as it is; null where that is not known. */
  readonly takenAt: string | null
  readonly changedAt: string | null
  /** Whole days since `changedAt`. */
  readonly changedDays: number | null
}

/** Whether a filter speaks of the device model, which has to be made for it. */
export function readsModel(filter: string, roots: readonly string[]): boolean {
  const bare = filter.replace(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'/g, '""')
  return roots.some((root) => new RegExp(`(?<![\\w.])${root}\\b`).test(bare))
}

export interface GroupMembers {
  readonly inside: readonly string[]
  /** Devices of which it cannot be said, with the reason. */
  readonly undecided: readonly { readonly device: string; readonly why: string }[]
}

/** The names by which a filter knows a device. */
export function filterNames({
  name,
  dialect,
  facts,
  sites,
  takenAt,
  changedAt,
  changedDays,
}: FilteredDevice): Record<string, unknown> {
  return { device: { name, dialect, groups: [], ...facts, sites, takenAt, changedAt, changedDays } }
}

/**
 * The devices of a saved filter (CEL, as scopes are written).
 * @param modelOf parts of the device model by name, for filters that read it
 * @throws Error that names the filter and what is wrong with it
 */
export function membersOf(
  filter: string,
  devices: readonly FilteredDevice[],
  modelOf: (device: FilteredDevice) => object = () => ({}),
): GroupMembers {
  const scope = compileScope(filter)
  const inside: string[] = []
  const undecided: { device: string; why: string }[] = []
  for (const device of devices) {
    const answer = scope(Object.assign(Object.create(modelOf(device)) as Record<string, unknown>, filterNames(device)))
    if (answer.inside === 'unknown') undecided.push({ device: device.name, why: answer.why ?? answer.term })
    else if (answer.inside) inside.push(device.name)
  }
  return { inside, undecided }
}

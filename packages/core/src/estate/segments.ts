import { ALL_VLANS, subnetOf, vlansOf } from '../model/index.ts'
import type { DeviceDigest } from './digest.ts'

/** What a device has a part in: VLANs (IEEE 802.1Q) by their ids, subnets by the prefixes of its addresses. */
export interface Segments {
  readonly vlans: readonly number[]
  readonly subnets: readonly string[]
  /** It has a trunk that names no VLANs: which of them it carries is not stated. */
  readonly anyVlan: boolean
}

export function segmentsOf({ vlans, interfaces }: DeviceDigest): Segments {
  const ids = new Set(vlans.map(({ id }) => id))
  const subnets = new Set<string>()
  let anyVlan = false
  for (const { name, enabled, mode, accessVlan, allowedVlans, addresses } of interfaces) {
    for (const { address, prefixLength, family } of addresses) {
      const subnet = subnetOf(address, prefixLength, family)
      if (subnet !== null) subnets.add(subnet)
    }
    // A port that is switched off carries nothing.
    if (enabled === false) continue
    if (accessVlan !== null && mode !== 'trunk') ids.add(accessVlan)
    const own = /^vlan\.?(\d{1,4})$/i.exec(name)?.[1]
    if (own !== undefined) ids.add(Number(own))
    if (mode !== 'trunk') continue
    const stated = allowedVlans === null || allowedVlans.toLowerCase() === ALL_VLANS ? null : allowedVlans
    const allowed = stated === null ? null : vlansOf(stated, (name) => vlans.find((vlan) => vlan.name === name)?.id)
    if (allowed === null) anyVlan = true
    else for (const id of allowed) ids.add(id)
  }
  return { vlans: [...ids].sort((a, b) => a - b), subnets: [...subnets].sort(), anyVlan }
}

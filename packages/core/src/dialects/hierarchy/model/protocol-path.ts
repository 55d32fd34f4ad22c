import type { Bound, Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'

/** What the protocols of the device say, and those of a routing instance in its VRF. */
export function protocols(path: string | readonly string[], apply: Mapping<DeviceModel>[1]): Mapping<DeviceModel> {
  return [[path].flat().flatMap((one) => [`protocols ${one}`, `routing-instances <vrf> protocols ${one}`]), apply]
}

export function vrfOf(b: Bound): string | null {
  return b.text('vrf') === '' ? null : b.text('vrf')
}

import { analysisOf, type DeviceAnalysis } from '../../analysis/index.ts'
import type { Mask } from '../../syntax/index.ts'
import { summaryOf, type Digested } from '../../estate/index.ts'
import type { Snapshot, SnapshotDevice } from '../../snapshot/index.ts'
import { forwardingOf, type ForwardingDevice } from './device.ts'
import { readLinksFile, type LinksFile } from './links-file.ts'
import { Network } from './network.ts'

/** What a network is made of, of one device: a function of its records and facts alone, so that it can be kept. */
export interface NetworkPart {
  readonly forwarding: ForwardingDevice
  readonly digested: Digested | null
}

export function networkPart({
  name,
  facts,
  analysis: { dialect, records, modelled, state },
}: Pick<SnapshotDevice, 'name' | 'facts'> & { readonly analysis: DeviceAnalysis }): NetworkPart {
  const forwarding = forwardingOf({
    name,
    dialect: dialect.id,
    modelled,
    reading: state,
    site: facts.site,
    labels: facts.labels,
    managementAddress: facts.managementAddress,
  })
  return {
    forwarding,
    digested: modelled && {
      name,
      digest: summaryOf(modelled, state, records),
      managementAddress: facts.managementAddress,
    },
  }
}

export function networkOfParts(parts: readonly NetworkPart[], links?: LinksFile): Network {
  return Network.of(
    parts.map(({ forwarding }) => forwarding),
    parts.flatMap(({ digested }) => digested ?? []),
    links,
  )
}

/** The network of a snapshot. @throws CompanionFileError where its links are not stated as they should be */
export function networkOfSnapshot({ devices, links }: Pick<Snapshot, 'devices' | 'links'>, mask: Mask): Network {
  return networkOfParts(
    devices.map((device) => networkPart({ ...device, analysis: analysisOf(device, mask) })),
    links ? readLinksFile(links) : undefined,
  )
}

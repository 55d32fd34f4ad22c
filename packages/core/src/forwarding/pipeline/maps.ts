import type { DeviceModel } from '../../model/index.ts'
import type { ModelList } from '../../headers/index.ts'
import type { ListSets } from '../../headers/index.ts'
import type { ForwardingDevice } from '../network/device.ts'

/** An entry of a map on an interface: which packets go protected to which peer (RFC 4301 §4.4.1). */
export interface MapEntry {
  /** Its place among the peers of the model. */
  readonly number: number
  readonly name: string
  readonly peer: string | null
  /** What chooses packets that go out, and what packets that come in must be; null where it is not known. */
  readonly outward: ModelList | null
  readonly inward: ModelList | null
}

/** The maps of one device. */
export class Maps {
  readonly #ports = new Map<number, readonly MapEntry[] | null>()

  constructor(
    readonly compiled: {
      readonly model: DeviceModel | null
      readonly device: ForwardingDevice
      readonly lists: ListSets
    },
  ) {}

  /** The entries of the map on an interface in the order in which they are asked; null where it has no map. */
  at(port: number): readonly MapEntry[] | null {
    let entries = this.#ports.get(port)
    if (entries === undefined) this.#ports.set(port, (entries = this.#entriesOf(port)))
    return entries
  }

  #entriesOf(port: number): MapEntry[] | null {
    const { model, device, lists } = this.compiled
    const peers = model && peersAt(model, device.interfaces[port]?.at ?? -1)
    return (
      peers &&
      peers
        .map(({ name, address, selector, number }): MapEntry => {
          const outward = selector === null ? null : lists.list(selector, 'ipv4')
          return { number, name, peer: address, outward, inward: outward && mirrored(outward) }
        })
        .sort((a, b) => sequenceOf(a) - sequenceOf(b))
    )
  }
}

/** The peers of the map on an interface, with their places in the model; null where it has no map. */
export function peersAt(
  { interfaces, ipsecPeers }: DeviceModel,
  at: number,
): (DeviceModel['ipsecPeers'][number] & { readonly number: number })[] | null {
  const map = /^map (.+)$/.exec(interfaces[at]?.encryption ?? '')?.[1]
  return map === undefined
    ? null
    : ipsecPeers.flatMap((peer, number) => (peer.name.startsWith(`${map} `) ? [{ ...peer, number }] : []))
}

function sequenceOf({ name }: MapEntry): number {
  return Number(name.split(' ').at(-1))
}

/** A list with both ends exchanged: what it chooses going out has to come in like this. */
function mirrored(list: ModelList): ModelList {
  const EXCHANGED: Readonly<Record<string, string>> = {
    sources: 'destinations',
    destinations: 'sources',
    sourcePorts: 'destinationPorts',
    destinationPorts: 'sourcePorts',
  }
  return {
    ...list,
    entries: list.entries.map((entry) => ({
      ...entry,
      sources: entry.destinations,
      destinations: entry.sources,
      sourcePorts: entry.destinationPorts,
      destinationPorts: entry.sourcePorts,
      negated: entry.negated.map((field) => EXCHANGED[field] ?? field),
    })),
  }
}

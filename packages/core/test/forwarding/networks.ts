import { EffectiveConfig, Network, dialectById, modelOf, type Packet } from '../../src/index.ts'
import { modelOfDevice, stateOf } from '../../src/analysis/index.ts'
import { forwardingOf, type NetworkDevice } from '../../src/forwarding/index.ts'
import type { ReadRecord } from '../../src/state/index.ts'

/** A device of a listing, with outputs beside it. */
export function deviceOf(
  name: string,
  dialect: string,
  text: string,
  outputs: Readonly<Record<string, string>> = {},
): NetworkDevice {
  const known = dialectById(dialect)
  if (!known) throw new Error(dialect)
  const tree = known.read(text)
  const records: ReadRecord[] = [
    { id: 'config', kind: 'config', tree },
    ...Object.entries(outputs).map(([kind, output]): ReadRecord => ({ id: kind, kind, tree: null, text: output })),
  ]
  const held = EffectiveConfig.of(tree, known)
  const judged = records[0] as Extract<ReadRecord, { tree: object }>
  const modelled =
    dialect === 'linux'
      ? modelOfDevice(held, judged, records, () => '')
      : modelOf(held, { record: 'config', mask: () => '' })
  const reading = stateOf(
    Object.entries(outputs)
      .filter(([kind]) => kind.startsWith('state/'))
      .map(([kind, output]) => ({ record: kind, kind: kind.slice(6), text: output })),
  )
  return { name, dialect, modelled, reading }
}

export function networkOf(...devices: NetworkDevice[]): Network {
  return Network.of(devices.map(forwardingOf))
}

export function udp(source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet {
  return {
    family: source.includes(':') ? 'ipv6' : 'ipv4',
    source,
    destination,
    protocol: 17,
    sourcePort: 1024,
    destinationPort,
    icmpType: null,
    icmpCode: null,
    tcpFlags: null,
    fragment: false,
    dscp: 0,
    ...more,
  }
}

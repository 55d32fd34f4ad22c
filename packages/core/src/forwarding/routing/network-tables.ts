import type { ForwardingDevice } from '../network/device.ts'
import type { Topology } from '../network/topology.ts'
import type { RoutingTable } from './route.ts'
import { tablesOf } from './tables.ts'

/** Tables that rest on the records of one device alone, as long as the device is kept. */
const own = new WeakMap<ForwardingDevice, readonly RoutingTable[]>()

/**
 * The tables of every device of a network. They are made when it is known who hears whom, so that what devices tell
 * each other can join what each of them states; those of a device on which nothing else rests are made once.
 */
export function tablesOfNetwork(
  devices: readonly ForwardingDevice[],
  _topology: Topology,
): readonly (readonly RoutingTable[])[] {
  return devices.map((one) => {
    let tables = own.get(one)
    if (!tables) own.set(one, (tables = tablesOf(one.device, one.interfaces)))
    return tables
  })
}

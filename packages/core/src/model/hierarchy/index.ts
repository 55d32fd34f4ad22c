/** The paths of the braced dialect and its set lines, as they speak to the device model. */
import type { HeldConfig } from '../held-config.ts'
import { MappingTable } from '../mapping.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'
import { FILTERS, readPrefixLists } from './filters.ts'
import { INTERFACES, PORT_NOTED } from './interfaces.ts'
import { BGP_NEIGHBOURS, LATE, ROUTING } from './routing.ts'
import { SYSTEM } from './system.ts'

const DEVICE = new MappingTable<DeviceModel>([...INTERFACES, ...ROUTING, ...FILTERS], PORT_NOTED)
const AFTER = new MappingTable<DeviceModel>(LATE)
const NEIGHBOURS = new MappingTable<DeviceModel>(BGP_NEIGHBOURS)

export function readHierarchyModel(held: HeldConfig, write: Writer<DeviceModel>): void {
  DEVICE.read(held.scope, write)
  AFTER.read(held.scope, write)
  // What a neighbour says itself goes before its group.
  NEIGHBOURS.read(held.scope, write)
  SYSTEM.read(held.scope, write.at('system'))
  readPrefixLists(write)
}

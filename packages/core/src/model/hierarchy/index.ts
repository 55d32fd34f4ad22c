/** The paths of the braced dialect and its set lines, as they speak to the device model. */
import { settleServers } from '../aaa.ts'
import type { HeldConfig } from '../held-config.ts'
import { MappingTable } from '../mapping.ts'
import type { DeviceModel } from '../schema/index.ts'
import { tableAt, type TableAt } from '../tables.ts'
import type { Writer } from '../writer.ts'
import { FILTERS, readPrefixLists } from './filters.ts'
import { PORT_HARMLESS, ROUTING_HARMLESS } from './harmless.ts'
import { INTERFACES } from './interfaces.ts'
import { bindTunnels, proposalsOfSets, settleVersions } from './ipsec.ts'
import { BGP_GROUPS, BGP_NEIGHBOURS, LATE, ROUTING, settleLimits, settleOspf } from './routing.ts'
import { SYSTEM, settleTraps } from './system.ts'

const DEVICE = new MappingTable<DeviceModel>(
  [...INTERFACES, ...ROUTING, ...FILTERS],
  [...PORT_HARMLESS, ...ROUTING_HARMLESS],
)
const AFTER = new MappingTable<DeviceModel>(LATE)
const GROUPS = new MappingTable<DeviceModel>(BGP_GROUPS)
const NEIGHBOURS = new MappingTable<DeviceModel>(BGP_NEIGHBOURS)

export function readHierarchyModel(held: HeldConfig, write: Writer<DeviceModel>): void {
  DEVICE.read(held.scope, write)
  AFTER.read(held.scope, write)
  GROUPS.read(held.scope, write)
  // What a neighbour says itself goes before its group.
  NEIGHBOURS.read(held.scope, write)
  SYSTEM.read(held.scope, write.at('system'))
  settleTraps(write.at('system'))
  settleServers(write.at('system'))
  settleOspf(write)
  settleLimits(write)
  proposalsOfSets(write)
  settleVersions(write)
  bindTunnels(write)
  settleDevice(write)
  readPrefixLists(write)
  for (const table of [DEVICE, AFTER, GROUPS, NEIGHBOURS, SYSTEM]) table.passOverEmpty(held.scope, write.sheet)
}

/** What holds for the device as a whole, and so for every interface that does not say otherwise. */
function settleDevice(write: Writer<DeviceModel>): void {
  const { redirects, lldpOnAll } = write.target.system
  const { origins } = write.sheet
  for (const one of write.every('interfaces', {})) {
    if (redirects === false && one.target.redirects === null) {
      one.presume('redirects', false)
      origins.note(one.place, 'redirects', { kind: 'of', path: 'system.redirects' })
    }
    if (lldpOnAll === true && one.target.lldp === null) {
      one.presume('lldp', true)
      origins.note(one.place, 'lldp', { kind: 'of', path: 'system.services.lldp.enabled' })
    }
  }
}

export const HIERARCHY_TABLES: readonly TableAt[] = [
  ...[DEVICE, AFTER, GROUPS, NEIGHBOURS].map((table) => tableAt(null, '', table)),
  tableAt(null, 'system', SYSTEM),
]

/** The paths of the braced dialect and its set lines, as they speak to the device model. */
import { settleServers } from '../../../model/aaa.ts'
import type { Scope } from '../../../syntax/index.ts'
import type { ModelRules } from '../../../model/dialect.ts'
import { MappingTable } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import { tableAt, type TableAt } from '../../../model/tables.ts'
import type { Writer } from '../../../model/writer.ts'
import { HIERARCHY_DEFAULTS } from './defaults.ts'
import { FILTERS, readPrefixLists } from './filters.ts'
import { PORT_HARMLESS, ROUTING_HARMLESS } from './harmless.ts'
import { INTERFACES } from './interfaces.ts'
import { bindTunnels, proposalsOfSets, settleVersions } from './ipsec.ts'
import { BGP_GROUPS, BGP_NEIGHBOURS, LATE, ROUTING, settleLimits } from './routing.ts'
import { settleOspf } from './ospf.ts'
import { SYSTEM } from './system.ts'
import { settleTraps } from './snmp.ts'

const DEVICE = new MappingTable<DeviceModel>(
  [...INTERFACES, ...ROUTING, ...FILTERS],
  [...PORT_HARMLESS, ...ROUTING_HARMLESS],
)
const AFTER = new MappingTable<DeviceModel>(LATE)
const GROUPS = new MappingTable<DeviceModel>(BGP_GROUPS)
const NEIGHBOURS = new MappingTable<DeviceModel>(BGP_NEIGHBOURS)

function readHierarchyModel(scope: Scope, write: Writer<DeviceModel>): void {
  DEVICE.read(scope, write)
  AFTER.read(scope, write)
  GROUPS.read(scope, write)
  // What a neighbour says itself goes before its group.
  NEIGHBOURS.read(scope, write)
  SYSTEM.read(scope, write.at('system'))
  settleTraps(write.at('system'))
  settleServers(write.at('system'))
  settleOspf(write)
  settleLimits(write)
  proposalsOfSets(write)
  settleVersions(write)
  bindTunnels(write)
  settleDevice(write)
  readPrefixLists(write)
  for (const table of [DEVICE, AFTER, GROUPS, NEIGHBOURS, SYSTEM]) table.passOverEmpty(scope, write.provenance)
}

/** What holds for the device as a whole, and so for every interface that does not say otherwise. */
function settleDevice(write: Writer<DeviceModel>): void {
  const { redirects, lldpOnAll } = write.target.system
  const { origins } = write.provenance
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

const TABLES: readonly TableAt[] = [
  ...[DEVICE, AFTER, GROUPS, NEIGHBOURS].map((table) => tableAt(null, '', table)),
  tableAt(null, 'system', SYSTEM),
]

export const HIERARCHY_MODEL: ModelRules = {
  read: readHierarchyModel,
  tables: TABLES,
  entryForms: [],
  pathStatements: true,
  defaults: HIERARCHY_DEFAULTS,
}

/** The indented dialect's commands, as they speak to the device model. */
import type { Scope } from '../../../syntax/index.ts'
import { settleServers } from '../../../model/aaa.ts'
import { MappingTable } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { accessListsOf } from './access-list.ts'
import { readAccessLists, readObjectGroups } from './filters.ts'
import { readInterface } from './interfaces.ts'
import { OSPF, POLICY_ENTRY, ROUTING, settleOspf } from './routing.ts'
import { BGP, TEMPLATE, inheritFromGroups } from './bgp.ts'
import {
  ACCESS_MAP,
  CLASS,
  ESP,
  IKE,
  IN_CLASS,
  INSPECTING,
  INSPECTION,
  KEYRING,
  MKA,
  PEER,
  POLICY,
  PROFILE,
  SECURITY,
  TRUST_POINT,
  VRF,
  ZONE_PAIR,
  policiesOfMaps,
} from './security.ts'
import { AAA_GROUP, AAA_SERVER, ACCOUNTING, ARCHIVE, ARCHIVE_LOG, shareKeys } from './aaa.ts'
import { CONTROL_PLANE, SYSTEM, TERMINAL, readTerminal } from './system.ts'
import { INTERFACE } from './interfaces.ts'
import { tableAt, type TableAt } from '../../../model/tables.ts'

const DEVICE = new MappingTable<DeviceModel>([
  ['interface ...', (w, _, s) => readInterface(w, s)],
  [['line {con|console|aux|vty|tty} ...', 'line <number:int> ...'], (w, _, s) => readTerminal(w.at('system'), s)],
  ...ROUTING,
  ...SECURITY,
])

export function readIndentedModel(scope: Scope, write: Writer<DeviceModel>): void {
  DEVICE.read(scope, write)
  SYSTEM.read(scope, write.at('system'))
  shareKeys(write.at('system'))
  settleServers(write.at('system'))
  inheritFromGroups(write)
  settleOspf(write)
  policiesOfMaps(write)
  readAccessLists(write, accessListsOf(scope))
  readObjectGroups(write, scope)
  for (const service of ['ssh', 'telnet'] as const) readLoginService(write.at('system'), service)
  for (const { zone, name } of write.target.interfaces)
    if (zone !== null) write.find('zones', { name: zone })?.push('interfaces', name)
}

/**
 * Terminals for remote logins say which services answer: one that says nothing leaves it open (the default differs).
 */
function readLoginService(write: Writer<DeviceModel['system']>, service: 'ssh' | 'telnet'): void {
  const remote = write.target.terminals.filter(({ kind }) => kind === 'remote')
  const accepting = remote.filter(({ protocols }) =>
    protocols?.some((protocol) => protocol === service || protocol === 'all'),
  )
  const settled = accepting.length > 0 || (remote.length > 0 && remote.every(({ protocols }) => protocols !== null))
  if (!settled) return
  write
    .at('services')
    .at(service)
    .presume('enabled', accepting.length > 0)
  for (const terminal of accepting.length > 0 ? accepting : remote) {
    write.provenance.origins.note(write.at('services').at(service).place, 'enabled', {
      kind: 'of',
      path: `${write.path}.terminals[${write.target.terminals.indexOf(terminal)}].protocols`,
    })
  }
}

/** The tables of the dialect, by the kind of block that they read. */
export const INDENTED_TABLES: readonly TableAt[] = [
  tableAt(null, '', DEVICE),
  tableAt(null, 'system', SYSTEM),
  tableAt('interface', 'interfaces', INTERFACE),
  tableAt('line', 'system.terminals', TERMINAL),
  tableAt('router', 'ospf', OSPF),
  tableAt('router', 'bgp', BGP),
  tableAt('address-family', 'bgp', BGP),
  tableAt(undefined, 'bgp.groups', TEMPLATE),
  tableAt('route-map', 'routePolicies', POLICY_ENTRY),
  tableAt('crypto', 'ikeProposals', IKE),
  tableAt('crypto', 'espProposals', ESP),
  tableAt('crypto', 'ipsecPolicies', PROFILE),
  tableAt(undefined, 'macsec', MKA),
  tableAt('crypto', 'ipsecPeers', PEER),
  tableAt('crypto', '', KEYRING),
  tableAt('crypto', 'trustPoints', TRUST_POINT),
  tableAt('crypto-child', 'ipsecPeers', PEER),
  tableAt('vrf', 'vrfs', VRF),
  tableAt('vlan-access-map', 'accessMaps', ACCESS_MAP),
  tableAt('zone', 'zonePolicies', ZONE_PAIR),
  tableAt('class-map', 'trafficClasses', CLASS),
  tableAt('policy-map', 'trafficPolicies', INSPECTING),
  tableAt('policy-map', 'trafficPolicies', POLICY),
  tableAt('policy-map', 'trafficPolicies', INSPECTION),
  tableAt('policy-map', 'trafficPolicies', IN_CLASS),
  tableAt('aaa-server', 'system.aaa.servers', AAA_SERVER),
  tableAt('aaa-server', 'system.aaa.groups', AAA_GROUP),
  tableAt(undefined, 'system.aaa.methods', ACCOUNTING),
  tableAt('archive', 'system', ARCHIVE),
  tableAt('archive-log', 'system', ARCHIVE_LOG),
  tableAt('control-plane', 'system', CONTROL_PLANE),
]

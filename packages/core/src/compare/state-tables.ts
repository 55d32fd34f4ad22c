import type { DeviceState } from '../state/index.ts'

type Row = Readonly<Record<string, unknown>>

/** A table of the state: what its rows are called by, and which outputs they are from. */
export interface StateTable {
  readonly id: string
  /** What one row is called. */
  readonly title: string
  readonly key: readonly string[]
  /** Kinds of output, any of which tells of it: where none was captured, nothing is known of it. */
  readonly kinds: readonly string[]
  readonly rows: (state: DeviceState) => readonly Row[]
  /** Where the rows stand in the state, for their lines. */
  readonly path: string
}

const ofFamily = <R extends { readonly family: string }>(rows: readonly R[], family: string): readonly R[] =>
  rows.filter((row) => row.family === family)
const ofProtocol = ({ adjacencies }: DeviceState, protocol: string): DeviceState['adjacencies'] =>
  adjacencies.filter((row) => row.protocol === protocol)

/**
 * Keys are those of the standard models: interfaces by name (RFC 8343 §5), resolved addresses by interface and address
 * (RFC 8344), routes by table and destination prefix (RFC 8349 §5), neighbours by port (IEEE 802.1AB); the others by
 * common practice.
 */
export const STATE_TABLES: readonly StateTable[] = [
  {
    id: 'interfaces',
    title: 'interface',
    key: ['name'],
    kinds: ['interfaces'],
    path: 'interfaces',
    rows: (s) => s.interfaces,
  },
  {
    id: 'routes',
    title: 'route',
    key: ['vrf', 'prefix'],
    kinds: ['routes'],
    path: 'routes',
    rows: (s) => ofFamily(s.routes, 'ipv4'),
  },
  {
    id: 'routes6',
    title: 'route',
    key: ['vrf', 'prefix'],
    kinds: ['routes6', 'routes'],
    path: 'routes',
    rows: (s) => ofFamily(s.routes, 'ipv6'),
  },
  {
    id: 'neighbours',
    title: 'neighbour',
    key: ['interface', 'system', 'port'],
    kinds: ['neighbours'],
    path: 'neighbours',
    rows: (s) => s.neighbours,
  },
  {
    id: 'ospf',
    title: 'OSPF neighbour',
    key: ['interface', 'neighbour'],
    kinds: ['ospf'],
    path: 'adjacencies',
    rows: (s) => ofProtocol(s, 'ospf'),
  },
  {
    id: 'bgp',
    title: 'BGP session',
    key: ['neighbour'],
    kinds: ['bgp'],
    path: 'adjacencies',
    rows: (s) => ofProtocol(s, 'bgp'),
  },
  {
    id: 'addresses',
    title: 'resolved address',
    key: ['interface', 'address'],
    kinds: ['arp', 'neigh'],
    path: 'addresses',
    rows: (s) => s.addresses,
  },
  { id: 'macs', title: 'MAC address', key: ['vlan', 'mac'], kinds: ['mac'], path: 'macs', rows: (s) => s.macs },
  { id: 'clock', title: 'clock', key: [], kinds: ['clock'], path: 'clock', rows: (s) => [s.clock] },
  {
    id: 'ntp',
    title: 'time synchronisation',
    key: [],
    kinds: ['ntp'],
    path: 'ntp',
    rows: ({ ntp: { associations: _, ...own } }) => [own],
  },
  {
    id: 'associations',
    title: 'time server',
    key: ['address'],
    kinds: ['ntp'],
    path: 'ntp.associations',
    rows: (s) => s.ntp.associations,
  },
  { id: 'software', title: 'software', key: [], kinds: ['version'], path: 'software', rows: (s) => [s.software] },
  { id: 'alarms', title: 'alarm', key: ['text'], kinds: ['alarms'], path: 'alarms', rows: (s) => s.alarms },
  {
    id: 'parts',
    title: 'sensor',
    key: ['kind', 'name'],
    kinds: ['environment', 'hardware'],
    path: 'parts',
    rows: (s) => s.parts,
  },
  {
    id: 'securityAssociations',
    title: 'security association',
    key: ['peer', 'direction', 'interface'],
    kinds: ['ipsec'],
    path: 'securityAssociations',
    rows: (s) => s.securityAssociations,
  },
  {
    id: 'secureChannels',
    title: 'secure channel',
    key: ['interface', 'direction'],
    kinds: ['macsec'],
    path: 'secureChannels',
    rows: (s) => s.secureChannels,
  },
  {
    id: 'policyRules',
    title: 'policy rule',
    key: ['priority', 'source', 'destination', 'interface'],
    kinds: ['rules'],
    path: 'policyRules',
    rows: (s) => s.policyRules,
  },
  {
    id: 'services',
    title: 'port check',
    key: ['port'],
    kinds: ['services'],
    path: 'services',
    rows: (s) => s.services,
  },
  {
    id: 'resources',
    title: 'resource',
    key: ['kind', 'name'],
    kinds: ['cpu', 'memory'],
    path: 'resources',
    rows: (s) => s.resources,
  },
  {
    id: 'spanningTrees',
    title: 'spanning tree',
    key: ['instance'],
    kinds: ['spanning-tree'],
    path: 'spanningTrees',
    rows: (s) => s.spanningTrees,
  },
  {
    id: 'redundancy',
    title: 'redundancy group',
    key: ['protocol', 'interface', 'group'],
    kinds: ['redundancy'],
    path: 'redundancy',
    rows: (s) => s.redundancy,
  },
]

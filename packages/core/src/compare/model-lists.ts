/** How entries of the lists of the device model are told apart, and which of those lists are asked in turn. */
export interface ListRule {
  /** What one entry is called. */
  readonly title: string
  /** Fields that tell it from others; none: it is what it says. */
  readonly key: readonly string[]
  /** Whether the order of entries counts. */
  readonly inTurn?: boolean
  /** Fields that say only where an entry stands. */
  readonly places?: readonly string[]
  /** Compared as sets of packets, not entry by entry. */
  readonly asSets?: boolean
}

/**
 * By path in the model. Keys are those of the standard models where there is one: interfaces by name (RFC 8343),
 * addresses by themselves (RFC 8344), access lists by name (RFC 8519), users, servers and peers by name or address
 * (RFC 7317). Order by common practice.
 */
export const LISTS: Readonly<Record<string, ListRule>> = {
  interfaces: { title: 'interface', key: ['name'] },
  'interfaces.addresses': { title: 'address', key: ['address'] },
  'interfaces.stormControl': { title: 'storm control', key: ['traffic'] },
  'interfaces.redundancy': { title: 'redundancy group', key: ['protocol', 'group'] },
  'interfaces.helpers': { title: 'helper address', key: [] },
  vlans: { title: 'VLAN', key: ['id'] },
  accessMaps: { title: 'VLAN access map', key: ['name'] },
  'accessMaps.entries': { title: 'entry', key: [], inTurn: true, places: ['sequence'] },
  vrfs: { title: 'VRF', key: ['name'] },
  staticRoutes: { title: 'static route', key: ['vrf', 'prefix', 'nextHop', 'interface'] },
  ospf: { title: 'OSPF', key: ['version', 'process', 'vrf'] },
  'ospf.areas': { title: 'area', key: ['id'] },
  'ospf.networks': { title: 'network', key: ['prefix'] },
  'ospf.redistributes': { title: 'redistribution', key: ['source'] },
  bgp: { title: 'BGP', key: ['as', 'vrf'] },
  'bgp.neighbours': { title: 'neighbour', key: ['address'] },
  'bgp.neighbours.families': { title: 'address family', key: ['family'] },
  'bgp.groups': { title: 'neighbour group', key: ['address'] },
  'bgp.groups.families': { title: 'address family', key: ['family'] },
  'bgp.redistributes': { title: 'redistribution', key: ['source'] },
  routePolicies: { title: 'route policy', key: ['name'] },
  'routePolicies.entries': { title: 'entry', key: [], inTurn: true, places: ['sequence'] },
  prefixLists: { title: 'prefix list', key: ['family', 'name'] },
  'prefixLists.entries': { title: 'entry', key: [], inTurn: true, places: ['sequence'] },
  communityLists: { title: 'community list', key: ['name'] },
  'communityLists.entries': { title: 'entry', key: [], inTurn: true },
  accessLists: { title: 'access list', key: ['family', 'name'] },
  'accessLists.entries': { title: 'entry', key: [], asSets: true },
  addressGroups: { title: 'address group', key: ['name'] },
  applications: { title: 'application', key: ['name'] },
  zones: { title: 'zone', key: ['name'] },
  'zones.ownInbound': { title: 'inbound of interface', key: ['interface'] },
  zonePolicies: { title: 'policy', key: ['scope', 'from', 'to', 'name'], inTurn: true },
  nat: { title: 'address translation', key: [], inTurn: true },
  trustPoints: { title: 'trust point', key: ['name'] },
  'trustPoints.certificates': { title: 'certificate', key: ['issuer', 'serial'] },
  ikeProposals: { title: 'IKE proposal', key: ['name', 'version'] },
  espProposals: { title: 'ESP proposal', key: ['name'] },
  ikeGateways: { title: 'IKE gateway', key: ['name'] },
  ikePolicies: { title: 'IKE policy', key: ['name'] },
  'ikePolicies.proposals': { title: 'proposal', key: [], inTurn: true },
  ipsecPolicies: { title: 'IPsec policy', key: ['kind', 'name'] },
  'ipsecPolicies.proposals': { title: 'proposal', key: [], inTurn: true },
  vpns: { title: 'VPN', key: ['name'] },
  ipsecPeers: { title: 'IPsec peer', key: ['name'] },
  macsec: { title: 'MACsec policy', key: ['name'] },
  trafficClasses: { title: 'traffic class', key: ['name'] },
  trafficPolicies: { title: 'traffic policy', key: ['name'] },
  'trafficPolicies.classes': { title: 'class', key: [], inTurn: true },
  'trafficPolicies.inspections': { title: 'inspection', key: [], inTurn: true },
  'system.hosts': { title: 'host name', key: ['name'] },
  'system.ntp.servers': { title: 'NTP server', key: ['address'] },
  'system.ntp.keys': { title: 'NTP key', key: ['id'] },
  'system.logging.hosts': { title: 'log host', key: ['address', 'port'] },
  'system.logging.hosts.facilities': { title: 'facility', key: ['facility'] },
  'system.logging.files': { title: 'log file', key: ['name'] },
  'system.logging.files.facilities': { title: 'facility', key: ['facility'] },
  'system.snmp.communities': { title: 'SNMP community', key: ['name'] },
  'system.snmp.groups': { title: 'SNMP group', key: ['name', 'version', 'level'] },
  'system.snmp.users': { title: 'SNMP user', key: ['name'] },
  'system.snmp.hosts': { title: 'trap host', key: ['address', 'version'] },
  'system.snmp.clientLists': { title: 'SNMP client list', key: ['name'] },
  'system.snmp.trapGroups': { title: 'trap group', key: ['name'] },
  'system.snmp.targets': { title: 'SNMP target', key: ['name'] },
  'system.snmp.targetParameters': { title: 'SNMP target parameters', key: ['name'] },
  'system.aaa.methods': { title: 'AAA methods', key: ['purpose', 'name'] },
  'system.aaa.methods.methods': { title: 'method', key: [], inTurn: true },
  'system.aaa.servers': { title: 'AAA server', key: ['protocol', 'name'] },
  'system.aaa.groups': { title: 'AAA server group', key: ['protocol', 'name'] },
  'system.aaa.groups.servers': { title: 'server', key: [], inTurn: true },
  'system.aaa.sharedKeys': { title: 'AAA shared key', key: ['protocol'] },
  'system.aaa.sources': { title: 'AAA source', key: ['protocol'] },
  'system.users': { title: 'user', key: ['name'] },
  'system.terminals': { title: 'line', key: ['name'] },
}

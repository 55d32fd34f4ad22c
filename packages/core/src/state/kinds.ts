/**
 * The outputs, by kind, that each part of the state of a device is made from: where none was captured, nothing is known
 * of it.
 */
export const KINDS_OF_STATE: Readonly<Record<string, readonly string[]>> = {
  routes: ['routes', 'routes6'],
  interfaces: ['interfaces'],
  neighbours: ['neighbours'],
  addresses: ['arp', 'neigh'],
  macs: ['mac'],
  clock: ['clock'],
  ntp: ['ntp'],
  adjacencies: ['ospf', 'bgp'],
  software: ['version'],
  alarms: ['alarms'],
  parts: ['environment', 'hardware'],
  securityAssociations: ['ipsec'],
  secureChannels: ['macsec'],
  policyRules: ['rules'],
  services: ['services'],
  resources: ['cpu', 'memory'],
  spanningTrees: ['spanning-tree'],
  redundancy: ['redundancy'],
}

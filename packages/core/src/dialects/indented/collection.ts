import type { CommandSet } from '../collection.ts'

/** How devices of the indented dialect are asked; common practice. */
export const INDENTED_COMMANDS: CommandSet = {
  dialect: 'indented',
  talk: 'shell',
  quiet: ['terminal length 0', 'terminal width 0'],
  privileged: { command: 'enable', asks: 'password', few: '>', many: '#' },
  refused: ['%', '! Not understood', '! Not allowed'],
  records: [
    { kind: 'config', command: 'show running-config', needed: true, ends: 'end' },
    { kind: 'config.saved', command: 'show startup-config', ends: 'end' },
    { kind: 'config.full', command: 'show running-config all', ends: 'end' },
    { kind: 'state/version', command: 'show version' },
    { kind: 'state/clock', command: 'show clock' },
    { kind: 'state/interfaces', command: 'show interfaces' },
    { kind: 'state/neighbours', command: 'show neighbors' },
    { kind: 'state/arp', command: 'show arp' },
    { kind: 'state/mac', command: 'show mac address-table' },
    { kind: 'state/routes', command: 'show ip route' },
    { kind: 'state/ntp', command: 'show ntp status' },
    { kind: 'state/ospf', command: 'show ip ospf neighbor' },
    { kind: 'state/bgp', command: 'show ip bgp summary' },
    { kind: 'state/ipsec', command: 'show crypto ipsec sa' },
    { kind: 'state/environment', command: 'show environment' },
    { kind: 'state/cpu', command: 'show processes cpu' },
    { kind: 'state/memory', command: 'show memory statistics' },
    { kind: 'state/spanning-tree', command: 'show spanning-tree root' },
    { kind: 'state/redundancy', command: 'show standby brief' },
  ],
  probes: { ping: 'ping {target}', lookup: 'nslookup {target}', path: 'traceroute {target}' },
}

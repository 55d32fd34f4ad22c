import type { CommandSet } from '../collection.ts'

/** How devices that list edit blocks are asked; common practice. */
export const EDITBLOCKS_COMMANDS: CommandSet = {
  dialect: 'editblocks',
  talk: 'shell',
  quiet: [],
  refused: ['Unknown action', 'Command fail', 'command parse error', '! Not understood', '! Not allowed'],
  records: [
    { kind: 'config', command: 'show', needed: true },
    { kind: 'config.full', command: 'show full-configuration' },
    { kind: 'state/version', command: 'get system status' },
    { kind: 'state/interfaces', command: 'get system interface physical' },
    { kind: 'state/routes', command: 'get router info routing-table all' },
    { kind: 'state/arp', command: 'get system arp' },
    { kind: 'state/neighbours', command: 'get system neighbours' },
    { kind: 'state/ntp', command: 'get system ntp status' },
    { kind: 'state/bgp', command: 'get router info bgp summary' },
    { kind: 'state/ospf', command: 'get router info ospf neighbor' },
  ],
  probes: { ping: 'execute ping {target}', lookup: 'execute lookup {target}', path: 'execute traceroute {target}' },
}

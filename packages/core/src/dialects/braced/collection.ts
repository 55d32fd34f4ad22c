import type { CommandSet } from '../collection.ts'

/** How devices of the braced dialect are asked; common practice. */
export const BRACED_COMMANDS: CommandSet = {
  dialect: 'braced',
  talk: 'shell',
  quiet: ['terminal length 0', 'terminal width 0'],
  refused: ['error:', 'unknown command', '! Not understood', '! Not allowed'],
  records: [
    { kind: 'config', command: 'show configuration', needed: true },
    { kind: 'state/version', command: 'show version' },
    { kind: 'state/interfaces', command: 'show interfaces' },
    { kind: 'state/neighbours', command: 'show neighbors' },
    { kind: 'state/arp', command: 'show arp' },
    { kind: 'state/routes', command: 'show route' },
    { kind: 'state/ntp', command: 'show ntp status' },
    { kind: 'state/bgp', command: 'show bgp summary' },
    { kind: 'state/ipsec', command: 'show security ipsec' },
    { kind: 'state/alarms', command: 'show alarms' },
  ],
  probes: { ping: 'ping {target} count 5', lookup: 'show host {target}', path: 'traceroute {target}' },
}

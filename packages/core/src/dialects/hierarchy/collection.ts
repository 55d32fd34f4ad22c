import type { CommandSet } from '../collection.ts'

/**
 * How devices that keep a hierarchy are asked; common practice.
 * @param configuration the command that prints the configuration in the form of that dialect
 */
export function hierarchyCommands(dialect: string, configuration: string): CommandSet {
  return {
    dialect,
    talk: 'shell',
    quiet: ['terminal length 0', 'terminal width 0'],
    refused: ['error:', 'unknown command', '! Not understood', '! Not allowed'],
    records: [
      { kind: 'config', command: configuration, needed: true },
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
}

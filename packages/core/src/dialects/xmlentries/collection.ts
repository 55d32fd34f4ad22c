import type { CommandSet } from '../collection.ts'

/** How firewalls that export XML are asked; common practice. */
export const XMLENTRIES_COMMANDS: CommandSet = {
  dialect: 'xmlentries',
  talk: 'shell',
  quiet: ['set cli pager off', 'set cli scripting-mode on'],
  refused: ['Unknown command', 'Invalid syntax', 'Server error', '! Not understood', '! Not allowed'],
  records: [
    { kind: 'config', command: 'show config running', needed: true, ends: '</config>' },
    { kind: 'config.saved', command: 'show config saved', ends: '</config>' },
    { kind: 'state/version', command: 'show system info' },
    { kind: 'state/interfaces', command: 'show interface all' },
    { kind: 'state/routes', command: 'show routing route' },
    { kind: 'state/arp', command: 'show arp all' },
    { kind: 'state/neighbours', command: 'show lldp neighbors all' },
    { kind: 'state/ntp', command: 'show ntp' },
  ],
  probes: { ping: 'ping count 5 host {target}', lookup: 'resolve {target}', path: 'traceroute host {target}' },
}

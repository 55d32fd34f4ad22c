import type { LineTemplate, OutputForm } from './lines.ts'
import { plainMac } from './outputs.ts'

const PERCENT = '(?<percent>\\d+(?:\\.\\d+)?) ?(?:%|percent)'

const RESOURCES: readonly LineTemplate[] = [
  // `CPU utilization for five seconds: 12%/1%; one minute: 10%; five minutes: 9%`: the longest mean says most.
  {
    line: /^CPU utili[sz]ation for .*five minutes: (?<percent>\d+)%/i,
    apply: (w, { percent = '' }) => void w.add('resources', { kind: 'cpu', name: 'CPU', percent: Number(percent) }),
  },
  // `CPU utilization: 12 percent`, `Memory utilization: 40%`
  {
    line: new RegExp(
      `^\\s*(?<name>CPU|Memory|Storage|Disk)\\b(?: utili[sz]ation| usage| used)?:? {0,40}${PERCENT}\\b`,
      'i',
    ),
    apply: (w, { name = '', percent = '' }) =>
      void w.add('resources', { kind: kindOf(name), name: name === 'cpu' ? 'CPU' : name, percent: Number(percent) }),
  },
  // `Idle                      85 percent`: what is left of the processor.
  {
    line: new RegExp(`^\\s*Idle {1,40}${PERCENT}$`, 'i'),
    apply: (w, { percent = '' }) =>
      void w.add('resources', { kind: 'cpu', name: 'CPU', percent: 100 - Number(percent) }),
  },
  // `Processor Pool Total: 1000 Used: 400 Free: 600`
  {
    line: /^\s*(?<name>[A-Za-z][\w/]{0,30})(?: Pool)? Total: {1,9}(?<total>\d+) Used: {1,9}(?<used>\d+) Free: {1,9}\d+$/,
    apply: (w, { name = '', total = '', used = '' }) =>
      Number(total) > 0 &&
      void w.add('resources', {
        kind: 'memory',
        name,
        percent: Math.round((Number(used) / Number(total)) * 1000) / 10,
      }),
  },
]

function kindOf(name: string): 'cpu' | 'memory' | 'storage' {
  return /^cpu$/i.test(name) ? 'cpu' : /^memory$/i.test(name) ? 'memory' : 'storage'
}

/** `VLAN0010  24586 0011.2233.4455  4  2  20  15  Gi0/1`: at the root itself the last column is empty. */
const TREES: readonly LineTemplate[] = [
  {
    line: /^(?<instance>(?:VLAN|MST)\d+)\s{1,30}(?<priority>\d+) (?<root>[\da-fA-F.:]{12,17})\s{1,20}(?<cost>\d+)\s{1,9}\d+\s{1,9}\d+\s{1,9}\d+(?:\s{1,9}(?<port>\S+))?$/,
    apply: (w, { instance = '', priority = '', root = '', cost = '', port = '' }) =>
      void w.add('spanningTrees', {
        instance: instance.replace(/^VLAN0*(?=\d)/, 'VLAN '),
        rootPriority: Number(priority),
        root: plainMac(root),
        cost: Number(cost),
        rootPort: port || null,
      }),
  },
]

const REDUNDANCY: readonly LineTemplate[] = [
  // `Vl10  10  110 P Active  local  10.40.0.3  10.40.0.1`
  {
    line: /^(?<port>[A-Z][\w./-]*)\s{1,20}(?<group>\d+)\s{1,9}(?<priority>\d+)(?: P)?\s{1,9}(?<role>Active|Standby|Listen|Speak|Learn|Init)\s{1,9}(?<active>\S+)\s{1,20}\S+\s{1,20}(?<address>[\da-fA-F.:]+)$/,
    apply: (w, { port = '', group = '', priority = '', role = '', active = '', address = '' }) =>
      void w.add('redundancy', {
        protocol: 'hsrp',
        interface: port,
        group,
        role: role.toLowerCase(),
        priority: Number(priority),
        active,
        address,
      }),
  },
  // `Vl10  10  110 3570  Y  Master  10.40.0.2  10.40.0.1`
  {
    line: /^(?<port>[A-Z][\w./-]*)\s{1,20}(?<group>\d+)\s{1,9}(?<priority>\d+)\s{1,9}\d+(?:\s{1,9}[YN])?(?:\s{1,9}[YN])?\s{1,9}(?<role>Master|Backup|Init)\s{1,9}(?<active>\S+)\s{1,20}(?<address>[\da-fA-F.:]+)$/,
    apply: (w, { port = '', group = '', priority = '', role = '', active = '', address = '' }) =>
      void w.add('redundancy', {
        protocol: 'vrrp',
        interface: port,
        group,
        role: { master: 'active', backup: 'standby' }[role.toLowerCase()] ?? role.toLowerCase(),
        priority: Number(priority),
        active,
        address,
      }),
  },
]

/** Load, spanning trees and first-hop redundancy. Words and columns by common practice, from memory. */
export const CONTROL: readonly OutputForm[] = [
  {
    id: 'processor and memory',
    kinds: ['cpu', 'memory'],
    looksLike: /utili[sz]ation|percent|Used:|%/i,
    templates: RESOURCES,
    noted: /^(?:\s*PID|\s*\d+ |-+|CPU utili[sz]ation:$|\s*(?:User|Kernel|Interrupt|Background)\b|\s*Head|Tracekey)/i,
  },
  {
    id: 'spanning-tree roots',
    kinds: ['spanning-tree'],
    looksLike: /Root ID|Root Port/i,
    templates: TREES,
    noted: /^(?:\s*Root|Vlan\s|MST\s|-[- ]*$|\s*ID\s)/i,
  },
  {
    id: 'first-hop redundancy',
    kinds: ['redundancy'],
    looksLike: /\bGrp\b/i,
    templates: REDUNDANCY,
    noted: /^(?:\s+P indicates|\s+\||Interface\s)/i,
  },
]

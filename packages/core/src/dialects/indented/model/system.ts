import type { Statement } from '../../../syntax/index.ts'
import { MappingTable, NOT_TAKEN, type Bound, type Mapping } from '../../../model/mapping.ts'
import { TERMINAL_HARMLESS } from './harmless.ts'
import { SYSTEM_HARMLESS } from './system-harmless.ts'
import { secret, secretOfType } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

import { ACCESS } from './aaa.ts'
import { LOGGING, SNMP } from './monitoring.ts'

export type System = DeviceModel['system']
type Services = System['services']
type Toggled = Exclude<keyof Services, 'ssh'>

/** `X` and `no X` as a service that is on or off. */
function toggles(command: string, service: keyof Services): Mapping<System>[] {
  return [
    [
      command,
      (w) =>
        w
          .at('services')
          .at(service as Toggled)
          .set('enabled', true),
    ],
    [
      `no ${command}`,
      (w) =>
        w
          .at('services')
          .at(service as Toggled)
          .set('enabled', false),
    ],
  ]
}

const IDENTITY: readonly Mapping<System>[] = [
  ['hostname <name...>', (w, b) => w.set('hostname', b.text('name').replace(/^"(.*)"$/, '$1'))],
  [
    ['ip domain name <name>', 'ip domain-name <name>', 'domain name <name>'],
    (w, b) => w.set('domainName', b.text('name')),
  ],
  [
    [
      'ip name-server vrf * <hosts...>',
      'name-server vrf * <hosts...>',
      'ip name-server <hosts...>',
      'name-server <hosts...>',
    ],
    (w, b) => w.push('nameServers', ...b.words('hosts')),
  ],
  [['ip domain lookup', 'ip domain-lookup'], (w) => w.set('looksUpNames', true)],
  [['no ip domain lookup', 'no ip domain-lookup'], (w) => w.set('looksUpNames', false)],
  [
    'ip host <name> <addresses...>',
    (w, b) => w.add('hosts', { name: b.text('name'), addresses: b.words('addresses') }),
  ],
  ['clock timezone <zone...>', (w, b) => w.set('timeZone', b.text('zone'))],
  ['version <version...>', (w, b) => w.set('version', b.text('version'))],
  ['frr version <version...>', (w, b) => w.set('version', b.text('version'))],
  ['banner {login|exec|motd} ...', (w, _, s) => w.at('banners').set(bannerKind(s), s.nodes.at(-1)?.body ?? '')],
]

function bannerKind(statement: Statement): 'login' | 'exec' | 'motd' {
  const kind = statement.command.lowerWords[1]
  return kind === 'login' || kind === 'exec' ? kind : 'motd'
}

const TIME: readonly Mapping<System>[] = [
  [
    [
      'ntp {server|peer} vrf <vrf> <address> <options...>',
      'ntp {server|peer} vrf <vrf> <address>',
      'ntp {server|peer} {ip|ipv6} <address> <options...>',
      'ntp {server|peer} {ip|ipv6} <address>',
      'ntp {server|peer} <address> <options...>',
      'ntp {server|peer} <address>',
    ],
    (w, b, s) => timeServer(w, b, s),
  ],
  ['ntp authenticate', (w) => w.at('ntp').set('authenticate', true)],
  ['no ntp authenticate', (w) => w.at('ntp').set('authenticate', false)],
  ['ntp trusted-key <keys...>', (w, b) => w.at('ntp').push('trustedKeys', ...b.text('keys').split(/(?<!-) (?!-)/))],
  ['ntp authentication-key <id:int> <algorithm> <secret> <form>', (w, b) => ntpKey(w, b, b.text('form'))],
  ['ntp authentication-key <id:int> <algorithm> <secret>', (w, b) => ntpKey(w, b, null)],
  [
    ['ntp source <interface>', 'ntp source-interface <interface>'],
    (w, b) => w.at('ntp').set('source', b.text('interface')),
  ],
]

/** Options of a server, and how many words follow each. */
const SERVER_OPTIONS: Readonly<Record<string, number>> = {
  key: 1,
  prefer: 0,
  version: 1,
  source: 1,
  minpoll: 1,
  maxpoll: 1,
  burst: 0,
  iburst: 0,
  'use-vrf': 1,
}

function timeServer(w: Writer<System>, b: Bound, statement: Statement): unknown {
  const options = b.words('options')
  const server = w.at('ntp').entry('servers', { address: b.text('address') })
  if (b.text('vrf') !== '') server.set('vrf', b.text('vrf'))
  if (statement.command.lowerWords[1] === 'peer') server.set('peer', true)
  for (let i = 0; i < options.length; i++) {
    const option = (options[i] ?? '').toLowerCase()
    const value = options[i + 1] ?? ''
    const takes = Object.hasOwn(SERVER_OPTIONS, option) ? SERVER_OPTIONS[option] : undefined
    if (takes === undefined) return NOT_TAKEN
    if (option === 'key' && /^\d+$/.test(value)) server.set('key', Number(value))
    if (option === 'prefer') server.set('prefer', true)
    if (option === 'use-vrf') server.set('vrf', value)
    i += takes
  }
  return undefined
}

function ntpKey(w: Writer<System>, b: Bound, type: string | null): void {
  w.at('ntp')
    .entry('keys', { id: b.number('id') })
    .set('algorithm', b.text('algorithm'))
    .set('secret', secret(type === '7' ? 'reversible' : 'clear', b.text('secret'), w.provenance.mask))
}

const SERVICES: readonly Mapping<System>[] = [
  ...toggles('ip http server', 'http'),
  ...toggles('ip http secure-server', 'https'),
  [
    'ip http authentication <method...>',
    (w, b) =>
      void [
        w.at('services').at('http').set('authentication', b.text('method')),
        w.at('services').at('https').set('authentication', b.text('method')),
      ],
  ],
  [
    ['ip http access-class ipv4 <acl>', 'ip http access-class <acl>'],
    (w, b) =>
      void [
        w.at('services').at('http').set('accessList', b.text('acl')),
        w.at('services').at('https').set('accessList', b.text('acl')),
      ],
  ],
  ...toggles('ip bootp server', 'bootp'),
  ['ip dhcp bootp ignore', (w) => w.at('services').at('bootp').set('enabled', false)],
  ...toggles('ip rcmd rsh-enable', 'rsh'),
  ...toggles('ip rcmd rcp-enable', 'rcp'),
  [['ip routing', 'ip forwarding'], (w) => w.set('forwards', true)],
  [['no ip routing', 'no ip forwarding'], (w) => w.set('forwards', false)],
  [['ipv6 unicast-routing', 'ipv6 forwarding'], (w) => w.set('forwards6', true)],
  [['no ipv6 unicast-routing', 'no ipv6 forwarding'], (w) => w.set('forwards6', false)],
  ['security passwords min-length <length:int>', (w, b) => w.set('passwordLength', b.number('length'))],
  ...toggles('cdp run', 'cdp'),
  ...toggles('ip source-route', 'sourceRouting'),
  ...toggles('ip finger', 'finger'),
  ['ip finger rfc-compliant', (w) => w.at('services').at('finger').set('enabled', true)],
  ...toggles('service finger', 'finger'),
  ...toggles('service tcp-small-servers', 'smallServers'),
  ...toggles('service udp-small-servers', 'smallServers'),
  [
    ['service tcp-small-servers ...', 'service udp-small-servers ...'],
    (w) => w.at('services').at('smallServers').set('enabled', true),
  ],
  ...toggles('service password-encryption', 'passwordEncryption'),
  ...toggles('lldp run', 'lldp'),
  ['netconf-yang', (w) => w.at('services').at('netconf').set('enabled', true)],
  ['no netconf-yang', (w) => w.at('services').at('netconf').set('enabled', false)],
  [['ftp-server enable', 'ip ftp server'], (w) => w.at('services').at('ftp').set('enabled', true)],
  ['tftp-server <what...>', (w) => w.at('services').at('tftp').set('enabled', true)],
  [
    'ip ssh server algorithm encryption <names...>',
    (w, b) =>
      w
        .at('services')
        .at('ssh')
        .push('ciphers', ...b.words('names')),
  ],
  [
    'ip ssh server algorithm mac <names...>',
    (w, b) =>
      w
        .at('services')
        .at('ssh')
        .push('macs', ...b.words('names')),
  ],
  [
    'ip ssh server algorithm kex <names...>',
    (w, b) =>
      w
        .at('services')
        .at('ssh')
        .push('keyExchange', ...b.words('names')),
  ],
  [
    'ip ssh server algorithm hostkey <names...>',
    (w, b) =>
      w
        .at('services')
        .at('ssh')
        .push('hostKeys', ...b.words('names')),
  ],
  [
    'ip http tls-version <versions...>',
    (w, b) =>
      w
        .at('services')
        .at('https')
        .push('tlsVersions', ...b.words('versions')),
  ],
  [
    'ip http secure-ciphersuite <names...>',
    (w, b) =>
      w
        .at('services')
        .at('https')
        .push('ciphers', ...b.words('names')),
  ],
  ['ip ssh dh min size <bits:int>', (w, b) => w.at('services').at('ssh').set('minimumBits', b.number('bits'))],
  ['ip ssh version <version>', (w, b) => w.at('services').at('ssh').set('version', b.text('version'))],
  ['ip ssh time-out <seconds:int>', (w, b) => w.at('services').at('ssh').set('timeoutSeconds', b.number('seconds'))],
  [
    'ip ssh authentication-retries <retries:int>',
    (w, b) => w.at('services').at('ssh').set('retries', b.number('retries')),
  ],
]

/** What guards a switch as a whole. */
const SWITCHING: readonly Mapping<System>[] = [
  [
    ['spanning-tree portfast default', 'spanning-tree portfast edge default'],
    (w) => w.at('switching').set('edgeByDefault', true),
  ],
  [
    ['no spanning-tree portfast default', 'no spanning-tree portfast edge default'],
    (w) => w.at('switching').set('edgeByDefault', false),
  ],
  [
    ['spanning-tree portfast bpduguard default', 'spanning-tree portfast edge bpduguard default'],
    (w) => w.at('switching').set('guardByDefault', true),
  ],
  [
    ['no spanning-tree portfast bpduguard default', 'no spanning-tree portfast edge bpduguard default'],
    (w) => w.at('switching').set('guardByDefault', false),
  ],
  [
    ['spanning-tree portfast bpdufilter default', 'spanning-tree portfast edge bpdufilter default'],
    (w) => w.at('switching').set('filterByDefault', true),
  ],
  [
    ['no spanning-tree portfast bpdufilter default', 'no spanning-tree portfast edge bpdufilter default'],
    (w) => w.at('switching').set('filterByDefault', false),
  ],
  ['ip dhcp snooping', (w) => w.at('switching').set('dhcpSnooping', true)],
  ['no ip dhcp snooping', (w) => w.at('switching').set('dhcpSnooping', false)],
  [
    'ip dhcp snooping vlan <vlans>',
    (w, b) => w.at('switching').set('snoopedVlans', joined(w.target.switching.snoopedVlans, b.text('vlans'))),
  ],
  [
    'ip arp inspection vlan <vlans>',
    (w, b) => w.at('switching').set('inspectedVlans', joined(w.target.switching.inspectedVlans, b.text('vlans'))),
  ],
  ['dot1x system-auth-control', (w) => w.at('switching').set('portAuthentication', true)],
  ['no dot1x system-auth-control', (w) => w.at('switching').set('portAuthentication', false)],
  ['vtp mode <mode> ...', (w, b) => w.at('switching').set('vtpMode', b.text('mode'))],
  ['vtp domain <name>', (w, b) => w.at('switching').set('vtpDomain', b.text('name'))],
]

function joined(list: string | null, more: string): string {
  return [list, more].filter(Boolean).join(',')
}

export const CONTROL_PLANE = new MappingTable<System>(
  [['service-policy input <name>', (w, b) => w.set('controlPlanePolicy', b.text('name'))]],
  [
    ['it limits what the device itself sends', ['service-policy output ...']],
    ['it only structures the listing', ['exit']],
  ],
)
/** Blocks beside the device's own settings. */
const BESIDE: readonly Mapping<System>[] = [['control-plane ...', (w, _, s) => CONTROL_PLANE.read(s.scope, w)]]

export const SYSTEM = new MappingTable<System>(
  [...IDENTITY, ...TIME, ...LOGGING, ...SNMP, ...SERVICES, ...ACCESS, ...SWITCHING, ...BESIDE],
  SYSTEM_HARMLESS,
)

type Terminal = System['terminals'][number]

export const TERMINAL = new MappingTable<Terminal>(
  [
    ['transport input <methods...>', (w, b) => w.set('protocols', b.words('methods'))],
    [
      'exec-timeout <minutes:int> <seconds:int>',
      (w, b) => w.set('idleSeconds', b.number('minutes') * 60 + b.number('seconds')),
    ],
    ['exec-timeout <minutes:int>', (w, b) => w.set('idleSeconds', b.number('minutes') * 60)],
    ['no exec-timeout ...', (w) => w.set('idleSeconds', 0)],
    [['access-class <acl> in ...', 'ip access-class <acl> in ...'], (w, b) => w.set('accessList4', b.text('acl'))],
    ['ipv6 access-class <acl> in ...', (w, b) => w.set('accessList6', b.text('acl'))],
    ['login <how...>', (w, b) => w.set('login', b.text('how'))],
    ['login', (w) => w.set('login', 'password')],
    ['no login', (w) => w.set('login', 'none')],
    [
      'password <form:int> <secret...>',
      (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
    ],
    ['password <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.provenance.mask))],
    ['no exec', (w) => w.set('session', false)],
    ['privilege level <level:int>', (w, b) => w.set('privilege', b.number('level'))],
  ],
  TERMINAL_HARMLESS,
)

/** `line con 0` and its like, as a terminal. */
export function readTerminal(write: Writer<System>, statement: Statement): void {
  const word = statement.command.lowerWords[1] ?? ''
  const kind = word.startsWith('con') ? 'console' : word === 'aux' ? 'auxiliary' : 'remote'
  TERMINAL.read(statement.scope, write.entry('terminals', { name: statement.text.slice('line '.length), kind }))
}

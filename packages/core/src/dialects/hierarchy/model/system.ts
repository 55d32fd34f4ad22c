import { Bound, MappingTable, NOT_TAKEN, partly, type Mapping } from '../../../model/mapping.ts'
import { secret, secretOfHierarchy } from '../../../model/secrets.ts'
import type { Statement } from '../../../syntax/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { SYSTEM_HARMLESS } from './harmless.ts'
import type { System } from '../../indented/model/system.ts'
import { SNMP } from './snmp.ts'

type Services = System['services']
type Service = Exclude<keyof Services, 'ssh'>

/**
 * A service is on where its path is stated, alone or with settings beneath it; settings that nobody knows stay unread.
 */
function service(path: string, field: keyof Services): Mapping<System>[] {
  return [
    [[path, `${path} {connection-limit|rate-limit|port} *`], (w) => on(w, field)],
    [`${path} ...`, (w) => partly(on(w, field))],
  ]
}

function on(w: Writer<System>, field: keyof Services): void {
  w.at('services')
    .at(field as Service)
    .set('enabled', true)
}

const BASICS: readonly Mapping<System>[] = [
  ['version <version>', (w, b) => w.set('version', b.text('version'))],
  ['system host-name <name>', (w, b) => w.set('hostname', b.text('name'))],
  ['system domain-name <name>', (w, b) => w.set('domainName', b.text('name'))],
  ['system time-zone <zone>', (w, b) => w.set('timeZone', b.text('zone'))],
  [
    [
      'system name-server <address>',
      'system name-server <address> routing-instance *',
      'system name-server <address> source-address *',
    ],
    (w, b) => w.push('nameServers', b.text('address')),
  ],
  [
    'system static-host-mapping <name> {inet|inet6} <address>',
    (w, b) => w.entry('hosts', { name: b.text('name') }).push('addresses', b.text('address')),
  ],
  ['system login message <text...>', (w, b) => w.at('banners').set('login', b.text('text'))],
  ['system login announcement <text...>', (w, b) => w.at('banners').set('motd', b.text('text'))],
  ['system login password minimum-length <length:int>', (w, b) => w.set('passwordLength', b.number('length'))],
  ['system no-redirects', (w) => w.set('redirects', false)],
  [
    'system login retry-options tries-before-disconnect <attempts:int>',
    (w, b) => w.at('lockout').set('attempts', b.number('attempts')),
  ],
  [
    'system login retry-options lockout-period <minutes:int>',
    (w, b) => w.at('lockout').set('lockSeconds', b.number('minutes') * 60),
  ],
  ['system login idle-timeout <minutes:int>', (w, b) => terminal(w).set('idleSeconds', b.number('minutes') * 60)],
  [
    'system login class <name> idle-timeout <minutes:int>',
    (w, b) =>
      w
        .entry('terminals', { name: `class ${b.text('name')}`, kind: 'remote' })
        .set('idleSeconds', b.number('minutes') * 60),
  ],
  [
    'system root-authentication encrypted-password <secret>',
    (w, b) => w.set('enableSecret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  [
    'system root-authentication plain-text-password-value <secret>',
    (w, b) => w.set('enableSecret', secret('clear', b.text('secret'), w.provenance.mask)),
  ],
  [
    'system login user <name> class <role>',
    (w, b) => w.entry('users', { name: b.text('name') }).set('role', b.text('role')),
  ],
  [
    'system login user <name> authentication encrypted-password <secret>',
    (w, b) =>
      w.entry('users', { name: b.text('name') }).set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  [
    'system login user <name> authentication plain-text-password-value <secret>',
    (w, b) =>
      w.entry('users', { name: b.text('name') }).set('secret', secret('clear', b.text('secret'), w.provenance.mask)),
  ],
  ['system login user <name> authentication {ssh-rsa|ssh-dsa|ssh-ecdsa|ssh-ed25519} ...', (w, b) => addKey(w, b)],
  [
    ['system login user <name>', 'system login user <name> {uid|full-name} *'],
    (w, b) => w.entry('users', { name: b.text('name') }),
  ],
]

function terminal(w: Writer<System>): Writer<System['terminals'][number]> {
  return w.entry('terminals', { name: 'all', kind: 'remote' })
}

function addKey(w: Writer<System>, b: Bound): void {
  const user = w.entry('users', { name: b.text('name') })
  user.set('keys', user.target.keys + 1)
}

const TIME: readonly Mapping<System>[] = [
  [
    'system ntp server <address> key <key:int>',
    (w, b) =>
      w
        .at('ntp')
        .entry('servers', { address: b.text('address') })
        .set('key', b.number('key')),
  ],
  [
    'system ntp server <address> prefer',
    (w, b) =>
      w
        .at('ntp')
        .entry('servers', { address: b.text('address') })
        .set('prefer', true),
  ],
  [
    ['system ntp server <address>', 'system ntp server <address> {version|routing-instance|source-address} *'],
    (w, b) => w.at('ntp').entry('servers', { address: b.text('address') }),
  ],
  ['system ntp server <address> ...', (w, b) => partly(w.at('ntp').entry('servers', { address: b.text('address') }))],
  [
    'system ntp peer <address> key <key:int>',
    (w, b) =>
      w
        .at('ntp')
        .entry('servers', { address: b.text('address') })
        .set('peer', true)
        .set('key', b.number('key')),
  ],
  [
    'system ntp peer <address> ...',
    (w, b) =>
      w
        .at('ntp')
        .entry('servers', { address: b.text('address') })
        .set('peer', true),
  ],
  [
    'system ntp authentication-key <id:int> type <algorithm>',
    (w, b) =>
      w
        .at('ntp')
        .entry('keys', { id: b.number('id') })
        .set('algorithm', b.text('algorithm')),
  ],
  [
    'system ntp authentication-key <id:int> value <secret>',
    (w, b) =>
      w
        .at('ntp')
        .entry('keys', { id: b.number('id') })
        .set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  ['system ntp trusted-key <key>', (w, b) => w.at('ntp').set('authenticate', true).push('trustedKeys', b.text('key'))],
  ['system ntp source-address <address> ...', (w, b) => w.at('ntp').set('source', b.text('address'))],
]

const LOGGING: readonly Mapping<System>[] = [
  // What the other half of the device is told is no log host.
  ['system syslog host <address> port <port:int>', (w, b) => logHost(w, b).set('port', b.number('port'))],
  [
    'system syslog host <address> transport <protocol> ...',
    (w, b) => logHost(w, b).set('protocol', b.text('protocol')),
  ],
  ['system syslog host <address> source-address <source>', (w, b) => logHost(w, b).set('source', b.text('source'))],
  ['system syslog host <address> routing-instance <vrf>', (w, b) => logHost(w, b).set('vrf', b.text('vrf'))],
  [
    'system syslog host <address> {facility-override|log-prefix|explicit-priority|structured-data|exclude-hostname|allow-duplicates} ...',
    (w, b) => void logHost(w, b),
  ],
  // It chooses among the messages that are sent.
  ['system syslog host <address> {match|match-strings} ...', (w, b) => partly(logHost(w, b))],
  [
    'system syslog host <address> {any|authorization|change-log|conflict-log|daemon|dfc|external|firewall|ftp|interactive-commands|kernel|ntp|pfe|security|user} <severity>',
    (w, b, s) => facility(w, b, s),
  ],
  ['system syslog host <address>', (w, b) => void logHost(w, b)],
  ['system syslog host <address> ...', (w, b) => partly(logHost(w, b))],
  [
    'system syslog file <name> <facility> {any|debug|info|notice|warning|error|critical|alert|emergency|none}',
    (w, b, s) =>
      logFile(w, b)
        .entry('facilities', { facility: b.text('facility') })
        .set('severity', s.command.lowerWords[5] ?? ''),
  ],
  [
    'system syslog file <name> {archive|match|match-strings|structured-data|explicit-priority|allow-duplicates} ...',
    (w, b) => partly(logFile(w, b)),
  ],
  ['system syslog file <name> ...', (w, b) => partly(logFile(w, b))],
  [
    'system syslog time-format <options...>',
    (w, b) =>
      w.at('logging').set('timestamps', [w.target.logging.timestamps, b.text('options')].filter(Boolean).join(' ')),
  ],
  ['system syslog source-address <address>', (w, b) => w.at('logging').set('source', b.text('address'))],
]

/** The severity of a facility at a host; that of all facilities is the host's own. */
function facility(w: Writer<System>, b: Bound, statement: Statement): void {
  const name = statement.command.lowerWords[4] ?? ''
  const host = logHost(w, b)
  host.entry('facilities', { facility: name }).set('severity', b.text('severity'))
  if (name === 'any') host.set('severity', b.text('severity'))
}

function logFile(w: Writer<System>, b: Bound): Writer<System['logging']['files'][number]> {
  w.at('logging').set('buffered', b.text('name'))
  return w.at('logging').entry('files', { name: b.text('name') })
}

function logHost(w: Writer<System>, b: Bound): Writer<System['logging']['hosts'][number]> {
  return w.at('logging').entry('hosts', { address: b.text('address') })
}

const SERVICES: readonly Mapping<System>[] = [
  [
    'system services ssh protocol-version <version>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').set('version', b.text('version').replace(/^v/, ''))],
  ],
  [
    'system services ssh ciphers <name>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('ciphers', b.text('name'))],
  ],
  [
    'system services ssh macs <name>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('macs', b.text('name'))],
  ],
  [
    'system services ssh key-exchange <name>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('keyExchange', b.text('name'))],
  ],
  [
    'system services ssh hostkey-algorithm <name>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('hostKeys', b.text('name'))],
  ],
  [
    'system services ssh root-login <how>',
    (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').set('rootLogin', b.text('how'))],
  ],
  [
    'system services ssh {max-sessions-per-connection|tcp-forwarding|no-tcp-forwarding|client-alive-interval|client-alive-count-max|max-pre-authentication-packets|fingerprint-hash|log-key-changes|no-challenge-response|sftp-server|no-remote-trusted-hosts} ...',
    (w) => on(w, 'ssh'),
  ],
  ...service('system services ssh', 'ssh'),
  ...service('system services telnet', 'telnet'),
  ...service('system services ftp', 'ftp'),
  ...service('system services finger', 'finger'),
  [
    [
      'system services netconf ssh',
      'system services netconf ssh {port|connection-limit|rate-limit} *',
      'system services netconf rfc-compliant',
    ],
    (w) => on(w, 'netconf'),
  ],
  ...service('system services netconf', 'netconf'),
  ['system services web-management http interface <name>', (w) => on(w, 'http')],
  [
    'system services web-management https {interface|local-certificate|pki-local-certificate} <name>',
    (w) => on(w, 'https'),
  ],
  ['system services web-management https system-generated-certificate', (w) => on(w, 'https')],
  ...service('system services web-management http', 'http'),
  ...service('system services web-management https', 'https'),
  ...service('system services tftp-server', 'tftp'),
  ['protocols lldp interface <name>', (w) => on(w, 'lldp')],
  [
    'protocols lldp {advertisement-interval|hold-multiplier|port-id-subtype|transmit-delay|ptopo-configuration-trap-interval|lldp-configuration-notification-interval|management-address|neighbour-port-info-display} ...',
    (w) => on(w, 'lldp'),
  ],
  ['protocols lldp disable', (w) => w.at('services').at('lldp').set('enabled', false)],
  ['protocols lldp interface <name> disable', () => NOT_TAKEN],
  ...service('protocols lldp', 'lldp'),
  [
    'forwarding-options helpers bootp {server|interface|description|relay-agent-option|maximum-hop-count} ...',
    (w) => on(w, 'bootp'),
  ],
  ...service('forwarding-options helpers bootp', 'bootp'),
  [['routing-options source-routing', 'routing-options source-routing {ip|ipv6}'], (w) => on(w, 'sourceRouting')],
]

const AAA: readonly Mapping<System>[] = [
  ['system authentication-order <method>', (w, b) => order(w, b)],
  [
    ['system tacplus-server <address> secret <secret>'],
    (w, b) =>
      w
        .at('aaa')
        .set('enabled', true)
        .entry('servers', { protocol: 'tacacs', name: b.text('address') })
        .set('address', b.text('address'))
        .set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  [
    ['system radius-server <address> secret <secret>'],
    (w, b) =>
      w
        .at('aaa')
        .set('enabled', true)
        .entry('servers', { protocol: 'radius', name: b.text('address') })
        .set('address', b.text('address'))
        .set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  [
    'system accounting events <event>',
    (w, b) => w.at('aaa').entry('methods', { purpose: `accounting ${b.text('event')}`, name: 'default' }),
  ],
  [
    'system accounting destination {tacplus|radius} ...',
    (w, _, s) =>
      w
        .at('aaa')
        .entry('methods', { purpose: 'accounting destination', name: 'default' })
        .push('methods', s.command.lowerWords[3] ?? ''),
  ],
  [
    [
      'system tacplus-server <address>',
      'system tacplus-server <address> {port|timeout|single-connection|source-address|routing-instance} ...',
    ],
    (w, b) =>
      w
        .at('aaa')
        .entry('servers', { protocol: 'tacacs', name: b.text('address') })
        .set('address', b.text('address')),
  ],
  [
    [
      'system radius-server <address>',
      'system radius-server <address> {port|accounting-port|timeout|retry|source-address|routing-instance|max-outstanding-requests} ...',
    ],
    (w, b) =>
      w
        .at('aaa')
        .entry('servers', { protocol: 'radius', name: b.text('address') })
        .set('address', b.text('address')),
  ],
]

/** The order of methods is the login list that all use. */
function order(w: Writer<System>, b: Bound): void {
  const methods: Readonly<Record<string, string>> = {
    password: 'local',
    tacplus: 'group tacacs+',
    radius: 'group radius',
  }
  w.at('aaa')
    .set('enabled', true)
    .entry('methods', { purpose: 'authentication login', name: 'default' })
    .push('methods', ...(methods[b.text('method')] ?? b.text('method')).split(' '))
}

export const SYSTEM = new MappingTable<System>(
  [...BASICS, ...TIME, ...LOGGING, ...SNMP, ...SERVICES, ...AAA],
  SYSTEM_HARMLESS,
)

import { Bound, MappingTable, NOT_TAKEN, partly, type Mapping } from '../../../model/mapping.ts'
import { isDefaultCommunity, secret, secretOfHierarchy } from '../../../model/secrets.ts'
import type { Statement } from '../../../syntax/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { SYSTEM_HARMLESS } from './harmless.ts'
import type { System } from '../../indented/model/system.ts'

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

const SNMP: readonly Mapping<System>[] = [
  [
    'snmp community <name> authorization <access>',
    (w, b) => community(w, b).set('access', b.text('access') === 'read-write' ? 'rw' : 'ro'),
  ],
  ['snmp community <name> client-list-name <acl>', (w, b) => community(w, b).set('accessList', b.text('acl'))],
  ['snmp community <name> clients <prefix>', (w, b) => community(w, b).push('clients', b.text('prefix'))],
  // Of a prefix that is shut out.
  [
    'snmp community <name> clients <prefix> restrict',
    (w, b) => community(w, b).push('clients', `!${b.text('prefix')}`),
  ],
  [
    ['snmp community <name>', 'snmp community <name> {view|logical-system|routing-instance} *'],
    (w, b) => void community(w, b),
  ],
  ['snmp community <name> ...', (w, b) => partly(community(w, b))],
  [
    'snmp client-list <acl> <prefix>',
    (w, b) =>
      w
        .at('snmp')
        .entry('clientLists', { name: b.text('acl') })
        .push('prefixes', b.text('prefix')),
  ],
  [
    'snmp client-list <acl> <prefix> restrict',
    (w, b) =>
      w
        .at('snmp')
        .entry('clientLists', { name: b.text('acl') })
        .push('prefixes', `!${b.text('prefix')}`),
  ],
  ['snmp client-list <acl>', (w, b) => w.at('snmp').entry('clientLists', { name: b.text('acl') })],
  // A community of the form of version 3 is one all the same.
  ['snmp v3 snmp-community <index> community-name <name>', (w, b) => community(w, b)],
  ['snmp v3 snmp-community <index> {security-name|tag|context} *', () => NOT_TAKEN],
  [
    'snmp v3 target-parameters <name> parameters security-level <level>',
    (w, b) =>
      w
        .at('snmp')
        .entry('targetParameters', { name: b.text('name') })
        .set('level', LEVELS[b.text('level')] ?? b.text('level')),
  ],
  [
    'snmp v3 target-parameters <name> parameters {security-model|message-processing-model} <model>',
    (w, b) =>
      w
        .at('snmp')
        .entry('targetParameters', { name: b.text('name') })
        .set('model', b.text('model')),
  ],
  [
    'snmp v3 target-parameters <name> {parameters|notify-filter} ...',
    (w, b) => w.at('snmp').entry('targetParameters', { name: b.text('name') }),
  ],
  ['snmp v3 target-address <name> address <address>', (w, b) => target(w, b).set('address', b.text('address'))],
  [
    'snmp v3 target-address <name> target-parameters <parameters>',
    (w, b) => target(w, b).set('parameters', b.text('parameters')),
  ],
  [
    'snmp v3 target-address <name> {tag-list|port|timeout|retry-count|routing-instance|address-mask} *',
    (w, b) => target(w, b),
  ],
  [
    'snmp v3 vacm access group <name> default-context-prefix security-model <model> security-level <level> ...',
    (w, b) =>
      w
        .at('snmp')
        .entry('groups', {
          name: b.text('name'),
          version: b.text('model') === 'usm' ? '3' : b.text('model').replace(/^v/, ''),
        })
        .set('level', LEVELS[b.text('level')] ?? b.text('level')),
  ],
  [
    [
      'snmp v3 usm local-engine user <name> <option>',
      'snmp v3 usm local-engine user <name> <option> ...',
      'snmp v3 usm remote-engine * user <name> <option> ...',
    ],
    (w, b) => usmUser(w, b),
  ],
  [
    'snmp trap-group <name> targets <address>',
    (w, b) =>
      void [
        trapGroup(w, b).push('targets', b.text('address')),
        w
          .at('snmp')
          .entry('hosts', { address: b.text('address') })
          .presume('version', '2c'),
      ],
  ],
  ['snmp trap-group <name> {categories|destination-port|routing-instance} ...', (w, b) => trapGroup(w, b)],
  ['snmp trap-group <name> version <version>', (w, b) => trapVersion(w, b)],
  ['snmp contact <text...>', (w, b) => w.at('snmp').set('contact', b.text('text'))],
  ['snmp location <text...>', (w, b) => w.at('snmp').set('location', b.text('text'))],
]

const LEVELS: Readonly<Record<string, string>> = { privacy: 'priv', authentication: 'auth', none: 'noauth' }

function community(w: Writer<System>, b: Bound): Writer<System['snmp']['communities'][number]> {
  const name = w.provenance.mask(b.text('name'))
  const entry = w.at('snmp').entry('communities', { name })
  entry.target.secret = secret('clear', b.text('name'), w.provenance.mask)
  entry.target.isDefault = isDefaultCommunity(b.text('name'))
  return entry
}

function usmUser(w: Writer<System>, b: Bound): void {
  const user = w.at('snmp').entry('users', { name: b.text('name') })
  const option = b.text('option')
  if (
    option.startsWith('authentication-') &&
    option !== 'authentication-none' &&
    option !== 'authentication-key' &&
    option !== 'authentication-password'
  )
    user.set('authentication', option.slice('authentication-'.length))
  if (option.startsWith('privacy-') && option !== 'privacy-none') user.set('privacy', option.slice('privacy-'.length))
}

function trapGroup(w: Writer<System>, b: Bound): Writer<System['snmp']['trapGroups'][number]> {
  return w.at('snmp').entry('trapGroups', { name: b.text('name') })
}

/** The version of a group is that of its targets, once all of them are known. */
function trapVersion(w: Writer<System>, b: Bound): void {
  trapGroup(w, b).set('version', b.text('version').replace(/^v/, ''))
}

function target(w: Writer<System>, b: Bound): Writer<System['snmp']['targets'][number]> {
  return w.at('snmp').entry('targets', { name: b.text('name') })
}

/** Hosts for notifications, by what their groups and their parameters say. */
export function settleTraps(w: Writer<System>): void {
  const snmp = w.at('snmp')
  for (const { version, targets } of w.target.snmp.trapGroups) {
    for (const address of targets)
      if (version !== null && version !== 'all')
        snmp.find('hosts', { address })?.presume('version', version.replace(/^2$/, '2c'))
  }
  w.target.snmp.targets.forEach(({ address, parameters }, i) => {
    if (address === null) return
    const stated = w.target.snmp.targetParameters.find(({ name }) => name === parameters)
    const version = stated?.model === 'usm' || stated?.model === 'v3' ? '3' : (stated?.model ?? '3').replace(/^v/, '')
    const host = snmp.add('hosts', { address, version, level: stated?.level ?? null })
    w.provenance.origins.note(host.place, null, { kind: 'of', path: `${snmp.path}.targets[${i}]` })
  })
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

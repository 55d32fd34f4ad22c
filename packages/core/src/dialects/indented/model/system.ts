import type { Statement } from '../../../syntax/index.ts'
import { communityOfHost } from '../secrets.ts'
import { MappingTable, NOT_TAKEN, type Bound, type Harmless, type Mapping } from '../../../model/mapping.ts'
import { ARCHIVE_HARMLESS, SYSTEM_HARMLESS, TERMINAL_HARMLESS } from './harmless.ts'
import { isDefaultCommunity, secret, secretOfType } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

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

const LOGGING: readonly Mapping<System>[] = [
  [
    [
      'logging host {ip|ipv6} <address> <options...>',
      'logging host {ip|ipv6} <address>',
      'logging host <address> <options...>',
      'logging host <address>',
    ],
    (w, b) => logHost(w, b),
  ],
  [
    ['logging trap <severity>', 'logging trap'],
    (w, b) => w.at('logging').set('trap', severityOf(b.text('severity') || 'informational')),
  ],
  ['no logging trap ...', (w) => w.at('logging').set('trap', 'none')],
  ['login on-success log ...', (w) => w.at('logging').set('successfulLogins', true)],
  ['login on-failure log ...', (w) => w.at('logging').set('failedLogins', true)],
  ['logging on', (w) => w.at('logging').set('enabled', true)],
  ['no logging on', (w) => w.at('logging').set('enabled', false)],
  ['logging source-interface <interface> ...', (w, b) => w.at('logging').set('source', b.text('interface'))],
  [
    ['logging buffered <size...>', 'logging file <size...>', 'log file <size...>', 'log syslog <size...>'],
    (w, b) => w.at('logging').set('buffered', b.text('size')),
  ],
  ['service timestamps log <options...>', (w, b) => w.at('logging').set('timestamps', b.text('options'))],
]

/** Severities of RFC 5424 §6.2.1 by their numbers, as listings may write them. */
const SEVERITIES = [
  'emergencies',
  'alerts',
  'critical',
  'errors',
  'warnings',
  'notifications',
  'informational',
  'debugging',
]

function severityOf(word: string): string {
  return SEVERITIES[Number(word)] ?? word.toLowerCase()
}

function logHost(w: Writer<System>, b: Bound): unknown {
  const options = b.words('options')
  const host = w.at('logging').entry('hosts', { address: b.text('address') })
  let understood = true
  for (let i = 0; i < options.length; i++) {
    const value = options[i + 1] ?? ''
    switch ((options[i] ?? '').toLowerCase()) {
      case 'vrf':
      case 'use-vrf':
        host.set('vrf', value)
        i++
        break
      case 'transport':
        host.set('protocol', value)
        i++
        break
      case 'port':
        host.set('port', Number(value))
        i++
        break
      case 'sequence-num-session':
      case 'session-id':
      case 'xml':
        break
      case 'audit':
      case 'discriminator':
      case 'filtered':
      case 'stream':
        // They choose which messages are sent.
        understood = false
        i++
        break
      default:
        understood = false
    }
  }
  return understood ? undefined : NOT_TAKEN
}

const SNMP: readonly Mapping<System>[] = [
  [
    [
      'snmp-server community {0|7} <community> <options...>',
      'snmp-server community <community> <options...>',
      'snmp-server community <community>',
    ],
    (w, b) => {
      const words = b.words('options')
      const access = words.find((word) => /^(?:ro|rw)$/i.test(word)) ?? null
      const last = words.at(-1)
      const community = b.text('community').replace(/^"(.*)"$/, '$1')
      const entry = w
        .at('snmp')
        .add('communities', {
          secret: secret('clear', community, w.provenance.mask),
          name: w.provenance.mask(community),
          isDefault: isDefaultCommunity(community),
        })
      if (access !== null) entry.set('access', access.toLowerCase())
      if (last !== undefined && !/^(?:ro|rw)$/i.test(last)) entry.set('accessList', last)
    },
  ],
  [
    'snmp-server group <name> v3 <level> ...',
    (w, b) => w.at('snmp').add('groups', { name: b.text('name'), version: '3', level: b.text('level') }),
  ],
  [
    'snmp-server group <name> <version> ...',
    (w, b) => w.at('snmp').add('groups', { name: b.text('name'), version: b.text('version').replace(/^v/, '') }),
  ],
  [
    'snmp-server user <name> <group> <options...>',
    (w, b) => {
      const words = b.words('options')
      const auth = words.indexOf('auth')
      const priv = words.indexOf('priv')
      w.at('snmp').add('users', {
        name: b.text('name'),
        group: b.text('group'),
        authentication: auth < 0 ? null : (words[auth + 1] ?? null),
        privacy:
          priv < 0 ? null : words.slice(priv + 1, priv + (/^\d+$/.test(words[priv + 2] ?? '') ? 3 : 2)).join(' '),
      })
    },
  ],
  ['snmp-server host <address> <options...>', (w, b, s) => trapHost(w, b, s)],
  [
    ['snmp-server trap-source <interface>', 'snmp-server source-interface traps <interface>'],
    (w, b) => w.at('snmp').set('source', b.text('interface')),
  ],
  ['snmp-server contact <text...>', (w, b) => w.at('snmp').set('contact', b.text('text'))],
  ['snmp-server location <text...>', (w, b) => w.at('snmp').set('location', b.text('text'))],
]

function trapHost(w: Writer<System>, b: Bound, statement: Statement): void {
  const words = statement.command.lowerWords
  const at = words.indexOf('version')
  const version = at < 0 ? '1' : (words[at + 1] ?? '1')
  const level = version === '3' ? (words[at + 2] ?? null) : null
  const community = communityOfHost(words)
  w.at('snmp').add('hosts', {
    address: b.text('address'),
    version,
    level: level !== null && /^(?:auth|noauth|priv)$/.test(level) ? level : null,
  })
  const name = community === null ? undefined : statement.command.words[community]
  if (name !== undefined && isDefaultCommunity(name) && version !== '3')
    w.at('snmp').add('communities', {
      secret: secret('clear', name, w.provenance.mask),
      name: w.provenance.mask(name),
      access: 'trap',
      isDefault: true,
    })
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

/** Forms of both protocols, in the spelling of one line for a server. */
function either(...forms: string[]): string[] {
  return ['tacacs-server', 'radius-server'].flatMap((protocol) => forms.map((form) => `${protocol} ${form}`))
}

const ACCESS: readonly Mapping<System>[] = [
  ['aaa new-model', (w) => w.at('aaa').set('enabled', true)],
  ['no aaa new-model', (w) => w.at('aaa').set('enabled', false)],
  [
    'aaa accounting commands <level:int> <name>',
    (w, b, s) => accounting(w, `commands ${b.text('level')}`, b.text('name'), s),
  ],
  ['aaa accounting <purpose> <name>', (w, b, s) => accounting(w, b.text('purpose'), b.text('name'), s)],
  [
    'aaa {authorization|accounting} commands <level:int> <name> <methods...>',
    (w, b, s) =>
      w
        .at('aaa')
        .add('methods', {
          purpose: `${s.command.lowerWords[1] ?? ''} commands ${b.text('level')}`,
          name: b.text('name'),
          methods: b.words('methods'),
        }),
  ],
  [
    'aaa {authentication|authorization|accounting} <purpose> <name> <methods...>',
    (w, b, s) =>
      w
        .at('aaa')
        .add('methods', {
          purpose: `${s.command.lowerWords[1] ?? ''} ${b.text('purpose')}`,
          name: b.text('name'),
          methods: b.words('methods'),
        }),
  ],
  [
    'aaa local authentication attempts max-fail <attempts:int>',
    (w, b) => w.at('lockout').set('attempts', b.number('attempts')).set('untilUnlocked', true),
  ],
  [
    'login block-for <lock:int> attempts <attempts:int> within <window:int>',
    (w, b) =>
      w
        .at('lockout')
        .set('attempts', b.number('attempts'))
        .set('lockSeconds', b.number('lock'))
        .set('windowSeconds', b.number('window')),
  ],
  [
    ['tacacs server <name>', 'radius server <name>'],
    (w, b, s) =>
      AAA_SERVER.read(s.scope, w.at('aaa').entry('servers', { protocol: s.command.first, name: b.text('name') })),
  ],
  [
    'aaa group server <protocol> <name>',
    (w, b, s) =>
      AAA_GROUP.read(s.scope, w.at('aaa').entry('groups', { name: b.text('name'), protocol: b.text('protocol') })),
  ],
  [
    'ip {tacacs|radius} source-interface <interface> ...',
    (w, b, s) =>
      w.at('aaa').add('sources', { protocol: s.command.lowerWords[1] ?? '', interface: b.text('interface') }),
  ],
  [
    'aaa authorization console',
    (w) => w.at('aaa').add('methods', { purpose: 'authorization console', name: 'console' }),
  ],
  // The methods of accounting may stand in a block of their own.
  ['archive', (w, _, s) => ARCHIVE.read(s.scope, w)],
  [either('host <address> <options...>', 'host <address>'), (w, b, s) => oldServer(w, b, s)],
  [
    either('key <form:int> <secret...>'),
    (w, b, s) => sharedKey(w, s, secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [either('key <secret...>'), (w, b, s) => sharedKey(w, s, secret('clear', b.text('secret'), w.provenance.mask))],
  [
    'enable secret level * <form:int> <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [
    'enable {secret|password} <form:int> <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [
    'enable algorithm-type <algorithm> secret <secret...>',
    (w, b) =>
      w.set(
        'enableSecret',
        secret(b.text('algorithm') === 'scrypt' ? 'scrypt' : 'pbkdf2', b.text('secret'), w.provenance.mask),
      ),
  ],
  [
    'enable {secret|password} <secret...>',
    (w, b) => w.set('enableSecret', secretOfType(null, b.text('secret'), w.provenance.mask)),
  ],
  ['username <name> <options...>', (w, b) => user(w, b)],
  ['username <name>', (w, b) => w.entry('users', { name: b.text('name') })],
]

const AAA_HARMLESS: readonly Harmless[] = [
  [
    'how long a server is waited for, and by which port',
    ['timeout ...', 'single-connection', 'port ...', 'retransmit ...', 'deadtime ...', 'exit', 'automate-tester ...'],
  ],
]

/** Methods in a block: `action-type start-stop` and `group NAME` in lines of their own. */
export const ACCOUNTING = new MappingTable<System['aaa']['methods'][number]>([
  ['action-type <how>', (w, b) => w.push('methods', b.text('how'))],
  ['group <name>', (w, b) => w.push('methods', 'group', b.text('name'))],
  ['broadcast', (w) => w.push('methods', 'broadcast')],
])

function accounting(w: Writer<System>, purpose: string, name: string, statement: Statement): void {
  ACCOUNTING.read(statement.scope, w.at('aaa').add('methods', { purpose: `accounting ${purpose}`, name }))
}

/** A server in one line, with its key perhaps. */
function oldServer(w: Writer<System>, b: Bound, statement: Statement): void {
  const options = b.words('options')
  const key = options.indexOf('key')
  const server = w
    .at('aaa')
    .entry('servers', { protocol: statement.command.first.replace('-server', ''), name: b.text('address') })
    .set('address', b.text('address'))
  const typed = /^\d$/.test(options[key + 1] ?? '') && options.length > key + 2
  if (key >= 0)
    server.set(
      'secret',
      typed
        ? secretOfType(options[key + 1] ?? null, options.slice(key + 2).join(' '), w.provenance.mask)
        : secret('clear', options.slice(key + 1).join(' '), w.provenance.mask),
    )
}

/** The key of all servers of a protocol that state none of their own; read when all servers are known. */
function sharedKey(w: Writer<System>, statement: Statement, kept: ReturnType<typeof secret>): void {
  const protocol = statement.command.first.replace('-server', '')
  w.at('aaa').presume('sharedKeys', [
    ...w.target.aaa.sharedKeys.filter((one) => one.protocol !== protocol),
    { protocol, secret: kept },
  ])
}

export const AAA_SERVER = new MappingTable<System['aaa']['servers'][number]>(
  [
    ['address {ipv4|ipv6} <address> ...', (w, b) => w.set('address', b.text('address'))],
    [
      'key <form:int> <secret...>',
      (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
    ],
    ['key <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.provenance.mask))],
  ],
  AAA_HARMLESS,
)

export const AAA_GROUP = new MappingTable<System['aaa']['groups'][number]>(
  [
    [['server name <name>', 'server <name> ...'], (w, b) => w.push('servers', b.text('name'))],
    [
      ['ip tacacs source-interface <source>', 'ip radius source-interface <source>'],
      (w, b) => w.set('source', b.text('source')),
    ],
    ['server-private <address> <options...>', (w, b) => w.push('servers', b.text('address'))],
    ['ip vrf forwarding <vrf>', (w, b) => w.set('vrf', b.text('vrf'))],
  ],
  AAA_HARMLESS,
)

export const ARCHIVE = new MappingTable<System>(
  [['log config', (w, _, s) => ARCHIVE_LOG.read(s.scope, w)]],
  ARCHIVE_HARMLESS,
)
/** A log of configuration commands on the device itself is accounting of its own kind. */
export const ARCHIVE_LOG = new MappingTable<System>(
  [
    [
      'logging enable',
      (w) => w.at('aaa').add('methods', { purpose: 'accounting archive', name: 'log config', methods: ['local'] }),
    ],
  ],
  ARCHIVE_HARMLESS,
)

/** `username NAME [privilege N] [algorithm-type A] {secret|password} [TYPE] TEXT`, in one line or several. */
function user(w: Writer<System>, b: Bound): void {
  const words = b.words('options')
  const entry = w.entry('users', { name: b.text('name') })
  const privilege = words.indexOf('privilege')
  if (privilege >= 0 && /^\d+$/.test(words[privilege + 1] ?? '')) entry.set('privilege', Number(words[privilege + 1]))
  const role = words.indexOf('role')
  if (role >= 0) entry.set('role', words[role + 1] ?? null)
  const at = words.findIndex((word) => word === 'secret' || word === 'password')
  if (at < 0) return
  const algorithm = words[words.indexOf('algorithm-type') + 1 || words.length]
  const typed = /^\d+$/.test(words[at + 1] ?? '') && words.length > at + 2
  const text = words.slice(at + (typed ? 2 : 1)).join(' ')
  const kept =
    algorithm === 'scrypt' || algorithm === 'sha256'
      ? secret(algorithm === 'scrypt' ? 'scrypt' : 'pbkdf2', text, w.provenance.mask)
      : secretOfType(typed ? (words[at + 1] ?? null) : null, text, w.provenance.mask)
  entry.set('secret', kept)
}

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

/** Servers that state no key of their own have that of their protocol. */
export function shareKeys(w: Writer<System>): void {
  for (const { protocol, secret: kept } of w.target.aaa.sharedKeys) {
    for (const server of w.at('aaa').every('servers', { protocol }))
      if (server.target.secret === null) server.presume('secret', kept)
  }
}

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

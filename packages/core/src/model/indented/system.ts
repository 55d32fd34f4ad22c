import type { Statement } from '../../config/index.ts'
import { communityOfHost } from '../../config/index.ts'
import { MappingTable, type Bound, type Mapping } from '../mapping.ts'
import { isDefaultCommunity, secret, secretOfType } from '../secrets.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'

export type System = DeviceModel['system']
type Services = System['services']
type Toggled = Exclude<keyof Services, 'ssh'>

/** `X` and `no X` as a service that is on or off. */
function toggles(command: string, service: keyof Services): Mapping<System>[] {
  return [
    [command, (w) => w.at('services').at(service as Toggled).set('enabled', true)],
    [`no ${command}`, (w) => w.at('services').at(service as Toggled).set('enabled', false)],
  ]
}

const IDENTITY: readonly Mapping<System>[] = [
  ['hostname <name...>', (w, b) => w.set('hostname', b.text('name').replace(/^"(.*)"$/, '$1'))],
  [['ip domain name <name>', 'ip domain-name <name>', 'domain name <name>'], (w, b) => w.set('domainName', b.text('name'))],
  [['ip name-server <hosts...>', 'name-server <hosts...>'], (w, b) => w.push('nameServers', ...b.words('hosts').filter((word) => word !== 'vrf'))],
  [['ip domain lookup', 'ip domain-lookup'], (w) => w.set('looksUpNames', true)],
  [['no ip domain lookup', 'no ip domain-lookup'], (w) => w.set('looksUpNames', false)],
  ['ip host <name> <addresses...>', (w, b) => w.add('hosts', { name: b.text('name'), addresses: b.words('addresses') })],
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
    ['ntp {server|peer} vrf <vrf> <address> <options...>', 'ntp {server|peer} vrf <vrf> <address>', 'ntp {server|peer} {ip|ipv6} <address> <options...>', 'ntp {server|peer} {ip|ipv6} <address>', 'ntp {server|peer} <address> <options...>', 'ntp {server|peer} <address>'],
    (w, b) => {
      const options = b.words('options')
      const key = options.indexOf('key')
      const number = key < 0 ? NaN : Number(options[key + 1])
      const server = w.at('ntp').entry('servers', { address: b.text('address') })
      if (b.text('vrf') !== '') server.set('vrf', b.text('vrf'))
      if (Number.isInteger(number)) server.set('key', number)
      if (options.includes('prefer')) server.set('prefer', true)
    },
  ],
  ['ntp authenticate', (w) => w.at('ntp').set('authenticate', true)],
  ['no ntp authenticate', (w) => w.at('ntp').set('authenticate', false)],
  ['ntp trusted-key <keys...>', (w, b) => w.at('ntp').push('trustedKeys', ...b.text('keys').split(/(?<!-) (?!-)/))],
  ['ntp authentication-key <id:int> <algorithm> <secret> <form>', (w, b) => ntpKey(w, b, b.text('form'))],
  ['ntp authentication-key <id:int> <algorithm> <secret>', (w, b) => ntpKey(w, b, null)],
  [['ntp source <interface>', 'ntp source-interface <interface>'], (w, b) => w.at('ntp').set('source', b.text('interface'))],
]

function ntpKey(w: Writer<System>, b: Bound, type: string | null): void {
  w.at('ntp').entry('keys', { id: b.number('id') }).set('algorithm', b.text('algorithm')).set('secret', secret(type === '7' ? 'reversible' : 'clear', b.text('secret'), w.sheet.mask))
}

const LOGGING: readonly Mapping<System>[] = [
  [
    ['logging host {ip|ipv6} <address> <options...>', 'logging host {ip|ipv6} <address>', 'logging host <address> <options...>', 'logging host <address>'],
    (w, b) => {
      const options = b.words('options')
      const after = (word: string): string | null => options[options.indexOf(word) + 1 || options.length] ?? null
      const host = w.at('logging').entry('hosts', { address: b.text('address') })
      if (after('vrf') !== null) host.set('vrf', after('vrf'))
      if (after('transport') !== null) host.set('protocol', after('transport'))
      if (after('port') !== null) host.set('port', Number(after('port')))
    },
  ],
  ['logging on', (w) => w.at('logging').set('enabled', true)],
  ['no logging on', (w) => w.at('logging').set('enabled', false)],
  ['logging source-interface <interface> ...', (w, b) => w.at('logging').set('source', b.text('interface'))],
  [['logging buffered <size...>', 'logging file <size...>', 'log file <size...>', 'log syslog <size...>'], (w, b) => w.at('logging').set('buffered', b.text('size'))],
  ['service timestamps log <options...>', (w, b) => w.at('logging').set('timestamps', b.text('options'))],
]

const SNMP: readonly Mapping<System>[] = [
  [
    ['snmp-server community <community> <options...>', 'snmp-server community <community>'],
    (w, b) => {
      const words = b.words('options')
      const access = words.find((word) => /^(?:ro|rw)$/i.test(word)) ?? null
      const last = words.at(-1)
      const community = b.text('community').replace(/^"(.*)"$/, '$1')
      const entry = w.at('snmp').add('communities', { secret: secret('clear', community, w.sheet.mask), name: w.sheet.mask(community), isDefault: isDefaultCommunity(community) })
      if (access !== null) entry.set('access', access.toLowerCase())
      if (last !== undefined && !/^(?:ro|rw)$/i.test(last)) entry.set('accessList', last)
    },
  ],
  ['snmp-server group <name> v3 <level> ...', (w, b) => w.at('snmp').add('groups', { name: b.text('name'), version: '3', level: b.text('level') })],
  ['snmp-server group <name> <version> ...', (w, b) => w.at('snmp').add('groups', { name: b.text('name'), version: b.text('version').replace(/^v/, '') })],
  [
    'snmp-server user <name> <group> <options...>',
    (w, b) => {
      const words = b.words('options')
      const auth = words.indexOf('auth')
      const priv = words.indexOf('priv')
      w.at('snmp').add('users', { name: b.text('name'), group: b.text('group'), authentication: auth < 0 ? null : (words[auth + 1] ?? null), privacy: priv < 0 ? null : words.slice(priv + 1, priv + (/^\d+$/.test(words[priv + 2] ?? '') ? 3 : 2)).join(' ') })
    },
  ],
  ['snmp-server host <address> <options...>', (w, b, s) => trapHost(w, b, s)],
  [['snmp-server trap-source <interface>', 'snmp-server source-interface traps <interface>'], (w, b) => w.at('snmp').set('source', b.text('interface'))],
  ['snmp-server contact <text...>', (w, b) => w.at('snmp').set('contact', b.text('text'))],
  ['snmp-server location <text...>', (w, b) => w.at('snmp').set('location', b.text('text'))],
]

function trapHost(w: Writer<System>, b: Bound, statement: Statement): void {
  const words = statement.command.lowerWords
  const at = words.indexOf('version')
  const version = at < 0 ? '1' : (words[at + 1] ?? '1')
  const level = version === '3' ? (words[at + 2] ?? null) : null
  const community = communityOfHost(words)
  w.at('snmp').add('hosts', { address: b.text('address'), version, level: level !== null && /^(?:auth|noauth|priv)$/.test(level) ? level : null })
  const name = community === null ? undefined : statement.command.words[community]
  if (name !== undefined && isDefaultCommunity(name) && version !== '3') w.at('snmp').add('communities', { secret: secret('clear', name, w.sheet.mask), name: w.sheet.mask(name), access: 'trap', isDefault: true })
}

const SERVICES: readonly Mapping<System>[] = [
  ...toggles('ip http server', 'http'),
  ...toggles('ip http secure-server', 'https'),
  ['ip http authentication <method...>', (w, b) => void [w.at('services').at('http').set('authentication', b.text('method')), w.at('services').at('https').set('authentication', b.text('method'))]],
  [['ip http access-class ipv4 <acl>', 'ip http access-class <acl>'], (w, b) => void [w.at('services').at('http').set('accessList', b.text('acl')), w.at('services').at('https').set('accessList', b.text('acl'))]],
  ...toggles('ip bootp server', 'bootp'),
  ['ip dhcp bootp ignore', (w) => w.at('services').at('bootp').set('enabled', false)],
  ...toggles('ip rcmd rsh-enable', 'rsh'),
  ...toggles('ip rcmd rcp-enable', 'rcp'),
  [['ip routing', 'ip forwarding'], (w) => w.set('forwards', true)],
  [['no ip routing', 'no ip forwarding'], (w) => w.set('forwards', false)],
  ...toggles('ip source-route', 'sourceRouting'),
  ...toggles('ip finger', 'finger'),
  ...toggles('service finger', 'finger'),
  ...toggles('service tcp-small-servers', 'smallServers'),
  ...toggles('service udp-small-servers', 'smallServers'),
  ...toggles('service password-encryption', 'passwordEncryption'),
  ...toggles('lldp run', 'lldp'),
  ['netconf-yang', (w) => w.at('services').at('netconf').set('enabled', true)],
  ['no netconf-yang', (w) => w.at('services').at('netconf').set('enabled', false)],
  [['ftp-server enable', 'ip ftp server'], (w) => w.at('services').at('ftp').set('enabled', true)],
  ['tftp-server <what...>', (w) => w.at('services').at('tftp').set('enabled', true)],
  ['ip ssh server algorithm encryption <names...>', (w, b) => w.at('services').at('ssh').push('ciphers', ...b.words('names'))],
  ['ip ssh server algorithm mac <names...>', (w, b) => w.at('services').at('ssh').push('macs', ...b.words('names'))],
  ['ip ssh server algorithm kex <names...>', (w, b) => w.at('services').at('ssh').push('keyExchange', ...b.words('names'))],
  ['ip ssh server algorithm hostkey <names...>', (w, b) => w.at('services').at('ssh').push('hostKeys', ...b.words('names'))],
  ['ip http tls-version <versions...>', (w, b) => w.at('services').at('https').push('tlsVersions', ...b.words('versions'))],
  ['ip http secure-ciphersuite <names...>', (w, b) => w.at('services').at('https').push('ciphers', ...b.words('names'))],
  ['ip ssh version <version>', (w, b) => w.at('services').at('ssh').set('version', b.text('version'))],
  ['ip ssh time-out <seconds:int>', (w, b) => w.at('services').at('ssh').set('timeoutSeconds', b.number('seconds'))],
  ['ip ssh authentication-retries <retries:int>', (w, b) => w.at('services').at('ssh').set('retries', b.number('retries'))],
]

const ACCESS: readonly Mapping<System>[] = [
  ['aaa new-model', (w) => w.at('aaa').set('enabled', true)],
  ['no aaa new-model', (w) => w.at('aaa').set('enabled', false)],
  ['aaa {authentication|authorization|accounting} <purpose> <name> <methods...>', (w, b, s) => w.at('aaa').add('methods', { purpose: `${s.command.lowerWords[1] ?? ''} ${b.text('purpose')}`, name: b.text('name'), methods: b.words('methods') })],
  ['aaa local authentication attempts max-fail <attempts:int>', (w, b) => w.at('lockout').set('attempts', b.number('attempts')).set('untilUnlocked', true)],
  ['login block-for <lock:int> attempts <attempts:int> within <window:int>', (w, b) => w.at('lockout').set('attempts', b.number('attempts')).set('lockSeconds', b.number('lock')).set('windowSeconds', b.number('window'))],
  [['tacacs server <name>', 'radius server <name>'], (w, b, s) => AAA_SERVER.read(s.scope, w.at('aaa').entry('servers', { protocol: s.command.first, name: b.text('name') }))],
  ['aaa group server <protocol> <name>', (w, b, s) => AAA_GROUP.read(s.scope, w.at('aaa').entry('groups', { name: b.text('name'), protocol: b.text('protocol') }))],
  ['ip {tacacs|radius} source-interface <interface> ...', (w, b, s) => w.at('aaa').add('sources', { protocol: s.command.lowerWords[1] ?? '', interface: b.text('interface') })],
  ['archive', (w, _, s) => ARCHIVE.read(s.scope, w)],
  ['tacacs-server host <address> ...', (w, b) => w.at('aaa').add('servers', { protocol: 'tacacs', name: b.text('address'), address: b.text('address') })],
  ['enable secret level * <form:int> <secret...>', (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.sheet.mask))],
  ['enable {secret|password} <form:int> <secret...>', (w, b) => w.set('enableSecret', secretOfType(b.text('form'), b.text('secret'), w.sheet.mask))],
  ['enable algorithm-type <algorithm> secret <secret...>', (w, b) => w.set('enableSecret', secret(b.text('algorithm') === 'scrypt' ? 'scrypt' : 'pbkdf2', b.text('secret'), w.sheet.mask))],
  ['enable {secret|password} <secret...>', (w, b) => w.set('enableSecret', secretOfType(null, b.text('secret'), w.sheet.mask))],
  ['username <name> <options...>', (w, b) => user(w, b)],
  ['username <name>', (w, b) => w.entry('users', { name: b.text('name') })],
]

const AAA_SERVER = new MappingTable<System['aaa']['servers'][number]>([
  ['address {ipv4|ipv6} <address> ...', (w, b) => w.set('address', b.text('address'))],
  ['key <form:int> <secret...>', (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.sheet.mask))],
  ['key <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.sheet.mask))],
], ['timeout ...', 'single-connection', 'port ...', 'retransmit ...'])

const AAA_GROUP = new MappingTable<System['aaa']['groups'][number]>([
  [['server name <name>', 'server <name> ...'], (w, b) => w.push('servers', b.text('name'))],
  [['ip tacacs source-interface <source>', 'ip radius source-interface <source>'], (w, b) => w.set('source', b.text('source'))],
], ['deadtime ...'])

const ARCHIVE = new MappingTable<System>([['log config', (w, _, s) => ARCHIVE_LOG.read(s.scope, w)]], ['path ...', 'maximum ...', 'write-memory', 'time-period ...'])
const ARCHIVE_LOG = new MappingTable<System>([], ['logging enable', 'logging size ...', 'notify ...', 'hidekeys', 'record ...'])

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
  const kept = algorithm === 'scrypt' || algorithm === 'sha256' ? secret(algorithm === 'scrypt' ? 'scrypt' : 'pbkdf2', text, w.sheet.mask) : secretOfType(typed ? (words[at + 1] ?? null) : null, text, w.sheet.mask)
  entry.set('secret', kept)
}

/** Known, and nothing that the model holds. */
const NOTED: readonly string[] = ['boot-start-marker', 'boot-end-marker', 'service timestamps debug ...', 'no service pad', 'ip cef', 'ip classless', 'ip subnet-zero', 'ipv6 unicast-routing', 'ip forward-protocol ...', 'spanning-tree ...', 'vtp ...', 'logging trap ...', 'logging console ...', 'logging monitor ...', 'logging facility ...', 'no logging console', 'service tcp-keepalives-in', 'service tcp-keepalives-out', 'service sequence-numbers', 'snmp-server enable ...', 'snmp-server view ...', 'snmp-server ifindex ...', 'aaa session-id ...', 'login on-success ...', 'login on-failure ...', 'login delay ...', 'ip ssh source-interface ...', 'ip ssh dh ...', 'ip ssh logging ...', 'ip ssh rsa ...', 'ip http secure-trustpoint ...', 'ip http secure-port ...', 'ip http port ...', 'ip http max-connections ...', 'ip http timeout-policy ...', 'clock summer-time ...', 'no cdp run', 'cdp run', 'ip multicast-routing ...', 'errdisable ...', 'control-plane', 'redundancy', 'mode ...', 'license ...', 'memory-size ...', 'hw-module ...', 'switch ...', 'system mtu ...', 'ip tcp ...', 'ip icmp ...', 'no ip gratuitous-arps', 'frr defaults ...', 'service integrated-vtysh-config', 'no ipv6 forwarding', 'ipv6 forwarding', 'log ...', 'password encryption ...', 'aaa authorization console', 'login quiet-mode ...', 'ip dhcp snooping ...', 'no ip dhcp snooping ...', 'ip arp inspection ...', 'vlan internal ...', 'memory ...', 'ipv6 cef']

export const SYSTEM = new MappingTable<System>([...IDENTITY, ...TIME, ...LOGGING, ...SNMP, ...SERVICES, ...ACCESS], NOTED)

type Terminal = System['terminals'][number]

const TERMINAL = new MappingTable<Terminal>(
  [
    ['transport input <methods...>', (w, b) => w.set('protocols', b.words('methods'))],
    ['exec-timeout <minutes:int> <seconds:int>', (w, b) => w.set('idleSeconds', b.number('minutes') * 60 + b.number('seconds'))],
    ['exec-timeout <minutes:int>', (w, b) => w.set('idleSeconds', b.number('minutes') * 60)],
    ['no exec-timeout ...', (w) => w.set('idleSeconds', 0)],
    [['access-class <acl> in ...', 'ip access-class <acl> in ...'], (w, b) => w.set('accessList4', b.text('acl'))],
    ['ipv6 access-class <acl> in ...', (w, b) => w.set('accessList6', b.text('acl'))],
    ['login <how...>', (w, b) => w.set('login', b.text('how'))],
    ['login', (w) => w.set('login', 'password')],
    ['no login', (w) => w.set('login', 'none')],
    ['password <form:int> <secret...>', (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.sheet.mask))],
    ['password <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.sheet.mask))],
  ],
  ['logging synchronous ...', 'stopbits ...', 'transport output ...', 'transport preferred ...', 'privilege ...', 'length ...', 'width ...', 'session-timeout ...', 'no exec', 'exec', 'authorization ...', 'accounting ...', 'history ...'],
)

/** `line con 0` and its like, as a terminal. */
export function readTerminal(write: Writer<System>, statement: Statement): void {
  const word = statement.command.lowerWords[1] ?? ''
  const kind = word.startsWith('con') ? 'console' : word === 'aux' ? 'auxiliary' : 'remote'
  TERMINAL.read(statement.scope, write.entry('terminals', { name: statement.text.slice('line '.length), kind }))
}

import { Bound, MappingTable, type Mapping } from '../mapping.ts'
import { isDefaultCommunity, secret, secretOfHierarchy } from '../secrets.ts'
import type { Writer } from '../writer.ts'
import type { System } from '../indented/system.ts'

type Services = System['services']
type Service = Exclude<keyof Services, 'ssh'>

/** A service is on where its path is stated, alone or with settings beneath it. */
function service(path: string, field: keyof Services): Mapping<System>[] {
  return [[[path, `${path} ...`], (w) => w.at('services').at(field as Service).set('enabled', true)]]
}

function on(w: Writer<System>, field: keyof Services): void {
  w.at('services').at(field as Service).set('enabled', true)
}

const BASICS: readonly Mapping<System>[] = [
  ['version <version>', (w, b) => w.set('version', b.text('version'))],
  ['system host-name <name>', (w, b) => w.set('hostname', b.text('name'))],
  ['system domain-name <name>', (w, b) => w.set('domainName', b.text('name'))],
  ['system time-zone <zone>', (w, b) => w.set('timeZone', b.text('zone'))],
  [['system name-server <address>', 'system name-server <address> ...'], (w, b) => w.push('nameServers', b.text('address'))],
  ['system static-host-mapping <name> {inet|inet6} <address>', (w, b) => w.entry('hosts', { name: b.text('name') }).push('addresses', b.text('address'))],
  ['system login message <text...>', (w, b) => w.at('banners').set('login', b.text('text'))],
  ['system login announcement <text...>', (w, b) => w.at('banners').set('motd', b.text('text'))],
  ['system login retry-options tries-before-disconnect <attempts:int>', (w, b) => w.at('lockout').set('attempts', b.number('attempts'))],
  ['system login retry-options lockout-period <minutes:int>', (w, b) => w.at('lockout').set('lockSeconds', b.number('minutes') * 60)],
  ['system login idle-timeout <minutes:int>', (w, b) => terminal(w).set('idleSeconds', b.number('minutes') * 60)],
  ['system login class <name> idle-timeout <minutes:int>', (w, b) => w.entry('terminals', { name: `class ${b.text('name')}`, kind: 'remote' }).set('idleSeconds', b.number('minutes') * 60)],
  ['system root-authentication encrypted-password <secret>', (w, b) => w.set('enableSecret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  ['system root-authentication plain-text-password-value <secret>', (w, b) => w.set('enableSecret', secret('clear', b.text('secret'), w.sheet.mask))],
  ['system login user <name> class <role>', (w, b) => w.entry('users', { name: b.text('name') }).set('role', b.text('role'))],
  ['system login user <name> authentication encrypted-password <secret>', (w, b) => w.entry('users', { name: b.text('name') }).set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  ['system login user <name> authentication plain-text-password-value <secret>', (w, b) => w.entry('users', { name: b.text('name') }).set('secret', secret('clear', b.text('secret'), w.sheet.mask))],
  ['system login user <name> authentication {ssh-rsa|ssh-dsa|ssh-ecdsa|ssh-ed25519} ...', (w, b) => addKey(w, b)],
  [['system login user <name>', 'system login user <name> {uid|full-name} ...'], (w, b) => w.entry('users', { name: b.text('name') })],
]

function terminal(w: Writer<System>): Writer<System['terminals'][number]> {
  return w.entry('terminals', { name: 'all', kind: 'remote' })
}

function addKey(w: Writer<System>, b: Bound): void {
  const user = w.entry('users', { name: b.text('name') })
  user.set('keys', user.target.keys + 1)
}

const TIME: readonly Mapping<System>[] = [
  ['system ntp server <address> key <key:int>', (w, b) => w.at('ntp').entry('servers', { address: b.text('address') }).set('key', b.number('key'))],
  ['system ntp server <address> prefer', (w, b) => w.at('ntp').entry('servers', { address: b.text('address') }).set('prefer', true)],
  [['system ntp server <address>', 'system ntp server <address> ...'], (w, b) => w.at('ntp').entry('servers', { address: b.text('address') })],
  ['system ntp authentication-key <id:int> type <algorithm>', (w, b) => w.at('ntp').entry('keys', { id: b.number('id') }).set('algorithm', b.text('algorithm'))],
  ['system ntp authentication-key <id:int> value <secret>', (w, b) => w.at('ntp').entry('keys', { id: b.number('id') }).set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  ['system ntp trusted-key <key>', (w, b) => w.at('ntp').set('authenticate', true).push('trustedKeys', b.text('key'))],
  ['system ntp source-address <address> ...', (w, b) => w.at('ntp').set('source', b.text('address'))],
]

const LOGGING: readonly Mapping<System>[] = [
  ['system syslog host <address> port <port:int>', (w, b) => logHost(w, b).set('port', b.number('port'))],
  ['system syslog host <address> transport <protocol>', (w, b) => logHost(w, b).set('protocol', b.text('protocol'))],
  ['system syslog host <address> any <severity>', (w, b) => logHost(w, b).set('severity', b.text('severity'))],
  ['system syslog host <address> <facility> <severity>', (w, b) => void logHost(w, b)],
  [['system syslog host <address>', 'system syslog host <address> ...'], (w, b) => void logHost(w, b)],
  ['system syslog file <name> ...', (w, b) => w.at('logging').set('buffered', b.text('name'))],
  ['system syslog time-format <options...>', (w, b) => w.at('logging').set('timestamps', [w.target.logging.timestamps, b.text('options')].filter(Boolean).join(' '))],
  ['system syslog source-address <address>', (w, b) => w.at('logging').set('source', b.text('address'))],
]

/** `host other-routing-engine` and `host-override` aside, a host is an address or a name. */
function logHost(w: Writer<System>, b: Bound): Writer<System['logging']['hosts'][number]> {
  return w.at('logging').entry('hosts', { address: b.text('address') })
}

const SNMP: readonly Mapping<System>[] = [
  ['snmp community <name> authorization <access>', (w, b) => community(w, b).set('access', b.text('access') === 'read-write' ? 'rw' : 'ro')],
  ['snmp community <name> client-list-name <acl>', (w, b) => community(w, b).set('accessList', b.text('acl'))],
  [['snmp community <name>', 'snmp community <name> ...'], (w, b) => void community(w, b)],
  ['snmp v3 vacm access group <name> default-context-prefix security-model <model> security-level <level> ...', (w, b) => w.at('snmp').entry('groups', { name: b.text('name'), version: b.text('model') === 'usm' ? '3' : b.text('model').replace(/^v/, '') }).set('level', LEVELS[b.text('level')] ?? b.text('level'))],
  ['snmp v3 usm local-engine user <name> <option> ...', (w, b) => usmUser(w, b)],
  ['snmp trap-group <name> targets <address>', (w, b) => w.at('snmp').entry('hosts', { address: b.text('address') }).presume('version', '2c')],
  ['snmp trap-group <name> version <version>', (w, b) => trapVersion(w, b)],
  ['snmp contact <text...>', (w, b) => w.at('snmp').set('contact', b.text('text'))],
  ['snmp location <text...>', (w, b) => w.at('snmp').set('location', b.text('text'))],
]

const LEVELS: Readonly<Record<string, string>> = { privacy: 'priv', authentication: 'auth', none: 'noauth' }

function community(w: Writer<System>, b: Bound): Writer<System['snmp']['communities'][number]> {
  const name = w.sheet.mask(b.text('name'))
  const entry = w.at('snmp').entry('communities', { name })
  entry.target.secret = secret('clear', b.text('name'), w.sheet.mask)
  entry.target.isDefault = isDefaultCommunity(b.text('name'))
  return entry
}

function usmUser(w: Writer<System>, b: Bound): void {
  const user = w.at('snmp').entry('users', { name: b.text('name') })
  const option = b.text('option')
  if (option.startsWith('authentication-') && option !== 'authentication-none') user.set('authentication', option.slice('authentication-'.length))
  if (option.startsWith('privacy-') && option !== 'privacy-none') user.set('privacy', option.slice('privacy-'.length))
}

function trapVersion(w: Writer<System>, b: Bound): void {
  w.at('snmp').target.hosts.forEach((host) => {
    host.version = b.text('version').replace(/^v/, '')
  })
}

const SERVICES: readonly Mapping<System>[] = [
  ['system services ssh protocol-version <version>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').set('version', b.text('version').replace(/^v/, ''))]],
  ['system services ssh ciphers <name>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('ciphers', b.text('name'))]],
  ['system services ssh macs <name>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('macs', b.text('name'))]],
  ['system services ssh key-exchange <name>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('keyExchange', b.text('name'))]],
  ['system services ssh hostkey-algorithm <name>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').push('hostKeys', b.text('name'))]],
  ['system services ssh root-login <how>', (w, b) => void [on(w, 'ssh'), w.at('services').at('ssh').set('rootLogin', b.text('how'))]],
  ...service('system services ssh', 'ssh'),
  ...service('system services telnet', 'telnet'),
  ...service('system services ftp', 'ftp'),
  ...service('system services finger', 'finger'),
  ...service('system services netconf', 'netconf'),
  ...service('system services web-management http', 'http'),
  ...service('system services web-management https', 'https'),
  ...service('system services tftp-server', 'tftp'),
  ...service('protocols lldp', 'lldp'),
  ...service('forwarding-options helpers bootp', 'bootp'),
  [['routing-options source-routing', 'routing-options source-routing ...'], (w) => on(w, 'sourceRouting')],
]

const AAA: readonly Mapping<System>[] = [
  ['system authentication-order <method>', (w, b) => order(w, b)],
  [['system tacplus-server <address> secret <secret>'], (w, b) => w.at('aaa').set('enabled', true).entry('servers', { protocol: 'tacacs', name: b.text('address') }).set('address', b.text('address')).set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  [['system radius-server <address> secret <secret>'], (w, b) => w.at('aaa').set('enabled', true).entry('servers', { protocol: 'radius', name: b.text('address') }).set('address', b.text('address')).set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  [['system tacplus-server <address> ...'], (w, b) => w.at('aaa').entry('servers', { protocol: 'tacacs', name: b.text('address') }).set('address', b.text('address'))],
  [['system radius-server <address> ...'], (w, b) => w.at('aaa').entry('servers', { protocol: 'radius', name: b.text('address') }).set('address', b.text('address'))],
]

/** The order of methods is the login list that all use. */
function order(w: Writer<System>, b: Bound): void {
  const methods: Readonly<Record<string, string>> = { password: 'local', tacplus: 'group tacacs+', radius: 'group radius' }
  w.at('aaa').set('enabled', true).entry('methods', { purpose: 'authentication login', name: 'default' }).push('methods', ...(methods[b.text('method')] ?? b.text('method')).split(' '))
}

const NOTED = ['system processes ...', 'system syslog user ...', 'system syslog console ...', 'system syslog archive ...', 'system archival ...', 'system max-configurations-on-flash ...', 'system max-configuration-rollbacks ...', 'system commit ...', 'system no-redirects ...', 'system ports ...', 'system internet-options ...', 'system arp ...', 'system accounting ...', 'system license ...', 'system autoinstallation ...', 'system extensions ...', 'chassis ...']

export const SYSTEM = new MappingTable<System>([...BASICS, ...TIME, ...LOGGING, ...SNMP, ...SERVICES, ...AAA], NOTED)

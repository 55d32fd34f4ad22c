/** The device as a whole: names, time, logs, SNMP, users, and the services by which it is managed. */
import { ignored, type Bound, type Mapping } from '../../../model/mapping.ts'
import { isDefaultCommunity, secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { inSlot, isOn, valuesOf } from './parts.ts'

type System = DeviceModel['system']
const system = (w: Writer<DeviceModel>): Writer<System> => w.at('system')

const GLOBAL: readonly Mapping<DeviceModel>[] = valuesOf(
  'config system global',
  system,
  {
    hostname: (w, values) => w.set('hostname', values.join(' ')),
    timezone: (w, values) => w.set('timeZone', values.join(' ')),
    admintimeout: (w, [value]) =>
      w.add('terminals', { name: 'administration', kind: 'remote', idleSeconds: Number(value) * 60 }),
    'admin-lockout-threshold': (w, [value]) => w.at('lockout').set('attempts', Number(value)),
    'admin-lockout-duration': (w, [value]) => w.at('lockout').set('lockSeconds', Number(value)),
    'admin-telnet': (w, values) => w.at('services').at('telnet').set('enabled', isOn(values)),
    'admin-ssh-v1': (w, values) =>
      w
        .at('services')
        .at('ssh')
        .set('version', isOn(values) ? '1' : '2'),
    'ssh-enc-algo': (w, values) =>
      w
        .at('services')
        .at('ssh')
        .push('ciphers', ...values),
    'ssh-mac-algo': (w, values) =>
      w
        .at('services')
        .at('ssh')
        .push('macs', ...values),
    'ssh-kex-algo': (w, values) =>
      w
        .at('services')
        .at('ssh')
        .push('keyExchange', ...values),
    'ssh-hostkey-algo': (w, values) =>
      w
        .at('services')
        .at('ssh')
        .push('hostKeys', ...values),
    'admin-ssh-grace-time': (w, [value]) => w.at('services').at('ssh').set('timeoutSeconds', Number(value)),
    'admin-https-ssl-versions': (w, values) =>
      w
        .at('services')
        .at('https')
        .push('tlsVersions', ...values),
    'admin-https-ssl-ciphersuites': (w, values) =>
      w
        .at('services')
        .at('https')
        .push('ciphers', ...values),
    'ip-src-route': (w, values) => w.at('services').at('sourceRouting').set('enabled', isOn(values)),
    'lldp-transmission': (w, values) => w.set('lldpOnAll', isOn(values)),
  },
  `alias admin-sport admin-port admin-ssh-port admin-telnet-port admin-https-redirect admin-scp admin-concurrent
   admin-maintainer admin-server-cert admin-console-timeout gui-theme gui-ipv6 gui-certificates gui-device-latitude
   gui-device-longitude language vdom-mode cfg-save switch-controller strong-crypto ssl-static-key-ciphers dh-params
   daily-restart revision-backup-on-logout refresh tcp-halfclose-timer udp-idle-timer pre-login-banner post-login-banner`,
)

const DNS: readonly Mapping<DeviceModel>[] = valuesOf(
  'config system dns',
  system,
  {
    primary: (w, [value = '']) => w.push('nameServers', value),
    secondary: (w, [value = '']) => w.push('nameServers', value),
    'alt-primary': (w, [value = '']) => w.push('nameServers', value),
    'alt-secondary': (w, [value = '']) => w.push('nameServers', value),
    domain: (w, [value = '']) => w.set('domainName', value),
  },
  'protocol cache-notfound-responses dns-cache-limit dns-cache-ttl timeout retry source-ip interface interface-select-method server-hostname',
)

const NTP: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config system ntp',
    (w) => system(w).at('ntp'),
    {
      ntpsync: (w, values) => w.set('enabled', isOn(values)),
      'source-ip': (w, [value = '']) => w.set('source', value),
      authentication: (w, values) => w.set('authenticate', isOn(values)),
    },
    'type syncinterval server-mode interface',
  ),
  [
    'config system ntp config ntpserver edit <id> set server <address>',
    (w, b) => timeServer(w, b).set('address', b.text('address')),
  ],
  [
    'config system ntp config ntpserver edit <id> set key-id <key:int>',
    (w, b) => {
      timeServer(w, b).set('key', b.number('key'))
      system(w).at('ntp').push('trustedKeys', b.text('key'))
    },
  ],
  [
    'config system ntp config ntpserver edit <id> set key ...',
    (w, b, s) =>
      void system(w)
        .at('ntp')
        .entry('keys', { id: Number(b.text('id')) })
        .set('secret', secret('reversible', s.command.words.at(-1) ?? '', w.provenance.mask)),
  ],
  [
    'config system ntp config ntpserver edit <id> set key-type <kind>',
    (w, b) =>
      void system(w)
        .at('ntp')
        .entry('keys', { id: Number(b.text('id')) })
        .set('algorithm', b.text('kind').toLowerCase()),
  ],
  [
    'config system ntp config ntpserver edit <id> set authentication enable',
    (w) => system(w).at('ntp').set('authenticate', true),
  ],
  [
    'config system ntp config ntpserver edit <id> set {ntpv3|interface-select-method|authentication} ...',
    () => ignored(),
  ],
]

function timeServer(w: Writer<DeviceModel>, b: Bound): Writer<System['ntp']['servers'][number]> {
  const ntp = system(w).at('ntp')
  return inSlot(w, `time server ${b.text('id')}`, {
    find: (place) => ntp.more('servers', place),
    add: () => ntp.add('servers', { address: '', prefer: false }),
    length: ntp.target.servers.length,
  })
}

const LOGGING: readonly Mapping<DeviceModel>[] = [
  ...['', '2', '3', '4'].flatMap((number): Mapping<DeviceModel>[] => {
    const block = `config log syslogd${number} setting`
    const host = (w: Writer<DeviceModel>): Writer<System['logging']['hosts'][number]> => {
      const logging = system(w).at('logging')
      return inSlot(w, block, {
        find: (place) => logging.more('hosts', place),
        add: () => logging.add('hosts', { address: '' }),
        length: logging.target.hosts.length,
      })
    }
    return [
      ...valuesOf(
        block,
        host,
        {
          server: (w, [value = '']) => w.set('address', value),
          'source-ip': (w, [value = '']) => w.set('source', value),
          mode: (w, [value = '']) => w.set('protocol', value === 'reliable' ? 'tcp' : value),
          port: (w, [value]) => w.set('port', Number(value)),
        },
        'facility format enc-algorithm ssl-min-proto-version certificate interface interface-select-method priority max-log-rate',
      ),
      [
        `${block} set status {enable|disable}`,
        (w, _, s) => (s.command.words.at(-1) === 'enable' ? host(w) : ignored()),
      ],
      [
        `config log syslogd${number} filter set severity <severity>`,
        (w, b) => system(w).at('logging').set('trap', b.text('severity')),
      ],
      [`config log syslogd${number} filter set * ...`, () => ignored()],
    ]
  }),
  [
    'config log memory setting set status <flag>',
    (w, b) =>
      system(w)
        .at('logging')
        .set('buffered', b.text('flag') === 'enable' ? 'memory' : null),
  ],
  [
    'config log disk setting set status <flag>',
    (w, b) => (b.text('flag') === 'enable' ? system(w).at('logging').entry('files', { name: 'disk' }) : ignored()),
  ],
  [
    'config log eventfilter set {event|system|user} <flag>',
    (w, b) =>
      b.text('flag') === 'enable'
        ? system(w).at('logging').set('successfulLogins', true).set('failedLogins', true)
        : system(w).at('logging').set('successfulLogins', false).set('failedLogins', false),
  ],
  ['config log eventfilter set ...', () => ignored()],
]

type Community = System['snmp']['communities'][number]

function community(w: Writer<DeviceModel>, b: Bound): Writer<Community> {
  const snmp = system(w).at('snmp')
  return inSlot(w, `community ${b.text('id')}`, {
    find: (place) => snmp.more('communities', place),
    // Nothing is written by SNMP there (common practice).
    add: () =>
      snmp.add('communities', {
        name: `community ${b.text('id')}`,
        access: 'ro',
        isDefault: false,
        secret: secret('clear', '', w.provenance.mask),
      }),
    length: snmp.target.communities.length,
  })
}

const SNMP: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config system snmp sysinfo',
    (w) => system(w).at('snmp'),
    {
      contact: (w, values) => w.set('contact', values.join(' ')),
      'contact-info': (w, values) => w.set('contact', values.join(' ')),
      location: (w, values) => w.set('location', values.join(' ')),
    },
    'status description engine-id trap-high-cpu-threshold trap-low-memory-threshold trap-log-full-threshold',
  ),
  [
    'config system snmp community edit <id> set name ...',
    (w, b, s) => {
      const text = s.command.words.at(-1) ?? ''
      return community(w, b)
        .set('secret', secret('clear', text, w.provenance.mask))
        .set('isDefault', isDefaultCommunity(text))
    },
  ],
  [
    'config system snmp community edit <id> config {hosts|hosts6} edit <host> set ip ...',
    (w, b, s) => {
      const [address = '', mask] = s.command.words.slice(s.command.words.indexOf('ip') + 1)
      const length = mask === '255.255.255.255' ? '/32' : mask === undefined ? '' : ` ${mask}`
      community(w, b).push('clients', `${address}${length}`)
    },
  ],
  ['config system snmp community edit <id> ...', (w, b) => community(w, b)],
  ...valuesOf(
    'config system snmp user edit <name>',
    (w, b) => {
      const snmp = system(w).at('snmp')
      return snmp.entry('users', { name: b.text('name') })
    },
    {
      'auth-proto': (w, [value = '']) => w.set('authentication', value),
      'priv-proto': (w, [value = '']) => w.set('privacy', value),
      'security-level': (w, [value = '']) => w.set('group', value),
    },
    'auth-pwd priv-pwd notify-hosts queries query-port trap-status events status source-ip ha-direct',
  ),
]

type User = System['users'][number]

function user(w: Writer<DeviceModel>, b: Bound): Writer<User> {
  return system(w).entry('users', { name: b.text('name') })
}

/** What stands before a secret says how it is kept (common practice). */
function kept(values: readonly string[]): 'clear' | 'sha256' | 'pbkdf2' | 'reversible' {
  const [form, text = form ?? ''] = values
  if (values.length < 2) return 'clear'
  if (form === 'PBKDF2' || text.startsWith('PB2')) return 'pbkdf2'
  return text.startsWith('SH2') || text.startsWith('AK1') ? 'sha256' : 'reversible'
}

const USERS: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config system admin edit <name>',
    user,
    {
      accprofile: (w, [value = '']) => w.set('role', value),
      password: (w, values) => w.set('secret', secret(kept(values), values.at(-1) ?? '', w.provenance.mask)),
      'ssh-public-key1': (w) => w.set('keys', Math.max(1, w.target.keys)),
      'ssh-public-key2': (w) => w.set('keys', Math.max(2, w.target.keys)),
    },
    `vdom trusthost1 trusthost2 trusthost3 trusthost4 trusthost5 trusthost6 ip6-trusthost1 comments email-to two-factor
     remote-auth remote-group wildcard accprofile-override force-password-change gui-dashboard password-expire`,
  ),
  [
    'config user {tacacs+|radius} edit <name> set server <address>',
    (w, b, s) => server(w, b, s.command.words[2] ?? '').set('address', b.text('address')),
  ],
  [
    'config user {tacacs+|radius} edit <name> set {key|secret} ...',
    (w, b, s) =>
      server(w, b, s.command.words[2] ?? '').set(
        'secret',
        secret('reversible', s.command.words.at(-1) ?? '', w.provenance.mask),
      ),
  ],
  ['config user {tacacs+|radius} edit <name> set * ...', (w, b, s) => server(w, b, s.command.words[2] ?? '')],
  [
    'config system password-policy set minimum-length <length:int>',
    (w, b) => system(w).set('passwordLength', b.number('length')),
  ],
  ['config system password-policy set * ...', () => ignored()],
]

function server(w: Writer<DeviceModel>, b: Bound, kind: string): Writer<System['aaa']['servers'][number]> {
  const protocol = kind === 'tacacs+' ? 'tacacs' : kind
  return system(w)
    .at('aaa')
    .set('enabled', true)
    .entry('servers', { protocol, name: b.text('name') })
}

const BANNERS: readonly Mapping<DeviceModel>[] = [
  [
    'config system replacemsg admin edit <which> set buffer ...',
    (w, b, s) => {
      const text = s.command.words.at(-1) ?? ''
      const banners = system(w).at('banners')
      if (/pre.?admin|pre.?login/.test(b.text('which'))) return banners.set('login', text)
      return banners.set('motd', text)
    },
  ],
  ['config system replacemsg <group> edit <which> set * ...', () => ignored()],
]

export const SYSTEM: readonly Mapping<DeviceModel>[] = [
  ...GLOBAL,
  ...DNS,
  ...NTP,
  ...LOGGING,
  ...SNMP,
  ...USERS,
  ...BANNERS,
]

/** The device as a whole: names, time, logs, users, and the services by which it is managed. */
import { ignored, type Mapping } from '../../../model/mapping.ts'
import { secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type System = DeviceModel['system']
const system = (w: Writer<DeviceModel>): Writer<System> => w.at('system')
const SYS = 'deviceconfig system'

/** Services that are on unless they are switched off, and those that are the other way round. */
const SERVICES = ['http', 'https', 'telnet', 'ssh'] as const

const PLACES = ['', 'shared ']

export const SYSTEM: readonly Mapping<DeviceModel>[] = [
  [`${SYS} hostname <name>`, (w, b) => system(w).set('hostname', b.text('name'))],
  [`${SYS} domain <name>`, (w, b) => system(w).set('domainName', b.text('name'))],
  [`${SYS} timezone <zone>`, (w, b) => system(w).set('timeZone', b.text('zone'))],
  [`${SYS} login-banner <text...>`, (w, b) => system(w).at('banners').set('login', b.text('text'))],
  [
    `${SYS} dns-setting servers {primary|secondary} <address>`,
    (w, b) => system(w).push('nameServers', b.text('address')),
  ],
  [
    `${SYS} ntp-servers {primary-ntp-server|secondary-ntp-server} ntp-server-address <address>`,
    (w, b) =>
      system(w)
        .at('ntp')
        .set('enabled', true)
        .entry('servers', { address: b.text('address') }),
  ],
  [
    `${SYS} ntp-servers {primary-ntp-server|secondary-ntp-server} authentication-type symmetric-key key-id <key:int>`,
    (w, b) => {
      const ntp = system(w).at('ntp').set('authenticate', true)
      ntp.entryAt('servers', ntp.target.servers.length - 1)?.set('key', b.number('key'))
      ntp.push('trustedKeys', b.text('key')).entry('keys', { id: b.number('key') })
    },
  ],
  [
    `${SYS} ntp-servers {primary-ntp-server|secondary-ntp-server} authentication-type symmetric-key algorithm <name> authentication-key <secret>`,
    (w, b) => {
      const ntp = system(w).at('ntp')
      ntp
        .entryAt('keys', ntp.target.keys.length - 1)
        ?.set('algorithm', b.text('name'))
        .set('secret', secret('reversible', b.text('secret'), w.provenance.mask))
    },
  ],
  [
    `${SYS} ntp-servers {primary-ntp-server|secondary-ntp-server} authentication-type none`,
    (w) => system(w).at('ntp').set('authenticate', false),
  ],
  ...SERVICES.flatMap((service): Mapping<DeviceModel>[] => [
    [
      `${SYS} service disable-${service} <flag>`,
      (w, b) =>
        system(w)
          .at('services')
          .at(service)
          .set('enabled', b.text('flag') !== 'yes'),
    ],
  ]),
  [`${SYS} service {disable-snmp|disable-icmp|disable-http-ocsp|disable-userid-service} ...`, () => ignored()],
  [
    `${SYS} permitted-ip <prefix> ...`,
    (w, b) =>
      system(w)
        .at('services')
        .at('ssh')
        .set('accessList', `permitted ${b.text('prefix')}`),
  ],
  [
    `${SYS} {ip-address|netmask|default-gateway|type|speed-duplex|mtu|panorama|geo-location|device-group} ...`,
    () => ignored(),
  ],
  [`${SYS} snmp-setting snmp-system contact <text...>`, (w, b) => system(w).at('snmp').set('contact', b.text('text'))],
  [
    `${SYS} snmp-setting snmp-system location <text...>`,
    (w, b) => system(w).at('snmp').set('location', b.text('text')),
  ],
  [
    `${SYS} snmp-setting access-setting version v2c snmp-community-string <community>`,
    (w, b) =>
      system(w)
        .at('snmp')
        .add('communities', {
          name: 'community',
          access: 'ro',
          isDefault: /^(?:public|private)$/i.test(b.text('community')),
          secret: secret('clear', b.text('community'), w.provenance.mask),
        }),
  ],
  [
    `${SYS} snmp-setting access-setting version v3 users <user> {authpwd|privpwd|view|authproto|privproto} ...`,
    (w, b) =>
      system(w)
        .at('snmp')
        .entry('users', { name: b.text('user') })
        .set('authentication', 'sha')
        .set('privacy', 'aes'),
  ],
  [
    `deviceconfig setting management idle-timeout <minutes:int>`,
    (w, b) =>
      system(w).add('terminals', { name: 'administration', kind: 'remote', idleSeconds: b.number('minutes') * 60 }),
  ],
  [
    'deviceconfig setting management admin-lockout failed-attempts <attempts:int>',
    (w, b) => system(w).at('lockout').set('attempts', b.number('attempts')),
  ],
  [
    'deviceconfig setting management admin-lockout lockout-time <minutes:int>',
    (w, b) =>
      system(w)
        .at('lockout')
        .set('lockSeconds', b.number('minutes') * 60),
  ],
  [
    'mgt-config password-complexity minimum-length <length:int>',
    (w, b) => system(w).set('passwordLength', b.number('length')),
  ],
  ['mgt-config password-complexity ...', () => ignored()],
  [
    'mgt-config users <user> phash <hash>',
    (w, b) =>
      system(w)
        .entry('users', { name: b.text('user') })
        .set('secret', hashOf(b.text('hash'), w.provenance.mask)),
  ],
  [
    'mgt-config users <user> permissions role-based <role> ...',
    (w, b) =>
      system(w)
        .entry('users', { name: b.text('user') })
        .set('role', b.text('role')),
  ],
  [
    'mgt-config users <user> public-key ...',
    (w, b) =>
      system(w)
        .entry('users', { name: b.text('user') })
        .set('keys', 1),
  ],
  [
    'mgt-config users <user> {authentication-profile|client-certificate-only|preferences} ...',
    (w, b) => system(w).entry('users', { name: b.text('user') }),
  ],
  ...PLACES.flatMap((place): Mapping<DeviceModel>[] => [
    [
      `${place}log-settings syslog <profile> server <name> server <address>`,
      (w, b) =>
        system(w)
          .at('logging')
          .entry('hosts', { address: b.text('address') }),
    ],
    [
      `${place}log-settings syslog <profile> server <name> transport <protocol>`,
      (w, b) => {
        const logging = system(w).at('logging')
        logging.entryAt('hosts', logging.target.hosts.length - 1)?.set('protocol', b.text('protocol').toLowerCase())
      },
    ],
    [`${place}log-settings syslog <profile> server <name> {port|format|facility} ...`, () => ignored()],
    [`${place}log-settings {system|config|profiles} ...`, () => ignored()],
    [
      `${place}server-profile {radius|tacplus} <profile> server <name> {ip-address|address} <address>`,
      (w, b, s) => server(w, b.text('name'), s.command.words).set('address', b.text('address')),
    ],
    [
      `${place}server-profile {radius|tacplus} <profile> server <name> secret <secret>`,
      (w, b, s) =>
        server(w, b.text('name'), s.command.words).set(
          'secret',
          secret('reversible', b.text('secret'), w.provenance.mask),
        ),
    ],
    [
      `${place}server-profile {radius|tacplus} <profile> {protocol|timeout|retries|use-single-connection} ...`,
      () => ignored(),
    ],
  ]),
]

function server(
  w: Writer<DeviceModel>,
  name: string,
  words: readonly string[],
): Writer<System['aaa']['servers'][number]> {
  const protocol = words.includes('tacplus') ? 'tacacs' : 'radius'
  return system(w).at('aaa').set('enabled', true).entry('servers', { protocol, name })
}

/** Prefixes of crypt(3) say how a password is kept. */
function hashOf(text: string, mask: (text: string) => string): NonNullable<System['users'][number]['secret']> {
  const kind = text.startsWith('$5$')
    ? 'sha256-crypt'
    : text.startsWith('$6$')
      ? 'sha512-crypt'
      : text.startsWith('$1$')
        ? 'md5-crypt'
        : 'unknown'
  return secret(kind, text, mask)
}

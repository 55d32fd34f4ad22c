/** Logging and SNMP. */
import type { Statement } from '../../../syntax/index.ts'
import { communityOfHost } from '../secrets.ts'
import { NOT_TAKEN, type Bound, type Mapping } from '../../../model/mapping.ts'
import { isDefaultCommunity, secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type System = DeviceModel['system']

export const LOGGING: readonly Mapping<System>[] = [
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

export const SNMP: readonly Mapping<System>[] = [
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

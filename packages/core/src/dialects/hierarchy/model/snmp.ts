import { Bound, NOT_TAKEN, partly, type Mapping } from '../../../model/mapping.ts'
import { isDefaultCommunity, secret } from '../../../model/secrets.ts'
import type { Writer } from '../../../model/writer.ts'
import type { System } from '../../indented/model/system.ts'

export const SNMP: readonly Mapping<System>[] = [
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

/** Zones, the policies between them, and the addresses and applications that those name. */
import { partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { portRange } from './port-range.ts'

type Application = DeviceModel['applications'][number]
type Policy = DeviceModel['zonePolicies'][number]
type Zone = DeviceModel['zones'][number]

/** What a policy says, wherever it stands. */
const POLICY: readonly (readonly [pattern: string, apply: (w: Writer<Policy>, b: Bound) => unknown])[] = [
  ['match source-address <what>', (w, b) => w.push('sources', b.text('what'))],
  ['match destination-address <what>', (w, b) => w.push('destinations', b.text('what'))],
  ['match application <what>', (w, b) => w.push('applications', b.text('what'))],
  ['match from-zone <what>', (w, b) => w.push('fromZones', b.text('what'))],
  ['match to-zone <what>', (w, b) => w.push('toZones', b.text('what'))],
  ['match <what...>', (w, b) => w.push('notWeighed', b.text('what'))],
  ['then log ...', (w) => w.set('logged', true)],
  ['then {permit|deny|reject}', (w, b) => w.set('action', b.text('action'))],
  // What is permitted is looked at further, and may still be dropped; or it goes into a tunnel.
  ['then permit <what...>', (w, b) => w.set('action', 'permit').push('notWeighed', `permit ${b.text('what')}`)],
  ['then <what...>', (w, b) => partly(w.set('action', b.text('what')))],
  ['scheduler-name <what>', (w, b) => w.push('notWeighed', `scheduler ${b.text('what')}`)],
]

function policiesAt(
  path: string,
  policyOf: (w: Writer<DeviceModel>, b: Bound) => Writer<Policy>,
): Mapping<DeviceModel>[] {
  return [
    ...POLICY.flatMap(([pattern, apply]): Mapping<DeviceModel>[] =>
      pattern.includes('{')
        ? ['permit', 'deny', 'reject'].map((action): Mapping<DeviceModel> => [
            `${path} then ${action}`,
            (w, b) => policyOf(w, b).set('action', action),
          ])
        : [[`${path} ${pattern}`, (w, b) => apply(policyOf(w, b), b)]],
    ),
    // Of a policy of which more is said than is read, nothing is known.
    [`${path} <what...>`, (w, b) => partly(policyOf(w, b).push('notWeighed', b.text('what')))],
  ]
}

function pairPolicy(w: Writer<DeviceModel>, b: Bound): Writer<Policy> {
  return w.entry('zonePolicies', { name: b.text('name'), from: b.text('from'), to: b.text('to'), scope: 'pair' })
}

function globalPolicy(w: Writer<DeviceModel>, b: Bound): Writer<Policy> {
  return w.entry('zonePolicies', { name: b.text('name'), from: 'any', to: 'any', scope: 'global' })
}

const POLICIES: readonly Mapping<DeviceModel>[] = [
  ...policiesAt('security policies from-zone <from> to-zone <to> policy <name>', pairPolicy),
  ...policiesAt('security policies global policy <name>', globalPolicy),
  ['security policies default-policy permit-all', (w) => defaultPolicy(w).set('action', 'permit')],
  ['security policies default-policy deny-all', (w) => defaultPolicy(w).set('action', 'deny')],
  // What stands where a policy should may permit, or deny, anything between these zones, or between all.
  [
    'security policies from-zone <from> to-zone <to> <what...>',
    (w, b) =>
      partly(
        w.add('zonePolicies', {
          name: b.text('what'),
          from: b.text('from'),
          to: b.text('to'),
          scope: 'pair',
          action: 'unknown',
        }),
      ),
  ],
  [
    'security policies <what...>',
    (w, b) =>
      partly(
        w.add('zonePolicies', { name: b.text('what'), from: 'any', to: 'any', scope: 'global', action: 'unknown' }),
      ),
  ],
]

function defaultPolicy(w: Writer<DeviceModel>): Writer<Policy> {
  return w.entry('zonePolicies', { name: 'default-policy', from: 'any', to: 'any', scope: 'default' })
}

function zone(w: Writer<DeviceModel>, b: Bound): Writer<Zone> {
  return w.entry('zones', { name: b.text('zone') })
}

function intoZone(w: Writer<DeviceModel>, b: Bound): Writer<Zone> {
  w.find('interfaces', { name: b.text('interface') })?.set('zone', b.text('zone'))
  return zone(w, b).push('interfaces', b.text('interface'))
}

/** What an interface lets in to the device itself, in place of what its zone does. */
function ownInbound(w: Writer<DeviceModel>, b: Bound): Writer<Zone['ownInbound'][number]> {
  return intoZone(w, b).entry('ownInbound', { interface: b.text('interface') })
}

const IN = 'security zones security-zone <zone>'

const MEMBERS: readonly Mapping<DeviceModel>[] = [
  [`${IN} interfaces <interface>`, intoZone],
  [
    `${IN} interfaces <interface> host-inbound-traffic system-services <service>`,
    (w, b) => ownInbound(w, b).push('services', b.text('service')),
  ],
  [
    `${IN} interfaces <interface> host-inbound-traffic system-services <service> except`,
    (w, b) => ownInbound(w, b).push('services', `!${b.text('service')}`),
  ],
  [
    `${IN} interfaces <interface> host-inbound-traffic protocols <protocol>`,
    (w, b) => ownInbound(w, b).push('protocols', b.text('protocol')),
  ],
  [`${IN} interfaces <interface> ...`, (w, b) => partly(intoZone(w, b))],
  [
    `${IN} host-inbound-traffic system-services <service>`,
    (w, b) => zone(w, b).at('inbound').push('services', b.text('service')),
  ],
  [
    `${IN} host-inbound-traffic system-services <service> except`,
    (w, b) =>
      zone(w, b)
        .at('inbound')
        .push('services', `!${b.text('service')}`),
  ],
  [
    `${IN} host-inbound-traffic protocols <protocol>`,
    (w, b) => zone(w, b).at('inbound').push('protocols', b.text('protocol')),
  ],
  [`${IN} screen <screen>`, (w, b) => zone(w, b).set('screen', b.text('screen'))],
  [`${IN} tcp-rst`, (w, b) => zone(w, b)],
  [
    `${IN} address-book address <name> <what...>`,
    (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('what')),
  ],
  [
    `${IN} address-book address-set <name> {address|address-set} <member>`,
    (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('member')),
  ],
  [IN, zone],
]

const ADDRESSES: readonly Mapping<DeviceModel>[] = [
  // Anything but a prefix is no prefix to whoever weighs it: names, ranges and wildcards stand as they are written.
  [
    'security address-book <book> address <name> <what...>',
    (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('what')),
  ],
  [
    'security address-book <book> address-set <name> {address|address-set} <member>',
    (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('member')),
  ],
  ['security address-book <book> attach zone <zone>', (w, b) => w.entry('zones', { name: b.text('zone') })],
  [
    'applications application-set <name> {application|application-set} <member>',
    (w, b) => w.entry('applications', { name: b.text('name') }).push('members', b.text('member')),
  ],
  ...applicationsAt('applications application <name>', (w, b) => w.entry('applications', { name: b.text('name') })),
  ...applicationsAt('applications application <name> term <term>', (w, b) => {
    const member = `${b.text('name')} ${b.text('term')}`
    w.entry('applications', { name: b.text('name') }).push('members', member)
    return w.entry('applications', { name: member })
  }),
]

/** An application, or one of several terms of which each is one. */
function applicationsAt(
  path: string,
  of: (w: Writer<DeviceModel>, b: Bound) => Writer<Application>,
): Mapping<DeviceModel>[] {
  const term = path.includes('<term>')
  const fields: readonly (readonly [string, (w: Writer<Application>, b: Bound) => unknown])[] = [
    ['protocol <protocol>', (w, b) => w.set('protocol', b.text('protocol'))],
    ['source-port <port>', (w, b) => ports(w, b, 'sourcePorts')],
    ['destination-port <port>', (w, b) => ports(w, b, 'destinationPorts')],
    // How long a session is kept, and how it is looked into.
    ['{inactivity-timeout|application-protocol|alg|ether-type} *', () => undefined],
    ['<what...>', (w, b) => partly(w.push('notWeighed', b.text('what')))],
  ]
  const made = fields.flatMap(([pattern, apply]): Mapping<DeviceModel>[] => [
    [`${path} ${pattern}`, (w, b) => apply(of(w, b), b)],
  ])
  // In one line for a term: `term T protocol tcp destination-port 80`.
  return term
    ? [
        [
          `${path} protocol <protocol> destination-port <port>`,
          (w, b) => ports(of(w, b).set('protocol', b.text('protocol')), b, 'destinationPorts'),
        ],
        ...made,
      ]
    : [...made.slice(0, -1), ...termFirst(made)]
}

/** What an application says beside its terms comes after them. */
function termFirst(made: readonly Mapping<DeviceModel>[]): Mapping<DeviceModel>[] {
  const last = made.at(-1)
  return last
    ? [
        [
          'applications application <name> {tcp-mss|icmp-type|icmp-code|icmp6-type|icmp6-code|rpc-program-number|uuid} ...',
          last[1],
        ],
      ]
    : []
}

function ports(w: Writer<Application>, b: Bound, field: 'sourcePorts' | 'destinationPorts'): void {
  const range = portRange(b.text('port'))
  if (range) w.set(field, [...w.target[field], range])
  else w.push('notWeighed', `${field} ${b.text('port')}`)
}

export const ZONES: readonly Mapping<DeviceModel>[] = [...ADDRESSES, ...MEMBERS, ...POLICIES]

/** JSON data of YANG models, as it speaks to the device model: RFC 7317, 8343, 8344, 8349, 8519. */
import type { Scope } from '../../syntax/index.ts'
import { canonicalAddress } from '../../model/address-text.ts'
import { MappingTable, NOT_TAKEN, type Bound, type Mapping } from '../../model/mapping.ts'
import { PROTOCOLS } from '../../model/names.ts'
import { tableAt, type TableAt } from '../../model/tables.ts'
import { secretOfHierarchy } from '../../model/secrets.ts'
import type { DeviceModel } from '../../model/schema/index.ts'
import type { Writer } from '../../model/writer.ts'
import { kindOfInterface } from '../../model/interface-kind.ts'

type Interface = DeviceModel['interfaces'][number]
type Entry = DeviceModel['accessLists'][number]['entries'][number]
type Route = DeviceModel['staticRoutes'][number]

/** RFC 7317. */
const SYSTEM: readonly Mapping<DeviceModel>[] = [
  ['system hostname <name>', (w, b) => w.at('system').set('hostname', b.text('name'))],
  ['system location <text...>', (w, b) => w.at('system').at('snmp').set('location', b.text('text'))],
  ['system contact <text...>', (w, b) => w.at('system').at('snmp').set('contact', b.text('text'))],
  ['system clock timezone-name <zone>', (w, b) => w.at('system').set('timeZone', b.text('zone'))],
  // In minutes (RFC 7317 §3.4).
  [
    'system clock timezone-utc-offset <minutes:int>',
    (w, b) =>
      w
        .at('system')
        .set(
          'timeZone',
          b.number('minutes') === 0 ? 'UTC' : `UTC${b.number('minutes') < 0 ? '' : '+'}${b.number('minutes')} min`,
        ),
  ],
  [
    'system ntp enabled <flag>',
    (w, b) =>
      w
        .at('system')
        .at('ntp')
        .set('enabled', b.text('flag') === 'true'),
  ],
  [
    'system ntp server <name> udp address <address>',
    (w, b) =>
      w
        .at('system')
        .at('ntp')
        .entry('servers', { address: b.text('address') }),
  ],
  [
    'system dns-resolver search <domain>',
    (w, b) => w.at('system').set('domainName', w.target.system.domainName ?? b.text('domain')),
  ],
  [
    'system dns-resolver server <name> udp-and-tcp address <address>',
    (w, b) => w.at('system').push('nameServers', b.text('address')),
  ],
  [
    'system radius server <name> udp address <address>',
    (w, b) =>
      w
        .at('system')
        .at('aaa')
        .set('enabled', true)
        .entry('servers', { protocol: 'radius', name: b.text('name') })
        .set('address', b.text('address')),
  ],
  [
    'system radius server <name> udp shared-secret <secret>',
    (w, b) =>
      w
        .at('system')
        .at('aaa')
        .entry('servers', { protocol: 'radius', name: b.text('name') })
        .set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask)),
  ],
  [
    'system authentication user <name> password <secret>',
    (w, b) => user(w, b).set('secret', secretOfHierarchy(b.text('secret').replace(/^\$0\$/, ''), w.provenance.mask)),
  ],
  ['system authentication user <name> authorized-key <key> name ...', (w, b) => addKey(w, b)],
  [
    'system authentication user-authentication-order <method>',
    (w, b) =>
      w
        .at('system')
        .at('aaa')
        .set('enabled', true)
        .entry('methods', { purpose: 'authentication login', name: 'default' })
        .push('methods', b.text('method').replace(/^.*:/, '')),
  ],
  ['system authentication user <name> name ...', (w, b) => user(w, b)],
]

function user(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['system']['users'][number]> {
  return w.at('system').entry('users', { name: b.text('name') })
}

function addKey(w: Writer<DeviceModel>, b: Bound): void {
  const entry = user(w, b)
  entry.set('keys', entry.target.keys + 1)
}

const IFACE = 'interfaces interface <interface>'

/** RFC 8343, 8344. State leaves (`oper-status`, `statistics`) are the state side's. */
const INTERFACES: readonly Mapping<DeviceModel>[] = [
  [`${IFACE} name <name>`, (w, b) => iface(w, b).presume('kind', kindOfInterface(b.text('interface')))],
  [`${IFACE} type <form>`, (w, b) => iface(w, b).set('kind', TYPES[b.text('form').replace(/^.*:/, '')] ?? 'other')],
  [`${IFACE} enabled <flag>`, (w, b) => iface(w, b).set('enabled', b.text('flag') === 'true')],
  [`${IFACE} description <text...>`, (w, b) => iface(w, b).set('description', b.text('text'))],
  [
    [
      `${IFACE} ipv4 address <address> prefix-length <length:int>`,
      `${IFACE} ipv6 address <address> prefix-length <length:int>`,
    ],
    (w, b, s) =>
      void address(w, b, s.command.lowerWords[3] === 'ipv6' ? 'ipv6' : 'ipv4').set('prefixLength', b.number('length')),
  ],
  [
    [`${IFACE} ipv4 address <address> netmask <mask>`],
    (w, b) =>
      void address(w, b, 'ipv4').set(
        'prefixLength',
        b
          .text('mask')
          .split('.')
          .reduce((sum, part) => sum + Number(part).toString(2).replace(/0/g, '').length, 0),
      ),
  ],
  [[`${IFACE} ipv4 address <address> ip ...`], (w, b) => address(w, b, 'ipv4')],
  [[`${IFACE} ipv6 address <address> ip ...`], (w, b) => address(w, b, 'ipv6')],
  [`${IFACE} ipv4 mtu <mtu:int>`, (w, b) => iface(w, b).set('mtu', b.number('mtu'))],
  [`${IFACE} bind-ni-name <vrf>`, (w, b) => iface(w, b).set('vrf', b.text('vrf'))],
]

/** Names of the IANA interface types (RFC 7224). */
const TYPES: Readonly<Record<string, Interface['kind']>> = {
  ethernetCsmacd: 'ethernet',
  softwareLoopback: 'loopback',
  ieee8023adLag: 'aggregate',
  l2vlan: 'vlan',
  l3ipvlan: 'vlan',
  tunnel: 'tunnel',
  bridge: 'bridge',
}

function iface(w: Writer<DeviceModel>, b: Bound): Writer<Interface> {
  return w.entry('interfaces', { name: b.text('interface') })
}

function address(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): Writer<Interface['addresses'][number]> {
  return iface(w, b).entry('addresses', { address: canonicalAddress(b.text('address')), family })
}

const STATIC = 'routing control-plane-protocols control-plane-protocol <protocol> static-routes'

/** RFC 8349. */
const ROUTES: readonly Mapping<DeviceModel>[] = [
  [
    [
      `${STATIC} ipv4 route <prefix> next-hop next-hop-address <hop>`,
      `${STATIC} ipv6 route <prefix> next-hop next-hop-address <hop>`,
    ],
    (w, b) => route(w, b).set('nextHop', b.text('hop')),
  ],
  [
    [
      `${STATIC} ipv4 route <prefix> next-hop outgoing-interface <interface>`,
      `${STATIC} ipv6 route <prefix> next-hop outgoing-interface <interface>`,
    ],
    (w, b) => route(w, b).set('interface', b.text('interface')),
  ],
  [
    [
      `${STATIC} ipv4 route <prefix> next-hop special-next-hop <what>`,
      `${STATIC} ipv6 route <prefix> next-hop special-next-hop <what>`,
    ],
    (w, b) => route(w, b).set('discard', /^(?:blackhole|unreachable|prohibit)$/.test(b.text('what'))),
  ],
  [[`${STATIC} ipv4 route <prefix> ...`, `${STATIC} ipv6 route <prefix> ...`], (w, b) => route(w, b)],
]

function route(w: Writer<DeviceModel>, b: Bound): Writer<Route> {
  return w.entry('staticRoutes', {
    prefix: b.text('prefix').replace(/#\d+$/, '').toLowerCase(),
    name: b.text('prefix').includes('#') ? b.text('prefix') : null,
  })
}

const ACE = 'acls acl <acl> aces ace <ace>'

/** RFC 8519. */
const LISTS: readonly Mapping<DeviceModel>[] = [
  ['acls acl <acl> type <form>', (w, b) => list(w, b).presume('family', /ipv6/.test(b.text('form')) ? 'ipv6' : 'ipv4')],
  ['acls acl <acl> name ...', (w, b) => list(w, b)],
  [`${ACE} name ...`, (w, b) => ace(w, b)],
  [
    [`${ACE} matches ipv4 protocol <protocol>`, `${ACE} matches ipv6 protocol <protocol>`],
    (w, b) => protocol(ace(w, b), b.text('protocol')),
  ],
  [
    [`${ACE} matches ipv4 source-ipv4-network <prefix>`, `${ACE} matches ipv6 source-ipv6-network <prefix>`],
    (w, b) => ace(w, b).push('sources', b.text('prefix')),
  ],
  [
    [`${ACE} matches ipv4 destination-ipv4-network <prefix>`, `${ACE} matches ipv6 destination-ipv6-network <prefix>`],
    (w, b) => ace(w, b).push('destinations', b.text('prefix')),
  ],
  [
    portPatterns('source-port', 'port'),
    (w, b) => void ace(w, b).set('sourcePorts', [[b.number('port'), b.number('port')]]),
  ],
  [portPatterns('source-port', 'lower-port'), (w, b) => void ace(w, b).set('sourcePorts', [[b.number('port'), 65535]])],
  [portPatterns('source-port', 'upper-port'), (w, b) => upTo(ace(w, b), 'sourcePorts', b.number('port'))],
  [
    portPatterns('destination-port', 'port'),
    (w, b) => void ace(w, b).set('destinationPorts', [[b.number('port'), b.number('port')]]),
  ],
  [
    portPatterns('destination-port', 'lower-port'),
    (w, b) => void ace(w, b).set('destinationPorts', [[b.number('port'), 65535]]),
  ],
  [portPatterns('destination-port', 'upper-port'), (w, b) => upTo(ace(w, b), 'destinationPorts', b.number('port'))],
  [`${ACE} matches icmp type <form:int>`, (w, b) => ace(w, b).set('icmpTypes', [[b.number('form'), b.number('form')]])],
  [
    [`${ACE} matches ipv4 dscp <dscp:int>`, `${ACE} matches ipv6 dscp <dscp:int>`],
    (w, b) => ace(w, b).set('dscp', [[b.number('dscp'), b.number('dscp')]]),
  ],
  [`${ACE} matches icmp code <code:int>`, (w, b) => ace(w, b).set('icmpCodes', [[b.number('code'), b.number('code')]])],
  [
    `${ACE} actions forwarding <what>`,
    (w, b) => ace(w, b).set('action', b.text('what').endsWith('accept') ? 'permit' : 'deny'),
  ],
  [`${ACE} actions logging <what>`, (w, b) => ace(w, b).set('logged', !b.text('what').endsWith('log-none'))],
  [[...operatorPatterns('source-port'), ...operatorPatterns('destination-port')], () => NOT_TAKEN],
  [`${ACE} actions <what...>`, (w, b) => void ace(w, b).set('action', 'unknown')],
  [`${ACE} matches <what...>`, (w, b) => ace(w, b).push('notWeighed', b.text('what'))],
]

function portPatterns(side: string, leaf: string): string[] {
  return [`${ACE} matches tcp ${side} ${leaf} <port:int>`, `${ACE} matches udp ${side} ${leaf} <port:int>`]
}

function operatorPatterns(side: string): string[] {
  return [`${ACE} matches tcp ${side} operator <operator>`, `${ACE} matches udp ${side} operator <operator>`]
}

function list(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['accessLists'][number]> {
  return w.entry('accessLists', { name: b.text('acl') }).presume('defaultAction', 'deny')
}

function ace(w: Writer<DeviceModel>, b: Bound): Writer<Entry> {
  const entries = list(w, b)
  const own = entries.find('entries', { text: b.text('ace') })
  // RFC 8519 §4.1: forwarding is mandatory; an entry that does not say it is not known to do anything.
  return own
    ? entries.entry('entries', { text: b.text('ace') })
    : entries.add('entries', { text: b.text('ace'), action: 'unknown' })
}

function protocol(w: Writer<Entry>, word: string): void {
  const number = /^\d+$/.test(word) ? Number(word) : PROTOCOLS[word]
  if (number === undefined) w.push('notWeighed', `protocols ${word}`)
  else w.set('protocols', [[number, number]])
}

/** RFC 8519 §4.1: what a port is compared by, once it is known. */
function compare(w: Writer<Entry>, field: 'sourcePorts' | 'destinationPorts', operator: string): void {
  const port = w.target[field][0]?.[0]
  if (operator === 'eq' || port === undefined) return void w.presume(field, w.target[field])
  const ranges: Readonly<Record<string, [number, number][]>> = {
    lte: [[0, port]],
    gte: [[port, 65535]],
    neq: [
      [0, port - 1],
      [port + 1, 65535],
    ],
  }
  const wanted = ranges[operator]
  if (wanted)
    w.set(
      field,
      wanted.filter(([from, to]) => from <= to),
    )
  else w.push('notWeighed', `operator ${operator}`)
}

function upTo(w: Writer<Entry>, field: 'sourcePorts' | 'destinationPorts', port: number): void {
  w.set(field, [[w.target[field][0]?.[0] ?? 0, port]])
}

const DEVICE = new MappingTable<DeviceModel>(
  [...SYSTEM, ...INTERFACES, ...ROUTES, ...LISTS],
  [
    [
      'it is state, not configuration (RFC 8343, RFC 8519)',
      [
        'interfaces interface <interface> {oper-status|admin-status|statistics|last-change|if-index|phys-address|speed|higher-layer-if|lower-layer-if} ...',
        'acls acl <acl> aces ace <ace> statistics ...',
        'routing ribs ...',
      ],
    ],
    [
      'it names the thing that is read',
      [
        'routing control-plane-protocols control-plane-protocol <protocol> {name|type|description} ...',
        'system {ntp|dns-resolver|radius} server <name> name ...',
        'acls attachment-points interface <interface> interface-id ...',
      ],
    ],
    ['the number of a router changes no route of those that are captured', ['routing router-id ...']],
    ['it changes the size of packets', ['interfaces interface <interface> ipv6 mtu ...']],
    [
      'what a key of a user is made of; that there is one is told by its name',
      ['system authentication user <name> authorized-key <key> {algorithm|key-data} ...'],
    ],
    ['it prefers one of the servers that are read', ['system ntp server <name> prefer true']],
  ],
)

/** What speaks of interfaces and lists, wherever those stand. */
const AFTER = new MappingTable<DeviceModel>([
  [operatorPatterns('source-port'), (w, b) => compare(ace(w, b), 'sourcePorts', b.text('operator'))],
  [operatorPatterns('destination-port'), (w, b) => compare(ace(w, b), 'destinationPorts', b.text('operator'))],
  [
    [`acls attachment-points interface <interface> ingress acl-sets acl-set <acl> name ...`],
    (w, b) =>
      void w
        .find('interfaces', { name: b.text('interface') })
        ?.at('filters')
        .set(w.find('accessLists', { name: b.text('acl'), family: 'ipv6' }) ? 'in6' : 'in4', b.text('acl')),
  ],
  [
    [`acls attachment-points interface <interface> egress acl-sets acl-set <acl> name ...`],
    (w, b) =>
      void w
        .find('interfaces', { name: b.text('interface') })
        ?.at('filters')
        .set(w.find('accessLists', { name: b.text('acl'), family: 'ipv6' }) ? 'out6' : 'out4', b.text('acl')),
  ],
])

export function readDataModel(scope: Scope, write: Writer<DeviceModel>): void {
  DEVICE.read(scope, write)
  AFTER.read(scope, write)
  for (const table of [DEVICE, AFTER]) table.passOverEmpty(scope, write.provenance)
}

export const DATA_TABLES: readonly TableAt[] = [DEVICE, AFTER].map((table) => tableAt(null, '', table))

import type { Statement } from '../../../syntax/index.ts'
import { addressWords, addressesMeet, hostMatch, isAddress } from '../../../model/address.ts'
import { addressesIn } from '../../../model/address-text.ts'
import { Bound, MappingTable, NOT_TAKEN, type Mapping } from '../../../model/mapping.ts'
import { ROUTER_HARMLESS } from './harmless.ts'
import { secret, secretOfType } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { maskLength } from './interfaces.ts'

type Ospf = DeviceModel['ospf'][number]
type Bgp = DeviceModel['bgp'][number]
type Neighbour = Bgp['neighbours'][number]
type PolicyEntry = DeviceModel['routePolicies'][number]['entries'][number]

/** `network 10.0.0.0 0.255.255.255`: a wildcard mask as a length, where it is one. */
function wildcardLength(wildcard: string): number | null {
  const inverted = wildcard
    .split('.')
    .map((part) => 255 - Number(part))
    .join('.')
  return maskLength(inverted)
}

export const OSPF = new MappingTable<Ospf>(
  [
    [['router-id <id>', 'ospf router-id <id>'], (w, b) => w.set('routerId', b.text('id'))],
    [
      'network <address:address> <wildcard:address> area <area>',
      (w, b) => w.add('networks', { prefix: prefixWith(b, wildcardLength(b.text('wildcard'))), area: b.text('area') }),
    ],
    ['network <prefix> area <area>', (w, b) => w.add('networks', { prefix: b.text('prefix'), area: b.text('area') })],
    ['passive-interface default', (w) => w.set('passiveByDefault', true)],
    ['passive-interface <name> ...', (w, b) => w.push('passive', b.text('name'))],
    ['no passive-interface <name> ...', (w, b) => w.push('active', b.text('name'))],
    [
      'area <id> authentication message-digest',
      (w, b) => w.entry('areas', { id: b.text('id') }).set('authentication', 'message-digest'),
    ],
    ['no area <id> authentication ...', (w, b) => w.entry('areas', { id: b.text('id') }).set('authentication', null)],
    ['area <id> virtual-link ...', (w, b) => void [w.entry('areas', { id: b.text('id') }).set('virtualLink', true)]],
    ['area <id> authentication', (w, b) => w.entry('areas', { id: b.text('id') }).set('authentication', 'clear')],
    [
      'area <id> {stub|nssa} ...',
      (w, b, s) => w.entry('areas', { id: b.text('id') }).set('kind', s.command.lowerWords[2] ?? null),
    ],
    ['redistribute <source> <options...>', (w, b) => redistributes(w, b)],
    ['redistribute <source>', (w, b) => redistributes(w, b)],
    ['default-information originate ...', (w) => w.set('originatesDefault', true)],
    ['area <id> filter-list prefix <name> {in|out}', () => NOT_TAKEN],
    ['distribute-list ...', () => NOT_TAKEN],
  ],
  ROUTER_HARMLESS,
)

function prefixWith(b: Bound, length: number | null): string {
  return length === null ? `${b.text('address')} ${b.text('wildcard')}` : `${b.text('address')}/${length}`
}

function redistributes(w: Writer<Ospf> | Writer<Bgp>, b: Bound): void {
  const options = b.words('options')
  const at = options.indexOf('route-map')
  const entry = {
    source: [b.text('source'), ...(/^\d/.test(options[0] ?? '') ? [options[0]] : [])].join(' '),
    policy: at < 0 ? null : (options[at + 1] ?? null),
  }
  ;(w as Writer<Ospf>).add('redistributes', entry)
}

/**
 * Options of a neighbour that choose no route and let nobody in: what they change is in the tables that were captured.
 */
const NEIGHBOUR_HARMLESS = new Set([
  'next-hop-self',
  'send-community',
  'soft-reconfiguration',
  'timers',
  'weight',
  'allowas-in',
  'advertisement-interval',
  'fall-over',
  'version',
  'default-originate',
  'route-reflector-client',
  'remove-private-as',
  'local-as',
  'as-override',
  'disable-connected-check',
  'dont-capability-negotiate',
  'capability',
  'transport',
  'bfd',
  'log-neighbor-changes',
  'sender-as-path-loop-detection',
  'addpath-tx-all-paths',
  'interface',
  'unsuppress-map',
])

/** Neighbours by their address, groups and templates by their name. */
function neighbourNamed(w: Writer<Bgp>, name: string): Writer<Neighbour> {
  // Of routers that find each other by the link, the interface is the name.
  return isAddress(name) || (/^[a-z-]+\d/i.test(name) && w.find('groups', { address: name }) === null)
    ? w.entry('neighbours', { address: name })
    : w.entry('groups', { address: name })
}

/** What a neighbour line says; of a family's block, `family` is named. */
function neighbour(w: Writer<Bgp>, b: Bound, family: string): unknown {
  const [what = '', ...rest] = b.words('rest')
  const name = b.text('address')
  const own =
    what === 'peer-group' && rest.length === 0 && !isAddress(name)
      ? w.entry('groups', { address: name })
      : neighbourNamed(w, name)
  switch (what) {
    case 'remote-as':
      return own.set('remoteAs', rest[0] ?? null)
    case 'description':
      return own.set('description', rest.join(' '))
    case 'peer-group':
      return rest[0] === undefined ? own : own.set('group', rest[0])
    case 'inherit':
      return rest[1] === undefined ? NOT_TAKEN : own.push('inherits', rest[1])
    case 'password':
      return own.set(
        'secret',
        /^\d$/.test(rest[0] ?? '') && rest.length > 1
          ? secretOfType(rest[0] ?? null, rest.slice(1).join(' '), w.provenance.mask)
          : secret('clear', rest.join(' '), w.provenance.mask),
      )
    case 'ao':
      // RFC 5925: `neighbor A ao KEYCHAIN …`.
      return own.set('keyChain', rest[0] ?? null)
    case 'ttl-security':
      return own.set('ttlSecurityHops', Number(rest[1] ?? 1))
    case 'ebgp-multihop':
      return own.set('multihop', Number(rest[0] ?? 255))
    case 'update-source':
      return own.set('updateSource', rest[0] ?? null)
    case 'shutdown':
      return own.set('enabled', false)
    default:
      return NEIGHBOUR_HARMLESS.has(what) ? own : familyOf(own, family, what, rest)
  }
}

function familyOf(own: Writer<Neighbour>, family: string, what: string, rest: readonly string[]): unknown {
  const inFamily = (): Writer<Neighbour['families'][number]> => own.entry('families', { family })
  const direction = rest[1] === 'in' ? 'In' : 'Out'
  const name = rest[0]
  switch (what) {
    case 'activate':
      return inFamily().set('active', true)
    case 'route-map':
      return name === undefined ? NOT_TAKEN : inFamily().set(`policy${direction}`, name)
    case 'prefix-list':
    case 'distribute-list':
    case 'filter-list':
      return name === undefined ? NOT_TAKEN : inFamily().set(`prefixList${direction}`, name)
    case 'maximum-prefix':
      return inFamily().set('maximumPrefixes', Number(name)).set('onlyWarns', rest.includes('warning-only'))
    default:
      return NOT_TAKEN
  }
}

/**
 * Interfaces that a network statement takes in (RFC 2328 §C.3 leaves it to each maker), the narrowest first; and which
 * of them are passive.
 */
export function settleOspf(w: Writer<DeviceModel>): void {
  const { origins } = w.provenance
  w.target.ospf.forEach((process, p) => {
    const networks = process.networks
      .flatMap(({ prefix, area }, i) => {
        const match = addressesIn(prefix)
        return match ? [{ match, area, i, ones: match.care.reduce((sum, word) => sum + onesIn(word), 0) }] : []
      })
      .sort((a, b) => b.ones - a.ones)
    const isNamed = (names: readonly string[], name: string): boolean =>
      names.some((one) => one.toLowerCase() === name.toLowerCase())
    w.target.interfaces.forEach(({ name, addresses, vrf, ospf }, at) => {
      // Without an address nothing takes it in, and without an area nothing is said of it.
      const one =
        vrf !== process.vrf || (addresses.length === 0 && ospf.area === null) ? null : w.entryAt('interfaces', at)
      if (!one) return
      const taken =
        ospf.area === null
          ? networks.find(({ match }) =>
              addresses.some(
                ({ address, family }) =>
                  family === 'ipv4' && addressesMeet(match, hostMatch(addressWords(address, 'ipv4') ?? [])),
              ),
            )
          : undefined
      if (taken) {
        one.at('ospf').presume('area', taken.area)
        origins.note(one.at('ospf').place, 'area', { kind: 'of', path: `ospf[${p}].networks[${taken.i}]` })
      }
      if (one.target.ospf.area === null || one.target.ospf.passive !== null) return
      if (isNamed(process.passive, name) || (process.passiveByDefault === true && !isNamed(process.active, name)))
        one.at('ospf').presume('passive', true)
    })
  })
}

function onesIn(word: number): number {
  let ones = 0
  for (let rest = word >>> 0; rest !== 0; rest = (rest & (rest - 1)) >>> 0) ones++
  return ones
}

/**
 * What members of groups, and heirs of templates, do not say themselves they have from those, their own groups' first.
 */
export function inheritFromGroups(w: Writer<DeviceModel>): void {
  for (const instance of w.every('bgp', {})) {
    for (const own of instance.every('neighbours', {})) {
      const seen = new Set<string>()
      const inherit = (names: readonly string[]): void => {
        for (const name of names) {
          const group = instance.find('groups', { address: name })
          if (!group || seen.has(name)) continue
          seen.add(name)
          inheritFrom(own, group)
          inherit([group.target.group, ...group.target.inherits].filter((one): one is string => one !== null))
        }
      }
      inherit([own.target.group, ...own.target.inherits].filter((one): one is string => one !== null))
    }
  }
}

const INHERITED = [
  'remoteAs',
  'description',
  'enabled',
  'secret',
  'keyChain',
  'ttlSecurityHops',
  'multihop',
  'updateSource',
] as const
const INHERITED_OF_FAMILY = [
  'active',
  'policyIn',
  'policyOut',
  'prefixListIn',
  'prefixListOut',
  'maximumPrefixes',
  'onlyWarns',
] as const

function inheritFrom(own: Writer<Neighbour>, { target: group, path }: Writer<Neighbour>): void {
  const { origins } = own.provenance
  for (const field of INHERITED) {
    if (own.target[field] !== null || group[field] === null) continue
    own.presume(field, group[field])
    origins.note(own.place, field, { kind: 'of', path: `${path}.${field}` })
  }
  group.families.forEach((from, i) => {
    const to = own.find('families', { family: from.family }) ?? own.add('families', { family: from.family })
    for (const field of INHERITED_OF_FAMILY) {
      if (to.target[field] !== null || from[field] === null) continue
      to.presume(field, from[field])
      origins.note(to.place, field, { kind: 'of', path: `${path}.families[${i}].${field}` })
    }
  })
}

/** The family whose block a line of BGP stands in; what stands in none is said of IPv4. */
function familyAround({ nodes }: Statement): string {
  return /^address-family (.*?)(?: unicast)?$/i.exec(nodes[0]?.parent?.text ?? '')?.[1] ?? 'ipv4'
}

/** Lines of a BGP block, and of the families in it. */
export const BGP: MappingTable<Bgp> = new MappingTable<Bgp>(
  [
    [['bgp router-id <id>', 'router-id <id>'], (w, b) => w.set('routerId', b.text('id'))],
    ['bgp log-neighbor-changes', (w) => w.set('logsChanges', true)],
    ['no bgp log-neighbor-changes', (w) => w.set('logsChanges', false)],
    ['neighbor <address> <rest...>', (w, b, s) => neighbour(w, b, familyAround(s))],
    [
      'no neighbor <address> activate',
      (w, b, s) =>
        w
          .entry('neighbours', { address: b.text('address') })
          .entry('families', { family: familyAround(s) })
          .set('active', false),
    ],
    [
      'network <address:address> mask <mask:address> ...',
      (w, b) => w.push('networks', `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`),
    ],
    ['network <prefix> ...', (w, b) => w.push('networks', b.text('prefix'))],
    ['redistribute <source> <options...>', (w, b) => redistributes(w, b)],
    ['redistribute <source>', (w, b) => redistributes(w, b)],
    ['address-family <name...>', (w, _, s) => BGP.read(s.scope, w)],
    ['neighbor <address> <what>', (w, b, s) => neighbour(w, b, familyAround(s))],
    [
      ['template peer-session <name>', 'template peer-policy <name>'],
      (w, b, s) => TEMPLATE.read(s.scope, w.entry('groups', { address: b.text('name') })),
    ],
  ],
  ROUTER_HARMLESS,
)

/** Lines of a template: what a neighbour line says behind the address. */
export const TEMPLATE: MappingTable<Neighbour> = new MappingTable<Neighbour>(
  [
    ['remote-as <as>', (w, b) => w.set('remoteAs', b.text('as'))],
    [
      'password <form:int> <secret...>',
      (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
    ],
    ['password <secret...>', (w, b) => w.set('secret', secret('clear', b.text('secret'), w.provenance.mask))],
    ['ttl-security hops <hops:int>', (w, b) => w.set('ttlSecurityHops', b.number('hops'))],
    ['ebgp-multihop <hops:int>', (w, b) => w.set('multihop', b.number('hops'))],
    ['update-source <source>', (w, b) => w.set('updateSource', b.text('source'))],
    ['shutdown', (w) => w.set('enabled', false)],
    ['inherit peer-session <name> ...', (w, b) => w.push('inherits', b.text('name'))],
    ['inherit peer-policy <name> ...', (w, b) => w.push('inherits', b.text('name'))],
    ['description <text...>', (w, b) => w.set('description', b.text('text'))],
    ['route-map <name> in', (w, b) => familyOf(w, 'ipv4', 'route-map', [b.text('name'), 'in'])],
    ['route-map <name> out', (w, b) => familyOf(w, 'ipv4', 'route-map', [b.text('name'), 'out'])],
    ['prefix-list <name> in', (w, b) => familyOf(w, 'ipv4', 'prefix-list', [b.text('name'), 'in'])],
    ['prefix-list <name> out', (w, b) => familyOf(w, 'ipv4', 'prefix-list', [b.text('name'), 'out'])],
    [
      'maximum-prefix <maximum> <how...>',
      (w, b) => familyOf(w, 'ipv4', 'maximum-prefix', [b.text('maximum'), ...b.words('how')]),
    ],
    ['maximum-prefix <maximum>', (w, b) => familyOf(w, 'ipv4', 'maximum-prefix', [b.text('maximum')])],
  ],
  [
    [
      'it chooses no route by itself and lets nobody in',
      [
        'timers ...',
        'next-hop-self ...',
        'send-community ...',
        'soft-reconfiguration ...',
        'fall-over ...',
        'version ...',
        'exit-peer-session',
        'exit-peer-policy',
        'exit',
        'weight ...',
        'allowas-in ...',
        'route-reflector-client',
        'default-originate ...',
      ],
    ],
  ],
)

export const POLICY_ENTRY = new MappingTable<PolicyEntry>(
  [
    ['match <what...>', (w, b) => w.push('matches', b.text('what'))],
    ['set <what...>', (w, b) => w.push('sets', b.text('what'))],
    // They change which entry is asked next.
    ['continue ...', (w, _, s) => w.push('sets', s.text)],
    ['on-match <what...>', (w, _, s) => w.push('sets', s.text)],
    ['call <name>', (w, _, s) => w.push('matches', s.text)],
  ],
  [['it says what the entry is for', ['description ...', 'exit']]],
)

function staticRoute(w: Writer<DeviceModel>, b: Bound, prefix: string): unknown {
  const rest = b.words('rest')
  const vrf = b.text('vrf') === '' ? null : b.text('vrf')
  const notWeighed: string[] = []
  const route: Partial<DeviceModel['staticRoutes'][number]> = { prefix, vrf, notWeighed }
  const isAddress = (word: string): boolean => /^(?:\d{1,3}\.){3}\d{1,3}$/.test(word) || word.includes(':')
  for (let i = 0; i < rest.length; i++) {
    const word = rest[i] ?? ''
    if (word === 'name') route.name = rest[++i] ?? null
    else if (word === 'track') route.track = rest[++i] ?? null
    else if (word === 'tag') i++
    else if (word === 'nexthop-vrf') route.nextHopVrf = rest[++i] ?? null
    else if (word === 'vrf') route.vrf ??= rest[++i] ?? null
    else if (word === 'global') route.nextHopVrf = word
    else if (isAddress(word)) route.nextHop = word
    else if (/^\d+$/.test(word)) route.distance = Number(word)
    else if (/^(?:null0?|blackhole|reject)$/i.test(word)) route.discard = true
    else if (word === 'label' || word === 'color' || word === 'bfd' || word === 'table')
      notWeighed.push(word, rest[++i] ?? '')
    else if (word !== 'permanent' && word !== 'multicast') route.interface ??= word
  }
  w.add('staticRoutes', route)
  return notWeighed.length > 0 ? NOT_TAKEN : undefined
}

function prefixEntry(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): void {
  const rest = b.words('rest')
  const bound = (word: string): number | null => (rest.includes(word) ? Number(rest[rest.indexOf(word) + 1]) : null)
  w.entry('prefixLists', { name: b.text('name'), family }).add('entries', {
    sequence: b.text('seq') === '' ? null : b.number('seq'),
    action: b.text('action'),
    prefix: b.text('prefix'),
    ge: bound('ge'),
    le: bound('le'),
  })
}

export const ROUTING: readonly Mapping<DeviceModel>[] = [
  [
    'ip route vrf <vrf> <address:address> <mask:address> <rest...>',
    (w, b) => staticRoute(w, b, `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`),
  ],
  [
    'ip route <address:address> <mask:address> <rest...>',
    (w, b) => staticRoute(w, b, `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`),
  ],
  [
    'ip default-gateway <address>',
    (w, b) => w.add('staticRoutes', { prefix: '0.0.0.0/0', nextHop: b.text('address'), name: 'default gateway' }),
  ],
  ['ip route <prefix> <rest...>', (w, b) => staticRoute(w, b, b.text('prefix'))],
  [
    ['ipv6 route vrf <vrf> <prefix> <rest...>', 'ipv6 route <prefix> <rest...>'],
    (w, b) => staticRoute(w, b, b.text('prefix').toLowerCase()),
  ],
  [
    ['router ospf <process> vrf <vrf>', 'router ospf <process>', 'router ospf'],
    (w, b, s) =>
      OSPF.read(
        s.scope,
        w.entry('ospf', { process: b.text('process') || '1', version: 2, vrf: b.text('vrf') || null }),
      ),
  ],
  [
    ['router ospf6', 'ipv6 router ospf <process>', 'router ospfv3 <process>'],
    (w, b, s) => OSPF.read(s.scope, w.entry('ospf', { process: b.text('process') || '1', version: 3 })),
  ],
  [
    ['router bgp <as> vrf <vrf>', 'router bgp <as>'],
    (w, b, s) => BGP.read(s.scope, w.entry('bgp', { as: b.text('as'), vrf: b.text('vrf') || null })),
  ],
  [
    'route-map <name> <action> <sequence>',
    (w, b, s: Statement) =>
      POLICY_ENTRY.read(
        s.scope,
        w
          .entry('routePolicies', { name: b.text('name') })
          .add('entries', { sequence: b.text('sequence'), action: b.text('action') }),
      ),
  ],
  [
    [
      'ip prefix-list <name> seq <seq:int> <action> <prefix> <rest...>',
      'ip prefix-list <name> seq <seq:int> <action> <prefix>',
      'ip prefix-list <name> {permit|deny} <prefix> <rest...>',
      'ip prefix-list <name> {permit|deny} <prefix>',
    ],
    (w, b, s) => prefixEntry(w, withAction(b, s), 'ipv4'),
  ],
  [
    [
      'ipv6 prefix-list <name> seq <seq:int> <action> <prefix> <rest...>',
      'ipv6 prefix-list <name> seq <seq:int> <action> <prefix>',
    ],
    (w, b) => prefixEntry(w, b, 'ipv6'),
  ],
  [
    [
      'ip community-list standard <name> <action> <members...>',
      'ip community-list expanded <name> <action> <members...>',
      'bgp community-list standard <name> seq * <action> <members...>',
      'bgp community-list expanded <name> seq * <action> <members...>',
      'ip community-list <name> <action> <members...>',
    ],
    (w, b) =>
      w
        .entry('communityLists', { name: b.text('name') })
        .add('entries', { action: b.text('action'), members: b.text('members') }),
  ],
]

/** Of an entry without a number the action is a word of the pattern, not bound by it. */
function withAction(b: Bound, statement: Statement): Bound {
  if (b.text('action') !== '') return b
  return new Bound({ ...b.names, action: statement.command.lowerWords[3] ?? '' })
}

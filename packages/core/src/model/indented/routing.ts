import type { Statement } from '../../config/index.ts'
import { Bound, MappingTable, type Mapping } from '../mapping.ts'
import { secret, secretOfType } from '../secrets.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'
import { maskLength } from './interfaces.ts'

type Ospf = DeviceModel['ospf'][number]
type Bgp = DeviceModel['bgp'][number]
type Neighbour = Bgp['neighbours'][number]
type PolicyEntry = DeviceModel['routePolicies'][number]['entries'][number]

/** `network 10.0.0.0 0.255.255.255`: a wildcard mask as a length, where it is one. */
function wildcardLength(wildcard: string): number | null {
  const inverted = wildcard.split('.').map((part) => 255 - Number(part)).join('.')
  return maskLength(inverted)
}

const OSPF = new MappingTable<Ospf>(
  [
    [['router-id <id>', 'ospf router-id <id>'], (w, b) => w.set('routerId', b.text('id'))],
    ['network <address:address> <wildcard:address> area <area>', (w, b) => w.add('networks', { prefix: prefixWith(b, wildcardLength(b.text('wildcard'))), area: b.text('area') })],
    ['network <prefix> area <area>', (w, b) => w.add('networks', { prefix: b.text('prefix'), area: b.text('area') })],
    ['passive-interface default', (w) => w.set('passiveByDefault', true)],
    ['passive-interface <name> ...', (w, b) => w.push('passive', b.text('name'))],
    ['no passive-interface <name> ...', (w, b) => w.push('active', b.text('name'))],
    ['area <id> authentication message-digest', (w, b) => w.entry('areas', { id: b.text('id') }).set('authentication', 'message-digest')],
    ['area <id> authentication', (w, b) => w.entry('areas', { id: b.text('id') }).set('authentication', 'clear')],
    ['area <id> {stub|nssa} ...', (w, b, s) => w.entry('areas', { id: b.text('id') }).set('kind', s.command.lowerWords[2] ?? null)],
    ['redistribute <source> <options...>', (w, b) => redistributes(w, b)],
    ['redistribute <source>', (w, b) => redistributes(w, b)],
    ['default-information originate ...', (w) => w.set('originatesDefault', true)],
    ['exit', () => undefined],
  ],
  ['log-adjacency-changes ...', 'auto-cost ...', 'area * range ...', 'maximum-paths ...', 'distance ...', 'timers ...', 'nsf ...', 'exit'],
)

function prefixWith(b: Bound, length: number | null): string {
  return length === null ? `${b.text('address')} ${b.text('wildcard')}` : `${b.text('address')}/${length}`
}

function redistributes(w: Writer<Ospf> | Writer<Bgp>, b: Bound): void {
  const options = b.words('options')
  const at = options.indexOf('route-map')
  const entry = { source: [b.text('source'), ...(/^\d/.test(options[0] ?? '') ? [options[0]] : [])].join(' '), policy: at < 0 ? null : (options[at + 1] ?? null) }
  ;(w as Writer<Ospf>).add('redistributes', entry)
}

/** What a neighbour line says; of a family's block, `family` is named. */
function neighbour(w: Writer<Bgp>, b: Bound, family: string): void {
  const [what = '', ...rest] = b.words('rest')
  const own = w.entry('neighbours', { address: b.text('address') })
  const group = what === 'peer-group' ? (rest[0] ?? null) : null
  switch (what) {
    case 'remote-as':
      own.set('remoteAs', rest[0] ?? null)
      return
    case 'description':
      own.set('description', rest.join(' '))
      return
    case 'peer-group':
      if (group !== null) own.set('group', group)
      return
    case 'password':
      own.set('secret', /^\d$/.test(rest[0] ?? '') && rest.length > 1 ? secretOfType(rest[0] ?? null, rest.slice(1).join(' '), w.sheet.mask) : secret('clear', rest.join(' '), w.sheet.mask))
      return
    case 'ttl-security':
      own.set('ttlSecurityHops', Number(rest[1] ?? 1))
      return
    case 'ebgp-multihop':
      own.set('multihop', Number(rest[0] ?? 255))
      return
    case 'update-source':
      own.set('updateSource', rest[0] ?? null)
      return
    case 'shutdown':
      own.set('enabled', false)
      return
    default:
      familyOf(own, family, what, rest)
  }
}

function familyOf(own: Writer<Neighbour>, family: string, what: string, rest: readonly string[]): void {
  const inFamily = (): Writer<Neighbour['families'][number]> => own.entry('families', { family })
  const direction = rest[1] === 'in' ? 'In' : 'Out'
  if (what === 'activate') inFamily().set('active', true)
  if (what === 'route-map' && rest[0] !== undefined) inFamily().set(`policy${direction}`, rest[0])
  if (what === 'prefix-list' && rest[0] !== undefined) inFamily().set(`prefixList${direction}`, rest[0])
  if (what === 'maximum-prefix') inFamily().set('maximumPrefixes', Number(rest[0]))
}

/** The family whose block a line of BGP stands in; what stands in none is said of IPv4. */
function familyAround({ nodes }: Statement): string {
  return /^address-family (.*?)(?: unicast)?$/i.exec(nodes[0]?.parent?.text ?? '')?.[1] ?? 'ipv4'
}

/** Lines of a BGP block, and of the families in it. */
const BGP: MappingTable<Bgp> = new MappingTable<Bgp>(
  [
    [['bgp router-id <id>', 'router-id <id>'], (w, b) => w.set('routerId', b.text('id'))],
    ['bgp log-neighbor-changes', (w) => w.set('logsChanges', true)],
    ['no bgp log-neighbor-changes', (w) => w.set('logsChanges', false)],
    ['neighbor <address> <rest...>', (w, b, s) => neighbour(w, b, familyAround(s))],
    ['no neighbor <address> activate', (w, b, s) => w.entry('neighbours', { address: b.text('address') }).entry('families', { family: familyAround(s) }).set('active', false)],
    ['network <address:address> mask <mask:address> ...', (w, b) => w.push('networks', `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`)],
    ['network <prefix> ...', (w, b) => w.push('networks', b.text('prefix'))],
    ['redistribute <source> <options...>', (w, b) => redistributes(w, b)],
    ['redistribute <source>', (w, b) => redistributes(w, b)],
    ['address-family <name...>', (w, _, s) => BGP.read(s.scope, w)],
  ],
  ['bgp ...', 'no bgp ...', 'no auto-summary', 'no synchronization', 'timers ...', 'maximum-paths ...', 'distance ...', 'exit-address-family', 'aggregate-address ...', 'exit'],
)

const POLICY_ENTRY = new MappingTable<PolicyEntry>([
  ['match <what...>', (w, b) => w.push('matches', b.text('what'))],
  ['set <what...>', (w, b) => w.push('sets', b.text('what'))],
], ['description ...', 'continue ...', 'on-match ...', 'call ...', 'exit'])

function staticRoute(w: Writer<DeviceModel>, b: Bound, prefix: string): void {
  const rest = b.words('rest')
  const vrf = b.text('vrf') === '' ? null : b.text('vrf')
  const route: Partial<DeviceModel['staticRoutes'][number]> = { prefix, vrf }
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
    else if (word !== 'permanent' && word !== 'multicast') route.interface ??= word
  }
  w.add('staticRoutes', route)
}

function prefixEntry(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): void {
  const rest = b.words('rest')
  const bound = (word: string): number | null => (rest.includes(word) ? Number(rest[rest.indexOf(word) + 1]) : null)
  w.entry('prefixLists', { name: b.text('name'), family }).add('entries', { sequence: b.text('seq') === '' ? null : b.number('seq'), action: b.text('action'), prefix: b.text('prefix'), ge: bound('ge'), le: bound('le') })
}

export const ROUTING: readonly Mapping<DeviceModel>[] = [
  ['ip route vrf <vrf> <address:address> <mask:address> <rest...>', (w, b) => staticRoute(w, b, `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`)],
  ['ip route <address:address> <mask:address> <rest...>', (w, b) => staticRoute(w, b, `${b.text('address')}/${maskLength(b.text('mask')) ?? b.text('mask')}`)],
  ['ip default-gateway <address>', (w, b) => w.add('staticRoutes', { prefix: '0.0.0.0/0', nextHop: b.text('address'), name: 'default gateway' })],
  ['ip route <prefix> <rest...>', (w, b) => staticRoute(w, b, b.text('prefix'))],
  [['ipv6 route vrf <vrf> <prefix> <rest...>', 'ipv6 route <prefix> <rest...>'], (w, b) => staticRoute(w, b, b.text('prefix').toLowerCase())],
  [
    ['router ospf <process> vrf <vrf>', 'router ospf <process>', 'router ospf'],
    (w, b, s) => OSPF.read(s.scope, w.entry('ospf', { process: b.text('process') || '1', version: 2, vrf: b.text('vrf') || null })),
  ],
  [['router ospf6', 'ipv6 router ospf <process>', 'router ospfv3 <process>'], (w, b, s) => OSPF.read(s.scope, w.entry('ospf', { process: b.text('process') || '1', version: 3 }))],
  [['router bgp <as> vrf <vrf>', 'router bgp <as>'], (w, b, s) => BGP.read(s.scope, w.entry('bgp', { as: b.text('as'), vrf: b.text('vrf') || null }))],
  [
    'route-map <name> <action> <sequence>',
    (w, b, s: Statement) => POLICY_ENTRY.read(s.scope, w.entry('routePolicies', { name: b.text('name') }).add('entries', { sequence: b.text('sequence'), action: b.text('action') })),
  ],
  [['ip prefix-list <name> seq <seq:int> <action> <prefix> <rest...>', 'ip prefix-list <name> seq <seq:int> <action> <prefix>', 'ip prefix-list <name> {permit|deny} <prefix> <rest...>', 'ip prefix-list <name> {permit|deny} <prefix>'], (w, b, s) => prefixEntry(w, withAction(b, s), 'ipv4')],
  [['ipv6 prefix-list <name> seq <seq:int> <action> <prefix> <rest...>', 'ipv6 prefix-list <name> seq <seq:int> <action> <prefix>'], (w, b) => prefixEntry(w, b, 'ipv6')],
  [['ip community-list standard <name> <action> <members...>', 'ip community-list expanded <name> <action> <members...>', 'bgp community-list standard <name> seq * <action> <members...>', 'bgp community-list expanded <name> seq * <action> <members...>', 'ip community-list <name> <action> <members...>'], (w, b) => w.entry('communityLists', { name: b.text('name') }).add('entries', { action: b.text('action'), members: b.text('members') })],
]

/** Of an entry without a number the action is a word of the pattern, not bound by it. */
function withAction(b: Bound, statement: Statement): Bound {
  if (b.text('action') !== '') return b
  return new Bound({ ...b.names, action: statement.command.lowerWords[3] ?? '' })
}


import type { Statement } from '../../../syntax/index.ts'
import { addressWords, addressesMeet, hostMatch } from '../../../model/address.ts'
import { addressesIn } from '../../../model/address-text.ts'
import { Bound, MappingTable, NOT_TAKEN, type Mapping } from '../../../model/mapping.ts'
import { ROUTER_HARMLESS } from './harmless.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { maskLength } from './interfaces.ts'
import { BGP } from './bgp.ts'
import { redistributes } from './redistribution.ts'

export type Ospf = DeviceModel['ospf'][number]
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

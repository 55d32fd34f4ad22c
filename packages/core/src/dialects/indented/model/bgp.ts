import type { Statement } from '../../../syntax/index.ts'
import { isAddress } from '../../../model/address.ts'
import { Bound, MappingTable, NOT_TAKEN } from '../../../model/mapping.ts'
import { ROUTER_HARMLESS } from './harmless.ts'
import { secret, secretOfType } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { maskLength } from './interfaces.ts'
import { redistributes } from './redistribution.ts'

export type Bgp = DeviceModel['bgp'][number]
type Neighbour = Bgp['neighbours'][number]

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

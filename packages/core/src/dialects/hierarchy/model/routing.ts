import type { Statement } from '../../../syntax/index.ts'
import { NOT_TAKEN, partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import { secretOfHierarchy } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { OSPF, own } from './ospf.ts'
import { protocols, vrfOf } from './protocol-path.ts'

type Route = DeviceModel['staticRoutes'][number]
type Neighbour = DeviceModel['bgp'][number]['neighbours'][number]

/** A route as one of several by its next hop; settings that name no next hop are those of all of them. */
function route(w: Writer<DeviceModel>, b: Bound, hop: Partial<Route>): Writer<Route> {
  const key = routeKey(b)
  return (
    w.rekey('staticRoutes', { ...key, nextHop: null, interface: null, discard: false }, hop) ??
    w.entry('staticRoutes', { ...key, ...hop })
  )
}

function everyRoute(w: Writer<DeviceModel>, b: Bound, apply: (route: Writer<Route>) => unknown): void {
  const key = routeKey(b)
  const found = w.every('staticRoutes', key)
  for (const one of found.length > 0 ? found : [w.add('staticRoutes', key)]) apply(one)
}

function routeKey(b: Bound): Pick<Route, 'prefix' | 'vrf'> {
  return { prefix: b.text('prefix'), vrf: vrfOf(b) }
}

function under(path: string | readonly string[], apply: Mapping<DeviceModel>[1]): Mapping<DeviceModel> {
  return [
    [path]
      .flat()
      .flatMap((one) => [
        `routing-options ${one}`,
        `routing-options rib * ${one}`,
        `routing-instances <vrf> routing-options ${one}`,
        `routing-instances <vrf> routing-options rib * ${one}`,
      ]),
    apply,
  ]
}

const STATIC: readonly Mapping<DeviceModel>[] = [
  under('static route <prefix> next-hop <hop>', (w, b) =>
    route(w, b, isAddress(b.text('hop')) ? { nextHop: b.text('hop') } : { interface: b.text('hop') }),
  ),
  under('static route <prefix> qualified-next-hop <hop> preference <distance:int>', (w, b) =>
    route(w, b, { nextHop: b.text('hop') }).set('distance', b.number('distance')),
  ),
  under(
    [
      'static route <prefix> qualified-next-hop <hop>',
      'static route <prefix> qualified-next-hop <hop> {interface|metric|tag} *',
    ],
    (w, b) => route(w, b, isAddress(b.text('hop')) ? { nextHop: b.text('hop') } : { interface: b.text('hop') }),
  ),
  under('static route <prefix> {discard|reject}', (w, b) => route(w, b, { discard: true })),
  under('static route <prefix> preference <distance:int>', (w, b) =>
    everyRoute(w, b, (one) => one.set('distance', b.number('distance'))),
  ),
  under(
    [
      'static route <prefix>',
      'static route <prefix> {metric|tag|color|community|as-path|active|passive|install|no-install|readvertise|no-readvertise|retain|no-retain|resolve|no-resolve|bfd-liveness-detection} ...',
    ],
    (w, b) => everyRoute(w, b, () => undefined),
  ),
  under(['static route <prefix> next-table <table>'], (w, b) =>
    route(w, b, {
      nextHopVrf: b
        .text('table')
        .replace(/\.inet6?\.0$/, '')
        .replace(/^inet6?\.0$/, 'global'),
    }),
  ),
  under('static route <prefix> <what...>', (w, b) =>
    everyRoute(w, b, (one) => partly(one.push('notWeighed', b.text('what')))),
  ),
]

function isAddress(text: string): boolean {
  return /^(?:\d{1,3}\.){3}\d{1,3}$/.test(text) || text.includes(':')
}

/** A limit without a word of what happens beyond it only logs (common practice). */
export function settleLimits(write: Writer<DeviceModel>): void {
  for (const one of write.every('bgp', {})) {
    for (const peer of one.every('neighbours', {})) {
      for (const family of peer.every('families', {}))
        if (family.target.maximumPrefixes !== null && family.target.onlyWarns === null)
          family.presume('onlyWarns', true)
    }
  }
}

function bgp(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['bgp'][number]> {
  return w.find('bgp', { vrf: vrfOf(b) }) ?? w.add('bgp', { vrf: vrfOf(b) })
}

/** Neighbours of a group take what the group says, unless they say otherwise themselves. */
function neighbour(w: Writer<DeviceModel>, b: Bound): Writer<Neighbour> {
  const entry = bgp(w, b).entry('neighbours', { address: b.text('address') })
  if (b.text('group') !== '') entry.presume('group', b.text('group'))
  return entry
}

const NEIGHBOUR_FIELDS: readonly (readonly [
  pattern: string,
  apply: (w: Writer<Neighbour>, b: Bound, s: Statement) => unknown,
])[] = [
  ['peer-as <as>', (w, b) => w.set('remoteAs', b.text('as'))],
  ['description <text...>', (w, b) => w.set('description', b.text('text'))],
  ['authentication-key <secret>', (w, b) => w.set('secret', secretOfHierarchy(b.text('secret'), w.provenance.mask))],
  ['ttl <hops:int>', (w, b) => w.set('ttlSecurityHops', 256 - b.number('hops'))],
  ['multihop ttl <hops:int>', (w, b) => w.set('multihop', b.number('hops'))],
  ['multihop ...', (w) => w.set('multihop', 64)],
  ['local-address <source>', (w, b) => w.set('updateSource', b.text('source'))],
  ['import <policy>', (w, b) => w.entry('families', { family: 'ipv4' }).set('policyIn', b.text('policy'))],
  ['export <policy>', (w, b) => w.entry('families', { family: 'ipv4' }).set('policyOut', b.text('policy'))],
  ['authentication-key-chain <chain>', (w, b) => w.set('keyChain', b.text('chain'))],
  ['type {internal|external}', (w, b, s) => w.set('kind', s.command.lowerWords.at(-1) ?? null)],
  ['passive', (w) => w.presume('address', w.target.address)],
  ['log-updown', (w) => w.set('logsChanges', true)],
  ['shutdown ...', (w) => w.set('enabled', false)],
  ...(['inet', 'inet6'] as const).flatMap((word): (readonly [string, (w: Writer<Neighbour>, b: Bound) => unknown])[] =>
    ['unicast', 'any'].flatMap((part) =>
      ['prefix-limit', 'accepted-prefix-limit'].map(
        (limit) =>
          [
            `family ${word} ${part} ${limit} maximum <maximum:int>`,
            (w: Writer<Neighbour>, b: Bound) =>
              w
                .entry('families', { family: word === 'inet' ? 'ipv4' : 'ipv6' })
                .set('maximumPrefixes', b.number('maximum')),
          ] as const,
      ),
    ),
  ),
  // Without it what lies beyond the limit is only logged (common practice).
  [
    'family {inet|inet6} {unicast|any} {prefix-limit|accepted-prefix-limit} {teardown|drop-excess} ...',
    (w, b, s) =>
      w.entry('families', { family: s.command.lowerWords.includes('inet6') ? 'ipv6' : 'ipv4' }).set('onlyWarns', false),
  ],
  // What is done at the limit, and paths beside it; a family that is stated is active.
  [
    'family {inet|inet6} {unicast|any} ...',
    (w, b, s) =>
      w.entry('families', { family: s.command.lowerWords.includes('inet6') ? 'ipv6' : 'ipv4' }).set('active', true),
  ],
  [
    '{hold-time|cluster|local-as|local-preference|metric-out|out-delay|remove-private|as-override|advertise-inactive|tcp-mss|mtu-discovery|graceful-restart|bfd-liveness-detection|accept-remote-nexthop|preference|damping|no-client-reflect|include-mp-next-hop|vpn-apply-export|neighbor-description} ...',
    (w) => w.presume('address', w.target.address),
  ],
]

/** What neighbours say themselves. */
export const BGP_NEIGHBOURS: readonly Mapping<DeviceModel>[] = [
  ...NEIGHBOUR_FIELDS.map(([pattern, apply]) =>
    protocols(`bgp group <group> neighbor <address> ${pattern}`, (w, b, s) => apply(neighbour(w, b), b, s)),
  ),
  protocols('bgp group <group> neighbor <address>', (w, b) => neighbour(w, b)),
  protocols('bgp group <group> neighbor <address> ...', (w, b) => partly(neighbour(w, b))),
]

const BGP: readonly Mapping<DeviceModel>[] = [
  [
    [
      'routing-options autonomous-system <as> ...',
      'routing-instances <vrf> routing-options autonomous-system <as> ...',
    ],
    (w, b) => bgp(w, b).set('as', b.text('as')),
  ],
  ...BGP_NEIGHBOURS,
  protocols('bgp log-updown', (w, b) => bgp(w, b).set('logsChanges', true)),
]

/** What a group says, and what is said of all groups, is laid under its neighbours when all of them are known. */
function underNeighbours(
  w: Writer<DeviceModel>,
  b: Bound,
  s: Statement,
  apply: (w: Writer<Neighbour>, b: Bound, s: Statement) => unknown,
): unknown {
  const group = b.text('group')
  const instance = w.find('bgp', { vrf: vrfOf(b) })
  // A group is kept by its name, whether it has members or not.
  if (group !== '') apply(bgp(w, b).entry('groups', { address: group }), b, s)
  for (const one of instance?.every('neighbours', group === '' ? {} : { group }) ?? []) apply(one, b, s)
  return instance ? undefined : NOT_TAKEN
}

/** The router's own number is that of its instances, unless they state one. */
function routerId(w: Writer<DeviceModel>, b: Bound): void {
  const key = b.text('vrf') === '' ? {} : { vrf: b.text('vrf') }
  for (const one of w.every('ospf', key)) one.set('routerId', b.text('id'))
  for (const one of w.every('bgp', key)) one.set('routerId', b.text('id'))
}

/** What can be heard only when all else has been: settings of groups, and of the router as a whole. */
export const LATE: readonly Mapping<DeviceModel>[] = [
  ['protocols lldp interface <interface> disable', (w, b) => own(w, b)?.set('lldp', false)],
  [
    'protocols lldp interface <interface>',
    (w, b) =>
      b.text('interface') === 'all'
        ? w.at('system').presume('lldpOnAll', true)
        : own(w, b)?.presume('lldp', own(w, b)?.target.lldp ?? true),
  ],
  ['routing-options router-id <id>', routerId],
  ['routing-instances <vrf> routing-options router-id <id>', routerId],
  // From what holds for all to what a group says, which goes before it.
  ...NEIGHBOUR_FIELDS.map(([pattern, apply]) =>
    protocols(`bgp ${pattern}`, (w, b, s) => underNeighbours(w, b, s, apply)),
  ),
]

export const BGP_GROUPS: readonly Mapping<DeviceModel>[] = [
  ...NEIGHBOUR_FIELDS.map(([pattern, apply]) =>
    protocols(`bgp group <group> ${pattern}`, (w, b, s) => underNeighbours(w, b, s, apply)),
  ),
  // Whoever comes from there and is not named: a session with anybody of a prefix.
  protocols('bgp group <group> allow <prefix>', (w, b) =>
    bgp(w, b)
      .entry('groups', { address: b.text('group') })
      .push('allows', b.text('prefix')),
  ),
]

const POLICIES: readonly Mapping<DeviceModel>[] = [
  [
    'policy-options policy-statement <name> term <term> from <what...>',
    (w, b) => policy(w, b).push('matches', b.text('what')),
  ],
  [
    'policy-options policy-statement <name> term <term> then {accept|reject}',
    (w, b, s) => policy(w, b).set('action', s.command.lowerWords[6] === 'accept' ? 'permit' : 'deny'),
  ],
  [
    'policy-options policy-statement <name> term <term> then <what...>',
    (w, b) => policy(w, b).push('sets', b.text('what')),
  ],
  [
    'policy-options policy-statement <name> then {accept|reject}',
    (w, b, s) => policy(w, b).set('action', s.command.lowerWords[4] === 'accept' ? 'permit' : 'deny'),
  ],
  ['policy-options policy-statement <name> from <what...>', (w, b) => policy(w, b).push('matches', b.text('what'))],
  ['policy-options policy-statement <name> then <what...>', (w, b) => policy(w, b).push('sets', b.text('what'))],
  [
    'policy-options policy-statement <name> term <term> to <what...>',
    (w, b) => policy(w, b).push('matches', `to ${b.text('what')}`),
  ],
  [
    'policy-options as-path <name> <what...>',
    (w, b) =>
      w.entry('communityLists', { name: b.text('name') }).add('entries', { action: 'permit', members: b.text('what') }),
  ],
  ['policy-options prefix-list <name>', (w, b) => w.entry('prefixLists', { name: b.text('name'), family: 'ipv4' })],
  [
    'policy-options prefix-list <name> <prefix>',
    (w, b) =>
      w
        .entry('prefixLists', { name: b.text('name'), family: b.text('prefix').includes(':') ? 'ipv6' : 'ipv4' })
        .add('entries', { action: 'permit', prefix: b.text('prefix') }),
  ],
  [
    'policy-options community <name> members <members...>',
    (w, b) =>
      w
        .entry('communityLists', { name: b.text('name') })
        .add('entries', { action: 'permit', members: b.text('members') }),
  ],
]

function policy(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['routePolicies'][number]['entries'][number]> {
  return w.entry('routePolicies', { name: b.text('name') }).entry('entries', { sequence: b.text('term') || 'last' })
}

export const ROUTING: readonly Mapping<DeviceModel>[] = [...STATIC, ...OSPF, ...BGP, ...POLICIES]

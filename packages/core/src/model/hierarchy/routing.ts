import type { Bound, Mapping } from '../mapping.ts'
import { secretOfHierarchy } from '../secrets.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'

type Route = DeviceModel['staticRoutes'][number]
type Neighbour = DeviceModel['bgp'][number]['neighbours'][number]

/** A route as one of several by its next hop; settings that name no next hop are those of all of them. */
function route(w: Writer<DeviceModel>, b: Bound, hop: Partial<Route>): Writer<Route> {
  const key = routeKey(b)
  return w.rekey('staticRoutes', { ...key, nextHop: null, interface: null, discard: false }, hop) ?? w.entry('staticRoutes', { ...key, ...hop })
}

function everyRoute(w: Writer<DeviceModel>, b: Bound, apply: (route: Writer<Route>) => void): void {
  const key = routeKey(b)
  const found = w.every('staticRoutes', key)
  for (const one of found.length > 0 ? found : [w.add('staticRoutes', key)]) apply(one)
}

function routeKey(b: Bound): Pick<Route, 'prefix' | 'vrf'> {
  return { prefix: b.text('prefix'), vrf: vrfOf(b) }
}

function under(path: string, apply: Mapping<DeviceModel>[1]): Mapping<DeviceModel> {
  return [[`routing-options ${path}`, `routing-options rib * ${path}`, `routing-instances <vrf> routing-options ${path}`, `routing-instances <vrf> routing-options rib * ${path}`], apply]
}

const STATIC: readonly Mapping<DeviceModel>[] = [
  under('static route <prefix> next-hop <hop>', (w, b) => route(w, b, isAddress(b.text('hop')) ? { nextHop: b.text('hop') } : { interface: b.text('hop') })),
  under('static route <prefix> qualified-next-hop <hop> preference <distance:int>', (w, b) => route(w, b, { nextHop: b.text('hop') }).set('distance', b.number('distance'))),
  under('static route <prefix> qualified-next-hop <hop> ...', (w, b) => route(w, b, isAddress(b.text('hop')) ? { nextHop: b.text('hop') } : { interface: b.text('hop') })),
  under('static route <prefix> {discard|reject}', (w, b) => route(w, b, { discard: true })),
  under('static route <prefix> preference <distance:int>', (w, b) => everyRoute(w, b, (one) => one.set('distance', b.number('distance')))),
  under('static route <prefix> ...', (w, b) => everyRoute(w, b, () => undefined)),
]

function isAddress(text: string): boolean {
  return /^(?:\d{1,3}\.){3}\d{1,3}$/.test(text) || text.includes(':')
}

/** What the protocols of the device say, and those of a routing instance in its VRF. */
function protocols(path: string | readonly string[], apply: Mapping<DeviceModel>[1]): Mapping<DeviceModel> {
  return [[path].flat().flatMap((one) => [`protocols ${one}`, `routing-instances <vrf> protocols ${one}`]), apply]
}

function vrfOf(b: Bound): string | null {
  return b.text('vrf') === '' ? null : b.text('vrf')
}

function ospf(w: Writer<DeviceModel>, b: Bound, version = 2): Writer<DeviceModel['ospf'][number]> {
  return w.entry('ospf', { process: '1', version, vrf: vrfOf(b) })
}

const OSPF: readonly Mapping<DeviceModel>[] = [
  protocols('ospf area <area> interface <interface> passive ...', (w, b) => void [areaInterface(w, b), ospf(w, b).push('passive', b.text('interface')), own(w, b)?.at('ospf').set('passive', true)]),
  protocols('ospf area <area> interface <interface> metric <cost:int>', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('cost', b.number('cost'))]),
  protocols('ospf area <area> interface <interface> hello-interval <seconds:int>', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('helloSeconds', b.number('seconds'))]),
  protocols('ospf area <area> interface <interface> dead-interval <seconds:int>', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('deadSeconds', b.number('seconds'))]),
  protocols('ospf area <area> interface <interface> interface-type <network>', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('network', b.text('network'))]),
  protocols('ospf area <area> interface <interface> authentication md5 ...', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('authentication', 'message-digest')]),
  protocols('ospf area <area> interface <interface> authentication simple-password ...', (w, b) => void [areaInterface(w, b), own(w, b)?.at('ospf').set('authentication', 'clear')]),
  protocols('ospf area <area> interface <interface> ...', (w, b) => areaInterface(w, b)),
  protocols('ospf area <area> {stub|nssa} ...', (w, b, s) => ospf(w, b).entry('areas', { id: b.text('area') }).set('kind', s.command.lowerWords.find((word) => word === 'stub' || word === 'nssa') ?? null)),
  protocols('ospf export <policy>', (w, b) => ospf(w, b).add('redistributes', { source: 'policy', policy: b.text('policy') })),
  protocols('ospf ...', (w, b) => ospf(w, b)),
  protocols('ospf3 area <area> ...', (w, b) => ospf(w, b, 3).entry('areas', { id: b.text('area') })),
]

function own(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['interfaces'][number]> | null {
  return w.find('interfaces', { name: b.text('interface') })
}

function areaInterface(w: Writer<DeviceModel>, b: Bound): void {
  ospf(w, b).entry('areas', { id: b.text('area') })
  own(w, b)?.at('ospf').set('area', b.text('area'))
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

const NEIGHBOUR_FIELDS: readonly (readonly [pattern: string, apply: (w: Writer<Neighbour>, b: Bound) => void])[] = [
  ['peer-as <as>', (w, b) => w.set('remoteAs', b.text('as'))],
  ['description <text...>', (w, b) => w.set('description', b.text('text'))],
  ['authentication-key <secret>', (w, b) => w.set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  ['ttl <hops:int>', (w, b) => w.set('ttlSecurityHops', 256 - b.number('hops'))],
  ['multihop ttl <hops:int>', (w, b) => w.set('multihop', b.number('hops'))],
  ['multihop ...', (w) => w.set('multihop', 64)],
  ['local-address <source>', (w, b) => w.set('updateSource', b.text('source'))],
  ['import <policy>', (w, b) => w.entry('families', { family: 'ipv4' }).set('policyIn', b.text('policy'))],
  ['export <policy>', (w, b) => w.entry('families', { family: 'ipv4' }).set('policyOut', b.text('policy'))],
  ['family inet unicast prefix-limit maximum <maximum:int>', (w, b) => w.entry('families', { family: 'ipv4' }).set('maximumPrefixes', b.number('maximum'))],
  ['family inet6 unicast prefix-limit maximum <maximum:int>', (w, b) => w.entry('families', { family: 'ipv6' }).set('maximumPrefixes', b.number('maximum'))],
]

/** What neighbours say themselves. */
export const BGP_NEIGHBOURS: readonly Mapping<DeviceModel>[] = [
  ...NEIGHBOUR_FIELDS.map(([pattern, apply]) => protocols(`bgp group <group> neighbor <address> ${pattern}`, (w, b) => apply(neighbour(w, b), b))),
  protocols(['bgp group <group> neighbor <address>', 'bgp group <group> neighbor <address> ...'], (w, b) => neighbour(w, b)),
]

const BGP: readonly Mapping<DeviceModel>[] = [
  [['routing-options autonomous-system <as> ...', 'routing-instances <vrf> routing-options autonomous-system <as> ...'], (w, b) => bgp(w, b).set('as', b.text('as'))],
  ...BGP_NEIGHBOURS,
  protocols('bgp log-updown', (w, b) => bgp(w, b).set('logsChanges', true)),
]

/** What a group says is laid under its neighbours when all of them are known. */
function readBgpGroup(w: Writer<DeviceModel>, b: Bound, apply: (w: Writer<Neighbour>, b: Bound) => void): void {
  for (const one of w.find('bgp', { vrf: vrfOf(b) })?.every('neighbours', { group: b.text('group') }) ?? []) apply(one, b)
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
  ['routing-options router-id <id>', routerId],
  ['routing-instances <vrf> routing-options router-id <id>', routerId],
  ...NEIGHBOUR_FIELDS.map(([pattern, apply]) => protocols(`bgp group <group> ${pattern}`, (w, b) => readBgpGroup(w, b, apply))),
  protocols('bgp group <group> {type|cluster} ...', () => undefined),
]

const POLICIES: readonly Mapping<DeviceModel>[] = [
  ['policy-options policy-statement <name> term <term> from <what...>', (w, b) => policy(w, b).push('matches', b.text('what'))],
  ['policy-options policy-statement <name> term <term> then {accept|reject}', (w, b, s) => policy(w, b).set('action', s.command.lowerWords[6] === 'accept' ? 'permit' : 'deny')],
  ['policy-options policy-statement <name> term <term> then <what...>', (w, b) => policy(w, b).push('sets', b.text('what'))],
  ['policy-options policy-statement <name> then {accept|reject}', (w, b, s) => policy(w, b).set('action', s.command.lowerWords[4] === 'accept' ? 'permit' : 'deny')],
  ['policy-options policy-statement <name> from <what...>', (w, b) => policy(w, b).push('matches', b.text('what'))],
  ['policy-options policy-statement <name> then <what...>', (w, b) => policy(w, b).push('sets', b.text('what'))],
  ['policy-options prefix-list <name> <prefix>', (w, b) => w.entry('prefixLists', { name: b.text('name'), family: b.text('prefix').includes(':') ? 'ipv6' : 'ipv4' }).add('entries', { action: 'permit', prefix: b.text('prefix') })],
  ['policy-options community <name> members <members...>', (w, b) => w.entry('communityLists', { name: b.text('name') }).add('entries', { action: 'permit', members: b.text('members') })],
]

function policy(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['routePolicies'][number]['entries'][number]> {
  return w.entry('routePolicies', { name: b.text('name') }).entry('entries', { sequence: b.text('term') || 'last' })
}

export const ROUTING: readonly Mapping<DeviceModel>[] = [...STATIC, ...OSPF, ...BGP, ...POLICIES]

/** Interfaces, zones, routes, and what interfaces let in to the device itself. */
import { kindOfInterface } from '../../../model/interface-kind.ts'
import { partly, ignored, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Interface = DeviceModel['interfaces'][number]
type Route = DeviceModel['staticRoutes'][number]

function port(w: Writer<DeviceModel>, name: string, kind?: Interface['kind']): Writer<Interface> {
  const known = w.find('interfaces', { name })
  if (known) return w.entry('interfaces', { name })
  const made = w.entry('interfaces', { name })
  return made.presume('kind', kind ?? kindOfInterface(name))
}

function address(w: Writer<Interface>, text: string): unknown {
  const [host = '', length] = text.split('/')
  // A name of an address object stands there as well.
  if (!/^[\d.]+$|:/.test(host)) return partly(w)
  const family = host.includes(':') ? 'ipv6' : 'ipv4'
  return void w.add('addresses', {
    address: host,
    prefixLength: length === undefined ? (family === 'ipv4' ? 32 : 128) : Number(length),
    family,
    secondary: w.target.addresses.some((one) => one.family === family),
  })
}

const BASES: readonly (readonly [path: string, kind: Interface['kind'] | undefined])[] = [
  ['network interface ethernet <port> layer3', 'ethernet'],
  ['network interface ethernet <outer> layer3 units <port>', 'vlan'],
  ['network interface aggregate-ethernet <port> layer3', 'aggregate'],
  ['network interface aggregate-ethernet <outer> layer3 units <port>', 'vlan'],
  ['network interface loopback units <port>', 'loopback'],
  ['network interface tunnel units <port>', 'tunnel'],
  ['network interface vlan units <port>', 'vlan'],
]

const INTERFACES: readonly Mapping<DeviceModel>[] = [
  ...BASES.flatMap(([base, kind]): Mapping<DeviceModel>[] => {
    const at = (w: Writer<DeviceModel>, b: Bound): Writer<Interface> => port(w, b.text('port'), kind)
    return [
      [`${base} ip <address>`, (w, b) => address(at(w, b), b.text('address'))],
      [`${base} ipv6 address <address> ...`, (w, b) => address(at(w, b).set('ipv6', true), b.text('address'))],
      [`${base} ipv6 {enabled|interface-id|neighbor-discovery} ...`, (w, b) => at(w, b)],
      [`${base} dhcp-client ...`, (w, b) => at(w, b).set('addressBy', 'dhcp')],
      [`${base} mtu <mtu:int>`, (w, b) => at(w, b).set('mtu', b.number('mtu'))],
      [`${base} tag <vlan:int>`, (w, b) => at(w, b).at('switching').set('accessVlan', b.number('vlan'))],
      [`${base} comment <text...>`, (w, b) => at(w, b).set('description', b.text('text'))],
      [
        `${base} interface-management-profile <profile>`,
        (w, b) =>
          at(w, b)
            .at('policies')
            .set('input', `management ${b.text('profile')}`),
      ],
      [`${base} lldp enable <flag>`, (w, b) => at(w, b).set('lldp', b.text('flag') === 'yes')],
      [`${base} {ndp-proxy|adjust-tcp-mss|sdwan-link-settings|netflow-profile|lldp} ...`, (w, b) => at(w, b)],
      [base, (w, b) => at(w, b)],
    ]
  }),
  [
    'network interface ethernet <port> comment <text...>',
    (w, b) => port(w, b.text('port'), 'ethernet').set('description', b.text('text')),
  ],
  [
    'network interface ethernet <port> link-state <state>',
    (w, b) => port(w, b.text('port'), 'ethernet').set('enabled', b.text('state') !== 'down'),
  ],
  [
    'network interface ethernet <port> aggregate-group <group>',
    (w, b) => port(w, b.text('port'), 'ethernet').set('aggregate', b.text('group')),
  ],
  [
    'network interface ethernet <port> {link-speed|link-duplex|lldp|ha} ...',
    (w, b) => port(w, b.text('port'), 'ethernet'),
  ],
  ['network interface ethernet <port>', (w, b) => port(w, b.text('port'), 'ethernet')],
]

const ZONES: readonly Mapping<DeviceModel>[] = [
  [
    'zone <zone> network layer3 <port>',
    (w, b) => {
      w.entry('zones', { name: b.text('zone') }).push('interfaces', b.text('port'))
      w.find('interfaces', { name: b.text('port') })?.set('zone', b.text('zone'))
    },
  ],
  [
    'zone <zone> network zone-protection-profile <screen>',
    (w, b) => w.entry('zones', { name: b.text('zone') }).set('screen', b.text('screen')),
  ],
  ['zone <zone> network layer3', (w, b) => w.entry('zones', { name: b.text('zone') })],
  [
    'zone <zone> {enable-user-identification|user-acl|network} {log-setting|enable-packet-buffer-protection|yes|no|include-list} ...',
    (w, b) => w.entry('zones', { name: b.text('zone') }),
  ],
]

function route(w: Writer<DeviceModel>, b: Bound): Writer<Route> {
  const name = `${b.text('router')} ${b.text('route')}`
  const known = w.find('staticRoutes', { name })
  const made = w.entry('staticRoutes', { name })
  return known ? made : made.presume('discard', false).presume('vrf', vrfOf(b.text('router')))
}

/** The router that is there without a line is the device's own. */
function vrfOf(router: string): string | null {
  return router === 'default' ? null : router
}

const ROUTES: readonly Mapping<DeviceModel>[] = [
  [
    'network virtual-router <router> interface <port>',
    (w, b) => {
      const vrf = vrfOf(b.text('router'))
      if (vrf !== null) w.entry('vrfs', { name: vrf })
      return w.find('interfaces', { name: b.text('port') })?.set('vrf', vrf) ?? partly(w)
    },
  ],
  ...(['ip', 'ipv6'] as const).flatMap((family): Mapping<DeviceModel>[] => {
    const base = `network virtual-router <router> routing-table ${family} static-route <route>`
    return [
      [`${base} destination <prefix>`, (w, b) => route(w, b).set('prefix', b.text('prefix'))],
      [
        `${base} nexthop {ip-address|ipv6-address} <gateway>`,
        (w, b) => route(w, b).set('nextHop', b.text('gateway').split('/')[0] ?? null),
      ],
      [`${base} nexthop discard`, (w, b) => route(w, b).set('discard', true)],
      [
        `${base} nexthop next-vr <router2>`,
        (w, b) => route(w, b).set('nextHopVrf', vrfOf(b.text('router2')) ?? 'global'),
      ],
      [`${base} nexthop fqdn <host>`, (w, b) => route(w, b).push('notWeighed', `fqdn ${b.text('host')}`)],
      [`${base} interface <port>`, (w, b) => route(w, b).set('interface', b.text('port'))],
      [`${base} admin-dist <distance:int>`, (w, b) => route(w, b).set('distance', b.number('distance'))],
      [`${base} {metric|bfd|route-table} ...`, (w, b) => route(w, b)],
      // Whether it holds is then found out by asking.
      [`${base} path-monitor enable no`, (w, b) => route(w, b)],
    ]
  }),
  [
    'network virtual-router <router> protocol bgp enable yes',
    (w, b) => w.entry('bgp', { as: '', vrf: vrfOf(b.text('router')) }),
  ],
  [
    'network virtual-router <router> protocol bgp local-as <as>',
    (w, b) => w.entry('bgp', { as: '', vrf: vrfOf(b.text('router')) }).set('as', b.text('as')),
  ],
  [
    'network virtual-router <router> protocol ospf enable yes',
    (w, b) => w.entry('ospf', { process: '0', version: 2, vrf: vrfOf(b.text('router')) }),
  ],
  ['network virtual-router <router> protocol {bgp|ospf|ospfv3|rip} enable no', () => ignored()],
]

const MANAGEMENT = 'network profiles interface-management-profile <profile>'

function profile(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['trafficPolicies'][number]> {
  return w.entry('trafficPolicies', { name: `management ${b.text('profile')}` })
}

const PROFILES: readonly Mapping<DeviceModel>[] = [
  [`${MANAGEMENT} permitted-ip <prefix>`, (w, b) => profile(w, b).push('drops', `unless ${b.text('prefix')}`)],
  [
    `${MANAGEMENT} <service> <flag>`,
    (w, b) => (b.text('flag') === 'yes' ? profile(w, b).push('classes', b.text('service')) : profile(w, b)),
  ],
]

export const NETWORK: readonly Mapping<DeviceModel>[] = [...INTERFACES, ...ZONES, ...ROUTES, ...PROFILES]

/** What each interface lets in, by the profile that it names; who may is not known where a profile names addresses. */
export function settleServices(w: Writer<DeviceModel>): void {
  w.provenance.nodes = []
  for (const one of w.every('interfaces', {})) {
    const name = one.target.policies.input
    const found = w.target.trafficPolicies.find((profile) => profile.name === name)
    const zone = w.target.zones.find(({ interfaces }) => interfaces.includes(one.target.name))
    if (!zone) continue
    const limited = found?.drops.length ? ['what its profile limits by address'] : []
    w.find('zones', { name: zone.name })?.add('ownInbound', {
      interface: one.target.name,
      services: [...(found?.classes ?? []), ...limited],
      protocols: [],
    })
  }
}

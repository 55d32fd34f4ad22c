import type { Statement } from '../../../syntax/index.ts'
import { canonicalAddress } from '../../../model/address-text.ts'
import { addressWords } from '../../../model/address.ts'
import type { Interface } from '../../indented/model/interfaces.ts'
import { kindOfInterface } from '../../../model/interface-kind.ts'
import { NOT_TAKEN, partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

/** The port of a path (`ge-0/0/0`), or its unit (`ge-0/0/0.100`); what holds for a port is stated there. */
function port(w: Writer<DeviceModel>, b: Bound): Writer<Interface> {
  return named(w, b.text('port'))
}

function unit(w: Writer<DeviceModel>, b: Bound): Writer<Interface> {
  const name = `${b.text('port')}.${b.text('unit')}`
  if (!w.find('interfaces', { name: b.text('port') })) port(w, b)
  return named(w, name)
}

function named(w: Writer<DeviceModel>, name: string): Writer<Interface> {
  return w.entry('interfaces', { name }).presume('kind', kindOfInterface(name))
}

function address(
  w: Writer<Interface>,
  text: string,
  family: 'ipv4' | 'ipv6',
): Writer<Interface['addresses'][number]> | null {
  const [bare = '', length] = text.split('/')
  if (addressWords(bare, family) === null) return null
  return w.entry('addresses', {
    address: canonicalAddress(bare),
    prefixLength: Number(length ?? (family === 'ipv4' ? 32 : 128)),
    family,
  })
}

const UNIT = 'interfaces <port> unit <unit>'

function inFamily(rest: string, apply: (w: Writer<Interface>, b: Bound, s: Statement) => void): Mapping<DeviceModel> {
  return [`${UNIT} family inet ${rest}`, (w, b, s) => apply(unit(w, b), b, s)]
}

/**
 * Filters that are asked one after the other, as one list: what none of them decides is discarded (common practice). It
 * is known by their names together.
 */
function addToChain(w: Writer<DeviceModel>, b: Bound, word: 'inet' | 'inet6', direction: 'in' | 'out'): void {
  const family = word === 'inet6' ? 'ipv6' : 'ipv4'
  const field = `${direction}${family === 'ipv6' ? '6' : '4'}` as const
  const filters = unit(w, b).at('filters')
  const before = filters.target[field]
  const isChain = before !== null && before.startsWith('[ ')
  const name = isChain ? before.replace(/ \]$/, ` ${b.text('name')} ]`) : `[ ${b.text('name')} ]`
  const chain =
    (isChain ? w.rekey('accessLists', { name: before, family }, { name }) : null) ??
    w.entry('accessLists', { name, family }).presume('defaultAction', 'deny')
  chain.add('entries', { text: `filter ${b.text('name')}`, action: 'other', inlines: b.text('name') })
  filters.set(field, name)
}

export const INTERFACES: readonly Mapping<DeviceModel>[] = [
  ['interfaces <port> description <text...>', (w, b) => port(w, b).set('description', b.text('text'))],
  ['interfaces <port> enable', (w, b) => port(w, b).set('enabled', true)],
  ['interfaces <port> disable', (w, b) => port(w, b).set('enabled', false)],
  ['interfaces <port> mtu <mtu:int>', (w, b) => port(w, b).set('mtu', b.number('mtu'))],
  ['interfaces <port> speed <speed>', (w, b) => port(w, b).set('speed', b.text('speed'))],
  [
    'interfaces <port> native-vlan-id <vlan:int>',
    (w, b) => port(w, b).at('switching').set('nativeVlan', b.number('vlan')),
  ],
  [
    ['interfaces <port> gigether-options 802.3ad <group>', 'interfaces <port> ether-options 802.3ad <group>'],
    (w, b) => port(w, b).set('aggregate', b.text('group')),
  ],
  [`${UNIT} description <text...>`, (w, b) => unit(w, b).set('description', b.text('text'))],
  [`${UNIT} disable`, (w, b) => unit(w, b).set('enabled', false)],
  [`${UNIT} vlan-id <vlan:int>`, (w, b) => unit(w, b).at('switching').set('accessVlan', b.number('vlan'))],
  [`${UNIT} tunnel source <source>`, (w, b) => unit(w, b).at('tunnel').set('source', b.text('source'))],
  [
    `${UNIT} tunnel destination <destination>`,
    (w, b) => unit(w, b).at('tunnel').set('destination', b.text('destination')),
  ],
  [`${UNIT} tunnel key <key>`, (w, b) => unit(w, b).at('tunnel').set('key', b.text('key'))],
  [`${UNIT} proxy-arp ...`, (w, b) => unit(w, b).set('proxyArp', true)],
  inFamily(
    'address <address> vrrp-group <group> virtual-address <virtual>',
    (w, b) =>
      void [
        address(w, b.text('address'), 'ipv4'),
        w.entry('redundancy', { protocol: 'vrrp', group: b.text('group') }).set('address', b.text('virtual')),
      ],
  ),
  inFamily('address <address> vrrp-group <group> priority <priority:int>', (w, b) =>
    w.entry('redundancy', { protocol: 'vrrp', group: b.text('group') }).set('priority', b.number('priority')),
  ),
  inFamily('address <address> vrrp-group <group> preempt', (w, b) =>
    w.entry('redundancy', { protocol: 'vrrp', group: b.text('group') }).set('preempt', true),
  ),
  inFamily('address <address> {primary|preferred}', (w, b) => address(w, b.text('address'), 'ipv4')),
  inFamily('address <address>', (w, b) => address(w, b.text('address'), 'ipv4')),
  inFamily('dhcp ...', (w) => w.set('addressBy', 'dhcp')),
  inFamily('filter input <name>', (w, b) => w.at('filters').set('in4', b.text('name'))),
  inFamily('filter output <name>', (w, b) => w.at('filters').set('out4', b.text('name'))),
  ...(['inet', 'inet6'] as const).flatMap((family): Mapping<DeviceModel>[] => [
    [`${UNIT} family ${family} filter input-list <name>`, (w, b) => addToChain(w, b, family, 'in')],
    [`${UNIT} family ${family} filter output-list <name>`, (w, b) => addToChain(w, b, family, 'out')],
  ]),
  [
    [`${UNIT} family inet targeted-broadcast`, `${UNIT} family inet targeted-broadcast ...`],
    (w, b) => unit(w, b).set('directedBroadcast', true),
  ],
  [`${UNIT} family inet6 rpf-check`, (w, b) => unit(w, b).set('reversePath', 'strict')],
  [`${UNIT} family inet6 rpf-check mode loose`, (w, b) => unit(w, b).set('reversePath', 'loose')],
  [
    `${UNIT} family inet unnumbered-address <interface> ...`,
    (w, b) => unit(w, b).set('addressBy', `unnumbered ${b.text('interface')}`),
  ],
  // A filter of the check may let packets in that it refuses.
  [
    [`${UNIT} family inet rpf-check fail-filter <name>`, `${UNIT} family inet6 rpf-check fail-filter <name>`],
    (w, b) => partly(unit(w, b).set('reversePath', 'strict')),
  ],
  inFamily('no-redirects', (w) => w.set('redirects', false)),
  inFamily('address <address> vrrp-group <group> authentication-key <secret>', (w, b) =>
    partly(address(w, b.text('address'), 'ipv4')),
  ),
  inFamily('rpf-check', (w) => w.set('reversePath', 'strict')),
  inFamily('rpf-check mode loose', (w) => w.set('reversePath', 'loose')),
  inFamily('mtu <mtu:int>', (w, b) => w.set('mtu', b.number('mtu'))),
  [
    [`${UNIT} family inet6 address <address>`, `${UNIT} family inet6 address <address> {primary|preferred|eui-64}`],
    (w, b) => address(unit(w, b), b.text('address'), 'ipv6'),
  ],
  [
    `${UNIT} family inet6 address <address> vrrp-inet6-group <group> virtual-inet6-address <virtual>`,
    (w, b) =>
      void [
        address(unit(w, b), b.text('address'), 'ipv6'),
        unit(w, b)
          .entry('redundancy', { protocol: 'vrrp', group: b.text('group') })
          .set('address', b.text('virtual')),
      ],
  ],
  [
    `${UNIT} family {inet|inet6} address <address> ...`,
    (w, b, s) => partly(address(unit(w, b), b.text('address'), s.command.lowerWords[5] === 'inet6' ? 'ipv6' : 'ipv4')),
  ],
  [`${UNIT} family inet6 filter input <name>`, (w, b) => unit(w, b).at('filters').set('in6', b.text('name'))],
  [`${UNIT} family inet6 filter output <name>`, (w, b) => unit(w, b).at('filters').set('out6', b.text('name'))],
  [
    [`${UNIT} family ethernet-switching {interface-mode|port-mode} <mode>`],
    (w, b) => unit(w, b).at('switching').set('mode', b.text('mode')),
  ],
  [`${UNIT} family ethernet-switching vlan members <vlans>`, (w, b) => vlanMembers(unit(w, b), b.text('vlans'))],
  [
    [`${UNIT}`, `${UNIT} family inet`, `${UNIT} family inet6`, `${UNIT} family ethernet-switching`],
    (w, b) => unit(w, b),
  ],
  ['interfaces <port>', (w, b) => port(w, b)],
  ['vlans <name> vlan-id <id:int>', (w, b) => w.entry('vlans', { id: b.number('id') }).set('name', b.text('name'))],
  [
    'routing-instances <vrf> interface <interface>',
    (w, b) =>
      void [
        w.entry('vrfs', { name: b.text('vrf') }),
        w.find('interfaces', { name: b.text('interface') })?.set('vrf', b.text('vrf')),
      ],
  ],
  [
    'routing-instances <vrf> route-distinguisher <rd>',
    (w, b) => w.entry('vrfs', { name: b.text('vrf') }).set('routeDistinguisher', b.text('rd')),
  ],
  ['vlans <name> vlan-id none', () => NOT_TAKEN],
  [
    'vlans <name> l3-interface <interface>',
    (w, b) => w.find('vlans', { name: b.text('name') })?.set('interface', b.text('interface')),
  ],
  ['vlans <name> {interface|filter} ...', (_, b) => partly(b)],
  [
    'routing-instances <vrf> {vrf-target|vrf-table-label|description|vrf-import|vrf-export|no-vrf-propagate-ttl} ...',
    (w, b) => w.entry('vrfs', { name: b.text('vrf') }),
  ],
  ['routing-instances <vrf> vrf-table-label', (w, b) => w.entry('vrfs', { name: b.text('vrf') })],
  [
    'routing-instances <vrf> instance-type {vrf|virtual-router|forwarding|no-forwarding}',
    (w, b) => w.entry('vrfs', { name: b.text('vrf') }),
  ],
]

/** Members by number or by name; several collect. */
function vlanMembers(w: Writer<Interface>, vlans: string): void {
  const switching = w.at('switching')
  if (switching.target.mode !== 'trunk' && /^\d+$/.test(vlans)) switching.set('accessVlan', Number(vlans))
  switching.set('allowedVlans', [switching.target.allowedVlans, vlans].filter(Boolean).join(','))
}

import type { Statement } from '../../../syntax/index.ts'
import { canonicalAddress } from '../../../model/address-text.ts'
import { addressWords } from '../../../model/address.ts'
import { MappingTable, NOT_TAKEN, type Bound, type Mapping } from '../../../model/mapping.ts'
import { INTERFACE_HARMLESS } from './harmless.ts'
import { kindOfInterface } from '../../../model/interface-kind.ts'
import { secretOfType, secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import { ALL_VLANS, vlanRanges, vlansOf } from '../../../model/vlans.ts'
import type { Writer } from '../../../model/writer.ts'

export type Interface = DeviceModel['interfaces'][number]

/** Length of a mask written out, or null where its ones are not all in front. */
export function maskLength(mask: string): number | null {
  const word = addressWords(mask, 'ipv4')?.[0]
  if (word === undefined) return null
  const zeros = ~word >>> 0
  return (zeros & (zeros + 1)) === 0 ? 32 - Math.round(Math.log2(zeros + 1)) : null
}

function address(w: Writer<Interface>, text: string, mask: string, secondary: boolean): void {
  const [bare = '', slash] = text.split('/')
  const length = slash === undefined ? maskLength(mask) : Number(slash)
  if (length === null || addressWords(bare, 'ipv4') === null) return
  w.add('addresses', { address: bare, prefixLength: length, family: 'ipv4', secondary })
}

/** VLANs of a list that are not in another; all there are where the first is null. Null where one cannot be read. */
function withoutVlans(list: string | null, others: string): string | null {
  const [held, taken] = [vlansOf(list ?? ALL_VLANS), vlansOf(others)]
  return held && taken && vlanRanges(new Set([...held].filter((vlan) => !taken.has(vlan))))
}

function setWithout(w: Writer<Interface>, list: string | null, others: string): unknown {
  const left = withoutVlans(list, others)
  return left === null ? NOT_TAKEN : w.at('switching').set('allowedVlans', left)
}

function address6(w: Writer<Interface>, b: Bound): void {
  const [bare = '', length = '128'] = b.text('address').split('/')
  if (addressWords(bare, 'ipv6') === null) return
  w.add('addresses', {
    address: canonicalAddress(bare),
    prefixLength: Number(length),
    family: 'ipv6',
    secondary: false,
  })
}

function flagged(
  command: string,
  field: 'proxyArp' | 'redirects' | 'unreachables' | 'directedBroadcast',
): Mapping<Interface>[] {
  return [
    [`${command} ...`, (w) => w.set(field, true)],
    [`no ${command} ...`, (w) => w.set(field, false)],
  ]
}

const BASICS: readonly Mapping<Interface>[] = [
  ['description <text...>', (w, b) => w.set('description', b.text('text'))],
  ['shutdown', (w) => w.set('enabled', false)],
  ['no shutdown', (w) => w.set('enabled', true)],
  ['mtu <mtu:int>', (w, b) => w.set('mtu', b.number('mtu'))],
  [
    ['vrf forwarding <vrf>', 'ip vrf forwarding <vrf>', 'vrf member <vrf>', 'vrf <vrf>'],
    (w, b) => w.set('vrf', b.text('vrf')),
  ],
  ['zone-member security <zone>', (w, b) => w.set('zone', b.text('zone'))],
  ['channel-group <group> ...', (w, b) => w.set('aggregate', `Port-channel${b.text('group')}`)],
  ['speed <speed...>', (w, b) => w.set('speed', b.text('speed'))],
  ['duplex <duplex>', (w, b) => w.set('duplex', b.text('duplex'))],
  ['service-policy input <name>', (w, b) => w.at('policies').set('input', b.text('name'))],
  ['service-policy output <name>', (w, b) => w.at('policies').set('output', b.text('name'))],
  ['lldp transmit', (w) => w.set('lldp', true)],
  ['no lldp transmit', (w) => w.set('lldp', false)],
]

const ADDRESSES: readonly Mapping<Interface>[] = [
  ['ip address negotiated ...', (w) => w.set('addressBy', 'negotiated')],
  ['ip address dhcp ...', (w) => w.set('addressBy', 'dhcp')],
  ['ip address <address> <mask:address> secondary', (w, b) => address(w, b.text('address'), b.text('mask'), true)],
  ['ip address <address> <mask:address>', (w, b) => address(w, b.text('address'), b.text('mask'), false)],
  [
    'ip address <address> {secondary|label} ...',
    (w, b, s) => address(w, b.text('address'), '', s.command.lowerWords[3] === 'secondary'),
  ],
  ['ip address <address>', (w, b) => address(w, b.text('address'), '', false)],
  [['ip unnumbered <interface> ...'], (w, b) => w.set('addressBy', `unnumbered ${b.text('interface')}`)],
  ['ipv6 address autoconfig ...', (w) => w.set('addressBy', 'slaac')],
  ['ipv6 address <address> ...', address6],
  ['ip helper-address <helper> ...', (w, b) => w.push('helpers', b.text('helper'))],
]

const TRAFFIC: readonly Mapping<Interface>[] = [
  ['ip access-group <acl> in', (w, b) => w.at('filters').set('in4', b.text('acl'))],
  ['ip access-group <acl> out', (w, b) => w.at('filters').set('out4', b.text('acl'))],
  ['ipv6 traffic-filter <acl> in', (w, b) => w.at('filters').set('in6', b.text('acl'))],
  ['ipv6 traffic-filter <acl> out', (w, b) => w.at('filters').set('out6', b.text('acl'))],
  ...flagged('ip proxy-arp', 'proxyArp'),
  ...flagged('ip redirects', 'redirects'),
  ...flagged('ip unreachables', 'unreachables'),
  ...flagged('ip directed-broadcast', 'directedBroadcast'),
  ['ip verify unicast source reachable-via rx ...', (w) => w.set('reversePath', 'strict')],
  ['ip verify unicast source reachable-via any ...', (w) => w.set('reversePath', 'loose')],
  ['ip verify unicast reverse-path ...', (w) => w.set('reversePath', 'strict')],
  ['ip policy route-map <name>', (w, b) => w.at('policyRoutes').set('ipv4', b.text('name'))],
  ['ipv6 policy route-map <name>', (w, b) => w.at('policyRoutes').set('ipv6', b.text('name'))],
  // Of a switched port, and so of packets that it hands on within a VLAN.
  ['mac access-group <acl> {in|out}', () => NOT_TAKEN],
  ['ip nat {inside|outside}', (w, _, s) => w.set('nat', s.command.lowerWords[2] ?? null)],
  ['crypto map <name> ...', (w, b) => w.set('encryption', `map ${b.text('name')}`)],
  ['macsec ...', (w) => w.set('encryption', 'macsec')],
  ['mka policy <name>', (w, b) => w.set('encryption', `macsec ${b.text('name')}`)],
]

const SWITCHING: readonly Mapping<Interface>[] = [
  ['switchport mode <mode...>', (w, b) => w.at('switching').set('mode', b.text('mode'))],
  ['switchport access vlan <vlan:int>', (w, b) => w.at('switching').set('accessVlan', b.number('vlan'))],
  ['switchport voice vlan <vlan:int>', (w, b) => w.at('switching').set('voiceVlan', b.number('vlan'))],
  ['switchport trunk native vlan <vlan:int>', (w, b) => w.at('switching').set('nativeVlan', b.number('vlan'))],
  [
    'switchport trunk allowed vlan add <vlans>',
    (w, b) =>
      w
        .at('switching')
        .set('allowedVlans', [w.target.switching.allowedVlans, b.text('vlans')].filter(Boolean).join(',')),
  ],
  ['switchport trunk allowed vlan <vlans>', (w, b) => w.at('switching').set('allowedVlans', b.text('vlans'))],
  ['no switchport', (w) => w.at('switching').set('mode', 'routed')],
  [
    'switchport',
    (w) => w.at('switching').set('mode', w.target.switching.mode === 'routed' ? null : w.target.switching.mode),
  ],
  ['switchport nonegotiate', (w) => w.at('switching').set('negotiates', false)],
  ['no switchport nonegotiate', (w) => w.at('switching').set('negotiates', true)],
  [
    'switchport trunk allowed vlan remove <vlans>',
    (w, b) => setWithout(w, w.target.switching.allowedVlans, b.text('vlans')),
  ],
  ['switchport trunk allowed vlan except <vlans>', (w, b) => setWithout(w, null, b.text('vlans'))],
  ['switchport trunk allowed vlan none', (w) => w.at('switching').set('allowedVlans', 'none')],
  ['encapsulation dot1q <vlan:int> ...', (w, b) => w.at('switching').set('accessVlan', b.number('vlan'))],
  [
    'switchport port-security maximum <maximum:int> ...',
    (w, b) => w.at('portSecurity').set('maximum', b.number('maximum')),
  ],
  [
    'switchport port-security violation <violation>',
    (w, b) => w.at('portSecurity').set('violation', b.text('violation')),
  ],
  ['switchport port-security', (w) => w.at('portSecurity').set('enabled', true)],
  [
    'storm-control <traffic> level <level...>',
    (w, b) => w.add('stormControl', { traffic: b.text('traffic'), level: b.text('level') }),
  ],
  [
    ['authentication port-control <mode>', 'dot1x port-control <mode>', 'access-session port-control <mode>'],
    (w, b) => w.set('portAuthentication', b.text('mode')),
  ],
]

const OTHERS: readonly Mapping<Interface>[] = [
  ['tunnel source <source>', (w, b) => w.at('tunnel').set('source', b.text('source'))],
  ['tunnel destination <destination>', (w, b) => w.at('tunnel').set('destination', b.text('destination'))],
  ['tunnel mode <mode...>', (w, b) => w.at('tunnel').set('mode', b.text('mode'))],
  ['tunnel key <key>', (w, b) => w.at('tunnel').set('key', b.text('key'))],
  ['tunnel protection ipsec profile <name> ...', (w, b) => w.at('tunnel').set('protection', b.text('name'))],
  [['ip ospf cost <cost:int>', 'ospf cost <cost:int>'], (w, b) => w.at('ospf').set('cost', b.number('cost'))],
  [
    ['ip ospf hello-interval <seconds:int>', 'ospf hello-interval <seconds:int>'],
    (w, b) => w.at('ospf').set('helloSeconds', b.number('seconds')),
  ],
  [
    ['ip ospf dead-interval <seconds:int>', 'ospf dead-interval <seconds:int>'],
    (w, b) => w.at('ospf').set('deadSeconds', b.number('seconds')),
  ],
  [['ip ospf network <network>'], (w, b) => w.at('ospf').set('network', b.text('network'))],
  ['ip ospf authentication message-digest', (w) => w.at('ospf').set('authentication', 'message-digest')],
  ['ip ospf authentication null', (w) => w.at('ospf').set('authentication', 'null')],
  // A key is used where the interface or its area says how.
  [['ip ospf message-digest-key ...', 'ip ospf authentication-key ...'], (w) => w.at('ospf').set('keyed', true)],
  [
    [
      'ospfv3 authentication ipsec ...',
      'ipv6 ospf authentication ipsec ...',
      'ipv6 ospf encryption ipsec ...',
      'ospfv3 encryption ipsec ...',
    ],
    (w) => w.at('ospf').set('authentication', 'ipsec'),
  ],
  [
    ['ip ospf authentication key-chain <chain>'],
    (w, b) => w.at('ospf').set('authentication', `key-chain ${b.text('chain')}`),
  ],
  ['ip ospf authentication', (w) => w.at('ospf').set('authentication', 'clear')],
  [
    [
      'ip ospf <process> area <area>',
      'ip ospf area <area>',
      'ipv6 ospf <process> area <area>',
      'ospfv3 <process> ipv6 area <area>',
    ],
    (w, b) => w.at('ospf').set('area', b.text('area')),
  ],
  ['ip ospf passive', (w) => w.at('ospf').set('passive', true)],
  ['no ip ospf passive', (w) => w.at('ospf').set('passive', false)],
  ['standby <group:int> ip <address>', (w, b) => fhrp(w, b, 'hsrp').set('address', b.text('address'))],
  ['standby <group:int> priority <priority:int>', (w, b) => fhrp(w, b, 'hsrp').set('priority', b.number('priority'))],
  ['standby <group:int> preempt ...', (w, b) => fhrp(w, b, 'hsrp').set('preempt', true)],
  [
    'standby <group:int> authentication md5 key-string <form:int> <secret>',
    (w, b) =>
      fhrp(w, b, 'hsrp')
        .set('md5', true)
        .set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
  ],
  [
    'standby <group:int> authentication md5 key-string <secret>',
    (w, b) =>
      fhrp(w, b, 'hsrp')
        .set('md5', true)
        .set('secret', secret('clear', b.text('secret'), w.provenance.mask)),
  ],
  ['standby <group:int> authentication md5 key-chain *', (w, b) => fhrp(w, b, 'hsrp').set('md5', true)],
  [
    'standby <group:int> authentication text <secret>',
    (w, b) =>
      fhrp(w, b, 'hsrp')
        .set('md5', false)
        .set('secret', secret('clear', b.text('secret'), w.provenance.mask)),
  ],
  [
    'standby <group:int> authentication <secret>',
    (w, b) =>
      fhrp(w, b, 'hsrp')
        .set('md5', false)
        .set('secret', secret('clear', b.text('secret'), w.provenance.mask)),
  ],
  [
    ['vrrp <group:int> ip <address>', 'vrrp <group:int> address <address>'],
    (w, b) => fhrp(w, b, 'vrrp').set('address', b.text('address')),
  ],
  ['vrrp <group:int> priority <priority:int>', (w, b) => fhrp(w, b, 'vrrp').set('priority', b.number('priority'))],
]

function fhrp(w: Writer<Interface>, b: Bound, protocol: string): Writer<Interface['redundancy'][number]> {
  return w.entry('redundancy', { protocol, group: b.text('group') })
}

/** What guards a port of a bridge, and what it tells of the device. */
const GUARDS: readonly Mapping<Interface>[] = [
  [
    [
      'spanning-tree portfast',
      'spanning-tree portfast edge',
      'spanning-tree portfast edge trunk',
      'spanning-tree portfast trunk',
      'spanning-tree portfast network',
    ],
    (w, _, s) => edge(w, s.command.lowerWords.slice(2).join(' ') || 'edge'),
  ],
  [['spanning-tree portfast disable', 'no spanning-tree portfast ...'], (w) => edge(w, 'off')],
  ['spanning-tree bpduguard enable', (w) => w.at('spanningTree').set('guard', true)],
  [
    ['spanning-tree bpduguard disable', 'no spanning-tree bpduguard ...'],
    (w) => w.at('spanningTree').set('guard', false),
  ],
  ['spanning-tree bpdufilter enable', (w) => w.at('spanningTree').set('filter', true)],
  [
    ['spanning-tree bpdufilter disable', 'no spanning-tree bpdufilter ...'],
    (w) => w.at('spanningTree').set('filter', false),
  ],
  ['spanning-tree guard <what>', (w, b) => w.at('spanningTree').set('rootGuard', b.text('what') === 'root')],
  ['ip dhcp snooping trust', (w) => w.at('trusted').set('dhcp', true)],
  ['no ip dhcp snooping trust', (w) => w.at('trusted').set('dhcp', false)],
  ['ip arp inspection trust', (w) => w.at('trusted').set('arp', true)],
  ['no ip arp inspection trust', (w) => w.at('trusted').set('arp', false)],
  ['authentication open', (w) => w.set('authenticationOpen', true)],
  [['dot1x pae authenticator', 'dot1x pae both'], (w) => w.set('authenticates', 'dot1x')],
  ['mab ...', (w) => w.set('authenticates', w.target.authenticates === null ? 'address' : 'dot1x or address')],
  ['cdp enable', (w) => w.set('cdp', true)],
  ['no cdp enable', (w) => w.set('cdp', false)],
  ['ipv6 enable', (w) => w.set('ipv6', true)],
  ['no ipv6 enable', (w) => w.set('ipv6', false)],
]

function edge(w: Writer<Interface>, how: string): void {
  w.at('spanningTree').set('edge', how)
}

export const INTERFACE = new MappingTable<Interface>(
  [...BASICS, ...ADDRESSES, ...TRAFFIC, ...SWITCHING, ...GUARDS, ...OTHERS],
  INTERFACE_HARMLESS,
)

/** An `interface` block; its name as it stands. Without `shutdown` an interface is on, but for ports of routers. */
export function readInterface(write: Writer<DeviceModel>, statement: Statement): unknown {
  const name = statement.text.slice('interface '.length)
  // Typed for several interfaces at once; no listing shows it.
  if (/^range /i.test(name)) return NOT_TAKEN
  const interfaceWriter = write.entry('interfaces', { name }).presume('kind', kindOfInterface(name))
  INTERFACE.read(statement.scope, interfaceWriter)
  return undefined
}

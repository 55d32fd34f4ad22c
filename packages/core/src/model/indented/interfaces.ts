import type { Statement } from '../../config/index.ts'
import { addressWords } from '../address.ts'
import { MappingTable, type Bound, type Mapping } from '../mapping.ts'
import { kindOfInterface } from '../interface-kind.ts'
import { secretOfType, secret } from '../secrets.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'

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

function address6(w: Writer<Interface>, b: Bound): void {
  const [bare = '', length = '128'] = b.text('address').split('/')
  if (addressWords(bare, 'ipv6') === null) return
  w.add('addresses', { address: bare.toLowerCase(), prefixLength: Number(length), family: 'ipv6', secondary: false })
}

function flagged(command: string, field: 'proxyArp' | 'redirects' | 'unreachables' | 'directedBroadcast'): Mapping<Interface>[] {
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
  [['vrf forwarding <vrf>', 'ip vrf forwarding <vrf>', 'vrf member <vrf>', 'vrf <vrf>'], (w, b) => w.set('vrf', b.text('vrf'))],
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
  ['ip address dhcp ...', (w) => w.set('addressBy', 'dhcp')],
  ['ip address <address> <mask:address> secondary', (w, b) => address(w, b.text('address'), b.text('mask'), true)],
  ['ip address <address> <mask:address>', (w, b) => address(w, b.text('address'), b.text('mask'), false)],
  ['ip address <address> {secondary|label} ...', (w, b, s) => address(w, b.text('address'), '', s.command.lowerWords[3] === 'secondary')],
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
  ['switchport trunk allowed vlan add <vlans>', (w, b) => w.at('switching').set('allowedVlans', [w.target.switching.allowedVlans, b.text('vlans')].filter(Boolean).join(','))],
  ['switchport trunk allowed vlan <vlans>', (w, b) => w.at('switching').set('allowedVlans', b.text('vlans'))],
  ['no switchport', (w) => w.at('switching').set('mode', 'routed')],
  ['encapsulation dot1q <vlan:int> ...', (w, b) => w.at('switching').set('accessVlan', b.number('vlan'))],
  ['switchport port-security maximum <maximum:int> ...', (w, b) => w.at('portSecurity').set('maximum', b.number('maximum'))],
  ['switchport port-security violation <violation>', (w, b) => w.at('portSecurity').set('violation', b.text('violation'))],
  ['switchport port-security', (w) => w.at('portSecurity').set('enabled', true)],
  ['storm-control <traffic> level <level...>', (w, b) => w.add('stormControl', { traffic: b.text('traffic'), level: b.text('level') })],
  [['authentication port-control <mode>', 'dot1x port-control <mode>', 'access-session port-control <mode>'], (w, b) => w.set('portAuthentication', b.text('mode'))],
]

const OTHERS: readonly Mapping<Interface>[] = [
  ['tunnel source <source>', (w, b) => w.at('tunnel').set('source', b.text('source'))],
  ['tunnel destination <destination>', (w, b) => w.at('tunnel').set('destination', b.text('destination'))],
  ['tunnel mode <mode...>', (w, b) => w.at('tunnel').set('mode', b.text('mode'))],
  ['tunnel key <key>', (w, b) => w.at('tunnel').set('key', b.text('key'))],
  ['tunnel protection ipsec profile <name> ...', (w, b) => w.at('tunnel').set('protection', b.text('name'))],
  [['ip ospf cost <cost:int>', 'ospf cost <cost:int>'], (w, b) => w.at('ospf').set('cost', b.number('cost'))],
  [['ip ospf hello-interval <seconds:int>', 'ospf hello-interval <seconds:int>'], (w, b) => w.at('ospf').set('helloSeconds', b.number('seconds'))],
  [['ip ospf dead-interval <seconds:int>', 'ospf dead-interval <seconds:int>'], (w, b) => w.at('ospf').set('deadSeconds', b.number('seconds'))],
  [['ip ospf network <network>'], (w, b) => w.at('ospf').set('network', b.text('network'))],
  [['ip ospf authentication message-digest', 'ip ospf message-digest-key ...'], (w) => w.at('ospf').set('authentication', 'message-digest')],
  [['ip ospf authentication key-chain <chain>'], (w, b) => w.at('ospf').set('authentication', `key-chain ${b.text('chain')}`)],
  [['ip ospf authentication', 'ip ospf authentication-key ...'], (w) => w.at('ospf').set('authentication', 'clear')],
  [['ip ospf <process> area <area>', 'ip ospf area <area>', 'ipv6 ospf <process> area <area>', 'ospfv3 <process> ipv6 area <area>'], (w, b) => w.at('ospf').set('area', b.text('area'))],
  [['ip ospf passive'], (w) => w.at('ospf').set('passive', true)],
  ['standby <group:int> ip <address>', (w, b) => fhrp(w, b, 'hsrp').set('address', b.text('address'))],
  ['standby <group:int> priority <priority:int>', (w, b) => fhrp(w, b, 'hsrp').set('priority', b.number('priority'))],
  ['standby <group:int> preempt ...', (w, b) => fhrp(w, b, 'hsrp').set('preempt', true)],
  ['standby <group:int> authentication md5 key-string <form:int> <secret>', (w, b) => fhrp(w, b, 'hsrp').set('md5', true).set('secret', secretOfType(b.text('form'), b.text('secret'), w.sheet.mask))],
  ['standby <group:int> authentication md5 key-string <secret>', (w, b) => fhrp(w, b, 'hsrp').set('md5', true).set('secret', secret('clear', b.text('secret'), w.sheet.mask))],
  ['standby <group:int> authentication <secret>', (w, b) => fhrp(w, b, 'hsrp').set('md5', false).set('secret', secret('clear', b.text('secret'), w.sheet.mask))],
  [['vrrp <group:int> ip <address>', 'vrrp <group:int> address <address>'], (w, b) => fhrp(w, b, 'vrrp').set('address', b.text('address'))],
  ['vrrp <group:int> priority <priority:int>', (w, b) => fhrp(w, b, 'vrrp').set('priority', b.number('priority'))],
]

function fhrp(w: Writer<Interface>, b: Bound, protocol: string): Writer<Interface['redundancy'][number]> {
  return w.entry('redundancy', { protocol, group: b.text('group') })
}

const NOTED = ['no ip address', 'no ip route-cache ...', 'bandwidth ...', 'delay ...', 'load-interval ...', 'keepalive ...', 'no keepalive ...', 'negotiation ...', 'spanning-tree ...', 'switchport nonegotiate', 'switchport', 'switchport trunk encapsulation ...', 'ip mtu ...', 'ip tcp ...', 'ip ospf priority ...', 'cdp enable', 'no cdp enable', 'lldp receive', 'no lldp receive', 'no mop enabled', 'no mop sysid', 'media-type ...', 'storm-control action ...', 'ip dhcp snooping ...', 'ip arp inspection ...', 'ip flow ...', 'power inline ...', 'ipv6 enable', 'ipv6 nd ...', 'no ipv6 nd ...', 'authentication ...', 'dot1x ...', 'mab ...', 'standby version ...', 'standby <group:int> timers ...', 'standby <group:int> track ...', 'logging event ...', 'no snmp trap ...', 'snmp trap ...', 'arp timeout ...', 'carrier-delay ...', 'ipv6 ospf cost ...', 'exit']

export const INTERFACE = new MappingTable<Interface>([...BASICS, ...ADDRESSES, ...TRAFFIC, ...SWITCHING, ...OTHERS], NOTED)

/** An `interface` block; its name as it stands. Without `shutdown` an interface is on, but for ports of routers. */
export function readInterface(write: Writer<DeviceModel>, statement: Statement): void {
  const name = statement.text.slice('interface '.length)
  const interfaceWriter = write.entry('interfaces', { name }).presume('kind', kindOfInterface(name))
  INTERFACE.read(statement.scope, interfaceWriter)
}

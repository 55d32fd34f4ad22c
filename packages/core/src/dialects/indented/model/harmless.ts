/**
 * Commands of the indented dialect on which no verdict and no answer about traffic rests, by the block they stand in,
 * and why.
 * From memory and common practice. A command that is neither here nor read into the model is listed as unread.
 */
import type { Harmless } from '../../../model/mapping.ts'

export const FRAME = 'it only structures the listing'
export const SPEED = 'it changes how fast packets are carried, not which'
export const DISPLAY = 'it changes what a person sees, not what the device does'
const LINK = 'it settles how the cable is driven'
const METRIC = 'it weighs routes; tables are taken as they were captured'
export const SELECTION = 'it tells which notifications are made; who receives them is read'
export const HOUSEKEEPING = 'it keeps the device itself in order'
export const FRAMES = 'it concerns bridges among themselves; which VLANs a port carries is read'

export const INTERFACE_HARMLESS: readonly Harmless[] = [
  [FRAME, ['exit']],
  ['no address is the default', ['no ip address', 'no ipv6 address']],
  [
    LINK,
    [
      'negotiation ...',
      'no negotiation ...',
      'media-type ...',
      'mdix ...',
      'no mdix ...',
      'power inline ...',
      'udld ...',
      'carrier-delay ...',
      'dampening ...',
      'flowcontrol ...',
      'no keepalive ...',
      'keepalive ...',
      'clock rate ...',
      'hold-queue ...',
    ],
  ],
  [
    METRIC,
    [
      'bandwidth ...',
      'delay ...',
      'ip ospf priority ...',
      'ipv6 ospf cost ...',
      'ip ospf mtu-ignore',
      'ip ospf bfd ...',
      'ip ospf retransmit-interval ...',
      'ip ospf transmit-delay ...',
      'bfd ...',
    ],
  ],
  [
    SPEED,
    [
      'ip route-cache ...',
      'no ip route-cache ...',
      'ip mtu ...',
      'ipv6 mtu ...',
      'ip tcp adjust-mss ...',
      'ip flow ...',
      'ipv6 flow ...',
      'flow monitor ...',
      'load-interval ...',
      'rate-limit ...',
      'no ip mroute-cache',
      'priority-queue ...',
      'srr-queue ...',
      'mls qos ...',
      'ip nbar ...',
      'ip virtual-reassembly ...',
      'ip load-sharing ...',
      'fair-queue ...',
      'random-detect ...',
    ],
  ],
  [
    'multicast and broadcast are not followed',
    ['ip pim ...', 'ipv6 pim ...', 'no ipv6 pim ...', 'ip igmp ...', 'ipv6 mld ...'],
  ],
  [
    FRAMES,
    [
      'spanning-tree cost ...',
      'spanning-tree port-priority ...',
      'spanning-tree link-type ...',
      'spanning-tree vlan ...',
      'spanning-tree mst ...',
      'switchport trunk encapsulation ...',
      'switchport voice detect ...',
      'vtp',
      'lacp ...',
      'channel-protocol ...',
    ],
  ],
  ['what is done with frames of a storm does not change what is let through before it', ['storm-control action ...']],
  ['hearing neighbours tells them nothing', ['lldp receive', 'no lldp receive']],
  ['it concerns a protocol other than IP', ['no mop enabled', 'no mop sysid', 'mop enabled']],
  ['it tells hosts of IPv6 where routers are', ['ipv6 nd ...', 'no ipv6 nd ...']],
  [
    'it settles how a device that is attached is asked, not whether',
    [
      'authentication host-mode ...',
      'authentication order ...',
      'authentication priority ...',
      'authentication periodic',
      'authentication timer ...',
      'authentication violation ...',
      'authentication event ...',
      'dot1x timeout ...',
      'dot1x max-reauth-req ...',
      'dot1x max-req ...',
      'access-session host-mode ...',
      'access-session closed',
    ],
  ],
  [
    'it settles how routers of a group choose one of them; the address they share is read',
    [
      'standby version ...',
      'standby <group:int> timers ...',
      'standby <group:int> track ...',
      'standby <group:int> name ...',
      'standby delay ...',
      'vrrp <group:int> timers ...',
      'vrrp <group:int> preempt ...',
    ],
  ],
  [SELECTION, ['logging event ...', 'no logging event ...', 'snmp trap ...', 'no snmp trap ...']],
  [
    HOUSEKEEPING,
    [
      'arp timeout ...',
      'ip dhcp snooping limit ...',
      'ip arp inspection limit ...',
      'switchport port-security aging ...',
      'switchport port-security mac-address ...',
      'ip dhcp relay ...',
      'macsec replay-protection ...',
      'mka default-policy',
    ],
  ],
]

export const TERMINAL_HARMLESS: readonly Harmless[] = [
  [
    DISPLAY,
    [
      'logging synchronous ...',
      'length ...',
      'width ...',
      'history ...',
      'exec-banner',
      'motd-banner',
      'location ...',
      'escape-character ...',
      'notify',
      'monitor',
    ],
  ],
  [LINK, ['stopbits ...', 'speed ...', 'parity ...', 'databits ...', 'flowcontrol ...', 'modem ...', 'media-type ...']],
  ['where a session may go on to', ['transport output ...', 'transport preferred ...']],
  ['it ends sessions to other devices', ['session-timeout ...', 'absolute-timeout ...', 'session-limit ...']],
  ['giving a session is the default', ['exec']],
  ['which lists of methods are used is read with them', ['authorization ...', 'accounting ...']],
  [FRAME, ['exit']],
]

export const CRYPTO_HARMLESS: readonly Harmless[] = [
  [
    'it names its peer or its profile',
    [
      'identity ...',
      'description ...',
      'match identity ...',
      'match certificate ...',
      'match fvrf ...',
      'match address local ...',
      'proposal ...',
      'exit',
      'set ikev2-profile ...',
      'set isakmp-profile ...',
    ],
  ],
  ['how routes to a peer are put in; tables are taken as they were captured', ['reverse-route ...']],
  [
    'how a certificate is asked for',
    [
      'enrollment ...',
      'fqdn ...',
      'ip-address ...',
      'serial-number ...',
      'auto-enroll ...',
      'usage ...',
      'source ...',
      'fingerprint ...',
    ],
  ],
]

export const ROUTER_HARMLESS: readonly Harmless[] = [
  [
    METRIC,
    [
      'auto-cost ...',
      'area * range ...',
      'maximum-paths ...',
      'distance ...',
      'timers ...',
      'nsf ...',
      'default-metric ...',
      'area * default-cost ...',
      'max-metric ...',
      'bfd ...',
      'capability ...',
      'ispf',
      'graceful-restart ...',
    ],
  ],
  [SELECTION, ['log-adjacency-changes ...']],
  [FRAME, ['exit', 'exit-address-family']],
  ['it is how routes of classes are no longer made', ['no auto-summary', 'no synchronization']],
  [
    METRIC,
    [
      'bgp bestpath ...',
      'bgp deterministic-med',
      'bgp always-compare-med',
      'bgp dampening ...',
      'bgp graceful-restart ...',
      'no bgp default ipv4-unicast',
      'bgp default ...',
      'aggregate-address ...',
      'no bgp ebgp-requires-policy',
      'bgp ebgp-requires-policy',
      'no bgp network import-check',
      'bgp nexthop ...',
      'bgp cluster-id ...',
      'bgp asnotation ...',
    ],
  ],
]

export const VRF_HARMLESS: readonly Harmless[] = [
  [FRAME, ['exit-address-family', 'exit-vrf', 'exit', 'address-family ...']],
  [
    'which routes VRFs exchange; tables are taken as they were captured',
    ['route-target ...', 'import ...', 'export ...', 'vni ...'],
  ],
]

export const QUEUE_HARMLESS: readonly Harmless[] = [
  [
    SPEED,
    [
      'bandwidth ...',
      'priority ...',
      'police ...',
      'shape ...',
      'set ...',
      'fair-queue ...',
      'queue-limit ...',
      'random-detect ...',
      'service-policy ...',
      'exit',
      'conform-action ...',
      'exceed-action ...',
      'violate-action ...',
    ],
  ],
]

export const ARCHIVE_HARMLESS: readonly Harmless[] = [
  [
    'where and how often copies of the configuration are kept',
    ['path ...', 'maximum ...', 'write-memory', 'time-period ...', 'rollback ...'],
  ],
  [
    'how much of the record is kept, and whether secrets are left out of it',
    ['logging size ...', 'notify ...', 'hidekeys', 'record ...'],
  ],
]

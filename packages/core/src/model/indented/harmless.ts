/**
 * Commands of the indented dialect on which no verdict and no answer about traffic rests, by the block they stand in, and why.
 * From memory and common practice. A command that is neither here nor read into the model is listed as unread.
 */
import type { Harmless } from '../mapping.ts'

const FRAME = 'it only structures the listing'
const SPEED = 'it changes how fast packets are carried, not which'
const DISPLAY = 'it changes what a person sees, not what the device does'
const LINK = 'it settles how the cable is driven'
const METRIC = 'it weighs routes; tables are taken as they were captured'
const SELECTION = 'it tells which notifications are made; who receives them is read'
const HOUSEKEEPING = 'it keeps the device itself in order'
const FRAMES = 'it concerns bridges among themselves; which VLANs a port carries is read'

export const INTERFACE_HARMLESS: readonly Harmless[] = [
  [FRAME, ['exit']],
  ['no address is the default', ['no ip address', 'no ipv6 address']],
  [LINK, ['negotiation ...', 'no negotiation ...', 'media-type ...', 'mdix ...', 'no mdix ...', 'power inline ...', 'udld ...',
    'carrier-delay ...', 'dampening ...', 'flowcontrol ...', 'no keepalive ...', 'keepalive ...', 'clock rate ...', 'hold-queue ...']],
  [METRIC, ['bandwidth ...', 'delay ...', 'ip ospf priority ...', 'ipv6 ospf cost ...', 'ip ospf mtu-ignore', 'ip ospf bfd ...',
    'ip ospf retransmit-interval ...', 'ip ospf transmit-delay ...', 'bfd ...']],
  [SPEED, ['ip route-cache ...', 'no ip route-cache ...', 'ip mtu ...', 'ipv6 mtu ...', 'ip tcp adjust-mss ...', 'ip flow ...', 'ipv6 flow ...',
    'flow monitor ...', 'load-interval ...', 'rate-limit ...', 'no ip mroute-cache', 'priority-queue ...', 'srr-queue ...', 'mls qos ...',
    'ip nbar ...', 'ip virtual-reassembly ...', 'ip load-sharing ...', 'fair-queue ...', 'random-detect ...']],
  ['packets to many hosts at once are not followed', ['ip pim ...', 'ipv6 pim ...', 'no ipv6 pim ...', 'ip igmp ...', 'ipv6 mld ...']],
  [FRAMES, ['spanning-tree cost ...', 'spanning-tree port-priority ...', 'spanning-tree link-type ...', 'spanning-tree vlan ...',
    'spanning-tree mst ...', 'switchport trunk encapsulation ...', 'switchport voice detect ...', 'vtp', 'lacp ...', 'channel-protocol ...']],
  ['what is done with frames of a storm does not change what is let through before it', ['storm-control action ...']],
  ['hearing neighbours tells them nothing', ['lldp receive', 'no lldp receive']],
  ['it concerns a protocol other than IP', ['no mop enabled', 'no mop sysid', 'mop enabled']],
  ['it tells hosts of IPv6 where routers are', ['ipv6 nd ...', 'no ipv6 nd ...']],
  ['it settles how a device that is attached is asked, not whether', ['authentication host-mode ...', 'authentication order ...',
    'authentication priority ...', 'authentication periodic', 'authentication timer ...', 'authentication violation ...', 'authentication event ...',
    'dot1x timeout ...', 'dot1x max-reauth-req ...', 'dot1x max-req ...', 'access-session host-mode ...', 'access-session closed']],
  ['it settles how routers of a group choose one of them; the address they share is read', ['standby version ...', 'standby <group:int> timers ...',
    'standby <group:int> track ...', 'standby <group:int> name ...', 'standby delay ...', 'vrrp <group:int> timers ...', 'vrrp <group:int> preempt ...']],
  [SELECTION, ['logging event ...', 'no logging event ...', 'snmp trap ...', 'no snmp trap ...']],
  [HOUSEKEEPING, ['arp timeout ...', 'ip dhcp snooping limit ...', 'ip arp inspection limit ...', 'switchport port-security aging ...',
    'switchport port-security mac-address ...', 'ip dhcp relay ...', 'macsec replay-protection ...', 'mka default-policy']],
]

export const SYSTEM_HARMLESS: readonly Harmless[] = [
  [FRAME, ['boot-start-marker', 'boot-end-marker', 'service integrated-vtysh-config', 'frr defaults ...', 'exit']],
  [DISPLAY, ['service timestamps debug ...', 'logging console ...', 'no logging console', 'logging monitor ...', 'no logging monitor', 'prompt ...',
    'alias ...', 'privilege exec ...', 'privilege configure ...', 'clock summer-time ...', 'no clock summer-time']],
  [SPEED, ['ip cef ...', 'no ip cef ...', 'ipv6 cef ...', 'ip tcp ...', 'ip icmp rate-limit ...', 'system mtu ...', 'memory ...', 'memory-size ...', 'buffers ...',
    'ip load-sharing ...', 'mls qos ...', 'qos ...', 'port-channel load-balance ...']],
  ['it is how packets are looked up anyway (RFC 4632)', ['ip classless', 'ip subnet-zero']],
  ['packets to many hosts at once are not followed', ['ip multicast-routing ...', 'no ip multicast-routing ...', 'ip pim ...', 'ipv6 multicast-routing ...', 'ip igmp ...']],
  ['which broadcasts are handed to helpers changes no packet to one host', ['ip forward-protocol ...', 'no ip forward-protocol ...']],
  ['it concerns a protocol that hosts no longer speak', ['no service pad', 'service pad']],
  ['it keeps sessions that are gone from staying', ['service tcp-keepalives-in', 'service tcp-keepalives-out']],
  ['which text a message begins with', ['logging facility ...', 'logging origin-id ...', 'service sequence-numbers', 'logging count']],
  ['it is told by a trap beside', ['login on-success trap ...', 'login on-failure trap ...']],
  ['how long servers are waited for', ['tacacs-server timeout ...', 'radius-server timeout ...', 'radius-server retransmit ...', 'radius-server deadtime ...', 'tacacs-server directed-request', 'radius-server attribute ...', 'radius-server dead-criteria ...']],
  [SELECTION, ['snmp-server enable ...', 'no snmp-server enable ...', 'logging event ...', 'logging history ...', 'logging rate-limit ...']],
  ['which part of the data a reader sees; who reads is read', ['snmp-server view ...']],
  ['how numbers of the management data are kept', ['snmp-server ifindex ...', 'snmp-server engineID ...', 'snmp-server chassis-id ...', 'snmp-server packetsize ...', 'snmp-server queue-length ...']],
  ['how accounting names a session', ['aaa session-id ...']],
  ['it slows guesses beside the lock-out that is read', ['login delay ...', 'login quiet-mode ...']],
  ['from where, and how, a service that is read is reached', ['ip ssh source-interface ...', 'ip ssh logging ...', 'ip ssh rsa ...', 'ip ssh port ...', 'ip http secure-trustpoint ...',
    'ip http secure-port ...', 'ip http port ...', 'ip http max-connections ...', 'ip http timeout-policy ...', 'ip http client ...', 'ip http path ...', 'ip tftp ...', 'ip ftp ...', 'ip domain list ...', 'ip domain-list ...']],
  [HOUSEKEEPING, ['redundancy', 'license ...', 'hw-module ...', 'switch ...', 'errdisable ...', 'vlan internal ...', 'no ip gratuitous-arps',
    'boot ...', 'config-register ...', 'file ...', 'exception ...', 'scheduler ...', 'platform ...', 'diagnostic ...', 'call-home ...', 'no call-home', 'event ...', 'power ...', 'stack-power ...', 'no service config',
    'mac address-table aging-time ...', 'mac-address-table aging-time ...', 'no ip http client ...', 'ntp clock-period ...', 'ntp logging', 'ntp update-calendar', 'udld ...', 'process ...']],
  ['addresses handed to hosts; which addresses there are is read from interfaces', ['ip dhcp pool ...', 'ip dhcp excluded-address ...', 'ip dhcp binding ...', 'ip dhcp relay ...', 'ip dhcp use ...', 'ipv6 dhcp pool ...', 'no ip dhcp conflict ...']],
  ['a probe changes a route by a track that is told of', ['ip sla <number:int>', 'ip sla schedule ...', 'ip sla reaction-configuration ...', 'ip sla enable ...', 'track <number:int> ...']],
  [FRAMES, ['spanning-tree mode ...', 'spanning-tree extend ...', 'spanning-tree vlan ...', 'spanning-tree mst ...', 'spanning-tree pathcost ...', 'spanning-tree loopguard ...', 'spanning-tree logging', 'spanning-tree uplinkfast ...', 'spanning-tree backbonefast', 'lacp ...']],
  ['how guesses of addresses are kept and checked; in which VLANs is read', ['ip dhcp snooping database ...', 'ip dhcp snooping information ...', 'no ip dhcp snooping information ...', 'ip dhcp snooping verify ...', 'ip arp inspection validate ...', 'ip arp inspection log-buffer ...']],
  ['messages of bridges about VLANs; which VLANs there are is read', ['vtp version ...', 'vtp interface ...', 'vtp pruning']],
]

export const TERMINAL_HARMLESS: readonly Harmless[] = [
  [DISPLAY, ['logging synchronous ...', 'length ...', 'width ...', 'history ...', 'exec-banner', 'motd-banner', 'location ...', 'escape-character ...', 'notify', 'monitor']],
  [LINK, ['stopbits ...', 'speed ...', 'parity ...', 'databits ...', 'flowcontrol ...', 'modem ...', 'media-type ...']],
  ['where a session may go on to', ['transport output ...', 'transport preferred ...']],
  ['it ends sessions to other devices', ['session-timeout ...', 'absolute-timeout ...', 'session-limit ...']],
  ['giving a session is the default', ['exec']],
  ['which lists of methods are used is read with them', ['authorization ...', 'accounting ...']],
  [FRAME, ['exit']],
]

export const CRYPTO_HARMLESS: readonly Harmless[] = [
  ['it names its peer or its profile', ['identity ...', 'description ...', 'match identity ...', 'match certificate ...', 'match fvrf ...', 'match address local ...', 'proposal ...', 'exit', 'set ikev2-profile ...', 'set isakmp-profile ...']],
  ['how routes to a peer are put in; tables are taken as they were captured', ['reverse-route ...']],
  ['how a certificate is asked for', ['enrollment ...', 'fqdn ...', 'ip-address ...', 'serial-number ...', 'auto-enroll ...', 'usage ...', 'source ...', 'fingerprint ...']],
]

export const ROUTER_HARMLESS: readonly Harmless[] = [
  [METRIC, ['auto-cost ...', 'area * range ...', 'maximum-paths ...', 'distance ...', 'timers ...', 'nsf ...', 'default-metric ...', 'area * default-cost ...', 'max-metric ...', 'bfd ...', 'capability ...', 'ispf', 'graceful-restart ...']],
  [SELECTION, ['log-adjacency-changes ...']],
  [FRAME, ['exit', 'exit-address-family']],
  ['it is how routes of classes are no longer made', ['no auto-summary', 'no synchronization']],
  [METRIC, ['bgp bestpath ...', 'bgp deterministic-med', 'bgp always-compare-med', 'bgp dampening ...', 'bgp graceful-restart ...', 'no bgp default ipv4-unicast', 'bgp default ...', 'aggregate-address ...', 'no bgp ebgp-requires-policy', 'bgp ebgp-requires-policy', 'no bgp network import-check', 'bgp nexthop ...', 'bgp cluster-id ...', 'bgp asnotation ...']],
]

export const VRF_HARMLESS: readonly Harmless[] = [
  [FRAME, ['exit-address-family', 'exit-vrf', 'exit', 'address-family ...']],
  ['which routes VRFs exchange; tables are taken as they were captured', ['route-target ...', 'import ...', 'export ...', 'vni ...']],
]

export const QUEUE_HARMLESS: readonly Harmless[] = [
  [SPEED, ['bandwidth ...', 'priority ...', 'police ...', 'shape ...', 'set ...', 'fair-queue ...', 'queue-limit ...', 'random-detect ...', 'service-policy ...', 'exit',
    'conform-action ...', 'exceed-action ...', 'violate-action ...']],
]

export const ARCHIVE_HARMLESS: readonly Harmless[] = [
  ['where and how often copies of the configuration are kept', ['path ...', 'maximum ...', 'write-memory', 'time-period ...', 'rollback ...']],
  ['how much of the record is kept, and whether secrets are left out of it', ['logging size ...', 'notify ...', 'hidekeys', 'record ...']],
]

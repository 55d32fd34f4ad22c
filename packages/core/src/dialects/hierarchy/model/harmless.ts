/**
 * Statements of the braced dialect and its set lines on which no verdict and no answer about traffic rests, and why.
 * From memory and common practice. A statement that is neither here nor read into the model is listed as unread.
 */
import type { Harmless } from '../../../model/mapping.ts'

const SPEED = 'it changes how fast packets are carried, not which'
const LINK = 'it settles how the cable is driven'
const METRIC = 'it weighs routes; tables are taken as they were captured'
const HOUSEKEEPING = 'it keeps the device itself in order'
const DISPLAY = 'it changes what a person sees, not what the device does'

export const SYSTEM_HARMLESS: readonly Harmless[] = [
  [
    HOUSEKEEPING,
    [
      'system processes ...',
      'system archival ...',
      'system max-configurations-on-flash ...',
      'system max-configuration-rollbacks ...',
      'system commit ...',
      'system license ...',
      'system extensions ...',
      'system dump-device ...',
      'system configuration-database ...',
      'system autoinstallation ...',
      'system auto-snapshot',
      'system phone-home ...',
      'chassis alarm ...',
      'chassis auto-image-upgrade',
      'chassis craft-lockout',
      'chassis fpc ...',
      'chassis network-services ...',
      'chassis redundancy ...',
    ],
  ],
  ['how many aggregated links there may be', ['chassis aggregated-devices ...']],
  [
    'where on the device messages are shown or kept',
    ['system syslog user ...', 'system syslog console ...', 'system syslog archive ...'],
  ],
  [
    'how the console is wired',
    [
      'system ports console type *',
      'system ports console log-out-on-disconnect',
      'system ports auxiliary type *',
      'system ports auxiliary disable',
      'system ports console insecure',
    ],
  ],
  [
    SPEED,
    [
      'system internet-options path-mtu-discovery',
      'system internet-options icmpv4-rate-limit ...',
      'system internet-options icmpv6-rate-limit ...',
      'system internet-options tcp-mss *',
      'system internet-options gre-path-mtu-discovery',
      'system internet-options ipip-path-mtu-discovery',
      'system arp aging-timer *',
    ],
  ],
  ['how long servers are waited for', ['system radius-options ...', 'system tacplus-options ...']],
  [
    'it tells which notifications are made',
    ['snmp trap-options ...', 'snmp engine-id ...', 'snmp v3 notify ...', 'snmp filter-duplicates'],
  ],
  [
    'which part of the data a reader sees; who reads is read',
    [
      'snmp view ...',
      'snmp v3 vacm security-to-group ...',
      'snmp filter-interfaces ...',
      'snmp name *',
      'snmp description ...',
      'snmp interface *',
      'snmp stats-response-statistics',
    ],
  ],
  [
    'what a class of users may type beside its idle time',
    [
      'system login class <name> {permissions|allow-commands|deny-commands|allow-configuration|deny-configuration|login-alarms|login-tip|login-script} ...',
    ],
  ],
  [DISPLAY, ['system syslog time-format', 'system login announcement', 'system time-format ...']],
  [
    'what new passwords are made of beside their length',
    [
      'system login password {change-type|maximum-length|minimum-changes|minimum-numerics|minimum-upper-cases|minimum-lower-cases|minimum-punctuations|format|minimum-reuse|minimum-character-changes} ...',
    ],
  ],
  [
    'how a guess is slowed beside the lock-out that is read',
    ['system login retry-options {backoff-threshold|backoff-factor|minimum-time|maximum-time} ...'],
  ],
  [
    'it begins a clock or names who may set it',
    ['system ntp boot-server *', 'system ntp broadcast-client', 'system domain-search *', 'system location ...'],
  ],
]

export const PORT_HARMLESS: readonly Harmless[] = [
  [
    LINK,
    [
      'interfaces <port> {gigether-options|ether-options|fastether-options} {auto-negotiation|no-auto-negotiation|flow-control|no-flow-control|loopback|no-loopback|link-mode|speed} ...',
      'interfaces <port> {hold-time|link-mode|media-type|optics-options|fabric-options|damping|clocking|traps|no-traps|gratuitous-arp-reply|no-gratuitous-arp-request} ...',
    ],
  ],
  [
    'how tags are read; which tags there are is read',
    [
      'interfaces <port> {vlan-tagging|flexible-vlan-tagging|stacked-vlan-tagging}',
      'interfaces <port> encapsulation *',
      'interfaces <port> unit <unit> encapsulation *',
      'interfaces <port> unit <unit> vlan-id-list ...',
    ],
  ],
  [
    'how links are bundled; which are is read',
    ['interfaces <port> aggregated-ether-options {minimum-links|link-speed|lacp} ...'],
  ],
  [
    SPEED,
    [
      'interfaces <port> unit <unit> {bandwidth|traps|no-traps} ...',
      'interfaces <port> unit <unit> family inet6 mtu *',
      'interfaces <port> unit <unit> family inet sampling ...',
      'interfaces <port> unit <unit> family inet no-neighbor-learn',
    ],
  ],
  [
    'how routers of a group take over from each other; the address they share is read',
    [
      'interfaces <port> unit <unit> family {inet|inet6} address <address> vrrp-group <group> {accept-data|advertise-interval|fast-interval|track|no-accept-data|no-preempt|authentication-type} ...',
      'interfaces <port> unit <unit> family {inet|inet6} address <address> vrrp-group <group> {accept-data|no-accept-data|no-preempt}',
    ],
  ],
  [
    'how many addresses of neighbours are kept',
    [
      'interfaces <port> unit <unit> arp-resp ...',
      'interfaces <port> unit <unit> family inet6 {dad-disable|no-neighbor-learn}',
      'interfaces <port> unit <unit> family inet6 address <address> {eui-64|primary|preferred}',
    ],
  ],
]

export const ROUTING_HARMLESS: readonly Harmless[] = [
  [
    METRIC,
    [
      'routing-options {maximum-paths|graceful-restart|nonstop-routing|resolution|nsr-phantom-holdtime|multipath|confederation|martians} ...',
      'routing-options forwarding-table ...',
      'routing-options rib-groups ...',
      'routing-options interface-routes ...',
      'routing-options aggregate ...',
      'routing-options generate ...',
      'routing-options {graceful-restart|nonstop-routing}',
      'protocols ospf {reference-bandwidth|spf-options|external-preference|preference|no-rfc-1583|graceful-restart|lsa-refresh-interval|overload|traffic-engineering|rib-group} ...',
      'protocols ospf {no-rfc-1583|graceful-restart|overload}',
      'protocols ospf3 {reference-bandwidth|spf-options|external-preference|preference|overload} ...',
      'protocols bgp {path-selection|multipath|graceful-restart|hold-time|tcp-mss|mtu-discovery|advertise-inactive|advertise-peer-as|precision-timers|bgp-error-tolerance|rfc6514-compliant-safi129|preference} ...',
      'protocols bgp {mtu-discovery|graceful-restart|advertise-inactive|precision-timers|multipath}',
    ],
  ],
  [
    HOUSEKEEPING,
    [
      'protocols {ospf|ospf3|bgp|lldp|rstp|mstp|vstp} traceoptions ...',
      'routing-options traceoptions ...',
      'protocols {rstp|mstp|vstp} {bridge-priority|max-age|hello-time|forward-delay|interface|configuration-name|msti|vlan|force-version|bpdu-block-on-edge} ...',
      'protocols {rstp|mstp|vstp}',
      'protocols lldp-med ...',
      'protocols layer2-control ...',
      'protocols igmp-snooping ...',
    ],
  ],
  ['multicast and broadcast are not followed', ['protocols {pim|igmp|mld|msdp} ...']],
  ['it tells hosts of IPv6 where routers are', ['protocols router-advertisement ...']],
  [
    'how packets are counted and copied',
    [
      'forwarding-options {sampling|analyzer|port-mirroring|hash-key|enhanced-hash-key|load-balance|storm-control-profiles} ...',
      'services flow-monitoring ...',
      'accounting-options ...',
      'event-options ...',
    ],
  ],
  [
    SPEED,
    [
      'class-of-service {interfaces|schedulers|rewrite-rules|code-point-aliases|drop-profiles|traffic-control-profiles|host-outbound-traffic|forwarding-policy|shared-buffer|system-defaults} ...',
      'class-of-service classifiers ...',
      'class-of-service scheduler-maps ...',
      'class-of-service forwarding-classes ...',
      'firewall policer ...',
      'firewall three-color-policer ...',
    ],
  ],
  [
    'how VLANs are told of; which there are is read',
    ['vlans <name> description ...', 'ethernet-switching-options {voip|unknown-unicast-forwarding} ...', 'poe ...'],
  ],
  [
    'what flows are counted and how long they are kept',
    [
      'security {log|flow|alg|forwarding-process|utm|alarms|application-tracking} {mode|format|source-address|stream|tcp-mss|aging|syn-flood-protection-mode|report|event-rate|rate-cap|traceoptions|cache} ...',
      'security log ...',
    ],
  ],
  [
    'for addresses of pools the device answers; which they are is read',
    ['security nat {proxy-arp|proxy-ndp} interface <interface> address ...'],
  ],
  ['how often a tunnel is tried', ['security ipsec vpn-monitor-options ...']],
  [
    'packets that are malformed, and floods, are dropped; what answers speak of is neither',
    [
      'security screen ids-option <name> {icmp|tcp|limit-session|alarm-without-drop|description|udp} ...',
      'security screen ids-option <name> ip {bad-option|tear-drop|unknown-protocol|security-option|timestamp-option|record-route-option|stream-option|strict-source-route-option|loose-source-route-option|source-route-option|block-frag}',
      'security screen ids-option <name> alarm-without-drop',
    ],
  ],
  [
    'it says what it is for',
    [
      'security zones security-zone <zone> description ...',
      'security policies from-zone <from> to-zone <to> policy <name> description ...',
      'security policies global policy <name> description ...',
      'applications application <name> description ...',
      'security address-book <book> description ...',
      'applications application-set <name> description ...',
      'security address-book <book> address <name> description ...',
    ],
  ],
  [
    'it tells who uses addresses and applications, and changes nothing of them',
    [
      'security zones security-zone <zone> {application-tracking|source-identity-log}',
      'security policies policy-rematch ...',
      'security policies policy-rematch',
      'security policies from-zone <from> to-zone <to> policy <name> then count ...',
      'security policies from-zone <from> to-zone <to> policy <name> then count',
      'security policies global policy <name> then count',
    ],
  ],
]

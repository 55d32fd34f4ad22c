/**
 * What the indented dialect's commands are called. From memory and common practice: no published grammar exists. A head
 * is the first word or words of a command; a line with none of these heads is listed as not understood.
 */

/** Looks up whether a line begins with one of a set of heads. */
export class HeadIndex {
  readonly #byFirst = new Map<string, string[] | null>()

  constructor(heads: string) {
    for (const head of heads
      .split(/[\n,]+/)
      .map((h) => h.trim())
      .filter(Boolean)) {
      const first = head.split(' ', 1)[0] ?? head
      const known = this.#byFirst.get(first)
      if (head === first) this.#byFirst.set(first, null)
      else if (known === undefined) this.#byFirst.set(first, [head])
      else if (known) known.push(head)
    }
  }

  has(text: string): boolean {
    const space = text.indexOf(' ')
    const first = space < 0 ? text : text.slice(0, space)
    let longer = this.#byFirst.get(first)
    if (longer === undefined) {
      const code = first.charCodeAt(0)
      if (code >= 65 && code <= 90) longer = this.#byFirst.get(first.toLowerCase())
    }
    if (longer === undefined || longer === null) return longer === null
    const lower = text.toLowerCase()
    return longer.some((head) => lower === head || (lower.startsWith(head) && lower.charCodeAt(head.length) === 32))
  }
}

/** Commands known at the top of a listing. */
export const GLOBAL = new HeadIndex(`
  aaa, access-list, access-session, alias, archive, arp, authentication, banner, bfd, boot, boot-start-marker,
  boot-end-marker, bridge, call, call-home, cdp, class-map, clock, cns, config-register, configuration,
  control-plane, crypto, cts, default-router, dhcp, diagnostic, domain name, dot1x, dot11, enable, errdisable,
  ethernet, event, exception, fabric, facility-alarm, fhrp, file, flow, frr, ftp-server, gatekeeper, hardware,
  hostname, hw-module, interface, ip, ipv6, ipc, isis, iox, key, l2vpn, lacp, lan, ldap, license, line, lldp,
  location, logging, login, mac, mac-address-table, macro, mab, map-class, memory, memory-size, menu, mls, mmi, mpls,
  monitor, mka, multilink, name-server, nat, netconf, netconf-yang, network-clock, network-policy, ntp, nvram,
  object-group, parameter-map, password, pfr, platform, policy-map, port-channel, power, privilege, process, prompt,
  qos, queue-limit, radius, radius-server, redundancy, resource, restconf, rmon, route-map, router, router-id, rtr,
  scheduler, sdm, security, service, service-list, session, shutdown, smi, snmp, snmp-server, spanning-tree, ssh,
  stack-power, standby, subscriber, switch, system, tacacs, tacacs-server, tag-switching, telemetry, template,
  time-range, tftp-server, time, track, transceiver, tunnel, twamp, udld, upgrade, username, version,
  virtual-service, vlan, vmps, voice, voice-card, voice-port, vpdn, vpdn-group, vrf, vstack, vtp, wireless, wism,
  wlan, wsma, xconnect, yang-interfaces, zone, zone-pair, bba-group, agentx, bgp, fpm, integrated-vtysh-config,
  debug, prefix-list, standby-mode, vni, segment-routing, nhrp
`)

export interface BlockKind {
  readonly kind: string
  /** First words that an opener can have; they keep the patterns from being tried on every line. */
  readonly first: string
  readonly openers: RegExp
  readonly children: HeadIndex
  /** Children keep their order and numbers. */
  readonly ordered?: true
}

const ACCESS_ENTRY = 'permit, deny, remark, evaluate, dynamic, statistics, fragments'
const ROUTER = `neighbor, network, passive-interface, redistribute, router-id, bgp, area, default-information,
  default-metric, distance, maximum-paths, timers, version, auto-summary, synchronization, address-family,
  exit-address-family, eigrp, metric, log-adjacency-changes, auto-cost, nsf, summary-address, distribute-list,
  offset-list, variance, traffic-share, template, peer-group, aggregate-address, capability, ispf, max-lsa,
  compatible, af-interface, topology, net, is-type, authentication, graceful-restart, no-summary, prefix-suppression,
  ospf, nssa, aggregate, table-map, activate, exit-af-topology, exit-af-interface, advertise, import, export, label,
  hello-interval, hold-time, split-horizon, bfd, key-chain, domain-password, area-password, metric-style,
  lsp-gen-interval, spf-interval, max-lsp-lifetime, vrf, shutdown, segment-routing`

/** Blocks, in the order in which their openers are tried. */
export const BLOCKS: readonly BlockKind[] = [
  {
    kind: 'interface',
    first: 'interface',
    openers: /^interface \S/i,
    children: new HeadIndex(`ip, ipv6, description, shutdown, switchport, spanning-tree, speed, duplex, mtu, bandwidth,
        delay, encapsulation, channel-group, channel-protocol, standby, vrrp, glbp, vrf, service-policy,
        load-interval, cdp, lldp, storm-control, negotiation, mdix, media-type, tunnel, crypto, arp, keepalive, mls,
        qos, macro, authentication, dot1x, mab, udld, power, logging, snmp, carrier-delay, hold-queue, no-address,
        nat, ppp, dialer, isdn, peer, pppoe, pppoe-client, zone-member, mac-address, macsec, mka, device-tracking,
        access-session, cts, bfd, isis, mpls, xconnect, flowcontrol, priority-queue, srr-queue, trust, auto, ntp,
        clock, dampening, physical-layer, backup, flow, plim, platform, network-policy, source, service, trunk, vlan,
        vpc, lacp, port-channel, rate-limit, fair-queue, random-detect, tx-ring-limit, ethernet, l2protocol-tunnel,
        link, mop, nhrp, ospfv3, policy, traffic-shape, voice, wan, beacon, alt, dot11, antenna, station-role, ssid,
        channel, rssi, bridge-group, eapol, subscriber, medium, management`),
  },
  {
    kind: 'line',
    first: 'line',
    openers: /^line (con|console|aux|vty|tty|\d)/i,
    children:
      new HeadIndex(`access-class, ip access-class, ipv6 access-class, accounting, authorization, autocommand, exec,
        exec-timeout, session-timeout, absolute-timeout, history, length, width, location, logging synchronous,
        login, logout-warning, monitor, password, privilege, rotary, session-limit, speed, stopbits, parity,
        databits, flowcontrol, transport, vacant-message, refuse-message, motd-banner, exec-banner, modem,
        escape-character, notify, secret, motd, ipv6, media-type, databits, lockable`),
  },
  {
    kind: 'access-list',
    first: 'ip ipv6 mac',
    ordered: true,
    openers: /^(ip|ipv6|mac) access-list (standard |extended |role-based )?\S+$/i,
    children: new HeadIndex(ACCESS_ENTRY),
  },
  {
    kind: 'route-map',
    first: 'route-map',
    ordered: true,
    openers: /^route-map \S/i,
    children: new HeadIndex('match, set, description, continue, on-match, call'),
  },
  { kind: 'class-map', first: 'class-map', openers: /^class-map \S/i, children: new HeadIndex('match, description') },
  {
    kind: 'policy-map',
    first: 'policy-map class police',
    ordered: true,
    openers: /^(policy-map|class(?! type tag)|police) \S/i,
    children: new HeadIndex(`class, description, police, set, bandwidth, priority, shape, queue-limit, random-detect,
        fair-queue, service-policy, trust, inspect, drop, pass, conform-action, exceed-action, violate-action,
        compress, netflow-sampler, event`),
  },
  {
    kind: 'vlan-access-map',
    first: 'vlan',
    ordered: true,
    openers: /^vlan access-map \S/i,
    children: new HeadIndex('match, action, description'),
  },
  {
    kind: 'vlan',
    first: 'vlan',
    openers: /^vlan (configuration )?[\d,-]+$/i,
    children: new HeadIndex('name, state, private-vlan, remote-span, mtu, shutdown, member, device-tracking, ip, vni'),
  },
  {
    kind: 'vrf',
    first: 'vrf ip',
    openers: /^(vrf definition|vrf context|ip vrf|vrf) \S+$/i,
    children: new HeadIndex(
      `rd, route-target, address-family, exit-address-family, description, import, export, maximum, vpn, mdt,
        exit-vrf, ip, ipv6, vni`,
    ),
  },
  { kind: 'router', first: 'router ipv6', openers: /^(router \S|ipv6 router \S)/i, children: new HeadIndex(ROUTER) },
  {
    kind: 'address-family',
    first: 'address-family af-interface topology',
    openers: /^(address-family|af-interface|topology) \S/i,
    children: new HeadIndex(`${ROUTER}, route-target`),
  },
  {
    kind: 'key-chain',
    first: 'key',
    openers: /^key chain \S/i,
    children: new HeadIndex(
      'key, description, key-string, accept-lifetime, send-lifetime, cryptographic-algorithm, lifetime',
    ),
  },
  {
    kind: 'key',
    first: 'key',
    openers: /^key [\da-f]+$/i,
    children: new HeadIndex('key-string, accept-lifetime, send-lifetime, cryptographic-algorithm, lifetime'),
  },
  {
    kind: 'aaa-server',
    first: 'aaa tacacs radius ldap',
    openers: /^(aaa group server \S+|tacacs server|radius server|ldap server|aaa server radius) \S+/i,
    children: new HeadIndex(`server, server-private, address, key, timeout, port, single-connection, ip, ipv6, deadtime,
        retransmit, automate-tester, backoff, pac, client, auth-type, domain, send-vendor, key-wrap, tls, transport,
        bind, base-dn, ipv4`),
  },
  {
    kind: 'crypto',
    first: 'crypto',
    openers:
      /^crypto (isakmp policy|isakmp profile|isakmp client|ikev2 \S+|ipsec (profile|transform-set)|map \S+ \d+|pki (trustpoint|server|certificate map|profile)|keyring|gdoi|dynamic-map|key pubkey-chain|call|mib|engine|provisioning)\b/i,
    children: new HeadIndex(`encr, encryption, hash, authentication, group, lifetime, mode, set, match, description,
        enrollment, revocation-check, rsakeypair, subject-name, subject-alt-name, fqdn, ip-address, serial-number,
        usage, auto-enroll, source, fingerprint, proposal, integrity, prf, peer, address, pre-shared-key, identity,
        keyring, dpd, local, remote, aaa, virtual-template, initiate, self-identity, reverse-route, vrf, password,
        hostname, chain, chain-validation, ip, key-string, addressed-key, rsa, named-key, lifetime, nat, ivrf,
        client, ca, default-router, eckeypair, qos, reauth, no-xauth, hash, storage, certificate, config-exchange`),
  },
  {
    kind: 'crypto-certificate',
    first: 'crypto',
    openers: /^crypto (pki|ca) certificate chain \S/i,
    children: new HeadIndex('certificate'),
  },
  {
    kind: 'crypto-child',
    first: 'peer addressed-key named-key',
    openers: /^(peer \S+|addressed-key \S.*|named-key \S.*)$/i,
    children: new HeadIndex('address, pre-shared-key, identity, description, hostname, key-string'),
  },
  {
    kind: 'object-group',
    first: 'object-group',
    openers: /^object-group \S+ \S/i,
    children: new HeadIndex(
      `description, host, range, group-object, tcp, udp, tcp-udp, icmp, ip, any, network-object, service-object,
        security-group`,
    ),
  },
  {
    kind: 'dhcp-pool',
    first: 'ip ipv6',
    openers: /^ip(v6)? dhcp (pool|class) \S/i,
    children: new HeadIndex(
      `network, default-router, dns-server, domain-name, lease, host, option, client-identifier, client-name,
        hardware-address, import, netbios-name-server, netbios-node-type, next-server, bootfile, class, address, vrf,
        relay, utilization, prefix-delegation, subnet, origin, update`,
    ),
  },
  {
    kind: 'sla',
    first: 'ip track',
    openers: /^(ip sla|track) \d/i,
    children: new HeadIndex(
      `icmp-echo, icmp-jitter, udp-jitter, udp-echo, tcp-connect, http, dns, dhcp, path-echo, frequency, timeout,
        threshold, tag, tos, vrf, owner, request-data-size, delay, object, ip, default-state, verify-data, history`,
    ),
  },
  {
    kind: 'archive',
    first: 'archive',
    openers: /^archive$/i,
    children: new HeadIndex('log config, log, path, maximum, write-memory, time-period, rollback, hidekeys'),
  },
  {
    kind: 'archive-log',
    first: 'log',
    openers: /^log config$/i,
    children: new HeadIndex('logging, notify, hidekeys, record'),
  },
  {
    kind: 'control-plane',
    first: 'control-plane',
    openers: /^control-plane( \S+)?$/i,
    children: new HeadIndex('service-policy, port-filter, management-interface'),
  },
  {
    kind: 'spanning-tree-mst',
    first: 'spanning-tree',
    openers: /^spanning-tree mst configuration$/i,
    children: new HeadIndex('name, revision, instance'),
  },
  {
    kind: 'redundancy',
    first: 'redundancy',
    openers: /^redundancy$/i,
    children: new HeadIndex('mode, main-cpu, auto-sync, scheme, inter-device, application'),
  },
  {
    kind: 'flow',
    first: 'flow sampler',
    openers: /^(flow (record|exporter|monitor)|sampler) \S/i,
    children: new HeadIndex(
      `match, collect, destination, source, transport, export-protocol, template, option, exporter, record, cache,
        description, dscp, ttl, statistics, mode, output-features, vrf`,
    ),
  },
  {
    kind: 'zone',
    first: 'zone zone-pair',
    openers: /^(zone security|zone-pair security) \S/i,
    children: new HeadIndex('description, service-policy, protection'),
  },
  {
    kind: 'parameter-map',
    first: 'parameter-map',
    openers: /^parameter-map type \S/i,
    children: new HeadIndex(
      `audit-trail, alert, max-incomplete, one-minute, tcp, udp, icmp, sessions, pattern, banner, consent, timeout,
        type, custom-page, virtual-ip, log`,
    ),
  },
  {
    kind: 'time-range',
    first: 'time-range',
    openers: /^time-range \S/i,
    children: new HeadIndex('absolute, periodic'),
  },
  {
    kind: 'event-applet',
    first: 'event',
    openers: /^event manager applet \S/i,
    children: new HeadIndex('event, action, description, set, trigger, trap'),
  },
  {
    kind: 'monitor',
    first: 'monitor',
    openers: /^monitor session \d+ type/i,
    children: new HeadIndex('source, destination, description, shutdown, filter, header-type'),
  },
  {
    kind: 'call-home',
    first: 'call-home',
    openers: /^call-home$/i,
    children: new HeadIndex(
      `contact, contact-email-addr, profile, sender, mail-server, http-proxy, source-interface, vrf, destination,
        active, reporting, rate-limit, alert-group, phone-number, street-address, site-id, contract-id, customer-id`,
    ),
  },
  {
    kind: 'template',
    first: 'template',
    openers: /^template \S+$/i,
    children: new HeadIndex(
      `switchport, spanning-tree, storm-control, dot1x, mab, authentication, access-session, service-policy, source,
        ip, ipv6, description, load-interval, udld, peer, subscriber, radius-server`,
    ),
  },
  {
    kind: 'bba-group',
    first: 'bba-group vpdn-group l2vpn xconnect pseudowire-class',
    openers: /^(bba-group|vpdn-group|l2vpn|xconnect|pseudowire-class) \S/i,
    children: new HeadIndex(
      `virtual-template, sessions, accept-dialin, request-dialin, protocol, initiate-to, terminate-from, lcp, l2tp,
        encapsulation, interworking, ip, local, source-ip, bridge, member, neighbor`,
    ),
  },
]

const BY_FIRST_WORD = new Map<string, BlockKind[]>()
for (const block of BLOCKS) {
  for (const word of block.first.split(' ')) BY_FIRST_WORD.set(word, [...(BY_FIRST_WORD.get(word) ?? []), block])
}

/** The block that a line opens, if it opens one. */
export function blockOpenedBy(text: string): BlockKind | null {
  const space = text.indexOf(' ')
  const first = space < 0 ? text : text.slice(0, space)
  // Listings are in lower case; only what a person typed otherwise needs a second look.
  const code = first.charCodeAt(0)
  const candidates = BY_FIRST_WORD.get(code >= 65 && code <= 90 ? first.toLowerCase() : first)
  return candidates?.find((block) => block.openers.test(text)) ?? null
}

export const blockByKind: ReadonlyMap<string, BlockKind> = new Map(BLOCKS.map((block) => [block.kind, block]))

/** Numbers behind names in access lists. IANA registries (RFC 6335, protocol numbers, ICMP types RFC 792); the spellings of the dialect are from memory. */
export const PROTOCOLS: Readonly<Record<string, number>> = {
  icmp: 1, igmp: 2, ipinip: 4, ipip: 4, tcp: 6, egp: 8, igp: 9, udp: 17, ipv6: 41, gre: 47, esp: 50, ahp: 51, ah: 51,
  'ipv6-icmp': 58, icmpv6: 58, eigrp: 88, ospf: 89, nos: 94, pim: 103, pcp: 108, vrrp: 112, l2tp: 115, sctp: 132,
}

export const PORTS: Readonly<Record<'tcp' | 'udp', Readonly<Record<string, number>>>> = {
  tcp: {
    bgp: 179, chargen: 19, cmd: 514, daytime: 13, discard: 9, domain: 53, echo: 7, exec: 512, finger: 79, ftp: 21,
    'ftp-data': 20, gopher: 70, hostname: 101, http: 80, https: 443, ident: 113, irc: 194, klogin: 543, kshell: 544,
    ldap: 389, ldaps: 636, login: 513, lpd: 515, nntp: 119, 'pim-auto-rp': 496, pop2: 109, pop3: 110, smtp: 25, ssh: 22,
    sunrpc: 111, syslog: 514, tacacs: 49, talk: 517, telnet: 23, time: 37, uucp: 540, whois: 43, www: 80, 'netconf-ssh': 830,
  },
  udp: {
    biff: 512, bootpc: 68, bootps: 67, discard: 9, dnsix: 195, domain: 53, echo: 7, isakmp: 500, 'mobile-ip': 434,
    nameserver: 42, 'netbios-dgm': 138, 'netbios-ns': 137, 'netbios-ss': 139, 'non500-isakmp': 4500, ntp: 123,
    'pim-auto-rp': 496, radius: 1812, rip: 520, ripng: 521, snmp: 161, snmptrap: 162, sunrpc: 111, syslog: 514, tacacs: 49,
    talk: 517, tftp: 69, time: 37, who: 513, xdmcp: 177, bfd: 3784,
  },
}

/** Names that two services share, or that only one dialect uses. */
const NOT_SHOWN = new Set(['cmd', 'www', 'exec', 'login', 'biff', 'who', 'hostname', 'ident', 'talk', 'mobile-ip', 'nameserver', 'dnsix', 'non500-isakmp', 'netconf-ssh', 'klogin', 'kshell'])

/** What a port is called, by its number. */
export function portNames(): Record<string, string> {
  const all = [...Object.entries(PORTS.udp), ...Object.entries(PORTS.tcp)].filter(([name]) => !NOT_SHOWN.has(name))
  return Object.fromEntries(all.map(([name, port]) => [String(port), name]))
}

/** Names of DSCP values (RFC 2474, 2597, 3246, 5865). */
export const DSCP: Readonly<Record<string, number>> = {
  default: 0, be: 0, ef: 46, 'voice-admit': 44, cs1: 8, cs2: 16, cs3: 24, cs4: 32, cs5: 40, cs6: 48, cs7: 56, af11: 10, af12: 12, af13: 14,
  af21: 18, af22: 20, af23: 22, af31: 26, af32: 28, af33: 30, af41: 34, af42: 36, af43: 38,
}

export const ICMP_TYPES: Readonly<Record<string, number>> = {
  'echo-reply': 0, unreachable: 3, 'source-quench': 4, redirect: 5, echo: 8, 'router-advertisement': 9,
  'router-solicitation': 10, 'time-exceeded': 11, 'parameter-problem': 12, 'timestamp-request': 13, 'timestamp-reply': 14,
  'information-request': 15, 'information-reply': 16, 'mask-request': 17, 'mask-reply': 18, traceroute: 30,
}

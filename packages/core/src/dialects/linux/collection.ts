import type { CommandSet } from '../collection.ts'

/** How Linux gateways are asked: iptables-save(8), ip(8), sysctl(8). */
export const LINUX_COMMANDS: CommandSet = {
  dialect: 'linux',
  talk: 'exec',
  quiet: [],
  refused: [],
  records: [
    // Where the one is not there, or has no rules, the other tells of both families.
    { kind: 'filters', command: 'iptables-save 2>/dev/null | grep . || nft -j list ruleset', needed: true },
    { kind: 'filters6', command: 'ip6tables-save' },
    { kind: 'sysctl', command: 'sysctl -a' },
    { kind: 'sockets', command: 'ss -H -lntu' },
    // What holds, with defaults, where people may ask for it; else what is written.
    { kind: 'files/sshd_config', command: 'sshd -T 2>/dev/null || cat /etc/ssh/sshd_config' },
    { kind: 'files/chrony.conf', command: 'cat /etc/chrony/chrony.conf' },
    { kind: 'files/ntp.conf', command: 'cat /etc/ntp.conf' },
    { kind: 'files/rsyslog.conf', command: 'cat /etc/rsyslog.conf /etc/rsyslog.d/*.conf' },
    { kind: 'files/login.defs', command: 'cat /etc/login.defs' },
    { kind: 'files/timezone', command: 'cat /etc/timezone' },
    { kind: 'files/resolv.conf', command: 'cat /etc/resolv.conf' },
    { kind: 'state/interfaces', command: 'ip -j address', form: 'json' },
    { kind: 'state/routes', command: 'ip -j route', form: 'json' },
    { kind: 'state/rules', command: 'ip -j rule', form: 'json' },
    { kind: 'state/arp', command: 'ip -j neighbour', form: 'json' },
  ],
  probes: { ping: 'ping -n -c 5 -w 10 {target}', lookup: 'getent hosts {target}', path: 'traceroute -n {target}' },
}

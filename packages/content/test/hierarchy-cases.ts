import type { Case } from './cases.ts'

const filter = (...terms: string[]): string => ['set interfaces lo0 unit 0 family inet address 10.255.0.1/32', 'set interfaces lo0 unit 0 family inet filter input MGMT', ...terms.map((term) => `set firewall family inet filter MGMT term ${term}`)].join('\n')
const banner = (words: string): string => `set system login message "${words}"`
const ntp = 'set system ntp authentication-key 1 type sha256\nset system ntp authentication-key 1 value "gull"\nset system ntp trusted-key 1\n'
const facing = 'set interfaces ge-0/0/0 unit 0 description "Carrier uplink"\nset interfaces ge-0/0/0 unit 0 family inet address 203.0.113.2/30'
const BOGONS = ['0.0.0.0/8', '10.0.0.0/8', '100.64.0.0/10', '127.0.0.0/8', '169.254.0.0/16', '172.16.0.0/12', '192.0.0.0/24', '192.0.2.0/24', '192.168.0.0/16', '198.18.0.0/15', '198.51.100.0/24', '203.0.113.0/24', '240.0.0.0/4']
const OURS = { values: { ntp_servers: ['10.40.0.11', '10.40.0.12'] } }
const LOGS = { values: { log_hosts: ['10.40.0.21'] } }

/** The same questions put to the braced dialect, written as set lines; the test puts them in braces too. Invented configurations. */
export const HIERARCHY_CASES: Readonly<Record<string, readonly Case[]>> = {
  'http-server-off': [
    { name: 'silent', config: 'set system host-name a', is: 'pass', branch: 'off' },
    { name: 'on', config: 'set system services web-management http interface ge-0/0/0.0', is: 'fail', branch: 'on' },
    { name: 'trap: the secure server only', config: 'set system services web-management https system-generated-certificate', is: 'pass' },
    { name: 'trap: inactive', config: 'set system services web-management http\ndeactivate system services web-management http', is: 'pass' },
    { name: 'trap: words of a banner', config: banner('system services web-management http'), is: 'pass' },
  ],
  'https-server-off-or-strong': [
    { name: 'silent', config: 'set system host-name a', is: 'pass', branch: 'off' },
    { name: 'on without a filter', config: 'set system services web-management https system-generated-certificate', is: 'fail', branch: 'weak' },
    { name: 'on with a filter', config: `set system services web-management https system-generated-certificate\n${filter('a then accept')}`, is: 'pass', branch: 'strong' },
  ],
  'bootp-server-off': [
    { name: 'silent', config: 'set system host-name a', is: 'pass', branch: 'off' },
    { name: 'handed on', config: 'set forwarding-options helpers bootp server 10.40.0.5\nset forwarding-options helpers bootp interface ge-0/0/1.0', is: 'fail', branch: 'on' },
    { name: 'trap: inactive', config: 'set forwarding-options helpers bootp server 10.40.0.5\ndeactivate forwarding-options helpers bootp', is: 'pass' },
    { name: 'trap: words of a banner', config: banner('forwarding-options helpers bootp'), is: 'pass' },
  ],
  'source-route-off': [
    { name: 'silent', config: 'set system host-name a', is: 'pass', branch: 'off' },
    { name: 'on', config: 'set routing-options source-routing ip', is: 'fail', branch: 'on' },
    { name: 'trap: on for both families', config: 'set routing-options source-routing ip\nset routing-options source-routing ipv6', is: 'fail' },
    { name: 'trap: taken back', config: 'set routing-options source-routing ip\ndelete routing-options source-routing', is: 'pass' },
  ],
  'unused-ports-down': [
    { name: 'silent', config: 'set system host-name a', is: 'notapplicable' },
    { name: 'unused and disabled', config: 'set interfaces ge-0/0/7 disable', is: 'pass', branch: 'down' },
    { name: 'unused and not disabled', config: 'set interfaces ge-0/0/7 speed 1g', is: 'fail', branch: 'up' },
    { name: 'in use', config: 'set interfaces ge-0/0/7 unit 0 family inet address 10.40.7.1/24', is: 'notapplicable' },
    { name: 'trap: a member of an aggregate', config: 'set interfaces ge-0/0/7 gigether-options 802.3ad ae0', is: 'notapplicable' },
    { name: 'trap: one of two', config: 'set interfaces ge-0/0/7 disable\nset interfaces ge-0/0/8 mtu 9000', is: 'fail' },
  ],
  'bogons-filtered': [
    { name: 'silent', config: 'set system host-name a', is: 'notapplicable' },
    { name: 'filtered by a prefix list', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN\n${BOGONS.map((prefix) => `set policy-options prefix-list BAD ${prefix}`).join('\n')}\nset firewall family inet filter IN term a from source-prefix-list BAD\nset firewall family inet filter IN term a then discard\nset firewall family inet filter IN term b then accept`, is: 'pass', branch: 'filtered' },
    { name: 'only what is named gets in', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN\nset firewall family inet filter IN term a from source-address 8.8.0.0/16\nset firewall family inet filter IN term a then accept`, is: 'pass' },
    { name: 'no filter', config: facing, is: 'fail', branch: 'no-list' },
    { name: 'described at the port', config: 'set interfaces ge-0/0/0 description Internet\nset interfaces ge-0/0/0 unit 0 family inet address 203.0.113.2/30', is: 'fail', branch: 'no-list' },
    { name: 'a filter that is not there', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN`, is: 'fail', branch: 'list-missing' },
    { name: 'one prefix gets in', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN\n${BOGONS.slice(1).map((prefix) => `set firewall family inet filter IN term a from source-address ${prefix}`).join('\n')}\nset firewall family inet filter IN term a then discard\nset firewall family inet filter IN term b then accept`, is: 'fail', branch: 'admits', extra: ['0.0.0.0/8'] },
    { name: 'trap: discarded for one protocol only', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN\n${BOGONS.map((prefix) => `set firewall family inet filter IN term a from source-address ${prefix}`).join('\n')}\nset firewall family inet filter IN term a from protocol tcp\nset firewall family inet filter IN term a then discard\nset firewall family inet filter IN term b then accept`, is: 'fail' },
    { name: 'trap: a list of prefixes that is not there cannot be weighed', config: `${facing}\nset interfaces ge-0/0/0 unit 0 family inet filter input IN\nset firewall family inet filter IN term a from source-prefix-list BAD\nset firewall family inet filter IN term a then discard\nset firewall family inet filter IN term b then accept`, is: 'unknown' },
  ],
  'rsh-off': [{ name: 'silent', config: 'set system host-name a', is: 'notapplicable' }],
  'rcp-off': [{ name: 'silent', config: 'set system host-name a', is: 'notapplicable' }],
  'vty-ssh-only': [
    { name: 'SSH', config: 'set system services ssh', is: 'pass', branch: 'ssh' },
    { name: 'telnet beside it', config: 'set system services ssh\nset system services telnet', is: 'fail', branch: 'telnet' },
    { name: 'telnet with settings, alone', config: 'set system services telnet connection-limit 5', is: 'fail' },
    { name: 'silent', config: 'set system host-name a', is: 'pass', branch: 'none' },
    { name: 'trap: telnet taken back', config: 'set system services ssh\nset system services telnet\ndelete system services telnet', is: 'pass' },
    { name: 'trap: telnet by a group', config: 'set groups g system services telnet\nset apply-groups g\nset system services ssh', is: 'fail' },
  ],
  'vty-access-class': [
    { name: 'filtered', config: filter('a from source-address 10.40.1.0/27', 'a from protocol tcp', 'a then accept', 'z then discard'), is: 'pass', branch: 'filtered' },
    { name: 'no filter', config: 'set interfaces lo0 unit 0 family inet address 10.255.0.1/32', is: 'fail', branch: 'no-filter' },
    { name: 'a filter that is not there', config: filter(), is: 'fail', branch: 'filter-missing' },
    { name: 'a filter that accepts everything', config: filter('a then accept'), is: 'fail', branch: 'filter-open' },
    { name: 'IPv6 is not filtered', config: `${filter('a from source-address 10.40.1.0/27', 'a then accept')}\nset interfaces ge-0/0/0 unit 0 family inet6 address 2001:db8::1/64`, is: 'fail', branch: 'ipv6-no-filter' },
    { name: 'silent', config: 'set system host-name a', is: 'unknown' },
  ],
  'idle-timeout': [
    { name: 'for all', config: 'set system login idle-timeout 10', is: 'pass', branch: 'everywhere' },
    { name: 'by class', config: 'set system login class ops idle-timeout 5\nset system login user ada class ops', is: 'pass', branch: 'by-class' },
    { name: 'a class without it', config: 'set system login class ops idle-timeout 5\nset system login user ada class ops\nset system login user bo class super-user', is: 'fail', branch: 'silent' },
    { name: 'too long', config: 'set system login idle-timeout 60', is: 'fail', branch: 'too-long' },
    { name: 'silent', config: 'set system host-name a', is: 'fail' },
    { name: 'trap: the last value holds', config: 'set system login idle-timeout 60\nset system login idle-timeout 5', is: 'pass' },
  ],
  'ssh-version-2': [
    { name: 'version 2', config: 'set system services ssh protocol-version v2', is: 'pass' },
    { name: 'silent while SSH is on', config: 'set system services ssh', is: 'fail', branch: 'silent' },
    { name: 'version 1', config: 'set system services ssh protocol-version v1', is: 'fail', branch: 'other-version' },
    { name: 'no SSH', config: 'set system host-name a', is: 'notapplicable' },
  ],
  'password-encryption': [{ name: 'silent', config: 'set system host-name a', is: 'notapplicable' }],
  'enable-secret-strong': [
    { name: 'SHA-512', config: 'set system root-authentication encrypted-password "$6$abc$def"', is: 'pass' },
    { name: 'MD5', config: 'set system root-authentication encrypted-password "$1$abc$def"', is: 'fail', branch: 'weak' },
    { name: 'silent', config: 'set system host-name a', is: 'fail', branch: 'none' },
  ],
  'users-strong-hash': [
    { name: 'strong', config: 'set system login user ada authentication encrypted-password "$6$abc"', is: 'pass' },
    { name: 'a key only', config: 'set system login user ada authentication ssh-ed25519 "ssh-ed25519 AAAA ada"', is: 'pass', branch: 'key-only' },
    { name: 'one of two is weak', config: 'set system login user ada authentication encrypted-password "$6$abc"\nset system login user bo authentication encrypted-password "$1$abc"', is: 'fail', branch: 'weak' },
    { name: 'neither password nor key', config: 'set system login user ada class operator', is: 'fail', branch: 'no-secret' },
    { name: 'silent', config: 'set system host-name a', is: 'notapplicable' },
  ],
  'aaa-login': [
    { name: 'ordered', config: 'set system authentication-order [ tacplus password ]\nset system tacplus-server 10.40.0.51 secret "$9$abc"', is: 'pass' },
    { name: 'silent', config: 'set system host-name a', is: 'fail' },
  ],
  'login-lockout': [
    { name: 'limited', config: 'set system login retry-options tries-before-disconnect 5\nset system login retry-options lockout-period 30', is: 'pass' },
    { name: 'too short', config: 'set system login retry-options tries-before-disconnect 5\nset system login retry-options lockout-period 5', is: 'fail', branch: 'weak' },
    { name: 'silent', config: 'set system host-name a', is: 'fail', branch: 'silent' },
  ],
  'login-banner': [
    { name: 'text', config: banner('Keep out'), is: 'pass' },
    { name: 'an announcement', config: 'set system login announcement "Welcome"', is: 'pass' },
    { name: 'blank', config: banner('  '), is: 'fail', branch: 'blank' },
    { name: 'silent', config: 'set system host-name a', is: 'fail', branch: 'none' },
  ],
  'snmp-no-default-community': [
    { name: 'own', config: 'set snmp community sparrowhawk authorization read-only', is: 'pass' },
    { name: 'default', config: 'set snmp community public authorization read-only\nset snmp community public client-list-name OPS', is: 'fail' },
    { name: 'silent', config: 'set system host-name a', is: 'pass' },
    { name: 'trap: a community of routes', config: 'set policy-options community public members 65001:1', is: 'pass' },
  ],
  'snmp-v3-only': [
    { name: 'version 3', config: 'set snmp v3 vacm access group OPS default-context-prefix security-model usm security-level privacy read-view all', is: 'pass' },
    { name: 'a community', config: 'set snmp community sparrowhawk authorization read-only', is: 'fail', branch: 'community' },
    { name: 'without privacy', config: 'set snmp v3 vacm access group OPS default-context-prefix security-model usm security-level authentication read-view all', is: 'fail', branch: 'group' },
    { name: 'silent', config: 'set system host-name a', is: 'notapplicable' },
  ],
  'ntp-servers': [
    { name: 'ours', config: 'set system ntp server 10.40.0.11 key 1\nset system ntp server 10.40.0.12', is: 'pass', ...OURS },
    { name: 'one missing, one extra', config: 'set system ntp server 10.40.0.11\nset system ntp server 192.0.2.123', is: 'fail', missing: ['10.40.0.12'], extra: ['192.0.2.123'], ...OURS },
    { name: 'silent', config: 'set system host-name a', is: 'fail', ...OURS },
    { name: 'the value is not set', config: 'set system ntp server 10.40.0.11', is: 'unknown' },
  ],
  'ntp-authenticated': [
    { name: 'with keys', config: `${ntp}set system ntp server 10.40.0.11 key 1`, is: 'pass' },
    { name: 'a server without one', config: `${ntp}set system ntp server 10.40.0.11 key 1\nset system ntp server 10.40.0.12`, is: 'fail', branch: 'server-without-key' },
    { name: 'a key that is not trusted', config: `${ntp}set system ntp server 10.40.0.11 key 2`, is: 'fail', branch: 'key-not-trusted' },
    { name: 'silent', config: 'set system host-name a', is: 'fail', branch: 'no-key' },
  ],
  'log-remote': [
    { name: 'remote', config: 'set system syslog host 10.40.0.21 any info', is: 'pass' },
    { name: 'elsewhere', config: 'set system syslog host 192.0.2.9 any info', is: 'fail', branch: 'elsewhere', ...LOGS },
    { name: 'to itself only', config: 'set system syslog host 127.0.0.1 any info', is: 'fail', branch: 'none', ...LOGS },
    { name: 'silent', config: 'set system host-name a', is: 'fail', branch: 'none' },
  ],
  'log-timestamps': [
    { name: 'milliseconds', config: 'set system syslog time-format millisecond', is: 'pass' },
    { name: 'the year only', config: 'set system syslog time-format year', is: 'fail' },
    { name: 'silent', config: 'set system host-name a', is: 'fail' },
  ],
  'proxy-arp-off': [
    { name: 'off', config: 'set interfaces ge-0/0/0 unit 0 family inet address 10.0.0.1/24', is: 'pass' },
    { name: 'on at one of two', config: 'set interfaces ge-0/0/0 unit 0 family inet address 10.0.0.1/24\nset interfaces ge-0/0/1 unit 0 family inet address 10.0.1.1/24\nset interfaces ge-0/0/1 unit 0 proxy-arp unrestricted', is: 'fail' },
    { name: 'silent', config: 'set system host-name a', is: 'notapplicable' },
    { name: 'trap: on at a unit that is off', config: 'set interfaces ge-0/0/1 unit 0 family inet address 10.0.1.1/24\nset interfaces ge-0/0/1 unit 0 proxy-arp unrestricted\nset interfaces ge-0/0/1 unit 0 disable', is: 'notapplicable' },
  ],
  'saved-equals-running': [
    { name: 'silent', config: 'set system host-name a', is: 'notchecked' },
    { name: 'the same in another order', config: 'set system host-name a\nset system services ssh', saved: 'set system services ssh\nset system host-name a', is: 'pass' },
    { name: 'different', config: 'set system host-name a\nset system services ssh', saved: 'set system host-name a', is: 'fail', missing: ['system services ssh'] },
  ],
}

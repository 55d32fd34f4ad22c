/**
 * How the indented dialect treats repetition. From memory and common practice: no published grammar exists.
 *
 * Each entry names a command that holds one value: `~` is a part of the value, `*` a part of the key (the interface
 * direction in `ip access-group ~ *`). What is not listed collects: every different line is kept. `=> key` gives
 * commands of different shape one key; `kind:` limits an entry to one kind of block.
 */
const SINGLE = `
  hostname | version | enable password level * | enable password | enable secret level * | enable secret
  enable algorithm-type ~ secret level * => enable secret level * | enable algorithm-type ~ secret => enable secret
  service timestamps * | config-register | clock timezone | clock summer-time | prompt
  ip ssh version | ip ssh time-out | ip ssh authentication-retries | ip ssh source-interface | ip ssh dh | ip ssh port
  ip http access-class | ip http authentication | ip http port | ip http secure-port | ip http max-connections
  ip http timeout-policy
  ip http secure-trustpoint | ip http secure-ciphersuite
  ip domain name | ip domain-name | ip default-gateway | ip tftp source-interface | ip tacacs source-interface
  ip radius source-interface
  ip ftp username | ip ftp password
  aaa authentication attempts login | aaa authentication * * | aaa authorization commands * * | aaa authorization * *
  aaa accounting commands * * | aaa accounting * * | aaa local authentication attempts max-fail | aaa session-id
  login block-for | login delay | login quiet-mode access-class
  banner * | key config-key *
  snmp-server community * | snmp-server location | snmp-server contact | snmp-server chassis-id
  snmp-server trap-source
  snmp-server source-interface * | snmp-server engineID * | snmp-server view * * | snmp-server user * *
  snmp-server ifindex | snmp-server packetsize | snmp-server queue-length
  ntp server vrf * * | ntp server ip * | ntp server ipv6 * | ntp server * | ntp peer * | ntp authentication-key *
  ntp source
  ntp master | ntp access-group *
  logging trap | logging buffered | logging console | logging monitor | logging facility
  logging source-interface | logging origin-id
  logging rate-limit | logging history | logging synchronous | logging persistent
  spanning-tree mode | spanning-tree vlan * priority | vtp mode | vtp domain | vtp password | vtp version
  tacacs-server host * | tacacs-server key | tacacs-server timeout | radius-server host * | radius-server key
  radius-server timeout
  archive: path | archive: maximum
  interface: ip address ~ ~ secondary => + | interface: ip address | interface: ip unnumbered
  interface: ip access-group ~ *
  interface: ipv6 traffic-filter ~ * | interface: description | interface: mtu | interface: bandwidth | interface: delay
  interface: speed | interface: duplex | interface: encapsulation | interface: switchport mode
  interface: switchport access vlan
  interface: switchport voice vlan | interface: switchport trunk native vlan
  interface: switchport trunk allowed vlan add => +
  interface: switchport trunk allowed vlan remove => +
  interface: switchport trunk allowed vlan | interface: switchport port-security maximum
  interface: switchport port-security violation
  interface: ip mtu | interface: ip tcp adjust-mss | interface: vrf forwarding | interface: ip vrf forwarding
  interface: channel-group | interface: ip verify unicast | interface: ip ospf cost | interface: ip ospf priority
  interface: ip ospf network
  interface: ip ospf authentication-key | interface: ip ospf message-digest-key * | interface: ip ospf authentication
  interface: ip ospf hello-interval | interface: ip ospf dead-interval
  interface: service-policy input | interface: service-policy output | interface: tunnel source
  interface: tunnel destination
  interface: tunnel mode | interface: tunnel protection | interface: tunnel key | interface: standby * ip
  interface: standby * priority
  interface: standby * authentication | interface: load-interval | interface: keepalive | interface: crypto map
  interface: ip nat
  interface: storm-control * level | interface: ppp chap password | interface: ip nhrp authentication
  interface: negotiation
  line: exec-timeout | line: session-timeout | line: absolute-timeout | line: transport input | line: transport output
  line: transport preferred | line: login | line: password | line: privilege level | line: logging synchronous
  line: access-class ~ * | line: ip access-class ~ * => access-class * | line: ipv6 access-class ~ *
  line: authorization * | line: accounting * | line: stopbits
  line: speed | line: length | line: width | line: history size | line: autocommand
  router: router-id | router: bgp router-id | router: neighbor * route-map ~ * | router: neighbor * prefix-list ~ *
  router: neighbor * distribute-list ~ * | router: neighbor * filter-list ~ * | router: neighbor * * | router: auto-cost
  router: default-metric | router: maximum-paths | router: area * authentication | router: passive-interface default
  address-family: neighbor * route-map ~ * | address-family: neighbor * prefix-list ~ * | address-family: neighbor * *
  vlan: name | key: key-string | crypto: encr => crypto encryption | crypto: encryption => crypto encryption
  crypto: hash | crypto: authentication
  crypto: group | crypto: lifetime | crypto: match address | crypto: set transform-set | crypto: set pfs | crypto: mode
  crypto: enrollment | crypto: revocation-check | crypto: subject-name | crypto: rsakeypair | crypto: fqdn
  aaa-server: address * | aaa-server: key | aaa-server: timeout | aaa-server: port
  dhcp-pool: network | dhcp-pool: default-router | dhcp-pool: dns-server | dhcp-pool: domain-name | dhcp-pool: lease
`

interface KeyRule {
  /** The whole shape where it holds no `~` or `*`: then no words need be split. */
  readonly literal: string | null
  readonly words: readonly string[]
  readonly block: string | null
  /** Words of the key, `*` standing for the key words met; null where the command collects after all. */
  readonly key: readonly string[] | null
}

const RULES = new Map<string, KeyRule[]>()
for (const entry of SINGLE.split(/[|\n]/)
  .map((e) => e.trim())
  .filter(Boolean)) {
  const [, block = null, shape = '', key = null] = /^(?:([\w-]+): )?(.*?)(?: => (.*))?$/.exec(entry) ?? []
  const words = shape.split(' ')
  const rule = {
    literal: /[~*]/.test(shape) ? null : shape,
    words,
    block,
    key: key === '+' ? null : (key ?? words.filter((w) => w !== '~').join(' ')).split(' '),
  }
  const first = words[0] ?? ''
  RULES.set(first, [...(RULES.get(first) ?? []), rule])
}

const USER_SECRET = /^username (\S+)(?: .*)? (secret|password) /i

/** What a command replaces; its whole text where it collects; null where order matters. */
export function keyOf(text: string, block: string | undefined): string | null {
  const space = text.indexOf(' ')
  const first = space < 0 ? text : text.slice(0, space)
  if (first === 'username') {
    // Privilege and secret of one user may stand on lines of their own; a second secret replaces the first.
    const user = USER_SECRET.exec(text)
    return user ? `username ${user[1]} ${user[2]}` : text
  }
  if (first === 'access-list') return null
  const rules = RULES.get(first)
  if (!rules) return text
  let words: string[] | null = null
  for (const rule of rules) {
    if (rule.block !== null && rule.block !== block) continue
    if (rule.literal !== null) {
      if (
        !text.startsWith(rule.literal) ||
        (text.length > rule.literal.length && text.charCodeAt(rule.literal.length) !== 32)
      )
        continue
      return rule.key === null ? text : rule.key.join(' ')
    }
    words ??= text.split(' ', 10)
    const split = words
    if (!matches(rule.words, split)) continue
    if (rule.key === null) return text
    const met = rule.words.flatMap((w, i) => (w === '*' ? [split[i] ?? ''] : []))
    return rule.key.map((w) => (w === '*' ? (met.shift() ?? '') : w)).join(' ')
  }
  return text
}

function matches(shape: readonly string[], words: readonly string[]): boolean {
  return shape.length <= words.length && shape.every((part, i) => part === '~' || part === '*' || part === words[i])
}

const INTERFACE = /^interface ([A-Za-z-]+) ?(\d.*)$/i

/** The identity under which repetitions of a block merge. */
export function blockKey(text: string, block: string | undefined): string | null {
  if (block === undefined) return null
  if (block === 'interface') {
    const name = INTERFACE.exec(text)
    if (name) return `interface ${name[1]}${name[2]}`.toLowerCase()
  }
  if (block === 'line') return text.replace(/^line console/, 'line con')
  return text
}

/** `line vty 0 4`, `line vty 7`: the numbers a block speaks of. */
export function rangeOf(text: string): { prefix: string; from: number; to: number } | null {
  const range = /^(line (?:vty|tty)) (\d{1,4})(?: (\d{1,4}))?$/i.exec(text)
  if (!range) return null
  const from = Number(range[2])
  return { prefix: (range[1] ?? '').toLowerCase(), from, to: Math.max(from, Number(range[3] ?? from)) }
}

const ADDRESS = /^(?:\d{1,3}(?:\.\d{1,3}){3}|[\da-f]*:[\da-f:.]+)$/i

/** Rewrites spellings of one command to the one that rules and keys know. */
export function canonical(text: string): string {
  switch (text.charCodeAt(0)) {
    case 0x6c: // l
      if (text.startsWith('logging ')) {
        const target = text.slice(8).split(' ', 1)[0] ?? ''
        // A name without a word of its own: `logging collector.example` names a host, `logging console` does not.
        if (ADDRESS.test(target) || /^[\w-]+(?:\.[\w-]+)+$/.test(target)) return `logging host ${text.slice(8)}`
      }
      return text.startsWith('line console ') ? `line con ${text.slice(13)}` : text
    case 0x62: // b
      return /^banner (?!(?:exec|incoming|login|motd|prompt-timeout|slip-ppp|lcd|config-save)\b)/.test(text)
        ? `banner motd ${text.slice(7)}`
        : text
    default:
      return text
  }
}

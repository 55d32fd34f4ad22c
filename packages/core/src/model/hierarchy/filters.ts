import { NAT } from './nat.ts'
import { decodeCertificate } from '../certificate.ts'
import type { Bound, Mapping } from '../mapping.ts'
import { DSCP, ICMP_TYPES, PORTS, PROTOCOLS } from '../names.ts'
import { secretOfHierarchy } from '../secrets.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

/** A term is an entry; its action is permit until `then` says otherwise. */
function term(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): Writer<Entry> {
  const list = w.entry('accessLists', { name: b.text('filter'), family }).presume('defaultAction', 'deny')
  return list.entry('entries', { text: b.text('term') })
}

const PREFIX_LISTS = { sources: 'source-prefix-list', destinations: 'destination-prefix-list' } as const

const MATCHES: readonly (readonly [pattern: string, apply: (w: Writer<Entry>, b: Bound) => void])[] = [
  ['from {source-address|address} <prefix>', (w, b) => w.push('sources', b.text('prefix'))],
  ['from destination-address <prefix>', (w, b) => w.push('destinations', b.text('prefix'))],
  ...(['sources', 'destinations'] as const).map((field): (typeof MATCHES)[number] => [`from ${PREFIX_LISTS[field]} <acl>`, (w, b) => w.push('notWeighed', `${PREFIX_LISTS[field]} ${b.text('acl')}`)]),
  [`from {protocol|next-header} <protocol>`, (w, b) => add(w, 'protocols', numbered(b.text('protocol'), PROTOCOLS), b.text('protocol'))],
  ['from source-port <port>', (w, b) => add(w, 'sourcePorts', port(b.text('port')), b.text('port'))],
  ['from destination-port <port>', (w, b) => add(w, 'destinationPorts', port(b.text('port')), b.text('port'))],
  ['from icmp-type <form>', (w, b) => add(w, 'icmpTypes', numbered(b.text('form'), ICMP_TYPES), b.text('form'))],
  ['from icmp-code <form>', (w, b) => add(w, 'icmpCodes', numbered(b.text('form'), {}), b.text('form'))],
  ['from dscp <form>', (w, b) => add(w, 'dscp', numbered(b.text('form'), DSCP), b.text('form'))],
  ['from tcp-flags <flags>', (w, b) => w.push('tcpFlags', ...b.text('flags').replace(/[()"]/g, '').split('&').map((flag) => flag.trim()).filter(Boolean))],
  ['from tcp-initial', (w) => w.push('tcpFlags', 'syn', '!ack')],
  ['from tcp-established', (w) => w.set('established', true)],
  ['from is-fragment', (w) => w.set('fragments', true)],
  ['from <what...>', (w, b) => w.push('notWeighed', b.text('what'))],
  ['then accept', (w) => w.set('action', 'permit')],
  ['then {discard|reject} ...', (w) => w.set('action', 'deny')],
  ['then {log|syslog}', (w) => w.set('logged', true)],
  // On to the next term, deciding nothing.
  ['then next term', (w) => w.set('action', 'other')],
  ['then {count|policer|next|loss-priority|forwarding-class} ...', () => undefined],
]

/** Terms that name a prefix list have the prefixes of it, once all lists are known. */
export function readPrefixLists(w: Writer<DeviceModel>): void {
  for (const list of w.every('accessLists', {})) {
    const { family } = list.target
    for (const entry of list.every('entries', {})) {
      for (const field of ['sources', 'destinations'] as const) {
        const head = `${PREFIX_LISTS[field]} `
        const named = entry.target.notWeighed.filter((words) => words.startsWith(head)).flatMap((words) => w.find('prefixLists', { name: words.slice(head.length), family }) ?? [])
        for (const { target } of named) {
          entry.presume('notWeighed', entry.target.notWeighed.filter((words) => words !== `${head}${target.name}`))
          entry.push(field, ...target.entries.map(({ prefix }) => prefix))
        }
      }
    }
  }
}

function add(w: Writer<Entry>, field: 'protocols' | 'sourcePorts' | 'destinationPorts' | 'icmpTypes' | 'icmpCodes' | 'dscp', range: [number, number] | null, word: string): void {
  if (range) w.set(field, [...w.target[field], range])
  else w.push('notWeighed', `${field} ${word}`)
}

function numbered(word: string, names: Readonly<Record<string, number>>): [number, number] | null {
  const number = /^\d+$/.test(word) ? Number(word) : names[word]
  return number === undefined ? null : [number, number]
}

function port(word: string): [number, number] | null {
  const [from, to = from] = word.split('-').map((part) => (/^\d+$/.test(part) ? Number(part) : (PORTS.tcp[part] ?? PORTS.udp[part])))
  return from === undefined || to === undefined ? null : [from, to]
}

function filterOf(prefix: string, family: 'ipv4' | 'ipv6'): Mapping<DeviceModel>[] {
  return MATCHES.map(([pattern, apply]): Mapping<DeviceModel> => [`firewall ${prefix}filter <filter> term <term> ${pattern}`, (w, b) => apply(term(w, b, family), b)])
}

function ports(w: Writer<DeviceModel>, b: Bound, field: 'sourcePorts' | 'destinationPorts'): void {
  const range = port(b.text('port'))
  const application = w.entry('applications', { name: b.text('name') })
  if (range) application.set(field, [...application.target[field], range])
}

const ZONES: readonly Mapping<DeviceModel>[] = [
  ['security address-book <book> address <name> <prefix>', (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('prefix'))],
  ['security address-book <book> address-set <name> {address|address-set} <member>', (w, b) => w.entry('addressGroups', { name: b.text('name') }).push('members', b.text('member'))],
  ['applications application <name> protocol <protocol>', (w, b) => w.entry('applications', { name: b.text('name') }).set('protocol', b.text('protocol'))],
  ['applications application <name> source-port <port>', (w, b) => ports(w, b, 'sourcePorts')],
  ['applications application <name> destination-port <port>', (w, b) => ports(w, b, 'destinationPorts')],
  ['applications application-set <name> application <member>', (w, b) => w.entry('applications', { name: b.text('name') }).push('members', b.text('member'))],
  ['security zones security-zone <zone> interfaces <interface> ...', (w, b) => void [w.entry('zones', { name: b.text('zone') }).push('interfaces', b.text('interface')), w.find('interfaces', { name: b.text('interface') })?.set('zone', b.text('zone'))]],
  ['security zones security-zone <zone> ...', (w, b) => w.entry('zones', { name: b.text('zone') })],
  ['security policies from-zone <from> to-zone <to> policy <name> match source-address <what>', (w, b) => zonePolicy(w, b).push('sources', b.text('what'))],
  ['security policies from-zone <from> to-zone <to> policy <name> match destination-address <what>', (w, b) => zonePolicy(w, b).push('destinations', b.text('what'))],
  ['security policies from-zone <from> to-zone <to> policy <name> match application <what>', (w, b) => zonePolicy(w, b).push('applications', b.text('what'))],
  ['security policies from-zone <from> to-zone <to> policy <name> then log ...', (w, b) => zonePolicy(w, b).set('logged', true)],
  ['security policies from-zone <from> to-zone <to> policy <name> then <action> ...', (w, b) => zonePolicy(w, b).set('action', b.text('action'))],
  ['security policies default-policy <action>', (w, b) => w.entry('zonePolicies', { name: 'default-policy', from: 'any', to: 'any' }).set('action', b.text('action') === 'deny-all' ? 'deny' : 'permit')],
  ...NAT,
]

function zonePolicy(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['zonePolicies'][number]> {
  return w.entry('zonePolicies', { name: b.text('name'), from: b.text('from'), to: b.text('to') })
}

const CLASSES: readonly Mapping<DeviceModel>[] = [
  ['class-of-service forwarding-classes class <name> ...', (w, b) => w.entry('trafficClasses', { name: b.text('name') })],
  ['class-of-service classifiers <form> <policy> forwarding-class <name> ...', (w, b) => w.entry('trafficPolicies', { name: b.text('policy') }).push('classes', b.text('name'))],
  ['class-of-service scheduler-maps <policy> forwarding-class <name> ...', (w, b) => w.entry('trafficPolicies', { name: b.text('policy') }).push('classes', b.text('name'))],
  ['class-of-service ...', () => undefined],
]

const CERTIFICATES: readonly Mapping<DeviceModel>[] = [
  [['security certificates local <name> <text>', 'security pki local-certificate <name> certificate <text>'], (w, b) => w.entry('trustPoints', { name: b.text('name') }).add('certificates', { role: 'local', ...decodeCertificate(b.text('text')) })],
  ['security pki ca-profile <name> ca-identity <identity>', (w, b) => w.entry('trustPoints', { name: b.text('name') }).set('subject', b.text('identity'))],
  ['security pki ca-profile <name> revocation-check <how...>', (w, b) => w.entry('trustPoints', { name: b.text('name') }).set('revocationCheck', b.text('how'))],
]

const IPSEC: readonly Mapping<DeviceModel>[] = [
  ['security ike proposal <name> authentication-method <how>', (w, b) => ike(w, b).set('authentication', b.text('how'))],
  ['security ike proposal <name> encryption-algorithm <algorithm>', (w, b) => ike(w, b).push('encryption', b.text('algorithm'))],
  ['security ike proposal <name> authentication-algorithm <algorithm>', (w, b) => ike(w, b).push('integrity', b.text('algorithm'))],
  ['security ike proposal <name> dh-group <group>', (w, b) => ike(w, b).push('groups', b.text('group'))],
  ['security ike proposal <name> lifetime-seconds <seconds:int>', (w, b) => ike(w, b).set('lifetimeSeconds', b.number('seconds'))],
  ['security ike policy <name> pre-shared-key {ascii-text|hexadecimal} <secret>', (w, b) => peer(w, b).set('secret', secretOfHierarchy(b.text('secret'), w.sheet.mask))],
  ['security ike policy <name> proposals <proposal>', (w, b) => peer(w, b).set('proposal', b.text('proposal'))],
  ['security ike gateway <gateway> ike-policy <name>', (w, b) => peer(w, b)],
  ['security ike gateway <name> address <address>', (w, b) => peer(w, b).set('address', b.text('address'))],
  ['security ipsec proposal <name> {encryption-algorithm|authentication-algorithm|protocol} <algorithm>', (w, b) => w.entry('espProposals', { name: b.text('name') }).push('algorithms', b.text('algorithm'))],
  ['security ipsec proposal <name> lifetime-seconds <seconds:int>', (w, b) => w.entry('espProposals', { name: b.text('name') }).set('lifetimeSeconds', b.number('seconds'))],
  ['security ipsec policy <name> perfect-forward-secrecy keys <group>', (w, b) => w.entry('espProposals', { name: b.text('name') }).set('pfs', b.text('group'))],
]

function ike(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ikeProposals'][number]> {
  return w.entry('ikeProposals', { name: b.text('name') }).presume('version', 2)
}

function peer(w: Writer<DeviceModel>, b: Bound): Writer<DeviceModel['ipsecPeers'][number]> {
  return w.entry('ipsecPeers', { name: b.text('name') })
}

export const FILTERS: readonly Mapping<DeviceModel>[] = [...filterOf('family inet ', 'ipv4'), ...filterOf('family inet6 ', 'ipv6'), ...filterOf('', 'ipv4'), ...ZONES, ...IPSEC, ...CLASSES, ...CERTIFICATES]

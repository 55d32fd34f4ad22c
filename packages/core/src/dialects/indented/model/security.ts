import { decodeCertificate } from '../../../model/certificate.ts'
import { MappingTable, NOT_TAKEN, partly, type Bound, type Harmless, type Mapping } from '../../../model/mapping.ts'
import { CRYPTO_HARMLESS, QUEUE_HARMLESS, VRF_HARMLESS } from './harmless.ts'
import { natOfLine, natPoolOfLine } from './nat.ts'
import { secretOfType, secret } from '../../../model/secrets.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Ike = DeviceModel['ikeProposals'][number]
type Esp = DeviceModel['espProposals'][number]
type Profile = DeviceModel['ipsecPolicies'][number]
type Peer = DeviceModel['ipsecPeers'][number]

export const IKE = new MappingTable<Ike>(
  [
    [
      ['encr <algorithm...>', 'encryption <algorithm...>'],
      (w, b) => w.push('encryption', ...algorithms(b.text('algorithm'))),
    ],
    [
      ['hash <algorithm>', 'integrity <algorithm...>', 'prf <algorithm...>'],
      (w, b) => w.push('integrity', ...b.words('algorithm')),
    ],
    ['group <groups...>', (w, b) => w.push('groups', ...b.words('groups'))],
    ['authentication <how>', (w, b) => w.set('authentication', b.text('how'))],
    ['lifetime <seconds:int>', (w, b) => w.set('lifetimeSeconds', b.number('seconds'))],
  ],
  CRYPTO_HARMLESS,
)

/** `aes 256` is one algorithm, `aes-cbc-256 aes-cbc-128` are two. */
function algorithms(text: string): string[] {
  const words = text.split(' ')
  return words.length === 2 && /^\d+$/.test(words[1] ?? '') ? [text] : words
}

export const ESP = new MappingTable<Esp>([['mode <mode>', (w, b) => w.set('mode', b.text('mode'))]], CRYPTO_HARMLESS)

export const PROFILE = new MappingTable<Profile>(
  [
    ['set transform-set <names...>', (w, b) => w.push('proposals', ...b.words('names'))],
    ['set pfs <group>', (w, b) => w.set('pfs', b.text('group'))],
    // Without a group, the default one: which that is differs between software versions.
    ['set pfs', (w) => w.set('pfs', 'default group')],
    [
      'set security-association lifetime seconds <seconds:int>',
      (w, b) => w.set('lifetimeSeconds', b.number('seconds')),
    ],
  ],
  CRYPTO_HARMLESS,
)

export const PEER = new MappingTable<Peer>(
  [
    ['set peer <address> ...', (w, b) => w.set('address', b.text('address'))],
    ['set transform-set <names...>', (w, b) => w.set('proposal', b.text('names'))],
    ['match address <acl>', (w, b) => w.set('selector', b.text('acl'))],
    ['address <address> ...', (w, b) => w.set('address', b.text('address'))],
    [
      ['pre-shared-key {local|remote} <form:int> <secret>', 'pre-shared-key <form:int> <secret>'],
      (w, b) => w.set('secret', secretOfType(b.text('form'), b.text('secret'), w.provenance.mask)),
    ],
    [
      ['pre-shared-key {local|remote} <secret>', 'pre-shared-key <secret>'],
      (w, b) => w.set('secret', secret('clear', b.text('secret'), w.provenance.mask)),
    ],
    ['set pfs <group>', (w, b) => w.set('pfs', b.text('group'))],
    ['set pfs', (w) => w.set('pfs', 'default group')],
    [
      'set security-association lifetime seconds <seconds:int>',
      (w, b) => w.set('lifetimeSeconds', b.number('seconds')),
    ],
  ],
  CRYPTO_HARMLESS,
)

/** An entry of a map protects what it chooses like a profile does a tunnel. */
export function policiesOfMaps(w: Writer<DeviceModel>): void {
  w.target.ipsecPeers.forEach(({ name, proposal, pfs, lifetimeSeconds }, i) => {
    if (!/^\S+ \d+$/.test(name)) return
    const policy = w.add('ipsecPolicies', {
      name,
      kind: 'map',
      proposals: proposal?.split(' ') ?? [],
      pfs,
      lifetimeSeconds,
    })
    w.provenance.origins.note(policy.place, null, { kind: 'of', path: `ipsecPeers[${i}]` })
    if (pfs !== null) w.provenance.origins.note(policy.place, 'pfs', { kind: 'of', path: `ipsecPeers[${i}].pfs` })
  })
}

export const MKA = new MappingTable<DeviceModel['macsec'][number]>(
  [['macsec-cipher-suite <cipher...>', (w, b) => w.set('cipher', b.text('cipher'))]],
  [
    [
      'it does not choose the cipher',
      [
        'key-server ...',
        'sak-rekey ...',
        'delay-protection',
        'include-icv-indicator',
        'ssci-based-on-sci',
        'send-secure-announcements',
      ],
    ],
  ],
)

export const KEYRING = new MappingTable<DeviceModel>([
  ['peer <name>', (w, b, s) => PEER.read(s.scope, w.entry('ipsecPeers', { name: b.text('name') }))],
])

export const TRUST_POINT = new MappingTable<DeviceModel['trustPoints'][number]>(
  [
    ['subject-name <name...>', (w, b) => w.set('subject', b.text('name'))],
    ['rsakeypair <name> ...', (w, b) => w.set('keyPair', b.text('name'))],
    ['revocation-check <how...>', (w, b) => w.set('revocationCheck', b.text('how'))],
  ],
  CRYPTO_HARMLESS,
)

const CHAIN = new MappingTable<DeviceModel['trustPoints'][number]>([
  ['certificate <words...>', (w, b, s) => certificate(w, b, s.nodes.at(-1)?.body ?? '')],
])

function certificate(w: Parameters<Mapping<DeviceModel['trustPoints'][number]>[1]>[0], b: Bound, body: string): void {
  const words = b.words('words')
  const role = words.length > 1 ? words.slice(0, -1).join(' ') : null
  w.add('certificates', { serial: words.at(-1) ?? null, ...decodeCertificate(body), role })
}

export const VRF = new MappingTable<DeviceModel['vrfs'][number]>(
  [
    ['rd <rd>', (w, b) => w.set('routeDistinguisher', b.text('rd'))],
    ['description <text...>', (w, b) => w.set('description', b.text('text'))],
  ],
  VRF_HARMLESS,
)

const SAID: readonly Harmless[] = [['it says what it is for', ['description ...', 'exit']]]

export const ZONE_PAIR = new MappingTable<DeviceModel['zonePolicies'][number]>(
  [['service-policy type inspect <name>', (w, b) => w.set('action', b.text('name'))]],
  SAID,
)

export const CLASS = new MappingTable<DeviceModel['trafficClasses'][number]>(
  [
    ['match <what...>', (w, b) => w.push('matches', b.text('what'))],
    ['match not <what...>', (w, b) => w.push('matches', `not ${b.text('what')}`)],
  ],
  SAID,
)
/** What is done with a class stands in a block of its own. */
export const IN_CLASS = new MappingTable<DeviceModel['trafficPolicies'][number]>(
  [
    // A class that is dropped, or policed to drop, drops packets.
    ['drop', (w) => w.push('drops', w.target.classes.at(-1) ?? '')],
  ],
  QUEUE_HARMLESS,
)
/** What is done with a class between zones. */
export const INSPECTION = new MappingTable<DeviceModel['trafficPolicies'][number]['inspections'][number]>(
  [[['inspect', 'inspect ...', 'pass', 'pass ...', 'drop', 'drop ...'], (w, _, s) => w.set('action', s.command.first)]],
  QUEUE_HARMLESS,
)
export const INSPECTING = new MappingTable<DeviceModel['trafficPolicies'][number]>(
  [
    [
      'class type inspect <name>',
      (w, b, s) => INSPECTION.read(s.scope, w.add('inspections', { class: b.text('name') })),
    ],
    ['class <name>', (w, b, s) => INSPECTION.read(s.scope, w.add('inspections', { class: b.text('name') }))],
  ],
  SAID,
)
export const POLICY = new MappingTable<DeviceModel['trafficPolicies'][number]>(
  [['class <name> ...', (w, b, s) => void [w.push('classes', b.text('name')), IN_CLASS.read(s.scope, w)]]],
  SAID,
)

type MapEntry = DeviceModel['accessMaps'][number]['entries'][number]
export const ACCESS_MAP = new MappingTable<MapEntry>(
  [
    ['match ip address <names...>', (w, b) => w.push('lists4', ...b.words('names'))],
    ['match ipv6 address <names...>', (w, b) => w.push('lists6', ...b.words('names'))],
    ['match <what...>', (w, b) => w.push('notWeighed', b.text('what'))],
    ['action forward ...', (w) => w.set('action', 'forward')],
    ['action drop ...', (w) => w.set('action', 'drop')],
    ['action <what...>', (w) => partly(w.set('action', 'unknown'))],
  ],
  SAID,
)

/** VLANs of a list, each as its own. */
function filterVlans(w: Writer<DeviceModel>, map: string, ids: string): void {
  for (const part of ids.split(',')) {
    const [from = 0, to = from] = part.split('-').map(Number)
    for (let id = from; id <= to && id >= 1 && to <= 4094; id++) w.entry('vlans', { id }).set('accessMap', map)
  }
}

export const SECURITY: readonly Mapping<DeviceModel>[] = [
  [
    ['vlan access-map <name> <sequence:int>', 'vlan access-map <name>'],
    (w, b, s) =>
      ACCESS_MAP.read(
        s.scope,
        w
          .entry('accessMaps', { name: b.text('name') })
          .add('entries', { sequence: b.text('sequence') === '' ? 10 : b.number('sequence') }),
      ),
  ],
  ['vlan filter <name> vlan-list <ids>', (w, b) => filterVlans(w, b.text('name'), b.text('ids'))],
  ['vlan configuration ...', () => NOT_TAKEN],
  [
    'vlan <ids>',
    (w, b, s) =>
      vlans(
        w,
        b.text('ids'),
        s.scope?.statements.find((child) => child.command.first === 'name')?.text.slice(5) ?? null,
        s,
      ),
  ],
  [
    ['vrf definition <name>', 'ip vrf <name>', 'vrf context <name>', 'vrf <name>'],
    (w, b, s) => VRF.read(s.scope, w.entry('vrfs', { name: b.text('name') })),
  ],
  ['zone security <name>', (w, b) => w.entry('zones', { name: b.text('name') })],
  [
    'zone-pair security <name> source <from> destination <to>',
    (w, b, s) =>
      ZONE_PAIR.read(s.scope, w.add('zonePolicies', { name: b.text('name'), from: b.text('from'), to: b.text('to') })),
  ],
  [
    ['ip nat inside source <what...>', 'ip nat outside source <what...>'],
    (w, b, s) => w.add('nat', natOfLine(s.command.lowerWords[2] ?? '', b.text('what'))),
  ],
  ['ip nat pool <what...>', (w, b) => w.add('nat', natPoolOfLine(b.text('what')))],
  [
    'crypto isakmp policy <number>',
    (w, b, s) => IKE.read(s.scope, w.add('ikeProposals', { name: b.text('number'), version: 1 })),
  ],
  [
    'crypto ikev2 proposal <name>',
    (w, b, s) => IKE.read(s.scope, w.add('ikeProposals', { name: b.text('name'), version: 2 })),
  ],
  [
    'crypto ipsec transform-set <name> <algorithms...>',
    (w, b, s) => ESP.read(s.scope, w.add('espProposals', { name: b.text('name'), algorithms: b.words('algorithms') })),
  ],
  [
    'crypto ipsec profile <name>',
    (w, b, s) => PROFILE.read(s.scope, w.add('ipsecPolicies', { name: b.text('name'), kind: 'profile' })),
  ],
  [
    'crypto map <name> <number:int> ipsec-isakmp ...',
    (w, b, s) => PEER.read(s.scope, w.add('ipsecPeers', { name: `${b.text('name')} ${b.text('number')}` })),
  ],
  ['crypto ikev2 keyring <name>', (w, _, s) => KEYRING.read(s.scope, w)],
  [
    'crypto isakmp key <form:int> <secret> address <address> ...',
    (w, b) =>
      w.add('ipsecPeers', {
        name: b.text('address'),
        address: b.text('address'),
        secret: secretOfType(b.text('form'), b.text('secret'), w.provenance.mask),
      }),
  ],
  [
    'crypto isakmp key <secret> address <address> ...',
    (w, b) =>
      w.add('ipsecPeers', {
        name: b.text('address'),
        address: b.text('address'),
        secret: secret('clear', b.text('secret'), w.provenance.mask),
      }),
  ],
  [
    'crypto pki trustpoint <name>',
    (w, b, s) => TRUST_POINT.read(s.scope, w.entry('trustPoints', { name: b.text('name') })),
  ],
  [
    ['crypto pki certificate chain <name>', 'crypto ca certificate chain <name>'],
    (w, b, s) => CHAIN.read(s.scope, w.entry('trustPoints', { name: b.text('name') })),
  ],
  [
    ['class-map {match-all|match-any} <name>', 'class-map type inspect {match-all|match-any} <name>'],
    (w, b, s) =>
      CLASS.read(
        s.scope,
        w.entry('trafficClasses', { name: b.text('name') }).set('any', s.command.lowerWords.includes('match-any')),
      ),
  ],
  [
    ['class-map type inspect <name>', 'class-map <name>'],
    (w, b, s) => CLASS.read(s.scope, w.entry('trafficClasses', { name: b.text('name') })),
  ],
  [
    'policy-map type inspect <name>',
    (w, b, s) => INSPECTING.read(s.scope, w.entry('trafficPolicies', { name: b.text('name') })),
  ],
  ['policy-map <name>', (w, b, s) => POLICY.read(s.scope, w.entry('trafficPolicies', { name: b.text('name') }))],
  ['mka policy <name>', (w, b, s) => MKA.read(s.scope, w.add('macsec', { name: b.text('name') }))],
]

/** `vlan 10,20-22`: as many VLANs as it names. */
function vlans(
  w: Parameters<Mapping<DeviceModel>[1]>[0],
  ids: string,
  name: string | null,
  statement: Parameters<Mapping<DeviceModel>[1]>[2],
): void {
  for (const part of ids.split(',').slice(0, 4096)) {
    const [from, to = from] = part.split('-').map(Number)
    if (from === undefined || to === undefined || !(from >= 1 && to <= 4094 && to - from < 4094)) continue
    for (let id = from; id <= to; id++) w.entry('vlans', { id }).target.name = name
  }
  for (const child of statement.scope?.statements ?? [])
    if (child.command.first === 'name') w.provenance.used.add(child)
}

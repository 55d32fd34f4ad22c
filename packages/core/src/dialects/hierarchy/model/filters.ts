import { IPSEC } from './ipsec.ts'
import { NAT } from './nat.ts'
import { portRange } from './port-range.ts'
import { ZONES } from './zones.ts'
import { decodeCertificate } from '../../../model/certificate.ts'
import { partly, type Bound, type Mapping } from '../../../model/mapping.ts'
import { DSCP, ICMP_TYPES, PROTOCOLS } from '../../../model/names.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

/** A term is an entry; its action is permit until `then` says otherwise. */
function term(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): Writer<Entry> {
  return list(w, b, family).entry('entries', { text: b.text('term') })
}

function list(w: Writer<DeviceModel>, b: Bound, family: 'ipv4' | 'ipv6'): Writer<DeviceModel['accessLists'][number]> {
  return w.entry('accessLists', { name: b.text('filter'), family }).presume('defaultAction', 'deny')
}

const PREFIX_LISTS = { sources: 'source-prefix-list', destinations: 'destination-prefix-list' } as const

const MATCHES: readonly (readonly [pattern: string, apply: (w: Writer<Entry>, b: Bound) => void])[] = [
  ['from source-address <prefix>', (w, b) => w.push('sources', b.text('prefix'))],
  ['from destination-address <prefix>', (w, b) => w.push('destinations', b.text('prefix'))],
  ...(['sources', 'destinations'] as const).map((field): (typeof MATCHES)[number] => [
    `from ${PREFIX_LISTS[field]} <acl>`,
    (w, b) => w.push('notWeighed', `${PREFIX_LISTS[field]} ${b.text('acl')}`).push('unreadFields', field),
  ]),
  [
    `from {protocol|next-header} <protocol>`,
    (w, b) => add(w, 'protocols', numbered(b.text('protocol'), PROTOCOLS), b.text('protocol')),
  ],
  ['from source-port <port>', (w, b) => add(w, 'sourcePorts', portRange(b.text('port')), b.text('port'))],
  ['from destination-port <port>', (w, b) => add(w, 'destinationPorts', portRange(b.text('port')), b.text('port'))],
  ['from icmp-type <form>', (w, b) => add(w, 'icmpTypes', numbered(b.text('form'), ICMP_TYPES), b.text('form'))],
  ['from icmp-code <form>', (w, b) => add(w, 'icmpCodes', numbered(b.text('form'), {}), b.text('form'))],
  ['from dscp <form>', (w, b) => add(w, 'dscp', numbered(b.text('form'), DSCP), b.text('form'))],
  [
    'from tcp-flags <flags>',
    (w, b) =>
      w.push(
        'tcpFlags',
        ...b
          .text('flags')
          .replace(/[()"]/g, '')
          .split('&')
          .map((flag) => flag.trim())
          .filter(Boolean),
      ),
  ],
  ['from tcp-initial', (w) => w.push('tcpFlags', 'syn', '!ack')],
  ['from tcp-established', (w) => w.set('established', true)],
  ['from is-fragment', (w) => w.set('fragments', true)],
  ['from <what...>', (w, b) => w.push('notWeighed', b.text('what'))],
  ['then accept', (w) => w.set('action', 'permit')],
  ['then {discard|reject} ...', (w) => w.set('action', 'deny')],
  ['then {log|syslog}', (w) => w.set('logged', true)],
  // On to the next term, deciding nothing.
  ['then next term', (w) => w.set('action', 'other')],
  // The packet is accepted, and looked up in another table.
  ['then routing-instance <vrf>', (w, b) => w.set('routingInstance', b.text('vrf'))],
  // Rates and marks are not followed: what a policer drops, it drops of any packets.
  [
    'then {count|policer|three-color-policer|loss-priority|forwarding-class|dscp|sample|port-mirror|port-mirror-instance|prefix-action} ...',
    () => undefined,
  ],
  [`then {sample|port-mirror|service-accounting}`, () => undefined],
  ['then <what...>', (w) => partly(w.set('action', 'unknown'))],
  ['filter <name>', (w, b) => w.set('action', 'other').set('inlines', b.text('name'))],
]

/** Terms that name a prefix list have the prefixes of it, once all lists are known. */
export function readPrefixLists(w: Writer<DeviceModel>): void {
  for (const list of w.every('accessLists', {})) {
    const { family } = list.target
    for (const entry of list.every('entries', {})) {
      for (const field of ['sources', 'destinations'] as const) {
        const head = `${PREFIX_LISTS[field]} `
        const unresolved: string[] = []
        for (const words of entry.target.notWeighed.filter((some) => some.startsWith(head))) {
          const named = w.find('prefixLists', { name: words.slice(head.length), family })?.target
          if (named) entry.push(field, ...named.entries.map(({ prefix }) => prefix))
          else unresolved.push(words)
        }
        // No prefix at all would read as any address: a list without entries is told instead.
        if (!entry.target.unreadFields.includes(field) || entry.target[field].length === 0) continue
        entry.presume(
          'notWeighed',
          entry.target.notWeighed.filter((words) => !words.startsWith(head) || unresolved.includes(words)),
        )
        if (unresolved.length > 0) continue
        entry.presume(
          'unreadFields',
          entry.target.unreadFields.filter((one) => one !== field),
        )
      }
    }
  }
}

function add(
  w: Writer<Entry>,
  field: 'protocols' | 'sourcePorts' | 'destinationPorts' | 'icmpTypes' | 'icmpCodes' | 'dscp',
  range: [number, number] | null,
  word: string,
): void {
  if (range) w.set(field, [...w.target[field], range])
  else w.push('notWeighed', `${field} ${word}`).push('unreadFields', field)
}

function numbered(word: string, names: Readonly<Record<string, number>>): [number, number] | null {
  const number = /^\d+$/.test(word) ? Number(word) : names[word]
  return number === undefined ? null : [number, number]
}

function filterOf(prefix: string, family: 'ipv4' | 'ipv6'): Mapping<DeviceModel>[] {
  const path = `firewall ${prefix}filter <filter>`
  return [
    ...termsOf(path, family),
    [
      [
        `${path} interface-specific`,
        `${path} accounting-profile *`,
        `${path} physical-interface-filter`,
        `${path} term <term>`,
      ],
      (w, b) => (b.text('term') === '' ? list(w, b, family) : term(w, b, family)),
    ],
    // What else a filter says may decide anything, from here on.
    [
      `${path} <what...>`,
      (w, b) => partly(list(w, b, family).add('entries', { text: b.text('what'), action: 'unknown' })),
    ],
  ]
}

function termsOf(path: string, family: 'ipv4' | 'ipv6'): Mapping<DeviceModel>[] {
  return MATCHES.map(([pattern, apply]): Mapping<DeviceModel> => [
    `${path} term <term> ${pattern}`,
    (w, b) => apply(term(w, b, family), b),
  ])
}

const CLASSES: readonly Mapping<DeviceModel>[] = [
  [
    'class-of-service forwarding-classes class <name> ...',
    (w, b) => w.entry('trafficClasses', { name: b.text('name') }),
  ],
  [
    'class-of-service classifiers <form> <policy> forwarding-class <name> ...',
    (w, b) => w.entry('trafficPolicies', { name: b.text('policy') }).push('classes', b.text('name')),
  ],
  [
    'class-of-service scheduler-maps <policy> forwarding-class <name> ...',
    (w, b) => w.entry('trafficPolicies', { name: b.text('policy') }).push('classes', b.text('name')),
  ],
]

const CERTIFICATES: readonly Mapping<DeviceModel>[] = [
  [
    ['security certificates local <name> <text>', 'security pki local-certificate <name> certificate <text>'],
    (w, b) =>
      w
        .entry('trustPoints', { name: b.text('name') })
        .add('certificates', { role: 'local', ...decodeCertificate(b.text('text')) }),
  ],
  [
    'security pki ca-profile <name> ca-identity <identity>',
    (w, b) => w.entry('trustPoints', { name: b.text('name') }).set('subject', b.text('identity')),
  ],
  [
    'security pki ca-profile <name> revocation-check <how...>',
    (w, b) => w.entry('trustPoints', { name: b.text('name') }).set('revocationCheck', b.text('how')),
  ],
]

export const FILTERS: readonly Mapping<DeviceModel>[] = [
  ...filterOf('family inet ', 'ipv4'),
  ...filterOf('family inet6 ', 'ipv6'),
  ...filterOf('', 'ipv4'),
  ...ZONES,
  ...NAT,
  ...IPSEC,
  ...CLASSES,
  ...CERTIFICATES,
]

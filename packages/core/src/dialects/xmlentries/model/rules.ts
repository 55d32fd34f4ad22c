/** Rules between zones, and rules of translation. */
import type { Statement } from '../../../syntax/index.ts'
import { partly, ignored, type Bound, type Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Policy = DeviceModel['zonePolicies'][number]
type Nat = DeviceModel['nat'][number]

const RULE = 'rulebase security rules <rule>'

function policy(w: Writer<DeviceModel>, b: Bound): Writer<Policy> {
  const name = b.text('rule')
  const known = w.find('zonePolicies', { name })
  return known
    ? w.entry('zonePolicies', { name })
    : w.entry('zonePolicies', { name }).presume('scope', 'global').presume('action', 'deny')
}

const ACTIONS: Readonly<Record<string, string>> = {
  allow: 'permit',
  deny: 'deny',
  drop: 'deny',
  'reset-client': 'deny',
  'reset-server': 'deny',
  'reset-both': 'deny',
}

const SECURITY: readonly Mapping<DeviceModel>[] = [
  [
    `${RULE} from <zone>`,
    (w, b) => (b.text('zone') === 'any' ? policy(w, b) : policy(w, b).push('fromZones', b.text('zone'))),
  ],
  [
    `${RULE} to <zone>`,
    (w, b) => (b.text('zone') === 'any' ? policy(w, b) : policy(w, b).push('toZones', b.text('zone'))),
  ],
  [`${RULE} source <what>`, (w, b) => policy(w, b).push('sources', b.text('what'))],
  [`${RULE} destination <what>`, (w, b) => policy(w, b).push('destinations', b.text('what'))],
  [`${RULE} service <what>`, (w, b) => serviceOf(policy(w, b), b.text('what'))],
  // What an application is shows in what is sent, not in its header.
  [
    `${RULE} application <what>`,
    (w, b) =>
      b.text('what') === 'any' ? policy(w, b) : policy(w, b).push('notWeighed', `application ${b.text('what')}`),
  ],
  [`${RULE} action <action>`, (w, b) => policy(w, b).set('action', ACTIONS[b.text('action')] ?? b.text('action'))],
  [
    `${RULE} {log-start|log-end} <flag>`,
    (w, b) => (b.text('flag') === 'yes' ? policy(w, b).set('logged', true) : policy(w, b)),
  ],
  [
    `${RULE} {negate-source|negate-destination} <flag>`,
    (w, b, s) => (b.text('flag') === 'yes' ? policy(w, b).push('notWeighed', s.command.words[4] ?? '') : policy(w, b)),
  ],
  [
    `${RULE} {source-user|category|source-hip|destination-hip|hip-profiles|saas-user-list} <what>`,
    (w, b, s) =>
      b.text('what') === 'any'
        ? policy(w, b)
        : policy(w, b).push('notWeighed', `${s.command.words[4] ?? ''} ${b.text('what')}`),
  ],
  [`${RULE} schedule <when>`, (w, b) => policy(w, b).push('notWeighed', `schedule ${b.text('when')}`)],
  [
    `${RULE} rule-type <kind>`,
    (w, b, s) =>
      s.command.words.at(-1) === 'universal'
        ? policy(w, b)
        : policy(w, b).push('notWeighed', `rule-type ${s.command.words.at(-1) ?? ''}`),
  ],
  // What is permitted is looked at further, and may still be dropped.
  [`${RULE} profile-setting ...`, (w, b) => policy(w, b).push('notWeighed', 'permit with inspection')],
  [
    `${RULE} {description|tag|group-tag|log-setting|disabled|icmp-unreachable|option|qos|uuid} ...`,
    (w, b) => policy(w, b),
  ],
  [RULE, (w, b) => policy(w, b)],
  [
    'rulebase default-security-rules rules interzone-default action <action>',
    (w, b) =>
      w
        .entry('zonePolicies', { name: 'interzone-default' })
        .presume('scope', 'default')
        .set('action', ACTIONS[b.text('action')] ?? b.text('action')),
  ],
  ['rulebase default-security-rules rules <rule> {log-start|log-end|log-setting|profile-setting} ...', () => ignored()],
]

/** Services that every device knows without a line (common practice). */
const KNOWN: Readonly<Record<string, readonly (readonly [number, number])[]>> = {
  'service-http': [
    [80, 80],
    [8080, 8080],
  ],
  'service-https': [[443, 443]],
}

function serviceOf(w: Writer<Policy>, what: string): unknown {
  // The ports that an application usually has: which those are is not stated.
  if (what === 'application-default')
    return w.push('applications', 'any').push('notWeighed', 'service application-default')
  return w.push('applications', what)
}

const NAT_RULE = 'rulebase nat rules <rule>'

function nat(w: Writer<DeviceModel>, b: Bound): Writer<Nat> {
  return w.entry('nat', { kind: 'rule', statement: b.text('rule') })
}

const NAT: readonly Mapping<DeviceModel>[] = [
  [`${NAT_RULE} from <zone>`, (w, b) => zone(nat(w, b), 'fromZone', b.text('zone'))],
  [`${NAT_RULE} to <zone>`, (w, b) => zone(nat(w, b), 'toZone', b.text('zone'))],
  [
    `${NAT_RULE} to-interface <interface>`,
    (w, b) => (b.text('interface') === 'any' ? nat(w, b) : nat(w, b).set('interface', b.text('interface'))),
  ],
  [`${NAT_RULE} source <what>`, (w, b) => nat(w, b).push('sources', b.text('what'))],
  [`${NAT_RULE} destination <what>`, (w, b) => nat(w, b).push('destinations', b.text('what'))],
  // Of which service: by name, since it may be defined further down.
  [
    `${NAT_RULE} service <what>`,
    (w, b) => (b.text('what') === 'any' ? nat(w, b) : nat(w, b).set('list', b.text('what'))),
  ],
  [
    `${NAT_RULE} source-translation dynamic-ip-and-port interface-address interface <interface>`,
    (w, b) => nat(w, b).set('pool', 'interface'),
  ],
  [
    `${NAT_RULE} source-translation dynamic-ip-and-port interface-address ip <address>`,
    (w, b) => nat(w, b).set('pool', b.text('address')),
  ],
  [
    `${NAT_RULE} source-translation {dynamic-ip-and-port|dynamic-ip} translated-address <address>`,
    (w, b) => nat(w, b).set('pool', joined(nat(w, b).target.pool, b.text('address'))),
  ],
  [
    `${NAT_RULE} source-translation static-ip translated-address <address>`,
    (w, b) => nat(w, b).set('pool', b.text('address')).set('chain', 'same ports'),
  ],
  // It then translates in the other direction as well.
  [
    `${NAT_RULE} source-translation static-ip bi-directional {yes|no}`,
    (w, b, s) => (s.command.words.at(-1) === 'no' ? nat(w, b) : partly(nat(w, b).set('family', 'both'))),
  ],
  [
    `${NAT_RULE} destination-translation translated-address <address>`,
    (w, b) => nat(w, b).set('address', b.text('address')),
  ],
  [`${NAT_RULE} destination-translation translated-port <port>`, (w, b) => nat(w, b).set('ports', b.text('port'))],
  [`${NAT_RULE} {description|tag|group-tag|disabled|uuid|active-active-device-binding} ...`, (w, b) => nat(w, b)],
  [
    `${NAT_RULE} nat-type <kind>`,
    (w, b, s) => (s.command.words.at(-1) === 'ipv4' ? nat(w, b) : partly(nat(w, b).set('kind', 'unfollowed'))),
  ],
  [NAT_RULE, (w, b) => nat(w, b)],
]

function joined(before: string | null, more: string): string {
  return before === null ? more : `${before},${more}`
}

/** One zone, or any. Of several it is not followed which. */
function zone(w: Writer<Nat>, field: 'fromZone' | 'toZone', name: string): unknown {
  if (name === 'any') return w
  const before = w.target[field]
  return w.set(field, before === null ? name : `${before},${name}`)
}

export const RULES: readonly Mapping<DeviceModel>[] = [...SECURITY, ...NAT]

/** What holds between and within zones without a line: nothing goes between, everything within (common practice). */
export function settlePolicies(
  w: Writer<DeviceModel>,
  within: { readonly action: string; readonly nodes: Statement['nodes'] },
): void {
  w.provenance.nodes = within.nodes
  for (const { name } of w.target.zones)
    w.add('zonePolicies', {
      name: `within ${name}`,
      from: '',
      to: '',
      scope: 'within',
      fromZones: [name],
      toZones: [name],
      action: ACTIONS[within.action] ?? within.action,
    })
  w.provenance.nodes = []
  const { zonePolicies, nat } = w.target
  const asked = new Set([...zonePolicies.flatMap((one) => one.applications), ...nat.flatMap(({ list }) => list ?? [])])
  for (const [name, destinationPorts] of Object.entries(KNOWN))
    if (asked.has(name) && !w.target.applications.some((one) => one.name === name))
      w.add('applications', {
        name,
        protocol: 'tcp',
        destinationPorts: destinationPorts.map(([from, to]) => [from, to]),
      })
}

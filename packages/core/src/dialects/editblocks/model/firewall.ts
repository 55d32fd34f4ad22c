/** Addresses, services, policies between interfaces, and translation of addresses. */
import { prefixesOfRange } from '../../../model/address-ranges.ts'
import { ignored, type Bound, type Mapping } from '../../../model/mapping.ts'
import { PORTS } from '../../../model/names.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { inPart, isOn, maskedAddress, valuesOf } from './parts.ts'

type Application = DeviceModel['applications'][number]
type Group = DeviceModel['addressGroups'][number]
type Nat = DeviceModel['nat'][number]
type Policy = DeviceModel['zonePolicies'][number]

/** What every device knows without a line: all addresses of a family (common practice). */
export const ALL_4 = 'all'
export const ALL_6 = 'all (IPv6)'

function group(w: Writer<DeviceModel>, b: Bound): Writer<Group> {
  return w.entry('addressGroups', { name: b.text('name') })
}

/** A range becomes prefixes when both of its ends are known. */
function rangeEnd(w: Writer<Group>, which: 'from' | 'to', value: string): void {
  const other = w.target.members.find((member) => member.startsWith(which === 'from' ? 'to ' : 'from '))
  if (other === undefined) {
    w.push('members', `${which} ${value}`)
    return
  }
  const end = other.slice(other.indexOf(' ') + 1)
  const prefixes = which === 'from' ? prefixesOfRange(value, end) : prefixesOfRange(end, value)
  w.target.members.splice(w.target.members.indexOf(other), 1)
  w.push('members', ...(prefixes ?? [`range ${which === 'from' ? `${value}-${end}` : `${end}-${value}`}`]))
}

const SILENT = 'uuid color comment comments associated-interface visibility allow-routing cache-ttl fabric-object'

const ADDRESSES: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config firewall address edit <name>',
    group,
    {
      subnet: (w, values) => {
        const stated = maskedAddress(values)
        return w.push('members', stated ? `${stated.address}/${stated.length}` : values.join(' '))
      },
      'start-ip': (w, [value = '']) => rangeEnd(w, 'from', value),
      'end-ip': (w, [value = '']) => rangeEnd(w, 'to', value),
      // Address and bits that may be anything.
      wildcard: (w, values) => w.push('members', values.join(' ')),
      fqdn: (w, [value = '']) => w.push('members', `fqdn ${value}`),
      'wildcard-fqdn': (w, [value = '']) => w.push('members', `fqdn ${value}`),
      country: (w, [value = '']) => w.push('members', `country ${value}`),
    },
    `${SILENT} type`,
  ),
  ...valuesOf(
    'config firewall address6 edit <name>',
    group,
    { ip6: (w, [value = '']) => w.push('members', value) },
    `${SILENT} type`,
  ),
  ...(['addrgrp', 'addrgrp6'] as const).flatMap((kind) =>
    valuesOf(
      `config firewall ${kind} edit <name>`,
      group,
      {
        member: (w, values) => w.push('members', ...values),
        // What is taken out of a group again is not followed.
        'exclude-member': (w, values) => inPart(w.push('members', `without ${values.join(', ')}`)),
      },
      `${SILENT} exclude category`,
    ),
  ),
]

function service(w: Writer<DeviceModel>, b: Bound): Writer<Application> {
  return w.entry('applications', { name: b.text('name') })
}

/** `80`, `1000-2000`, `53:1024-65535` (to, then from). */
function portsOf(w: Writer<DeviceModel>, b: Bound, protocol: 'tcp' | 'udp' | 'sctp', values: readonly string[]): void {
  const name = `${b.text('name')} ${protocol}`
  service(w, b).push('members', name)
  values.forEach((value, i) => {
    const part = i === 0 ? name : `${name} ${i + 1}`
    if (i > 0) service(w, b).push('members', part)
    const one = w.entry('applications', { name: part }).set('protocol', protocol)
    const [to = '', from] = value.split(':')
    const [destination, source] = [rangeOf(to), from === undefined ? null : rangeOf(from)]
    if (destination) one.set('destinationPorts', [destination])
    if (source) one.set('sourcePorts', [source])
    if (!destination || (from !== undefined && !source)) one.push('notWeighed', `port ${value}`)
  })
}

function rangeOf(text: string): [number, number] | null {
  const found = /^(\d{1,5})(?:-(\d{1,5}))?$/.exec(text)
  return found ? [Number(found[1]), Number(found[2] ?? found[1])] : null
}

const CUSTOM = 'config firewall service custom edit <name>'

const SERVICES: readonly Mapping<DeviceModel>[] = [
  [`${CUSTOM} set tcp-portrange ...`, (w, b, s) => portsOf(w, b, 'tcp', after(s.command.words, 'tcp-portrange'))],
  [`${CUSTOM} set udp-portrange ...`, (w, b, s) => portsOf(w, b, 'udp', after(s.command.words, 'udp-portrange'))],
  [`${CUSTOM} set sctp-portrange ...`, (w, b, s) => portsOf(w, b, 'sctp', after(s.command.words, 'sctp-portrange'))],
  ...valuesOf(
    CUSTOM,
    service,
    {
      protocol: (w, [value = '']) =>
        value === 'ICMP' || value === 'ICMP6' ? w.set('protocol', value === 'ICMP' ? '1' : '58') : w,
      'protocol-number': (w, [value = '']) => w.set('protocol', value),
      icmptype: (w, [value = '']) => w.set('icmpTypes', [[Number(value), Number(value)]]),
      icmpcode: (w, [value = '']) => inPart(w.push('notWeighed', `icmpcode ${value}`)),
      iprange: (w, values) => inPart(w.push('notWeighed', `iprange ${values.join(' ')}`)),
      fqdn: (w, values) => inPart(w.push('notWeighed', `fqdn ${values.join(' ')}`)),
      'app-category': (w, values) => inPart(w.push('notWeighed', `app-category ${values.join(' ')}`)),
    },
    `${SILENT} category helper session-ttl tcp-halfclose-timer tcp-halfopen-timer tcp-timewait-timer udp-idle-timer proxy
     check-reset-range tcp-rst-timer`,
  ),
  ...valuesOf(
    'config firewall service group edit <name>',
    service,
    { member: (w, values) => w.push('members', ...values) },
    `${SILENT} proxy`,
  ),
  ['config firewall service category edit <name> ...', () => ignored()],
]

function after(words: readonly string[], name: string): readonly string[] {
  return words.slice(words.indexOf(name) + 1)
}

const POLICY = 'config firewall policy edit <id>'

function policy(w: Writer<DeviceModel>, b: Bound): Writer<Policy> {
  const name = `policy ${b.text('id')}`
  const known = w.find('zonePolicies', { name })
  if (known) return w.entry('zonePolicies', { name })
  // Where its listing is silent a policy denies, and is of all sources of IPv4 (common practice).
  return w.entry('zonePolicies', { name }).presume('scope', 'global').presume('action', 'deny')
}

/** Names of addresses; those that every device knows are told apart by family. */
function named(values: readonly string[], all: string): string[] {
  return values.map((value) => (value === 'all' ? all : value))
}

/** Conditions beside addresses and services: a policy that has one may match less than it says. */
const CONDITIONS = [
  'schedule',
  'groups',
  'users',
  'fsso-groups',
  'internet-service',
  'internet-service-src',
  'srcaddr-negate',
  'dstaddr-negate',
  'service-negate',
  'rtp-nat',
  'src-vendor-mac',
  'tos',
  'geoip-match',
  'ztna-status',
] as const

const POLICIES: readonly Mapping<DeviceModel>[] = valuesOf(
  POLICY,
  policy,
  {
    srcintf: (w, values) => w.push('fromZones', ...values.filter((value) => value !== 'any')),
    dstintf: (w, values) => w.push('toZones', ...values.filter((value) => value !== 'any')),
    srcaddr: (w, values) => w.push('sources', ...named(values, ALL_4)),
    dstaddr: (w, values) => w.push('destinations', ...named(values, ALL_4)),
    srcaddr6: (w, values) => w.push('sources', ...named(values, ALL_6)),
    dstaddr6: (w, values) => w.push('destinations', ...named(values, ALL_6)),
    service: (w, values) => w.push('applications', ...values.map((value) => (value === 'ALL' ? 'any' : value))),
    action: (w, [value = '']) => w.set('action', value === 'accept' ? 'permit' : value),
    nat: (w, values) => w.set('sourceTranslation', isOn(values) ? (w.target.sourceTranslation ?? 'interface') : null),
    poolname: (w, values) => w.set('sourceTranslation', values.join(' ')),
    logtraffic: (w, [value]) => w.set('logged', value === 'all' || value === 'utm'),
    // What is permitted is looked at further, and may still be dropped.
    'utm-status': (w, values) => (isOn(values) ? w.push('notWeighed', 'permit with inspection') : w),
    ...Object.fromEntries(
      CONDITIONS.map((name) => [
        name,
        (w: Writer<Policy>, values: readonly string[]) =>
          (name === 'schedule' && values[0] === 'always') || values[0] === 'disable'
            ? w
            : w.push('notWeighed', `${name} ${values.join(' ')}`),
      ]),
    ),
  },
  `name uuid comments status ippool logtraffic-start capture-packet global-label label send-deny-packet inspection-mode
   profile-type profile-group ssl-ssh-profile av-profile webfilter-profile ips-sensor application-list dnsfilter-profile
   emailfilter-profile file-filter-profile auto-asic-offload tcp-mss-sender tcp-mss-receiver session-ttl fixedport
   timeout-send-rst traffic-shaper traffic-shaper-reverse wccp delay-tcp-npu-session anti-replay match-vip-only`,
)

function translation(w: Writer<DeviceModel>, b: Bound): Writer<Nat> {
  return w.entry('nat', { kind: 'virtual address', statement: b.text('name') })
}

const TRANSLATION: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    'config firewall vip edit <name>',
    translation,
    {
      extip: (w, [value = '']) => w.push('destinations', value).set('changes', 'destination'),
      mappedip: (w, [value = '']) => w.set('address', value.replace(/^(\S+)-\1$/, '$1')),
      extintf: (w, [value = '']) => w.set('interface', value === 'any' ? null : value),
      extport: (w, [value = '']) => {
        const range = rangeOf(value)
        return range ? w.set('destinationPorts', [range]) : inPart(w)
      },
      mappedport: (w, [value = '']) => w.set('ports', value),
      // Which protocol's ports are translated.
      protocol: (w, [value = '']) => w.set('family', value),
      portforward: (w) => w,
      'src-filter': (w, values) => w.push('sources', ...values),
      type: (w, [value = '']) => (value === 'static-nat' ? w : inPart(w.set('changes', null))),
    },
    `${SILENT} id nat-source-vip arp-reply gratuitous-arp-interval`,
  ),
  ...valuesOf(
    'config firewall vipgrp edit <name>',
    (w, b) => w.entry('nat', { kind: 'virtual group', statement: b.text('name') }),
    { member: (w, values) => w.push('destinations', ...values) },
    `${SILENT} interface`,
  ),
  ...valuesOf(
    'config firewall ippool edit <name>',
    (w, b) => w.entry('nat', { kind: 'pool', statement: b.text('name') }),
    {
      startip: (w, [value = '']) => w.set('address', rangeText(value, w.target.address?.split('-')[1] ?? value)),
      endip: (w, [value = '']) => w.set('address', rangeText(w.target.address?.split('-')[0] ?? value, value)),
      type: (w, [value = '']) => (value === 'one-to-one' ? w.set('ports', 'same') : w),
    },
    `${SILENT} arp-reply arp-intf permit-any-host num-blocks-per-user block-size`,
  ),
  // Translation in a table of its own is not followed.
  [
    'config firewall central-snat-map edit <id> set <what> ...',
    (w, b) => inPart(w.entry('nat', { kind: 'source', statement: `central table ${b.text('id')}` })),
  ],
]

function rangeText(from: string, to: string): string {
  return from === to ? from : `${from}-${to}`
}

export const FIREWALL: readonly Mapping<DeviceModel>[] = [...ADDRESSES, ...SERVICES, ...POLICIES, ...TRANSLATION]

/** Services that every device knows without a line, by their usual names (common practice). */
const KNOWN_SERVICES: Readonly<Record<string, string>> = { DNS: 'domain', PING: 'ping', ALL_ICMP: 'icmp' }

/** What every device knows without a line is put where lines name it. */
export function settleNames(w: Writer<DeviceModel>): void {
  w.provenance.nodes = []
  const { zonePolicies, applications, addressGroups } = w.target
  const ends = zonePolicies.flatMap(({ sources, destinations }) => [...sources, ...destinations])
  for (const [name, prefix] of [
    [ALL_4, '0.0.0.0/0'],
    [ALL_6, '::/0'],
  ] as const)
    if (ends.includes(name) && !addressGroups.some((one) => one.name === name && one.members.length > 0))
      w.entry('addressGroups', { name }).push('members', prefix)
  const asked = new Set(
    [...zonePolicies.flatMap((one) => one.applications), ...applications.flatMap(({ members }) => members)].filter(
      (name) => name !== 'any' && !applications.some((one) => one.name === name),
    ),
  )
  for (const name of asked) {
    if (name === 'ALL_TCP' || name === 'ALL_UDP')
      w.add('applications', { name, protocol: name === 'ALL_TCP' ? 'tcp' : 'udp' })
    else {
      const usual = KNOWN_SERVICES[name] ?? name.toLowerCase()
      if (usual in PORTS.tcp || usual in PORTS.udp || usual === 'ping' || usual === 'icmp')
        w.add('applications', { name, members: [usual] })
    }
  }
}

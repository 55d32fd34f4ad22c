/** Interfaces, and the zones that they are put in. */
import type { Mapping } from '../../../model/mapping.ts'
import { kindOfInterface } from '../../../model/interface-kind.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'
import { inPart, isOn, maskedAddress, valuesOf } from './parts.ts'

type Interface = DeviceModel['interfaces'][number]

const INTERFACE = 'config system interface edit <name>'

const KINDS: Readonly<Record<string, Interface['kind']>> = {
  physical: 'ethernet',
  vlan: 'vlan',
  aggregate: 'aggregate',
  redundant: 'aggregate',
  loopback: 'loopback',
  tunnel: 'tunnel',
  switch: 'bridge',
  'hard-switch': 'bridge',
}

function port(w: Writer<DeviceModel>, name: string): Writer<Interface> {
  const known = w.find('interfaces', { name })
  if (known) return w.entry('interfaces', { name })
  return w.entry('interfaces', { name }).presume('kind', kindOfInterface(name.replace(/^(?:port|wan|lan|dmz)/, 'eth')))
}

function address(w: Writer<Interface>, values: readonly string[], secondary = false): unknown {
  const stated = maskedAddress(values)
  if (!stated) return inPart()
  // Of an interface without an address the listing says `0.0.0.0 0.0.0.0`.
  if (stated.address === '0.0.0.0' || stated.address === '::') return w
  return w.add('addresses', {
    address: stated.address,
    prefixLength: stated.length,
    family: stated.address.includes(':') ? 'ipv6' : 'ipv4',
    secondary,
  })
}

/** What an interface lets in to the device itself, as its services are named elsewhere. */
function letIn(w: Writer<DeviceModel>, name: string, services: readonly string[]): unknown {
  const zone = w.entry('zones', { name })
  zone.at('inbound').push('services', ...services)
  for (const service of SERVICES) if (services.includes(service)) enable(w, service)
  return zone
}

const SERVICES = ['ssh', 'telnet', 'http', 'https'] as const

function enable(w: Writer<DeviceModel>, service: (typeof SERVICES)[number]): void {
  w.at('system').at('services').at(service).set('enabled', true)
}

export const INTERFACES: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    INTERFACE,
    (w, b) => port(w, b.text('name')),
    {
      status: (w, [value]) => w.set('enabled', value !== 'down'),
      description: (w, values) => w.set('description', values.join(' ')),
      alias: (w, values) => w.set('description', w.target.description ?? values.join(' ')),
      ip: (w, values) => void address(w, values),
      mode: (w, [value]) => (value === 'static' ? w : w.set('addressBy', value ?? null)),
      type: (w, [value]) => w.set('kind', KINDS[value ?? ''] ?? w.target.kind),
      mtu: (w, [value]) => w.set('mtu', Number(value)),
      speed: (w, [value]) => w.set('speed', value ?? null),
      vrf: (w, [value]) => w.set('vrf', value === '0' ? null : (value ?? null)),
      vlanid: (w, [value]) => w.at('switching').set('accessVlan', Number(value)),
      'src-check': (w, values) => w.set('reversePath', isOn(values) ? 'strict' : null),
      'lldp-transmission': (w, values) => w.set('lldp', isOn(values)),
      'icmp-send-redirect': (w, values) => w.set('redirects', isOn(values)),
      'dhcp-relay-ip': (w, values) => w.set('helpers', [...values]),
    },
    `vdom snmp-index role interface device-identification lldp-reception monitor-bandwidth mtu-override estimated-upstream-bandwidth
     estimated-downstream-bandwidth dhcp-relay-service dhcp-relay-type color defaultgw dns-server-override secondary-IP
     bandwidth-measure-time trust-ip-1 trust-ip-2 trust-ip-3 explicit-web-proxy explicit-ftp-proxy lacp-mode min-links
     algorithm remote-ip dedicated-to management-ip netflow-sampler sflow-sampler sample-rate polling-interval`,
  ),
  // Members of an aggregate go with it.
  [
    `${INTERFACE} set member ...`,
    (w, b, s) => {
      const members = s.command.words.slice(s.command.words.indexOf('member') + 1)
      for (const member of members) port(w, member).set('aggregate', b.text('name'))
      port(w, b.text('name'))
    },
  ],
  [
    `${INTERFACE} set allowaccess ...`,
    (w, b, s) => letIn(w, b.text('name'), s.command.words.slice(s.command.words.indexOf('allowaccess') + 1)),
  ],
  [
    `${INTERFACE} config ipv6 set ip6-address <address>`,
    (w, b) => void address(port(w, b.text('name')).set('ipv6', true), [b.text('address')]),
  ],
  [
    `${INTERFACE} config ipv6 set ip6-allowaccess ...`,
    (w, b, s) => letIn(w, b.text('name'), s.command.words.slice(s.command.words.indexOf('ip6-allowaccess') + 1)),
  ],
  [
    `${INTERFACE} config secondaryip edit <number> set ip <address> <mask>`,
    (w, b) => void address(port(w, b.text('name')), [b.text('address'), b.text('mask')], true),
  ],
  [
    `${INTERFACE} config secondaryip edit <number> set allowaccess ...`,
    (w, b, s) => letIn(w, b.text('name'), s.command.words.slice(s.command.words.indexOf('allowaccess') + 1)),
  ],
]

const ZONE = 'config system zone edit <name>'

export const ZONES: readonly Mapping<DeviceModel>[] = [
  ...valuesOf(
    ZONE,
    (w, b) => w.entry('zones', { name: b.text('name') }),
    { interface: (w, values) => w.push('interfaces', ...values) },
    'description',
  ),
  // Between interfaces of one zone: what no policy meets is let through, where that is allowed.
  [
    `${ZONE} set intrazone {allow|deny}`,
    (w, b, s) => {
      const zone = b.text('name')
      w.entry('zones', { name: zone })
      if (s.command.words.at(-1) === 'allow')
        w.add('zonePolicies', {
          name: `within ${zone}`,
          from: '',
          to: '',
          scope: 'within',
          fromZones: [zone],
          toZones: [zone],
          action: 'permit',
        })
    },
  ],
]

/**
 * An interface that is in no zone stands for itself wherever zones are named (common practice); what an interface lets
 * in holds for it alone, whatever zone it is in.
 */
export function settleZones(w: Writer<DeviceModel>): void {
  const inZone = new Map(
    w.target.zones.flatMap(({ name, interfaces }) => interfaces.map((member) => [member, name] as const)),
  )
  w.provenance.nodes = []
  for (const one of w.every('interfaces', {})) {
    const { name } = one.target
    const zone = inZone.get(name)
    const own = w.find('zones', { name })
    one.presume('zone', zone ?? name)
    if (zone !== undefined) {
      if (own) w.find('zones', { name: zone })?.add('ownInbound', { interface: name, ...own.target.inbound })
      continue
    }
    const implied = w.entry('zones', { name }).push('interfaces', name)
    if (!own) w.provenance.origins.note(implied.place, null, { kind: 'of', path: one.path })
  }
}

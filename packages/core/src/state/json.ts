import { items, leaf, member, type LocatedValue } from '../syntax/index.ts'
import { isAddress, type Writer } from '../model/index.ts'
import { plainMac } from './outputs.ts'
import type { DeviceState } from './schema.ts'

type Route = DeviceState['routes'][number]
type Read = (value: LocatedValue, write: Writer<DeviceState>, here: (value: LocatedValue) => void) => void

/** One form of JSON output: what tells it, and how it is read. `here` notes the lines of a value. */
export interface JsonForm {
  readonly id: string
  readonly fits: (value: LocatedValue) => boolean
  readonly read: Read
}

function number(value: LocatedValue | null): number | null {
  const text = leaf(value)
  return text === null || !/^-?\d+(?:\.\d+)?$/.test(text) ? null : Number(text)
}

function firstOf(value: LocatedValue): LocatedValue | null {
  return value.type === 'array' ? (value.items[0] ?? null) : null
}

const familyOf = (address: string): 'ipv4' | 'ipv6' => (address.includes(':') ? 'ipv6' : 'ipv4')

/** `ip -j route show table all`: types other than unicast are no routes to anywhere else. */
const ipRoutes: Read = (value, w, here) => {
  for (const route of items(value)) {
    here(route)
    const kind = leaf(member(route, 'type')) ?? 'unicast'
    const gateway = leaf(member(route, 'gateway'))
    const via = leaf(member(member(route, 'via'), 'host'))
    const dst = leaf(member(route, 'dst')) ?? ''
    const family = familyOf(dst === 'default' ? (gateway ?? via ?? '') : dst)
    const discard = /^(?:blackhole|unreachable|prohibit)$/.test(kind)
    const hops = items(member(route, 'nexthops'))
    const prefix =
      dst === 'default'
        ? family === 'ipv6'
          ? '::/0'
          : '0.0.0.0/0'
        : dst.includes('/')
          ? dst
          : `${dst}/${family === 'ipv6' ? 128 : 32}`
    const table = leaf(member(route, 'table'))
    if (kind !== 'unicast' && !discard && kind !== 'local' && kind !== 'throw') continue
    w.add('routes', {
      prefix,
      family,
      vrf: table === null || table === 'main' || table === 'local' ? null : table,
      distance: null,
      protocol: protocolOf(leaf(member(route, 'protocol')) ?? 'kernel', kind, leaf(member(route, 'scope'))),
      metric: number(member(route, 'metric')),
      selected: true,
      // A route that throws packets out of its table has no next hop.
      nextHops:
        kind === 'throw'
          ? []
          : hops.length > 0
            ? hops.map((hop) => ({
                address: leaf(member(hop, 'gateway')),
                interface: leaf(member(hop, 'dev')),
                discard: false,
              }))
            : [{ address: gateway ?? via, interface: discard ? null : leaf(member(route, 'dev')), discard }],
    })
  }
}

/** The kernel's own routes are those of its addresses. */
function protocolOf(protocol: string, kind: string, scope: string | null): string {
  if (kind === 'local' || kind === 'throw') return kind
  return protocol === 'kernel' && (scope === 'link' || scope === null) ? 'connected' : protocol
}

/** `ip -j addr` or `ip -j link`, with `-s` for the counters. */
const ipInterfaces: Read = (value, w, here) => {
  for (const one of items(value)) {
    here(one)
    const flags = items(member(one, 'flags')).map(leaf)
    const oper = leaf(member(one, 'operstate'))?.toLowerCase()
    const entry = w.entry('interfaces', { name: leaf(member(one, 'ifname')) ?? '' })
    entry
      .set('admin', flags.includes('UP') ? 'up' : 'down')
      .set('oper', oper === 'up' || (oper === 'unknown' && flags.includes('LOWER_UP')) ? 'up' : 'down')
      .set('mtu', number(member(one, 'mtu')))
      .set('mac', leaf(member(one, 'address')))
    entry.push(
      'addresses',
      ...items(member(one, 'addr_info')).map(
        (address) => `${leaf(member(address, 'local')) ?? ''}/${leaf(member(address, 'prefixlen')) ?? ''}`,
      ),
    )
    const stats = member(one, 'stats64') ?? member(one, 'stats')
    const [rx, tx] = [member(stats, 'rx'), member(stats, 'tx')]
    if (rx && tx)
      entry
        .at('counters')
        .set('inOctets', number(member(rx, 'bytes')))
        .set('outOctets', number(member(tx, 'bytes')))
        .set('inErrors', number(member(rx, 'errors')))
        .set('outErrors', number(member(tx, 'errors')))
        .set('inDiscards', number(member(rx, 'dropped')))
        .set('outDiscards', number(member(tx, 'dropped')))
  }
}

/** `ip -j neigh`. */
const ipNeighbours: Read = (value, w, here) => {
  for (const one of items(value)) {
    here(one)
    const address = leaf(member(one, 'dst')) ?? ''
    w.add('addresses', {
      address,
      family: familyOf(address),
      mac: leaf(member(one, 'lladdr')),
      interface: leaf(member(one, 'dev')),
      state: leaf(items(member(one, 'state'))[0] ?? null)?.toLowerCase() ?? null,
    })
  }
}

/** `show ip route json` of Debian's frr: prefixes, each with its routes. */
const routesByPrefix: Read = (value, w, here) => {
  if (value.type !== 'object') return
  for (const { name: prefix, value: routes } of value.members) {
    for (const route of items(routes)) {
      here(route)
      const vrf = leaf(member(route, 'vrfName'))
      w.add('routes', {
        prefix,
        family: familyOf(prefix),
        vrf: vrf === 'default' ? null : vrf,
        protocol: leaf(member(route, 'protocol')) ?? '',
        distance: number(member(route, 'distance')),
        metric: number(member(route, 'metric')),
        selected: leaf(member(route, 'selected')) === 'true',
        nextHops: items(member(route, 'nexthops')).map((hop): Route['nextHops'][number] => ({
          address: leaf(member(hop, 'ip')),
          interface: leaf(member(hop, 'interfaceName')),
          discard: leaf(member(hop, 'blackhole')) === 'true' || leaf(member(hop, 'unreachable')) === 'true',
        })),
      })
    }
  }
}

/** RFC 7317: what the device says that it is; what an output of its own says of the same goes before. */
const systemState: Read = (value, w, here) => {
  const state = member(value, 'system-state')
  const platform = member(state, 'platform')
  if (!state || !platform) return
  here(platform)
  const { software } = w.target
  const [machine, seconds] = [leaf(member(platform, 'machine')), number(member(state, 'uptime-seconds'))]
  if (software.model === null && machine !== null) w.at('software').set('model', machine)
  if (software.uptime === null && seconds !== null) w.at('software').set('uptime', `${seconds} s`)
}

/** Letters of the system capabilities of IEEE 802.1AB §8.5.8, as tables of neighbours write them. From memory. */
const CAPABILITIES: Readonly<Record<string, string>> = {
  other: 'O',
  repeater: 'P',
  bridge: 'B',
  'wlan-access-point': 'W',
  router: 'R',
  telephone: 'T',
  'docsis-cable-device': 'C',
  'station-only': 'S',
}

/**
 * The YANG model of IEEE 802.1AB (ieee802-dot1ab-lldp; names from memory): ports with what each heard from the other
 * end. A port identifier that is a MAC address names no port: then its description does. A system without a name is
 * known by its chassis.
 */
const remoteSystems: Read = (value, w, here) => {
  const ports = member(member(value, 'lldp'), 'port')
  // In XML one port alone looks like a container, and `port` is a leaf elsewhere.
  for (const port of ports?.type === 'object' ? [ports] : items(ports)) {
    for (const remote of items(member(port, 'remote-systems-data'))) {
      here(remote)
      const told = (name: string): string | null => leaf(member(remote, name)) || null
      const named = told('port-id-subtype')?.replace(/^.*:/, '') === 'mac-address' ? told('port-desc') : told('port-id')
      const capabilities = (told('system-capabilities-enabled') ?? told('system-capabilities-supported') ?? '')
        .split(' ')
        .flatMap((name) => CAPABILITIES[name] ?? [])
      const addresses = items(member(remote, 'management-address')).map(
        (one) => leaf(member(one, 'address')) ?? leaf(items(member(one, 'address'))[0]),
      )
      w.add('neighbours', {
        interface: leaf(member(port, 'name')) ?? '',
        system: told('system-name') ?? told('chassis-id') ?? '',
        port: named,
        capability: capabilities.join(',') || null,
        managementAddress: addresses.find((address) => address !== null && isAddress(address)) ?? null,
      })
    }
  }
}

/**
 * RFC 8348: the chassis of a device, with its model, serial number and software. What an output of its own says goes
 * before.
 */
const hardware: Read = (value, w, here) => {
  const parts = items(member(member(value, 'hardware'), 'component'))
  const chassis = parts.find((part) => /chassis$/.test(leaf(member(part, 'class')) ?? '')) ?? parts[0]
  if (!chassis) return
  here(chassis)
  const { software } = w.target
  for (const [field, name] of [
    ['model', 'model-name'],
    ['serial', 'serial-num'],
    ['version', 'software-rev'],
  ] as const) {
    const said = leaf(member(chassis, name))
    if (software[field] === null && said !== null && said !== '') w.at('software').set(field, said)
  }
}

/** What a collection found by TCP connects. */
const serviceAnswers: Read = (value, w, here) => {
  for (const one of items(member(value, 'services'))) {
    here(one)
    const [port, answer] = [number(member(one, 'port')), leaf(member(one, 'answer'))]
    if (port !== null && (answer === 'open' || answer === 'closed' || answer === 'silent'))
      w.add('services', { port, answer })
  }
}

/** RFC 8349: every RIB of ietf-routing. */
const ribs: Read = (value, w, here) => {
  for (const rib of items(member(member(member(value, 'routing'), 'ribs'), 'rib'))) {
    for (const route of items(member(member(rib, 'routes'), 'route'))) {
      here(route)
      const prefix = (leaf(member(route, 'destination-prefix')) ?? '').toLowerCase()
      const hop = member(route, 'next-hop')
      const hops = items(member(member(hop, 'next-hop-list'), 'next-hop'))
      const source = (leaf(member(route, 'source-protocol')) ?? '').replace(/^.*:/, '')
      const one = (at: LocatedValue | null): Route['nextHops'][number] => ({
        address: leaf(member(at, 'next-hop-address')),
        interface: leaf(member(at, 'outgoing-interface')),
        discard: /blackhole|unreachable|prohibit/.test(leaf(member(at, 'special-next-hop')) ?? ''),
      })
      w.add('routes', {
        prefix,
        family: familyOf(prefix),
        protocol: source === 'direct' ? 'connected' : source,
        distance: number(member(route, 'route-preference')),
        metric: number(member(route, 'metric')),
        selected: member(route, 'active') !== null || leaf(member(rib, 'default-rib')) !== 'false',
        nextHops: hops.length > 0 ? hops.map(one) : [one(hop)],
      })
    }
  }
}

/** RFC 8343: `admin-status`, `oper-status`, `statistics`. */
const interfaceList: Read = (value, w, here) => {
  for (const one of items(member(member(value, 'interfaces') ?? member(value, 'interfaces-state'), 'interface'))) {
    here(one)
    const entry = w.entry('interfaces', { name: leaf(member(one, 'name')) ?? '' })
    const status = (name: string): 'up' | 'down' | null =>
      leaf(member(one, name)) === null ? null : leaf(member(one, name)) === 'up' ? 'up' : 'down'
    const mac = leaf(member(one, 'phys-address'))
    entry
      .set('admin', status('admin-status') ?? (leaf(member(one, 'enabled')) === 'false' ? 'down' : null))
      .set('oper', status('oper-status'))
      .set('mac', mac === null ? null : plainMac(mac))
    for (const family of ['ipv4', 'ipv6'])
      entry.push(
        'addresses',
        ...items(member(member(one, family), 'address')).map(
          (address) =>
            `${leaf(member(address, 'ip'))?.toLowerCase() ?? ''}/${leaf(member(address, 'prefix-length')) ?? ''}`,
        ),
      )
    entry.set('speed', number(member(one, 'speed')))
    const statistics = member(one, 'statistics')
    if (statistics)
      entry
        .at('counters')
        .set('inOctets', number(member(statistics, 'in-octets')))
        .set('outOctets', number(member(statistics, 'out-octets')))
        .set('inErrors', number(member(statistics, 'in-errors')))
        .set('outErrors', number(member(statistics, 'out-errors')))
        .set('inDiscards', number(member(statistics, 'in-discards')))
        .set('outDiscards', number(member(statistics, 'out-discards')))
  }
}

/** What narrows a rule beside addresses and the interface that a packet comes in by. */
const NARROWS = [
  'not',
  'fwmark',
  'oif',
  'tos',
  'dsfield',
  'ipproto',
  'sport',
  'dport',
  'uid_start',
  'tun_id',
  'l3mdev',
  'suppress_prefixlen',
  'suppress_prefixlength',
  'suppress_ifgroup',
  'goto',
]

/** `ip -j rule`. */
const ipRules: Read = (value, w, here) => {
  const prefix = (rule: LocatedValue, name: string): string | null => {
    const address = leaf(member(rule, name))
    const length = leaf(member(rule, `${name}len`))
    return address === null || address === 'all' ? null : length === null ? address : `${address}/${length}`
  }
  for (const rule of items(value)) {
    here(rule)
    w.add('policyRules', {
      priority: number(member(rule, 'priority')),
      source: prefix(rule, 'src'),
      destination: prefix(rule, 'dst'),
      interface: leaf(member(rule, 'iif')),
      table: leaf(member(rule, 'table')) ?? 'main',
      action: leaf(member(rule, 'action')),
      notWeighed: NARROWS.filter((name) => member(rule, name) !== null),
    })
  }
}

export const JSON_FORMS: readonly JsonForm[] = [
  {
    id: 'ip -j route',
    fits: (value) =>
      member(firstOf(value), 'dst') !== null &&
      member(firstOf(value), 'lladdr') === null &&
      member(firstOf(value), 'state') === null &&
      member(firstOf(value), 'priority') === null,
    read: ipRoutes,
  },
  { id: 'ip -j addr', fits: (value) => member(firstOf(value), 'ifname') !== null, read: ipInterfaces },
  {
    id: 'ip -j rule',
    fits: (value) => member(firstOf(value), 'priority') !== null && member(firstOf(value), 'table') !== null,
    read: ipRules,
  },
  { id: 'ip -j neigh', fits: (value) => member(firstOf(value), 'dst') !== null, read: ipNeighbours },
  {
    id: 'RFC 8343, 8348 and 8349',
    fits: (value) =>
      member(value, 'interfaces') !== null ||
      member(value, 'interfaces-state') !== null ||
      member(value, 'routing') !== null ||
      member(value, 'hardware') !== null,
    read: (value, w, here) =>
      void [interfaceList(value, w, here), ribs(value, w, here), hardware(value, w, here), systemState(value, w, here)],
  },
  { id: 'IEEE 802.1AB', fits: (value) => member(value, 'lldp') !== null, read: remoteSystems },
  { id: 'services by TCP connects', fits: (value) => member(value, 'services') !== null, read: serviceAnswers },
  {
    id: 'routes by prefix',
    fits: (value) =>
      value.type === 'object' &&
      value.members.length > 0 &&
      value.members.every(({ name, value: inner }) => name.includes('/') && inner.type === 'array'),
    read: routesByPrefix,
  },
]

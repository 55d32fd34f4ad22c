/**
 * Lines that nobody understood, in parts of a configuration that can bear on what a packet meets: every packet that may
 * meet them is
 * undecided. Which parts those are is data of each dialect, from memory and common practice.
 */
import {
  compilePattern,
  formsAbout,
  mayBe,
  type ModelledDevice,
  type Pattern,
  type UnreadStatement,
} from '../model/index.ts'
import type { Exhibit } from './device.ts'
import type { NetworkDevice } from './ports.ts'

/** Unparsed lines by where packets meet them: on the device as a whole, or at one of its ports. */
export interface Unparsed {
  readonly device: readonly Exhibit[]
  /** By name of the port, in lower case. */
  readonly ports: ReadonlyMap<string, readonly Exhibit[]>
}

/** Forms by which a dialect says something that packets meet, beside those that are read. */
const FORMS: Readonly<Record<string, readonly Pattern[]>> = {
  indented: [
    'ip route ...',
    'ipv6 route ...',
    'ip access-list ...',
    'ipv6 access-list ...',
    'mac access-list ...',
    'ip nat ...',
    'ipv6 nat ...',
    'nat64 ...',
    'ip policy ...',
    'ip local policy ...',
    'ipv6 local policy ...',
    'vlan access-map ...',
    'vlan filter ...',
    'zone ...',
    'zone-pair ...',
    'object-group ...',
    'ip inspect ...',
    'ipv6 inspect ...',
    'crypto map ...',
    'crypto dynamic-map ...',
    'crypto ipsec ...',
    'ip vrf ...',
    'vrf ...',
    'mpls ...',
    'ip default-gateway ...',
    'ip default-network ...',
    'ip source ...',
    'segment-routing ...',
    'ip routing ...',
    'ip verify ...',
    'bridge ...',
    'interface range ...',
    'ip tcp intercept ...',
    'policy-map type ...',
    'ip admission ...',
  ].map(compilePattern),
  hierarchical: [
    'firewall ...',
    'security policies ...',
    'security zones ...',
    'security nat ...',
    'security flow ...',
    'security screen ...',
    'security forwarding-options ...',
    'security ipsec ...',
    'security ike ...',
    'routing-options static ...',
    'routing-options rib ...',
    'routing-instances ...',
    'forwarding-options family ...',
    'forwarding-options helpers ...',
    'logical-systems ...',
    'bridge-domains ...',
    'vlans ...',
    'policy-options ...',
    'services ...',
    'switch-options ...',
  ].map(compilePattern),
  data: ['acls ...', 'routing ...', 'interfaces ...'].map(compilePattern),
  linux: [],
}

/** Parts of the model that packets meet. */
const PARTS = [
  'interfaces',
  'accessLists',
  'staticRoutes',
  'vrfs',
  'zones',
  'zonePolicies',
  'nat',
  'trafficClasses',
  'trafficPolicies',
  'ipsecPeers',
  'ikeGateways',
  'vpns',
  'routePolicies',
  'system.forwards',
  'system.forwards6',
  'addressGroups',
  'applications',
  'prefixLists',
  'vlans',
] as const

/** Blocks of the indented dialect whose lines packets may meet wherever they go through the device. */
const BLOCKS = new Set([
  'route-map',
  'class-map',
  'policy-map',
  'vlan',
  'vrf',
  'zone',
  'crypto',
  'crypto-child',
  'object-group',
  'parameter-map',
  'vlan-access-map',
])

export function unparsedOf({
  name,
  dialect,
  modelled,
}: Pick<NetworkDevice, 'name' | 'dialect' | 'modelled'>): Unparsed {
  const device: Exhibit[] = []
  const ports = new Map<string, Exhibit[]>()
  for (const unread of modelled?.unreadStatements() ?? []) {
    const exhibits = unread.statement.nodes.map(({ line, lastLine }): Exhibit => ({
      device: name,
      record: recordOf(modelled),
      from: line,
      to: lastLine,
    }))
    const port = portOf(dialect, unread)
    if (port !== null) ports.set(port, [...(ports.get(port) ?? []), ...exhibits])
    else if (bears(dialect, unread)) device.push(...exhibits)
  }
  return { device, ports }
}

/** The record that a configuration was read from: that of any of its lines. */
function recordOf(modelled: ModelledDevice | null): string {
  for (const origin of modelled?.origins.values() ?? []) if (origin.kind === 'line') return origin.record
  return modelled?.unread[0]?.record ?? ''
}

/** The port that a line is about, in lower case; null where it is about none. */
function portOf(dialect: string, { statement, around }: UnreadStatement): string | null {
  if (dialect === 'indented')
    return around[0]?.block === 'interface' ? around[0].text.slice('interface '.length).toLowerCase() : null
  const { words, lowerWords } = statement.command
  if (dialect === 'data')
    return lowerWords[0] === 'interfaces' && lowerWords[1] === 'interface' ? (words[2] ?? '').toLowerCase() : null
  if (lowerWords[0] !== 'interfaces' || words.length < 3) return null
  return (
    lowerWords[2] === 'unit' && words[3] !== undefined ? `${words[1] ?? ''}.${words[3]}` : (words[1] ?? '')
  ).toLowerCase()
}

function bears(dialect: string, { statement, around }: UnreadStatement): boolean {
  const [outermost] = around
  // Entries of a list that were not understood stand in the list.
  if (outermost) return BLOCKS.has(outermost.block ?? '')
  const forms = FORMS[dialect === 'braced' || dialect === 'setlines' ? 'hierarchical' : dialect] ?? []
  const { lowerWords } = statement.command
  if (
    forms.some(({ tokens }) =>
      tokens.every((token, i) => token.kind !== 'word' || token.anyOf.includes(lowerWords[i] ?? '')),
    )
  )
    return !isInList(lowerWords)
  return PARTS.some((part) => formsAbout(dialect, null, part).some((form) => mayBe(dialect, null, statement, form)))
}

/**
 * A line of a filter that is known by its name stands in that filter, as an entry of unknown effect; one between zones
 * likewise.
 */
function isInList(words: readonly string[]): boolean {
  if (words[0] === 'firewall')
    return words[1] === 'family'
      ? ['inet', 'inet6'].includes(words[2] ?? '') && words[3] === 'filter' && words.length > 5
      : words[1] === 'filter' && words.length > 3
  return words[0] === 'security' && (words[1] === 'policies' || words[1] === 'nat')
}

/** Lines about a port, those about the port that it is a unit of included. */
export function unparsedAt({ ports }: Unparsed, port: string): readonly Exhibit[] {
  const name = port.toLowerCase()
  const physical = name.replace(/\.\d+$/, '')
  return [...(ports.get(name) ?? []), ...(physical === name ? [] : (ports.get(physical) ?? []))]
}

/**
 * Lines that are missing, and lines that nobody understood in parts of a configuration that can bear on what a packet
 * meets: every packet that may meet them is undecided. Which parts those are is data of each dialect, from memory and
 * common practice.
 */
import { dialectById, type Dialect } from '../../dialects/index.ts'
import { formsAbout, mayBe, type ModelledDevice, type UnreadStatement } from '../../model/index.ts'
import type { Exhibit } from './exhibit.ts'
import type { NetworkDevice } from './interfaces.ts'

/** Unparsed lines by where packets meet them: on the device as a whole, or at one of its interfaces. */
export interface Unparsed {
  readonly device: readonly Exhibit[]
  /** Why the configuration is not whole, with the lines that show it; null where it is. */
  readonly incomplete: { readonly words: string; readonly exhibits: readonly Exhibit[] } | null
  /** By name of the interface, in lower case. */
  readonly ports: ReadonlyMap<string, readonly Exhibit[]>
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

export function unparsedOf({
  name,
  dialect,
  modelled,
}: Pick<NetworkDevice, 'name' | 'dialect' | 'modelled'>): Unparsed {
  const device: Exhibit[] = []
  const ports = new Map<string, Exhibit[]>()
  const spoken = dialectById(dialect)
  for (const unread of spoken ? (modelled?.unreadStatements() ?? []) : []) {
    const exhibits = unread.statement.nodes.map(({ line, lastLine }): Exhibit => ({
      device: name,
      record: recordOf(modelled),
      from: line,
      to: lastLine,
    }))
    const port = spoken?.forwarding.unparsed.portOf(unread) ?? null
    if (port !== null) ports.set(port, [...(ports.get(port) ?? []), ...exhibits])
    else if (spoken && bears(spoken, unread)) device.push(...exhibits)
  }
  return { device, ports, incomplete: incompleteOf(name, modelled) }
}

/** Whatever a packet meets, a line that is missing may have it otherwise: a filter, a route, an interface. */
function incompleteOf(device: string, modelled: ModelledDevice | null): Unparsed['incomplete'] {
  const faults = modelled?.faults ?? []
  const [first] = faults
  if (!first) return null
  const record = recordOf(modelled)
  return {
    words: incompleteWords(first),
    exhibits: faults.map(({ line }) => ({ device, record, from: line, to: line })),
  }
}

export function incompleteWords({ line, reason }: ModelledDevice['faults'][number]): string {
  return `the configuration is incomplete (line ${line}: ${reason})`
}

/** The record that a configuration was read from: that of any of its lines. */
function recordOf(modelled: ModelledDevice | null): string {
  for (const origin of modelled?.origins.values() ?? []) if (origin.kind === 'line') return origin.record
  return modelled?.unread[0]?.record ?? ''
}

function bears(dialect: Dialect, { statement, around }: UnreadStatement): boolean {
  const [outermost] = around
  const { unparsed } = dialect.forwarding
  // Entries of a list that were not understood stand in the list.
  if (outermost) return unparsed.blocks.has(outermost.block ?? '')
  return (
    unparsed.bears(statement.command.lowerWords) ??
    PARTS.some((part) => formsAbout(dialect, null, part).some((form) => mayBe(dialect, null, statement, form)))
  )
}

/** Lines about an interface, those about the interface that it is a unit of included. */
export function unparsedAt({ ports }: Unparsed, port: string): readonly Exhibit[] {
  const name = port.toLowerCase()
  const physical = name.replace(/\.\d+$/, '')
  return [...(ports.get(name) ?? []), ...(physical === name ? [] : (ports.get(physical) ?? []))]
}

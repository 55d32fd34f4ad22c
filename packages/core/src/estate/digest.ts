import type { DeviceAnalysis } from '../analysis/index.ts'
import { maskedOutput } from '../dialects/index.ts'
import { MaskedLines, walk } from '../syntax/index.ts'
import { originOf, type DeviceModel, type ModelledDevice, type Origins } from '../model/index.ts'
import { textOfRecord, type DeviceState, type ReadRecord, type StateReading } from '../state/index.ts'

const STATE = 'state/'

/** Lines of a record that a fact stands on, counted from 1; null where no line states it. */
export interface SourceLocation {
  readonly record: string
  readonly from: number
  readonly to: number
}

/** Something of a device that is asked for across the estate, with the lines that it stands on. */
export type Fact<T> = T & { readonly at: SourceLocation | null }

export type DigestAddress = Fact<{
  readonly address: string
  readonly prefixLength: number
  readonly family: 'ipv4' | 'ipv6'
}>

export type DigestInterface = Fact<
  Pick<
    DeviceModel['interfaces'][number],
    'name' | 'kind' | 'enabled' | 'description' | 'mtu' | 'vrf' | 'zone' | 'aggregate' | 'portAuthentication'
  > & {
    readonly oper: 'up' | 'down' | null
    readonly addresses: readonly DigestAddress[]
    readonly mode: string | null
    readonly accessVlan: number | null
    readonly allowedVlans: string | null
    /** Stations whose addresses were learned there (IEEE 802.1Q); null where no table was captured. */
    readonly stations: number | null
  }
>

/**
 * What one device is to its estate: plain data, a function of its records alone. Everything that is looked up across
 * devices is looked up in these.
 */
export interface DeviceDigest {
  readonly hostname: string | null
  readonly dialect: string
  readonly software: Fact<{
    readonly version: string | null
    readonly model: string | null
    readonly serial: string | null
    readonly uptime: string | null
  }>
  readonly interfaces: readonly DigestInterface[]
  readonly vlans: readonly Fact<{ readonly id: number; readonly name: string | null }>[]
  readonly redundancy: readonly Fact<{
    readonly interface: string
    readonly protocol: string
    readonly group: string
    readonly address: string | null
    readonly priority: number | null
  }>[]
  /** The neighbours seen at the other ends of its links (IEEE 802.1AB). */
  readonly neighbours: readonly Fact<DeviceState['neighbours'][number]>[]
  /** Whether a neighbour table was captured: without one, no neighbour is known to be missing. */
  readonly sawNeighbours: boolean
  readonly users: readonly Fact<{ readonly name: string }>[]
  readonly lists: readonly Fact<{ readonly name: string; readonly family: string; readonly entries: number }>[]
}

/** A digest with the lines that can be searched: secrets are masked before anything leaves. */
export interface ReadDevice {
  readonly digest: DeviceDigest
  /** The record whose lines they are. */
  readonly record: string
  readonly lines: readonly string[]
  /** By line: the line that opens the block around it, counted from 1; 0 where there is none. */
  readonly blocks: readonly number[]
  readonly outputs: readonly DeviceOutput[]
}

/** What a command printed, masked. */
export interface DeviceOutput {
  readonly record: string
  /** `sensors` of `state/sensors`. */
  readonly kind: string
  readonly lines: readonly string[]
}

/** Reads a device for the estate. Null where no record of it can be parsed as a configuration. */
export function digestOf({ dialect, records, judged, modelled, state, mask }: DeviceAnalysis): ReadDevice | null {
  if (!judged || !modelled) return null
  const lines = new MaskedLines(judged.tree, dialect, mask).all()
  const blocks = new Array<number>(lines.length).fill(0)
  for (const node of walk(judged.tree.nodes)) {
    blocks[node.line - 1] = node.parent?.line ?? 0
    // Free text is in the block of the command that it belongs to.
    for (let line = node.line + 1; line <= node.lastLine; line++) blocks[line - 1] = node.line
  }
  const outputs = records
    .filter(({ kind }) => kind.startsWith(STATE))
    .map((record) => ({
      record: record.id,
      kind: record.kind.slice(STATE.length),
      lines: maskedOutput(textOfRecord(record), mask),
    }))
  return { digest: summaryOf(modelled, state, records), record: judged.id, lines, blocks, outputs }
}

/** What a device that was read is to its estate. */
export function summaryOf(
  { model, origins }: ModelledDevice,
  { state, origins: stateOrigins, records: outputs }: StateReading,
  records: readonly Pick<ReadRecord, 'id' | 'kind'>[],
): DeviceDigest {
  const sawNeighbours = records.some(
    ({ id, kind }) => kind === 'state/neighbours' && outputs.some(({ record, form }) => record === id && form !== null),
  )
  const said = (path: string): SourceLocation | null => sourceLocationOf(origins, path)
  const seen = (path: string): SourceLocation | null => sourceLocationOf(stateOrigins, path)
  const stations = new Map<string, number>()
  for (const { interface: port } of state.macs)
    stations.set(port.toLowerCase(), (stations.get(port.toLowerCase()) ?? 0) + 1)
  const opers = new Map(state.interfaces.map(({ name, oper }) => [name.toLowerCase(), oper]))
  const { software } = state
  const { system } = model
  return {
    hostname: system.hostname,
    dialect: model.dialect,
    software: {
      version: software.version ?? system.version,
      model: software.model ?? system.model,
      serial: software.serial ?? system.serial,
      uptime: software.uptime,
      at: seen('software.version') ?? seen('software.serial') ?? said('system.version'),
    },
    interfaces: model.interfaces.map(
      (
        {
          name,
          kind,
          enabled,
          description,
          mtu,
          vrf,
          zone,
          aggregate,
          portAuthentication,
          addresses,
          switching: { mode, accessVlan, allowedVlans },
        },
        i,
      ) => ({
        name,
        kind,
        enabled,
        description,
        mtu,
        vrf,
        zone,
        aggregate,
        portAuthentication,
        mode,
        accessVlan,
        allowedVlans,
        addresses: addresses.map(({ address, prefixLength, family }, j) => ({
          address,
          prefixLength,
          family,
          at: said(`interfaces[${i}].addresses[${j}]`),
        })),
        oper: opers.get(name.toLowerCase()) ?? null,
        stations:
          state.macs.length === 0 ? null : (stations.get(name.toLowerCase()) ?? stations.get(shortName(name)) ?? 0),
        at: said(`interfaces[${i}]`),
      }),
    ),
    vlans: model.vlans.map(({ id, name }, i) => ({ id, name, at: said(`vlans[${i}]`) })),
    redundancy: model.interfaces.flatMap(({ name, redundancy }, i) =>
      redundancy.map(({ protocol, group, address, priority }, j) => ({
        interface: name,
        protocol,
        group,
        address,
        priority,
        at: said(`interfaces[${i}].redundancy[${j}]`),
      })),
    ),
    neighbours: state.neighbours.map((neighbour, i) => ({ ...neighbour, at: seen(`neighbours[${i}]`) })),
    sawNeighbours,
    users: system.users.map(({ name }, i) => ({ name, at: said(`system.users[${i}]`) })),
    lists: model.accessLists.map(({ name, family, entries }, i) => ({
      name,
      family,
      entries: entries.length,
      at: said(`accessLists[${i}]`),
    })),
  }
}

/** `GigabitEthernet1/0/1` as tables write it: `gi1/0/1`. */
function shortName(name: string): string {
  return name.replace(/^([A-Za-z]{2})[A-Za-z-]*/, '$1').toLowerCase()
}

function sourceLocationOf(origins: Origins, path: string): SourceLocation | null {
  const origin = originOf(origins, path)
  const lines = origin?.kind === 'line' ? origin.lines : []
  const [first] = lines
  return origin?.kind === 'line' && first
    ? { record: origin.record, from: first.from, to: Math.max(first.to, first.from) }
    : null
}

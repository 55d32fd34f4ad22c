import { subnetOf } from '../model/index.ts'
import type { DeviceDigest, SourceLocation } from './digest.ts'
import { linksOf, type Digested, type Link } from './links.ts'

/** One device's part in a row, with the lines that it stands on. */
export interface Member {
  readonly device: string
  /** What of the device: a port, a name, an address. */
  readonly what: string
  readonly at: SourceLocation | null
}

/** A row of an estate-wide table: its own values by column, and the devices that it is made of. */
export interface EstateRow {
  readonly id: string
  readonly values: Readonly<Record<string, string | number>>
  readonly members: readonly Member[]
}

export interface EstateTable {
  readonly columns: readonly { readonly key: string; readonly title: string; readonly numeric?: boolean }[]
  readonly rows: readonly EstateRow[]
}

export const TABLES = ['subnets', 'vlans', 'redundancy', 'versions', 'models', 'end-ports'] as const
export type TableName = (typeof TABLES)[number]

/** What people state of a device, as far as tables show it. */
export interface StatedFacts {
  readonly model?: string | undefined
  readonly os?: string | undefined
  readonly version?: string | undefined
  /** Whether its software is approved. */
  readonly approved?: string | undefined
}

export type EstateDevices = readonly (Digested & { readonly facts: StatedFacts })[]

/** A table over all devices of an estate. */
export function tableOf(name: TableName, devices: EstateDevices): EstateTable {
  return MAKERS[name](devices)
}

/** What a device is and runs: as it printed, else as people state it. */
export function identityOf(
  { software, dialect }: Pick<DeviceDigest, 'software' | 'dialect'>,
  facts: StatedFacts,
): {
  readonly os: string
  readonly model: string | null
  readonly version: string | null
  readonly serial: string | null
} {
  return {
    os: facts.os ?? dialect,
    model: software.model ?? facts.model ?? null,
    version: software.version ?? facts.version ?? null,
    serial: software.serial,
  }
}

const NONE = 'not stated'

const MAKERS: Readonly<Record<TableName, (devices: EstateDevices) => EstateTable>> = {
  subnets: (devices) => {
    const groups = new Gathering()
    for (const { name, digest } of devices) {
      for (const { name: port, vrf, enabled, addresses } of digest.interfaces) {
        for (const { address, prefixLength, family, at } of addresses) {
          const prefix = subnetOf(address, prefixLength, family)
          if (prefix !== null)
            groups.add(
              `${vrf ?? ''} ${prefix}`,
              { prefix, vrf: vrf ?? '', family },
              { device: name, what: `${port} ${address}${enabled === false ? ' (switched off)' : ''}`, at },
            )
        }
      }
    }
    return {
      columns: [column('prefix', 'Subnet'), column('vrf', 'VRF'), column('family', 'Family'), ...COUNTS('Ports')],
      rows: groups.rows(),
    }
  },
  vlans: (devices) => {
    const groups = new Gathering()
    const names = new Map<number, Set<string>>()
    const noted = (id: number, name: string | null): void =>
      void names.set(id, (names.get(id) ?? new Set()).add(name ?? ''))
    for (const { name, digest } of devices) {
      for (const { id, name: title, at } of digest.vlans) {
        noted(id, title)
        groups.add(String(id), { vlan: id }, { device: name, what: title ?? 'defined', at })
      }
      for (const { name: port, accessVlan, at } of digest.interfaces) {
        if (accessVlan === null) continue
        noted(accessVlan, null)
        groups.add(String(accessVlan), { vlan: accessVlan }, { device: name, what: `${port} (access)`, at })
      }
    }
    return {
      columns: [column('vlan', 'VLAN', true), column('names', 'Names'), ...COUNTS('Places')],
      rows: groups.rows((row) => ({
        names: [...(names.get(Number(row['vlan'])) ?? [])].filter(Boolean).sort().join(', '),
      })),
    }
  },
  redundancy: (devices) => {
    const groups = new Gathering()
    for (const { name, digest } of devices) {
      for (const { interface: port, protocol, group, address, priority, at } of digest.redundancy)
        groups.add(
          `${protocol} ${group} ${address ?? ''}`,
          { protocol, group, address: address ?? NONE },
          { device: name, what: `${port}, priority ${priority ?? 'by default'}`, at },
        )
    }
    return {
      columns: [
        column('protocol', 'Protocol'),
        column('group', 'Group'),
        column('address', 'Virtual address'),
        ...COUNTS('Members'),
      ],
      rows: groups.rows(),
    }
  },
  versions: (devices) => {
    const groups = new Gathering()
    for (const { name, digest, facts } of devices) {
      const { os, model, version } = identityOf(digest, facts)
      groups.add(
        `${os} ${version}`,
        { os, version: version ?? NONE },
        {
          device: name,
          what:
            (model ?? 'model not stated') +
            (facts.approved ? `, ${APPROVED_WORDS[facts.approved] ?? facts.approved}` : ''),
          at: digest.software.at,
        },
      )
    }
    return { columns: [column('os', 'Software'), column('version', 'Version'), ...COUNTS()], rows: groups.rows() }
  },
  models: (devices) => {
    const groups = new Gathering()
    for (const { name, digest, facts } of devices) {
      const { os, model, version } = identityOf(digest, facts)
      groups.add(
        model ?? '',
        { model: model ?? NONE },
        { device: name, what: `${os} ${version ?? ''}`.trim(), at: digest.software.at },
      )
    }
    return { columns: [column('model', 'Model'), ...COUNTS()], rows: groups.rows() }
  },
  'end-ports': (devices) => {
    const inner = portsOfLinks(linksOf(devices))
    const rows = devices.flatMap(({ name, digest }) =>
      digest.interfaces
        .filter((port) => isEndPort(port) && !inner.has(`${name} ${port.name}`))
        .map(({ name: port, description, enabled, oper, accessVlan, portAuthentication, stations, at }): EstateRow => ({
          id: `${name} ${port}`,
          values: {
            device: name,
            port,
            description: description ?? '',
            state: enabled === false ? 'disabled' : (oper ?? 'not captured'),
            vlan: accessVlan ?? '',
            authentication: portAuthentication ?? 'none stated',
            stations: stations ?? '',
          },
          members: [{ device: name, what: port, at }],
        })),
    )
    return {
      columns: [
        column('device', 'Device'),
        column('port', 'Port'),
        column('description', 'Description'),
        column('state', 'State'),
        column('vlan', 'VLAN', true),
        column('authentication', 'Authentication'),
        column('stations', 'Stations', true),
      ],
      rows,
    }
  },
}

/** In what words a standing of approval is shown. */
export const APPROVED_WORDS: Readonly<Record<string, string>> = {
  on: 'approved',
  off: 'not approved',
  none: 'no policy',
  unknown: 'version unknown',
}

/** A port that faces no other device of the network: of ethernet, not routed, no part of an aggregate and no trunk. */
function isEndPort({ kind, mode, addresses, aggregate }: DeviceDigest['interfaces'][number]): boolean {
  return kind === 'ethernet' && aggregate === null && addresses.length === 0 && mode !== null && !/trunk/i.test(mode)
}

/** Ports that face a device of the estate. */
function portsOfLinks(links: readonly Link[]): Set<string> {
  return new Set(
    links.flatMap(({ a, b }) => (b.inEstate ? [`${a.device} ${a.port ?? ''}`, `${b.device} ${b.port ?? ''}`] : [])),
  )
}

function column(key: string, title: string, numeric = false): EstateTable['columns'][number] {
  return numeric ? { key, title, numeric } : { key, title }
}

const COUNTS = (places?: string): EstateTable['columns'] => [
  column('devices', 'Devices', true),
  ...(places === undefined ? [] : [column('places', places, true)]),
]

/** 10.40.9.0 comes before 10.40.10.0. */
const ORDER = new Intl.Collator('en', { numeric: true })

/** Rows by what they have in common. */
class Gathering {
  readonly #rows = new Map<string, { values: Record<string, string | number>; members: Member[] }>()

  add(key: string, values: Record<string, string | number>, member: Member): void {
    const row = this.#rows.get(key)
    if (row) row.members.push(member)
    else this.#rows.set(key, { values, members: [member] })
  }

  rows(
    more: (values: Readonly<Record<string, string | number>>) => Record<string, string | number> = () => ({}),
  ): EstateRow[] {
    return [...this.#rows]
      .sort(([a], [b]) => ORDER.compare(a.trim(), b.trim()))
      .map(([id, { values, members }]) => ({
        id,
        values: {
          ...values,
          ...more(values),
          devices: new Set(members.map(({ device }) => device)).size,
          places: members.length,
        },
        members,
      }))
  }
}

import type { DeviceModel } from '@jurybox/core'
import { t } from '../messages/index.ts'
import { rangesText, secretText } from './model-rows.ts'
import { beside, said, saidColumn, words, type Part, type SaidRow, type SaidTableOf } from './said-cells.ts'

export function interfaceTable({ interfaces }: DeviceModel): SaidTableOf {
  return {
    title: t('estate.interfacesTitle'),
    columns: [
      saidColumn('name', t('estate.interface'), { nowrap: true }),
      saidColumn('description', t('estate.description')),
      saidColumn('addresses', t('estate.addresses')),
      saidColumn('vlan', 'VLAN', { plain: true }),
      saidColumn('filters', t('common.filters')),
      saidColumn('state', t('estate.stateTab'), { nowrap: true }),
    ],
    rows: interfaces.map((port, i) => {
      const at = `interfaces[${i}]`
      return {
        id: port.name,
        cells: {
          name: [
            said(at, port.name),
            ...(port.vrf ? [words('VRF', { quiet: true, below: true }), said(`${at}.vrf`, port.vrf)] : []),
          ],
          description: port.description ? [said(`${at}.description`, port.description)] : [],
          addresses: [
            ...port.addresses.map(({ address, prefixLength }, a) =>
              said(`${at}.addresses[${a}]`, `${address}/${prefixLength}`, { mono: true, below: true }),
            ),
            ...(port.addressBy ? [said(`${at}.addressBy`, port.addressBy)] : []),
          ],
          vlan:
            port.switching.mode === 'trunk'
              ? [
                  said(
                    `${at}.switching.allowedVlans`,
                    `trunk ${port.switching.allowedVlans?.replaceAll(',', ', ') ?? 'all'}`,
                  ),
                ]
              : port.switching.accessVlan !== null
                ? [said(`${at}.switching.accessVlan`, String(port.switching.accessVlan))]
                : [],
          filters: FILTERS.flatMap(([field, label]) => {
            const filter = port.filters[field]
            return filter ? [words(label, { quiet: true, below: true }), said(`${at}.filters.${field}`, filter)] : []
          }),
          state: [said(`${at}.enabled`, port.enabled === null ? null : port.enabled ? 'on' : 'off')],
        },
      }
    }),
  }
}
const FILTERS = [
  ['in4', 'in'],
  ['out4', 'out'],
  ['in6', t('estate.iPv6In')],
  ['out6', t('estate.iPv6Out')],
] as const

export function userTable({ system }: DeviceModel): SaidTableOf {
  const users = system.users.map((user, i): SaidRow => {
    const at = `system.users[${i}]`
    const role = user.role ?? (user.privilege === null ? null : `privilege ${user.privilege}`)
    const secret = user.secret ? secretText(user.secret) : user.keys > 0 ? t('estate.keys', { n: user.keys }) : null
    return {
      id: `user ${user.name}`,
      cells: {
        name: [words(t('estate.user')), said(at, user.name)],
        role: role === null ? [] : [said(`${at}.${user.role ? 'role' : 'privilege'}`, role)],
        secret: [said(`${at}.secret`, secret)],
      },
    }
  })
  const terminals = system.terminals.map((terminal, i): SaidRow => {
    const at = `system.terminals[${i}]`
    const idle = terminal.idleSeconds
    return {
      id: `terminal ${terminal.name}`,
      cells: {
        name: [words(t('estate.terminal')), said(at, terminal.name)],
        role: beside(terminal.kind),
        secret: terminal.secret ? [said(`${at}.secret`, secretText(terminal.secret))] : [],
        idle: [said(`${at}.idleSeconds`, idle === null ? null : idle === 0 ? t('estate.noTimeout') : `${idle} s`)],
        access: [
          said(`${at}.protocols`, terminal.protocols?.join(' ') ?? null),
          ...(terminal.accessList4
            ? [words(t('estate.from'), { quiet: true, below: true }), said(`${at}.accessList4`, terminal.accessList4)]
            : []),
        ],
      },
    }
  })
  return {
    title: t('estate.usersAndTerminals'),
    columns: [
      saidColumn('name', t('estate.userOrTerminal')),
      saidColumn('role', t('common.role')),
      saidColumn('secret', t('estate.secret')),
      saidColumn('idle', t('estate.idleTime')),
      saidColumn('access', t('estate.accessTitle')),
    ],
    rows: [...users, ...terminals],
  }
}

type AccessList = DeviceModel['accessLists'][number]

/** @param at which list of the model it is */
export function entryTable(list: AccessList, at: number): SaidTableOf {
  return {
    title: list.name,
    columns: [
      saidColumn('entry', t('estate.entry')),
      saidColumn('from', t('common.from'), { mono: true }),
      saidColumn('to', t('estate.toColumn'), { mono: true }),
      saidColumn('protocol', t('estate.protocol')),
      saidColumn('ports', t('estate.ports')),
    ],
    rows: list.entries.map((entry, e) => ({
      id: String(e),
      cells: {
        entry: [
          said(
            `accessLists[${at}].entries[${e}]`,
            `${entry.sequence ?? e + 1} ${entry.action === 'other' ? t('estate.continue') : entry.action}`,
          ),
          ...notes(
            entry.remark,
            entry.notWeighed.length > 0 && t('estate.notEvaluated', { notWeighed: entry.notWeighed.join(', ') }),
          ),
        ],
        from: [words(entry.sources.join(' ') || 'any')],
        to: [words(entry.destinations.join(' ') || 'any')],
        protocol: [words(rangesText(entry.protocols) || 'any')],
        ports: [words(portsOf(entry))],
      },
    })),
  }
}
const notes = (...texts: readonly (string | null | false)[]): Part[] =>
  texts.flatMap((text) => (text ? [words(text, { quiet: true, below: true })] : []))
const portsOf = ({ sourcePorts, destinationPorts }: AccessList['entries'][number]): string =>
  [rangesText(sourcePorts) && `from ${rangesText(sourcePorts)}`, rangesText(destinationPorts)]
    .filter(Boolean)
    .join(' to ') || 'any'

export function routingTable({ staticRoutes, ospf, bgp }: DeviceModel): SaidTableOf {
  const statics = staticRoutes.map((route, i): SaidRow => ({
    id: `static ${i}`,
    cells: {
      routing: [words(t('estate.staticRoute'))],
      type: [said(`staticRoutes[${i}]`, route.prefix, { mono: true })],
      to: [
        words(route.discard ? 'discarded' : [route.interface, route.nextHop].filter(Boolean).join(' '), { mono: true }),
      ],
      details: beside(
        route.vrf && t('estate.vrf', { vrf: route.vrf }),
        route.distance !== null && `distance ${route.distance}`,
        route.name,
      ),
    },
  }))
  const areas = ospf.map((instance, i): SaidRow => ({
    id: `ospf ${i}`,
    cells: {
      routing: [words(t('estate.ospf', { process: instance.process }))],
      type: [said(`ospf[${i}].routerId`, instance.routerId, { mono: true })],
      to: instance.networks.map(({ prefix, area }, n) =>
        said(`ospf[${i}].networks[${n}]`, `${prefix} area ${area}`, { mono: true, below: true }),
      ),
      details: beside(
        instance.passiveByDefault && t('estate.passiveByDefault'),
        ...instance.areas.map(({ id, authentication }) => `area ${id}${authentication ? ` ${authentication}` : ''}`),
      ),
    },
  }))
  const neighbours = bgp.flatMap((instance, i) =>
    instance.neighbours.map((one, n): SaidRow => ({
      id: `bgp ${i} ${n}`,
      cells: {
        routing: [words(t('estate.bgp', { as: instance.as }))],
        type: [said(`bgp[${i}].neighbours[${n}]`, one.address, { mono: true })],
        to: [words('AS'), said(`bgp[${i}].neighbours[${n}].remoteAs`, one.remoteAs)],
        details: beside(
          one.description,
          one.secret ? `${one.secret.kind} ${one.secret.fingerprint}` : t('estate.noPassword'),
          one.ttlSecurityHops !== null && t('estate.ttl', { ttlSecurityHops: one.ttlSecurityHops }),
        ),
      },
    })),
  )
  return {
    title: t('estate.routing'),
    columns: [
      saidColumn('routing', t('estate.routing')),
      saidColumn('type', t('common.type')),
      saidColumn('to', t('estate.toColumn')),
      saidColumn('details', t('estate.details')),
    ],
    rows: [...statics, ...areas, ...neighbours],
  }
}

import type { StateView } from '@jurybox/api/devices'
import { t } from '../messages/index.ts'
import { beside, said, saidColumn, words, type Part, type SaidRow, type SaidTableOf } from './said-cells.ts'

type State = StateView['state']

/** What a device was doing, by topic; topics of which nothing was captured are left out. */
export function stateTables(state: State): SaidTableOf[] {
  const tables = [
    interfaces(state),
    routes(state),
    plain(t('estate.neighboursAndTime'), neighbours(state)),
    plain(t('common.encryption'), encryption(state)),
    plain(t('estate.alarmsAndComponents'), alarms(state)),
    plain(t('estate.policyRules'), policyRules(state)),
    plain(t('estate.arpNdAndMacTables'), stations(state)),
  ]
  return tables.filter(({ rows }) => rows.length > 0)
}

const row = (id: string, type: Part, name: Part, details: readonly Part[]): SaidRow => ({
  id,
  cells: { type: [type], name: [name], details },
})
const plain = (title: string, rows: readonly SaidRow[]): SaidTableOf => ({
  title,
  rows,
  columns: [
    saidColumn('type', t('common.type'), { width: '24%' }),
    saidColumn('name', t('common.name')),
    saidColumn('details', t('estate.details')),
  ],
  headless: true,
})

function interfaces({ interfaces: ports }: State): SaidTableOf {
  const count = (path: string, value: number | null): Part[] => (value === null ? [] : [said(path, String(value))])
  return {
    title: t('estate.interfacesTitle'),
    columns: [
      saidColumn('name', t('estate.interface'), { nowrap: true }),
      saidColumn('admin', t('estate.setTo')),
      saidColumn('oper', t('estate.stateTab')),
      saidColumn('addresses', t('estate.addresses'), { mono: true }),
      saidColumn('inErrors', t('estate.errorsIn'), { numeric: true }),
      saidColumn('outErrors', t('estate.out'), { numeric: true }),
    ],
    rows: ports.map(({ name, admin, oper, addresses, counters }, i) => ({
      id: name,
      cells: {
        name: [said(`interfaces[${i}]`, name)],
        admin: [said(`interfaces[${i}].admin`, admin)],
        oper: [said(`interfaces[${i}].oper`, oper)],
        addresses: [words(addresses.join(' '))],
        inErrors: count(`interfaces[${i}].counters.inErrors`, counters.inErrors),
        outErrors: count(`interfaces[${i}].counters.outErrors`, counters.outErrors),
      },
    })),
  }
}

function routes({ routes: all }: State): SaidTableOf {
  return {
    title: t('estate.routesTitle'),
    columns: [
      saidColumn('prefix', t('estate.prefix')),
      saidColumn('hops', t('estate.nextHops'), { mono: true }),
      saidColumn('from', t('common.from')),
    ],
    rows: all.map((route, i) => ({
      id: String(i),
      cells: {
        prefix: [said(`routes[${i}]`, route.prefix, { mono: true })],
        hops: route.nextHops.map(({ address, interface: port, discard }) =>
          words(discard ? 'discarded' : [address, port].filter(Boolean).join(' '), { below: true }),
        ),
        from: beside(
          route.protocol,
          route.vrf && t('estate.vrf', { vrf: route.vrf }),
          route.distance !== null && `distance ${route.distance}`,
          route.metric !== null && `metric ${route.metric}`,
          !route.selected && t('estate.notInUse'),
        ),
      },
    })),
  }
}

function neighbours({ neighbours: seen, adjacencies, ntp }: State): SaidRow[] {
  return [
    ...seen.map((one, i) =>
      row(
        `neighbour ${i}`,
        words(t('estate.on', { interface: one.interface })),
        said(`neighbours[${i}]`, one.system),
        beside(one.port && t('estate.port', { port: one.port }), one.capability),
      ),
    ),
    ...adjacencies.map((one, i) =>
      row(
        `adjacency ${i}`,
        words(one.protocol.toUpperCase()),
        said(`adjacencies[${i}]`, one.neighbour),
        beside(
          one.state,
          one.remoteAs && t('estate.as', { remoteAs: one.remoteAs }),
          one.prefixes !== null && t('estate.prefixes', { n: one.prefixes }),
        ),
      ),
    ),
    ...ntp.associations.map((one, i) =>
      row(
        `time ${i}`,
        words(t('estate.timeServer')),
        said(`ntp.associations[${i}]`, one.address),
        beside(
          one.selected ? t('estate.selected') : t('common.notSelected'),
          one.reach === 0 && t('estate.notReached'),
          one.stratum !== null && `stratum ${one.stratum}`,
        ),
      ),
    ),
    ...(ntp.synchronised === null
      ? []
      : [
          row(
            'clock',
            words(t('estate.clock')),
            said('ntp.synchronised', ntp.synchronised ? 'synchronised' : t('estate.notSynchronised')),
            [],
          ),
        ]),
  ]
}

function encryption({ securityAssociations, secureChannels }: State): SaidRow[] {
  return [
    ...securityAssociations.map((one, i) =>
      row(
        `sa ${i}`,
        words(t('estate.iPsec', { direction: one.direction ?? '' })),
        said(`securityAssociations[${i}]`, one.peer, { mono: true }),
        beside(
          one.algorithm,
          one.interface,
          t('estate.spi', { spi: one.spi }),
          one.lifetimeSeconds !== null && t('estate.sLeft', { lifetimeSeconds: one.lifetimeSeconds }),
        ),
      ),
    ),
    ...secureChannels.map((one, i) =>
      row(
        `channel ${i}`,
        words(t('estate.mACsec', { direction: one.direction ?? '' })),
        said(`secureChannels[${i}]`, one.interface),
        beside(
          one.cipher,
          one.encrypts === false && t('estate.noEncryption'),
          one.sci && t('estate.sci', { sci: one.sci }),
        ),
      ),
    ),
  ]
}

function alarms({ alarms: raised, parts }: State): SaidRow[] {
  return [
    ...raised.map((one, i) =>
      row(
        `alarm ${i}`,
        words(t('estate.alarm')),
        said(`alarms[${i}]`, one.text),
        beside(one.severity, one.since && `since ${one.since}`),
      ),
    ),
    ...parts.map((one, i) => {
      const reading = [one.ok ? t('estate.ok') : t('estate.fault'), one.reading].filter(Boolean).join(', ')
      return row(`part ${i}`, words(one.kind), said(`parts[${i}]`, one.name), [
        words(reading, { quiet: one.ok === true }),
      ])
    }),
  ]
}

function policyRules({ policyRules: rules }: State): SaidRow[] {
  return rules.map((one, i) =>
    row(
      `rule ${i}`,
      words(String(one.priority)),
      said(`policyRules[${i}]`, one.source === null ? t('estate.fromAnywhere') : `from ${one.source}`),
      beside(
        one.destination && `to ${one.destination}`,
        one.interface && t('estate.fromInterface', { interface: one.interface }),
        `table ${one.table}`,
      ),
    ),
  )
}

function stations({ addresses, macs }: State): SaidRow[] {
  return [
    ...addresses.map((one, i) =>
      row(
        `address ${i}`,
        said(`addresses[${i}]`, one.address, { mono: true }),
        words(one.mac ?? t('estate.incompleteMark'), { mono: true }),
        beside(one.interface, one.state),
      ),
    ),
    ...macs.map((one, i) =>
      row(
        `mac ${i}`,
        words(t('estate.vlan', { vlan: one.vlan ?? 'all' }), { quiet: true }),
        said(`macs[${i}]`, one.mac, { mono: true }),
        beside(one.interface, one.kind),
      ),
    ),
  ]
}

import { DeviceAnalysis } from '@jurybox/core/analysis'
import { dialectById, maskWithKey, type DeviceModel } from '@jurybox/core'
import { readRecord } from '@jurybox/core/snapshot'
import { expect } from 'chai'
import { entryTable, interfaceTable, routingTable, userTable } from '../src/estate/model-tables.ts'
import { securityTable } from '../src/estate/security-table.ts'
import { saidColumn, said, words, beside, type SaidTableOf } from '../src/estate/said-cells.ts'
import { stateTables } from '../src/estate/state-tables.ts'

const mask = maskWithKey(new Uint8Array(32))
function analysed(dialect: string, config: string, outputs: Readonly<Record<string, string>> = {}): DeviceAnalysis {
  const known = dialectById(dialect)
  if (!known) throw new Error(`no dialect ${dialect}`)
  return new DeviceAnalysis(
    known,
    [
      { id: 'c', kind: 'config', tree: readRecord(config, dialect) },
      ...Object.entries(outputs).map(([kind, text]) => ({ id: kind, kind: `state/${kind}`, tree: null, text })),
    ],
    mask,
  )
}
function modelOf(dialect: string, config: string): DeviceModel {
  const { modelled } = analysed(dialect, config)
  if (!modelled) throw new Error('not read')
  return modelled.model
}
/** What a person reads, by row: the values of the columns as they are sorted and exported. */
const read = ({ rows, columns }: SaidTableOf) => rows.map((row) => columns.map(({ value }) => value(row)))
const paths = ({ rows }: SaidTableOf): string[] =>
  rows.flatMap(({ cells }) =>
    Object.values(cells).flatMap((parts) => parts.flatMap(({ path }) => (path === undefined ? [] : [path]))),
  )

const CONFIG = `hostname quay-core
username dockhand privilege 15 secret 5 $1$abcd$0123456789abcdefghijk.
interface Vlan30
 description Kiosks
 ip address 10.40.30.1 255.255.255.0
 ip access-group KIOSK-IN in
interface GigabitEthernet1/0/1
 switchport mode trunk
 switchport trunk allowed vlan 30,40
 shutdown
interface GigabitEthernet1/0/2
 switchport mode access
 switchport access vlan 40
ip access-list extended KIOSK-IN
 remark card systems
 permit tcp 10.40.30.0 0.0.0.255 any eq 443
 deny ip any any
ip route 0.0.0.0 0.0.0.0 10.40.254.1 200
ip route 10.99.0.0 255.255.0.0 Null0
router bgp 65010
 neighbor 10.40.254.9 remote-as 65020
 neighbor 10.40.254.9 description carrier
line vty 0 4
 exec-timeout 10 0
 transport input ssh
line con 0
 exec-timeout 0 0
end
`

describe('what a configuration says, as tables', () => {
  const model = modelOf('indented', CONFIG)

  it('interfaces: addresses, VLANs, filters and state, each part with its path', () => {
    const table = interfaceTable(model)
    expect(read(table)).to.deep.include(['Vlan30', 'Kiosks', '10.40.30.1/24', '', 'in KIOSK-IN', 'on'])
    const [, , , trunk] = read(table).find(([name]) => name === 'GigabitEthernet1/0/1') ?? []
    expect(trunk).to.equal('trunk 30, 40')
    expect(
      read(table)
        .find(([name]) => name === 'GigabitEthernet1/0/1')
        ?.at(-1),
    ).to.equal('off')
    expect(read(table).find(([name]) => name === 'GigabitEthernet1/0/2')?.[3]).to.equal('40')
    expect(paths(table)).to.include.members([
      'interfaces[0].addresses[0]',
      'interfaces[0].filters.in4',
      'interfaces[1].switching.allowedVlans',
      'interfaces[2].switching.accessVlan',
    ])
  })

  it('users and terminals: no secret is shown, and "no timeout" is said where sessions never end', () => {
    const all = read(userTable(model))
    const user = all.find(([name]) => String(name).endsWith('dockhand'))
    expect(user?.[1]).to.equal('privilege 15')
    expect(String(user?.[2]))
      .to.match(/‹secret:[0-9a-f]{8}›/)
      .and.not.contain('0123456789abcdefghijk')
    expect(all.find(([name]) => /vty/.test(String(name)))?.slice(3)).to.deep.equal(['600 s', 'ssh'])
    expect(all.find(([name]) => /con/.test(String(name)))?.[3]).to.equal('no timeout')
  })

  it('entries of a list: "any" where nothing is named, ports by where they stand', () => {
    const [list] = model.accessLists
    if (!list) throw new Error('no list')
    const rows = read(entryTable(list, 0))
    expect(rows[0]?.slice(1)).to.deep.equal(['10.40.30.0/24', 'any', '6', '443'])
    expect(rows[1]?.slice(1)).to.deep.equal(['any', 'any', 'any', 'any'])
    expect(String(rows[0]?.[0])).to.contain('permit').and.contain('card systems')
    expect(paths(entryTable(list, 3))[0]).to.equal('accessLists[3].entries[0]')
  })

  it('routes: distance, what is discarded, and sessions without a password said so', () => {
    const rows = read(routingTable(model))
    expect(rows).to.deep.include(['static route', '0.0.0.0/0', '10.40.254.1', 'distance 200'])
    expect(rows.find(([, prefix]) => prefix === '10.99.0.0/16')?.[2]).to.equal('discarded')
    expect(rows.find(([, address]) => address === '10.40.254.9')?.slice(2)).to.deep.equal([
      'AS 65020',
      'carrier, no password',
    ])
  })

  it('nothing where the configuration says nothing', () => {
    const bare = modelOf('indented', 'hostname x\nend\n')
    expect(interfaceTable(bare).rows).to.deep.equal([])
    expect(routingTable(bare).rows).to.deep.equal([])
    expect(securityTable(bare).rows).to.deep.equal([])
  })

  it('zones, policies and tunnels of a firewall, each row told apart', () => {
    const table = securityTable(
      modelOf(
        'setlines',
        [
          'set security zones security-zone cards interfaces ge-0/0/1.0',
          'set security zones security-zone kiosks interfaces ge-0/0/2.0',
          'set security policies from-zone kiosks to-zone cards policy web match source-address any',
          'set security policies from-zone kiosks to-zone cards policy web match destination-address any',
          'set security policies from-zone kiosks to-zone cards policy web match application any',
          'set security policies from-zone kiosks to-zone cards policy web then permit',
        ].join('\n'),
      ),
    )
    expect(read(table)).to.deep.include(['zone', 'cards', 'ge-0/0/1.0'])
    const policy = read(table).find(([type]) => type === 'policy')
    expect(policy?.[1]).to.contain('web').and.contain('kiosks')
    expect(policy?.[2]).to.contain('permit').and.contain('not logged')
    expect(new Set(table.rows.map(({ id }) => id)).size).to.equal(table.rows.length)
  })
})

describe('what a device was doing, as tables', () => {
  it('leaves out topics of which nothing was captured', () => {
    const { state } = analysed('indented', 'hostname x\nend\n')
    expect(stateTables(state.state)).to.deep.equal([])
  })

  it('routes: next hops on lines of their own, what is not in use said so', () => {
    const { state } = analysed('indented', 'hostname x\nend\n', {
      routes: [
        'Codes: C - connected, S - static, B - BGP',
        '',
        'Gateway of last resort is 203.0.113.201 to network 0.0.0.0',
        '',
        'B*    0.0.0.0/0 [20/0] via 203.0.113.201, 2d03h',
        'C     10.40.254.20/30 is directly connected, GigabitEthernet0/0',
      ].join('\n'),
    })
    const table = stateTables(state.state).find(({ rows }) => rows.length > 0)
    expect(table?.columns.map(({ key }) => key)).to.deep.equal(['prefix', 'hops', 'from'])
    const rows = table ? read(table) : []
    expect(rows[0]?.[0]).to.equal('0.0.0.0/0')
    expect(rows[0]?.[1]).to.contain('203.0.113.201')
    expect(rows[0]?.[2]).to.contain('bgp').and.contain('distance 20')
    expect(table ? paths(table) : []).to.include('routes[0]')
  })
})

describe('a cell of values', () => {
  it('is sorted as a number where the column holds numbers', () => {
    const column = saidColumn('count', 'Count', { numeric: true })
    const row = (text: string) => ({ id: text, cells: { count: [words(text)] } })
    expect(column.value(row('12'))).to.equal(12)
    expect(column.value(row('12 of 14'))).to.equal('12 of 14')
    expect(column.value({ id: 'none', cells: {} })).to.equal('')
    expect(saidColumn('count', 'Count').value(row('12'))).to.equal('12')
  })
  it('keeps what nobody stated apart from empty words', () => {
    expect(said('a', null)).to.deep.equal({ path: 'a', text: null })
    expect(beside(null, false, '', undefined)).to.deep.equal([])
    expect(beside('x', 0, null)).to.deep.equal([{ text: 'x, 0', quiet: true }])
  })
})

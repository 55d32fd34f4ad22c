import { expect } from 'chai'
import { DeviceAnalysis } from '../../src/analysis/index.ts'
import { digestOf, segmentsOf } from '../../src/estate/index.ts'
import { dialectById, maskWithKey } from '../../src/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'

const mask = maskWithKey(new Uint8Array(32))
function segments(config: string, dialect = 'indented') {
  const known = dialectById(dialect)
  const read =
    known && digestOf(new DeviceAnalysis(known, [{ id: 'c', kind: 'config', tree: readRecord(config, dialect) }], mask))
  if (!read) throw new Error('not read')
  return segmentsOf(read.digest)
}
const port = (...lines: string[]): string =>
  `interface GigabitEthernet1/0/1\n${lines.map((line) => ` ${line}\n`).join('')}`

describe('the segments that a device has a part in', () => {
  it('are VLANs that it declares, that its ports are in, that its trunks name, and that it routes', () => {
    expect(segments('vlan 10\n name staff\n').vlans).to.deep.equal([10])
    expect(segments(port('switchport mode access', 'switchport access vlan 40')).vlans).to.include(40)
    expect(segments(port('switchport mode trunk', 'switchport trunk allowed vlan 30,50-52')).vlans).to.deep.equal([
      30, 50, 51, 52,
    ])
    expect(segments('interface Vlan77\n ip address 10.1.77.1 255.255.255.0\n')).to.deep.equal({
      vlans: [77],
      subnets: ['10.1.77.0/24'],
      anyVlan: false,
    })
  })

  it('say that nothing is stated where a trunk names none: it may carry each of them', () => {
    expect(segments(port('switchport mode trunk'))).to.deep.include({ vlans: [], anyVlan: true })
    expect(segments(port('switchport mode trunk', 'switchport trunk allowed vlan 30')).anyVlan).to.equal(false)
  })

  it('leave out ports that are switched off', () => {
    expect(segments(port('switchport mode trunk', 'shutdown')).anyVlan).to.equal(false)
    expect(segments(port('switchport mode access', 'switchport access vlan 40', 'shutdown')).vlans).to.not.include(40)
  })

  it('are subnets of both families, each once', () => {
    const config =
      'interface Vlan30\n ip address 10.40.30.1 255.255.255.0\n ip address 10.40.30.2 255.255.255.0 secondary\n' +
      ' ipv6 address 2001:db8:30::1/64\n'
    expect(segments(config).subnets).to.deep.equal(['10.40.30.0/24', '2001:db8:30::/64'])
  })
})

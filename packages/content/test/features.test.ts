import { expect } from 'chai'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { dialectById, type Dialect } from '@jurybox/core/dialects'
import { CompiledReference, deriveReference } from '@jurybox/core/references'
import { readRecord } from '@jurybox/core/snapshot'
import { features } from '../src/index.ts'

const portOf = (n: number, vlan: number, more = ''): string =>
  `interface GigabitEthernet1/0/${n}\n description Desk ${n}\n switchport mode access\n` +
  ` switchport access vlan ${vlan}\n spanning-tree portfast\n${more}!\n`
const device = (n: number, ports: string): { name: string; analysis: DeviceAnalysis } => ({
  name: `sw-${n}`,
  analysis: new DeviceAnalysis(
    dialectById('indented') as Dialect,
    [{ id: 'config', kind: 'config', tree: readRecord(`hostname sw-${n}\n!\n${ports}`, 'indented'), takenAt: null }],
    () => '*',
  ),
})

/** The features that ship, each derived as it is. */
describe('features', () => {
  for (const feature of features())
    for (const dialect of Object.keys(feature.statements))
      it(`${feature.id} in ${dialect} can be derived`, () => {
        const id = dialectById(dialect)
        expect(id, dialect).not.to.equal(undefined)
        const empty = new DeviceAnalysis(
          id as Dialect,
          [{ id: 'config', kind: 'config', tree: readRecord('', dialect), takenAt: null }],
          () => '*',
        )
        expect(() => deriveReference([{ name: 'empty', analysis: empty }], feature, dialect)).not.to.throw()
      })

  it('what is compared of the state has a value on every device of which it is known', () => {
    const outputs: Readonly<Record<string, string>> = {
      'state/routes':
        'Codes: C - connected, S - static\n\nGateway of last resort is 10.40.99.1 to network 0.0.0.0\n\n' +
        'S*    0.0.0.0/0 [1/0] via 10.40.99.1\nC     10.40.99.0/24 is directly connected, Vlan99',
      'state/ntp': 'Clock is synchronized, stratum 3, reference is 10.40.0.11',
    }
    const own = new DeviceAnalysis(
      dialectById('indented') as Dialect,
      [
        { id: 'config', kind: 'config', tree: readRecord('hostname a', 'indented'), takenAt: null },
        ...Object.entries(outputs).map(([kind, text]) => ({ id: kind, kind, tree: null, text, takenAt: null })),
      ],
      () => '*',
    )
    const valuesOf = (id: string): unknown =>
      deriveReference(
        [{ name: 'a', analysis: own }],
        features().find((one) => one.id === id) as never,
        'indented',
      )?.derived.state.map(({ values }) => values.map(({ value }) => value).join())
    expect(valuesOf('default-route')).to.deep.equal(['["static"]', '[1]', '[["10.40.99.1"]]'])
    expect(valuesOf('ntp')).to.deep.equal(['true', '[]'])
    expect(valuesOf('redundancy'), 'not captured').to.deep.equal(['', ''])
  })

  it('access ports: the common lines of the ports, and the port that lacks one', () => {
    const feature = features().find(({ id }) => id === 'access-ports')
    if (!feature) throw new Error('the feature is not there')
    const ports = Array.from({ length: 12 }, (_, i) => portOf(i + 1, 10 + (i % 3)))
    const bare = portOf(13, 10, '').replace(' spanning-tree portfast\n', '')
    const found = deriveReference([device(1, ports.join('')), device(2, ports.join('') + bare)], feature, 'indented')
    expect(found?.derived.samples).to.equal(25)
    expect(found?.derived.outliers.map(({ name }) => name)).to.deep.equal(['sw-2 GigabitEthernet1/0/13'])
    const reference = found && new CompiledReference(found.reference)
    const answer = reference?.answer(device(2, ports.join('') + bare).analysis, { name: 'sw-2' } as never)
    expect(answer?.outcome).to.equal('departs')
    expect(answer?.lines.filter(({ state }) => state === 'missing').map(({ text }) => text)).to.deep.equal([
      'spanning-tree portfast',
    ])
  })
})

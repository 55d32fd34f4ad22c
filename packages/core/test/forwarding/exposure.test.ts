import { expect } from 'chai'
import { Walker } from '../../src/index.ts'
import { exposureOf, placeOf } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf } from './networks.ts'

/** An edge to the world, and a switch behind it that an access list hides. */
const EDGE = (filter: string): string =>
  [
    'hostname edge',
    'interface world',
    ' ip address 203.0.113.2 255.255.255.252',
    filter,
    'interface inside',
    ' ip address 10.0.0.1 255.255.255.0',
    'ip route 0.0.0.0 0.0.0.0 203.0.113.1',
    'ip access-list extended HIDE',
    ' deny ip any 10.0.0.0 0.0.0.255',
    ' permit ip any any',
  ].join('\n')
const SWITCH = 'hostname sw\ninterface Vlan1\n ip address 10.0.0.2 255.255.255.0\nip route 0.0.0.0 0.0.0.0 10.0.0.1'

describe('exposure', () => {
  const exposed = (filter: string): unknown => {
    const network = networkOf(deviceOf('edge', 'indented', EDGE(filter)), deviceOf('sw', 'indented', SWITCH))
    return Object.fromEntries(
      exposureOf(new Walker(network), [placeOf(network, 'outside'), placeOf(network, '10.0.0.0/24')]),
    )
  }
  it('says from which places packets reach a device itself', () => {
    expect(exposed(' no shutdown')).to.deep.equal({ edge: ['yes', 'yes'], sw: ['yes', 'yes'] })
    expect(exposed(' ip access-group HIDE in')).to.deep.equal({ edge: ['yes', 'yes'], sw: ['no', 'yes'] })
  })
  it('is undecided where a filter was not understood', () => {
    expect(exposed(' ip access-group MISSING in')).to.not.deep.equal({ edge: ['no', 'yes'], sw: ['no', 'yes'] })
  })
})

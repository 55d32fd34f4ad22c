import { expect } from 'chai'
import ipaddr from 'ipaddr.js'
import { EffectiveConfig, dialectById, modelOf, type DeviceModel } from '../../src/index.ts'

/**
 * Examples of published standards, in the JSON encoding of RFC 7951. Typed in from memory and shortened to what the
 * model holds; the names of nodes are those of the modules.
 */
function modelled(value: object): DeviceModel {
  const dialect = dialectById('data')
  if (!dialect) throw new Error('the dialect of data is missing')
  const { model, unread } = modelOf(EffectiveConfig.of(dialect.read(JSON.stringify(value, null, 2)), dialect), {
    record: 'r',
    mask: () => '',
  })
  expect(unread).to.deep.equal([])
  return model
}

describe('examples of published standards', () => {
  it('RFC 8349 appendix D: static routes of both families', () => {
    const model = modelled({
      'ietf-routing:routing': {
        'router-id': '192.0.2.1',
        'control-plane-protocols': {
          'control-plane-protocol': [
            {
              type: 'ietf-routing:static',
              name: 'st0',
              description: 'Static routing is used for the internal network.',
              'static-routes': {
                'ietf-ipv4-unicast-routing:ipv4': {
                  route: [{ 'destination-prefix': '0.0.0.0/0', 'next-hop': { 'next-hop-address': '192.0.2.2' } }],
                },
                'ietf-ipv6-unicast-routing:ipv6': {
                  route: [{ 'destination-prefix': '::/0', 'next-hop': { 'next-hop-address': '2001:db8:0:1::2' } }],
                },
              },
            },
          ],
        },
      },
    })
    expect(model.staticRoutes.map(({ prefix, nextHop }) => [prefix, nextHop])).to.deep.equal([
      ['0.0.0.0/0', '192.0.2.2'],
      ['::/0', '2001:db8:0:1::2'],
    ])
  })

  it('RFC 8343 appendix D and RFC 8344: interfaces with addresses of both families', () => {
    const model = modelled({
      'ietf-interfaces:interfaces': {
        interface: [
          {
            name: 'eth0',
            type: 'iana-if-type:ethernetCsmacd',
            description: 'Uplink to ISP.',
            'ietf-ip:ipv4': { address: [{ ip: '192.0.2.1', 'prefix-length': 24 }] },
            'ietf-ip:ipv6': { mtu: 1280, address: [{ ip: '2001:0db8:0:1::1', 'prefix-length': 64 }] },
          },
          { name: 'eth1', type: 'iana-if-type:ethernetCsmacd', enabled: false },
          { name: 'lo1', type: 'iana-if-type:softwareLoopback', enabled: true },
        ],
      },
    })
    expect(
      model.interfaces.map(({ name, kind, enabled, description }) => [name, kind, enabled, description]),
    ).to.deep.equal([
      ['eth0', 'ethernet', true, 'Uplink to ISP.'],
      ['eth1', 'ethernet', false, null],
      ['lo1', 'loopback', true, null],
    ])
    for (const { address, prefixLength } of model.interfaces[0]?.addresses ?? [])
      expect(ipaddr.isValidCIDR(`${address}/${prefixLength}`)).to.equal(true)
    expect(model.interfaces[0]?.addresses.map(({ family, prefixLength }) => [family, prefixLength])).to.deep.equal([
      ['ipv4', 24],
      ['ipv6', 64],
    ])
  })

  it('RFC 8519 §4.3: TCP from one network to another is dropped', () => {
    const model = modelled({
      'ietf-access-control-list:acls': {
        acl: [
          {
            name: 'sample-ipv4-acl',
            type: 'ipv4-acl-type',
            aces: {
              ace: [
                {
                  name: 'rule1',
                  matches: {
                    ipv4: {
                      protocol: 6,
                      'destination-ipv4-network': '198.51.100.0/24',
                      'source-ipv4-network': '192.0.2.0/24',
                    },
                  },
                  actions: { forwarding: 'drop' },
                },
              ],
            },
          },
        ],
      },
    })
    const [list] = model.accessLists
    expect([list?.name, list?.family]).to.deep.equal(['sample-ipv4-acl', 'ipv4'])
    expect(
      list?.entries.map(({ action, protocols, sources, destinations, notWeighed }) => ({
        action,
        protocols,
        sources,
        destinations,
        notWeighed,
      })),
    ).to.deep.equal([
      {
        action: 'deny',
        protocols: [[6, 6]],
        sources: ['192.0.2.0/24'],
        destinations: ['198.51.100.0/24'],
        notWeighed: [],
      },
    ])
  })

  it('RFC 8519 §4.4: ranges of ports, one port, and ports from one upwards', () => {
    const ace = (name: string, port: object): object => ({
      name,
      matches: { ipv4: { protocol: 6 }, tcp: { 'source-port': port } },
      actions: { forwarding: 'accept' },
    })
    const model = modelled({
      'ietf-access-control-list:acls': {
        acl: [
          {
            name: 'sample-port-acl',
            type: 'ipv4-acl-type',
            aces: {
              ace: [
                ace('range', { 'lower-port': 16384, 'upper-port': 65535 }),
                ace('one', { operator: 'eq', port: 21 }),
                ace('upwards', { operator: 'gte', port: 16384 }),
                ace('downwards', { operator: 'lte', port: 1023 }),
              ],
            },
          },
        ],
      },
    })
    expect(
      model.accessLists[0]?.entries.map(({ text, sourcePorts, notWeighed }) => [text, sourcePorts, notWeighed]),
    ).to.deep.equal([
      ['range', [[16384, 65535]], []],
      ['one', [[21, 21]], []],
      ['upwards', [[16384, 65535]], []],
      ['downwards', [[0, 1023]], []],
    ])
  })
})

import { expect } from 'chai'
import { Walker, answerTo, traceOf, type Network, type Packet } from '../../src/index.ts'
import { expectationSchema, pictureOfPaths, type TracePath } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

/** Two sites that protect what they send each other by maps on their ports to the provider. */
const site = (
  own: number,
  far: number,
  change: (text: string) => string = (same) => same,
): ReturnType<typeof deviceOf> =>
  deviceOf(
    `site${own}`,
    'indented',
    change(`hostname site${own}
interface Lan
 ip address 10.${own}.0.1 255.255.255.0
interface Wan
 ip address 192.0.2.${own} 255.255.255.0
 crypto map OUT
ip route 0.0.0.0 0.0.0.0 192.0.2.254
crypto ipsec transform-set STRONG esp-aes-256 esp-sha256-hmac
crypto map OUT 10 ipsec-isakmp
 set peer 192.0.2.${far}
 set transform-set STRONG
 match address SELECT
ip access-list extended SELECT
 permit ip 10.${own}.0.0 0.0.0.255 10.${far}.0.0 0.0.0.255
`),
  )
const provider = (list = ' permit ip any any\n'): ReturnType<typeof deviceOf> =>
  deviceOf(
    'isp',
    'indented',
    `interface Wan
 ip address 192.0.2.254 255.255.255.0
 ip access-group CARRY in
ip route 10.1.0.0 255.255.255.0 192.0.2.1
ip route 10.2.0.0 255.255.255.0 192.0.2.2
ip access-list extended CARRY
${list}`,
  )
const network = (change?: (text: string) => string, list?: string): Network =>
  networkOf(site(1, 2), site(2, 1, change), provider(list))
const path = (of: Network, at: string, packet: Packet): TracePath | undefined => {
  const [device = '', port = ''] = at.split(' ')
  const number = of.indexOf(device)
  return traceOf(
    new Walker(of),
    number,
    of.devices[number]?.interfaces.findIndex(({ name }) => name === port) ?? -1,
    packet,
  ).paths[0]
}
const PACKET = udp('10.1.0.9', '10.2.0.9', 53)

describe('maps that protect packets (RFC 4301)', () => {
  it('what the selector chooses goes protected to the peer, and comes out there', () => {
    const found = path(network(), 'site1 Lan', PACKET)
    expect(found).to.include({ fate: 'arrives', device: 'site2' })
    expect(found?.hops.map(({ device, in: inside, out }) => [device, inside, out])).to.deep.equal([
      ['site1', 'Lan', 'Wan'],
      ['site2', 'Wan', 'Lan'],
    ])
    expect(found?.protection).to.deep.equal(['site1 to site2: IPsec by the map OUT 10, as its lines state it'])
    expect(pictureOfPaths(found ? [found] : []).links[0]?.layers).to.deep.equal([
      'IPsec by the map OUT 10, as its lines state it',
    ])
  })

  it('what it does not choose goes in the clear', () => {
    expect(
      path(network(), 'site1 Lan', udp('10.1.0.9', '198.51.100.9', 53))?.hops.map(({ device }) => device),
    ).to.deep.equal(['site1', 'isp'])
    expect(path(network(), 'site1 Lan', udp('10.1.0.9', '198.51.100.9', 53))?.protection).to.deep.equal([])
  })

  it('RFC 4301 §5.2: what must come protected and comes in the clear is dropped', () => {
    const bare = networkOf(
      deviceOf(
        'plain',
        'indented',
        'interface Lan\n ip address 10.1.0.1 255.255.255.0\ninterface Wan\n ip address 192.0.2.1 255.255.255.0\nip route 10.2.0.0 255.255.255.0 192.0.2.2\n',
      ),
      site(2, 1),
    )
    expect(path(bare, 'plain Lan', PACKET)).to.deep.include({
      fate: 'stopped',
      device: 'site2',
      reason: { code: 'not-protected', words: 'it is not protected as the map OUT 10 requires' },
    })
    expect(path(bare, 'plain Lan', udp('10.1.7.9', '10.2.0.9', 53))).to.include({ fate: 'arrives' })
  })

  it('what came protected and comes back in the clear has not come by as it came before: of one packet as of all', () => {
    const back = networkOf(
      site(1, 2),
      site(2, 1, (text) => text.replace('interface Lan\n ip address 10.2.0.1 255.255.255.0\n', '')),
      provider(),
    )
    const found = path(back, 'site1 Lan', PACKET)
    expect(found?.hops.map(({ device }) => device)).to.deep.equal(['site1', 'site2', 'isp', 'site2'])
    expect(found).to.deep.include({
      fate: 'stopped',
      reason: { code: 'not-protected', words: 'it is not protected as the map OUT 10 requires' },
    })
    expect(
      new Walker(back).walk([{ device: 0, port: 0, set: back.headers.packet(PACKET) }]).endings.map(({ fate }) => fate),
    ).to.deep.equal(['stopped'])
  })

  it('the outer packet must itself arrive', () => {
    const direct = networkOf(
      site(1, 2),
      site(2, 1, (text) =>
        text
          .replace(' crypto map OUT\n', ' crypto map OUT\n ip access-group NO-ESP in\n')
          .concat('ip access-list extended NO-ESP\n deny esp any any\n permit ip any any\n'),
      ),
      provider(),
    )
    expect(path(direct, 'site1 Lan', PACKET)).to.deep.include({
      fate: 'stopped',
      reason: { code: 'filter', words: 'the outer packet at site2: filter in: NO-ESP' },
    })
  })

  it('a peer without a map back, and a selector that nothing defines', () => {
    expect(
      path(
        network((text) => text.replace(' set peer 192.0.2.1\n', ' set peer 192.0.2.77\n')),
        'site1 Lan',
        PACKET,
      )?.reason.words,
    ).to.equal('site2 has no map back to 192.0.2.1')
    expect(
      path(
        networkOf(
          site(1, 2, (text) => text.replace('match address SELECT', 'match address GONE')),
          site(2, 1),
        ),
        'site1 Lan',
        PACKET,
      ),
    ).to.deep.include({
      fate: 'undecided',
      reason: { code: 'missing', words: 'the map OUT 10 does not say what it protects' },
    })
  })

  it('an expectation of protection is answered by it, with its algorithms', () => {
    const answer = (more: object): string =>
      answerTo(
        new Walker(network()),
        expectationSchema.parse({
          id: 'x',
          title: 'X',
          from: '10.1.0.0/24',
          to: '10.2.0.0/24',
          must: { protected: { by: ['ipsec'], ...more } },
        }),
      ).outcome
    expect(answer({})).to.equal('met')
    expect(answer({ algorithms: ['aes-256'] })).to.equal('met')
    expect(answer({ algorithms: ['3des'] })).to.equal('violated')
  })

  it('of all packets the sets are as of one', () => {
    const of = network()
    const { headers } = of
    const set = headers.all(headers.packet(PACKET))
    const { endings, crossings } = new Walker(of).walk([{ device: of.indexOf('site1'), port: 0, set }])
    expect(endings.map(({ fate, device }) => [fate, of.devices[device]?.name])).to.deep.equal([['arrives', 'site2']])
    expect(crossings.map(({ by }) => by)).to.deep.equal([0])
  })
})

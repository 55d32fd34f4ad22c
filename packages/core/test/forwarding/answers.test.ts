import { expect } from 'chai'
import { Network, Walker, answerTo } from '../../src/index.ts'
import {
  expectationSchema,
  forwardingOf,
  networkFindings,
  type ExpectationAnswer,
  type NetworkDevice,
} from '../../src/forwarding/index.ts'
import { deviceOf } from './networks.ts'

/**
 * A stub behind a router that translates, a provider, and servers behind it; addresses as in RFC 3022 (from memory).
 */
const NAT = `hostname nat
interface Stub
 ip address 10.33.96.1 255.255.255.0
 ip nat inside
interface Wan
 ip address 138.76.28.4 255.255.255.0
 ip nat outside
ip route 0.0.0.0 0.0.0.0 138.76.28.1
ip access-list standard STUB
 permit 10.33.96.0 0.0.0.255
`
const ISP = `hostname isp
interface Wan
 ip address 138.76.28.1 255.255.255.0
interface Servers
 ip address 138.76.29.1 255.255.255.0
ip route 198.76.29.0 255.255.255.0 138.76.28.4
`
const MANY = 'ip nat inside source list STUB interface Wan overload\n'
const asked = (devices: readonly NetworkDevice[], stated: object): ExpectationAnswer =>
  answerTo(
    new Walker(Network.of(devices.map(forwardingOf))),
    expectationSchema.parse({ id: 'x', title: 'X', must: 'be-answered', ...stated }),
  )
const indented = (...texts: readonly string[]): NetworkDevice[] =>
  texts.map((text) => deviceOf(/hostname (\S+)/.exec(text)?.[1] ?? '', 'indented', text))
const OUT = { from: '10.33.96.0/24', to: '138.76.29.0/24', only: 'tcp dst port 443' }
const IN = { from: '138.76.29.0/24', to: '198.76.29.7', only: 'tcp dst port 80' }

describe('answers to what was translated', () => {
  it('RFC 3022 §2.2: they come back to the hosts behind one address', () => {
    expect(asked(indented(`${NAT}${MANY}`, ISP), OUT)).to.include({
      outcome: 'met',
      words: 'all packets arrive, and all replies return',
    })
  })

  it('RFC 3022 §2.1: and from a host that is known by another address, with that address', () => {
    expect(asked(indented(`${NAT}ip nat inside source static 10.33.96.5 198.76.29.7\n`, ISP), IN)).to.include({
      outcome: 'met',
    })
    expect(
      asked(indented(`${NAT}ip nat inside source static tcp 10.33.96.5 8080 198.76.29.7 80\n`, ISP), IN),
    ).to.include({ outcome: 'met' })
  })

  it('the device undoes it before its lookup and after the filter by which they come in', () => {
    const filtered = (line: string): ExpectationAnswer =>
      asked(
        indented(
          `${NAT.replace('ip nat outside', 'ip nat outside\n ip access-group BACK in')}${MANY}ip access-list extended BACK\n ${line}\n`,
          ISP,
        ),
        OUT,
      )
    // In answers that come in the address outside stands as their destination.
    expect(filtered('permit tcp any host 138.76.28.4 established')).to.include({ outcome: 'met' })
    const lost = filtered('permit tcp any 10.33.96.0 0.0.0.255 established')
    expect(lost).to.include({
      outcome: 'violated',
      words: 'all packets arrive, but some replies do not return: stopped at nat: filter in: BACK',
    })
    expect(lost.example?.packet).to.include({ destination: '138.76.28.4' })
    // What is told of are the packets that were sent.
    expect(lost.packets?.readable.classes.join()).to.include('10.33.96.0/24')
  })

  it('and where they go on inside, its filters see the addresses of the hosts', () => {
    const inside = (line: string): ExpectationAnswer =>
      asked(
        indented(
          `${NAT.replace('ip nat inside', 'ip nat inside\n ip access-group HOME out')}${MANY}ip access-list extended HOME\n ${line}\n`,
          ISP,
        ),
        OUT,
      )
    expect(inside('permit tcp any 10.33.96.0 0.0.0.255')).to.include({ outcome: 'met' })
    expect(inside('permit tcp any host 138.76.28.4')).to.include({ outcome: 'violated' })
    const some = inside('permit tcp any 10.33.96.0 0.0.0.127')
    expect(some).to.include({ outcome: 'violated' })
    expect(some.packets?.readable.classes.join()).to.include('10.33.96.128/25')
    expect(some.packets?.readable.classes.join()).not.to.include('10.33.96.0/')
    expect(
      some.example?.trace.paths[0]?.hops.at(-1)?.decisions.map(({ stage, result }) => `${stage}: ${result}`),
    ).to.include('destination translation: undone: list STUB interface Wan overload')
  })

  it('answers that come back round the device have addresses that the sender does not know', () => {
    // The server is published by an address of its own; its answers go out by another router, which does not translate.
    const inner = `hostname inner
interface Hosts
 ip address 10.33.96.1 255.255.255.0
interface ToNat
 ip address 10.9.0.2 255.255.255.252
interface ToOther
 ip address 10.9.0.6 255.255.255.252
ip route 0.0.0.0 0.0.0.0 10.9.0.5
`
    const other = `hostname other
interface ToInner
 ip address 10.9.0.5 255.255.255.252
interface Servers
 ip address 138.76.29.2 255.255.255.0
ip route 198.76.29.0 255.255.255.0 138.76.29.1
`
    const nat = `${NAT.replace('10.33.96.1 255.255.255.0', '10.9.0.1 255.255.255.252')}ip route 10.33.96.0 255.255.255.0 10.9.0.2\nip nat inside source static 10.33.96.5 198.76.29.7\n`
    const found = asked(indented(nat, ISP, inner, other), IN)
    expect(found.outcome).to.equal('violated')
    expect(found.words).to.match(
      /some replies do not return: stopped at (?:isp|other): nothing on the path reverses the translation of its forward packet/,
    )
  })

  it('a device of another dialect remembers by itself: both translated, undone in turn', () => {
    const linux = deviceOf(
      'gw',
      'linux',
      '*nat\n:PREROUTING ACCEPT [0:0]\n:POSTROUTING ACCEPT [0:0]\n-A PREROUTING -d 198.76.29.7/32 -p tcp -m tcp --dport 80 -j DNAT --to-destination 10.33.96.5:8080\n-A POSTROUTING -o stub -j MASQUERADE\nCOMMIT\n*filter\n:INPUT ACCEPT [0:0]\n:FORWARD DROP [0:0]\n:OUTPUT ACCEPT [0:0]\n-A FORWARD -m conntrack --ctstate RELATED,ESTABLISHED -j ACCEPT\n-A FORWARD -d 10.33.96.5/32 -p tcp -m tcp --dport 8080 -j ACCEPT\nCOMMIT\n',
      {
        'state/interfaces': JSON.stringify([
          {
            ifname: 'stub',
            flags: ['UP', 'LOWER_UP'],
            operstate: 'UP',
            addr_info: [{ family: 'inet', local: '10.33.96.1', prefixlen: 24 }],
          },
          {
            ifname: 'wan',
            flags: ['UP', 'LOWER_UP'],
            operstate: 'UP',
            addr_info: [{ family: 'inet', local: '138.76.28.4', prefixlen: 24 }],
          },
        ]),
        'state/routes': JSON.stringify([
          { dst: 'default', gateway: '138.76.28.1', dev: 'wan', protocol: 'static' },
          { dst: '10.33.96.0/24', dev: 'stub', protocol: 'kernel', scope: 'link' },
          { dst: '138.76.28.0/24', dev: 'wan', protocol: 'kernel', scope: 'link' },
        ]),
      },
    )
    const found = asked([linux, ...indented(ISP)], IN)
    expect(found, JSON.stringify(found.missing)).to.include({ outcome: 'met' })
  })

  it('in findings of the network a device that remembers and is passed by is told of the packets as they were sent', () => {
    const kinds = networkFindings(new Walker(Network.of(indented(`${NAT}${MANY}`, ISP).map(forwardingOf)))).map(
      ({ kind }) => kind,
    )
    expect(kinds).not.to.include('uneven')
  })
})

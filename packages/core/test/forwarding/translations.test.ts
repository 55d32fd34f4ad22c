import { expect } from 'chai'
import { Walker, exampleOf, natOfLine, placeOf, reach, readFilterText, readableOf, traceOf, type Network, type Packet, type TracePath } from '../../src/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

const tcp = (source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet => udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'], ...more })

/** A stub with a translating router, and a server of the provider. */
const network = (rules: string, more = ''): Network => networkOf(
  deviceOf('nat', 'indented', `interface Stub
 ip address 10.33.96.1 255.255.255.0
 ip nat inside
interface Wan
 ip address 138.76.28.4 255.255.255.0
 ip nat outside
interface Side
 ip address 10.50.0.1 255.255.255.0
ip route 0.0.0.0 0.0.0.0 138.76.28.1
${rules}ip access-list standard STUB
 permit 10.33.96.0 0.0.0.255
${more}`),
  deviceOf('isp', 'indented', `interface Wan
 ip address 138.76.28.1 255.255.255.0
 ip access-group FROM-STUB in
interface Servers
 ip address 138.76.29.1 255.255.255.0
ip route 198.76.29.0 255.255.255.0 138.76.28.4
ip access-list extended FROM-STUB
 permit ip host 138.76.28.4 any
 permit ip 198.76.29.0 0.0.0.255 any
`),
)
const path = (of: Network, at: string, packet: Packet): TracePath | undefined => {
  const [device = '', port = ''] = at.split(' ')
  const number = of.indexOf(device)
  return traceOf(new Walker(of), number, of.devices[number]?.ports.findIndex(({ name }) => name === port) ?? -1, packet).paths[0]
}

describe('translation between inside and outside', () => {
  it('RFC 3022 §2.1: a host is known outside by an address of its own, both ways (addresses of its figure 1, from memory)', () => {
    const basic = network('ip nat inside source static 10.33.96.5 198.76.29.7\n')
    expect(path(basic, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80))).to.include({ fate: 'arrives', device: 'isp' })
    const back = path(basic, 'isp Servers', tcp('138.76.29.80', '198.76.29.7', 80))
    expect(back).to.include({ fate: 'arrives', device: 'nat' })
    expect(back?.hops[1]?.decisions.map(({ stage, result }) => [stage, result])).to.deep.include(['destination translation', 'static 10.33.96.5 198.76.29.7'])
    // Another host has no such address: it goes out as it is, and the provider does not know it.
    expect(path(basic, 'nat Stub', tcp('10.33.96.6', '138.76.29.80', 80))).to.include({ fate: 'stopped', device: 'isp' })
  })

  it('RFC 3022 §2.2: many hosts behind the address of the port to the provider; nobody from outside begins a connection with them', () => {
    const many = network('ip nat inside source list STUB interface Wan overload\n')
    const out = path(many, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 23))
    expect(out).to.include({ fate: 'arrives', device: 'isp' })
    expect(out?.hops[0]?.decisions.find(({ stage }) => stage === 'source translation')?.exhibits.map(({ from }) => from)).to.deep.equal([10])
    expect(path(many, 'isp Servers', tcp('138.76.29.80', '138.76.28.4', 80))?.reason.words).to.equal('it is an address of nat itself')
    // What does not come from inside is not translated.
    expect(path(many, 'nat Side', tcp('10.50.0.9', '138.76.29.80', 80))).to.include({ fate: 'stopped', device: 'isp' })
  })

  it('of every packet it is told as it was sent', () => {
    const many = network('ip nat inside source list STUB interface Wan overload\n')
    const { parts } = reach(new Walker(many), placeOf(many, '10.33.96.0/24'), placeOf(many, '138.76.29.0/24'), readFilterText(many.addressed, 'tcp dst port 80'))
    const arrives = many.addressed.any(parts.filter(({ fate }) => fate === 'arrives'), ({ set }) => set)
    expect(exampleOf(many.addressed, arrives)?.source).to.match(/^10\.33\.96\./)
    expect(readableOf(many.addressed, arrives).classes.join()).to.contain('src net 10.33.96.0/24')
    expect(parts.filter(({ fate }) => fate === 'undecided')).to.deep.equal([])
  })

  it('one port of a host, by an address or by that of a port; the rest of the address is not its', () => {
    for (const rule of ['ip nat inside source static tcp 10.33.96.5 8443 198.76.29.7 443 extendable\n', 'ip nat inside source static tcp 10.33.96.5 8443 interface Wan 443\n']) {
      const one = network(rule)
      const address = rule.includes('interface') ? '138.76.28.4' : '198.76.29.7'
      const inside = path(one, 'isp Servers', tcp('138.76.29.80', address, 443))
      expect(inside).to.include({ fate: 'arrives', device: 'nat' })
      expect(inside?.reason.words).to.equal('a host in the subnet of Stub')
      expect(path(one, 'isp Servers', tcp('138.76.29.80', address, 80))?.reason.words).to.not.equal('a host in the subnet of Stub')
      expect(path(one, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80, { sourcePort: 8443 }))).to.include({ fate: 'arrives' })
    }
  })

  it('a pool, and what is stated address by address goes before it', () => {
    const pool = network('ip nat pool OUT 198.76.29.64 198.76.29.95 netmask 255.255.255.0\nip nat inside source list STUB pool OUT\nip nat inside source static 10.33.96.5 198.76.29.7\n')
    expect(path(pool, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))).to.include({ fate: 'arrives' })
    expect(path(pool, 'nat Stub', tcp('10.33.96.5', '138.76.29.80', 80))?.hops[0]?.decisions.find(({ stage }) => stage === 'source translation')?.result).to.equal('static 10.33.96.5 198.76.29.7')
  })

  it('what is not followed decides nothing, as far as it may reach and no further', () => {
    const vague = network('ip nat inside source list STUB interface Wan overload\nip nat inside source route-map OTHER interface Wan overload\n')
    expect(path(vague, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))).to.deep.include({ fate: 'undecided', reason: { code: 'not-weighed', words: '“route-map OTHER interface Wan overload” is not followed' } })
    expect(path(vague, 'nat Stub', tcp('10.33.96.10', '10.50.0.9', 80))).to.include({ fate: 'arrives', device: 'nat' })
    expect(path(network('ip nat inside source list STUB pool NONE\n'), 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))).to.include({ fate: 'undecided' })
    const twice = network('ip nat inside source list STUB interface Wan overload\nip nat inside source list MORE pool OUT\n', 'ip access-list standard MORE\n permit any\n')
    expect(path(twice, 'nat Stub', tcp('10.33.96.10', '138.76.29.80', 80))?.reason.words).to.equal('several lists of translation choose it')
  })
})

describe('a line of translation', () => {
  for (const [line, wanted] of [
    ['list L interface Wan overload', { list: 'L', address: 'interface', interface: 'Wan', ports: '0-65535', changes: 'source' }],
    ['list L pool P', { list: 'L', pool: 'P', changes: 'source' }],
    ['static 10.0.0.5 192.0.2.5 extendable', { address: '192.0.2.5', changes: 'source' }],
    ['static tcp 10.0.0.5 www interface Wan 8080', { address: 'interface', interface: 'Wan', ports: '8080', changes: 'source' }],
    ['static network 10.0.0.0 192.0.2.0 /24', {}],
    ['static tcp 10.0.0.5 nonsense 192.0.2.5 80', {}],
    ['list L interface Wan vrf BLUE overload', {}],
    ['static', {}],
  ] as const) {
    it(line, () => {
      const { kind, statement, match, ...rest } = natOfLine('inside', line)
      expect([kind, statement]).to.deep.equal(['source inside', line])
      expect(rest).to.deep.equal(wanted)
      if (line.startsWith('static tcp 10.0.0.5 www')) expect(match).to.deep.include({ sources: ['10.0.0.5/32'], protocols: [[6, 6]], sourcePorts: [[80, 80]] })
    })
  }
})

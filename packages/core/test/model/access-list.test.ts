import { expect } from 'chai'
import { EffectiveConfig, dialectById, type Dialect } from '../../src/index.ts'
import { accessListsOf } from '../../src/dialects/index.ts'
import type { AccessEntry, AccessLists } from '../../src/dialects/indented/model/access-list.ts'

const indented = dialectById('indented') as Dialect
const held = (text: string): EffectiveConfig => EffectiveConfig.of(indented.read(text), indented)
const model = (text: string): { readonly accessLists: AccessLists } => ({
  accessLists: accessListsOf(held(text).scope),
})
const entryOf = (line: string): AccessEntry => {
  const entry = [...model(`ip access-list extended X\n ${line}`).accessLists.values()][0]?.entries[0]
  if (!entry) throw new Error(`no entry in "${line}"`)
  return entry
}
const ip = (text: string): number[] => [text.split('.').reduce((sum, part) => sum * 256 + Number(part), 0)]
const ONES = [0xffffffff]

describe('access lists as data', () => {
  const cases: { line: string; match: object; notWeighed?: string[] }[] = [
    { line: 'permit ip any any', match: {} },
    {
      line: 'permit tcp any host 10.0.0.1 eq 22',
      match: {
        protocols: [[6, 6]],
        destinations: [{ value: ip('10.0.0.1'), care: ONES }],
        destinationPorts: [[22, 22]],
      },
    },
    {
      line: 'permit udp 10.0.0.0 0.0.255.255 eq domain any',
      match: {
        protocols: [[17, 17]],
        sources: [{ value: ip('10.0.0.0'), care: [0xffff0000] }],
        sourcePorts: [[53, 53]],
      },
    },
    {
      line: 'deny tcp 10.1.2.3/16 range 10 20 any gt 1023',
      match: {
        protocols: [[6, 6]],
        sources: [{ value: ip('10.1.0.0'), care: [0xffff0000] }],
        sourcePorts: [[10, 20]],
        destinationPorts: [[1024, 65535]],
      },
    },
    {
      line: 'permit tcp any any eq www 443 ssh',
      match: {
        protocols: [[6, 6]],
        destinationPorts: [
          [80, 80],
          [443, 443],
          [22, 22],
        ],
      },
    },
    {
      line: 'permit tcp any any neq 22',
      match: {
        protocols: [[6, 6]],
        destinationPorts: [
          [0, 21],
          [23, 65535],
        ],
      },
    },
    { line: 'permit tcp any any established log', match: { protocols: [[6, 6]], established: true } },
    { line: 'permit icmp any any echo-reply', match: { protocols: [[1, 1]], icmpTypes: [[0, 0]] } },
    { line: 'permit 50 any any', match: { protocols: [[50, 50]] } },
    { line: 'deny ip any any fragments', match: { fragments: true } },
    { line: '10 permit ip any any log-input', match: {} },
    { line: 'permit ip 10.0.0.0 0.255.0.255 any', match: { sources: [{ value: ip('10.0.0.0'), care: [0xff00ff00] }] } },
    {
      line: 'permit tcp any any time-range NIGHT',
      match: { protocols: [[6, 6]] },
      notWeighed: ['time-range', 'night'],
    },
    { line: 'permit ip object-group NOWHERE any', match: {}, notWeighed: ['object-group NOWHERE'] },
    {
      line: 'permit ip 10.0.0.999 0.0.0.255 any',
      match: { destinations: [{ value: ip('0.0.0.255'), care: ONES }] },
      notWeighed: ['10.0.0.999', 'any'],
    },
  ]
  for (const { line, match, notWeighed } of cases) {
    it(line, () => {
      const entry = entryOf(line)
      expect(entry.match).to.deep.equal(match)
      expect(entry.notWeighed).to.deep.equal(notWeighed ?? [])
    })
  }

  it('gathers numbered, named, standard and IPv6 lists under their names', () => {
    const lists = model(
      'access-list 10 permit 10.0.0.1\naccess-list 10 remark x\nip access-list standard S\n permit host 10.0.0.2\nipv6 access-list V\n permit ipv6 2001:db8::/32 any\naccess-list 110 permit tcp any any eq 80\nip access-list extended EMPTY\n',
    ).accessLists
    expect([...lists.keys()]).to.have.members(['ipv4 10', 'ipv4 S', 'ipv6 V', 'ipv4 110', 'ipv4 EMPTY'])
    expect(lists.get('ipv4 10')?.entries[0]?.match).to.deep.equal({ sources: [{ value: ip('10.0.0.1'), care: ONES }] })
    expect(lists.get('ipv6 V')?.entries[0]?.match.sources?.[0]?.care).to.deep.equal([0xffffffff, 0, 0, 0])
    expect(lists.get('ipv4 EMPTY')?.entries).to.deep.equal([])
  })

  it('takes named lists with the number of an entry in its line, as Debian’s frr lists them', () => {
    const { accessLists } = model(
      'access-list MGMT seq 5 permit 10.40.1.0/27\naccess-list MGMT seq 10 deny any\naccess-list EXT seq 5 permit ip 10.0.0.0 0.255.255.255 any\nipv6 access-list V seq 5 permit 2001:db8::/32\n',
    )
    expect(accessLists.get('ipv4 MGMT')?.entries.map(({ action, match }) => [action, match])).to.deep.equal([
      ['permit', { sources: [{ value: ip('10.40.1.0'), care: [0xffffffe0] }] }],
      ['deny', {}],
    ])
    expect(accessLists.get('ipv4 EXT')?.entries[0]?.match.sources).to.deep.equal([
      { value: ip('10.0.0.0'), care: [0xff000000] },
    ])
    expect(accessLists.get('ipv6 V')?.entries[0]?.match.sources?.[0]?.care).to.deep.equal([0xffffffff, 0, 0, 0])
  })

  it('expands groups of groups, and not groups of themselves', () => {
    const text = (loop: string): string =>
      `object-group network A\n host 10.0.0.1\n group-object B\nobject-group network B\n 10.1.0.0 255.255.0.0\n${loop}ip access-list extended X\n permit ip object-group A any\n`
    expect(model(text('')).accessLists.get('ipv4 X')?.entries[0]?.match.sources).to.have.length(2)
    expect(model(text(' group-object A\n')).accessLists.get('ipv4 X')?.entries[0]?.notWeighed).to.deep.equal([
      'object-group A',
    ])
  })
})

describe('interfaces', () => {
  it('name, description, addresses with their lengths, state', () => {
    expect(
      held(
        'interface Vlan1\n description x y\n ip address 10.0.0.1 255.255.255.0\n ipv6 address 2001:db8::1/64\n shutdown\n',
      ).interfaces,
    ).to.deep.equal([
      { name: 'Vlan1', description: 'x y', enabled: false, addresses: ['10.0.0.1/24', '2001:db8::1/64'], line: 1 },
    ])
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { dialectById, diffScopes, type Dialect } from '../../src/index.ts'
import type { Difference } from '../../src/compare/index.ts'
import { effectiveTree } from '../../src/syntax/index.ts'

const indented = dialectById('indented') as Dialect
const diff = (a: string, b: string): Difference[] =>
  diffScopes(effectiveTree([indented.read(a)], indented), effectiveTree([indented.read(b)], indented), indented)
const said = (a: string, b: string): string[] => diff(a, b).map(({ side, path }) => `${side}: ${path.join(' › ')}`)

const CASES: readonly { name: string; a: string; b: string; is: readonly string[] }[] = [
  { name: 'nothing', a: 'hostname a\nip http server', b: 'hostname a\nip http server', is: [] },
  { name: 'a line on one side', a: 'hostname a\nip http server', b: 'hostname a', is: ['a: ip http server'] },
  {
    name: 'the other form',
    a: 'ip http server',
    b: 'no ip http server',
    is: ['a: ip http server', 'b: no ip http server'],
  },
  {
    name: 'a line in a block',
    a: 'interface Vlan1\n shutdown\n mtu 9000',
    b: 'interface Vlan1\n shutdown',
    is: ['a: interface Vlan1 › mtu 9000'],
  },
  {
    name: 'a whole block',
    a: 'hostname a',
    b: 'hostname a\ninterface Vlan1\n shutdown',
    is: ['b: interface Vlan1', 'b: interface Vlan1 › shutdown'],
  },
  {
    name: 'deep in a block',
    a: 'router bgp 1\n address-family ipv4\n  network 10.0.0.0',
    b: 'router bgp 1\n address-family ipv4\n  network 10.1.0.0',
    is: [
      'a: router bgp 1 › address-family ipv4 › network 10.0.0.0',
      'b: router bgp 1 › address-family ipv4 › network 10.1.0.0',
    ],
  },
  {
    name: 'order that means nothing',
    a: 'ntp server 10.0.0.1\nntp server 10.0.0.2',
    b: 'ntp server 10.0.0.2\nntp server 10.0.0.1',
    is: [],
  },
  { name: 'how it came about', a: 'ip http server\nno ip http server', b: 'no ip http server', is: [] },
  { name: 'comments and separators', a: '! one\nhostname a\n!\n', b: '! two\nhostname a', is: [] },
  { name: 'a counter that moves by itself', a: 'ntp clock-period 1', b: 'ntp clock-period 2', is: [] },
  {
    name: 'an entry more in an access list',
    a: 'ip access-list extended X\n permit ip host 10.0.0.1 any\n deny ip any any',
    b: 'ip access-list extended X\n permit ip host 10.0.0.1 any\n permit ip host 10.0.0.2 any\n deny ip any any',
    is: ['b: ip access-list extended X › permit ip host 10.0.0.2 any'],
  },
  {
    name: 'order in an access list',
    a: 'ip access-list extended X\n permit ip host 10.0.0.1 any\n deny ip any any',
    b: 'ip access-list extended X\n deny ip any any\n permit ip host 10.0.0.1 any',
    is: [
      'a: ip access-list extended X › permit ip host 10.0.0.1 any',
      'a: ip access-list extended X › deny ip any any',
      'b: ip access-list extended X › deny ip any any',
      'b: ip access-list extended X › permit ip host 10.0.0.1 any',
    ],
  },
  {
    name: 'order in a numbered access list',
    a: 'access-list 1 permit 10.0.0.1\naccess-list 1 deny 10.0.0.0 0.0.0.255\naccess-list 2 permit any',
    b: 'access-list 1 deny 10.0.0.0 0.0.0.255\naccess-list 2 permit any\naccess-list 1 permit 10.0.0.1',
    is: ['a', 'b'].flatMap((side) => [
      `${side}: access-list 1 permit 10.0.0.1`,
      `${side}: access-list 1 deny 10.0.0.0 0.0.0.255`,
    ]),
  },
  {
    name: 'order of entries that say their numbers',
    a: 'ip prefix-list P seq 5 permit 10.0.0.0/8\nip prefix-list P seq 10 deny 0.0.0.0/0',
    b: 'ip prefix-list P seq 10 deny 0.0.0.0/0\nip prefix-list P seq 5 permit 10.0.0.0/8',
    is: [],
  },
  {
    name: 'the words of a banner',
    a: 'banner motd ^C\nx\n^C',
    b: 'banner motd ^C\ny\n^C',
    is: ['a: banner motd ^C', 'b: banner motd ^C'],
  },
]

describe('comparing configurations', () => {
  for (const { name, a, b, is } of CASES) it(name, () => expect(said(a, b)).to.have.members(is))

  const line = fc.constantFrom(
    'hostname a',
    'hostname b',
    'ip http server',
    'no ip http server',
    'ntp server 10.0.0.1',
    'interface Vlan1',
    ' shutdown',
    ' mtu 9000',
    ' description x',
    'ip access-list extended X',
    ' permit ip any any',
    ' deny ip any any',
    'line vty 0 4',
    ' login local',
    '!',
  )
  const config = fc.array(line, { maxLength: 14 }).map((lines) => lines.join('\n'))

  it('a configuration does not differ from itself', () => {
    fc.assert(fc.property(config, (text) => diff(text, text).length === 0))
  })

  it('turning the sides round turns the difference round', () => {
    fc.assert(
      fc.property(config, config, (a, b) => {
        const there = said(a, b).map((words) => (words.startsWith('a') ? `b${words.slice(1)}` : `a${words.slice(1)}`))
        expect(said(b, a)).to.have.members(there)
      }),
    )
  })

  it('every difference points at lines of its side', () => {
    fc.assert(
      fc.property(config, config, (a, b) => {
        for (const { side, nodes } of diff(a, b))
          for (const node of nodes)
            expect((side === 'a' ? a : b).split('\n')[node.line - 1]?.trim()).to.equal(node.text)
      }),
    )
  })
})

describe('comparing the hierarchy', () => {
  const setlines = dialectById('setlines') as Dialect
  const differing = (a: readonly string[], b: readonly string[]): string[] =>
    diffScopes(
      setlines.evaluate([setlines.read(a.join('\n'))]),
      setlines.evaluate([setlines.read(b.join('\n'))]),
      setlines,
    ).map(({ side, path }) => `${side}: ${path.join(' › ')}`)
  const FILTER = 'firewall family inet filter F term'
  const POLICY = 'security policies from-zone a to-zone b policy'
  for (const series of [
    FILTER,
    POLICY,
    'policy-options policy-statement P term',
    'security nat source rule-set R rule',
  ]) {
    const [first, second, other] = [
      `${series} one then accept`,
      `${series} two then discard`,
      `${series} one from protocol tcp`,
    ]
    it(`order of “${series}”`, () => {
      expect(differing([`set ${first}`, `set ${second}`], [`set ${second}`, `set ${first}`])).to.have.members([
        `a: ${first}`,
        `a: ${second}`,
        `b: ${first}`,
        `b: ${second}`,
      ])
      // Within one member, and of what is no series, order means nothing.
      expect(
        differing([`set ${first}`, `set ${other}`, `set ${second}`], [`set ${other}`, `set ${first}`, `set ${second}`]),
      ).to.deep.equal([])
    })
  }
  it('order that means nothing', () => {
    expect(
      differing(
        ['set system host-name a', 'set system services ssh'],
        ['set system services ssh', 'set system host-name a'],
      ),
    ).to.deep.equal([])
    expect(
      differing(
        ['set system authentication-order radius', 'set system authentication-order password'],
        ['set system authentication-order password', 'set system authentication-order radius'],
      ),
    ).to.have.length(4)
  })
})

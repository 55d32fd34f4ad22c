import { expect } from 'chai'
import { diffArrays } from 'diff'
import fc from 'fast-check'
import { dialectById, diffScopes, type Dialect } from '../../src/index.ts'
import { statementChanges, statementText, type Difference } from '../../src/compare/index.ts'
import { effectiveTree } from '../../src/syntax/index.ts'
import { applied, indentedText, normalLines, scopeOf, setText } from './configurations.ts'

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
    // As little as possible is out of order: of two lines that changed places, one.
    is: [
      'a: ip access-list extended X › permit ip host 10.0.0.1 any',
      'b: ip access-list extended X › permit ip host 10.0.0.1 any',
    ],
  },
  {
    name: 'an access list with other numbers',
    a: 'ip access-list extended X\n 10 permit ip host 10.0.0.1 any\n 20 deny ip any any',
    b: 'ip access-list extended X\n 5 permit ip host 10.0.0.1 any\n 99 deny ip any any',
    is: [],
  },
  {
    name: 'an access list with numbers and without',
    a: 'ip access-list extended X\n permit ip host 10.0.0.1 any\n deny ip any any',
    b: 'ip access-list extended X\n 10 permit ip host 10.0.0.1 any\n 20 deny ip any any',
    is: [],
  },
  {
    name: 'a prefix list with other numbers and one entry more',
    a: 'ip prefix-list P seq 5 permit 10.0.0.0/8\nip prefix-list P seq 10 deny 0.0.0.0/0 le 32',
    b:
      'ip prefix-list P seq 10 permit 10.0.0.0/8\nip prefix-list P seq 30 deny 0.0.0.0/0 le 32\n' +
      'ip prefix-list P seq 20 permit 192.0.2.0/24',
    is: ['b: ip prefix-list P seq 20 permit 192.0.2.0/24'],
  },
  {
    name: 'a route map with other numbers and another value',
    a: 'route-map R permit 10\n match ip address X\n set metric 5\nroute-map R deny 20',
    b: 'route-map R permit 5\n match ip address X\n set metric 6\nroute-map R deny 30',
    is: ['a: route-map R permit 10 › set metric 5', 'b: route-map R permit 5 › set metric 6'],
  },
  {
    name: 'a certificate as text',
    a: 'crypto pki certificate chain C\n certificate 01\n  3082\n  quit\nhostname a',
    b: 'crypto pki certificate chain C\n certificate 02\n  3083\n  quit\nhostname a',
    is: [],
  },
  {
    name: 'order in a numbered access list',
    a: 'access-list 1 permit 10.0.0.1\naccess-list 1 deny 10.0.0.0 0.0.0.255\naccess-list 2 permit any',
    b: 'access-list 1 deny 10.0.0.0 0.0.0.255\naccess-list 2 permit any\naccess-list 1 permit 10.0.0.1',
    is: ['a: access-list 1 permit 10.0.0.1', 'b: access-list 1 permit 10.0.0.1'],
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
        `a: ${second}`,
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
    ).to.have.length(2)
  })
})

const LAWS = [
  { name: 'indented', text: indentedText },
  { name: 'setlines', text: setText },
] as const

for (const { name, text } of LAWS) {
  const dialect = dialectById(name) as Dialect
  const changes = (a: string, b: string): ReturnType<typeof statementChanges> =>
    statementChanges(scopeOf(dialect, a), scopeOf(dialect, b), dialect)

  describe(`laws of comparing (${name})`, () => {
    it('a configuration does not differ from itself', () => {
      fc.assert(fc.property(text, (one) => changes(one, one).length === 0))
    })

    it('there is a difference exactly where what holds differs', () => {
      fc.assert(
        fc.property(text, text, (a, b) => {
          const same =
            normalLines(scopeOf(dialect, a), dialect).join('\n') ===
            normalLines(scopeOf(dialect, b), dialect).join('\n')
          expect(changes(a, b).length === 0, `${a}\n---\n${b}`).to.equal(same)
        }),
        { numRuns: 400 },
      )
    })

    it('the changes carried out on A give what holds of B', () => {
      fc.assert(
        fc.property(text, text, (a, b) => {
          const [before, after] = [scopeOf(dialect, a), scopeOf(dialect, b)]
          const made = applied(before, statementChanges(before, after, dialect), dialect)
          expect(normalLines(made, dialect, 'listed'), `${a}\n---\n${b}`).to.deep.equal(normalLines(after, dialect))
        }),
        { numRuns: 400 },
      )
    })

    it('exchanging the sides exchanges the changes', () => {
      const exchanged = { removed: 'added', added: 'removed', moved: 'moved' } as const
      fc.assert(
        fc.property(text, text, (a, b) => {
          const there = changes(a, b).map((one) => `${exchanged[one.change]} ${told(one, 'a')} | ${told(one, 'b')}`)
          const back = changes(b, a).map((one) => `${one.change} ${told(one, 'b')} | ${told(one, 'a')}`)
          expect(back).to.have.members(there)
        }),
        { numRuns: 400 },
      )
    })

    // Against the package `diff`: its script over what holds of both, one line a statement, is a shortest one.
    it('no more lines are told than a shortest edit script has', () => {
      fc.assert(
        fc.property(text, text, (a, b) => {
          const [left, right] = [a, b].map((one) => normalLines(scopeOf(dialect, one), dialect, 'blocks'))
          const script = diffArrays(left ?? [], right ?? [])
            .filter((part) => part.added || part.removed)
            .reduce((sum, part) => sum + part.value.length, 0)
          const own = diffScopes(scopeOf(dialect, a), scopeOf(dialect, b), dialect).length
          expect(own, `${a}\n---\n${b}`).to.be.at.most(script)
        }),
        { numRuns: 400 },
      )
    })
  })
}

function told(change: ReturnType<typeof statementChanges>[number], side: 'a' | 'b'): string {
  const statement = change[side]
  return statement ? [...change.around[side], statementText(statement)].join(' › ') : '-'
}

import { expect } from 'chai'
import fc from 'fast-check'
import { detectDialect, dialectById, writeTree, type Dialect } from '../../src/index.ts'
import { walk } from '../../src/syntax/index.ts'

function dialect(id: string): Dialect {
  const found = dialectById(id)
  if (!found) throw new Error(`the dialect "${id}" is missing`)
  return found
}
const braced = dialect('braced')
const setlines = dialect('setlines')
const holds = (by: Dialect, text: string): string[] =>
  by.evaluate([by.read(text)]).statements.map((statement) => statement.text)
const lines = (by: Dialect, text: string): Record<string, number[]> =>
  Object.fromEntries(
    by.evaluate([by.read(text)]).statements.map(({ text: path, nodes }) => [path, nodes.map((node) => node.line)]),
  )

/** One configuration in both forms; every path with the lines that state it in the braced form. */
const BRACED = `## Last commit: 2026-11-16 04:00:00 UTC by ada
version 21.1;
system {
    host-name fw1; /* the firewall
       of the quay */
    name-server [ 10.40.0.11 10.40.0.12 ];
    login {
        message "Keep out;\\n{no entry}";
        user ada { class super-user; authentication { encrypted-password "$6$abc"; } }
    }
    services {
        ssh {
            protocol-version v2;
        }
        inactive: telnet;
    }
}
interfaces {
    ge-0/0/0 {
        description "to the carrier";
        unit 0 { family inet { address 203.0.113.2/30; } }
    }
    inactive: ge-0/0/1 {
        unit 0;
    }
}
`
const SET = `set version 21.1
set system host-name fw1
set system name-server 10.40.0.11
set system name-server 10.40.0.12
set system login message "Keep out;\\n{no entry}"
set system login user ada class super-user
set system login user ada authentication encrypted-password "$6$abc"
set system services ssh protocol-version v2
set system services telnet
deactivate system services telnet
set interfaces ge-0/0/0 description "to the carrier"
set interfaces ge-0/0/0 unit 0 family inet address 203.0.113.2/30
set interfaces ge-0/0/1 unit 0
deactivate interfaces ge-0/0/1
`
const PATHS = [
  'version 21.1',
  'system host-name fw1',
  'system name-server 10.40.0.11',
  'system name-server 10.40.0.12',
  'system login message "Keep out;\\n{no entry}"',
  'system login user ada class super-user',
  'system login user ada authentication encrypted-password $6$abc',
  'system services ssh protocol-version v2',
  'interfaces ge-0/0/0 description "to the carrier"',
  'interfaces ge-0/0/0 unit 0 family inet address 203.0.113.2/30',
]

describe('braced blocks and set lines', () => {
  it('are one configuration in two forms', () => {
    expect(holds(braced, BRACED)).to.deep.equal(PATHS)
    expect(holds(setlines, SET)).to.deep.equal(PATHS)
  })

  it('know the lines of every path, several statements on one line included', () => {
    expect(lines(braced, BRACED)).to.include.deep.keys(...PATHS)
    expect(lines(braced, BRACED)['system login user ada authentication encrypted-password $6$abc']).to.deep.equal([9])
    expect(lines(setlines, SET)['system services ssh protocol-version v2']).to.deep.equal([8])
  })

  it('are told apart, and from the indented dialect, by what they say', () => {
    const cases: [string, string][] = [
      [BRACED, 'braced'],
      [SET, 'setlines'],
      ['hostname a\ninterface Vlan1\n ip address 10.0.0.1 255.0.0.0\n', 'indented'],
      ['ada@fw1> show configuration\nsystem {\n  host-name a;\n}\n', 'braced'],
    ]
    for (const [text, id] of cases) {
      const found = detectDialect(text)
      expect(found.ok && found.dialect.id, text.slice(0, 30)).to.equal(id)
    }
    for (const text of [
      'int main() { return 0; }\nvoid f() { g(); }\n',
      'body { color: red; }\np { margin: 0; }\n',
      'set -e\nset -u\necho hello\n',
    ])
      expect(detectDialect(text).ok, text).to.equal(false)
  })

  const groups: { name: string; text: string; is: string[] }[] = [
    {
      name: 'a group fills in what is not stated',
      text: 'groups { g { system { domain-name a.example; host-name x; } } } apply-groups g; system { host-name own; }',
      is: ['system host-name own', 'system domain-name a.example'],
    },
    {
      name: 'lists take in what a group adds',
      text: 'groups { g { system { name-server 10.0.0.2; } } } system { apply-groups g; name-server 10.0.0.1; }',
      is: ['system name-server 10.0.0.1', 'system name-server 10.0.0.2'],
    },
    {
      name: 'an earlier group goes before a later one',
      text: 'groups { g { system { host-name g; } } h { system { host-name h; } } } apply-groups [ g h ]; system { services { ssh; } }',
      is: ['system services ssh', 'system host-name g'],
    },
    {
      name: 'a wildcard reaches the names that are there',
      text: 'groups { g { interfaces { <ge-*> { mtu 9000; } } } } apply-groups g; interfaces { ge-0/0/0 { unit 0; } xe-0/0/0 { unit 0; } }',
      is: ['interfaces ge-0/0/0 unit 0', 'interfaces ge-0/0/0 mtu 9000', 'interfaces xe-0/0/0 unit 0'],
    },
    {
      name: 'wildcards at two levels',
      text: 'groups { g { interfaces { <*> { unit <*> { family inet { no-redirects; } } } } } } apply-groups g; interfaces { ge-0/0/0 { unit 0 { family inet { address 10.0.0.1/8; } } unit 1; } }',
      is: [
        'interfaces ge-0/0/0 unit 0 family inet address 10.0.0.1/8',
        'interfaces ge-0/0/0 unit 0 family inet no-redirects',
        'interfaces ge-0/0/0 unit 1 family inet no-redirects',
      ],
    },
    {
      name: 'a place can leave a group out',
      text: 'groups { g { interfaces { <*> { mtu 9000; } } } } apply-groups g; interfaces { a { unit 0; } b { apply-groups-except g; unit 0; } }',
      is: ['interfaces a unit 0', 'interfaces a mtu 9000', 'interfaces b unit 0'],
    },
    {
      name: 'an inactive group adds nothing',
      text: 'groups { inactive: g { system { host-name g; } } } apply-groups g; system { services { ssh; } }',
      is: ['system services ssh'],
    },
    {
      name: 'a group that applies itself ends',
      text: 'groups { g { system { apply-groups g; host-name g; } } } apply-groups g; system { services { ssh; } }',
      is: ['system services ssh', 'system host-name g'],
    },
  ]
  for (const { name, text, is } of groups)
    it(`inheritance: ${name}`, () => expect(holds(braced, text)).to.deep.equal(is))

  it('inheritance: what a group adds points at the line of the group', () => {
    expect(
      lines(
        braced,
        'groups {\n g {\n  system {\n   host-name g;\n  }\n }\n}\napply-groups g;\nsystem {\n services {\n  ssh;\n }\n}\n',
      )['system host-name g'],
    ).to.deep.equal([4])
  })

  const entered: { name: string; text: string; is: string[] }[] = [
    {
      name: 'delete takes out a path and all beneath it',
      text: 'set system services ssh\nset system services telnet\nset system host-name a\ndelete system services',
      is: ['system host-name a'],
    },
    {
      name: 'one value takes the place of another',
      text: 'set system host-name a\nset system host-name b',
      is: ['system host-name b'],
    },
    {
      name: 'lists collect',
      text: 'set system name-server [ 10.0.0.1 10.0.0.2 ]\nset system name-server 10.0.0.3',
      is: ['system name-server 10.0.0.1', 'system name-server 10.0.0.2', 'system name-server 10.0.0.3'],
    },
    {
      name: 'renamed, where it stood',
      text: 'set firewall filter A term a then accept\nset firewall filter A term b then discard\nrename firewall filter A term a to term z',
      is: ['firewall filter A term z then accept', 'firewall filter A term b then discard'],
    },
    {
      name: 'copied',
      text: 'set system login class a idle-timeout 5\ncopy system login class a to class b',
      is: ['system login class a idle-timeout 5', 'system login class b idle-timeout 5'],
    },
    {
      name: 'inserted before',
      text: 'set firewall filter A term a then accept\nset firewall filter A term b then discard\ninsert firewall filter A term b before term a',
      is: ['firewall filter A term b then discard', 'firewall filter A term a then accept'],
    },
    {
      name: 'inserted after',
      text: 'set firewall filter A term a then accept\nset firewall filter A term b then discard\ninsert firewall filter A term a after term b',
      is: ['firewall filter A term b then discard', 'firewall filter A term a then accept'],
    },
    { name: 'protected', text: 'set system host-name a\nprotect system', is: ['system host-name a'] },
    {
      name: 'of what is not there',
      text: 'set system host-name a\nrename firewall filter A to filter B',
      is: ['system host-name a', 'rename firewall filter A to filter B'],
    },
    {
      name: 'activated again',
      text: 'set system services telnet\ndeactivate system services telnet\nactivate system services telnet',
      is: ['system services telnet'],
    },
    {
      name: 'a block with a value of its own and more',
      text: 'set routing-options static route 0.0.0.0/0 next-hop 10.0.0.1\nset routing-options static route 0.0.0.0/0 preference 5',
      is: [
        'routing-options static route 0.0.0.0/0 next-hop 10.0.0.1',
        'routing-options static route 0.0.0.0/0 preference 5',
      ],
    },
  ]
  for (const { name, text, is } of entered)
    it(`set lines: ${name}`, () => expect(holds(setlines, text)).to.deep.equal(is))

  const faults: [string, Dialect, string, RegExp][] = [
    ['cut off in a block', braced, 'system {\n  host-name a;\n', /not closed/],
    ['cut off in a statement', braced, 'system {\n  host-na', /no end/],
    ['a quoted text without its end', braced, 'system { login { message "x; } }\n', /not closed/],
    ['a comment without its end', braced, 'system { host-name a; } /* x\n', /comment.*not closed/],
    ['a brace too many', braced, 'system { host-name a; } }\n', /closing brace/],
    ['paging', braced, 'system {\n---(more)---\n host-name a;\n}\n', /paging/],
    ['paging among set lines', setlines, 'set system host-name a\n---(more 40%)---\n', /paging/],
    ['nested beyond all devices', braced, `${'a { '.repeat(500)}b;${' }'.repeat(500)}`, /nested deeper/],
  ]
  for (const [name, by, text, reason] of faults)
    it(`says that a record is not whole: ${name}`, () =>
      expect(
        by
          .read(text)
          .faults.map((fault) => fault.reason)
          .join('; '),
      ).to.match(reason))

  const piece = fc.oneof(
    fc.constantFrom(
      'system {',
      '}',
      ';',
      'host-name a;',
      '[ a b ]',
      '"',
      '\\"',
      '/*',
      '*/',
      '# x',
      '## y',
      'inactive: ',
      'set system services ssh',
      'delete system',
      'ada@fw1> show',
      '---(more)---',
      '{master:0}',
      '\n',
      '\r\n',
      ' ',
      '\t',
    ),
    fc.string({ unit: 'binary', maxLength: 12 }),
  )
  const text = fc.array(piece, { maxLength: 60 }).map((parts) => parts.join(''))
  for (const by of [braced, setlines]) {
    it(`${by.id}: loses nothing and never throws, whatever it is given`, () => {
      fc.assert(
        fc.property(text, (input) => {
          const tree = by.read(input)
          expect(writeTree(tree)).to.equal(input)
          by.evaluate([tree])
          for (const node of walk(tree.nodes)) expect(node.line).to.be.within(1, node.lastLine)
        }),
        { numRuns: 1000 },
      )
    })
  }

  it('refuses fifty megabytes of nesting and says where', () => {
    const tree = braced.read('a{'.repeat(25_000_000))
    expect(tree.faults.some(({ reason }) => /nested deeper/.test(reason))).to.equal(true)
    expect(writeTree(tree).length).to.equal(50_000_000)
  })

  it('masks what the word before says is secret', () => {
    const cases: [string, string | null, string[]][] = [
      ['encrypted-password "$6$abc"; ## SECRET-DATA', null, ['$6$abc']],
      ['set system root-authentication encrypted-password "$6$abc"', null, ['$6$abc']],
      ['community sparrow {', 'snmp', ['sparrow']],
      ['snmp { community sparrow; }', null, ['sparrow']],
      ['community BLUE members 65001:1;', 'policy-options', []],
      ['set snmp community sparrow authorization read-only', null, ['sparrow']],
      ['pre-shared-key ascii-text "$9$xyz";', 'policy P', ['$9$xyz']],
      ['set security ike policy P pre-shared-key ascii-text "$9$xyz"', null, ['$9$xyz']],
      ['authentication-key 1 type md5 value "$9$xyz";', 'ntp', ['$9$xyz']],
      ['server 10.0.0.1 key 5;', 'ntp', []],
      ['secret "$9$abc"', '10.0.0.1', ['$9$abc']],
      ['set system login password minimum-length 12', null, []],
      ['set system login password format sha512', null, []],
      ['host-name fw1;', 'system', []],
    ]
    for (const [line, block, secrets] of cases)
      expect(
        braced.secretsIn(line, block).map(([from, to]) => line.slice(from, to)),
        line,
      ).to.deep.equal(secrets)
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { detectDialect, dialectById, writeTree, type Dialect, type LocatedTree, type Scope } from '../../src/index.ts'
import { decodeText, encodeText, effectiveTree, walk } from '../../src/syntax/index.ts'

function dialect(): Dialect {
  const found = dialectById('indented')
  if (!found) throw new Error('the indented dialect is missing')
  return found
}
const indented = dialect()
const read = (text: string): LocatedTree => indented.read(text)
const commands = (tree: LocatedTree): string[] =>
  [...walk(tree.nodes)].filter((node) => node.kind === 'command').map((node) => node.text)
const held = (text: string): string[] => {
  const lines = (scope: Scope, indent: string): string[] =>
    scope.statements.flatMap((s) => [
      `${indent}${s.negated ? 'no ' : ''}${s.text}`,
      ...(s.scope ? lines(s.scope, `${indent} `) : []),
    ])
  return lines(effectiveTree([read(text)], indented), '')
}

/** Pieces that real listings are made of, and pieces that mean harm. */
const piece = fc.oneof(
  fc.constantFrom(
    'hostname a',
    'interface Vlan1',
    ' ip address 10.0.0.1 255.255.255.0',
    '!',
    ' !',
    'exit',
    'end',
    'line vty 0 4',
    ' transport input ssh',
    'no ip http server',
    'banner login ^C',
    '^C',
    'banner motd #x#',
    ' certificate ca 01',
    '  quit',
    'a#show run',
    '% Invalid input',
    ' --More-- ',
    '\t\tdeep',
    'router bgp 1',
    ' address-family ipv4',
    '  network 10.0.0.0',
    'exit-address-family',
    'access-list 10 permit any',
    '-----BEGIN CERTIFICATE-----',
    'macro name x',
    '@',
    '',
  ),
  fc.string({ unit: 'binary', maxLength: 30 }),
)
const listing = fc
  .array(fc.tuple(piece, fc.constantFrom('\n', '\r\n', '\n', '')), { maxLength: 60 })
  .map((parts) => parts.map(([text, end]) => text + end).join(''))

describe('reading the indented dialect', () => {
  it('loses nothing: reading then writing returns the same text, whatever it is', () => {
    fc.assert(
      fc.property(listing, (text) => writeTree(read(text)) === text),
      { numRuns: 1500 },
    )
  })

  it('returns the same bytes in every encoding it accepts', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        const decoded = decodeText(bytes)
        return (
          !decoded.ok ||
          Buffer.from(encodeText(writeTree(read(decoded.text)), decoded.encoding)).equals(Buffer.from(bytes))
        )
      }),
      { numRuns: 1500 },
    )
    for (const bytes of [
      Buffer.from('description Fähre\n', 'latin1'),
      Buffer.from('description Fähre ⚓\r\n', 'utf8'),
      Buffer.from('\ufeffhostname a\n', 'utf16le'),
    ]) {
      const decoded = decodeText(bytes)
      expect(decoded.ok && Buffer.from(encodeText(decoded.text, decoded.encoding)).equals(bytes)).to.equal(true)
    }
  })

  const free: { name: string; text: string; body: string }[] = [
    {
      name: 'caret notation over lines',
      text: 'banner login ^C\nno ip http server\n^C\nhostname a\n',
      body: '\nno ip http server\n',
    },
    { name: 'the control character itself', text: 'banner motd \u0003one\ntwo\u0003\nhostname a\n', body: 'one\ntwo' },
    { name: 'any other character', text: 'banner exec @hi@\nhostname a\n', body: 'hi' },
    { name: 'a caret typed alone', text: 'banner login ^Come in^\nhostname a\n', body: 'Come in' },
    { name: 'art with carets in it', text: 'banner login ^C\n /^\\ ^\n^C\nhostname a\n', body: '\n /^\\ ^\n' },
    { name: 'closed by EOF', text: 'banner login\nip http server\nEOF\nhostname a\n', body: 'ip http server' },
    {
      name: 'a certificate',
      text: 'crypto pki certificate chain X\n certificate self-signed 01\n  3082 0001\n  \tquit\nhostname a\n',
      body: '3082 0001',
    },
    { name: 'a delimiter with text behind it', text: 'banner motd #hi# and more\nhostname a\n', body: 'hi' },
  ]
  for (const { name, text, body } of free) {
    it(`takes free text as a leaf: ${name}`, () => {
      const tree = read(text)
      expect([...walk(tree.nodes)].find((node) => node.body !== undefined)?.body).to.equal(body)
      expect(tree.hostname).to.equal('a')
      expect(tree.faults).to.have.length(0)
      expect(
        commands(tree).filter((command) => command.startsWith('ip http') || command.startsWith('no ip http')),
      ).to.have.length(0)
    })
  }

  const forms: { name: string; text: string; is: string[] }[] = [
    {
      name: 'indented',
      text: 'interface Vlan1\n description x\n shutdown\n!\nip http server\n',
      is: ['interface Vlan1', ' description x', ' shutdown', 'ip http server'],
    },
    {
      name: 'not indented, closed by !',
      text: 'interface Vlan1\ndescription x\nshutdown\n!\nip http server\n',
      is: ['interface Vlan1', ' description x', ' shutdown', 'ip http server'],
    },
    {
      name: 'not indented, closed by what follows',
      text: 'interface Vlan1\nshutdown\ninterface Vlan2\nip address 10.0.0.1 255.0.0.0\nip http server\nend\n',
      is: ['interface Vlan1', ' shutdown', 'interface Vlan2', ' ip address 10.0.0.1 255.0.0.0', 'ip http server'],
    },
    { name: 'tabs', text: 'interface Vlan1\n\tshutdown\n', is: ['interface Vlan1', ' shutdown'] },
    { name: 'CRLF and no final newline', text: 'interface Vlan1\r\n shutdown', is: ['interface Vlan1', ' shutdown'] },
    {
      name: 'an empty line inside a block',
      text: 'interface Vlan1\n description x\n\n shutdown\n',
      is: ['interface Vlan1', ' description x', ' shutdown'],
    },
    {
      name: 'deeper blocks',
      text: 'router bgp 1\n address-family ipv4\n  network 10.0.0.0\n exit-address-family\n neighbor 10.0.0.2 remote-as 2\n',
      is: ['router bgp 1', ' address-family ipv4', '  network 10.0.0.0', ' neighbor 10.0.0.2 remote-as 2'],
    },
    {
      name: 'deeper blocks, nothing indented',
      text: 'router bgp 1\naddress-family ipv4\nnetwork 10.0.0.0\nexit-address-family\nneighbor 10.0.0.2 remote-as 2\n!\nip http server\n',
      is: [
        'router bgp 1',
        ' address-family ipv4',
        '  network 10.0.0.0',
        ' neighbor 10.0.0.2 remote-as 2',
        'ip http server',
      ],
    },
    {
      name: 'prompt, echo and headers around it',
      text: 'sw1#show running-config\nBuilding configuration...\n\nCurrent configuration : 40 bytes\n!\nhostname sw1\nend\n\nsw1#\n',
      is: ['hostname sw1'],
    },
    {
      name: 'another command’s output after it',
      text: 'sw1#show run\nhostname sw1\nend\nsw1#show version\nip http server\nsw1#exit\n',
      is: ['hostname sw1'],
    },
    {
      name: 'a paging prompt wiped by backspaces',
      text: `hostname a\n --More-- ${'\b'.repeat(10)}${' '.repeat(10)}${'\b'.repeat(10)}ip http server\n`,
      is: ['hostname a', 'ip http server'],
    },
  ]
  for (const { name, text, is } of forms) it(`reads blocks: ${name}`, () => expect(held(text)).to.deep.equal(is))

  const effective: { name: string; text: string; is: string[] }[] = [
    {
      name: 'no takes away by key words',
      text: 'logging host 10.0.0.1 transport udp port 514\nno logging host 10.0.0.1',
      is: ['no logging host 10.0.0.1'],
    },
    {
      name: 'a command takes away its no',
      text: 'no ip address\nip address 10.0.0.1 255.0.0.0',
      is: ['ip address 10.0.0.1 255.0.0.0'],
    },
    { name: 'a single value is replaced', text: 'hostname a\nhostname b', is: ['hostname b'] },
    {
      name: 'secondary addresses collect',
      text: 'interface Vlan1\n ip address 10.0.0.1 255.0.0.0\n ip address 10.1.0.1 255.0.0.0 secondary\n ip address 10.2.0.1 255.0.0.0',
      is: ['interface Vlan1', ' ip address 10.1.0.1 255.0.0.0 secondary', ' ip address 10.2.0.1 255.0.0.0'],
    },
    {
      name: 'repeated blocks merge, however spelled',
      text: 'interface GigabitEthernet 0/1\n shutdown\ninterface GigabitEthernet0/1\n no shutdown',
      is: ['interface GigabitEthernet 0/1', ' no shutdown'],
    },
    {
      name: 'a block is taken away whole',
      text: 'interface Loopback7\n shutdown\nno interface Loopback7',
      is: ['no interface Loopback7'],
    },
    {
      name: 'a block taken away and made anew',
      text: 'interface Loopback7\n shutdown\nno interface Loopback7\ninterface Loopback7\n description x',
      is: ['interface Loopback7', ' description x'],
    },
    { name: 'default takes both forms away', text: 'no ip http server\ndefault ip http server', is: [] },
    {
      name: 'ranges are cut where they overlap',
      text: 'line vty 0 4\n login local\nline vty 3 6\n transport input ssh',
      is: [
        'line vty 0 2',
        ' login local',
        'line vty 3 4',
        ' login local',
        ' transport input ssh',
        'line vty 5 6',
        ' transport input ssh',
      ],
    },
    {
      name: 'a range is taken away in part',
      text: 'line vty 0 15\n login local\nno line vty 5 15',
      is: ['line vty 0 4', ' login local'],
    },
    {
      name: 'both spellings of the console',
      text: 'line console 0\n exec-timeout 5 0\nline con 0\n exec-timeout 3 0',
      is: ['line con 0', ' exec-timeout 3 0'],
    },
    {
      name: 'numbered entries in their order',
      text: 'ip access-list extended X\n 20 permit ip any any\n 10 deny ip host 10.0.0.1 any\n no 20',
      is: ['ip access-list extended X', ' 10 deny ip host 10.0.0.1 any', ' no 20'],
    },
    {
      name: 'equal entries of a list all stay',
      text: 'access-list 10 permit any\naccess-list 10 deny any\naccess-list 10 permit any',
      is: ['access-list 10 permit any', 'access-list 10 deny any', 'access-list 10 permit any'],
    },
  ]
  for (const { name, text, is } of effective)
    it(`knows what holds: ${name}`, () => expect(held(text)).to.deep.equal(is))

  it('knows what holds: lines that contradict each other leave only the last word (any order)', () => {
    const line = fc.constantFrom(
      'ip http server',
      'no ip http server',
      'hostname a',
      'hostname b',
      'no hostname',
      'ntp server 10.0.0.1',
      'ntp server 10.0.0.1 prefer',
      'no ntp server 10.0.0.1',
    )
    fc.assert(
      fc.property(fc.array(line, { maxLength: 12 }), (lines) => {
        const web = lines.filter((l) => l.endsWith('ip http server')).at(-1)
        const name = lines.filter((l) => l.includes('hostname')).at(-1)
        const clock = lines.filter((l) => l.includes('ntp')).at(-1)
        expect(held(lines.join('\n')).sort()).to.deep.equal([web, name, clock].filter((l) => l !== undefined).sort())
      }),
    )
  })

  const faults: { name: string; text: string; reason: RegExp }[] = [
    { name: 'a banner that is not closed', text: 'banner login ^C\nhostname a\n', reason: /not closed/ },
    { name: 'a paging prompt', text: 'hostname a\n --More-- \nip http server\n', reason: /paging/ },
    { name: 'an error line', text: 'hostname a\n% Invalid input detected\n', reason: /error/ },
    { name: 'cut off', text: 'Current configuration : 4000 bytes\nhostname a\nip http ser', reason: /stops short/ },
  ]
  for (const { name, text, reason } of faults)
    it(`says that a record is not whole: ${name}`, () =>
      expect(
        read(text)
          .faults.map((f) => f.reason)
          .join(),
      ).to.match(reason))

  it('lists the lines it does not understand, and nothing else', () => {
    expect(
      read('hostname a\nfrobnicate\ninterface Vlan1\n ip address 10.0.0.1 255.0.0.0\n wobble 3\n').unread,
    ).to.deep.equal([2, 5])
  })

  const refused: [string, Uint8Array | string, RegExp][] = [
    ['an empty file', '', /empty/],
    ['white space', ' \n\t\n', /white space/],
    ['a picture', Buffer.from([0xff, 0xd8, 0xff, 0xe0]), /JPEG/],
    ['a web page', '<!DOCTYPE html><html><body>hostname</body></html>', /HTML/],
    ['prose', 'Dear sir,\nthe ferry was late again.\nWe are not amused.\n', /not recognised/],
    ['binary data', Buffer.from([1, 0, 2]), /NUL/],
    ['another form', '{ "a": 1 }', /JSON/],
  ]
  for (const [name, bytes, reason] of refused) {
    it(`refuses what is no configuration: ${name}`, () => {
      const decoded = decodeText(typeof bytes === 'string' ? Buffer.from(bytes) : bytes)
      const answer = decoded.ok ? detectDialect(decoded.text) : decoded
      expect(answer.ok ? '' : answer.reason).to.match(reason)
    })
  }

  it('comes to an end on hostile input of a hundred thousand lines, and loses nothing', () => {
    const hostile: ((n: number) => string)[] = [
      (n) => 'no a b c\n'.repeat(n),
      (n) => Array.from({ length: n }, (_, i) => `a b ${i}\nno a b ${i}`).join('\n'),
      (n) => Array.from({ length: n }, (_, i) => ' '.repeat(i % 500) + 'x').join('\n'),
      (n) => 'banner login ^C\n'.repeat(n),
      (n) => `line vty ${0} 999\n transport input ssh\n`.repeat(n),
      (n) => 'x '.repeat(n * 5),
      (n) => '-more'.repeat(n * 5),
      (n) => 'interface Vlan1\nshutdown\n'.repeat(n),
    ]
    for (const make of hostile) {
      const text = make(100_000)
      const tree = read(text)
      expect(writeTree(tree) === text, text.slice(0, 30)).to.equal(true)
      effectiveTree([tree], indented)
    }
  })

  it('reads a listing of five megabytes', () => {
    const text = `hostname a\n${'interface Vlan1\n description x\n ip address 10.0.0.1 255.0.0.0\n!\n'.repeat(80_000)}end\n`
    expect(text.length).to.be.above(5_000_000)
    const tree = read(text)
    expect(tree.unread).to.have.length(0)
    expect(effectiveTree([tree], indented).statements).to.have.length(2)
  })
})

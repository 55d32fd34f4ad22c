import { DeviceAnalysis } from '../../src/analysis/index.ts'
import { expect } from 'chai'
import fc from 'fast-check'
import ipaddr from 'ipaddr.js'
import { RE2JS } from 're2js'
import { dialectById, maskWithKey } from '../../src/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { digestOf, type ReadDevice } from '../../src/estate/index.ts'
import {
  EstateIndex,
  LineIndex,
  QuestionError,
  requiredText,
  readQuestion,
  type ViewedDevice,
} from '../../src/query/index.ts'

const mask = maskWithKey(new Uint8Array(32))
function read(config: string, outputs: Record<string, string> = {}): ReadDevice {
  const dialect = dialectById('indented')
  const digest =
    dialect &&
    digestOf(
      new DeviceAnalysis(
        dialect,
        [
          { id: 'c', kind: 'config', tree: readRecord(config, 'indented') },
          ...Object.entries(outputs).map(([kind, text]) => ({ id: kind, kind: `state/${kind}`, tree: null, text })),
        ],
        mask,
      ),
    )
  if (!digest) throw new Error('not read')
  return digest
}
const view = (...names: string[]): ViewedDevice[] =>
  names.map((name) => ({ name, key: name, dialect: 'indented', facts: { labels: {} } }))

describe('the question that a text asks', () => {
  const cases: [text: string, words: string[], pattern: string | null, inside: string[], address: string | null][] = [
    ['Transport Telnet', ['transport', 'telnet'], null, [], null],
    ['"permit ip any" log', ['permit ip any', 'log'], null, [], null],
    ['/^ ip access-group \\S+ in/', [], '^ ip access-group \\S+ in', [], null],
    ['access-group inside interface Vlan', ['access-group'], null, ['interface', 'vlan'], null],
    ['/in$/ inside interface', [], 'in$', ['interface'], null],
    ['"the inside lane"', ['the inside lane'], null, [], null],
    ['inside', ['inside'], null, [], null],
    ['10.40.3.7', ['10.40.3.7'], null, [], '10.40.3.7'],
    ['10.40.0.0/16', ['10.40.0.0/16'], null, [], '10.40.0.0/16'],
    ['2001:DB8::1', ['2001:db8::1'], null, [], '2001:DB8::1'],
    ['10.40.3', ['10.40.3'], null, [], null],
    ['core/1', ['core/1'], null, [], null],
  ]
  for (const [text, words, pattern, inside, address] of cases)
    it(text, () => expect(readQuestion(text)).to.include({ pattern, address }).and.deep.include({ words, inside }))
  it('refuses what is no pattern, and says why', () =>
    expect(() => readQuestion('/a(/')).to.throw(QuestionError, 'RE2'))
})

describe('the text that every match of a pattern holds', () => {
  const cases: [pattern: string, certain: string][] = [
    ['^ip http server$', 'ip http server'],
    ['colou?r', 'colo'],
    ['ab*cd', 'cd'],
    ['(abc)?def', 'def'],
    ['(abc)+d', 'd'],
    ['a|bcd', ''],
    ['x[a-z]yz', 'yz'],
    ['a{2}bcd', 'bcd'],
    ['\\bfoo\\.bar\\d', 'foo.bar'],
    ['(?i)FOO', 'foo'],
    ['(?i)task', 'ta'],
    ['a(?i)b', ''],
    ['(?s)ab', ''],
    ['[)]abc', 'abc'],
    ['a+b', 'a'],
    ['', ''],
    ['\\x41bc', ''],
  ]
  for (const [pattern, certain] of cases)
    it(pattern || '(nothing)', () => expect(requiredText(pattern)).to.equal(certain))

  it('is in every text that the engine finds the pattern in', () => {
    const piece = fc.oneof(
      fc.constantFrom('a', 'b', 'ab', '.', '\\.', '[ab]', '[^a]', '\\d', '(ab)', '(a|b)', '^', '$', 'é', 'B'),
      fc.constantFrom('a', 'b').chain((c) => fc.constantFrom('*', '+', '?', '{2}', '{0,1}').map((q) => c + q)),
    )
    fc.assert(
      fc.property(
        fc
          .tuple(fc.constantFrom('', '', '(?i)'), fc.array(piece, { maxLength: 7 }))
          .map(([flags, some]) => flags + some.join('')),
        fc.string({ unit: fc.constantFrom('a', 'b', 'A', 'B', '.', '1', 'é'), maxLength: 12 }),
        (pattern, text) => {
          if (RE2JS.compile(pattern).test(text)) expect(text.toLowerCase(), pattern).to.include(requiredText(pattern))
        },
      ),
      { numRuns: 3000 },
    )
  })
})

describe('the index of lines', () => {
  const word = fc.constantFrom('ip', 'IP', 'permit', 'deny', 'any', '10.0.0.1', 'é', '‹secret:12ab›', 'log')
  const line = fc
    .array(word, { maxLength: 4 })
    .chain((words) => fc.constantFrom('', ' ', '  ').map((indent) => indent + words.join(' ')))
  /** Each text: lines, each with how many lines before it its block opens (0: none). */
  const texts = fc.array(fc.array(fc.tuple(line, fc.nat(2)), { maxLength: 12 }), { maxLength: 6 })
  const question = fc.record({
    words: fc.array(
      word.map((w) => w.toLowerCase()),
      { minLength: 1, maxLength: 2 },
    ),
    pattern: fc.constantFrom(null, null, '^ *ip', 'any$', '\\d+\\.\\d', 'deny|log', 'é'),
    inside: fc.array(
      word.map((w) => w.toLowerCase()),
      { maxLength: 1 },
    ),
  })

  it('finds exactly what a look at every line of every text finds', () => {
    fc.assert(
      fc.property(texts, question, ([...all], asked) => {
        const index = new LineIndex()
        const blocks = all.map((lines) => lines.map(([, back], i) => (back === 0 || i - back < 0 ? 0 : i - back + 1)))
        all.forEach((lines, t) =>
          index.add(
            String(t),
            lines.map(([text]) => text),
            blocks[t],
          ),
        )
        const holds = (text: string, words: readonly string[]): boolean =>
          words.every((one) => text.toLowerCase().includes(one))
        const expected = all.flatMap((lines, t) =>
          lines.flatMap(([text], i) => {
            if (asked.pattern === null ? !holds(text, asked.words) : !RE2JS.compile(asked.pattern).test(text)) return []
            if (asked.inside.length > 0) {
              let around = false
              for (let at = blocks[t]?.[i] ?? 0; at > 0; at = blocks[t]?.[at - 1] ?? 0)
                around ||= holds(lines[at - 1]?.[0] ?? '', asked.inside)
              if (!around) return []
            }
            return [{ key: String(t), line: i + 1, text: text.trim() }]
          }),
        )
        const keys = all.map((_, t) => String(t))
        const answer = index.find(asked, keys, 1000)
        expect(answer.hits).to.deep.equal(expected)
        expect(answer.total).to.equal(expected.length)
        expect([...answer.counts]).to.deep.equal(
          keys
            .map((key) => [key, expected.filter((hit) => hit.key === key).length] as const)
            .filter(([, count]) => count > 0),
        )
        expect(index.find(asked, keys, 2).hits).to.deep.equal(expected.slice(0, 2))
        expect(index.find(asked, ['1'], 1000).hits).to.deep.equal(expected.filter(({ key }) => key === '1'))
      }),
      { numRuns: 500 },
    )
  })

  it('gives a pattern up that takes too long, in words', () => {
    const index = new LineIndex()
    index.add(
      'a',
      Array.from({ length: 5000 }, (_, i) => `line ${i}`),
    )
    expect(() => index.find({ words: [], pattern: '[0-9]$', inside: [] }, ['a'], 5, () => true)).to.throw(
      QuestionError,
      '/[0-9]$/ takes too long',
    )
    expect(index.find({ words: ['line'], pattern: null, inside: [] }, ['a'], 5, () => true).total).to.equal(5000)
  })

  it('holds more lines than a page, each once, and finds the first and the last', () => {
    const index = new LineIndex()
    const lines = Array.from({ length: 40_000 }, (_, i) => ` line number ${i}`)
    index.add('a', lines)
    index.add('b', [...lines].reverse())
    expect(index.lines).to.equal(40_000)
    expect(index.find({ words: ['number 39999'], pattern: null, inside: [] }, ['a', 'b'], 5).hits).to.deep.equal([
      { key: 'a', line: 40_000, text: 'line number 39999' },
      { key: 'b', line: 1, text: 'line number 39999' },
    ])
    expect(index.find({ words: [], pattern: 'number \\d$', inside: [] }, ['b'], 0).total).to.equal(10)
  })
})

describe('searching an estate', () => {
  const address = fc
    .tuple(fc.nat(3), fc.nat(3), fc.constantFrom(8, 16, 22, 24, 30, 32))
    .map(([a, b, length]) => ({ address: `10.${a}.0.${b + 1}`, length }))
  const masks = (length: number): string => ipaddr.IPv4.subnetMaskFromPrefixLength(length).toString()
  const config = (ports: readonly { address: string; length: number }[]): string =>
    ports.map((port, i) => `interface Ethernet${i}\n ip address ${port.address} ${masks(port.length)}\n`).join('')

  it('knows who owns an address and which subnets hold it, as a general library says', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(address, { maxLength: 4 }), { minLength: 1, maxLength: 5 }),
        fc.nat(3),
        fc.nat(5),
        (estate, a, b) => {
          const index = new EstateIndex()
          estate.forEach((ports, i) => index.add(`d${i}`, read(`hostname d${i}\n${config(ports)}end\n`)))
          const asked = `10.${a}.0.${b}`
          const found = index.find(readQuestion(asked), view(...estate.map((_, i) => `d${i}`)), 1000, ['address'])[0]
          const said = (found?.hits ?? [])
            .map(({ device, detail, title }) => `${device} ${detail} ${title.startsWith('owns') ? 'owns' : 'holds'}`)
            .sort()
          const expected = estate
            .flatMap((ports, i) =>
              ports.flatMap((port, at) => {
                if (port.address === asked) return [`d${i} Ethernet${at} owns`]
                return ipaddr.parse(asked).match(ipaddr.parseCIDR(`${port.address}/${port.length}`))
                  ? [`d${i} Ethernet${at} holds`]
                  : []
              }),
            )
            .sort()
          expect(said).to.deep.equal(expected)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('finds in a random estate what a scan of every device finds: lines, ports, users, lists, facts', () => {
    const name = fc.constantFrom('alder', 'birch', 'cedar', 'BIRCH-2')
    const part = fc.oneof(
      fc
        .tuple(fc.constantFrom('Ethernet0', 'Ethernet1'), name)
        .map(([port, words]) => `interface ${port}\n description ${words} uplink\n ip access-group ${words} in\n`),
      name.map((user) => `username ${user} secret 5 $1$abcd$0123456789abcdefghijk.\n`),
      name.map((list) => `ip access-list extended ${list}\n permit ip any any\n deny tcp any any eq 23\n`),
      fc.constant('line vty 0 4\n transport input telnet\n'),
    )
    const estate = fc.array(
      fc.record({
        config: fc.array(part, { maxLength: 5 }).map((parts) => `hostname x\n${parts.join('')}end\n`),
        owner: name,
      }),
      { minLength: 1, maxLength: 5 },
    )
    const text = fc.constantFrom(
      'birch',
      'BIRCH-2',
      'in',
      'permit any',
      '"any any"',
      '/birch(-2)? in$/',
      'access-group inside interface',
      'eq inside alder',
      'telnet',
      'username cedar',
      'owner: alder',
      'cedar uplink',
    )
    fc.assert(
      fc.property(estate, text, (devices, asked) => {
        const index = new EstateIndex()
        const reads = devices.map(({ config }, i) => ({ name: `d${i}`, read: read(config) }))
        for (const one of reads) index.add(one.name, one.read)
        const of: ViewedDevice[] = devices.map(({ owner }, i) => ({
          name: `d${i}`,
          key: `d${i}`,
          dialect: 'indented',
          facts: { labels: { owner } },
        }))
        const question = readQuestion(asked)
        const holds = (words: readonly string[], line: string): boolean =>
          words.every((word) => line.toLowerCase().includes(word))
        /** A word that the device is called need not stand in its lines, unless it is called by all of them. */
        const answers = (device: string, line: string): boolean => {
          if (question.pattern !== null) return RE2JS.compile(question.pattern).test(line)
          const owner = devices[Number(device.slice(1))]?.owner.toLowerCase()
          const others = question.words.filter((word) => word !== owner)
          return holds(question.words.length > 1 && others.length > 0 ? others : question.words, line)
        }
        const scan: Record<string, string[]> = { device: [], interface: [], user: [], list: [], line: [] }
        for (const {
          name: device,
          read: { digest, lines, blocks },
        } of reads) {
          const put = (kind: string, entries: readonly string[]): void =>
            void (
              question.inside.length === 0 &&
              scan[kind]?.push(
                ...entries.filter((entry) => answers(device, entry)).map((entry) => `${device} ${entry}`),
              )
            )
          put(
            'interface',
            digest.interfaces.map((port) => [port.name, port.description].filter(Boolean).join(' · ')),
          )
          put(
            'user',
            digest.users.map((user) => user.name),
          )
          put(
            'list',
            digest.lists.map((list) => `${list.name} (${list.family})`),
          )
          if (
            question.pattern === null &&
            question.inside.length === 0 &&
            holds(question.words, `${device} · indented · owner: ${devices[Number(device.slice(1))]?.owner}`)
          )
            scan['device']?.push(`${device} ${device}`)
          lines.forEach((line, i) => {
            let around = question.inside.length === 0
            for (let at = blocks[i] ?? 0; at > 0; at = blocks[at - 1] ?? 0)
              around ||= holds(question.inside, lines[at - 1] ?? '')
            if (around && answers(device, line)) scan['line']?.push(`${device} ${line.trim()}`)
          })
        }
        const found = Object.fromEntries(
          index
            .find(question, of, 1000, ['device', 'interface', 'user', 'list', 'line'])
            .map(({ kind, hits, total }) => [
              kind,
              { said: hits.map(({ device, title }) => `${device} ${title}`).sort(), total },
            ]),
        )
        for (const [kind, said] of Object.entries(scan)) {
          expect(found[kind]?.said ?? [], `${asked} ${kind}`).to.deep.equal(said.sort())
          expect(found[kind]?.total ?? 0).to.equal(said.length)
        }
      }),
      { numRuns: 150 },
    )
  })

  const index = new EstateIndex()
  index.add(
    'core',
    read(
      'hostname core\ninterface Vlan30\n description Kiosks\n ip address 10.40.30.1 255.255.255.0\n ip access-group KIOSK-IN in\n!\ninterface Vlan40\n ip access-group WIFI-IN in\nip access-list extended KIOSK-IN\n permit ip any any\nusername marlow secret 5 $1$abcd$0123456789abcdefghijk.\nline vty 0 4\n transport input telnet\nend\n',
    ),
  )
  const asked = (text: string, of = view('core')) =>
    Object.fromEntries(
      index.find(readQuestion(text), of, 10).map(({ kind, total, hits, devices }) => [kind, { total, hits, devices }]),
    )

  it('opens at the line, in its block', () => {
    expect(asked('access-group inside "interface vlan30"')).to.deep.equal({
      line: {
        total: 1,
        devices: ['core'],
        hits: [
          {
            device: 'core',
            title: 'ip access-group KIOSK-IN in',
            detail: 'line 5',
            at: { record: 'c', from: 5, to: 5 },
          },
        ],
      },
    })
    expect(asked('/^ ip access-group \\S+ in/')['line']?.total).to.equal(2)
  })
  it('finds interfaces by their descriptions, users and lists, each with its line', () => {
    expect(asked('kiosks')['interface']?.hits).to.deep.include({
      device: 'core',
      title: 'Vlan30 · Kiosks · 10.40.30.1/24',
      detail: '',
      at: { record: 'c', from: 2, to: 2 },
    })
    expect(asked('marlow')['user']?.hits[0]?.at?.from).to.be.greaterThan(0)
    expect(asked('kiosk-in')['list']?.hits[0]?.title).to.equal('KIOSK-IN (ipv4)')
  })
  it('finds names, facts and labels, of the devices in view only', () => {
    const of: ViewedDevice[] = [
      {
        name: 'core',
        key: 'core',
        dialect: 'indented',
        facts: { labels: { owner: 'network desk', card: true }, site: 'ops' },
      },
      { name: 'twin', key: 'core', dialect: 'indented', facts: { labels: {}, site: 'qs' } },
    ]
    expect(asked('network desk', of)['device']?.devices).to.deep.equal(['core'])
    expect(asked('card: yes', of)['device']?.devices).to.deep.equal(['core'])
    // Two devices of the same records: both have the line.
    expect(asked('telnet', of)['line']).to.deep.include({ total: 2, devices: ['core', 'twin'] })
    expect(asked('telnet', of.slice(1))['line']?.devices).to.deep.equal(['twin'])
  })
  it('joins what a device is called with what stands in its lines', () => {
    const of: ViewedDevice[] = ['front', 'back'].map((site) => ({
      name: `${site}-1`,
      key: 'core',
      dialect: 'indented',
      facts: { labels: { card: site === 'back', uplink: 'no' }, site: `${site} office` },
    }))
    expect(asked('telnet front', of)['line']?.devices).to.deep.equal(['front-1'])
    expect(asked('card telnet', of)['line']?.devices).to.deep.equal(['back-1'])
    expect(asked('back-1 "transport input"', of)['line']).to.deep.include({ total: 1, devices: ['back-1'] })
    // A word of its own is no part of another, and no device is called "no".
    expect(asked('fron telnet', of)['line']).to.equal(undefined)
    expect(asked('no telnet', of)['line']).to.equal(undefined)
    // What a device is called does not make all of its lines an answer.
    expect(asked('front office', of)['line']).to.equal(undefined)
    expect(asked('front office', of)['device']?.devices).to.deep.equal(['front-1'])
  })
  it('finds lines of outputs, opened at the output, with their secrets masked', () => {
    const own = new EstateIndex()
    const outputs = {
      sensors: 'Power supply 1   failed\nPower supply 2   ok\n',
      'arp-table': 'Internet  10.40.30.7   4   0203.04aa.bb10  ARPA   Vlan30\n',
      users: 'snmp-server community harbour-light ro\n',
    }
    own.add('core', read('hostname core\nend\n', outputs))
    const found = (text: string) => own.find(readQuestion(text), view('core'), 10, ['output'])
    expect(found('power supply')[0]).to.deep.include({
      total: 2,
      devices: ['core'],
      hits: [
        {
          device: 'core',
          title: 'Power supply 1   failed',
          detail: 'sensors, line 1',
          at: { record: 'sensors', from: 1, to: 1 },
        },
        {
          device: 'core',
          title: 'Power supply 2   ok',
          detail: 'sensors, line 2',
          at: { record: 'sensors', from: 2, to: 2 },
        },
      ],
    })
    expect(found('0203.04aa.bb10')[0]?.hits[0]?.detail).to.equal('arp table, line 1')
    expect(found('harbour-light')).to.deep.equal([])
    expect(found('community')[0]?.hits[0]?.title).to.include('‹secret:')
    // A block is a thing of configurations.
    expect(found('power inside interface')).to.deep.equal([])
  })
  it('does not find a secret by trying', () => {
    expect(asked('0123456789abcdefghijk')).to.deep.equal({})
    expect(asked('‹secret')['line']?.hits[0]?.title).to.include('‹secret:')
  })
  it('finds subnets in and around a prefix', () =>
    expect(asked('10.40.0.0/16')['address']?.hits.map(({ detail }) => detail)).to.deep.equal(['Vlan30']))
  it('finds nothing for nothing', () => expect(asked('frobnicate')).to.deep.equal({}))
})

import { expect } from 'chai'
import fc from 'fast-check'
import { detectDialect, dialectById, writeTree, type Dialect } from '../../src/index.ts'
import { parseJson, walk, type LocatedValue } from '../../src/syntax/index.ts'

const data = dialectById('data') as Dialect

/** The value as JSON.parse gives it, numbers left as they stand. */
function plain(value: LocatedValue | null): unknown {
  if (!value) return null
  if (value.type === 'object')
    return Object.fromEntries(value.members.map((member) => [member.name, plain(member.value)]))
  if (value.type === 'array') return value.items.map(plain)
  return value.quoted ? value.value : (JSON.parse(value.value) as unknown)
}

describe('JSON data', () => {
  it('is read as JSON.parse reads it, whatever the spacing', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), fc.constantFrom(undefined, 1, '\t'), (value, indent) => {
        fc.pre(
          JSON.stringify(value) === JSON.stringify(JSON.parse(JSON.stringify(value))) &&
            !JSON.stringify(value).includes('__proto__'),
        )
        const text = JSON.stringify(value, null, indent)
        const { value: read, fault } = parseJson(text)
        expect(fault).to.equal(null)
        expect(plain(read)).to.deep.equal(JSON.parse(text))
      }),
      { numRuns: 500 },
    )
  })

  it('knows where every value stands', () => {
    const text = '{\n  "a:b": [1, "x\\"y"],\n  "c": {"d": true}\n}'
    const { value } = parseJson(text)
    const places: string[] = []
    const visit = (one: LocatedValue): void => {
      if (one.type === 'leaf') places.push(text.slice(one.from, one.to))
      if (one.type === 'array') one.items.forEach(visit)
      if (one.type === 'object') one.members.forEach((member) => visit(member.value))
    }
    if (value) visit(value)
    expect(places).to.deep.equal(['1', '"x\\"y"', 'true'])
  })

  const faults: [string, RegExp][] = [
    ['{"a": 1', /stops before its end/],
    ['{"a": tru}', /expected a value/],
    ['{"a": "x}', /closing quote/],
    ['{"a": 1}}', /follows after the end|closes nothing/],
    ['[1, 2}', /closes nothing/],
    ['', /no value/],
    ['['.repeat(5000), /nested deeper/],
  ]
  for (const [text, reason] of faults)
    it(`says what is wrong: ${text.slice(0, 12)}`, () => expect(parseJson(text).fault?.reason).to.match(reason))

  it('keeps what was read before a text was cut off', () => {
    const {
      nodes,
      faults: found,
      hostname,
    } = data.read('{"ietf-system:system": {"hostname": "gw1", "location": "dry do')
    expect(hostname).to.equal('gw1')
    expect(found).to.have.length(1)
    expect([...walk(nodes)].map((node) => node.text)).to.include('hostname gw1')
  })

  it('says paths with the names of entries, prefixes of modules left out, lines and columns shown', () => {
    const text =
      '{ "ietf-interfaces:interfaces": { "interface": [\n  { "name": "eth0", "enabled": true,\n    "ietf-ip:ipv4": { "address": [ { "ip": "192.0.2.1", "prefix-length": 24 } ] } },\n  { "name": "an other", "enabled": false }\n] } }'
    const held = data.evaluate([data.read(text)])
    expect(held.statements.map((statement) => statement.command.words.join('|'))).to.deep.equal([
      'interfaces|interface|eth0|name|eth0',
      'interfaces|interface|eth0|enabled|true',
      'interfaces|interface|eth0|ipv4|address|192.0.2.1|ip|192.0.2.1',
      'interfaces|interface|eth0|ipv4|address|192.0.2.1|prefix-length|24',
      'interfaces|interface|an other|name|an other',
      'interfaces|interface|an other|enabled|false',
    ])
    const node = held.statements[3]?.nodes[0]
    expect(node?.line).to.equal(3)
    const line = text.split('\n')[2] ?? ''
    expect(line.slice((node?.columns?.[0] ?? 0) - 1, node?.columns?.[1])).to.equal('"prefix-length": 24')
    expect(detectDialect(text)).to.have.nested.property('dialect.id', 'data')
  })

  it('loses nothing and never throws', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '{',
        '}',
        '[',
        ']',
        ',',
        ':',
        '"a"',
        '"',
        '\\',
        '1',
        'true',
        'null',
        '\n',
        ' ',
        '"ietf-system:system":',
      ),
      fc.string({ unit: 'binary', maxLength: 6 }),
    )
    fc.assert(
      fc.property(
        fc.oneof(
          fc.array(piece, { maxLength: 50 }).map((parts) => parts.join('')),
          fc.jsonValue().map((value) => JSON.stringify(value, null, 1)),
        ),
        (text) => {
          const tree = data.read(text)
          expect(writeTree(tree)).to.equal(text)
          data.evaluate([tree])
        },
      ),
      { numRuns: 800 },
    )
  })

  it('masks what is secret', () => {
    const line = '"ietf-system:password": "$6$abc", "name": "ada", "community": "gull"'
    expect(data.secretsIn(line, null).map(([from, to]) => line.slice(from, to))).to.deep.equal(['$6$abc', 'gull'])
  })

  const XML = `<?xml version="1.0"?>
<rpc-reply message-id="101" xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">
  <data>
    <system xmlns="urn:ietf:params:xml:ns:yang:ietf-system"><hostname>gw1</hostname>
      <authentication><user><name>ada</name><password>$1$x</password></user></authentication>
    </system>
    <interfaces xmlns="urn:ietf:params:xml:ns:yang:ietf-interfaces" xmlns:ip="urn:ietf:params:xml:ns:yang:ietf-ip">
      <interface>
        <name>eth0</name>
        <enabled>false</enabled>
        <ip:ipv4><ip:address><ip:ip>192.0.2.1</ip:ip><ip:prefix-length>24</ip:prefix-length></ip:address></ip:ipv4>
      </interface>
    </interfaces>
  </data>
</rpc-reply>
`
  it('in XML, as NETCONF carries it, says the same paths as in JSON', () => {
    const found = detectDialect(XML)
    expect(found.ok && found.dialect.id).to.equal('data')
    const tree = data.read(XML)
    expect([writeTree(tree), tree.hostname, tree.faults]).to.deep.equal([XML, 'gw1', []])
    expect(data.evaluate([tree]).statements.map(({ command }) => command.words.join(' '))).to.deep.equal([
      'system hostname gw1',
      'system authentication user ada name ada',
      'system authentication user ada password $1$x',
      'interfaces interface eth0 name eth0',
      'interfaces interface eth0 enabled false',
      'interfaces interface eth0 ipv4 address 192.0.2.1 ip 192.0.2.1',
      'interfaces interface eth0 ipv4 address 192.0.2.1 prefix-length 24',
    ])
    const line = XML.split('\n')[4] ?? ''
    expect(data.secretsIn(line, null).map(([from, to]) => line.slice(from, to))).to.deep.equal(['$1$x'])
  })

  it('in XML that is cut off, nested without end, or not of these models', () => {
    expect(data.read(XML.slice(0, 400))).to.deep.include({ hostname: 'gw1' })
    expect(data.read(XML.slice(0, 400)).faults).to.have.length(1)
    expect(data.read('<a>'.repeat(5000)).faults[0]?.reason).to.match(/nested deeper/)
    expect(detectDialect('<?xml version="1.0"?><note>hello</note>')).to.deep.include({ ok: false })
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.constantFrom(...XML.split('\n'), '<a>', '</a>', '&x;', '<![CDATA[', '<!DOCTYPE a [<!ENTITY x "y">]>'),
            fc.string({ unit: 'binary', maxLength: 10 }),
          ),
          { maxLength: 30 },
        ),
        (parts) => {
          const text = `<a>${parts.join('\n')}`
          expect(writeTree(data.read(text))).to.equal(text)
        },
      ),
      { numRuns: 300 },
    )
  })
})

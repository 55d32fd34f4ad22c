import { expect } from 'chai'
import fc from 'fast-check'
import {
  BASE_1_0,
  BASE_1_1,
  FrameReader,
  FramingError,
  framed,
  framingOf,
  readElement,
  readHello,
  readReply,
  selected,
  writeElement,
  writeHello,
  writeReply,
  writeRpc,
  type XmlPart,
} from '../../src/netconf/index.ts'

const octets = (text: string): Uint8Array => new TextEncoder().encode(text)
const chunked = (): FrameReader => Object.assign(new FrameReader(), { framing: 'chunked' as const })

describe('NETCONF: framing', () => {
  // RFC 6242 §4.2: the message <rpc message-id="102" …><close-session/></rpc>, in three chunks.
  const RPC = '<rpc message-id="102"\n     xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">\n  <close-session/>\n</rpc>'
  const EXAMPLE = `\n#4\n<rpc\n#18\n message-id="102"\n\n#79\n     xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">\n  <close-session/>\n</rpc>\n##\n`

  it('puts the example of RFC 6242 §4.2 together, however it is cut on its way', () => {
    expect(chunked().push(octets(EXAMPLE))).to.deep.equal([RPC])
    for (let at = 1; at < EXAMPLE.length; at += 1) {
      const reader = chunked()
      expect([...reader.push(octets(EXAMPLE.slice(0, at))), ...reader.push(octets(EXAMPLE.slice(at)))]).to.deep.equal([
        RPC,
      ])
    }
  })

  it('parts messages at their end mark before both sides have agreed on chunks (RFC 6242 §4.3)', () => {
    const reader = new FrameReader()
    expect(reader.push(octets('<hello/>]]>]]><a/>]]'))).to.deep.equal(['<hello/>'])
    expect(reader.push(octets('>]]>'))).to.deep.equal(['<a/>'])
    expect([framingOf([BASE_1_0, BASE_1_1], [BASE_1_1]), framingOf([BASE_1_0, BASE_1_1], [BASE_1_0])]).to.deep.equal([
      'chunked',
      'end-of-message',
    ])
  })

  it('refuses what is no chunk: no size, a size of nothing, more than 4294967295 octets, an end without a chunk', () => {
    for (const wrong of [
      '\n#0\n',
      '\n#01\n<',
      '\n#4294967296\n',
      '\n##\n',
      '<rpc/>',
      '\n#x',
      '\n# 4\n',
      '\n#99999999999\n',
    ])
      expect(() => chunked().push(octets(wrong)), JSON.stringify(wrong)).to.throw(FramingError)
  })

  it('gives back whatever was sent, in either framing, cut anywhere; sizes are counted in octets', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc
            .string({ unit: 'binary', minLength: 1 })
            .filter((text) => !text.includes(']]>]]>') && !/[\ud800-\udfff]/u.test(text) && !text.startsWith('\ufeff')),
          { maxLength: 4 },
        ),
        fc.constantFrom('chunked' as const, 'end-of-message' as const),
        fc.integer({ min: 1, max: 50 }),
        (messages, framing, size) => {
          const reader = Object.assign(new FrameReader(), { framing })
          const bytes = Uint8Array.from(messages.flatMap((message) => [...framed(message, framing)]))
          const got: string[] = []
          for (let from = 0; from < bytes.length; from += size)
            got.push(...reader.push(bytes.subarray(from, from + size)))
          expect(got).to.deep.equal(messages)
        },
      ),
    )
  })
})

describe('NETCONF: messages', () => {
  it('reads the hello of RFC 6241 §8.1, and refuses others', () => {
    const hello =
      '<hello xmlns="urn:ietf:params:xml:ns:netconf:base:1.0">\n <capabilities>\n <capability>\n urn:ietf:params:netconf:base:1.1\n </capability>\n <capability>\n urn:ietf:params:netconf:capability:startup:1.0\n </capability>\n <capability>\n http://example.net/router/2.3/myfeature\n </capability>\n </capabilities>\n <session-id>4</session-id>\n</hello>'
    expect(readHello(hello)).to.deep.equal({
      capabilities: [
        BASE_1_1,
        'urn:ietf:params:netconf:capability:startup:1.0',
        'http://example.net/router/2.3/myfeature',
      ],
      session: '4',
    })
    expect(readHello(writeHello({ capabilities: [BASE_1_0], session: null }))).to.deep.equal({
      capabilities: [BASE_1_0],
      session: null,
    })
    for (const wrong of [
      '<hello/>',
      '<hello xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><capabilities/></hello>',
      '<rpc',
      '<!DOCTYPE a [<!ENTITY b "c">]><hello xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"/>',
    ])
      expect(() => readHello(wrong), wrong).to.throw()
  })

  it('reads replies: the missing attribute of RFC 6241 §4.3, and the lock that another session holds (§7.5)', () => {
    const missing =
      '<rpc-reply xmlns="urn:ietf:params:xml:ns:netconf:base:1.0"><rpc-error><error-type>rpc</error-type><error-tag>missing-attribute</error-tag><error-severity>error</error-severity><error-info><bad-attribute>message-id</bad-attribute><bad-element>rpc</bad-element></error-info></rpc-error></rpc-reply>'
    expect(readReply(missing)).to.deep.equal({
      id: null,
      errors: [{ tag: 'missing-attribute', message: '', severity: 'error' }],
    })
    const denied = writeReply('101', {
      errors: [
        {
          type: 'protocol',
          tag: 'lock-denied',
          message: 'Lock failed, lock is already held',
          info: [['session-id', '454']],
        },
      ],
    })
    expect(denied).to.contain('<error-info><session-id>454</session-id></error-info>')
    expect(readReply(denied)).to.deep.equal({
      id: '101',
      errors: [{ tag: 'lock-denied', message: 'Lock failed, lock is already held', severity: 'error' }],
    })
    expect(readReply(writeReply('1', 'ok'))).to.deep.equal({ id: '1', errors: [] })
    expect(readElement(writeRpc('7', ['get-config', [['source', [['running', null]]]]])).children[0]).to.include({
      name: 'get-config',
      ns: 'urn:ietf:params:xml:ns:netconf:base:1.0',
    })
  })

  it('selects by a subtree as the examples of RFC 6241 §6.4 do, with other people', () => {
    const user = (name: string, type: string, full: string, dept: string, id: string): XmlPart => [
      'user',
      [
        ['name', name],
        ['type', type],
        ['full-name', full],
        [
          'company-info',
          [
            ['dept', dept],
            ['id', id],
          ],
        ],
      ],
    ]
    const users = [
      user('root', 'superuser', 'The Root', '1', '1'),
      user('wren', 'admin', 'Wren of the Quay', '2', '2'),
      user('finch', 'admin', 'Finch of the Dock', '2', '3'),
    ]
    const data: XmlPart[] = [
      [
        'top',
        [
          ['users', users],
          ['groups', [['group', [['name', 'all']]]]],
        ],
        { xmlns: 'http://example.com/schema/1.2/config' },
      ],
    ]
    const by = (filter: string): string =>
      selected(
        data,
        readElement(`<filter xmlns="urn:ietf:params:xml:ns:netconf:base:1.0" type="subtree">${filter}</filter>`),
      )
        .map(writeElement)
        .join('')
    const top = (inner: string): string => `<top xmlns="http://example.com/schema/1.2/config">${inner}</top>`
    expect(selected(data, undefined).map(writeElement).join(''), '§6.4.1: no filter').to.equal(
      writeElement(data[0] as XmlPart),
    )
    expect(by(''), '§6.4.2: an empty filter').to.equal('')
    expect(by(top('<users/>')), '§6.4.3: the whole subtree').to.equal(
      top(`<users>${users.map(writeElement).join('')}</users>`),
    )
    expect(by(top('<users><user><name/></user></users>')), '§6.4.4: all names').to.equal(
      top('<users><user><name>root</name></user><user><name>wren</name></user><user><name>finch</name></user></users>'),
    )
    expect(by(top('<users><user><name>wren</name></user></users>')), '§6.4.5: one entry').to.equal(
      top(`<users>${writeElement(users[1] as XmlPart)}</users>`),
    )
    expect(
      by(top('<users><user><name>wren</name><type/><full-name/></user></users>')),
      '§6.4.6: some of one entry',
    ).to.equal(
      top('<users><user><name>wren</name><type>admin</type><full-name>Wren of the Quay</full-name></user></users>'),
    )
    expect(by('<top xmlns="http://example.com/other"><users/></top>'), 'another namespace').to.equal('')
  })
})

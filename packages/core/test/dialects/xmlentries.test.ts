import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import fc from 'fast-check'
import {
  EffectiveConfig,
  MaskedLines,
  Walker,
  applyCommands,
  detectDialect,
  dialectById,
  modelOf,
  planFor,
  traceOf,
  writeTree,
  type DeviceModel,
  type Dialect,
  type Packet,
} from '../../src/index.ts'
import type { TracePath } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf, udp } from '../forwarding/networks.ts'

const xmlentries = dialectById('xmlentries') as Dialect
const OFFICE = readFileSync(new URL('listings/xmlentries.txt', import.meta.url), 'utf8')
const mask = (text: string): string => `‹secret:${text.length}›`
const held = (text: string): string[] => xmlentries.evaluate([xmlentries.read(text)]).statements.map((one) => one.text)
const modelled = (text: string) => modelOf(EffectiveConfig.of(xmlentries.read(text), xmlentries), { record: 'r', mask })
const model = (text: string): DeviceModel => modelled(text).model

describe('an XML listing as text', () => {
  it('is told apart from data of YANG models and from other XML', () => {
    expect(detectDialect(OFFICE)).to.include({ ok: true, share: 1 }).and.property('dialect').equals(xmlentries)
    const yang = '<system xmlns="urn:ietf:params:xml:ns:yang:ietf-system"><hostname>a</hostname></system>'
    expect(xmlentries.recognise(yang)).to.equal(0)
    expect(dialectById('data')?.recognise(OFFICE)).to.equal(0)
    expect(detectDialect('<config><entry name="a"/></config>')).to.include({ ok: false })
  })

  it('gives the text back, byte for byte, whatever it is', () => {
    const piece = fc.constantFrom(
      '<config>',
      '</config>',
      '<shared>',
      '</shared>',
      '<address>',
      '</address>',
      '<entry name="a b">',
      '</entry>',
      '<member>x</member>',
      '<ip-netmask>10.0.0.1</ip-netmask>',
      '<!-- remark -->',
      '<empty/>',
      'text',
      '&amp;',
      '<broken',
      '',
    )
    const ending = fc.constantFrom('\n', '\r\n', '', '\n\n')
    fc.assert(
      fc.property(fc.array(fc.tuple(piece, ending)), (parts) => {
        const text = parts.map(([part, end]) => part + end).join('')
        const tree = xmlentries.read(text)
        expect(writeTree(tree)).to.equal(text)
        expect(() => xmlentries.evaluate([tree])).to.not.throw()
      }),
    )
  })

  it('is one path a value, of the device: what stands around every part is left out', () => {
    expect(
      held(
        '<config><shared><address><entry name="a b"><fqdn>x.example</fqdn></entry></address></shared><devices><entry name="d"><vsys><entry name="v"><zone><entry name="z"/></zone></entry></vsys></entry></devices></config>',
      ),
    ).to.deep.equal(['shared address "a b" fqdn x.example', 'zone z'])
  })

  it('of several virtual systems each keeps its name', () => {
    const system = (name: string): string => `<entry name="${name}"><zone><entry name="z"/></zone></entry>`
    expect(
      held(`<config><devices><entry name="d"><vsys>${system('v1')}${system('v2')}</vsys></entry></devices></config>`),
    ).to.deep.equal(['vsys v1 zone z', 'vsys v2 zone z'])
  })

  it('knows the lines and columns of what stands on one line', () => {
    const tree = xmlentries.read('<config>\n<a><b>1</b><c>2</c></a>\n</config>\n')
    const nodes = xmlentries
      .evaluate([tree])
      .statements.map(({ text, nodes: [node] }) => [text, node?.line, node?.columns])
    expect(nodes).to.deep.equal([
      ['a b 1', 2, [4, 11]],
      ['a c 2', 2, [12, 19]],
    ])
  })

  const faults: readonly [text: string, line: number, reason: RegExp][] = [
    ['<config>\n<a>\n', 2, /unclosed tag/],
    ['<config>\n<a></b>\n</config>', 2, /unmatched closing tag|unexpected close tag/i],
    [`<config>${'<a>'.repeat(70)}`, 1, /nested deeper than 64/],
  ]
  for (const [text, line, reason] of faults)
    it(`says where it is not whole: ${String(reason)}`, () => {
      const [fault] = xmlentries.read(text).faults
      expect(fault?.reason).to.match(reason)
      expect(fault?.line).to.be.within(line, line + 1)
    })

  it('is typed as paths, and taken back so', () => {
    const tree = xmlentries.read(OFFICE)
    const scope = xmlentries.evaluate([tree])
    const plan = planFor(
      [
        {
          block: null,
          remove: ['deviceconfig system service disable-telnet yes'],
          add: ['deviceconfig system timezone Europe/Oslo', 'rulebase security rules "office out" source "log host"'],
        },
      ],
      scope,
      xmlentries,
    )
    expect(plan.commands).to.deep.equal([
      'delete deviceconfig system service disable-telnet yes',
      'set deviceconfig system timezone Europe/Oslo',
      'set rulebase security rules "office out" source "log host"',
    ])
    const after = applyCommands(tree, plan.commands, xmlentries).statements.map((one) => one.text)
    expect(after).to.include.members([
      'deviceconfig system timezone Europe/Oslo',
      'rulebase security rules "office out" source office',
      'rulebase security rules "office out" source "log host"',
    ])
    expect(after).to.not.include('deviceconfig system timezone UTC')
    const back = applyCommands(tree, [...plan.commands, ...plan.rollback], xmlentries).statements.map((one) => one.text)
    expect(back.sort()).to.deep.equal(scope.statements.map((one) => one.text).sort())
  })
})

describe('an XML listing as a model', () => {
  it('is read whole', () => {
    const { unread, model: of } = modelled(OFFICE)
    expect(unread).to.deep.equal([])
    expect(of.system).to.deep.include({ hostname: 'ch-fw1', domainName: 'charter.example', timeZone: 'UTC' })
    expect(
      of.interfaces.map(({ name, kind, zone, addresses: [first] }) => [name, kind, zone, first?.address]),
    ).to.deep.equal([
      ['ethernet1/1', 'ethernet', 'outside', '198.51.100.6'],
      ['ethernet1/2.10', 'vlan', 'office', '10.80.1.1'],
      ['ethernet1/2.20', 'vlan', 'booking', '10.80.2.1'],
    ])
    expect(of.zonePolicies.map(({ name, scope, action }) => [name, scope, action])).to.deep.equal([
      ['office out', 'global', 'permit'],
      ['booking in', 'global', 'permit'],
      ['within outside', 'within', 'permit'],
      ['within office', 'within', 'permit'],
      ['within booking', 'within', 'permit'],
    ])
    expect(
      of.nat.map(({ statement, fromZone, toZone, address, ports, pool, list }) => [
        statement,
        fromZone,
        toZone,
        address,
        ports,
        pool,
        list,
      ]),
    ).to.deep.equal([
      ['booking in', 'outside', 'outside', 'booking host', '8443', null, 'service-https'],
      ['out', 'office,booking', 'outside', null, null, 'interface', null],
    ])
    expect(of.system.users[0]?.secret).to.include({ kind: 'sha256-crypt' })
  })

  it('takes its own objects before shared ones of the same name', () => {
    expect(model(OFFICE).addressGroups.find(({ name }) => name === 'office')?.members).to.deep.equal(['10.80.1.0/24'])
    expect(model(OFFICE).addressGroups.find(({ name }) => name === 'log host')?.members).to.deep.equal([
      '10.40.0.21/32',
    ])
  })

  it('says of a rule what cannot be weighed', () => {
    const text = OFFICE.replace(
      '<application>\n                    <member>any</member>',
      '<application>\n                    <member>web-browsing</member>',
    )
    expect(model(text).zonePolicies[0]?.notWeighed).to.deep.equal(['application web-browsing'])
  })

  it('lists what it does not know', () => {
    const { unread } = modelled(OFFICE.replace('<timezone>UTC</timezone>', '<strange>1</strange>'))
    expect(unread.map(({ text }) => text)).to.deep.equal(['strange 1'])
  })

  it('shows no secret', () => {
    const tree = xmlentries.read(OFFICE)
    const lines = new MaskedLines(tree, xmlentries, mask)
    const shown = Array.from({ length: tree.lines.length }, (_, i) => lines.at(i + 1)).join('\n')
    expect(shown).to.not.contain('gullwings')
    expect(JSON.stringify(model(OFFICE))).to.not.contain('gullwings')
  })
})

const tcp = (source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet =>
  udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'], ...more })

function path(at: string, packet: Packet, text = OFFICE): TracePath | undefined {
  const network = networkOf(deviceOf('fw', 'xmlentries', text))
  const port = network.devices[0]?.interfaces.findIndex(({ name }) => name === at) ?? -1
  return traceOf(new Walker(network), 0, port, packet).paths[0]
}
const decisions = (found: TracePath | undefined): string =>
  found?.hops[0]?.decisions.map(({ stage, result }) => `${stage}: ${result}`).join('\n') ?? ''

describe('traffic through an XML listing', () => {
  it('goes where a rule permits it, from the address that the rule of translation hands out', () => {
    const found = path('ethernet1/2.10', tcp('10.80.1.9', '203.0.113.5', 443))
    expect(found?.fate).to.equal('leaves')
    expect(decisions(found))
      .to.contain('office out, from office to outside: permit')
      .and.contain('source translation: out')
    expect(decisions(found)).to.match(/header: 10\.80\.1\.9:1024 to \S+:443 becomes 198\.51\.100\.6:\d+ to \S+:443/)
  })

  it('is stopped where none does, though a rule that is switched off would', () => {
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '203.0.113.5', 22))?.fate).to.equal('stopped')
    expect(path('ethernet1/1', tcp('203.0.113.5', '10.80.2.15', 22))?.fate).to.equal('stopped')
  })

  it('is asked for the address and the port that a packet came with, and for the zone of the host behind them', () => {
    const found = path('ethernet1/1', tcp('203.0.113.5', '198.51.100.6', 443))
    expect(found?.fate).to.equal('arrives')
    expect(decisions(found))
      .to.contain('destination translation: booking in')
      .and.contain('becomes 203.0.113.5:1024 to 10.80.2.15:8443')
      .and.contain('booking in, from outside to booking: permit')
    expect(path('ethernet1/1', tcp('203.0.113.5', '10.80.2.15', 8443))?.fate).to.equal('stopped')
    // The port behind the translation is not what the rule asks for.
    const behind = OFFICE.replace(/(<entry name="booking in">[\s\S]*?<service>\s*<member>)service-https/, '$1booking')
    expect(path('ethernet1/1', tcp('203.0.113.5', '198.51.100.6', 443), behind)?.fate).to.equal('stopped')
  })

  it('within a zone goes, unless something else is stated', () => {
    const text = OFFICE.replace('<member>ethernet1/2.20</member>\n                </layer3>', '</layer3>').replace(
      '<member>ethernet1/2.10</member>\n                </layer3>',
      '<member>ethernet1/2.10</member><member>ethernet1/2.20</member>\n                </layer3>',
    )
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '10.80.2.9', 22), text)?.fate).to.equal('arrives')
    const denied = text.replace(
      '<security>',
      '<default-security-rules><rules><entry name="intrazone-default"><action>deny</action></entry></rules></default-security-rules><security>',
    )
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '10.80.2.9', 22), denied)?.fate).to.equal('stopped')
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '10.80.2.9', 22))?.fate).to.equal('stopped')
  })

  it('to the device itself is let in as the profile of the interface says', () => {
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '10.80.1.1', 22))?.fate).to.equal('arrives')
    expect(path('ethernet1/1', tcp('203.0.113.5', '198.51.100.6', 22))?.fate).to.equal('stopped')
    expect(path('ethernet1/2.20', tcp('10.80.2.9', '10.80.2.1', 22))?.fate).to.equal('stopped')
    const limited = OFFICE.replace(
      '<ssh>yes</ssh>',
      '<ssh>yes</ssh><permitted-ip><entry name="10.80.1.7"/></permitted-ip>',
    )
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '10.80.1.1', 22), limited)?.fate).to.equal('undecided')
  })

  it('is undecided where an element that is not understood may say something of it', () => {
    const text = OFFICE.replace(
      '<nat>',
      '<pbf><rules><entry name="x"><action>discard</action></entry></rules></pbf><nat>',
    )
    expect(path('ethernet1/2.10', tcp('10.80.1.9', '203.0.113.5', 443), text)?.fate).to.equal('undecided')
  })
})

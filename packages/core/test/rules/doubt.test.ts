import { expect } from 'chai'
import { deviceOf, ruleOf } from './judging.ts'

/** What a rule says of a configuration. */
function judged(config: string, body: object): { outcome: string; branch: string | null; lines: number[] } {
  const { outcome, branch, places } = ruleOf(body).judge(deviceOf(config), {})
  return { outcome, branch, lines: places.map(({ from }) => from) }
}
const failWhere = (when: unknown) => ({
  nothing: { outcome: 'notapplicable', note: 'n' },
  decide: [
    { id: 'bad', when, outcome: 'fail', note: 'n' },
    { id: 'good', outcome: 'pass', note: 'n' },
  ],
})

describe('lines that were not understood', () => {
  const NOBODY_KNOWS = 'hostname a\nip xqzzy server\n'

  it('may be what a branch looked for: a pass becomes unknown, and names them', () => {
    expect(judged(NOBODY_KNOWS, failWhere('ip http server'))).to.deep.equal({
      outcome: 'unknown',
      branch: 'unparsed',
      lines: [2],
    })
  })

  it('may say what the model lacks', () => {
    expect(judged(NOBODY_KNOWS, failWhere({ model: 'system.services.http.enabled == true' })).outcome).to.equal(
      'unknown',
    )
    expect(judged('hostname a\n', failWhere({ model: 'system.services.http.enabled == true' })).outcome).to.equal(
      'pass',
    )
  })

  it('about something else leave a pass as it is', () => {
    expect(judged(NOBODY_KNOWS, failWhere('snmp-server community <name> ...')).outcome).to.equal('pass')
  })

  it('do not undo what was found', () => {
    expect(judged(`${NOBODY_KNOWS}ip http server\n`, failWhere('ip http server'))).to.deep.equal({
      outcome: 'fail',
      branch: 'bad',
      lines: [3],
    })
  })

  it('count for branches with another outcome only: it would be a pass either way', () => {
    const decide = [
      { id: 'stated', when: 'ip http server', outcome: 'pass', note: 'n' },
      { id: 'silent', outcome: 'pass', note: 'n' },
    ]
    expect(judged(NOBODY_KNOWS, { decide }).branch).to.equal('silent')
  })

  it('within one block cast doubt on that block, and no other', () => {
    const config = 'interface Vlan1\n ip xqzzy in\ninterface Vlan2\n ip address 10.0.0.1 255.255.255.0\n'
    const each = { each: { block: 'interface <name>' }, ...failWhere('ip access-group <acl> in') }
    expect(judged(config, each).lines).to.include(2)
    expect(judged(config, each).outcome).to.equal('unknown')
    const named = { ...each, each: { ...each.each, where: { expr: 'name == "Vlan2"' } } }
    expect(judged(config, named).outcome).to.equal('pass')
  })
})

describe('a record that is not whole', () => {
  const CUT = '% Invalid input detected\n'

  it('may lack the lines of an entry that it breaks off in, and not those of another', () => {
    const config = `interface Vlan1\n mtu 1400\ninterface Vlan2\n description b\n${CUT}`
    const of = (name: string) => ({
      each: { model: 'interfaces', as: 'port', name: 'port.name', where: `port.name == "${name}"` },
      ...failWhere({ model: 'port.description == null' }),
    })
    expect(judged(config, of('Vlan1')).outcome).to.equal('fail')
    expect(judged(config.replace(' description b\n', ' mtu 1400\n'), of('Vlan2')).outcome).to.equal('unknown')
  })

  it('may lack what makes an entry a subject of the rule', () => {
    const body = {
      each: { model: 'interfaces', as: 'port', name: 'port.name', where: 'port.enabled != false' },
      ...failWhere({ model: 'port.name != ""' }),
    }
    expect(judged('interface Vlan1\n mtu 1400\n', body).outcome).to.equal('fail')
    expect(judged(`interface Vlan1\n mtu 1400\n${CUT}`, body).outcome).to.equal('unknown')
  })

  it('may lack entries of a list that is collected', () => {
    const body = failWhere({
      all: [
        { collect: { of: 'ntp trusted-key <key>', take: 'key', as: 'trusted' } },
        { line: 'ntp server <host> key <key>', where: '!(key in trusted)' },
      ],
    })
    expect(judged('ntp server 10.0.0.1 key 7\n', body).outcome).to.equal('fail')
    expect(judged(`ntp server 10.0.0.1 key 7\n${CUT}`, body).outcome).to.equal('unknown')
  })

  it('may lack entries of an access list, and what names it', () => {
    const open = failWhere({ list: { name: 'X', family: 'ipv4', is: 'open' } })
    const list = 'ip access-list extended X\n permit ip any any\n'
    expect(judged(list, open).outcome).to.equal('fail')
    expect(judged(`${list}${CUT}`, open).outcome).to.equal('unknown')
    const asked = failWhere({ access: { list: 'system.services.https.accessList', service: 'web', is: 'undefined' } })
    expect(judged('hostname a\n', asked).outcome).to.equal('pass')
    expect(judged(`hostname a\n${CUT}`, asked).outcome).to.equal('unknown')
  })
})

import { expect } from 'chai'
import { Walker, traceOf, type Packet } from '../../src/index.ts'
import type { SessionState, TracePath } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

const tcp = (source: string, destination: string, destinationPort: number, more: Partial<Packet> = {}): Packet =>
  udp(source, destination, destinationPort, { protocol: 6, tcpFlags: ['syn'], ...more })
const port = (name: string, address: string, zone: string | null): string =>
  `interface ${name}\n ip address ${address} 255.255.255.0\n${zone === null ? '' : ` zone-member security ${zone}\n`}`
const DEVICE = `zone security IN
zone security OUT
class-map type inspect match-any WEB
 match protocol http
 match access-group name EXTRA
class-map type inspect match-all BOTH
 match protocol tcp
 match access-group name HOST
policy-map type inspect FROM-IN
 class type inspect WEB
  inspect
 class type inspect BOTH
  pass
 class class-default
  drop log
zone-pair security IN-OUT source IN destination OUT
 service-policy type inspect FROM-IN
${port('lan', '10.1.0.1', 'IN')}${port('more', '10.4.0.1', 'IN')}${port('wan', '10.2.0.1', 'OUT')}${port('free', '10.3.0.1', null)}${port('open', '10.5.0.1', null)}ip access-list extended EXTRA
 permit udp any any eq 5000
ip access-list extended HOST
 permit ip host 10.1.0.9 any
`
const path = (
  at: string,
  packet: Packet,
  text = DEVICE,
  remembered: SessionState = new Map(),
): TracePath | undefined => {
  const network = networkOf(deviceOf('fw', 'indented', text))
  return traceOf(
    new Walker(network),
    0,
    at === '' ? -1 : (network.devices[0]?.interfaces.findIndex(({ name }) => name === at) ?? -1),
    packet,
    remembered,
  ).paths[0]
}

describe('zones of the dialect of lines in blocks', () => {
  it('a pair’s classes are asked in turn: by protocol, by list, any or all of them; what none meets is dropped', () => {
    expect(path('lan', tcp('10.1.0.5', '10.2.0.5', 80))?.fate).to.equal('arrives')
    expect(path('lan', udp('10.1.0.5', '10.2.0.5', 5000))?.fate).to.equal('arrives')
    expect(path('lan', tcp('10.1.0.9', '10.2.0.5', 22))?.fate).to.equal('arrives')
    expect(path('lan', udp('10.1.0.9', '10.2.0.5', 22))).to.deep.include({
      fate: 'stopped',
      reason: { code: 'zone-policy', words: 'from zone IN to OUT' },
    })
    const stopped = path('lan', tcp('10.1.0.5', '10.2.0.5', 22))
    const decision = stopped?.hops[0]?.decisions.find(({ stage }) => stage === 'zone policy')
    expect(decision?.result).to.equal('IN-OUT, class class-default: drop')
    expect(decision?.exhibits.map(({ from }) => DEVICE.split('\n')[from - 1]?.trim())).to.include('class class-default')
  })

  it('ports of one zone or of none are free to talk; a pair that nobody states is closed, and one port in a zone too', () => {
    expect(path('lan', tcp('10.1.0.5', '10.4.0.5', 22))?.fate).to.equal('arrives')
    expect(path('free', tcp('10.3.0.5', '10.5.0.5', 22))?.fate).to.equal('arrives')
    expect(path('wan', tcp('10.2.0.5', '10.1.0.5', 80))?.reason.words).to.equal('no pair from zone OUT to IN')
    expect(path('free', tcp('10.3.0.5', '10.1.0.5', 80))?.reason.words).to.equal('free is in no zone')
  })

  it('the device itself is free where no pair names it', () => {
    expect(path('wan', udp('10.2.0.5', '10.2.0.1', 161))?.fate).to.equal('arrives')
    expect(path('', udp('10.2.0.1', '10.2.0.5', 161))?.fate).to.equal('arrives')
    const guarded = `${DEVICE}zone-pair security OUT-SELF source OUT destination self\n service-policy type inspect FROM-IN\n`
    expect(path('wan', udp('10.2.0.5', '10.2.0.1', 161), guarded)?.fate).to.equal('stopped')
    expect(path('wan', udp('10.2.0.5', '10.2.0.1', 5000), guarded)?.fate).to.equal('arrives')
    expect(path('', udp('10.2.0.1', '10.2.0.5', 161), guarded)?.fate).to.equal('arrives')
  })

  it('answers to what is inspected come back; of what is passed it is not known', () => {
    const answer = tcp('10.2.0.5', '10.1.0.5', 49152, { sourcePort: 80, tcpFlags: ['syn', 'ack'] })
    expect(path('wan', answer, DEVICE.replace('  pass\n', '  inspect\n'), new Map([[0, []]]))?.fate).to.equal('arrives')
    expect(path('wan', answer, DEVICE, new Map([[0, []]]))).to.deep.include({
      fate: 'undecided',
      reason: { code: 'not-evaluated', words: 'the pair from IN to OUT passes packets without a session' },
    })
  })

  for (const [name, change, words] of [
    [
      'a class that nothing defines',
      (text: string) => text.replace('class type inspect WEB', 'class type inspect GONE'),
      'the class GONE is not defined',
    ],
    [
      'a protocol that is not known',
      (text: string) => text.replace('match protocol http', 'match protocol strangeproto'),
      'the class WEB matches “protocol strangeproto”, which is not parsed',
    ],
    [
      'a policy that nothing defines',
      (text: string) => text.replace('service-policy type inspect FROM-IN', 'service-policy type inspect GONE'),
      'the policy GONE is not defined',
    ],
    [
      'a pair without a policy',
      (text: string) => text.replace(' service-policy type inspect FROM-IN\n', ''),
      'the pair IN-OUT has no policy',
    ],
  ] as const)
    it(`${name} decides nothing`, () =>
      expect(path('lan', tcp('10.1.0.5', '10.2.0.5', 22), change(DEVICE))).to.deep.include({
        fate: 'undecided',
        reason: { code: 'not-evaluated', words },
      }))
})

import { expect } from 'chai'
import { Network, Walker, answerTo, readExpectations } from '../../src/index.ts'
import {
  expectationSchema,
  forwardingOf,
  readLinksFile,
  withOutside,
  type ExpectationAnswer,
  type NetworkDevice,
} from '../../src/forwarding/index.ts'
import { deviceOf } from './networks.ts'

/**
 * A core between an office, card systems and the world outside, with a firewall before the cards and a second way round
 * it.
 */
const DEVICES: Record<string, string> = {
  core: `hostname core
interface Office
 ip address 10.40.10.1 255.255.255.0
interface ToFw
 ip address 10.9.1.1 255.255.255.252
interface ToSide
 ip address 10.9.2.1 255.255.255.252
interface Wan
 ip address 203.0.113.2 255.255.255.252
 ip access-group WAN-IN in
ip route 10.40.60.0 255.255.255.0 10.9.1.2
ip route 0.0.0.0 0.0.0.0 203.0.113.1
ip access-list extended WAN-IN
 permit tcp any any established
 deny ip any any
`,
  fw: `hostname fw
interface Inside
 ip address 10.9.1.2 255.255.255.252
interface Cards
 ip address 10.40.60.1 255.255.255.0
 ip access-group TO-CARDS out
ip route 0.0.0.0 0.0.0.0 10.9.1.1
ip access-list extended TO-CARDS
 permit tcp 10.40.10.0 0.0.0.255 host 10.40.60.10 eq 443
 deny tcp any any eq 22
`,
  side: `hostname side
interface Up
 ip address 10.9.2.2 255.255.255.252
interface Lab
 ip address 10.40.70.1 255.255.255.0
ip route 0.0.0.0 0.0.0.0 10.9.2.1
`,
}

const answer = (
  stated: object,
  change: (devices: Record<string, string>) => Record<string, string> = (same) => same,
  links = 'links: []',
): ExpectationAnswer => {
  const devices = Object.entries(change(DEVICES)).map(([name, text]): NetworkDevice => deviceOf(name, 'indented', text))
  const network = Network.of(devices.map(forwardingOf), [], readLinksFile({ path: 'links.yaml', text: links }))
  return answerTo(new Walker(network), expectationSchema.parse({ id: 'x', title: 'X', ...stated }))
}
const lines = ({ exhibits }: ExpectationAnswer, change: Record<string, string> = DEVICES): string[] =>
  exhibits.map(({ device, from }) => `${device}: ${(change[device] ?? '').split('\n')[from - 1]?.trim() ?? ''}`)

describe('expectations', () => {
  const cases: {
    name: string
    stated: object
    change?: (devices: Record<string, string>) => Record<string, string>
    outcome: string
    words: RegExp
    classes?: string[]
    line?: string
  }[] = [
    {
      name: 'an arrival that holds',
      stated: { from: '10.40.10.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: 'arrive' },
      outcome: 'met',
      words: /all packets arrive/,
    },
    {
      name: 'an arrival that is cut by a line',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', only: 'tcp dst port 22', must: 'arrive' },
      outcome: 'violated',
      words: /stopped at fw: filter out: TO-CARDS/,
      line: 'fw: deny tcp any any eq 22',
    },
    {
      name: 'an arrival that no line permits',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', only: 'udp', must: 'arrive' },
      outcome: 'violated',
      words: /TO-CARDS/,
      line: 'fw: ip access-list extended TO-CARDS',
    },
    {
      name: 'an isolation that holds',
      stated: { from: 'outside', to: '10.40.60.0/24', must: 'not-arrive' },
      outcome: 'met',
      words: /none arrive/,
    },
    {
      name: 'of every header it is violated: replies are let in',
      stated: { from: 'outside', to: '10.40.10.0/24', packets: 'all', must: 'not-arrive' },
      outcome: 'violated',
      words: /some arrive through core/,
      line: 'core: permit tcp any any established',
    },
    {
      name: 'an isolation that a line breaks',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', must: 'not-arrive' },
      outcome: 'violated',
      words: /through fw Cards/,
      classes: ['tcp and src net 10.40.10.0/24 and dst host 10.40.60.10 and dst port 443'],
      line: 'fw: permit tcp 10.40.10.0 0.0.0.255 host 10.40.60.10 eq 443',
    },
    {
      name: 'through the firewall',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', must: { 'pass-through': 'fw' } },
      outcome: 'met',
      words: /all that arrive pass fw/,
    },
    {
      name: 'round the firewall',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', must: { 'pass-through': 'fw' } },
      change: (devices) => ({
        ...devices,
        core: `${devices['core'] ?? ''}interface Direct\n ip address 10.40.60.2 255.255.255.0\n`,
      }),
      outcome: 'violated',
      words: /without passing fw/,
      line: 'core: ip address 10.40.60.2 255.255.255.0',
    },
    {
      name: 'never through',
      stated: { from: '10.40.70.0/24', to: '10.40.60.0/24', must: { 'never-through': 'core' } },
      outcome: 'violated',
      words: /pass core/,
    },
    {
      name: 'leaving',
      stated: { from: '10.40.10.0/24', to: 'outside', must: 'arrive' },
      outcome: 'met',
      words: /all packets arrive/,
    },
    {
      name: 'two paths that are one',
      stated: { from: '10.40.70.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: { paths: 2 } },
      outcome: 'violated',
      words: /do not arrive at all/,
    },
    {
      name: 'a path that one device cuts',
      stated: { from: '10.40.70.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: { paths: 2 } },
      change: (devices) => ({
        ...devices,
        fw: (devices['fw'] ?? '').replace('permit tcp 10.40.10.0 0.0.0.255', 'permit tcp any'),
      }),
      outcome: 'violated',
      words: /without core some have no path left/,
    },
    {
      name: 'answers that come back',
      stated: { from: '10.40.10.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: 'be-answered' },
      outcome: 'met',
      words: /all replies return/,
    },
    {
      name: 'answers that a filter stops, and the line',
      stated: { from: '10.40.10.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: 'be-answered' },
      change: (devices) => ({
        ...devices,
        fw: `${(devices['fw'] ?? '').replace('255.255.255.0\n ip access-group TO-CARDS out', '255.255.255.0\n ip access-group FROM-CARDS in\n ip access-group TO-CARDS out')}ip access-list extended FROM-CARDS\n deny tcp any eq 443 any\n permit ip any any\n`,
      }),
      outcome: 'violated',
      words: /some replies do not return: stopped at fw: filter in: FROM-CARDS/,
      line: 'fw: deny tcp any eq 443 any',
    },
    {
      name: 'answers without a route',
      stated: { from: '10.40.10.0/24', to: '10.40.60.10', only: 'tcp dst port 443', must: 'be-answered' },
      change: (devices) => ({
        ...devices,
        fw: (devices['fw'] ?? '').replace('ip route 0.0.0.0 0.0.0.0 10.9.1.1\n', ''),
      }),
      outcome: 'violated',
      words: /stopped at fw: no route/,
    },
    {
      name: 'answers from outside, which a filter lets in since they are answers',
      stated: { from: '10.40.10.0/24', to: 'outside', only: 'tcp', must: 'be-answered' },
      outcome: 'met',
      words: /all replies return/,
    },
    {
      name: 'answers from outside, which it does not',
      stated: { from: '10.40.10.0/24', to: 'outside', only: 'udp', must: 'be-answered' },
      outcome: 'violated',
      words: /stopped at core: filter in: WAN-IN/,
      line: 'core: deny ip any any',
    },
    {
      name: 'what does not arrive is not answered',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', only: 'udp', must: 'be-answered' },
      outcome: 'violated',
      words: /some do not arrive/,
    },
    {
      name: 'a link in the clear',
      stated: { from: '10.40.70.0/24', to: '10.40.10.0/24', must: { protected: {} } },
      outcome: 'violated',
      words: /without this protection from side to core/,
    },
    {
      name: 'a place that is none',
      stated: { from: 'nowhere', to: '10.40.10.0/24', must: 'arrive' },
      outcome: 'undecided',
      words: /"nowhere" is not a place in this network/,
    },
    {
      name: 'a class that is none',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', only: 'tcp dst prot 1', must: 'arrive' },
      outcome: 'undecided',
      words: /column 9/,
    },
    {
      name: 'nothing that fits',
      stated: { from: '10.40.10.0/24', to: '10.40.60.0/24', only: 'ip6', must: 'arrive' },
      outcome: 'undecided',
      words: /no packets match/,
    },
    {
      name: 'what rests on a table that was not captured',
      stated: { from: '10.40.10.0/24', to: 'outside', must: 'arrive' },
      change: (devices) => ({
        ...devices,
        core: `${devices['core'] ?? ''}router ospf 1\n network 10.9.0.0 0.0.255.255 area 0\n`,
      }),
      outcome: 'undecided',
      words: /some are undecided/,
    },
  ]
  for (const { name, stated, change, outcome, words, classes, line } of cases) {
    it(name, () => {
      const said = answer(stated, change)
      expect(said.words).to.match(words)
      expect(said.outcome).to.equal(outcome)
      if (classes) expect(said.packets?.readable.classes).to.deep.equal(classes)
      if (line) expect(lines(said, change?.(DEVICES))).to.include(line)
      if (outcome === 'violated') expect(said.example?.trace.paths).to.have.length.above(0)
      if (outcome === 'undecided') expect(said.missing).to.have.length.above(0)
    })
  }

  it('an arrival that several lines stop together: all of them, at whichever device, and none that stops nothing of it', () => {
    const also = (devices: Record<string, string>): Record<string, string> => ({
      ...devices,
      core: `${(devices['core'] ?? '').replace('interface Office\n', 'interface Office\n ip access-group FROM-OFFICE in\n')}ip access-list extended FROM-OFFICE\n deny udp any any eq domain\n deny tcp any any eq 80\n permit ip any any\nip route 10.40.60.128 255.255.255.192 Null0\n`,
    })
    const said = answer(
      {
        from: '10.40.10.0/24',
        to: '10.40.60.0/24',
        only: 'udp or tcp dst port 22 or tcp dst port 443',
        must: 'arrive',
      },
      also,
    )
    expect(said.outcome).to.equal('violated')
    expect(lines(said, also(DEVICES)).sort()).to.deep.equal([
      'core: deny udp any any eq domain',
      'core: ip route 10.40.60.128 255.255.255.192 Null0',
      'fw: deny tcp any any eq 22',
      'fw: ip access-list extended TO-CARDS',
    ])
  })

  it('of three equal ways two and three share no device, four do not; where two of them come together later, two do not either', () => {
    const ways = [1, 2, 3]
    const near = `hostname near\ninterface Lan\n ip address 10.1.0.1 255.255.255.0\n${ways.map((i) => `interface To${i}\n ip address 10.9.${i}.1 255.255.255.252\n`).join('')}${ways.map((i) => `ip route 10.2.0.0 255.255.255.0 10.9.${i}.2\n`).join('')}`
    const middle = (i: number, on: string): string =>
      `hostname way${i}\ninterface In\n ip address 10.9.${i}.2 255.255.255.252\n${on}`
    const far = `hostname far\ninterface Lan\n ip address 10.2.0.1 255.255.255.0\n${ways.map((i) => `interface From${i}\n ip address 10.8.${i}.2 255.255.255.252\n`).join('')}`
    const straight = (i: number): string =>
      middle(i, `interface Out\n ip address 10.8.${i}.1 255.255.255.252\nip route 10.2.0.0 255.255.255.0 10.8.${i}.2\n`)
    const must = (paths: number, ...texts: string[]): string => {
      const network = Network.of(
        [near, far, ...texts].map((text) =>
          forwardingOf(deviceOf(/hostname (\S+)/.exec(text)?.[1] ?? '', 'indented', text)),
        ),
      )
      const { outcome, words } = answerTo(
        new Walker(network),
        expectationSchema.parse({ id: 'x', title: 'X', from: '10.1.0.0/24', to: '10.2.0.0/24', must: { paths } }),
      )
      return `${outcome}: ${words}`
    }
    expect([2, 3].map((paths) => must(paths, ...ways.map(straight)))).to.deep.equal(
      [2, 3].map((paths) => `met: there are ${paths} paths or more that share no device`),
    )
    expect(must(4, ...ways.map(straight))).to.match(
      /^violated: without way\d and way\d and way\d some have no path left$/,
    )
    // The second and third hand on to the first, which is on every way then.
    const crossing = (i: number): string =>
      middle(
        i,
        `interface Across\n ip address 10.7.${i}.2 255.255.255.252\nip route 10.2.0.0 255.255.255.0 10.7.${i}.1\n`,
      )
    expect(
      must(
        2,
        `${straight(1)}${[2, 3].map((i) => `interface Across${i}\n ip address 10.7.${i}.1 255.255.255.252\n`).join('')}`,
        crossing(2),
        crossing(3),
      ),
    ).to.equal('violated: without way1 some have no path left')
  })

  it('an attested link is protected, and says by whom', () => {
    const links =
      'links:\n  - between: [side:Up, core:ToSide]\n    protection: { by: link encryptor, algorithms: [aes-256], attestedBy: I. Wren, on: 2026-11-02 }\n'
    expect(
      answer(
        { from: '10.40.70.0/24', to: '10.40.10.0/24', must: { protected: { by: ['attested'], algorithms: ['aes'] } } },
        undefined,
        links,
      ).outcome,
    ).to.equal('met')
    expect(
      answer({ from: '10.40.70.0/24', to: '10.40.10.0/24', must: { protected: { by: ['ipsec'] } } }, undefined, links)
        .outcome,
    ).to.equal('violated')
  })

  it('says where a file goes wrong', () => {
    expect(() =>
      readExpectations({
        path: 'expectations.yaml',
        text: 'expectations:\n  - id: A B\n    title: x\n    from: a\n    to: b\n    must: arrive\n',
      }),
    ).to.throw(/expectations\.yaml: .*lower-case letters/)
    expect(() =>
      readExpectations({
        path: 'e.yaml',
        text: 'expectations:\n  - &a { id: a, title: x, from: a, to: b, must: arrive }\n  - *a\n',
      }),
    ).to.throw(/the id a is there twice/)
    expect(() => readExpectations({ path: 'e.yaml', text: 'expectations: [' })).to.throw(/e\.yaml: not valid YAML/)
    expect(() => readLinksFile({ path: 'links.yaml', text: 'links:\n  - between: [a, b:1]\n' })).to.throw(
      /expected DEVICE:PORT/,
    )
    const text = '# ours\nlinks:\n  - between: [a:1, b:1] # the cable\n'
    const declared = withOutside(text, ['a:2'])
    expect(readLinksFile({ path: 'links.yaml', text: declared }).outside).to.deep.equal(['a:2'])
    expect(declared).to.contain('# ours').and.contain('# the cable')
    expect(readLinksFile({ path: 'links.yaml', text: withOutside(declared, []) })).to.deep.equal(
      readLinksFile({ path: 'links.yaml', text }),
    )
    expect(readLinksFile({ path: 'links.yaml', text: withOutside('', ['a:2']) })).to.deep.equal({
      outside: ['a:2'],
      links: [],
    })
    expect(readLinksFile({ path: 'links.yaml', text: withOutside('', []) })).to.deep.equal({ outside: [], links: [] })
  })
})

describe('the example of an answer', () => {
  it('begins where it has the fate that is told: the same header may be lost from one place and arrive from another', () => {
    const change = (devices: Record<string, string>): Record<string, string> => ({
      ...devices,
      side: `${devices['side'] ?? ''}interface Back\n ip address 192.0.2.2 255.255.255.252\nip route 198.51.100.0 255.255.255.0 192.0.2.1\nip route 10.40.60.0 255.255.255.0 10.9.2.1\n`,
      fw: (devices['fw'] ?? '').replace(' permit tcp 10.40.10.0', ' permit udp any any eq 53\n permit tcp 10.40.10.0'),
    })
    const said = answer({ from: 'outside', to: '10.40.60.0/24', only: 'udp', must: 'not-arrive' }, change)
    expect(said.outcome).to.equal('violated')
    expect(said.example).to.include({ at: 'side', port: 'Back' })
    expect(said.example?.trace.fates).to.deep.equal(['arrives'])
  })
})

import { dialectById, EffectiveConfig, maskWithKey, modelOf, readSnapshot, type Dialect } from '@jurybox/core'
import { expect } from 'chai'
import fc from 'fast-check'
import { prefixesOfRange } from '../../src/model/address-ranges.ts'

// The form of the listing: libnftables-json(5), nft(8); the data is made up. What a kernel lists is read in the live
// tests.
const linux = dialectById('linux') as Dialect
const match = (left: unknown, right: unknown, op = '=='): unknown => ({ match: { op, left, right } })
const payload = (protocol: string, field: string): unknown => ({ payload: { protocol, field } })
const chain = (name: string, more: object = {}, table = 't', family = 'inet'): unknown => ({
  chain: { family, table, name, ...more },
})
const rule = (expr: readonly unknown[], at = 'in', table = 't', family = 'inet'): unknown => ({
  rule: { family, table, chain: at, expr },
})
const INPUT = { type: 'filter', hook: 'input', prio: 0, policy: 'drop' }
const said = (...objects: readonly unknown[]): string[] => {
  const { nodes } = linux.read(JSON.stringify({ nftables: objects }))
  return nodes.flatMap((table) => table.children.map(({ text }) => `${table.text.slice(1)} ${text}`))
}
const ruleFor = (...expr: readonly unknown[]): string[] =>
  said(chain('in', INPUT), rule(expr))
    .filter((line) => line.startsWith('filter -A'))
    .map((line) => line.replace('filter -A INPUT ', ''))
const accept = { accept: null }

const RULES: readonly (readonly [name: string, expr: readonly unknown[], is: readonly string[]])[] = [
  [
    'a port and a prefix',
    [
      match(payload('ip', 'saddr'), { prefix: { addr: '10.0.0.0', len: 24 } }),
      match(payload('tcp', 'dport'), 22),
      accept,
    ],
    ['-s 10.0.0.0/24 -p tcp -m multiport --dports 22 -j ACCEPT'],
  ],
  [
    'a set of ports and a range',
    [match(payload('udp', 'dport'), { set: [53, { range: [60, 70] }] }), accept],
    ['-p udp -m multiport --dports 53,60:70 -j ACCEPT'],
  ],
  [
    'a range of addresses',
    [match(payload('ip', 'daddr'), { range: ['10.0.0.1', '10.0.0.4'] }), accept],
    ['-d 10.0.0.1/32,10.0.0.2/31,10.0.0.4/32 -j ACCEPT'],
  ],
  ['what is not meant', [match(payload('ip', 'saddr'), '10.0.0.1', '!='), { drop: null }], ['! -s 10.0.0.1 -j DROP']],
  ['a set without elements, which nothing is in', [match(payload('ip', 'saddr'), { set: [] }), accept], []],
  [
    'what is not in a set without elements, which is everything',
    [match(payload('ip', 'saddr'), { set: [] }, '!='), match(payload('ip6', 'daddr'), { set: [] }, '!='), accept],
    [],
  ],
  [
    'ports and interfaces that are not in a set without elements',
    [
      match(payload('tcp', 'dport'), { set: [] }, '!='),
      match({ meta: { key: 'iifname' } }, { set: [] }, '!='),
      match(payload('ip', 'daddr'), { set: [] }, '!='),
      { drop: null },
    ],
    ['-p tcp -j DROP'],
  ],
  ['the other family', [match(payload('ip6', 'saddr'), '2001:db8::1'), accept], []],
  [
    'interfaces',
    [match({ meta: { key: 'iifname' } }, { set: ['lan0', 'wg*'] }), accept],
    ['-i lan0 -j ACCEPT', '-i wg+ -j ACCEPT'],
  ],
  [
    'states',
    [match({ ct: { key: 'state' } }, ['established', 'related'], 'in'), accept],
    ['-m conntrack --ctstate ESTABLISHED,RELATED -j ACCEPT'],
  ],
  [
    'a map of verdicts',
    [
      {
        vmap: {
          key: { ct: { key: 'state' } },
          data: {
            set: [
              ['invalid', { drop: null }],
              ['established', accept],
            ],
          },
        },
      },
    ],
    ['-m conntrack --ctstate INVALID -j DROP', '-m conntrack --ctstate ESTABLISHED -j ACCEPT'],
  ],
  [
    'protocols that exclude each other',
    [match({ meta: { key: 'l4proto' } }, 'udp'), match(payload('tcp', 'dport'), 22), accept],
    [],
  ],
  [
    'a protocol that is not meant beside another',
    [match({ meta: { key: 'l4proto' } }, 'tcp', '!='), match(payload('udp', 'dport'), 53), accept],
    ['! -p tcp -p udp -m multiport --dports 53 -j ACCEPT'],
  ],
  [
    'flags',
    [match({ '&': [payload('tcp', 'flags'), { '|': ['syn', 'ack'] }] }, 'syn'), accept],
    ['-p tcp --tcp-flags SYN,ACK SYN -j ACCEPT'],
  ],
  ['a log before a verdict', [{ log: { prefix: 'x' } }, { drop: null }], ['-j LOG', '-j DROP']],
  [
    'types of ICMP',
    [match(payload('icmp', 'type'), { set: ['echo-request', 'time-exceeded'] }), accept],
    ['-p icmp --icmp-type 8 -j ACCEPT', '-p icmp --icmp-type 11 -j ACCEPT'],
  ],
  [
    'what has no equal',
    [match({ fib: { result: 'type', flags: ['daddr'] } }, 'local'), accept],
    ['-m nft.fib -j ACCEPT'],
  ],
  ['a set that is not there', [match(payload('ip', 'saddr'), '@nowhere'), accept], ['-m nft.ip.saddr -j ACCEPT']],
  ['a statement that alters packets', [{ mangle: { key: { meta: { key: 'mark' } }, value: 1 } }], ['-j nft.mangle']],
  ['counters alone', [{ counter: { packets: 1, bytes: 2 } }], []],
]

describe('a ruleset of nftables', () => {
  for (const [name, expr, is] of RULES)
    it(`reads as saved rules: ${name}`, () => expect(ruleFor(...expr)).to.deep.equal(is))

  it('stands in the tables of both families, and drops nothing where there is no chain', () => {
    expect(said(chain('in', INPUT))).to.deep.equal([
      'filter :INPUT DROP [0:0]',
      'filter :FORWARD ACCEPT [0:0]',
      'filter6 :INPUT DROP [0:0]',
      'filter6 :FORWARD ACCEPT [0:0]',
    ])
    expect(said(chain('in', INPUT, 't', 'ip')), 'of IPv4 alone').to.include('filter6 :INPUT ACCEPT [0:0]')
  })

  it('knows chains of its own by their table, named sets, and translation', () => {
    const lines = said(
      chain('in', INPUT),
      chain('desk'),
      { set: { family: 'inet', table: 't', name: 's', elem: ['10.0.0.1', { elem: { val: '10.0.0.2' } }] } },
      rule([{ jump: { target: 'desk' } }]),
      rule([match(payload('ip', 'saddr'), '@s'), accept], 'desk'),
      chain('post', { type: 'nat', hook: 'postrouting', prio: 100 }, 'n', 'ip'),
      rule([match({ meta: { key: 'oifname' } }, 'out0'), { masquerade: null }], 'post', 'n', 'ip'),
      chain('pre', { type: 'nat', hook: 'prerouting', prio: -100 }, 'n', 'ip'),
      rule([match(payload('tcp', 'dport'), 80), { dnat: { addr: '10.0.0.9', port: 8080 } }], 'pre', 'n', 'ip'),
    )
    expect(lines).to.include.members([
      'filter -A INPUT -j inet.t.desk',
      'filter -A inet.t.desk -s 10.0.0.1,10.0.0.2 -j ACCEPT',
      'nat -A POSTROUTING -o out0 -j MASQUERADE',
      'nat -A PREROUTING -p tcp -m multiport --dports 80 -j DNAT --to-destination 10.0.0.9:8080',
    ])
  })

  it('is not weighed where it cannot be told: dynamic sets, more chains than there are places, chains of frames', () => {
    const dynamic = { set: { family: 'inet', table: 't', name: 's', flags: ['dynamic'], elem: ['10.0.0.1'] } }
    expect(said(chain('in', INPUT), dynamic, rule([match(payload('ip', 'saddr'), '@s'), accept]))).to.include(
      'filter -A INPUT -m nft.ip.saddr -j ACCEPT',
    )
    const four = [0, 1, 2, 3].map((prio) => chain(`in${prio}`, { ...INPUT, prio }))
    expect(said(...four).filter((line) => line.includes('several.chains'))).to.have.length(6)
    expect(said(chain('in', INPUT), rule([{ drop: null }], 'x', 'b', 'bridge'))).to.include(
      'raw -A PREROUTING -m nft.chains.of.frames.have.rules -j DROP',
    )
  })

  it('cites the place of each rule, also in a listing of one line', () => {
    const text = JSON.stringify({ nftables: [chain('in', INPUT), rule([accept])] })
    const { model, origins } = modelOf(EffectiveConfig.of(linux.read(text), linux), {
      record: 'r',
      mask: maskWithKey(new Uint8Array(32)),
    })
    const at = model.accessLists.findIndex(({ name, family }) => name === 'filter INPUT' && family === 'ipv4')
    const origin = origins.get(`accessLists[${at}].entries[0]`)
    const [place] = origin?.kind === 'line' ? origin.lines : []
    expect(text.slice((place?.columns?.[0] ?? 0) - 1, place?.columns?.[1])).to.equal(
      JSON.stringify((rule([accept]) as { rule: unknown }).rule),
    )
  })

  it('is a record of a gateway, by its file or by what it holds', () => {
    const bytes = new TextEncoder().encode(JSON.stringify({ nftables: [chain('in', INPUT)] }))
    for (const path of ['devices/g/nftables.json', 'devices/g/filters.txt', 'g.txt']) {
      const [device] = readSnapshot([{ path, bytes }]).devices
      expect([device?.dialect.id, device?.records[0]?.kind], path).to.deep.equal(['linux', 'config'])
    }
    const cut = linux.read('{"nftables": [{"chain": {"family": "inet"')
    expect(cut.faults[0]?.reason).to.contain('not JSON')
  })

  it('never throws, whatever it is given', () => {
    fc.assert(fc.property(fc.json({ maxDepth: 6 }), (text) => linux.read(`{"nftables": ${text}}`).dialect === 'linux'))
  })

  it('parts a range into prefixes that are the range and nothing else', () => {
    fc.assert(
      fc.property(fc.nat({ max: 5000 }), fc.nat({ max: 5000 }), (a, b) => {
        const address = (n: number): string => `10.0.${Math.floor(n / 256)}.${n % 256}`
        const [low, high] = [Math.min(a, b), Math.max(a, b)]
        const found = (prefixesOfRange(address(low), address(high)) ?? []).map((text) => {
          const [base = '', length] = text.split('/')
          const [, , c, d] = base.split('.').map(Number)
          return [(c ?? 0) * 256 + (d ?? 0), 2 ** (32 - Number(length))] as const
        })
        let at = low
        for (const [start, size] of found) {
          if (start !== at || start % size !== 0) return false
          at += size
        }
        return at === high + 1
      }),
    )
    expect(prefixesOfRange('2001:db8::', '2001:db8::ffff')).to.deep.equal(['2001:db8:0:0:0:0:0:0/112'])
    expect(prefixesOfRange('10.0.0.9', '10.0.0.1')).to.equal(null)
  })
})

import { expect } from 'chai'
import fc from 'fast-check'
import { EffectiveConfig, dialectById, modelOf, type DeviceModel, type Dialect, type Packet } from '../../src/index.ts'
import {
  Headers,
  ListSets,
  NOTHING,
  differenceOf,
  exampleOf,
  findingsOf,
  readFilterText,
  type MatchContext,
  type ModelList,
} from '../../src/headers/index.ts'

const dialect = (id: string): Dialect => dialectById(id) ?? expect.fail(id)
const modelled = (id: string, text: string): DeviceModel =>
  modelOf(EffectiveConfig.of(dialect(id).read(text), dialect(id)), { record: 'r', mask: () => '' }).model
const NEW: MatchContext = { inInterface: 'eth0', outInterface: 'eth1', connection: 'new' }

/** The lists of a text, and what one of them permits. */
function held(
  id: string,
  text: string,
  headers = new Headers(),
): {
  sets: ListSets
  list: (name: string) => ModelList
  headers: Headers
  permitted: (name: string, context?: MatchContext) => number
  text: (words: string) => number
} {
  const { accessLists } = modelled(id, text)
  const sets = new ListSets(headers, accessLists)
  const list = (name: string): ModelList =>
    accessLists.find((one) => one.name === name) ?? expect.fail(`no list ${name}`)
  return {
    sets,
    list,
    headers,
    permitted: (name, context = NEW) => sets.decide(list(name), headers.family(list(name).family), context).permitted,
    text: (words) => readFilterText(headers, words),
  }
}
const acl = (lines: string): string =>
  `ip access-list extended X\n${lines
    .split('\n')
    .map((line) => ` ${line.trim()}`)
    .join('\n')}\n`
const rules = (lines: string): string =>
  `*filter\n:FORWARD DROP [0:0]\n:SIDE - [0:0]\n:OTHER - [0:0]\n${lines
    .split('\n')
    .map((line) => line.trim())
    .join('\n')}\nCOMMIT\n`

describe('lists as sets of headers', () => {
  // RFC 8519 §4.3 and its appendix A.1 show entries by prefixes and ports; the words of each dialect for them are
  // common practice.
  const cases: { name: string; dialect: string; list: string; text: string; permits: string }[] = [
    {
      name: 'the first entry that meets a packet decides',
      dialect: 'indented',
      list: 'X',
      text: acl('deny tcp any any eq 23\npermit tcp any 10.40.0.0 0.0.255.255'),
      permits: 'tcp and dst net 10.40.0.0/16 and not dst port 23',
    },
    {
      name: 'what no entry meets is denied',
      dialect: 'indented',
      list: 'X',
      text: acl('permit udp any any eq 53'),
      permits: 'ip and udp dst port 53',
    },
    {
      name: 'established',
      dialect: 'indented',
      list: 'X',
      text: acl('permit tcp any any established'),
      permits: 'ip and tcp[tcpflags] & (tcp-ack|tcp-rst) != 0',
    },
    {
      name: 'wildcards that are no prefix',
      dialect: 'indented',
      list: 'X',
      text: acl('permit ip 10.0.0.1 0.0.255.0 any'),
      permits: 'src net 10.0.0.1 mask 255.255.0.255',
    },
    {
      name: 'RFC 8519 A.1: TCP from a network to a network is dropped, the rest accepted',
      dialect: 'braced',
      list: 'sample',
      text: 'firewall {\n family inet {\n  filter sample {\n   term rule1 {\n    from {\n     source-address {\n      198.51.100.0/24;\n     }\n     destination-address {\n      192.0.2.0/24;\n     }\n     protocol tcp;\n    }\n    then {\n     discard;\n    }\n   }\n   term rest {\n    then accept;\n   }\n  }\n }\n}\n',
      permits: 'ip and not (tcp and src net 198.51.100.0/24 and dst net 192.0.2.0/24)',
    },
    {
      name: 'a term that sends packets on decides nothing',
      dialect: 'braced',
      list: 'sample',
      text: 'firewall {\n family inet {\n  filter sample {\n   term log {\n    then {\n     log;\n     next term;\n    }\n   }\n   term dns {\n    from {\n     protocol udp;\n     destination-port 53;\n    }\n    then accept;\n   }\n  }\n }\n}\n',
      permits: 'ip and udp dst port 53',
    },
    {
      name: 'saved rules: a jump comes back',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules(
        '-A FORWARD -s 10.1.0.0/16 -j SIDE\n-A FORWARD -p udp -j ACCEPT\n-A SIDE -p tcp -m tcp --dport 80 -j ACCEPT\n-A SIDE -p udp -m udp --dport 53 -j RETURN\n-A SIDE -p udp -j DROP',
      ),
      permits:
        'ip and ((src net 10.1.0.0/16 and tcp and dst port 80) or (proto 17 and (not src net 10.1.0.0/16 or udp dst port 53)))',
    },
    {
      name: 'saved rules: one for good does not',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -s 10.1.0.0/16 -g SIDE\n-A FORWARD -j ACCEPT\n-A SIDE -p tcp -j ACCEPT'),
      permits: 'ip and (not src net 10.1.0.0/16 or (tcp or (proto 6 and ip[6:2] & 0x1fff != 0)))',
    },
    {
      name: 'saved rules: the end of a list is its policy',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -p tcp -j RETURN\n-A FORWARD -j ACCEPT'),
      permits: 'ip and not proto 6',
    },
    {
      name: 'saved rules: what must not be',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD ! -s 10.1.0.0/16 -p tcp -m tcp ! --dport 22 -j ACCEPT'),
      permits: 'ip and tcp and not src net 10.1.0.0/16 and ip[6:2] & 0x1fff == 0 and not dst port 22',
    },
    {
      name: 'saved rules: several ports, of either end',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules(
        '-A FORWARD -p tcp -m multiport --dports 80,443,8000:8080 -j ACCEPT\n-A FORWARD -p udp -m multiport --ports 53 -j ACCEPT',
      ),
      permits: 'ip and ((tcp and (dst port 80 or 443 or dst portrange 8000-8080)) or (udp and port 53))',
    },
    {
      name: 'saved rules: interfaces',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules(
        '-A FORWARD -i eth1 -j ACCEPT\n-A FORWARD -i eth+ ! -o eth0 -p udp -j ACCEPT\n-A FORWARD -o wan0 -j ACCEPT',
      ),
      permits: 'ip and udp',
    },
    {
      name: 'saved rules: a first packet is of no connection',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules(
        '-A FORWARD -m conntrack --ctstate RELATED,ESTABLISHED -j ACCEPT\n-A FORWARD -p udp -m conntrack --ctstate NEW -j ACCEPT',
      ),
      permits: 'ip and udp',
    },
    {
      name: 'saved rules: flags',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -p tcp -m tcp --tcp-flags FIN,SYN,RST,ACK SYN -j ACCEPT'),
      permits: 'ip and tcp[tcpflags] & (tcp-fin|tcp-syn|tcp-rst|tcp-ack) == tcp-syn',
    },
    {
      name: 'saved rules: a rule without a target lets packets go on',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -p tcp\n-A FORWARD -p tcp -j LOG --log-prefix "seen "\n-A FORWARD -p udp -j ACCEPT'),
      permits: 'ip and udp',
    },
  ]
  for (const { name, dialect: id, list, text, permits } of cases) {
    it(name, () => {
      const { permitted, text: read } = held(id, text)
      expect(permitted(list)).to.equal(read(permits)).and.not.equal(NOTHING)
    })
  }

  it('lists that lead to each other by two lines each, forty deep: decided and told of, and not walked as often as there are ways', () => {
    const deep = 40
    const chains = (last: string): string =>
      `*filter\n:FORWARD ACCEPT [0:0]\n${Array.from({ length: deep }, (_, i) => `:C${i} - [0:0]\n`).join('')}-A FORWARD -j C0\n${Array.from({ length: deep - 1 }, (_, i) => `-A C${i} -p udp -j C${i + 1}\n-A C${i} ! -s 10.0.0.0/${8 + (i % 20)} -j C${i + 1}\n`).join('')}${last}COMMIT\n`
    const { headers, permitted, list, sets, text } = held(
      'linux',
      chains(`-A C${deep - 1} -p udp -m udp --dport 53 -j DROP\n`),
    )
    expect(headers.diagrams.minus(headers.ipv4, permitted('filter FORWARD'))).to.equal(
      headers.diagrams.and(headers.ipv4, text('udp dst port 53')),
    )
    const told: string[] = []
    sets.follow(
      list('filter FORWARD'),
      headers.ipv4,
      NEW,
      ({ list: { name }, action }) => void (action === 'deny' && told.push(name)),
    )
    expect(new Set(told)).to.deep.equal(new Set([`filter C${deep - 1}`]))
    // Twenty thousand deep is not followed to its end, and breaks nothing.
    const deepest = held(
      'linux',
      `*filter\n:FORWARD ACCEPT [0:0]\n${Array.from({ length: 20_000 }, (_, i) => `:C${i} - [0:0]\n`).join('')}-A FORWARD -j C0\n${Array.from({ length: 19_999 }, (_, i) => `-A C${i} -j C${i + 1}\n`).join('')}COMMIT\n`,
    )
    expect(deepest.sets.decide(deepest.list('filter FORWARD'), deepest.headers.ipv4, NEW)).to.include({
      permitted: deepest.headers.ipv4,
      denied: deepest.headers.ipv4,
    })
    // In a circle nothing is known of what comes into it.
    const round = held('linux', chains(`-A C${deep - 1} -p udp -j C0\n-A C${deep - 1} -j DROP\n`))
    const { permitted: may, denied } = round.sets.decide(round.list('filter FORWARD'), round.headers.ipv4, NEW)
    expect(
      round.headers.diagrams.within(
        round.headers.all(round.headers.ipv4, round.text('udp')),
        round.headers.diagrams.and(may, denied),
      ),
    ).to.equal(true)
  })

  it('answers of a connection meet the rule for them', () => {
    const { permitted, headers } = held(
      'linux',
      rules('-A FORWARD -m conntrack --ctstate RELATED,ESTABLISHED -j ACCEPT'),
    )
    expect(permitted('filter FORWARD')).to.equal(NOTHING)
    expect(permitted('filter FORWARD', { ...NEW, connection: 'established' })).to.equal(headers.ipv4)
  })

  it('what a line that cannot be weighed may decide is in both sets', () => {
    const { sets, list, headers, text } = held(
      'indented',
      acl('deny tcp any any eq 22 time-range nights\npermit tcp any any'),
    )
    const { permitted, denied } = sets.decide(list('X'), headers.ipv4, NEW)
    expect(headers.diagrams.and(permitted, denied)).to.equal(text('ip and tcp dst port 22'))
    const unknown = held('linux', rules('-A FORWARD -p udp -j NFQUEUE --queue-num 1\n-A FORWARD -p udp -j ACCEPT'))
    const decision = unknown.sets.decide(unknown.list('filter FORWARD'), unknown.headers.ipv4, NEW)
    expect(unknown.headers.diagrams.and(decision.permitted, decision.denied)).to.equal(unknown.text('ip and udp'))
  })

  it('an address that is not understood may be any, beside those that are', () => {
    const of = (rule: string): Record<'known' | 'other', string> => {
      const { sets, list, headers, text } = held('linux', rules(rule))
      const { permitted, denied } = sets.decide(list('filter FORWARD'), headers.ipv4, NEW)
      const fate = (words: string): string =>
        [permitted, denied].map((set) => headers.diagrams.and(set, text(words)) !== NOTHING).join()
      return { known: fate('src host 10.1.0.1'), other: fate('src host 10.9.0.1') }
    }
    const [PERMITTED, DENIED, EITHER] = ['true,false', 'false,true', 'true,true']
    expect(of('-A FORWARD -s 10.1.0.0/16 -j ACCEPT')).to.deep.equal({ known: PERMITTED, other: DENIED })
    expect(of('-A FORWARD -s 10.1.0.0/16,odd -j ACCEPT')).to.deep.equal({ known: EITHER, other: EITHER })
    expect(of('-A FORWARD ! -s 10.1.0.0/16,odd -j ACCEPT')).to.deep.equal({ known: DENIED, other: EITHER })
  })

  it('lists that lead to each other in a circle end, undecided', () => {
    const { sets, list, headers } = held('linux', rules('-A FORWARD -j SIDE\n-A SIDE -j OTHER\n-A OTHER -j SIDE'))
    const { permitted, denied } = sets.decide(list('filter FORWARD'), headers.ipv4, NEW)
    expect([permitted, denied]).to.deep.equal([headers.ipv4, headers.ipv4])
  })

  it('equals an interpreter that goes through the rules one by one, for every packet', () => {
    const hosts = ['10.0.0.0', '10.0.0.1', '10.0.0.2', '10.0.0.3']
    const packets = hosts.flatMap((source) =>
      hosts.flatMap((destination) =>
        [6, 17].flatMap((protocol) =>
          [0, 1, 2, 3].map((port): Packet => ({
            family: 'ipv4',
            source,
            destination,
            protocol,
            sourcePort: 9,
            destinationPort: port,
            icmpType: null,
            icmpCode: null,
            tcpFlags: protocol === 6 ? ['syn'] : null,
            fragment: false,
            dscp: 0,
          })),
        ),
      ),
    )
    interface Rule {
      readonly chain: string
      readonly target: string
      readonly good: boolean
      readonly source: string | null
      readonly not: boolean
      readonly protocol: 'tcp' | 'udp' | null
      readonly ports: readonly [number, number] | null
    }
    const rule: fc.Arbitrary<Rule> = fc.record({
      chain: fc.constantFrom('FORWARD', 'SIDE', 'OTHER'),
      target: fc.constantFrom('ACCEPT', 'DROP', 'RETURN', 'SIDE', 'OTHER', 'LOG'),
      good: fc.boolean(),
      source: fc.option(fc.constantFrom('10.0.0.0/31', '10.0.0.2/32', '10.0.0.0/30'), { nil: null }),
      not: fc.boolean(),
      protocol: fc.constantFrom('tcp' as const, 'udp' as const, null),
      ports: fc.option(
        fc.tuple(fc.nat({ max: 3 }), fc.nat({ max: 3 })).map(([a, b]) => [Math.min(a, b), Math.max(a, b)] as const),
        { nil: null },
      ),
    })
    // Lists lead to later ones only, as every kernel demands.
    const level = { FORWARD: 0, SIDE: 1, OTHER: 2 } as Record<string, number>
    const within = (address: string, prefix: string): boolean => {
      const last = Number(address.split('.')[3])
      return prefix === '10.0.0.2/32' ? last === 2 : prefix === '10.0.0.0/31' ? last < 2 : true
    }
    fc.assert(
      fc.property(fc.array(rule, { maxLength: 12 }), fc.constantFrom('ACCEPT', 'DROP'), (drawn, policy) => {
        const usable = drawn.filter(({ chain, target }) => (level[target] ?? 9) > (level[chain] ?? 0))
        const ported = (one: Rule): boolean => one.ports !== null && one.protocol !== null
        const text = `*filter\n:FORWARD ${policy} [0:0]\n:SIDE - [0:0]\n:OTHER - [0:0]\n${usable.map((one) => `-A ${one.chain}${one.source ? `${one.not ? ' !' : ''} -s ${one.source}` : ''}${one.protocol ? ` -p ${one.protocol}` : ''}${ported(one) ? ` -m ${one.protocol ?? ''} --dport ${one.ports?.join(':') ?? ''}` : ''} ${one.good && level[one.target] !== undefined ? '-g' : '-j'} ${one.target}`).join('\n')}\nCOMMIT\n`
        const { sets, list, headers } = held('linux', text)
        const { permitted, denied } = sets.decide(list('filter FORWARD'), headers.ipv4, NEW)
        const run = (chain: string, packet: Packet): 'ACCEPT' | 'DROP' | 'back' => {
          for (const one of usable.filter((other) => other.chain === chain)) {
            const meets =
              (one.source === null || within(packet.source, one.source) !== one.not) &&
              (one.protocol === null || packet.protocol === (one.protocol === 'tcp' ? 6 : 17)) &&
              (!ported(one) ||
                ((packet.destinationPort ?? 0) >= (one.ports?.[0] ?? 0) &&
                  (packet.destinationPort ?? 0) <= (one.ports?.[1] ?? 0)))
            if (!meets || one.target === 'LOG') continue
            if (one.target === 'ACCEPT' || one.target === 'DROP') return one.target
            if (one.target === 'RETURN') return 'back'
            const answer = run(one.target, packet)
            if (answer !== 'back' || one.good) return answer
          }
          return 'back'
        }
        for (const packet of packets) {
          const answer = run('FORWARD', packet)
          const permits = (answer === 'back' ? policy : answer) === 'ACCEPT'
          const one = headers.packet(packet)
          expect(headers.diagrams.meet(one, permitted), `${text}${JSON.stringify(packet)}`).to.equal(permits)
          expect(headers.diagrams.meet(one, denied)).to.equal(!permits)
        }
      }),
      { numRuns: 80 },
    )
  })
})

describe('what is odd about a list', () => {
  const cases: {
    name: string
    dialect: string
    list: string
    text: string
    finds: [kind: string, entry: number, others: number[]][]
  }[] = [
    {
      name: 'a line that an earlier one covers',
      dialect: 'indented',
      list: 'X',
      text: acl('permit ip 10.0.0.0 0.255.255.255 any\npermit tcp host 10.1.1.1 any eq 80'),
      finds: [['never-matches', 1, [0]]],
    },
    {
      name: 'a line that earlier ones cover together',
      dialect: 'indented',
      list: 'X',
      text: acl(
        'permit ip 10.0.0.0 0.127.255.255 any\npermit ip 10.128.0.0 0.127.255.255 any\ndeny ip 10.0.0.0 0.255.255.255 any',
      ),
      finds: [['never-matches', 2, [0, 1]]],
    },
    {
      name: 'a line that changes nothing',
      dialect: 'indented',
      list: 'X',
      text: acl('permit tcp host 10.1.1.1 any\npermit tcp 10.1.1.0 0.0.0.255 any\npermit udp any any'),
      finds: [['changes-nothing', 0, []]],
    },
    {
      name: 'an exception and its rule are as they should be',
      dialect: 'indented',
      list: 'X',
      text: acl('deny tcp host 10.1.1.1 any\npermit tcp 10.1.1.0 0.0.0.255 any'),
      finds: [],
    },
    {
      name: 'lines that want different things of the same packets',
      dialect: 'indented',
      list: 'X',
      text: acl('deny ip host 10.1.1.1 any\npermit ip any host 10.2.2.2'),
      finds: [['contradicts', 1, [0]]],
    },
    {
      name: 'open',
      dialect: 'indented',
      list: 'X',
      text: acl('deny tcp any any eq 23\npermit ip any any'),
      finds: [['open', 1, []]],
    },
    {
      name: 'a last line that says what the end does is no fault',
      dialect: 'indented',
      list: 'X',
      text: acl('permit tcp any any eq 22\ndeny ip any any'),
      finds: [],
    },
    {
      name: 'a line that cannot be weighed covers nothing',
      dialect: 'indented',
      list: 'X',
      text: acl('deny ip any any time-range nights\npermit tcp any any eq 443'),
      finds: [],
    },
    {
      name: 'saved rules of another interface cover nothing',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -i eth1 -p tcp -j ACCEPT\n-A FORWARD -i eth2 -p tcp -m tcp --dport 80 -j ACCEPT'),
      finds: [],
    },
    {
      name: 'a rule that only notes packets contradicts nothing',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -s 10.1.1.1/32 -j LOG\n-A FORWARD -d 10.2.2.2/32 -j DROP\n-A FORWARD -p tcp -j ACCEPT'),
      finds: [['contradicts', 2, [1]]],
    },
    {
      name: 'saved rules of the same interface do',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules('-A FORWARD -i eth+ -p tcp -j ACCEPT\n-A FORWARD -i eth2 -p tcp -m tcp --dport 80 -j ACCEPT'),
      finds: [['never-matches', 1, [0]]],
    },
    {
      name: 'a rule for answers does not cover one for first packets',
      dialect: 'linux',
      list: 'filter FORWARD',
      text: rules(
        '-A FORWARD -m conntrack --ctstate ESTABLISHED -j ACCEPT\n-A FORWARD -p tcp -m tcp --dport 80 -j ACCEPT',
      ),
      finds: [],
    },
  ]
  for (const { name, dialect: id, list, text, finds } of cases) {
    it(name, () => {
      const { sets, list: named } = held(id, text)
      expect(
        (findingsOf(sets, named(list)) ?? []).map(({ kind, entry, others }) => [kind, entry, others]),
      ).to.deep.equal(finds)
    })
  }

  it('leaving out a line that never matches or changes nothing changes nothing', () => {
    const line = fc.record({
      action: fc.constantFrom('permit', 'deny'),
      protocol: fc.constantFrom('ip', 'tcp', 'udp'),
      from: fc.constantFrom('any', 'host 10.0.0.1', '10.0.0.0 0.0.0.3', '10.0.0.0 0.0.255.255'),
      port: fc.constantFrom('', ' eq 80', ' range 80 443'),
    })
    fc.assert(
      fc.property(fc.array(line, { minLength: 2, maxLength: 8 }), (drawn) => {
        const lines = drawn.map(
          ({ action, protocol, from, port }) => `${action} ${protocol} ${from} any${protocol === 'ip' ? '' : port}`,
        )
        const headers = new Headers()
        const whole = held('indented', acl(lines.join('\n')), headers)
        for (const { kind, entry } of findingsOf(whole.sets, whole.list('X')) ?? []) {
          if (kind !== 'never-matches' && kind !== 'changes-nothing') continue
          const rest = held('indented', acl(lines.filter((_, i) => i !== entry).join('\n')), headers)
          expect(
            differenceOf(
              headers,
              { sets: whole.sets, list: whole.list('X') },
              { sets: rest.sets, list: rest.list('X') },
            ),
          ).to.deep.equal({ onlyFirst: NOTHING, onlySecond: NOTHING })
        }
      }),
      { numRuns: 60 },
    )
  })

  it('two lists are equal, or differ on headers that can be named', () => {
    const headers = new Headers()
    const [a, b, c] = [
      acl('permit tcp any any range 80 81'),
      acl('permit tcp any any eq 80\npermit tcp any any eq 81'),
      acl('permit tcp any any eq 80'),
    ].map((text) => held('indented', text, headers)) as [
      ReturnType<typeof held>,
      ReturnType<typeof held>,
      ReturnType<typeof held>,
    ]
    const side = (one: ReturnType<typeof held>): { sets: ListSets; list: ModelList } => ({
      sets: one.sets,
      list: one.list('X'),
    })
    expect(differenceOf(headers, side(a), side(b))).to.deep.equal({ onlyFirst: NOTHING, onlySecond: NOTHING })
    const { onlyFirst, onlySecond } = differenceOf(headers, side(a), side(c))
    expect(onlySecond).to.equal(NOTHING)
    expect(exampleOf(headers, onlyFirst)).to.include({ protocol: 6, destinationPort: 81 })
  })
})

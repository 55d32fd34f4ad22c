import { expect } from 'chai'
import fc from 'fast-check'
import type { BitVec, Bool, Context } from 'z3-solver'
import { Walker, reach, type Network } from '../../src/index.ts'
import { placeOf } from '../../src/forwarding/index.ts'
import { ALL, FIELDS, NOTHING, exampleOf, readFilterText, type Diagrams } from '../../src/headers/index.ts'
import { addressWords } from '../../src/model/index.ts'
import { useSolver } from '../solver.ts'
import { deviceOf, networkOf } from './networks.ts'

interface Line {
  readonly permit: boolean
  readonly protocol: 'ip' | 'tcp' | 'udp'
  readonly source: readonly [string, string]
  readonly destination: readonly [string, string]
  readonly ports: readonly [number, number] | null
}
interface Way {
  readonly prefix: string
  readonly length: number
  readonly to: 'left' | 'right' | 'discard'
}
interface Router {
  readonly ways: readonly Way[]
  readonly into: readonly Line[] | null
  readonly out: readonly Line[] | null
}

/**
 * Full-size headers through small networks, put to a solver that shares nothing with the walk: z3 (its npm package).
 * Three routers in a row, each with a subnet of hosts; the formula follows their routes and lists as they were drawn.
 */
describe('networks against a solver', function () {
  this.timeout(240_000)
  let context: Context<'ways'>
  const satisfied = useSolver('ways', (made) => void (context = made))

  const place = fc.oneof(
    fc.constant(['0.0.0.0', '255.255.255.255'] as const),
    fc
      .tuple(fc.nat({ max: 3 }), fc.constantFrom('0.0.0.255', '0.0.127.255', '0.0.255.255', '0.1.255.255'))
      .map(([net, wild]) => [`10.${net}.0.0`, wild] as const),
  )
  const line: fc.Arbitrary<Line> = fc.record({
    permit: fc.boolean(),
    protocol: fc.constantFrom('ip' as const, 'tcp' as const, 'udp' as const),
    source: place,
    destination: place,
    ports: fc.option(fc.constantFrom([0, 1023] as const, [443, 443] as const, [22, 8080] as const), { nil: null }),
  })
  const list = fc.option(
    fc
      .array(line, { minLength: 1, maxLength: 4 })
      .map((lines) => [
        ...lines,
        {
          permit: true,
          protocol: 'ip',
          source: ['10.0.0.0', '0.255.255.255'],
          destination: ['10.0.0.0', '0.255.255.255'],
          ports: null,
        } as Line,
      ]),
    { nil: null, freq: 2 },
  )
  const way: fc.Arbitrary<Way> = fc.record({
    prefix: fc.tuple(fc.nat({ max: 3 }), fc.constantFrom(0, 64, 128)).map(([net, host]) => `10.${net}.${host}.0`),
    length: fc.constantFrom(14, 16, 17, 18, 24),
    to: fc.constantFrom('left' as const, 'right' as const, 'right' as const, 'discard' as const),
  })
  const key = ({ prefix, length }: Way): string => `${mask(word(prefix), length)} ${length}`
  // The way to the hosts that are asked about is there more often than not: else next to nothing would arrive.
  const ahead: Way = { prefix: '10.2.0.0', length: 16, to: 'right' }
  const ways = fc
    .tuple(fc.uniqueArray(way, { maxLength: 5, selector: key }), fc.constantFrom(true, true, true, false))
    .map(([some, leads]) => (leads && !some.some((one) => key(one) === key(ahead)) ? [...some, ahead] : some))
  const router: fc.Arbitrary<Router> = fc.record({ ways, into: list, out: list })
  const drawn = fc.tuple(router, router, router)

  const word = (text: string): number => addressWords(text, 'ipv4')?.[0] ?? expect.fail(text)
  const mask = (value: number, length: number): number => (value & (-(2 ** (32 - length)) >>> 0)) >>> 0
  const dotted = (value: number): string => [24, 16, 8, 0].map((shift) => (value >>> shift) & 255).join('.')
  const textOf = ({ ways, into, out }: Router, i: number): string => {
    const ports = [...(i > 0 ? [['left', `172.16.${i - 1}.2`]] : []), ...(i < 2 ? [['right', `172.16.${i}.1`]] : [])]
    const gateways: Record<string, string> = { left: `172.16.${i - 1}.1`, right: `172.16.${i}.2`, discard: 'Null0' }
    const lines = (name: string, all: readonly Line[] | null): string =>
      all
        ? `ip access-list extended ${name}\n${all.map(({ permit, protocol, source, destination, ports: wanted }) => ` ${permit ? 'permit' : 'deny'} ${protocol} ${source.join(' ')} ${destination.join(' ')}${wanted && protocol !== 'ip' ? ` range ${wanted.join(' ')}` : ''}`).join('\n')}\n`
        : ''
    return `hostname r${i}\ninterface lan\n ip address 10.${i}.0.1 255.255.0.0\n${ports.map(([name, address]) => `interface ${name}\n ip address ${address} 255.255.255.252\n${into ? ' ip access-group IN in\n' : ''}${out ? ' ip access-group OUT out\n' : ''}`).join('')}${kept(
      ways,
      i,
    )
      .map(
        ({ prefix, length, to }) =>
          `ip route ${dotted(mask(word(prefix), length))} ${dotted(mask(0xffffffff, length))} ${gateways[to]}\n`,
      )
      .join('')}${lines('IN', into)}${lines('OUT', out)}`
  }
  /** Ways that the router has a port for; none takes the place of its own subnet. */
  const kept = (ways: readonly Way[], i: number): Way[] =>
    ways.filter(
      ({ prefix, length, to }) =>
        !(to === 'left' && i === 0) &&
        !(to === 'right' && i === 2) &&
        !(length === 16 && mask(word(prefix), 16) === word(`10.${i}.0.0`)),
    )

  interface Fields {
    readonly source: BitVec<32, 'ways'>
    readonly destination: BitVec<32, 'ways'>
    readonly protocol: BitVec<8, 'ways'>
    readonly destinationPort: BitVec<16, 'ways'>
  }
  const fields = (): Fields => ({
    source: context.BitVec.const('source', 32),
    destination: context.BitVec.const('destination', 32),
    protocol: context.BitVec.const('protocol', 8),
    destinationPort: context.BitVec.const('port', 16),
  })
  const inside = (field: BitVec<32, 'ways'>, value: number, care: number): Bool<'ways'> =>
    field.and(context.BitVec.val(care, 32)).eq(context.BitVec.val((value & care) >>> 0, 32))
  const permitted = (lines: readonly Line[] | null): Bool<'ways'> => {
    const { And, Or, If, Bool: Truth, BitVec: Bits } = context
    const { source, destination, protocol, destinationPort } = fields()
    if (lines === null) return Truth.val(true)
    return lines.reduceRight<Bool<'ways'>>((rest, one) => {
      const meets = And(
        inside(source, word(one.source[0]), ~word(one.source[1]) >>> 0),
        inside(destination, word(one.destination[0]), ~word(one.destination[1]) >>> 0),
        one.protocol === 'ip' ? And() : protocol.eq(Bits.val(one.protocol === 'tcp' ? 6 : 17, 8)),
        one.ports && one.protocol !== 'ip'
          ? And(destinationPort.uge(Bits.val(one.ports[0], 16)), destinationPort.ule(Bits.val(one.ports[1], 16)))
          : And(),
      )
      return one.permit ? Or(meets, rest) : (If(meets, Truth.val(false), rest) as Bool<'ways'>)
    }, Truth.val(false))
  }

  /** Packets that come to hosts behind the last router, from a router on; who comes by a router again never arrives. */
  function arrives(
    all: readonly Router[],
    at: number,
    from: 'lan' | 'left' | 'right',
    seen: readonly number[],
  ): Bool<'ways'> {
    const { And, Or, Not, Bool: Truth } = context
    const one = all[at]
    if (!one || seen.includes(at)) return Truth.val(false)
    const { destination } = fields()
    const known = [
      ...kept(one.ways, at).map(({ prefix, length, to }) => ({ value: mask(word(prefix), length), length, to })),
      { value: word(`10.${at}.0.0`), length: 16, to: 'here' as const },
    ]
    const entering = from === 'lan' ? Truth.val(true) : permitted(one.into)
    const own = destination.eq(context.BitVec.val(word(`10.${at}.0.1`), 32))
    const taken = known.map(({ value, length, to }) => {
      const meets = inside(destination, value, mask(0xffffffff, length))
      const longest = And(
        meets,
        ...known
          .filter((other) => other.length > length)
          .map((other) => Not(inside(destination, other.value, mask(0xffffffff, other.length)))),
      )
      if (to === 'discard') return Truth.val(false)
      if (to === 'here')
        return at === 2
          ? And(longest, Not(destination.eq(context.BitVec.val(word(`10.${at}.255.255`), 32))))
          : Truth.val(false)
      const next = to === 'left' ? at - 1 : at + 1
      return And(longest, permitted(one.out), arrives(all, next, to === 'left' ? 'right' : 'left', [...seen, at]))
    })
    return And(entering, Not(own), Not(destination.eq(context.BitVec.val(word(`10.${at}.255.255`), 32))), Or(...taken))
  }

  /** A set of headers as a formula, bit by bit; headers of IPv4 that are no later fragments. */
  function formulaOf(diagrams: Diagrams, set: number): Bool<'ways'> {
    const { If, Bool: Truth } = context
    const { source, destination, protocol, destinationPort } = fields()
    const bit = (field: BitVec<number, 'ways'>, from: number, bits: number, level: number): Bool<'ways'> =>
      (field.extract(bits - 1 - (level - from), bits - 1 - (level - from)) as BitVec<number, 'ways'>).eq(
        context.BitVec.val(1, 1),
      )
    const made = new Map<number, Bool<'ways'>>([
      [NOTHING, Truth.val(false)],
      [ALL, Truth.val(true)],
    ])
    for (const node of diagrams.below(set)) {
      const level = diagrams.level(node)
      const [low, high] = [
        made.get(diagrams.low(node)) ?? Truth.val(false),
        made.get(diagrams.high(node)) ?? Truth.val(false),
      ]
      const within = ({ level: from }: { level: number }, bits: number): boolean => level >= from && level < from + bits
      const test = within(FIELDS.destination, 32)
        ? bit(destination, FIELDS.destination.level, 32, level)
        : within(FIELDS.source, 32)
          ? bit(source, FIELDS.source.level, 32, level)
          : within(FIELDS.protocol, 8)
            ? bit(protocol, FIELDS.protocol.level, 8, level)
            : within(FIELDS.destinationPort, 16)
              ? bit(destinationPort, FIELDS.destinationPort.level, 16, level)
              : level === FIELDS.family.level || level === FIELDS.fragment.level
                ? Truth.val(false)
                : expect.fail(`the set tests level ${level}`)
      made.set(node, If(test, high, low) as Bool<'ways'>)
    }
    return made.get(set) ?? Truth.val(false)
  }
  const reached = (network: Network): number => {
    const { parts } = reach(
      new Walker(network),
      placeOf(network, 'r0:lan'),
      placeOf(network, '10.2.0.0/16'),
      readFilterText(network.addressed, 'ip and ip[6:2] & 0x1fff == 0'),
    )
    const hosts = network.addressed.any(
      parts.filter(({ fate, device, reason }) => fate === 'arrives' && device === 'r2' && reason.code === 'at-host'),
      ({ set }) => set,
    )
    return hosts
  }

  it('what arrives is what the solver says: emptiness, equality and examples', async () => {
    let [empty, some] = [0, 0]
    await fc.assert(
      fc.asyncProperty(drawn, async (routers) => {
        const network = networkOf(...routers.map((one, i) => deviceOf(`r${i}`, 'indented', textOf(one, i))))
        const set = reached(network)
        const { And, Not, Xor } = context
        const { destination } = fields()
        // Asked about hosts: not about the first and the last address of the subnet.
        const asked = And(
          inside(destination, word('10.2.0.0'), 0xffff0000),
          Not(destination.eq(context.BitVec.val(word('10.2.0.0'), 32))),
        )
        const wanted = And(asked, arrives(routers, 0, 'lan', []))
        expect(await satisfied(wanted)).to.equal(set !== NOTHING)
        expect(
          await satisfied(Xor(wanted, formulaOf(network.addressed.diagrams, set))),
          routers.map(textOf).join('\n'),
        ).to.equal(false)
        const example = exampleOf(network.addressed, set)
        if (!example) empty++
        else {
          some++
          const is = (field: BitVec<number, 'ways'>, bits: number, value: number): Bool<'ways'> =>
            field.eq(context.BitVec.val(value, bits))
          const { source, protocol, destinationPort } = fields()
          expect(
            await satisfied(
              wanted,
              is(source, 32, word(example.source)),
              is(destination, 32, word(example.destination)),
              is(protocol, 8, example.protocol),
              ...(example.destinationPort === null ? [] : [is(destinationPort, 16, example.destinationPort)]),
            ),
          ).to.equal(true)
        }
      }),
      { numRuns: 60 },
    )
    expect(empty).to.be.above(3)
    expect(some).to.be.above(3)
  })
})

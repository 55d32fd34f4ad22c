import { expect } from 'chai'
import fc from 'fast-check'
import type { Bool, BitVec, Context } from 'z3-solver'
import { EffectiveConfig, dialectById, modelOf, type Dialect, type Packet } from '../../src/index.ts'
import {
  Headers,
  ListSets,
  NOTHING,
  differenceOf,
  exampleOf,
  type MatchContext,
  type ModelList,
} from '../../src/headers/index.ts'
import { addressWords } from '../../src/model/index.ts'
import { useSolver } from '../solver.ts'

/**
 * Full-size headers, put to a solver that shares nothing with the diagrams: z3 (its npm package). The formulas are
 * written from the drawn lines, not from what was read of their text.
 */
describe('header sets against a solver', function () {
  this.timeout(240_000)
  type Line = {
    readonly permit: boolean
    readonly protocol: 'ip' | 'tcp' | 'udp'
    readonly source: readonly [string, string]
    readonly destination: readonly [string, string]
    readonly ports: readonly [number, number] | null
    readonly established: boolean
  }
  let context: Context<'lists'>
  const satisfied = useSolver('lists', (made) => void (context = made))

  const place = fc.oneof(
    fc.constant(['0.0.0.0', '255.255.255.255'] as const),
    fc
      .tuple(
        fc.integer({ min: 0, max: 3 }),
        fc.constantFrom('0.0.0.255', '0.0.1.255', '0.0.255.0', '0.0.0.0', '0.255.255.255'),
      )
      .map(([net, wild]) => [`10.${net}.${net}.7`, wild] as const),
  )
  const ports = fc.option(
    fc
      .tuple(fc.constantFrom(0, 22, 80, 443, 1024), fc.constantFrom(22, 443, 8080, 65535))
      .map(([a, b]) => [Math.min(a, b), Math.max(a, b)] as const),
    { nil: null },
  )
  const line: fc.Arbitrary<Line> = fc.record({
    permit: fc.boolean(),
    protocol: fc.constantFrom('ip' as const, 'tcp' as const, 'udp' as const),
    source: place,
    destination: place,
    ports,
    established: fc.boolean(),
  })
  const lists = fc.array(line, { minLength: 1, maxLength: 10 })
  const udp = (wanted: readonly [number, number] | null): Line => ({
    permit: true,
    protocol: 'udp',
    source: ['0.0.0.0', '255.255.255.255'],
    destination: ['0.0.0.0', '255.255.255.255'],
    ports: wanted,
    established: false,
  })

  const asked = ({
    protocol,
    ports: wanted,
    established,
  }: Line): { ports: readonly [number, number] | null; established: boolean } => ({
    ports: protocol === 'ip' ? null : wanted,
    established: protocol === 'tcp' && established,
  })
  const textOf = (lines: readonly Line[]): string =>
    `ip access-list extended X\n${lines.map((one) => ` ${one.permit ? 'permit' : 'deny'} ${one.protocol} ${one.source.join(' ')} ${one.destination.join(' ')}${asked(one).ports ? ` range ${asked(one).ports?.join(' ') ?? ''}` : ''}${asked(one).established ? ' established' : ''}`).join('\n')}\n`
  const indented = dialectById('indented') as Dialect
  const here: MatchContext = { inInterface: null, outInterface: null, connection: 'new' }
  const held = (headers: Headers, lines: readonly Line[]): { sets: ListSets; list: ModelList; permitted: number } => {
    const { accessLists } = modelOf(EffectiveConfig.of(indented.read(textOf(lines)), indented), {
      record: 'r',
      mask: () => '',
    }).model
    const sets = new ListSets(headers, accessLists)
    const list = accessLists[0] ?? expect.fail('no policy')
    return { sets, list, permitted: sets.decide(list, headers.ipv4, here).permitted }
  }

  /** What a list permits, as a formula over the fields. */
  function formula(lines: readonly Line[]): Bool<'lists'> {
    const { BitVec: Bits, And, Or, Not, If } = context
    const [source, destination, protocol, port, flags, fragment] = [
      Bits.const('source', 32),
      Bits.const('destination', 32),
      Bits.const('protocol', 8),
      Bits.const('port', 16),
      Bits.const('flags', 6),
      Bits.const('fragment', 1),
    ] as [
      BitVec<32, 'lists'>,
      BitVec<32, 'lists'>,
      BitVec<8, 'lists'>,
      BitVec<16, 'lists'>,
      BitVec<6, 'lists'>,
      BitVec<1, 'lists'>,
    ]
    // Ports and flags stand in the first fragment alone (RFC 1858 §2): a line that asks for them meets no later one.
    const first = fragment.eq(Bits.val(0, 1))
    const word = (text: string): number => addressWords(text, 'ipv4')?.[0] ?? expect.fail(text)
    const at = (field: BitVec<32, 'lists'>, [address, wild]: readonly [string, string]): Bool<'lists'> => {
      const care = ~word(wild) >>> 0
      return field.and(Bits.val(care, 32)).eq(Bits.val((word(address) & care) >>> 0, 32))
    }
    return lines.reduceRight<Bool<'lists'>>((rest, one) => {
      const { ports: wanted, established } = asked(one)
      // Flags in the order of RFC 9293 §3.1, FIN lowest: ACK is 16, RST 4.
      const meets = And(
        at(source, one.source),
        at(destination, one.destination),
        one.protocol === 'ip' ? And() : protocol.eq(Bits.val(one.protocol === 'tcp' ? 6 : 17, 8)),
        wanted ? And(first, port.uge(Bits.val(wanted[0], 16)), port.ule(Bits.val(wanted[1], 16))) : And(),
        established ? And(first, Not(flags.and(Bits.val(0b010100, 6)).eq(Bits.val(0, 6)))) : And(),
      )
      return one.permit ? Or(meets, rest) : (If(meets, context.Bool.val(false), rest) as Bool<'lists'>)
    }, context.Bool.val(false))
  }
  /** One packet as a formula. */
  const packetIs = (packet: Packet): Bool<'lists'> => {
    const { source, destination, protocol, destinationPort, tcpFlags, fragment } = packet
    const { BitVec: Bits, And } = context
    const flags = ['fin', 'syn', 'rst', 'psh', 'ack', 'urg'].reduce(
      (sum, flag, i) => sum + (tcpFlags?.includes(flag) ? 2 ** i : 0),
      0,
    )
    const is = (name: string, bits: number, value: number): Bool<'lists'> =>
      Bits.const(name, bits).eq(Bits.val(value, bits))
    return And(
      is('source', 32, addressWords(source, 'ipv4')?.[0] ?? 0),
      is('destination', 32, addressWords(destination, 'ipv4')?.[0] ?? 0),
      is('protocol', 8, protocol),
      is('port', 16, destinationPort ?? 0),
      is('flags', 6, flags),
      is('fragment', 1, fragment ? 1 : 0),
    )
  }

  it('emptiness, equality and examples agree', async () => {
    let [empty, equal, different] = [0, 0, 0]
    await fc.assert(
      fc.asyncProperty(lists, lists, fc.boolean(), async (x, y, related) => {
        const headers = new Headers()
        // Half of the pairs differ in the order of two lines only.
        const other = related && x.length > 1 ? [x[1] as Line, x[0] as Line, ...x.slice(2)] : y
        const [a, b] = [held(headers, x), held(headers, other)]
        const [first, second] = [formula(x), formula(other)]
        expect(await satisfied(first)).to.equal(a.permitted !== NOTHING)
        if (a.permitted === NOTHING) empty++
        const { onlyFirst, onlySecond } = differenceOf(headers, a, b)
        expect(await satisfied(first, context.Not(second))).to.equal(onlyFirst !== NOTHING)
        expect(await satisfied(second, context.Not(first))).to.equal(onlySecond !== NOTHING)
        if (onlyFirst === NOTHING && onlySecond === NOTHING) equal++
        else different++
        const example = exampleOf(headers, onlyFirst)
        if (example)
          expect(await satisfied(packetIs(example), first, context.Not(second)), JSON.stringify(example)).to.equal(true)
      }),
      // Every port is not every packet: later fragments have none.
      { numRuns: 60, examples: [[[udp(null)], [udp([0, 65535])], false]] },
    )
    // Each kind of answer came up.
    expect(empty).to.be.above(0)
    expect(equal).to.be.above(3)
    expect(different).to.be.above(3)
  })
})

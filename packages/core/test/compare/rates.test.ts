import { expect } from 'chai'
import {
  counterGrowth,
  interfaceRates,
  sensorReadings,
  uptimeSeconds,
  type CounterContext,
} from '../../src/compare/index.ts'
import { stateOf } from '../../src/analysis/index.ts'

const MB10 = 10_000_000 / 8
const HOUR = 3600
const known: CounterContext = { seconds: HOUR, fastest: MB10, restarted: false }

/**
 * RFC 2863 §3.1.6: "if-counters of 32 bits wrap in 57 minutes at 10 Mb/s", the time that 2^32 octets take at that rate,
 * quoted from memory.
 */
const CASES: readonly {
  name: string
  before: number | null
  after: number | null
  is: ReturnType<typeof counterGrowth>
  context?: Partial<CounterContext>
}[] = [
  { name: 'counts on', before: 100, after: 350, is: { code: 'counted', delta: 250 } },
  { name: 'stands still', before: 100, after: 100, is: { code: 'counted', delta: 0 } },
  { name: 'wraps at 32 bits', before: 2 ** 32 - 100, after: 50, is: { code: 'wrapped', delta: 150 } },
  {
    name: 'wraps within 57 minutes at 10 Mb/s',
    before: 1000,
    after: 999,
    context: { seconds: 58 * 60 },
    is: { code: 'wrapped', delta: 2 ** 32 - 1 },
  },
  {
    name: 'cannot have wrapped sooner than that',
    before: 1000,
    after: 999,
    context: { seconds: 56 * 60 },
    is: { code: 'reset', delta: null },
  },
  { name: 'of 64 bits does not wrap', before: 2 ** 40, after: 5, is: { code: 'reset', delta: null } },
  {
    name: 'begins anew with the device',
    before: 100,
    after: 350,
    context: { restarted: true },
    is: { code: 'reset', delta: null },
  },
  {
    name: 'may have wrapped or begun anew',
    before: 2 ** 32 - 100,
    after: 50,
    context: { restarted: null },
    is: { code: 'unknown', delta: null },
  },
  {
    name: 'wraps or not where the speed is not known',
    before: 2 ** 32 - 100,
    after: 50,
    context: { fastest: null },
    is: { code: 'unknown', delta: null },
  },
  { name: 'is not stated', before: null, after: 5, is: { code: 'unknown', delta: null } },
]

describe('counters', () => {
  for (const { name, before, after, context, is } of CASES)
    it(`a counter that ${name}`, () => expect(counterGrowth(before, after, { ...known, ...context })).to.deep.equal(is))

  it('57 minutes are what 2^32 octets take at 10 Mb/s', () => {
    expect(Math.floor(2 ** 32 / MB10 / 60)).to.equal(57)
  })

  for (const [text, seconds] of [
    ['12 weeks', 12 * 604_800],
    ['1 year, 2 weeks, 3 days, 4 hours, 5 minutes', 31_536_000 + 2 * 604_800 + 3 * 86_400 + 4 * HOUR + 300],
    ['1 day, 04:05:06', 86_400 + 4 * HOUR + 306],
    ['since yesterday', null],
  ] as const)
    it(`in service for ${text}`, () => expect(uptimeSeconds(text)).to.equal(seconds))
})

describe('rates of interfaces', () => {
  const listing = (octets: number, errors = 0): string =>
    [
      'GigabitEthernet0/1 is up, line protocol is up',
      '  MTU 1500 bytes, BW 100000 Kbit/sec, DLY 10 usec',
      `     500 packets input, ${octets} bytes, 0 no buffer`,
      `     ${errors} input errors, 0 CRC`,
      `     500 packets output, ${octets} bytes, 0 underruns`,
      '     0 output errors, 0 collisions',
    ].join('\n')
  const at = (countedAt: string | null, octets: number, errors = 0): Parameters<typeof interfaceRates>[0] => ({
    countedAt,
    state: stateOf([{ record: 'i', kind: 'interfaces', text: listing(octets, errors) }]).state,
  })

  it('octets between two captures are bits a second and a share of the speed', () => {
    const { seconds, rates } = interfaceRates(at('2026-11-16T06:00:00Z', 0), at('2026-11-16T06:01:40Z', 125_000_000, 7))
    expect(seconds).to.equal(100)
    expect(rates).to.have.length(1)
    expect(rates[0]).to.include({ name: 'GigabitEthernet0/1', inBits: 10_000_000, inUse: 0.1, speed: 100_000_000 })
    expect(rates[0]?.growth.inErrors).to.deep.equal({ code: 'counted', delta: 7 })
  })

  it('without times there are counts and no rates', () => {
    const { seconds, rates } = interfaceRates(at(null, 0), at('2026-11-16T06:01:40Z', 125_000_000))
    expect([seconds, rates[0]?.inBits, rates[0]?.growth.inOctets.delta]).to.deep.equal([null, null, 125_000_000])
  })
})

describe('sensors between two captures', () => {
  const state = (parts: object[], resources: object[]): Parameters<typeof sensorReadings>[0] =>
    ({ parts, resources }) as never
  const readings = sensorReadings(
    state(
      [
        { kind: 'temperature', name: 'inlet', ok: true, reading: '41 Celsius' },
        { kind: 'fan', name: 'FAN 1', ok: true, reading: null },
        { kind: 'power', name: 'PS2', ok: true, reading: '12.1 V' },
      ],
      [{ kind: 'cpu', name: 'five minutes', percent: 12 }],
    ),
    state(
      [
        { kind: 'temperature', name: 'inlet', ok: false, reading: '58.5 Celsius' },
        { kind: 'fan', name: 'FAN 1', ok: false, reading: null },
        { kind: 'other', name: 'door', ok: true, reading: 'closed' },
      ],
      [{ kind: 'cpu', name: 'five minutes', percent: 7 }],
    ),
  )
  const of = (name: string): unknown => readings.find((one) => one.name === name)

  it('numbers of one unit have a difference', () => {
    expect(of('inlet')).to.deep.include({ before: '41 Celsius', after: '58.5 Celsius', difference: 17.5, ok: false })
    expect(of('five minutes')).to.deep.include({ before: '12 %', after: '7 %', difference: -5, ok: null })
  })
  it('words have none, and what one side lacks is not made up', () => {
    expect(of('FAN 1')).to.deep.include({ before: 'ok', after: 'not ok', difference: null, ok: false })
    expect(of('PS2')).to.deep.include({ before: '12.1 V', after: null, difference: null, ok: null })
    expect(of('door')).to.deep.include({ before: null, after: 'closed', difference: null, ok: true })
  })
})

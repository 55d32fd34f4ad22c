import type { DeviceState } from '../state/index.ts'

/**
 * How a counter got from one value to another. `wrapped`: past its greatest value, back to nought. `reset`: it began
 * anew, so that what was counted before is not known.
 */
export interface CounterGrowth {
  readonly code: 'counted' | 'wrapped' | 'reset' | 'unknown'
  /** By how much it grew; null where that is not known. */
  readonly delta: number | null
}

/** What is known beside the two values. */
export interface CounterContext {
  /** Between the two readings; null: not known. */
  readonly seconds: number | null
  /** The most that it can grow in a second; null: not known. */
  readonly fastest: number | null
  /** Whether the device started in between; null: not known. */
  readonly restarted: boolean | null
}

const MOST_32 = 2 ** 32

/**
 * A counter that is less than it was has wrapped or begun anew. Counters have 32 bits or 64; one of 64 bits does not
 * wrap while anybody looks (RFC 2863 §3.1.6), and one that was beyond 32 bits had more. It wrapped where the device did
 * not start in between and it can have grown that far in the time; else it is not known what it did.
 */
export function counterGrowth(
  before: number | null,
  after: number | null,
  { seconds, fastest, restarted }: CounterContext,
): CounterGrowth {
  if (before === null || after === null) return { code: 'unknown', delta: null }
  if (restarted === true) return { code: 'reset', delta: null }
  if (after >= before) return { code: 'counted', delta: after - before }
  const wrapped = after + MOST_32 - before
  const can = before < MOST_32 && (seconds === null || fastest === null || wrapped <= seconds * fastest)
  if (!can) return { code: 'reset', delta: null }
  return restarted === false && seconds !== null && fastest !== null
    ? { code: 'wrapped', delta: wrapped }
    : { code: 'unknown', delta: null }
}

const UNITS: Readonly<Record<string, number>> = {
  year: 31_536_000,
  week: 604_800,
  day: 86_400,
  hour: 3_600,
  minute: 60,
  second: 1,
}

/** `12 weeks, 3 days`, `1 day, 04:05:06`: at least so many seconds; null where it is not in such words. */
export function uptimeSeconds(text: string | null): number | null {
  if (text === null) return null
  let seconds = 0
  let found = false
  for (const [, amount = '', unit = ''] of text.matchAll(/(\d{1,6}) ?(year|week|day|hour|minute|second)s?\b/gi)) {
    seconds += Number(amount) * (UNITS[unit.toLowerCase()] ?? 0)
    found = true
  }
  const clock = /\b(\d{1,3}):(\d{2})(?::(\d{2}))?\b/.exec(text)
  if (clock) {
    const [hours = 0, minutes = 0, rest = 0] = clock.slice(1).map((part) => Number(part || 0))
    seconds += hours * 3_600 + minutes * 60 + rest
    found = true
  }
  return found ? seconds : null
}

/** What an interface carried between two captures. */
export interface InterfaceRates {
  readonly name: string
  /** Bits a second; null where they are not known. */
  readonly inBits: number | null
  readonly outBits: number | null
  /** Share of the speed, from 0 to 1; null where the speed is not known. */
  readonly inUse: number | null
  readonly outUse: number | null
  /** Bits a second that it can carry each way. */
  readonly speed: number | null
  readonly growth: { readonly [K in keyof Counters]: CounterGrowth }
}

type Counters = DeviceState['interfaces'][number]['counters']

/** The state of one side and when its counters were read, RFC 3339. */
export interface CountedState {
  readonly state: DeviceState
  readonly countedAt: string | null
}

/** Rates and utilisation of the interfaces that both sides have counters of. */
export function interfaceRates(a: CountedState, b: CountedState): { seconds: number | null; rates: InterfaceRates[] } {
  const seconds =
    a.countedAt === null || b.countedAt === null ? null : (Date.parse(b.countedAt) - Date.parse(a.countedAt)) / 1000
  // Of two captures at one time, or in the wrong order, no rate can be told.
  const apart = seconds !== null && seconds > 0 ? seconds : null
  const up = uptimeSeconds(b.state.software.uptime)
  const restarted = up === null || apart === null ? null : up < apart
  const earlier = new Map(a.state.interfaces.map((port) => [port.name, port]))
  const rates = b.state.interfaces.flatMap((port): InterfaceRates[] => {
    const was = earlier.get(port.name)
    if (!was || Object.values(port.counters).every((value) => value === null)) return []
    const speed = port.speed ?? was.speed
    const context = { seconds: apart, restarted, fastest: speed === null ? null : speed / 8 }
    const growthOf = (counter: keyof Counters): CounterGrowth =>
      counterGrowth(was.counters[counter], port.counters[counter], context)
    const growth = {
      inOctets: growthOf('inOctets'),
      outOctets: growthOf('outOctets'),
      inErrors: growthOf('inErrors'),
      outErrors: growthOf('outErrors'),
      inDiscards: growthOf('inDiscards'),
      outDiscards: growthOf('outDiscards'),
    }
    const bits = ({ delta }: CounterGrowth): number | null =>
      delta === null || apart === null ? null : (delta * 8) / apart
    const [inBits, outBits] = [bits(growth.inOctets), bits(growth.outOctets)]
    const use = (rate: number | null): number | null => (rate === null || !speed ? null : rate / speed)
    return [{ name: port.name, inBits, outBits, inUse: use(inBits), outUse: use(outBits), speed, growth }]
  })
  return { seconds: apart, rates }
}

/** What a sensor, or a measure of a resource, said on each side. */
export interface SensorReading {
  readonly kind: string
  readonly name: string
  /** As it was captured; null: not there. */
  readonly before: string | null
  readonly after: string | null
  /** Where both are numbers of one unit. */
  readonly difference: number | null
  /** Whether the device says that it is in order on side B; null where it does not say. */
  readonly ok: boolean | null
}

interface Sensed {
  readonly kind: string
  readonly name: string
  readonly text: string
  readonly ok: boolean | null
}

/** Fans, power supplies, temperatures, processors, memory and storage of both sides, by kind and name. */
export function sensorReadings(a: DeviceState, b: DeviceState): SensorReading[] {
  const [before, after] = [sensedIn(a), sensedIn(b)]
  return [...new Set([...after.keys(), ...before.keys()])].flatMap((key): SensorReading[] => {
    const [was, is] = [before.get(key), after.get(key)]
    const one = is ?? was
    return one
      ? [
          {
            kind: one.kind,
            name: one.name,
            before: was?.text ?? null,
            after: is?.text ?? null,
            difference: was && is ? differenceOf(was.text, is.text) : null,
            ok: is?.ok ?? null,
          },
        ]
      : []
  })
}

function sensedIn({ parts, resources }: DeviceState): Map<string, Sensed> {
  const all: Sensed[] = [
    ...parts.map(({ kind, name, ok, reading }) => ({ kind, name, ok, text: reading ?? (ok ? 'ok' : 'not ok') })),
    ...resources.map(({ kind, name, percent }) => ({ kind, name, ok: null, text: `${percent} %` })),
  ]
  return new Map(all.map((one) => [`${one.kind} ${one.name}`, one]))
}

function differenceOf(before: string, after: string): number | null {
  const [was, is] = [before, after].map((text) => /^(-?\d{1,9}(?:\.\d{1,6})?)(.*)$/.exec(text))
  if (!was || !is || was[2] !== is[2]) return null
  return Number((Number(is[1]) - Number(was[1])).toFixed(6))
}

import { Cron } from 'croner'
import { z } from 'zod'

/** When something is done again, as people say it. */
export const rhythmSchema = z.discriminatedUnion('every', [
  z.strictObject({ every: z.literal('day'), at: z.iso.time({ precision: -1 }) }),
  z.strictObject({ every: z.literal('week'), on: z.int().min(1).max(7), at: z.iso.time({ precision: -1 }) }),
  /** The first, second, … or last such day of a month; 5 is the last. */
  z.strictObject({
    every: z.literal('month'),
    which: z.int().min(1).max(5),
    on: z.int().min(1).max(7),
    at: z.iso.time({ precision: -1 }),
  }),
  z.strictObject({ every: z.literal('cron'), cron: z.string().min(1).max(120) }),
])
export type Rhythm = z.infer<typeof rhythmSchema>

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const WHICH = ['first', 'second', 'third', 'fourth', 'last']

/** Days of the week count from Monday as 1 (ISO 8601). */
export function cronOf(rhythm: Rhythm): string {
  if (rhythm.every === 'cron') return rhythm.cron.trim()
  const [hour, minute] = rhythm.at.split(':').map(Number)
  const time = `${minute ?? 0} ${hour ?? 0}`
  if (rhythm.every === 'day') return `${time} * * *`
  const day = rhythm.on % 7
  return rhythm.every === 'week'
    ? `${time} * * ${day}`
    : `${time} * * ${day}#${rhythm.which === 5 ? 'L' : rhythm.which}`
}

/** A cron form in words, where it is one of those that people say; else as it is written. */
export function wordsFor(cron: string): string {
  const found = /^(\d+) (\d+) \* \* (\*|\d)(?:#(\d|L))?$/.exec(cron)
  if (!found) return cron
  const [, minute = '', hour = '', day = '', which] = found
  const at = `at ${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`
  if (day === '*') return `every day ${at}`
  const name = DAYS[(Number(day) + 6) % 7] ?? ''
  return which === undefined
    ? `every ${name} ${at}`
    : `on the ${WHICH[which === 'L' ? 4 : Number(which) - 1] ?? ''} ${name} of a month ${at}`
}

/** @throws Error that says what is wrong with the form or the zone, or that it never comes */
export function nextTimes(cron: string, zone: string, from: Date, count: number): Date[] {
  let times: Date[]
  try {
    times = new Cron(cron, { timezone: zone, paused: true }).nextRuns(count, from)
  } catch (error) {
    throw new Error(`“${cron}” in the time zone “${zone}”: ${error instanceof Error ? error.message : String(error)}`)
  }
  if (times.length === 0) throw new Error(`“${cron}” never comes`)
  return times
}

/** Whether a time has passed since then at which it should have been done. */
export function missedSince(cron: string, zone: string, since: Date, now: Date): boolean {
  const [next] = nextTimes(cron, zone, since, 1)
  return next !== undefined && next <= now
}

/** The longest time between two of the next times, in days. */
export function longestGap(cron: string, zone: string, from: Date): number {
  const times = nextTimes(cron, zone, from, 14)
  return Math.max(...times.slice(1).map((time, i) => (time.getTime() - (times[i]?.getTime() ?? 0)) / 86_400_000))
}

import { Cron } from 'croner'
import type { Rhythm } from '@jurybox/api/rhythm'

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

/** A cron form as people say it, where it is one of those; the inverse of {@link cronOf}. */
export function rhythmOf(cron: string): Rhythm {
  const found = /^(\d+) (\d+) \* \* (\*|\d)(?:#(\d|L))?$/.exec(cron)
  if (!found) return { every: 'cron', cron }
  const [, minute = '', hour = '', day = '', which] = found
  const at = `${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`
  if (day === '*') return { every: 'day', at }
  const on = ((Number(day) + 6) % 7) + 1
  return which === undefined
    ? { every: 'week', on, at }
    : { every: 'month', which: which === 'L' ? 5 : Number(which), on, at }
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
    : `on the ${WHICH[which === 'L' ? 4 : Number(which) - 1] ?? ''} ${name} of the month ${at}`
}

/** @throws Error that says what is wrong with the form or the zone, or that it never comes */
export function nextTimes(cron: string, zone: string, from: Date, count: number): Date[] {
  let times: Date[]
  try {
    times = new Cron(cron, { timezone: zone, paused: true }).nextRuns(count, from)
  } catch (error) {
    throw new Error(`“${cron}” in the time zone “${zone}”: ${error instanceof Error ? error.message : String(error)}`)
  }
  if (times.length === 0) throw new Error(`“${cron}” never occurs`)
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

import { t } from '../messages/index.ts'
const words = new Intl.RelativeTimeFormat('en', { numeric: 'auto' })
const UNITS: readonly [Intl.RelativeTimeFormatUnit, number][] = [
  ['year', 31_557_600],
  ['month', 2_629_800],
  ['day', 86_400],
  ['hour', 3_600],
  ['minute', 60],
]

export function relativeTime(at: string, now = Date.now()): string {
  const seconds = (Date.parse(at) - now) / 1000
  for (const [unit, size] of UNITS) if (Math.abs(seconds) >= size) return words.format(Math.trunc(seconds / size), unit)
  return t('shared.justNow')
}

/** `2026-11-16`, the day in UTC */
export function dayOf(at: string | number): string {
  return new Date(at).toISOString().slice(0, 10)
}

/**
 * The time as the clocks of a zone show it: `2026-11-16 07:30 Europe/Zurich`.
 * @param zone a name of the IANA time zone database
 */
export function timeInZone(at: string, zone: string): string {
  const parts = new Intl.DateTimeFormat('en', {
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZone: zone,
  }).formatToParts(new Date(at))
  const of = (type: string): string => parts.find((part) => part.type === type)?.value ?? ''
  return `${of('year')}-${of('month')}-${of('day')} ${of('hour')}:${of('minute')} ${zone}`
}

/** `2026-11-16 06:30 UTC` */
export function absoluteTime(at: string): string {
  return t('shared.utc', { at: new Date(at).toISOString().slice(0, 16).replace('T', ' ') })
}

/** `3 hours`, `12 days`: a stretch of time in its largest unit, rounded. */
export function spanWords(seconds: number): string {
  const [unit, size] = UNITS.find(([, one]) => seconds >= one) ?? (['second', 1] as const)
  return new Intl.NumberFormat('en', { style: 'unit', unit, unitDisplay: 'long' }).format(Math.round(seconds / size))
}

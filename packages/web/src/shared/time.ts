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
  return 'just now'
}

/** `2026-11-16 06:30 UTC` */
export function absoluteTime(at: string): string {
  return `${new Date(at).toISOString().slice(0, 16).replace('T', ' ')} UTC`
}

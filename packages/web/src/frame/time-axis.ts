/** The scale of the chronicle: time in per cent of the line. What stands on it stands where it belongs. */
export interface Span {
  readonly from: number
  readonly to: number
}

const DAY = 86_400_000

/** All of `times` (milliseconds since 1970, UTC) and the last week, with a little room before the first. */
export function spanOf(times: readonly number[], now: number): Span {
  const from = times.reduce((least, time) => Math.min(least, time), now - 7 * DAY)
  return { from: from - (now - from) * 0.12, to: now }
}

export const placeOf = (at: number, { from, to }: Span): number => ((at - from) / (to - from)) * 100

export interface Tick<T> {
  /** Per cent of the line: the middle of what the tick stands for. */
  readonly at: number
  /** In the order of time. */
  readonly members: readonly T[]
}

/**
 * One tick for each of `items`, which are in the order of time; those whose ticks would stand closer than `apart` per
 * cent share one. Moving them apart in place of that would show other times than theirs.
 */
export function ticksOf<T>(items: readonly T[], placeOfItem: (item: T) => number, apart: number): Tick<T>[] {
  const ticks: { members: T[]; first: number; last: number }[] = []
  const middle = ({ first, last }: { first: number; last: number }): number => (first + last) / 2
  for (const item of items) {
    const place = placeOfItem(item)
    ticks.push({ members: [item], first: place, last: place })
    // A shared tick has moved to the left of its last member, and may now be too close to the one before.
    for (;;) {
      const last = ticks.at(-1)
      const before = ticks.at(-2)
      if (!last || !before || middle(last) - middle(before) >= apart) break
      before.members.push(...last.members)
      before.last = last.last
      ticks.pop()
    }
  }
  return ticks.map((tick) => ({ at: middle(tick), members: tick.members }))
}

const STEPS = [1, 2, 7, 14, 28, 61, 91, 182, 365]

/**
 * The days that are named below the line, as milliseconds since 1970; none where "today" stands.
 * @param most how many there is room for
 */
export function namedDays({ from, to }: Span, most = 10): number[] {
  const days = (to - from) / DAY
  const step = STEPS.find((one) => days / one <= most) ?? 365 * Math.ceil(days / 365 / most)
  const out: number[] = []
  for (let at = Math.ceil(from / DAY) * DAY; at < to - (to - from) * 0.06; at += step * DAY) out.push(at)
  return out
}

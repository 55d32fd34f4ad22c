/**
 * The time by which an audit judges ages and expiries, and until when its answers hold: a verdict that rests on a date
 * changes when that date has come.
 */
export class Clock {
  #until = Infinity

  /** @param now milliseconds since 1970-01-01T00:00:00Z */
  constructor(readonly now: number) {}

  /** Whether a moment has come. */
  reached(moment: number): boolean {
    if (moment <= this.now) return true
    this.#until = Math.min(this.#until, moment)
    return false
  }

  /** The first moment at which an answer given so far may change; Infinity where none does. */
  get until(): number {
    return this.#until
  }
}

let current: Clock | null = null

/** Evaluates with a clock for the functions of expressions that ask for the time. */
export function withClock<T>(clock: Clock, evaluate: () => T): T {
  const before = current
  current = clock
  try {
    return evaluate()
  } finally {
    current = before
  }
}

/** @throws Error outside `withClock` */
export function currentClock(): Clock {
  if (!current) throw new Error('nothing is being judged: there is no time to ask for')
  return current
}

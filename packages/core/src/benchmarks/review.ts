import type { Framework } from './coverage.ts'

const DAY = 86_400_000

/** Whether a requirement that asks for a review at intervals has had it. */
export interface Review {
  readonly framework: string
  readonly requirement: string
  readonly title: string
  readonly everyDays: number
  /** Null where it was never reviewed. */
  readonly last: string | null
  readonly answer: 'met' | 'overdue' | 'scheduled too rarely'
  /** When the next one is due; null where there was none yet. */
  readonly due: string | null
}

/**
 * Reviews as they stand at a time.
 * @param audits times of finished audits (RFC 3339) @param everyDays how often audits are scheduled; null where they are not
 */
export function reviewsOf(frameworks: readonly Framework[], audits: readonly string[], everyDays: number | null, now: number): Review[] {
  const last = audits.toSorted((a, b) => Date.parse(a) - Date.parse(b)).at(-1) ?? null
  return frameworks.flatMap((framework) =>
    Object.entries(framework.requirements).flatMap(([requirement, { title, review }]) => {
      if (review === undefined) return []
      const due = last === null ? null : Date.parse(last) + review * DAY
      const answer = due === null || due <= now ? ('overdue' as const) : everyDays !== null && everyDays > review ? ('scheduled too rarely' as const) : ('met' as const)
      return [{ framework: framework.id, requirement, title, everyDays: review, last, answer, due: due === null ? null : new Date(due).toISOString() }]
    }),
  )
}

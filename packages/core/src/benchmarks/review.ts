import type { Framework } from './coverage.ts'

const DAY = 86_400_000

/** Something that reviewed a requirement: an audit by rules that speak to it, or what a person answered. */
export interface Reviewing {
  /** RFC 3339. */
  readonly at: string
  readonly by: 'audit' | 'answer'
}

/** Whether a requirement that asks for a review at intervals has had it. */
export interface Review {
  readonly framework: string
  readonly requirement: string
  readonly title: string
  readonly everyDays: number
  /** Null where it was never reviewed. */
  readonly last: Reviewing | null
  readonly answer: 'met' | 'overdue' | 'scheduled too rarely'
  /** When the next one is due; null where there was none yet. */
  readonly due: string | null
  /** The longest time between two reviews that was longer than asked for, in days; null where none was. */
  readonly lapse: number | null
}

/**
 * Reviews as they stand at a time.
 * @param done what reviewed each requirement, by `framework:requirement`
 * @param everyDays how often audits are scheduled; null where they are not
 * @param now milliseconds since 1970
 */
export function reviewsOf(
  frameworks: readonly Framework[],
  done: ReadonlyMap<string, readonly Reviewing[]>,
  everyDays: number | null,
  now: number,
): Review[] {
  return frameworks.flatMap((framework) =>
    Object.entries(framework.requirements).flatMap(([requirement, { title, review }]): Review[] => {
      if (review === undefined) return []
      const all = (done.get(`${framework.id}:${requirement}`) ?? []).toSorted(
        (a, b) => Date.parse(a.at) - Date.parse(b.at),
      )
      const last = all.at(-1) ?? null
      const due = last === null ? null : Date.parse(last.at) + review * DAY
      const answer =
        due === null || due <= now
          ? 'overdue'
          : everyDays !== null && everyDays > review
            ? 'scheduled too rarely'
            : 'met'
      const gaps = all
        .slice(1)
        .map(({ at }, i) => (Date.parse(at) - Date.parse(all[i]?.at ?? at)) / DAY)
        .filter((days) => days > review)
      return [
        {
          framework: framework.id,
          requirement,
          title,
          everyDays: review,
          last,
          answer,
          due: due === null ? null : new Date(due).toISOString(),
          lapse: gaps.length === 0 ? null : Math.floor(Math.max(...gaps)),
        },
      ]
    }),
  )
}

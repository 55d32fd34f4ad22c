import { reportChoice, type ReportChoice } from '@jurybox/api/reports'

/** What a report is made of, before anybody chose. */
export const NOTHING_CHOSEN: ReportChoice = reportChoice.parse({})

/** A choice as the query of an address: what is as it would be anyway is left out. */
export function queryOf(choice: ReportChoice): Record<string, string> {
  const { audience, sections, ...texts } = choice
  return Object.fromEntries([
    ...(audience === NOTHING_CHOSEN.audience ? [] : [['audience', audience]]),
    ...(sections.length === 0 ? [] : [['sections', sections.join(',')]]),
    ...Object.entries(texts).filter(([, text]) => text !== ''),
  ]) as Record<string, string>
}

/** Moves an entry of a list by one place, where there is room. */
export function moved<T>(all: readonly T[], from: number, by: -1 | 1): T[] {
  const to = from + by
  const next = [...all]
  const [one] = next.splice(from, 1)
  if (one === undefined || to < 0 || to >= all.length) return [...all]
  next.splice(to, 0, one)
  return next
}

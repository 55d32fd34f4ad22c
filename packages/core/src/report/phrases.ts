/** What every form of a report says in the same words, and what it counts. */
import type { AuditDocument, Counts, Verdict } from '../audit/index.ts'
import type { ReportText, Say } from './messages/index.ts'
import type { Report } from './report.ts'
import type { SummaryLine } from './summary.ts'

/** The outcomes that a report counts, in their order. */
export const COUNTED_OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const

/** How an audit was made, in sentences. */
export const METHOD = [
  'method.certification',
  'method.captured',
  'method.branches',
  'method.traffic',
  'method.unknown',
  'method.outcomes',
  'method.requirements',
  'method.secrets',
] as const

/** What stands before the number of a page, between it and how many there are, and after them. */
export function pageWords(say: Say): readonly [before: string, between: string, after: string] {
  const [before = '', between = '', after = ''] = say('report.pages', { page: '\n', pages: '\n' }).split('\n')
  return [before, between, after]
}

export function heads(say: Say, ...columns: readonly ReportText[]): string[] {
  return columns.map((column) => say(column))
}

/** Requirements by who decides them, in the order of the columns. */
export function coverageNumbers(counts: Report['coverage'][number]['counts']): string[] {
  return (['machine', 'partly', 'person', 'none', 'outside'] as const).map((kind) => String(counts[kind]))
}

export function numbers(counts: Counts): string[] {
  return COUNTED_OUTCOMES.map((outcome) => String(counts[outcome]))
}

export function outcomeHeads(say: Say): string[] {
  return COUNTED_OUTCOMES.map((outcome) => say(`outcome.${outcome}`))
}

export function severityLines(lines: Report['summary']['severities'], say: Say): SummaryLine[] {
  return lines.map((line) => ({ ...line, title: say(`severity.${line.title}`) }))
}

export function scopeWords({ document, profiles }: Pick<Report, 'document' | 'profiles'>, say: Say): string {
  const benchmarks = document.benchmarks
    .map(({ id, title, version, profile }) =>
      say('scope.benchmark', { title, version, profile: profiles[id] ?? profile }),
    )
    .join(', ')
  return say('scope.audited', { benchmarks }, document.devices.length)
}

export function standingWords({ benchmark, flat, weighted }: AuditDocument['scores'][number], say: Say): string {
  const share = weighted === null ? say('standing.notDecided') : weighted.toFixed(1)
  return say('standing.score', { benchmark, points: flat.points, of: flat.of, weighted: share })
}

export function attestedWords(
  { outcome, expired }: Pick<AuditDocument['attested'][number], 'outcome' | 'expired'>,
  say: Say,
): string {
  const words = say(`outcome.${outcome}`)
  return expired ? say('people.expired', { outcome: words }) : words
}

/** Lines that follow each other in a record are shown as one place. */
export function placesOf(exhibits: Verdict['exhibits']): Verdict['exhibits'] {
  const places: Verdict['exhibits'][number][] = []
  for (const exhibit of exhibits) {
    const last = places.at(-1)
    if (last && isFollowedBy(last, exhibit))
      places[places.length - 1] = { ...last, to: exhibit.to, text: `${last.text}\n${exhibit.text}` }
    else places.push(exhibit)
  }
  return places
}

function isFollowedBy(one: Verdict['exhibits'][number], next: Verdict['exhibits'][number]): boolean {
  const isWhole = ({ from, to, text }: typeof one): boolean => text !== '' && text.split('\n').length === to - from + 1
  const isSame = one.record === next.record && !one.absent && !next.absent
  return isSame && next.from === one.to + 1 && isWhole(one) && isWhole(next)
}

/** Where lines stand: the path of their record, and their numbers. */
export function placeWords(
  { record, from, to }: Verdict['exhibits'][number],
  paths: Report['paths'],
  say: Say,
): string {
  const place = { record: paths[record] ?? record, from, to }
  return from === to ? say('finding.line', place) : say('finding.lines', place)
}

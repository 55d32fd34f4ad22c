/** The first page of a report: how it stands, where it is worst, and what became of the audit before. */
import { isFinding, type AuditDocument, type Verdict } from '../audit/index.ts'
import { grouped } from '../syntax/grouped.ts'
import type { Say } from './messages/index.ts'

/** A finding with the title of its rule. */
interface Finding {
  readonly title: string
  readonly verdict: Verdict
}

export interface SummaryLine {
  readonly title: string
  readonly fail: number
  /** Unknown and error. */
  readonly open: number
}

/** Findings of the audit before, held against this one. */
export interface AuditBefore {
  readonly title: string
  /** RFC 3339. */
  readonly takenAt: string
  readonly resolved: number
  readonly added: number
  readonly stillOpen: number
}

export interface Summary {
  readonly devices: number
  readonly devicesWithFindings: number
  readonly rules: number
  /** Findings that are not waived, by severity, the gravest first; every severity is there. */
  readonly severities: readonly (SummaryLine & { readonly title: Verdict['severity'] })[]
  /** The worst topics and devices first. */
  readonly topics: readonly SummaryLine[]
  readonly devicesByFindings: readonly SummaryLine[]
  /** Rules with most failing devices among the gravest: what to remediate first. */
  readonly first: readonly (SummaryLine & { readonly severity: Verdict['severity'] })[]
  readonly before: AuditBefore | null
}

const GRAVITY = ['high', 'medium', 'low', 'info'] as const
const SHOWN = 5

/** @param topicOf the topic of a rule, by benchmark and rule; empty where it has none */
export function summaryOf(
  document: AuditDocument,
  findings: readonly Finding[],
  topicOf: (benchmark: string, rule: string) => string,
  before: AuditBefore | null,
): Summary {
  const live = findings.filter(({ verdict }) => verdict.waived === undefined)
  const line = <T extends string>(title: T, own: readonly Finding[]): SummaryLine & { readonly title: T } => ({
    title,
    fail: own.filter(({ verdict }) => verdict.outcome === 'fail').length,
    open: own.filter(({ verdict }) => verdict.outcome !== 'fail' && isFinding(verdict.outcome)).length,
  })
  const worst = (nameOf: (finding: Finding) => string): SummaryLine[] =>
    [...grouped(live, nameOf)]
      .filter(([name]) => name !== '')
      .map(([name, own]) => line(name, own))
      .sort((a, b) => b.fail - a.fail || b.open - a.open || (a.title < b.title ? -1 : 1))
      .slice(0, SHOWN)
  const rank = ({ verdict }: Finding): number => GRAVITY.indexOf(verdict.severity)
  return {
    devices: document.devices.length,
    devicesWithFindings: new Set(live.map(({ verdict }) => verdict.device)).size,
    rules: new Set(document.verdicts.map(({ benchmark, rule }) => `${benchmark} ${rule}`)).size,
    severities: GRAVITY.map((severity) =>
      line(
        severity,
        live.filter(({ verdict }) => verdict.severity === severity),
      ),
    ),
    topics: worst(({ verdict }) => topicOf(verdict.benchmark, verdict.rule)),
    devicesByFindings: worst(({ verdict }) => verdict.device),
    first: [...grouped(live, ({ verdict }) => `${verdict.benchmark} ${verdict.rule}`).values()]
      .map((own) => ({
        own,
        ...line(own[0]?.title ?? '', own),
        severity: own[0]?.verdict.severity ?? ('info' as const),
      }))
      .filter(({ fail }) => fail > 0)
      .sort(
        (a, b) =>
          rank(a.own[0] as Finding) - rank(b.own[0] as Finding) || b.fail - a.fail || (a.title < b.title ? -1 : 1),
      )
      .slice(0, SHOWN)
      .map(({ title, fail, open, severity }) => ({ title, fail, open, severity })),
    before,
  }
}

const BAR = 360
const ROW = 22
const LABEL = 150
const COLOURS = { ink: '#20242c', quiet: '#646a73', fail: '#b93a22', open: '#7e5800' } as const

/**
 * Lines as bars, as SVG with its numbers as text: fails full, what is open beside them as an outline.
 * @param label what is read instead of the picture
 */
export function barsSvg(lines: readonly SummaryLine[], label: string, escaped: (text: string) => string): string {
  const most = Math.max(1, ...lines.map(({ fail, open }) => fail + open))
  const width = (count: number): number => Math.round((count / most) * BAR * 10) / 10
  const rows = lines.map(({ title, fail, open }, i) => {
    const y = i * ROW
    const shown = title.length > 26 ? `${title.slice(0, 25)}…` : title
    return [
      `<text x="0" y="${y + 14}" font-size="11" fill="${COLOURS.ink}">${escaped(shown)}</text>`,
      fail > 0 ? `<rect x="${LABEL}" y="${y + 4}" width="${width(fail)}" height="12" fill="${COLOURS.fail}"/>` : '',
      open > 0
        ? `<rect x="${LABEL + width(fail)}" y="${y + 4.5}" width="${width(open)}" height="11" fill="none" ` +
          `stroke="${COLOURS.open}"/>`
        : '',
      `<text x="${LABEL + width(fail + open) + 6}" y="${y + 14}" font-size="10" fill="${COLOURS.quiet}">` +
        `${fail}${open > 0 ? ` + ${open}` : ''}</text>`,
    ].join('')
  })
  const height = Math.max(1, lines.length) * ROW
  return (
    `<svg viewBox="0 0 ${LABEL + BAR + 60} ${height}" ` +
    `width="${LABEL + BAR + 60}" height="${height}" role="img" ` +
    `aria-label="${escaped(label)}">${rows.join('')}</svg>`
  )
}

/** The summary in words: sentences for whoever reads no table. */
export function summaryWords({ devices, devicesWithFindings, rules, severities, before }: Summary, say: Say): string[] {
  const count = (of: 'fail' | 'open'): number => severities.reduce((sum, line) => sum + line[of], 0)
  const high = severities.find(({ title }) => title === 'high')?.fail ?? 0
  const found = say('summary.withFindings', {}, devicesWithFindings)
  return [
    say('summary.audited', { rules, found }, devices),
    say('summary.failures', { fail: count('fail'), high, open: count('open') }),
    ...(before === null ? [] : [say('summary.since', { ...before, day: before.takenAt.slice(0, 10) })]),
  ]
}

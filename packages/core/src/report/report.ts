import { grouped } from '../syntax/grouped.ts'
import { DEFAULT_LANGUAGE, type ReportLanguage, type Say } from './messages/index.ts'
import { AUDIENCES, type SectionId } from './sections.ts'
import { summaryOf, type AuditBefore, type Summary } from './summary.ts'
import type { AuditDocument, Counts, Verdict } from '../audit/index.ts'
import { EXPECTATIONS, countVerdicts, isFinding } from '../audit/index.ts'
import { assess, type Assessment } from './assessment.ts'
import { coverageOf, type BenchmarkSource, type Framework, type RequirementCoverage } from '../benchmarks/index.ts'

/** What a report is made of, whatever form it is written in. All texts are masked already. */
export interface Report {
  readonly title: string
  readonly language: ReportLanguage
  readonly engagement: string | null
  /** RFC 3339, UTC. */
  readonly madeAt: string
  readonly document: AuditDocument
  readonly counts: Counts
  /**
   * How many findings there are: verdicts of rules, and expectations of traffic that are not met; how many of both are
   * waived.
   */
  readonly findingCounts: { readonly rules: number; readonly expectations: number; readonly waived: number }
  /** Titles of the profiles by which was judged, by benchmark. */
  readonly profiles: Readonly<Record<string, string>>
  readonly rules: readonly RuleLine[]
  readonly requirements: readonly RequirementLine[]
  /** Where the audit was for one framework: each of its requirements with its answer. */
  readonly assessment: Assessment | null
  /** Failures and what could not be decided, the gravest first. */
  readonly findings: readonly Finding[]
  /** For each framework: how many of its requirements are decided by whom. */
  readonly coverage: readonly CoverageLine[]
  /** The key that evidence is signed with; null where nothing was signed. */
  readonly signing: SigningKeyPrint | null
  readonly cover: ReportCover
  readonly summary: Summary
  /** What it consists of, in this order. */
  readonly sections: readonly SectionId[]
  /** Paths of records by their ids: what a reader of the report can look up. */
  readonly paths: Readonly<Record<string, string>>
}

/** A public key as a report prints it. */
export interface SigningKeyPrint {
  /** Ed25519, 32 bytes in base64. */
  readonly publicKey: string
  readonly fingerprint: string
  /** The fingerprint as a QR code (ISO/IEC 18004), as SVG. */
  readonly qr: string
}

/** What stands on the first page beside the title; empty: not said. */
export interface ReportCover {
  readonly client: string
  readonly auditor: string
  /** `2026-09-01 to 2026-11-30`. */
  readonly period: string
  /** Said on each page, such as `Confidential`. */
  readonly confidentiality: string
  /** A picture of the client. */
  readonly logo: { readonly type: string; readonly base64: string } | null
}
const NO_COVER: ReportCover = { client: '', auditor: '', period: '', confidentiality: '', logo: null }

/** What a report is made with beside the audit. */
export interface ReportAbout {
  readonly title: string
  readonly engagement: string | null
  /** RFC 3339, UTC. */
  readonly madeAt: string
  readonly language?: ReportLanguage
  readonly signing?: SigningKeyPrint | null
  readonly cover?: Partial<ReportCover>
  readonly sections?: readonly SectionId[]
  readonly before?: AuditBefore | null
}

export interface RuleLine {
  readonly benchmark: string
  readonly rule: string
  readonly title: string
  readonly severity: Verdict['severity']
  readonly counts: Counts
}

export interface RequirementLine {
  readonly framework: string
  readonly requirement: string
  readonly title: string
  readonly rules: readonly string[]
  readonly counts: Counts
}

export interface CoverageLine {
  readonly framework: string
  readonly counts: Readonly<Record<RequirementCoverage['coverage'], number>>
  readonly total: number
}

export interface Finding {
  readonly number: number
  readonly title: string
  readonly statement: string
  readonly verdict: Verdict
  /** Time of capture of the record it rests on. */
  readonly takenAt: string | null
}

const GRAVITY = ['high', 'medium', 'low', 'info']

export function makeReport(
  document: AuditDocument,
  benchmarks: readonly BenchmarkSource[],
  frameworks: readonly Framework[],
  { language = DEFAULT_LANGUAGE, cover = {}, sections = AUDIENCES.technical, before = null, ...about }: ReportAbout,
): Report {
  const rules = new Map(
    benchmarks.flatMap((benchmark) =>
      benchmark.rules.map((rule) => [`${benchmark.id} ${rule.id}`, { benchmark: benchmark.id, rule }] as const),
    ),
  )
  const byRule = grouped(document.verdicts, (verdict) => `${verdict.benchmark} ${verdict.rule}`)
  const byReference = new Map<string, Verdict[]>()
  const all = [...document.verdicts, ...document.expected]
  for (const verdict of all) {
    for (const reference of verdict.references)
      byReference.set(reference, [...(byReference.get(reference) ?? []), verdict])
  }
  const taken = new Map(document.records.map((record) => [record.id, record.takenAt]))
  const expected = new Map(document.expected.map((verdict) => [verdict.rule, verdict]))
  const findings = all
    .filter((verdict) => isFinding(verdict.outcome))
    // What is borne for a time comes last, and is not left out.
    .sort(
      (a, b) =>
        Number(a.waived !== undefined) - Number(b.waived !== undefined) ||
        Number(a.outcome !== 'fail') - Number(b.outcome !== 'fail') ||
        GRAVITY.indexOf(a.severity) - GRAVITY.indexOf(b.severity) ||
        order(a.device, b.device) ||
        order(a.rule, b.rule),
    )
    .map((verdict, i): Finding => {
      const source =
        verdict.benchmark === EXPECTATIONS
          ? expected.get(verdict.rule)
          : rules.get(`${verdict.benchmark} ${verdict.rule}`)?.rule
      return {
        number: i + 1,
        title: source?.title ?? verdict.rule,
        statement: source?.statement ?? '',
        verdict,
        takenAt: taken.get(verdict.exhibits[0]?.record ?? '') ?? null,
      }
    })
  const ofTraffic = findings.filter(({ verdict }) => verdict.benchmark === EXPECTATIONS).length
  return {
    signing: null,
    ...about,
    document,
    counts: document.counts,
    findingCounts: {
      rules: findings.length - ofTraffic,
      expectations: ofTraffic,
      waived: findings.filter(({ verdict }) => verdict.waived !== undefined).length,
    },
    profiles: Object.fromEntries(
      document.benchmarks.map(({ id, profile }) => [
        id,
        benchmarks.find((one) => one.id === id)?.profiles.find((one) => one.id === profile)?.title ?? profile,
      ]),
    ),
    rules: [...rules].flatMap(([key, { benchmark, rule }]) => {
      const verdicts = byRule.get(key)
      return verdicts
        ? [{ benchmark, rule: rule.id, title: rule.title, severity: rule.severity, counts: countVerdicts(verdicts) }]
        : []
    }),
    requirements: frameworks.flatMap((framework) =>
      Object.entries(framework.requirements).flatMap(([requirement, { title }]) => {
        const verdicts = byReference.get(`${framework.id}:${requirement}`)
        return verdicts
          ? [
              {
                framework: framework.title,
                requirement,
                title,
                rules: [...new Set(verdicts.map((verdict) => verdict.rule))],
                counts: countVerdicts(verdicts),
              },
            ]
          : []
      }),
    ),
    assessment: assessmentOf(document, benchmarks, frameworks),
    findings,
    language,
    coverage: coverageLines(
      benchmarks,
      frameworks,
      document.expected.map(({ rule, references }) => ({ id: rule, references })),
    ),
    cover: { ...NO_COVER, ...cover },
    summary: summaryOf(
      document,
      findings,
      (benchmark, rule) => rules.get(`${benchmark} ${rule}`)?.rule.topic ?? '',
      before,
    ),
    sections,
    paths: Object.fromEntries(document.records.map((record) => [record.id, record.path])),
  }
}

function assessmentOf(
  document: AuditDocument,
  benchmarks: readonly BenchmarkSource[],
  frameworks: readonly Framework[],
): Assessment | null {
  const framework = frameworks.find(({ id }) => id === document.framework)
  return framework ? assess(document, benchmarks, framework) : null
}

function coverageLines(
  benchmarks: readonly BenchmarkSource[],
  frameworks: readonly Framework[],
  expectations: Parameters<typeof coverageOf>[2],
): CoverageLine[] {
  const covered = coverageOf(benchmarks, frameworks, expectations)
  return frameworks.map(({ id, title }) => {
    const counts = { machine: 0, partly: 0, person: 0, none: 0, outside: 0 }
    for (const line of covered) if (line.framework === id) counts[line.coverage]++
    return { framework: title, counts, total: covered.filter(({ framework }) => framework === id).length }
  })
}

function order(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0
}

/** How many findings, in words that agree with the counts of verdicts. */
export function findingWords({ rules, expectations, waived }: Report['findingCounts'], say: Say): string {
  const parts = [
    ...(expectations === 0
      ? []
      : [say('findings.ofRules', { n: rules }), say('findings.ofExpectations', { n: expectations })]),
    ...(waived === 0 ? [] : [say('findings.waived', { n: waived })]),
  ]
  return parts.length === 0
    ? String(rules)
    : say('findings.counts', { all: rules + expectations, parts: parts.join(', ') })
}

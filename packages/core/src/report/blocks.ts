/** A report as headings, texts, lists, tables and lines: what documents for editing are written from. */
import type { Verdict } from '../audit/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { answerCounts, answerWords, reasonWords } from './assessment.ts'
import { textsOf, type ReportText, type Say } from './messages/index.ts'
import {
  METHOD,
  COUNTED_OUTCOMES,
  attestedWords,
  coverageNumbers,
  heads,
  numbers,
  outcomeHeads,
  placeWords,
  placesOf,
  scopeWords,
  severityLines,
  standingWords,
} from './phrases.ts'
import { findingWords, type Finding, type Report } from './report.ts'
import { scoreWords } from './requirement-score.ts'
import type { SectionId } from './sections.ts'
import { summaryWords, type SummaryLine } from './summary.ts'

export type Block =
  | { readonly kind: 'heading'; readonly level: 1 | 2 | 3; readonly text: string }
  | { readonly kind: 'text'; readonly text: string; readonly tone?: 'quiet' | 'strong' }
  | { readonly kind: 'list'; readonly items: readonly string[] }
  | { readonly kind: 'table'; readonly head: readonly string[]; readonly rows: readonly (readonly string[])[] }
  | { readonly kind: 'lines'; readonly text: string }

const text = (words: string, tone?: 'quiet' | 'strong'): Block => ({
  kind: 'text',
  text: words,
  ...(tone ? { tone } : {}),
})
const heading = (level: 1 | 2 | 3, words: string): Block => ({ kind: 'heading', level, text: words })
const table = (head: readonly string[], rows: readonly (readonly string[])[]): Block => ({ kind: 'table', head, rows })
const lines = (title: string, items: readonly string[]): Block[] =>
  items.length === 0 ? [] : [text(title, 'strong'), { kind: 'lines', text: items.join('\n') }]
const when = (time: string | null, say: Say): string =>
  time === null ? say('time.unknown') : say('time.utc', { time: time.slice(0, 16).replace('T', ' ') })
/** A part with a heading of its own; nothing where it has no rows. */
function part(title: string, head: readonly string[], rows: readonly (readonly string[])[]): Block[] {
  return rows.length === 0 ? [] : [heading(3, title), table(head, rows)]
}

/**
 * The whole report: its first page, then its sections in their order.
 * @param say the texts of its language
 */
export function reportBlocks(report: Report, say = textsOf(report.language)): Block[] {
  const { document, cover } = report
  const said: readonly (readonly [ReportText, string])[] = [
    ['cover.client', cover.client],
    ['cover.auditor', cover.auditor],
    ['cover.period', cover.period],
    ['cover.engagement', report.engagement ?? ''],
    ['report.made', when(report.madeAt, say)],
    ['report.snapshot', `${document.snapshot.title}, ${when(document.snapshot.takenAt, say)}`],
    ['cover.limitedTo', document.limitedTo ?? ''],
  ]
  return [
    heading(1, report.title),
    ...(cover.confidentiality === '' ? [] : [text(cover.confidentiality, 'strong')]),
    ...said.flatMap(([name, value]) => (value === '' ? [] : [text(say('cover.line', { name: say(name), value }))])),
    text(
      COUNTED_OUTCOMES.map((outcome) => `${report.counts[outcome]} ${say(`outcome.${outcome}`)}`).join(' · '),
      'strong',
    ),
    ...report.sections.flatMap((section) => {
      const own = SECTION_BLOCKS[section](report, say)
      const title = section === 'assessment' ? (report.assessment?.title ?? '') : say(`section.${section}`)
      return own.length === 0 ? [] : [heading(2, title), ...own]
    }),
  ]
}

/** Each section below its heading; empty where there is nothing to say. */
const SECTION_BLOCKS: Readonly<Record<SectionId, (report: Report, say: Say) => Block[]>> = {
  summary: ({ summary }, say) => [
    ...summaryWords(summary, say).map((words) => text(words)),
    ...counted('summary.severities', 'column.severity', severityLines(summary.severities, say), say),
    ...counted('summary.topics', 'column.topic', summary.topics, say),
    ...counted('summary.devices', 'column.device', summary.devicesByFindings, say),
    ...part(
      say('summary.first'),
      heads(say, 'column.rule', 'column.severity', 'summary.failing'),
      summary.first.map(({ title, severity, fail }) => [title, say(`severity.${severity}`), String(fail)]),
    ),
  ],
  scope: ({ document, profiles }, say) => [
    text(scopeWords({ document, profiles }, say)),
    table(
      heads(say, 'column.device', 'column.dialect', 'column.lines', 'column.unparsed'),
      document.devices.map((device) => [device.name, device.dialect, String(device.lines), String(device.unread)]),
    ),
    ...part(
      say('scope.refused'),
      heads(say, 'column.file', 'column.reason'),
      document.refused.map(({ path, reason }) => [path, reason]),
    ),
  ],
  method: (_, say) => [{ kind: 'list', items: METHOD.map((line) => say(line)) }],
  signing: ({ signing }, say) =>
    signing === null
      ? []
      : [
          text(say('signing.key')),
          { kind: 'lines', text: signing.fingerprint },
          text(say('signing.publicKey', { key: signing.publicKey })),
        ],
  assessment: ({ assessment }, say) =>
    assessment === null
      ? []
      : [
          text(answerCounts(assessment, say).join(' · '), 'strong'),
          ...(assessment.score === null ? [] : scoreWords(assessment.score, say)).map((words) => text(words)),
          table(
            heads(say, 'column.requirement', 'column.title', 'column.answer', 'column.why', 'column.evidence'),
            assessment.requirements.map((line) => [
              line.requirement,
              line.title,
              answerWords(assessment, line.answer, say),
              reasonWords(line.why, say),
              [...line.rules, ...line.attestations, ...line.expectations].join(', '),
            ]),
          ),
        ],
  rules: ({ rules }, say) => [
    table(
      [...heads(say, 'column.rule', 'column.severity'), ...outcomeHeads(say)],
      rules.map(({ title, severity, counts }) => [title, say(`severity.${severity}`), ...numbers(counts)]),
    ),
  ],
  standing: ({ document, coverage }, say) => [
    ...document.scores.map((score) => text(standingWords(score, say))),
    text(`${say('standing.flat')} ${say('standing.weighted')}`, 'quiet'),
    table(
      heads(
        say,
        'column.framework',
        'column.requirements',
        'column.automatic',
        'column.partly',
        'column.byPerson',
        'column.notCovered',
        'column.outside',
      ),
      coverage.map(({ framework, counts, total }) => [framework, String(total), ...coverageNumbers(counts)]),
    ),
    ...part(
      say('standing.tailored'),
      heads(say, 'column.rule', 'column.what', 'column.why', 'column.by'),
      document.tailored.map(({ rule, what, reason, by }) => [rule, what, reason, by]),
    ),
  ],
  requirements: ({ requirements }, say) => [
    table(
      heads(say, 'column.requirement', 'column.title', 'outcome.fail', 'outcome.unknown', 'outcome.pass'),
      requirements.map(({ framework, requirement, title, counts }) => [
        `${framework} ${requirement}`,
        title,
        String(counts.fail),
        String(counts.unknown + counts.error),
        String(counts.pass),
      ]),
    ),
  ],
  people: ({ document }, say) =>
    document.attested.length === 0
      ? []
      : [
          table(
            heads(say, 'column.question', 'column.answer', 'column.by', 'column.until', 'column.evidence'),
            document.attested.map((one) => [
              `${one.title}: ${one.question}`,
              `${attestedWords(one, say)}. ${one.note}`,
              one.by ?? '',
              one.until === null ? '' : when(one.until, say),
              one.files.length === 0
                ? say('people.needed', { evidence: one.evidence })
                : one.files.map(({ name }) => name).join(', '),
            ]),
          ),
        ],
  traffic: ({ document }, say) =>
    document.expected.length === 0
      ? []
      : [
          table(
            heads(say, 'column.expectation', 'column.answer', 'column.result', 'column.requirements'),
            document.expected.map((one) => [
              `${one.title}. ${one.statement}`,
              say(`outcome.${one.outcome}`),
              one.note,
              one.references.join(' · '),
            ]),
          ),
        ],
  remediation: ({ findings }, say) =>
    [
      ...grouped(
        findings.filter(({ verdict }) => verdict.remedy !== null && verdict.outcome === 'fail' && !verdict.waived),
        ({ verdict }) => verdict.device,
      ),
    ].flatMap(([device, own]) => [
      heading(3, device),
      ...own.flatMap(({ title, verdict }) => [text(title, 'strong'), ...remedyBlocks(verdict, say)]),
    ]),
  findings: ({ findings, findingCounts, paths }, say) => [
    text(say('findings.definition', { counts: findingWords(findingCounts, say) }), 'quiet'),
    ...(findings.length === 0
      ? [text(say('findings.none'))]
      : findings.flatMap((finding) => findingBlocks(finding, paths, say))),
  ],
  records: ({ document }, say) => [
    table(
      heads(say, 'column.record', 'column.device', 'column.taken', 'column.fingerprint'),
      document.records.map(({ path, device, takenAt, fingerprint }) => [path, device, when(takenAt, say), fingerprint]),
    ),
    text(`${say('records.build', { build: document.build })} ${say('records.fingerprint')}`, 'quiet'),
  ],
}

function counted(title: ReportText, what: ReportText, own: readonly SummaryLine[], say: Say): Block[] {
  return part(
    say(title),
    heads(say, what, 'outcome.fail', 'summary.notDecided'),
    own.map((line) => [line.title, String(line.fail), String(line.open)]),
  )
}

function findingBlocks(
  { number, title, statement, verdict, takenAt }: Finding,
  paths: Report['paths'],
  say: Say,
): Block[] {
  const values = verdict.values.map((one) => say('finding.value', { ...one }))
  const meta = [
    say(`outcome.${verdict.outcome}`),
    say('finding.severity', { severity: say(`severity.${verdict.severity}`) }),
    say('finding.branch', { rule: verdict.rule, branch: verdict.branch }),
    takenAt === null ? say('finding.evidenceUnknown') : say('finding.evidence', { time: when(takenAt, say) }),
  ]
  return [
    heading(3, `${number}. ${title} · ${verdict.device}`),
    text(meta.join(' · '), 'quiet'),
    text(verdict.note),
    ...(verdict.waived ?? []).map(({ subject, reason, owner, expires }) => {
      const waived = subject === null ? say('finding.waived') : say('finding.waivedFor', { subject })
      return text(say('finding.waivedUntil', { waived, time: when(expires, say), owner, reason }), 'strong')
    }),
    ...(statement === '' ? [] : [text(statement, 'quiet')]),
    ...(values.length === 0 ? [] : [text(say('finding.values', { values: values.join('; ') }), 'quiet')]),
    ...lines(say('finding.missing'), verdict.missing),
    ...lines(say('finding.extra'), verdict.extra),
    ...placesOf(verdict.exhibits).flatMap((exhibit) => exhibitBlocks(exhibit, paths, say)),
    ...remedyBlocks(verdict, say),
    ...(verdict.references.length === 0
      ? []
      : [text(say('finding.references', { references: verdict.references.join(' · ') }), 'quiet')]),
  ]
}

function exhibitBlocks(exhibit: Verdict['exhibits'][number], paths: Report['paths'], say: Say): Block[] {
  const where = placeWords(exhibit, paths, say)
  if (exhibit.text === '') return [text(exhibit.absent ? say('finding.searchedMissing', { where }) : where, 'quiet')]
  const numbered = exhibit.text.split('\n').map((line, i) => `${String(exhibit.from + i).padStart(5)}  ${line}`)
  return [
    text(exhibit.absent ? say('finding.searched', { where }) : where, 'quiet'),
    { kind: 'lines', text: numbered.join('\n') },
  ]
}

function remedyBlocks({ remedy }: Verdict, say: Say): Block[] {
  if (remedy === null) return []
  if ('words' in remedy) return [text(say('remedy.remediation'), 'strong'), text(remedy.words)]
  return [
    ...(remedy.risk === 'none' ? [] : [text(say(`risk.${remedy.risk}`), 'strong')]),
    ...(remedy.check.length === 0 ? [] : [text(say('remedy.check')), { kind: 'list', items: remedy.check } as const]),
    ...lines(say('remedy.remediation'), remedy.commands),
    ...lines(say('remedy.rollback'), remedy.rollback),
    ...(remedy.unrestored === undefined ? [] : [text(say('remedy.unrestored', { what: remedy.unrestored }))]),
  ]
}

/** A report as headings, texts, lists, tables and lines: what documents for editing are written from. */
import { SCORE_FORMULAS, type Counts, type Verdict } from '../audit/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { answerCounts, answerWords } from './assessment.ts'
import { findingWords, type Finding, type Report } from './report.ts'
import { scoreWords } from './requirement-score.ts'
import { SECTIONS, type SectionId } from './sections.ts'
import { summaryWords, type SummaryLine } from './summary.ts'
import { OUTCOME_WORDS } from './words.ts'

export type Block =
  | { readonly kind: 'heading'; readonly level: 1 | 2 | 3; readonly text: string }
  | { readonly kind: 'text'; readonly text: string; readonly tone?: 'quiet' | 'strong' }
  | { readonly kind: 'list'; readonly items: readonly string[] }
  | { readonly kind: 'table'; readonly head: readonly string[]; readonly rows: readonly (readonly string[])[] }
  | { readonly kind: 'lines'; readonly text: string }

const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const

const text = (words: string, tone?: 'quiet' | 'strong'): Block => ({
  kind: 'text',
  text: words,
  ...(tone ? { tone } : {}),
})
const heading = (level: 1 | 2 | 3, words: string): Block => ({ kind: 'heading', level, text: words })
const table = (head: readonly string[], rows: readonly (readonly string[])[]): Block => ({ kind: 'table', head, rows })
const lines = (title: string, items: readonly string[]): Block[] =>
  items.length === 0 ? [] : [text(title, 'strong'), { kind: 'lines', text: items.join('\n') }]
const when = (time: string | null): string =>
  time === null ? 'not known' : `${time.slice(0, 16).replace('T', ' ')} UTC`

/** The whole report: its first page, then its sections in their order. */
export function reportBlocks(report: Report): Block[] {
  const { document, cover } = report
  const said = [
    ['Client', cover.client],
    ['Auditor', cover.auditor],
    ['Period', cover.period],
    ['Engagement', report.engagement ?? ''],
    ['Made', when(report.madeAt)],
    ['Snapshot', `${document.snapshot.title}, ${when(document.snapshot.takenAt)}`],
    ['Limited to', document.limitedTo ?? ''],
  ]
  return [
    heading(1, report.title),
    ...(cover.confidentiality === '' ? [] : [text(cover.confidentiality, 'strong')]),
    ...said.flatMap(([name, value]) => (value === '' ? [] : [text(`${name}: ${value}`)])),
    text(OUTCOMES.map((outcome) => `${report.counts[outcome]} ${OUTCOME_WORDS[outcome]}`).join(' · '), 'strong'),
    ...report.sections.flatMap((section) => {
      const own = SECTION_BLOCKS[section](report)
      const title = section === 'assessment' ? (report.assessment?.title ?? '') : SECTIONS[section]
      return own.length === 0 ? [] : [heading(2, title), ...own]
    }),
  ]
}

/** Each section below its heading; empty where there is nothing to say. */
const SECTION_BLOCKS: Readonly<Record<SectionId, (report: Report) => Block[]>> = {
  summary: ({ summary }) => [
    ...summaryWords(summary).map((words) => text(words)),
    ...counted('Findings by severity', 'Severity', summary.severities),
    ...counted('Topics with most findings', 'Topic', summary.topics),
    ...counted('Devices with most findings', 'Device', summary.devicesByFindings),
    ...(summary.first.length === 0
      ? []
      : [
          heading(3, 'Remediate first'),
          table(
            ['Rule', 'Severity', 'Devices that fail'],
            summary.first.map(({ title, severity, fail }) => [title, severity, String(fail)]),
          ),
        ]),
  ],
  scope: ({ document, profiles }) => [
    text(
      `${document.devices.length} devices audited with ${document.benchmarks
        .map(({ id, title, version, profile }) => `${title} ${version} (profile ${profiles[id] ?? profile})`)
        .join(', ')}.`,
    ),
    table(
      ['Device', 'Dialect', 'Lines', 'Unparsed'],
      document.devices.map((device) => [device.name, device.dialect, String(device.lines), String(device.unread)]),
    ),
    ...(document.refused.length === 0
      ? []
      : [
          heading(3, 'Refused files'),
          table(
            ['File', 'Reason'],
            document.refused.map(({ path, reason }) => [path, reason]),
          ),
        ]),
  ],
  method: ({ method }) => [{ kind: 'list', items: method }],
  signing: ({ signing }) =>
    signing === null
      ? []
      : [
          text('Evidence packs of this engagement are signed with the key of this fingerprint (Ed25519):'),
          { kind: 'lines', text: signing.fingerprint },
          text(`Public key: ${signing.publicKey}`),
        ],
  assessment: ({ assessment }) =>
    assessment === null
      ? []
      : [
          text(answerCounts(assessment).join(' · '), 'strong'),
          ...(assessment.score === null ? [] : scoreWords(assessment.score)).map((words) => text(words)),
          table(
            ['Requirement', 'Title', 'Answer', 'Why', 'Evidence'],
            assessment.requirements.map((line) => [
              line.requirement,
              line.title,
              answerWords(assessment, line.answer),
              line.why,
              [...line.rules, ...line.attestations, ...line.expectations].join(', '),
            ]),
          ),
        ],
  rules: ({ rules }) => [
    table(
      ['Rule', 'Severity', ...OUTCOMES.map((outcome) => OUTCOME_WORDS[outcome])],
      rules.map(({ title, severity, counts }) => [title, severity, ...numbers(counts)]),
    ),
  ],
  standing: ({ document, coverage }) => [
    ...document.scores.map(({ benchmark, flat, weighted }) =>
      text(
        `${benchmark}: ${flat.points} of ${flat.of} points; weighted ` +
          `${weighted === null ? 'not decided' : weighted.toFixed(1)}.`,
      ),
    ),
    text(`${SCORE_FORMULAS.flat} ${SCORE_FORMULAS.weighted}`, 'quiet'),
    table(
      ['Framework', 'Requirements', 'Automatic', 'Partly', 'By a person', 'Not covered', 'Outside'],
      coverage.map(({ framework, counts, total }) => [
        framework,
        String(total),
        ...(['machine', 'partly', 'person', 'none', 'outside'] as const).map((kind) => String(counts[kind])),
      ]),
    ),
    ...(document.tailored.length === 0
      ? []
      : [
          heading(3, 'Excluded or changed rules'),
          table(
            ['Rule', 'What', 'Why', 'By'],
            document.tailored.map(({ rule, what, reason, by }) => [rule, what, reason, by]),
          ),
        ]),
  ],
  requirements: ({ requirements }) => [
    table(
      ['Requirement', 'Title', 'fail', 'unknown', 'pass'],
      requirements.map(({ framework, requirement, title, counts }) => [
        `${framework} ${requirement}`,
        title,
        String(counts.fail),
        String(counts.unknown + counts.error),
        String(counts.pass),
      ]),
    ),
  ],
  people: ({ document }) =>
    document.attested.length === 0
      ? []
      : [
          table(
            ['Question', 'Answer', 'By', 'Until', 'Evidence'],
            document.attested.map((one) => [
              `${one.title}: ${one.question}`,
              `${OUTCOME_WORDS[one.outcome]}${one.expired ? ' (the last answer has expired)' : ''}. ${one.note}`,
              one.by ?? '',
              one.until === null ? '' : when(one.until),
              one.files.length === 0 ? `needed: ${one.evidence}` : one.files.map(({ name }) => name).join(', '),
            ]),
          ),
        ],
  traffic: ({ document }) =>
    document.expected.length === 0
      ? []
      : [
          table(
            ['Expectation', 'Answer', 'Result', 'Requirements'],
            document.expected.map((one) => [
              `${one.title}. ${one.statement}`,
              OUTCOME_WORDS[one.outcome],
              one.note,
              one.references.join(' · '),
            ]),
          ),
        ],
  remediation: ({ findings }) =>
    [
      ...grouped(
        findings.filter(({ verdict }) => verdict.remedy !== null && verdict.outcome === 'fail' && !verdict.waived),
        ({ verdict }) => verdict.device,
      ),
    ].flatMap(([device, own]) => [
      heading(3, device),
      ...own.flatMap(({ title, verdict }) => [text(title, 'strong'), ...remedyBlocks(verdict)]),
    ]),
  findings: ({ findings, findingCounts, paths }) => [
    text(`${findingWords(findingCounts)}. A finding is a verdict that is fail, unknown or error.`, 'quiet'),
    ...(findings.length === 0
      ? [text('There are no findings.')]
      : findings.flatMap((finding) => findingBlocks(finding, paths))),
  ],
  records: ({ document }) => [
    table(
      ['Record', 'Device', 'Taken', 'Fingerprint'],
      document.records.map(({ path, device, takenAt, fingerprint }) => [path, device, when(takenAt), fingerprint]),
    ),
    text(`Build ${document.build}`, 'quiet'),
  ],
}

function counted(title: string, what: string, own: readonly SummaryLine[]): Block[] {
  if (own.length === 0) return []
  return [
    heading(3, title),
    table(
      [what, 'fail', 'not decided'],
      own.map((line) => [line.title, String(line.fail), String(line.open)]),
    ),
  ]
}

function findingBlocks({ number, title, statement, verdict, takenAt }: Finding, paths: Report['paths']): Block[] {
  const values = verdict.values.map(({ name, value, from }) => `${name} = ${value} (${from})`)
  return [
    heading(3, `${number}. ${title} · ${verdict.device}`),
    text(
      `${OUTCOME_WORDS[verdict.outcome]} · severity ${verdict.severity} · ${verdict.rule}, branch ${verdict.branch} · ` +
        `evidence ${takenAt === null ? 'of unknown age' : `of ${when(takenAt)}`}`,
      'quiet',
    ),
    text(verdict.note),
    ...(verdict.waived ?? []).map(({ subject, reason, owner, expires }) =>
      text(
        `Waived until ${expires.slice(0, 10)}${subject === null ? '' : ` for “${subject}”`}: ${reason} ` +
          `(risk owner ${owner})`,
        'strong',
      ),
    ),
    ...(statement === '' ? [] : [text(statement, 'quiet')]),
    ...(values.length === 0 ? [] : [text(`Values: ${values.join('; ')}`, 'quiet')]),
    ...lines('Missing', verdict.missing),
    ...lines('Extra', verdict.extra),
    ...verdict.exhibits.flatMap((exhibit) => exhibitBlocks(exhibit, paths)),
    ...remedyBlocks(verdict),
    ...(verdict.references.length === 0 ? [] : [text(`References: ${verdict.references.join(' · ')}`, 'quiet')]),
  ]
}

function exhibitBlocks(exhibit: Verdict['exhibits'][number], paths: Report['paths']): Block[] {
  const { record, from, to, absent } = exhibit
  const where = `${paths[record] ?? record}, ${from === to ? `line ${from}` : `lines ${from} to ${to}`}`
  if (exhibit.text === '') return [text(absent ? `Searched ${where}: missing.` : where, 'quiet')]
  const numbered = exhibit.text.split('\n').map((line, i) => `${String(from + i).padStart(5)}  ${line}`)
  return [text(absent ? `Searched ${where}` : where, 'quiet'), { kind: 'lines', text: numbered.join('\n') }]
}

/** What the risk of commands means to whoever types them. */
export const RISK_WORDS = {
  none: '',
  session: 'May cut off the session that applies the change.',
  traffic: 'May interrupt traffic.',
} as const

function remedyBlocks({ remedy }: Verdict): Block[] {
  if (remedy === null) return []
  if ('words' in remedy) return [text('Remediation', 'strong'), text(remedy.words)]
  const risk = RISK_WORDS[remedy.risk]
  return [
    ...(risk === '' ? [] : [text(risk, 'strong')]),
    ...(remedy.check.length === 0 ? [] : [text('First check:'), { kind: 'list', items: remedy.check } as const]),
    ...lines('Remediation', remedy.commands),
    ...lines('Rollback', remedy.rollback),
    ...(remedy.unrestored === undefined ? [] : [text(`Not restored by the rollback: ${remedy.unrestored}`)]),
  ]
}

function numbers(counts: Counts): string[] {
  return OUTCOMES.map((outcome) => String(counts[outcome]))
}

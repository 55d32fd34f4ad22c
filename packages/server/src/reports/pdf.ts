import { createRequire } from 'node:module'
import pdfmake from 'pdfmake'
import type { Content, Style, TableCell, TDocumentDefinitions } from 'pdfmake/interfaces.js'
import type { Verdict } from '@jurybox/core'
import { SCORE_FORMULAS, type Counts } from '@jurybox/core/audit'
import {
  ASSESSED_WORDS,
  barsSvg,
  findingWords,
  OUTCOME_WORDS,
  SECTIONS,
  scoreWords,
  summaryWords,
  type Report,
  type ReportSection,
  type SectionId,
  type SummaryLine,
} from '@jurybox/core/report'

const require = createRequire(import.meta.url)
const font = (family: string, style: string, file: string): string =>
  require.resolve(`@expo-google-fonts/${family}/${style}/${file}_${style}.ttf`)

/** Whole fonts: subsets drop the characters that configurations hold. */
const FONTS = {
  Sans: {
    normal: font('source-sans-3', '400Regular', 'SourceSans3'),
    bold: font('source-sans-3', '600SemiBold', 'SourceSans3'),
    italics: font('source-sans-3', '400Regular_Italic', 'SourceSans3'),
  },
  Serif: {
    normal: font('source-serif-4', '400Regular', 'SourceSerif4'),
    bold: font('source-serif-4', '600SemiBold', 'SourceSerif4'),
  },
  Mono: { normal: font('jetbrains-mono', '400Regular', 'JetBrainsMono') },
}

/** The layout engine takes features by name and whether they are on, which its types do not say. */
const NO_LIGATURES = { liga: false, clig: false, calt: false, dlig: false, rlig: false } as unknown as NonNullable<
  Style['fontFeatures']
>

const INK = '#20242C'
const QUIET = '#5F656E'
const RULE = '#DAD4C5'
const PAPER = '#F5F2EA'
const FAIL = '#B93A22'
const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const
/** Beyond this a printed report is of no use; the rest is in the HTML and JSON forms, and the report says so. */
const FINDINGS = 1500

/** The key that evidence is signed with, to be compared with the one of a pack. */
function signingPart(signing: Report['signing']): Content[] {
  if (!signing) return []
  return [
    { text: 'Evidence packs of this engagement are signed with the key of this fingerprint (Ed25519):' },
    { text: signing.fingerprint, style: 'mono', margin: [0, 4, 0, 4] },
    { text: [`Public key: `, { text: signing.publicKey, style: 'mono' }], margin: [0, 0, 0, 6] },
    { qr: signing.fingerprint, fit: 90 },
  ]
}

export async function writePdf(report: Report): Promise<Buffer> {
  return laidOut(definitionOf(report))
}

export interface SectionsTask {
  readonly title: string
  readonly madeAt: string
  readonly sections: readonly ReportSection[]
}

/** A document of headings and lines. */
export async function writeSectionsPdf({ title, madeAt, sections }: SectionsTask): Promise<Buffer> {
  return laidOut({
    ...lookOf(title, madeAt),
    content: [
      { text: title, style: 'title', margin: [0, 2, 0, 6] },
      { text: `Made ${time(madeAt)}`, style: 'quiet' },
      ...sections.flatMap(({ heading: words, lines, mono }): Content[] => [
        { text: words, style: 'h2' },
        mono === true
          ? { text: lines.join('\n'), style: 'mono', preserveLeadingSpaces: true }
          : { ul: lines.map((line) => line.trim()) },
      ]),
    ],
  })
}

async function laidOut(definition: TDocumentDefinitions): Promise<Buffer> {
  pdfmake.setFonts(FONTS)
  // Neither the network nor any file but the shipped fonts is read on behalf of a report.
  pdfmake.setUrlAccessPolicy(() => false)
  const allowed = new Set(Object.values(FONTS).flatMap((family) => Object.values(family)))
  pdfmake.setLocalAccessPolicy((path: string) => allowed.has(path))
  return pdfmake.createPdf(definition).getBuffer()
}

/** What all documents have in common: paper, type, running heads, page numbers. */
function lookOf(title: string, madeAt: string, confidentiality = ''): Omit<TDocumentDefinitions, 'content'> {
  return {
    info: { title, creator: 'Jury Box' },
    pageSize: 'A4',
    pageMargins: [48, 56, 48, 56],
    defaultStyle: { font: 'Sans', fontSize: 9.5, color: INK, lineHeight: 1.2 },
    styles: {
      title: { font: 'Serif', bold: true, fontSize: 24 },
      h1: { font: 'Serif', bold: true, fontSize: 16, margin: [0, 18, 0, 6] },
      h2: { bold: true, fontSize: 11.5, margin: [0, 12, 0, 3] },
      quiet: { color: QUIET, fontSize: 8.5 },
      // Lines of a device are shown letter by letter: joined letters are another text, and some of them break the
      // layout.
      mono: { font: 'Mono', fontSize: 7.5, lineHeight: 1.25, fontFeatures: NO_LIGATURES },
      head: { bold: true, fontSize: 8.5, color: QUIET },
    },
    header: (page) =>
      page === 1 ? '' : { text: `${title} · ${madeAt.slice(0, 10)}`, style: 'quiet', margin: [48, 28, 48, 0] },
    footer: (page, pages) => ({
      columns: [{ text: confidentiality }, { text: `${page} of ${pages}`, alignment: 'right' }],
      style: 'quiet',
      margin: [48, 14, 48, 0],
    }),
  }
}

export function definitionOf(report: Report): TDocumentDefinitions {
  const { document, cover } = report
  const look = lookOf(report.title, report.madeAt, cover.confidentiality)
  const said: [string, string][] = [
    ['Client', cover.client],
    ['Auditor', cover.auditor],
    ['Period', cover.period],
  ]
  return {
    ...look,
    content: [
      {
        text: report.engagement === null ? 'Evidence report' : `Evidence report · ${report.engagement}`,
        style: 'quiet',
      },
      { text: report.title, style: 'title', margin: [0, 2, 0, 6] },
      ...(cover.confidentiality === '' ? [] : [{ text: cover.confidentiality, bold: true, color: FAIL }]),
      ...said.flatMap(([name, value]) => (value === '' ? [] : [{ text: `${name}: ${value}` }])),
      {
        text:
          `Made ${time(report.madeAt)} from the snapshot “${document.snapshot.title}”` +
          (document.snapshot.takenAt === null ? '' : ` of ${time(document.snapshot.takenAt)}`),
      },
      ...(document.limitedTo === undefined ? [] : [{ text: `Limited to ${document.limitedTo}.`, bold: true }]),
      {
        text: OUTCOMES.map((outcome) => `${report.counts[outcome]} ${OUTCOME_WORDS[outcome]}`).join('   '),
        bold: true,
        margin: [0, 8, 0, 8],
      },
      { toc: { title: { text: 'Contents', style: 'h2' } } },
      ...report.sections.flatMap((section, i): Content[] => {
        const parts = SECTION_PARTS[section](report)
        const title = section === 'assessment' ? (report.assessment?.title ?? '') : SECTIONS[section]
        if (parts.length === 0) return []
        // The first one begins a page.
        return i === 0 ? [heading(title, true), ...parts] : withHeading(heading(title), parts)
      }),
    ],
  }
}

/** A heading is never the last thing on a page: it stays with the text below it, or with a table of its own. */
function withHeading(head: Content, parts: readonly Content[]): Content[] {
  const other = parts.findIndex((part) => typeof part !== 'object' || !('text' in part))
  const kept = Math.min(other < 0 ? parts.length : other, 2)
  if (kept === 0) return [head, ...parts]
  return [{ stack: [head, ...parts.slice(0, kept)], unbreakable: true }, ...parts.slice(kept)]
}

/** Each part of a report below its heading; empty where there is nothing to say. */
const SECTION_PARTS: Readonly<Record<SectionId, (report: Report) => Content[]>> = {
  summary: ({ summary }) => [
    ...summaryWords(summary).map((text): Content => ({ text, margin: [0, 0, 0, 4] })),
    ...bars('Findings by severity', summary.severities),
    ...bars('Topics with most findings', summary.topics),
    ...bars('Devices with most findings', summary.devicesByFindings),
    ...(summary.first.length === 0
      ? []
      : [
          { text: 'Remediate first', style: 'h2' },
          grid(
            ['Rule', 'Severity', 'Devices that fail'],
            ['*', 'auto', 'auto'],
            summary.first.map(({ title, severity, fail }) => [title, severity, String(fail)]),
          ),
        ]),
  ],
  scope: ({ document, ...report }) => [
    {
      text:
        `${document.devices.length} devices audited with ` +
        document.benchmarks
          .map((b) => `${b.title} ${b.version} (profile ${report.profiles[b.id] ?? b.profile})`)
          .join(', ') +
        '.',
      margin: [0, 0, 0, 6],
    },
    grid(
      ['Device', 'Dialect', 'Lines', 'Unparsed'],
      ['*', 'auto', 'auto', 'auto'],
      document.devices.map((device) => [device.name, device.dialect, String(device.lines), String(device.unread)]),
    ),
    ...(document.refused.length === 0
      ? []
      : [
          { text: 'Refused files', style: 'h2' },
          grid(
            ['File', 'Reason'],
            ['auto', '*'],
            document.refused.map(({ path, reason }) => [path, reason]),
          ),
        ]),
  ],
  method: (report) => [{ ul: [...report.method] }],
  signing: ({ signing }) => signingPart(signing),
  assessment: ({ assessment }) =>
    assessment === null
      ? []
      : [
          ...(assessment.score === null ? [] : scoreWords(assessment.score)).map((words): Content => ({ text: words })),
          grid(
            ['Requirement', 'Title', 'Answer', 'Why'],
            ['auto', '*', 'auto', '*'],
            assessment.requirements.map((line) => [
              line.requirement,
              line.title,
              ASSESSED_WORDS[line.answer],
              line.why,
            ]),
          ),
        ],
  rules: (report) => [
    grid(
      ['Rule', 'Severity', ...OUTCOMES.map((o) => OUTCOME_WORDS[o])],
      ['*', 'auto', ...OUTCOMES.map(() => 'auto')],
      report.rules.map((rule) => [rule.title, rule.severity, ...numbers(rule.counts)]),
    ),
  ],
  standing: ({ document, ...report }) => [
    ...document.scores.map(({ benchmark, flat, weighted }): Content => ({
      text:
        `${benchmark}: ${flat.points} of ${flat.of} points; weighted ` +
        `${weighted === null ? 'not decided' : weighted.toFixed(1)}.`,
    })),
    { text: `${SCORE_FORMULAS.flat} ${SCORE_FORMULAS.weighted}`, style: 'quiet', margin: [0, 2, 0, 6] },
    grid(
      ['Framework', 'Requirements', 'Automatic', 'Partly', 'By a person', 'Not covered', 'Outside'],
      ['*', 'auto', 'auto', 'auto', 'auto', 'auto', 'auto'],
      report.coverage.map(({ framework, counts, total }) => [
        framework,
        String(total),
        ...(['machine', 'partly', 'person', 'none', 'outside'] as const).map((kind) => String(counts[kind])),
      ]),
    ),
    ...(document.tailored.length === 0
      ? []
      : [
          { text: 'Excluded or changed rules', style: 'h2' },
          grid(
            ['Rule', 'What', 'Why', 'By'],
            ['auto', 'auto', '*', 'auto'],
            document.tailored.map(({ rule, what, reason, by }) => [rule, what, reason, by]),
          ),
        ]),
  ],
  requirements: (report) => [
    grid(
      ['Requirement', 'Title', 'fail', 'unknown', 'pass'],
      ['auto', '*', 'auto', 'auto', 'auto'],
      report.requirements.map((line) => [
        `${line.framework} ${line.requirement}`,
        line.title,
        String(line.counts.fail),
        String(line.counts.unknown + line.counts.error),
        String(line.counts.pass),
      ]),
    ),
  ],
  people: ({ document }) =>
    document.attested.length === 0
      ? []
      : [
          grid(
            ['Question', 'Answer', 'By', 'Until'],
            ['*', '*', 'auto', 'auto'],
            document.attested.map((one) => [
              `${one.title}: ${one.question}`,
              `${OUTCOME_WORDS[one.outcome]}${one.expired ? ' (the last answer has expired)' : ''}. ${one.note}`,
              one.by ?? '',
              one.until === null ? '' : time(one.until),
            ]),
          ),
        ],
  traffic: ({ document }) =>
    document.expected.length === 0
      ? []
      : [
          grid(
            ['Expectation', 'Answer', 'Result'],
            ['*', 'auto', '*'],
            document.expected.map((one) => [`${one.title}. ${one.statement}`, OUTCOME_WORDS[one.outcome], one.note]),
          ),
        ],
  remediation: ({ findings }) =>
    findings
      .filter(({ verdict }) => verdict.remedy !== null && verdict.outcome === 'fail' && !verdict.waived)
      .sort((a, b) => (a.verdict.device < b.verdict.device ? -1 : a.verdict.device > b.verdict.device ? 1 : 0))
      .slice(0, FINDINGS)
      .map(({ title, verdict }): Content => ({
        stack: [{ text: `${verdict.device} · ${title}`, style: 'h2' }, ...remedy(verdict)],
      })),
  findings: (report) => [
    {
      text: `${findingWords(report.findingCounts)}. A finding is a verdict that is fail, unknown or error.`,
      style: 'quiet',
    },
    ...(report.findings.length === 0
      ? [{ text: 'There are no findings.' }]
      : report.findings.slice(0, FINDINGS).map((one) => finding(one, report.paths))),
    ...(report.findings.length > FINDINGS
      ? [{ text: `${report.findings.length - FINDINGS} more are in the HTML and JSON reports.`, style: 'quiet' }]
      : []),
  ],
  records: ({ document }) => [
    grid(
      ['Record', 'Device', 'Taken', 'Fingerprint'],
      ['*', 'auto', 'auto', 130],
      document.records.map((record) => [
        record.path,
        record.device,
        record.takenAt === null ? 'not known' : time(record.takenAt),
        { text: record.fingerprint, style: 'mono', fontSize: 6 },
      ]),
    ),
    { text: `Build ${document.build}`, style: 'quiet', margin: [0, 10, 0, 0] },
  ],
}

function bars(title: string, lines: readonly SummaryLine[]): Content[] {
  if (lines.length === 0) return []
  const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')
  return [
    { text: title, style: 'h2' },
    { svg: barsSvg(lines, escaped), width: 460 },
    { text: 'fail, and beside it what could not be decided', style: 'quiet' },
  ]
}

function heading(text: string, newPage = false): Content {
  return { text, style: 'h1', tocItem: true, ...(newPage ? { pageBreak: 'before' as const } : {}) }
}

function finding({ number, title, verdict, takenAt }: Report['findings'][number], paths: Report['paths']): Content {
  return {
    stack: [
      { text: `${number}. ${title} · ${verdict.device}`, style: 'h2' },
      {
        text:
          `${OUTCOME_WORDS[verdict.outcome]} · severity ${verdict.severity} · ${verdict.rule}, branch ` +
          `${verdict.branch} · evidence ${takenAt === null ? 'of unknown age' : `of ${time(takenAt)}`}`,
        style: 'quiet',
      },
      { text: verdict.note, margin: [0, 2, 0, 2] },
      ...(verdict.waived ?? []).map(({ subject, reason, owner, expires }): Content => ({
        text:
          `Waived until ${expires.slice(0, 10)}${subject === null ? '' : ` for “${subject}”`}: ${reason} ` +
          `(risk owner ${owner})`,
        bold: true,
      })),
      ...lines('Missing', verdict.missing),
      ...lines('Extra', verdict.extra),
      ...verdict.exhibits.slice(0, 8).map((one) => exhibit(one, paths)),
      ...remedy(verdict),
      { text: verdict.references.join('  ·  '), style: 'quiet', margin: [0, 2, 0, 0] },
    ],
  }
}

function exhibit({ record, from, to, text, absent }: Verdict['exhibits'][number], paths: Report['paths']): Content {
  const where = `${paths[record] ?? record}, ${from === to ? `line ${from}` : `lines ${from} to ${to}`}`
  if (text === '') return { text: `Searched ${where}: missing.`, style: 'quiet' }
  return {
    stack: [
      { text: absent ? `Searched ${where}` : where, style: 'quiet' },
      mono(
        text
          .split('\n')
          .map((line, i) => `${String(from + i).padStart(5)}  ${line}`)
          .join('\n'),
      ),
    ],
  }
}

function remedy({ remedy: found }: Verdict): Content[] {
  if (found === null) return []
  if ('words' in found) return [{ text: [{ text: 'Remediation: ', bold: true }, found.words], margin: [0, 3, 0, 0] }]
  const warning = {
    none: [],
    session: ['May cut off the session that applies the change.'],
    traffic: ['May interrupt traffic.'],
  }[found.risk]
  return [
    {
      text: ['Remediation', ...warning, ...found.check.map((line) => `First check: ${line}.`)]
        .join('. ')
        .replaceAll('..', '.'),
      bold: true,
      margin: [0, 3, 0, 0],
    },
    mono(found.commands.join('\n')),
    { text: 'Rollback', bold: true },
    mono(found.rollback.join('\n')),
    ...(found.unrestored === undefined ? [] : [{ text: `Not restored by the rollback: ${found.unrestored}` }]),
  ]
}

function lines(title: string, items: readonly string[]): Content[] {
  return items.length === 0 ? [] : [{ text: title, bold: true }, mono(items.join('\n'))]
}

function mono(text: string): Content {
  return {
    table: { widths: ['*'], body: [[{ text, style: 'mono', preserveLeadingSpaces: true, fillColor: PAPER }]] },
    layout: 'noBorders',
    margin: [0, 1, 0, 3],
  }
}

function grid(head: readonly string[], widths: (string | number)[], rows: readonly TableCell[][]): Content {
  return {
    table: { headerRows: 1, widths, body: [head.map((text) => ({ text, style: 'head' })), ...rows] },
    layout: {
      hLineWidth: (i: number) => (i === 0 ? 0 : 0.5),
      vLineWidth: () => 0,
      hLineColor: () => RULE,
      paddingLeft: () => 0,
      paddingRight: () => 8,
    },
  }
}

function numbers(counts: Counts): string[] {
  return OUTCOMES.map((outcome) => String(counts[outcome]))
}

function time(text: string): string {
  return `${text.slice(0, 16).replace('T', ' ')} UTC`
}

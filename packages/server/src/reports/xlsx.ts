import type { Verdict } from '@jurybox/core'
import { remedyText } from '@jurybox/core/audit'
import { grouped, xmlCharacters } from '@jurybox/core/syntax'
import {
  COUNTED_OUTCOMES,
  answerWords,
  reasonWords,
  summaryWords,
  textsOf,
  type Report,
  type ReportText,
  type Say,
} from '@jurybox/core/report'
import exceljs from 'exceljs'

type Cell = string | number | Date | null

interface Sheet {
  readonly name: ReportText
  /** Widths in characters. */
  readonly columns: readonly (readonly [title: ReportText, width: number])[]
  readonly rows: readonly (readonly Cell[])[]
}

/** Most characters in a cell of Excel's format; a longer text is cut, and says so. */
const LONGEST = 32_767

/** The report as a workbook (ECMA-376): filters on every sheet, heads that stay, numbers and times as such. */
export async function writeXlsx(report: Report): Promise<Buffer> {
  const book = new exceljs.Workbook()
  book.creator = 'Jury Box'
  book.title = report.title
  book.created = new Date(report.madeAt)
  const say = textsOf(report.language)
  for (const { name, columns, rows } of sheetsOf(report, say)) {
    const sheet = book.addWorksheet(say(name), { views: [{ state: 'frozen', ySplit: 1 }] })
    sheet.columns = columns.map(([title, width]) => ({ header: say(title), width }))
    sheet.getRow(1).font = { bold: true }
    for (const row of rows) sheet.addRow(row.map((cell) => cellOf(cell, say)))
    sheet.autoFilter = { from: { row: 1, column: 1 }, to: { row: 1, column: columns.length } }
    for (const column of sheet.columns) column.alignment = { vertical: 'top', wrapText: true }
  }
  return Buffer.from(await book.xlsx.writeBuffer())
}

/** Texts are stored as texts: a spreadsheet runs no formula out of them (no cell is made a formula). */
function cellOf(value: Cell, say: Say): Cell {
  if (typeof value !== 'string') return value
  const text = xmlCharacters(value)
  const cut = say('sheet.cut')
  return text.length <= LONGEST ? text : `${text.slice(0, LONGEST - cut.length)}${cut}`
}

const time = (text: string | null): Date | null => (text === null ? null : new Date(text))

function sheetsOf(report: Report, say: Say): Sheet[] {
  const { document } = report
  const byDevice = grouped(document.verdicts, ({ device }) => device)
  return [
    summarySheet(report, say),
    {
      name: 'sheet.findings',
      columns: [
        ['column.number', 8],
        ['column.outcome', 10],
        ['column.severity', 10],
        ['column.device', 18],
        ['column.title', 44],
        ['column.rule', 28],
        ['column.benchmark', 22],
        ['column.result', 60],
        ['column.remediation', 60],
        ['column.rollback', 40],
        ['column.requirements', 40],
        ['column.waivedUntil', 14],
        ['column.evidenceOf', 18],
      ],
      rows: report.findings.map(({ number, title, verdict, takenAt }) => [
        number,
        say(`outcome.${verdict.outcome}`),
        say(`severity.${verdict.severity}`),
        verdict.device,
        title,
        verdict.rule,
        verdict.benchmark,
        verdict.note,
        remedyText(verdict.remedy),
        verdict.remedy && 'commands' in verdict.remedy ? verdict.remedy.rollback.join('\n') : '',
        verdict.references.join('\n'),
        time(verdict.waived?.[0]?.expires ?? null),
        time(takenAt),
      ]),
    },
    {
      name: 'sheet.evidence',
      columns: [
        ['column.finding', 8],
        ['column.device', 18],
        ['column.record', 40],
        ['column.fromLine', 10],
        ['column.toLine', 10],
        ['column.lines', 80],
      ],
      rows: report.findings.flatMap(({ number, verdict }) =>
        verdict.exhibits.map(({ record, from, to, text, absent }): Cell[] => [
          number,
          verdict.device,
          report.paths[record] ?? record,
          from,
          to,
          absent && text === '' ? say('finding.searchedCell') : text,
        ]),
      ),
    },
    requirementsSheet(report, say),
    {
      name: 'sheet.devices',
      columns: [
        ['column.device', 20],
        ['column.dialect', 14],
        ['column.lines', 10],
        ['column.unparsed', 10],
        ['outcome.fail', 8],
        ['outcome.unknown', 10],
        ['outcome.error', 8],
        ['outcome.pass', 8],
        ['outcome.notapplicable', 14],
        ['outcome.notchecked', 12],
      ],
      rows: document.devices.map(({ name, dialect, lines, unread }) => {
        const own = byDevice.get(name) ?? []
        const count = (outcome: Verdict['outcome']): number => own.filter((one) => one.outcome === outcome).length
        return [
          name,
          dialect,
          lines,
          unread,
          count('fail'),
          count('unknown'),
          count('error'),
          count('pass'),
          count('notapplicable'),
          count('notchecked'),
        ]
      }),
    },
  ]
}

function summarySheet(report: Report, say: Say): Sheet {
  const { title, engagement, madeAt, document, cover, counts, findings, summary } = report
  const rows: readonly (readonly [ReportText, Cell])[] = [
    ['sheet.report', title],
    ['cover.engagement', engagement],
    ['cover.client', cover.client],
    ['cover.auditor', cover.auditor],
    ['cover.period', cover.period],
    ['cover.confidentiality', cover.confidentiality],
    ['report.made', time(madeAt)],
    ['report.snapshot', document.snapshot.title],
    ['column.taken', time(document.snapshot.takenAt)],
    ['cover.limitedTo', document.limitedTo ?? ''],
    ['section.findings', findings.length],
  ]
  return {
    name: 'sheet.summary',
    columns: [
      ['column.what', 26],
      ['column.value', 90],
    ],
    rows: [
      ...rows.map(([name, value]): Cell[] => [say(name), value]),
      ...([...COUNTED_OUTCOMES, 'waived'] as const).map((outcome): Cell[] => [
        say('sheet.verdicts', { outcome: say(`outcome.${outcome}`) }),
        counts[outcome],
      ]),
      ...summary.severities.map(({ title: severity, fail, open }): Cell[] => [
        say('sheet.findingsOf', { severity: say(`severity.${severity}`) }),
        say('summary.failAndOpen', { fail, open }),
      ]),
      ...summaryWords(summary, say).map((words): Cell[] => ['', words]),
    ],
  }
}

function requirementsSheet({ assessment, requirements }: Report, say: Say): Sheet {
  if (assessment)
    return {
      name: 'sheet.requirements',
      columns: [
        ['column.framework', 18],
        ['column.requirement', 14],
        ['column.title', 50],
        ['column.answer', 16],
        ['column.why', 40],
        ['outcome.fail', 8],
        ['column.undecided', 10],
        ['outcome.pass', 8],
        ['column.evidence', 60],
      ],
      rows: assessment.requirements.map((line) => [
        assessment.title,
        line.requirement,
        line.title,
        answerWords(assessment, line.answer, say),
        reasonWords(line.why, say),
        line.fail,
        line.undecided,
        line.pass,
        [...line.rules, ...line.attestations, ...line.expectations].join('\n'),
      ]),
    }
  return {
    name: 'sheet.requirements',
    columns: [
      ['column.framework', 18],
      ['column.requirement', 14],
      ['column.title', 50],
      ['outcome.fail', 8],
      ['outcome.unknown', 10],
      ['outcome.pass', 8],
      ['column.rules', 60],
    ],
    rows: requirements.map(({ framework, requirement, title, counts, rules }) => [
      framework,
      requirement,
      title,
      counts.fail,
      counts.unknown + counts.error,
      counts.pass,
      rules.join('\n'),
    ]),
  }
}

import type { Verdict } from '@jurybox/core'
import { remedyText } from '@jurybox/core/audit'
import { grouped, xmlCharacters } from '@jurybox/core/syntax'
import { answerWords, OUTCOME_WORDS, summaryWords, type Report } from '@jurybox/core/report'
import exceljs from 'exceljs'

type Cell = string | number | Date | null

interface Sheet {
  readonly name: string
  readonly columns: readonly { readonly title: string; readonly width: number }[]
  readonly rows: readonly (readonly Cell[])[]
}

/** Most characters in a cell of Excel's format; a longer text is cut, and says so. */
const LONGEST = 32_767
const CUT = ' … (cut; whole in the JSON report)'

/** The report as a workbook (ECMA-376): filters on every sheet, heads that stay, numbers and times as such. */
export async function writeXlsx(report: Report): Promise<Buffer> {
  const book = new exceljs.Workbook()
  book.creator = 'Jury Box'
  book.title = report.title
  book.created = new Date(report.madeAt)
  for (const { name, columns, rows } of sheetsOf(report)) {
    const sheet = book.addWorksheet(name, { views: [{ state: 'frozen', ySplit: 1 }] })
    sheet.columns = columns.map(({ title, width }) => ({ header: title, width }))
    sheet.getRow(1).font = { bold: true }
    for (const row of rows) sheet.addRow(row.map(cellOf))
    sheet.autoFilter = { from: { row: 1, column: 1 }, to: { row: 1, column: columns.length } }
    for (const column of sheet.columns) column.alignment = { vertical: 'top', wrapText: true }
  }
  return Buffer.from(await book.xlsx.writeBuffer())
}

/** Texts are stored as texts: a spreadsheet runs no formula out of them (no cell is made a formula). */
function cellOf(value: Cell): Cell {
  if (typeof value !== 'string') return value
  const text = xmlCharacters(value)
  return text.length <= LONGEST ? text : `${text.slice(0, LONGEST - CUT.length)}${CUT}`
}

const columns = (...all: readonly [title: string, width: number][]): Sheet['columns'] =>
  all.map(([title, width]) => ({ title, width }))
const time = (text: string | null): Date | null => (text === null ? null : new Date(text))

function sheetsOf(report: Report): Sheet[] {
  const { document } = report
  const byDevice = grouped(document.verdicts, ({ device }) => device)
  return [
    summarySheet(report),
    {
      name: 'Findings',
      columns: columns(
        ['Number', 8],
        ['Outcome', 10],
        ['Severity', 10],
        ['Device', 18],
        ['Title', 44],
        ['Rule', 28],
        ['Benchmark', 22],
        ['Result', 60],
        ['Remediation', 60],
        ['Rollback', 40],
        ['Requirements', 40],
        ['Waived until', 14],
        ['Evidence of', 18],
      ),
      rows: report.findings.map(({ number, title, verdict, takenAt }) => [
        number,
        OUTCOME_WORDS[verdict.outcome],
        verdict.severity,
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
      name: 'Evidence',
      columns: columns(
        ['Finding', 8],
        ['Device', 18],
        ['Record', 40],
        ['From line', 10],
        ['To line', 10],
        ['Lines', 80],
      ),
      rows: report.findings.flatMap(({ number, verdict }) =>
        verdict.exhibits.map(({ record, from, to, text, absent }): Cell[] => [
          number,
          verdict.device,
          report.paths[record] ?? record,
          from,
          to,
          absent && text === '' ? 'searched, missing' : text,
        ]),
      ),
    },
    requirementsSheet(report),
    {
      name: 'Devices',
      columns: columns(
        ['Device', 20],
        ['Dialect', 14],
        ['Lines', 10],
        ['Unparsed', 10],
        ['fail', 8],
        ['unknown', 10],
        ['error', 8],
        ['pass', 8],
        ['not applicable', 14],
        ['not checked', 12],
      ),
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

function summarySheet({ title, engagement, madeAt, document, cover, counts, findings, summary }: Report): Sheet {
  return {
    name: 'Summary',
    columns: columns(['What', 26], ['Value', 90]),
    rows: [
      ['Report', title],
      ['Engagement', engagement],
      ['Client', cover.client],
      ['Auditor', cover.auditor],
      ['Period', cover.period],
      ['Confidentiality', cover.confidentiality],
      ['Made', time(madeAt)],
      ['Snapshot', document.snapshot.title],
      ['Taken', time(document.snapshot.takenAt)],
      ['Limited to', document.limitedTo ?? ''],
      ['Findings', findings.length],
      ...(['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked', 'waived'] as const).map(
        (outcome): Cell[] => [`Verdicts: ${OUTCOME_WORDS[outcome]}`, counts[outcome]],
      ),
      ...summary.severities.map(({ title: severity, fail, open }): Cell[] => [
        `Findings, ${severity}`,
        `${fail} fail, ${open} not decided`,
      ]),
      ...summaryWords(summary).map((words): Cell[] => ['', words]),
    ],
  }
}

function requirementsSheet({ assessment, requirements }: Report): Sheet {
  if (assessment)
    return {
      name: 'Requirements',
      columns: columns(
        ['Framework', 18],
        ['Requirement', 14],
        ['Title', 50],
        ['Answer', 16],
        ['Why', 40],
        ['fail', 8],
        ['undecided', 10],
        ['pass', 8],
        ['Evidence', 60],
      ),
      rows: assessment.requirements.map((line) => [
        assessment.title,
        line.requirement,
        line.title,
        answerWords(assessment, line.answer),
        line.why,
        line.fail,
        line.undecided,
        line.pass,
        [...line.rules, ...line.attestations, ...line.expectations].join('\n'),
      ]),
    }
  return {
    name: 'Requirements',
    columns: columns(
      ['Framework', 18],
      ['Requirement', 14],
      ['Title', 50],
      ['fail', 8],
      ['unknown', 10],
      ['pass', 8],
      ['Rules', 60],
    ),
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

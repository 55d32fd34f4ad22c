import { grouped } from '../syntax/grouped.ts'
import { isFinding, type Verdict } from '../audit/index.ts'
import { csvOf } from '../syntax/index.ts'

/** What one device has to change for one rule, and whether someone has done it. */
export interface RemediationItem {
  readonly benchmark: string
  readonly rule: string
  readonly title: string
  readonly topic: string
  readonly severity: Verdict['severity']
  readonly device: string
  readonly outcome: Verdict['outcome']
  /** Lines that should be there. */
  readonly wanted: readonly string[]
  /** Lines that are there, with their numbers where they are cited. */
  readonly there: readonly string[]
  /** Commands to type, or none where only words help. */
  readonly type: readonly string[]
  /** What has to be done where no command is safe. */
  readonly words: string
  readonly why: string
  readonly risk: string
  readonly comment: string
  readonly done: { readonly by: string; readonly at: string } | null
}

/** What people said of a finding. */
export interface RemediationMark {
  /** Benchmark, rule and device, parted by spaces. */
  readonly key: string
  readonly comment: string
  readonly done: RemediationItem['done']
}

/** Lines of one exhibit that are shown; an item is no place for a whole listing. */
const SHOWN = 6

/** Everything that is to be changed, in the order of the verdicts; what is waived is not. */
export function remediationItems(
  verdicts: readonly Verdict[],
  ruleOf: (benchmark: string, rule: string) => { readonly title: string; readonly topic: string } | undefined,
  marks: readonly RemediationMark[],
): RemediationItem[] {
  const marked = new Map(marks.map((mark) => [mark.key, mark]))
  return verdicts.flatMap((verdict): RemediationItem[] => {
    const { benchmark, rule, device, outcome, severity, note: why, remedy } = verdict
    if (!isFinding(outcome) || verdict.waived) return []
    const commands = remedy && 'commands' in remedy ? remedy.commands : []
    const mark = marked.get(`${benchmark} ${rule} ${device}`)
    const stated = ruleOf(benchmark, rule)
    return [
      {
        benchmark,
        rule,
        title: stated?.title ?? rule,
        topic: stated?.topic ?? '',
        severity,
        device,
        outcome,
        wanted:
          verdict.missing.length > 0
            ? verdict.missing
            : commands.filter((command) => !/^\s*(?:no|delete|exit|default)\b/.test(command)),
        there: verdict.exhibits
          .filter(({ absent }) => !absent)
          .flatMap(({ from, text }) =>
            text
              .split('\n')
              .slice(0, SHOWN)
              .map((line, i) => `${from + i}: ${line}`),
          ),
        type: commands,
        words: remedy && 'words' in remedy ? remedy.words : '',
        why,
        risk: remedy && 'commands' in remedy ? remedy.risk : 'none',
        comment: mark?.comment ?? '',
        done: mark?.done ?? null,
      },
    ]
  })
}

/**
 * A row an item, for spreadsheets and change tools; cells that a spreadsheet would run as a formula are made plain
 * text.
 */
export function writeChangeLogCsv(items: readonly RemediationItem[]): string {
  const rows = items.map((item) => ({
    device: item.device,
    topic: item.topic,
    rule: item.rule,
    title: item.title,
    severity: item.severity,
    outcome: item.outcome,
    why: item.why,
    wanted: item.wanted.join('\n'),
    there: item.there.join('\n'),
    type: item.type.join('\n'),
    words: item.words,
    risk: item.risk,
    comment: item.comment,
    done: item.done ? 'done' : 'open',
    by: item.done?.by ?? '',
    at: item.done?.at ?? '',
  }))
  return csvOf(
    Object.keys(rows[0] ?? { device: '' }),
    rows.map((row) => Object.values(row)),
  )
}

const RISKS: Readonly<Record<string, string>> = {
  session: 'may cut off the session that makes it',
  traffic: 'may stop traffic',
}

/** Device by device, topic by topic, in Markdown (CommonMark): for the team that types it. */
export function writeChangeLogMarkdown(items: readonly RemediationItem[], title: string): string {
  const out = [`# ${plain(title)}`, '']
  for (const [device, own] of grouped(items, (item) => item.device)) {
    out.push(`## ${plain(device)}`, '', `${own.filter(({ done }) => done).length} of ${own.length} done.`, '')
    for (const [topic, some] of grouped(own, (item) => item.topic)) {
      out.push(`### ${plain(topic)}`, '')
      for (const item of some) {
        out.push(
          `- [${item.done ? 'x' : ' '}] **${plain(item.title)}** (${item.rule}, ${item.severity}, ${item.outcome})`,
          `  ${plain(item.why)}`,
        )
        if (item.done) out.push(`  Done by ${plain(item.done.by)} on ${item.done.at}.`)
        if (item.comment !== '') out.push(`  Comment: ${plain(item.comment)}`)
        if (RISKS[item.risk]) out.push(`  Take care: it ${RISKS[item.risk] ?? ''}.`)
        if (item.words !== '') out.push(`  ${plain(item.words)}`)
        for (const [name, lines] of [
          ['There', item.there],
          ['To type', item.type],
        ] as const)
          if (lines.length > 0) out.push('', `  ${name}:`, '', ...fenced(lines).map((line) => `  ${line}`))
        out.push('')
      }
    }
  }
  return `${out.join('\n').trimEnd()}\n`
}

/** A fence longer than any run of marks within it (CommonMark 0.31 §4.5). */
function fenced(lines: readonly string[]): string[] {
  const longest = Math.max(2, ...lines.flatMap((line) => [...line.matchAll(/`+/g)].map(([run]) => run.length)))
  const fence = '`'.repeat(longest + 1)
  return [fence, ...lines, fence]
}

/** Text that Markdown takes for nothing else. */
function plain(text: string): string {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .join(' ')
    .replace(/[\\`*_[\]<>#|~]/g, '\\$&')
    .replace(/^([-+=]|\d+(?=[.)]))/, (mark) => (/^\d/.test(mark) ? `${mark}\\` : `\\${mark}`))
}

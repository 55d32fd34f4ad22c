import { plainMarkdown } from './comparison.ts'
import { reportBlocks, type Block } from './blocks.ts'
import type { ReportFormat } from './format.ts'
import type { Report } from './report.ts'

/** The report as Markdown (CommonMark with the tables of GFM): what comes from outside marks nothing up. */
export function writeMarkdown(report: Report): string {
  return `${reportBlocks(report).map(markdownOf).join('\n\n')}\n`
}

function markdownOf(block: Block): string {
  switch (block.kind) {
    case 'heading':
      return `${'#'.repeat(block.level)} ${inline(block.text)}`
    case 'text':
      return block.tone === 'strong' ? `**${inline(block.text)}**` : inline(block.text)
    case 'list':
      return block.items.map((item) => `- ${inline(item)}`).join('\n')
    case 'table':
      return [
        row(block.head),
        row(block.head.map(() => '---')),
        ...block.rows.map((cells) => row(cells.map(inline))),
      ].join('\n')
    case 'lines':
      return fenced(block.text)
  }
}

const row = (cells: readonly string[]): string => `| ${cells.join(' | ')} |`

/** On one line: a line break would begin a block. A line that begins like a list or a rule is no list and no rule. */
function inline(text: string): string {
  return plainMarkdown(text.replace(/\s+/g, ' ').trim()).replace(/^(?=[-+=]|\d+[.)])/, '\\')
}

/** Fenced by more back-quotes than the lines hold in a row (CommonMark 0.31 §4.5). */
function fenced(text: string): string {
  const longest = Math.max(0, ...[...text.matchAll(/`+/g)].map(([run]) => run.length))
  const fence = '`'.repeat(Math.max(3, longest + 1))
  return `${fence}\n${text}\n${fence}`
}

export const markdownFormat: ReportFormat = {
  form: 'md',
  title: 'Markdown',
  what: 'for wikis and change requests',
  type: 'text/markdown; charset=utf-8',
  write: ({ report }) => writeMarkdown(report()),
}

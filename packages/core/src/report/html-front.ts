/** The first page of a report as HTML: for whom it is, and its summary. */
import { esc, table } from './html-parts.ts'
import type { Say } from './messages/index.ts'
import { severityLines } from './phrases.ts'
import type { Report, ReportCover } from './report.ts'
import { barsSvg, summaryWords, type SummaryLine } from './summary.ts'

export function coverHtml({ client, auditor, period, confidentiality }: ReportCover, say: Say): string {
  const lines = [
    [say('cover.client'), client],
    [say('cover.auditor'), auditor],
    [say('cover.period'), period],
  ].filter(([, value]) => value !== '')
  return [
    confidentiality === '' ? '' : `<p class="confidential"><strong>${esc(confidentiality)}</strong></p>`,
    lines.length === 0
      ? ''
      : `<dl class="cover">${lines
          .map(([name = '', value = '']) => `<div><dt>${esc(name)}</dt><dd>${esc(value)}</dd></div>`)
          .join('')}</dl>`,
  ].join('\n')
}

export function logoHtml(logo: ReportCover['logo']): string {
  return logo === null ? '' : `<img class="logo" alt="" src="data:${logo.type};base64,${logo.base64}">\n`
}

export function summaryHtml({ summary }: Report, say: Say): string {
  const part = (title: string, lines: readonly SummaryLine[]): string => {
    if (lines.length === 0) return ''
    const read = lines.map((line) => `${line.title}: ${say('summary.failAndOpen', { ...line })}`).join('; ')
    return `<h3>${esc(title)}</h3><figure>${barsSvg(lines, read, esc)}
<figcaption>${esc(say('summary.bars'))}</figcaption></figure>`
  }
  return `<section id="summary"><h2>${esc(say('section.summary'))}</h2>
${summaryWords(summary, say)
  .map((words) => `<p>${esc(words)}</p>`)
  .join('\n')}
${part(say('summary.severities'), severityLines(summary.severities, say))}
${part(say('summary.topics'), summary.topics)}
${part(say('summary.devices'), summary.devicesByFindings)}
${
  summary.first.length === 0
    ? ''
    : `<h3>${esc(say('summary.first'))}</h3>${table(
        [say('column.rule'), say('column.severity'), say('summary.failing')],
        summary.first.map(({ title, fail, severity }) => [esc(title), esc(say(`severity.${severity}`)), String(fail)]),
      )}`
}
</section>`
}

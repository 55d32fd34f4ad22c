/** The first page of a report as HTML: for whom it is, and its summary. */
import { esc, table } from './html-parts.ts'
import type { Report, ReportCover } from './report.ts'
import { barsSvg, summaryWords, type SummaryLine } from './summary.ts'

export function coverHtml({ client, auditor, period, confidentiality }: ReportCover): string {
  const lines = [
    ['Client', client],
    ['Auditor', auditor],
    ['Period', period],
  ].filter(([, value]) => value !== '')
  return [
    confidentiality === '' ? '' : `<p class="confidential"><strong>${esc(confidentiality)}</strong></p>`,
    lines.length === 0
      ? ''
      : `<dl class="cover">${lines
          .map(([name = '', value = '']) => `<div><dt>${name}</dt><dd>${esc(value)}</dd></div>`)
          .join('')}</dl>`,
  ].join('\n')
}

export function logoHtml(logo: ReportCover['logo']): string {
  return logo === null ? '' : `<img class="logo" alt="" src="data:${logo.type};base64,${logo.base64}">\n`
}

export function summaryHtml({ summary }: Report): string {
  const part = (title: string, lines: readonly SummaryLine[]): string =>
    lines.length === 0
      ? ''
      : `<h3>${title}</h3><figure>${barsSvg(lines, esc)}
<figcaption>fail, and beside it what could not be decided</figcaption></figure>`
  return `<section id="summary"><h2>Summary</h2>
${summaryWords(summary)
  .map((words) => `<p>${esc(words)}</p>`)
  .join('\n')}
${part('Findings by severity', summary.severities)}
${part('Topics with most findings', summary.topics)}
${part('Devices with most findings', summary.devicesByFindings)}
${
  summary.first.length === 0
    ? ''
    : `<h3>Remediate first</h3>${table(
        ['Rule', 'Severity', 'Devices that fail'],
        summary.first.map(({ title, severity, fail }) => [esc(title), esc(severity), String(fail)]),
      )}`
}
</section>`
}

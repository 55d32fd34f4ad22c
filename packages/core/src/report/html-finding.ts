/** A finding as HTML: what was found, the lines that it rests on, and its remediation. */
import type { Verdict } from '../audit/index.ts'
import { code, esc, mark, pre, time } from './html-parts.ts'
import type { Say } from './messages/index.ts'
import { placeWords, placesOf } from './phrases.ts'
import type { Finding, Report } from './report.ts'

export function findingHtml(
  { number, title, statement, verdict, takenAt }: Finding,
  paths: Report['paths'],
  say: Say,
): string {
  const values = verdict.values.map((one) => say('finding.value', { ...one })).join('; ')
  const meta = [
    esc(say(`outcome.${verdict.outcome}`)),
    esc(say('finding.severity', { severity: say(`severity.${verdict.severity}`) })),
    say('finding.branch', { rule: code(verdict.rule), branch: code(verdict.branch) }),
    takenAt === null ? esc(say('finding.evidenceUnknown')) : say('finding.evidence', { time: time(takenAt, say) }),
  ]
  const places = placesOf(verdict.exhibits)
  const more = places.length - SHOWN
  const references = verdict.references.join(' · ')
  return `<article id="finding-${number}">
<h3>${mark(verdict.outcome)}${number}. ${esc(title)} <span class="device">${esc(verdict.device)}</span></h3>
${[
  `<p class="meta">${meta.join(' · ')}</p>`,
  `<p>${esc(verdict.note)}</p>`,
  ...(verdict.waived ?? []).map((waiver) => waivedHtml(waiver, say)),
  statement === '' ? '' : `<p class="quiet">${esc(statement)}</p>`,
  values === '' ? '' : `<p class="quiet">${esc(say('finding.values', { values }))}</p>`,
  ...linesHtml(say('finding.missing'), verdict.missing),
  ...linesHtml(say('finding.extra'), verdict.extra),
  ...places.slice(0, SHOWN).map((exhibit) => exhibitHtml(exhibit, paths, say)),
  more > 0 ? `<p class="quiet">${esc(say('finding.morePlaces', {}, more))}</p>` : '',
  remedyHtml(verdict, say),
  references === '' ? '' : `<p class="quiet">${esc(say('finding.references', { references }))}</p>`,
]
  .filter(Boolean)
  .join('\n')}
</article>`
}

/** Places of a finding that are shown; the others are counted. */
const SHOWN = 12

function linesHtml(title: string, lines: readonly string[]): string[] {
  return lines.length === 0 ? [] : [`<p>${esc(title)}</p>`, pre(lines.join('\n'))]
}

function waivedHtml({ subject, reason, owner, expires }: NonNullable<Verdict['waived']>[number], say: Say): string {
  const what = subject === null ? say('finding.waived') : say('finding.waivedFor', { subject })
  const values = { waived: `<strong>${esc(what)}</strong>`, time: time(expires, say) }
  return `<p>${say('finding.waivedUntil', { ...values, owner: esc(owner), reason: esc(reason) })}</p>`
}

function exhibitHtml(exhibit: Verdict['exhibits'][number], paths: Report['paths'], say: Say): string {
  const { from, text, absent } = exhibit
  const where = placeWords(exhibit, paths, say)
  if (absent && text === '') return `<p class="meta">${esc(say('finding.searchedMissing', { where }))}</p>`
  const lines = text
    .split('\n')
    .map((line, i) => `<span class="n">${from + i}</span>${esc(line)}`)
    .join('\n')
  const caption = absent ? say('finding.searched', { where }) : where
  return `<figure><figcaption>${esc(caption)}</figcaption><pre>${lines}</pre></figure>`
}

export function remedyHtml({ remedy }: Verdict, say: Say): string {
  if (remedy === null) return ''
  const title = `<h4>${esc(say('remedy.remediation'))}</h4>`
  if ('words' in remedy) return `${title}<p>${esc(remedy.words).replaceAll('\n', '<br>')}</p>`
  return [
    title,
    remedy.risk === 'none' ? '' : `<p><strong>${esc(say(`risk.${remedy.risk}`))}</strong></p>`,
    remedy.check.length === 0
      ? ''
      : `<p>${esc(say('remedy.check'))}</p><ul>${remedy.check.map((line) => `<li>${esc(line)}</li>`).join('')}</ul>`,
    pre(remedy.commands.join('\n')),
    `<h4>${esc(say('remedy.rollback'))}</h4>`,
    pre(remedy.rollback.join('\n')),
    remedy.unrestored === undefined ? '' : `<p>${esc(say('remedy.unrestored', { what: remedy.unrestored }))}</p>`,
  ].join('')
}

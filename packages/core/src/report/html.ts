/** The report as one HTML file. Values are escaped before they are put into a text; texts hold no markup. */
import type { Counts } from '../audit/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { answerCounts, answerWords, reasonWords } from './assessment.ts'
import type { ReportFormat } from './format.ts'
import { findingHtml, remedyHtml } from './html-finding.ts'
import { coverHtml, logoHtml, summaryHtml } from './html-front.ts'
import { POLICY, STYLE, code, esc, mark, table, time } from './html-parts.ts'
import { textsOf, type Say } from './messages/index.ts'
import {
  METHOD,
  COUNTED_OUTCOMES,
  attestedWords,
  coverageNumbers,
  heads,
  numbers,
  outcomeHeads,
  scopeWords,
  standingWords,
} from './phrases.ts'
import { findingWords, type Report } from './report.ts'
import { scoreWords } from './requirement-score.ts'
import type { SectionId } from './sections.ts'

/**
 * The report as one HTML file that needs nothing else: no script, no outside font, no outside picture.
 * @param more style of whoever shows it in a frame of its own
 * @param say the texts of its language
 */
export function writeHtml(report: Report, more = '', say = textsOf(report.language)): string {
  const parts = new Map(
    report.sections
      .map((section) => [section, SECTION_HTML[section](report, say)] as const)
      .filter(([, html]) => html !== ''),
  )
  return `<!doctype html>
<html lang="${report.language}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="${POLICY}">
<title>${esc(report.title)}</title>
<style>${STYLE}${more}</style>
</head>
<body>
${headerHtml(report, say)}
<nav aria-label="${esc(say('report.contents'))}"><h2>${esc(say('report.contents'))}</h2><ol>
${contents(report, parts, say)}
</ol></nav>
${[...parts.values()].join('\n')}
</body>
</html>
`
}

function headerHtml({ document, engagement, title, madeAt, cover, counts }: Report, say: Say): string {
  const { title: snapshot, takenAt } = document.snapshot
  const kicker = [esc(say('report.kicker')), ...(engagement === null ? [] : [esc(engagement)])].join(' · ')
  const of = { made: time(madeAt, say), snapshot: esc(snapshot) }
  const made =
    takenAt === null ? say('report.madeOf', of) : say('report.madeOfTaken', { ...of, taken: time(takenAt, say) })
  const limited =
    document.limitedTo === undefined
      ? ''
      : `<p><strong>${esc(say('report.limitedTo', { what: document.limitedTo }))}</strong></p>\n`
  return `<header>
${logoHtml(cover.logo)}<p class="kicker">${kicker}</p>
<h1>${esc(title)}</h1>
<p>${made}</p>
${limited}${coverHtml(cover, say)}${countsLine(counts, say)}
</header>`
}

/** Each part of a report; empty where there is nothing to say. */
const SECTION_HTML: Readonly<Record<SectionId, (report: Report, say: Say) => string>> = {
  summary: summaryHtml,
  scope: (report, say) =>
    section('scope', say, [
      `<p>${esc(scopeWords(report, say))}</p>`,
      table(
        [...heads(say, 'column.device', 'column.dialect', 'column.lines', 'column.unparsed'), ...outcomeHeads(say)],
        deviceRows(report),
      ),
      part(
        say('scope.refused'),
        heads(say, 'column.file', 'column.reason'),
        report.document.refused.map(({ path, reason }) => [code(path), esc(reason)]),
      ),
    ]),
  method: (_, say) =>
    section('method', say, [`<ul>${METHOD.map((line) => `<li>${esc(say(line))}</li>`).join('')}</ul>`]),
  signing: ({ signing }, say) =>
    signing === null
      ? ''
      : section('signing', say, [
          `<p>${esc(say('signing.key'))}</p>`,
          `<p><code>${esc(signing.fingerprint)}</code></p>`,
          `<p>${say('signing.publicKey', { key: code(signing.publicKey) })}</p>`,
          `<div class="qr">${signing.qr}</div>`,
        ]),
  assessment: assessmentHtml,
  rules: ({ rules }, say) =>
    section('rules', say, [
      table(
        [...heads(say, 'column.rule', 'column.severity'), ...outcomeHeads(say)],
        rules.map(({ title, rule, severity, counts }) => [
          `${esc(title)}<br>${code(rule)}`,
          esc(say(`severity.${severity}`)),
          ...numbers(counts),
        ]),
      ),
    ]),
  standing: standingHtml,
  requirements: ({ requirements }, say) =>
    section(
      'requirements',
      say,
      [...grouped(requirements, (line) => line.framework)].map(([framework, lines]) =>
        part(
          framework,
          heads(say, 'column.requirement', 'column.rules', 'outcome.fail', 'outcome.unknown', 'outcome.pass'),
          lines.map((line) => [
            `<strong>${esc(line.requirement)}</strong> ${esc(line.title)}`,
            line.rules.map(code).join(' '),
            String(line.counts.fail),
            String(line.counts.unknown + line.counts.error),
            String(line.counts.pass),
          ]),
        ),
      ),
    ),
  people: ({ document }, say) =>
    document.attested.length === 0
      ? ''
      : section('people', say, [
          table(
            heads(say, 'column.question', 'column.answer', 'column.by', 'column.until', 'column.evidence'),
            document.attested.map((one) => [
              `<strong>${esc(one.title)}</strong><br>${esc(one.question)}`,
              esc(attestedWords(one, say)) + (one.note === '' ? '' : `<br>${esc(one.note)}`),
              esc(one.by ?? ''),
              one.until === null ? '' : time(one.until, say),
              one.files.length === 0
                ? esc(say('people.needed', { evidence: one.evidence }))
                : one.files.map(({ name, sha256 }) => `${esc(name)} <code class="hash">${sha256}</code>`).join('<br>'),
            ]),
          ),
        ]),
  traffic: ({ document }, say) =>
    document.expected.length === 0
      ? ''
      : section('traffic', say, [
          table(
            heads(say, 'column.expectation', 'column.answer', 'column.result', 'column.requirements'),
            document.expected.map((one) => [
              `<strong>${esc(one.title)}</strong><br>${esc(one.statement)}`,
              `${esc(say(`outcome.${one.outcome}`))} <span class="quiet">${esc(one.branch)}</span>`,
              esc(one.note),
              one.references.map(esc).join(' · '),
            ]),
          ),
        ]),
  remediation: remediationHtml,
  findings: ({ findings, findingCounts, paths }, say) =>
    section('findings', say, [
      `<p class="quiet">${esc(say('findings.definition', { counts: findingWords(findingCounts, say) }))}</p>`,
      ...(findings.length === 0
        ? [`<p>${esc(say('findings.none'))}</p>`]
        : findings.map((finding) => findingHtml(finding, paths, say))),
    ]),
  records: ({ document }, say) =>
    section('records', say, [
      table(
        heads(say, 'column.record', 'column.device', 'column.taken', 'column.fingerprint'),
        document.records.map(({ path, device, takenAt, fingerprint }) => [
          code(path),
          esc(device),
          takenAt === null ? esc(say('time.unknown')) : time(takenAt, say),
          `<code class="hash">${fingerprint}</code>`,
        ]),
      ),
      `<p class="quiet">${esc(say('records.build', { build: document.build }))} ${esc(say('records.fingerprint'))}</p>`,
    ]),
}

/** @param title in words; what the section is called where nothing else is said */
function section(id: SectionId, say: Say, html: readonly string[], title = say(`section.${id}`)): string {
  return `<section id="${id}"><h2>${esc(title)}</h2>\n${html.filter(Boolean).join('\n')}\n</section>`
}

/** A part with a heading of its own; nothing where it has no rows. */
function part(title: string, head: readonly string[], rows: readonly (readonly string[])[]): string {
  return rows.length === 0 ? '' : `<h3>${esc(title)}</h3>${table(head, rows)}`
}

function standingHtml({ document, coverage }: Report, say: Say): string {
  return section('standing', say, [
    ...document.scores.map((score) => `<p>${esc(standingWords(score, say))}</p>`),
    `<p class="quiet">${esc(say('standing.flat'))} ${esc(say('standing.weighted'))}</p>`,
    table(
      heads(
        say,
        'column.framework',
        'column.automatic',
        'column.partly',
        'column.byPerson',
        'column.notCovered',
        'column.outside',
      ),
      coverage.map(({ framework, counts, total }) => [
        `${esc(framework)} <span class="quiet">${esc(say('standing.requirements', {}, total))}</span>`,
        ...coverageNumbers(counts),
      ]),
    ),
    part(
      say('standing.tailored'),
      heads(say, 'column.rule', 'column.what', 'column.why', 'column.by'),
      document.tailored.map(({ rule, what, reason, by }) => [code(rule), esc(what), esc(reason), esc(by)]),
    ),
  ])
}

/** What to type, device by device, without the evidence. */
function remediationHtml({ findings }: Report, say: Say): string {
  const byDevice = grouped(
    findings.filter(({ verdict }) => verdict.remedy !== null && verdict.outcome === 'fail' && !verdict.waived),
    ({ verdict }) => verdict.device,
  )
  return section(
    'remediation',
    say,
    [...byDevice].map(
      ([device, own]) =>
        `<h3>${esc(device)}</h3>${own
          .map(({ title, verdict }) => `<article><h4>${esc(title)}</h4>${remedyHtml(verdict, say)}</article>`)
          .join('\n')}`,
    ),
  )
}

function contents(report: Report, parts: ReadonlyMap<SectionId, string>, say: Say): string {
  const counts: Partial<Record<SectionId, string>> = {
    people: ` (${report.document.attested.length})`,
    traffic: ` (${report.document.expected.length})`,
    findings: ` (${findingWords(report.findingCounts, say)})`,
  }
  return [...parts.keys()]
    .map((id) => {
      const words = id === 'assessment' ? (report.assessment?.title ?? '') : say(`section.${id}`)
      return `<li><a href="#${id}">${esc(words)}${esc(counts[id] ?? '')}</a></li>`
    })
    .join('\n')
}

function deviceRows({ document }: Report): string[][] {
  const byDevice = grouped(document.verdicts, (verdict) => verdict.device)
  return document.devices.map((device) => {
    const verdicts = byDevice.get(device.name) ?? []
    return [
      esc(device.name),
      esc(device.dialect),
      String(device.lines),
      String(device.unread),
      ...COUNTED_OUTCOMES.map((outcome) => String(verdicts.filter((verdict) => verdict.outcome === outcome).length)),
    ]
  })
}

function countsLine(counts: Counts, say: Say): string {
  const each = COUNTED_OUTCOMES.map(
    (outcome) => `<span>${mark(outcome)}<b>${counts[outcome]}</b> ${esc(say(`outcome.${outcome}`))}</span>`,
  )
  return `<p class="counts">${each.join(' ')}</p>`
}

export const htmlFormat: ReportFormat = {
  form: 'html',
  title: 'HTML',
  what: 'one file, for reading',
  type: 'text/html; charset=utf-8',
  write: ({ report }) => writeHtml(report()),
}

/** Every requirement of the framework that the audit was for, with its answer. */
function assessmentHtml({ assessment }: Report, say: Say): string {
  if (assessment === null) return ''
  const { title, requirements, score } = assessment
  const parts = [...grouped(requirements, (line) => line.part)].map(([name, lines]) =>
    part(
      name,
      heads(
        say,
        'column.requirement',
        'column.answer',
        'column.evidenced',
        'outcome.fail',
        'column.undecided',
        'outcome.pass',
      ),
      lines.map((line) => {
        const why = reasonWords(line.why, say)
        return [
          `<strong>${esc(line.requirement)}</strong> ${esc(line.title)}`,
          `<b>${esc(answerWords(assessment, line.answer, say))}</b>` +
            (why === '' ? '' : `<br><span class="quiet">${esc(why)}</span>`),
          [...line.rules, ...line.attestations, ...line.expectations].map(code).join(' '),
          String(line.fail),
          String(line.undecided),
          String(line.pass),
        ]
      }),
    ),
  )
  const scored = score === null ? [] : scoreWords(score, say)
  return section(
    'assessment',
    say,
    [
      `<p><strong>${esc(answerCounts(assessment, say).join(' · '))}</strong></p>`,
      ...scored.map((words) => `<p>${esc(words)}</p>`),
      ...parts,
    ],
    title,
  )
}

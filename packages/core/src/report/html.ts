import { SCORE_FORMULAS, type Counts, type Verdict } from '../audit/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { findingWords, type Finding, type Report } from './report.ts'
import { scoreWords } from './requirement-score.ts'
import { SECTIONS, type SectionId } from './sections.ts'
import { OUTCOME_WORDS } from './words.ts'
import { RISK_WORDS } from './blocks.ts'
import { coverHtml, logoHtml, summaryHtml } from './html-front.ts'
import type { ReportFormat } from './format.ts'
import { POLICY, STYLE, code, esc, pre, table, time } from './html-parts.ts'
import { answerCounts, answerWords, type Assessment } from './assessment.ts'

const OUTCOMES = ['fail', 'unknown', 'error', 'pass', 'notapplicable', 'notchecked'] as const
/**
 * The report as one HTML file that needs nothing else: no script, no outside font, no outside picture.
 * @param more style of whoever shows it in a frame of its own
 */
export function writeHtml(report: Report, more = ''): string {
  const { document } = report
  const { title, takenAt } = document.snapshot
  const parts = new Map(
    report.sections
      .map((section) => [section, SECTION_HTML[section](report)] as const)
      .filter(([, html]) => html !== ''),
  )
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="${POLICY}">
<title>${esc(report.title)}</title>
<style>${STYLE}${more}</style>
</head>
<body>
<header>
${logoHtml(report.cover.logo)}<p class="kicker">Evidence report${report.engagement === null ? '' : ` · ${esc(report.engagement)}`}</p>
<h1>${esc(report.title)}</h1>
<p>Made ${time(report.madeAt)} · snapshot “${esc(title)}”${takenAt === null ? '' : ` of ${time(takenAt)}`}</p>${
    document.limitedTo === undefined
      ? ''
      : `
<p><strong>Limited to ${esc(document.limitedTo)}.</strong></p>`
  }
${coverHtml(report.cover)}${countsLine(report.counts)}
</header>
<nav aria-label="Contents"><h2>Contents</h2><ol>
${contents(report, parts)}
</ol></nav>
${[...parts.values()].join('\n')}
</body>
</html>
`
}

/** Each part of a report; empty where there is nothing to say. */
const SECTION_HTML: Readonly<Record<SectionId, (report: Report) => string>> = {
  summary: summaryHtml,
  scope: scopeHtml,
  method: (report) =>
    `<section id="method"><h2>Method</h2><ul>${report.method.map((line) => `<li>${esc(line)}</li>`).join('')}</ul></section>`,
  signing: ({ signing }) => signingHtml(signing),
  assessment: ({ assessment }) => (assessment === null ? '' : assessmentSection(assessment)),
  rules: (report) => `<section id="rules"><h2>Rules</h2>
${table(
  ['Rule', 'Severity', ...OUTCOMES.map((o) => OUTCOME_WORDS[o])],
  report.rules.map((rule) => [
    `${esc(rule.title)}<br><code>${esc(rule.rule)}</code>`,
    esc(rule.severity),
    ...numbers(rule.counts),
  ]),
)}
</section>`,
  standing: ({ document, ...report }) => `<section id="standing"><h2>Score and coverage</h2>
${document.scores.map(scoreHtml).join('\n')}
<p class="quiet">${esc(SCORE_FORMULAS.flat)} ${esc(SCORE_FORMULAS.weighted)}</p>
${table(
  ['Framework', 'Automatic', 'Partly', 'By a person', 'Not covered', 'Outside the network'],
  report.coverage.map(({ framework, counts, total }) => [
    `${esc(framework)} <span class="quiet">${total} requirements</span>`,
    ...(['machine', 'partly', 'person', 'none', 'outside'] as const).map((kind) => String(counts[kind])),
  ]),
)}
${
  document.tailored.length === 0
    ? ''
    : `<h3>Excluded or changed rules</h3>${table(
        ['Rule', 'What', 'Why', 'By'],
        document.tailored.map(({ rule, what, reason, by }) => [code(rule), esc(what), esc(reason), esc(by)]),
      )}`
}
</section>`,
  requirements: (report) => `<section id="requirements"><h2>Requirements</h2>
${[...grouped(report.requirements, (line) => line.framework)]
  .map(
    ([framework, lines]) =>
      `<h3>${esc(framework)}</h3>${table(
        ['Requirement', 'Rules', 'fail', 'unknown', 'pass'],
        lines.map((line) => [
          `<strong>${esc(line.requirement)}</strong> ${esc(line.title)}`,
          line.rules.map(code).join(' '),
          String(line.counts.fail),
          String(line.counts.unknown + line.counts.error),
          String(line.counts.pass),
        ]),
      )}`,
  )
  .join('\n')}
</section>`,
  people: ({ document }) =>
    document.attested.length === 0
      ? ''
      : `<section id="people"><h2>Questions for people</h2>
${table(
  ['Question', 'Answer', 'By', 'Until', 'Evidence'],
  document.attested.map((one) => [
    `<strong>${esc(one.title)}</strong><br>${esc(one.question)}`,
    OUTCOME_WORDS[one.outcome] +
      (one.expired ? ' (the last answer has expired)' : '') +
      (one.note === '' ? '' : `<br>${esc(one.note)}`),
    esc(one.by ?? ''),
    one.until === null ? '' : time(one.until),
    one.files.length === 0
      ? esc(`needed: ${one.evidence}`)
      : one.files.map(({ name, sha256 }) => `${esc(name)} <code class="hash">${sha256}</code>`).join('<br>'),
  ]),
)}
</section>`,
  traffic: ({ document }) =>
    document.expected.length === 0
      ? ''
      : `<section id="traffic"><h2>Expectations</h2>
${table(
  ['Expectation', 'Answer', 'Result', 'Requirements'],
  document.expected.map((one) => [
    `<strong>${esc(one.title)}</strong><br>${esc(one.statement)}`,
    `${OUTCOME_WORDS[one.outcome]} <span class="quiet">${esc(one.branch)}</span>`,
    esc(one.note),
    one.references.map(esc).join(' · '),
  ]),
)}
</section>`,
  remediation: remediationHtml,
  findings: (report) => `<section id="findings"><h2>Findings</h2>
<p class="quiet">${findingWords(report.findingCounts)}. A finding is a verdict that is fail, unknown or error.</p>
${
  report.findings.length === 0
    ? '<p>There are no findings.</p>'
    : report.findings.map((finding) => findingHtml(finding, report.paths)).join('\n')
}
</section>`,
  records: ({ document }) => `<section id="records"><h2>Records</h2>
${table(
  ['Record', 'Device', 'Taken', 'Fingerprint'],
  document.records.map((record) => [
    code(record.path),
    esc(record.device),
    record.takenAt === null ? 'time unknown' : time(record.takenAt),
    `<code class="hash">${record.fingerprint}</code>`,
  ]),
)}
<p class="quiet">Build ${esc(document.build)}. The fingerprint of a record is an HMAC-SHA256 of the file as it was
imported, under the key of the engagement: the same file has the same one.</p>
</section>`,
}

function scopeHtml(report: Report): string {
  const { document } = report
  const benchmarks = document.benchmarks.map(
    ({ id, title: name, version, profile }) =>
      `${esc(name)} ${esc(version)} (profile ${esc(report.profiles[id] ?? profile)})`,
  )
  return `<section id="scope"><h2>Scope</h2>
<p>${document.devices.length} devices audited with ${benchmarks.join(', ')}.</p>
${table(['Device', 'Dialect', 'Lines', 'Unparsed', ...OUTCOMES.map((o) => OUTCOME_WORDS[o])], deviceRows(report))}
${
  document.refused.length === 0
    ? ''
    : `<h3>Refused files</h3>${table(
        ['File', 'Reason'],
        document.refused.map(({ path, reason }) => [code(path), esc(reason)]),
      )}`
}
</section>`
}

/** What to type, device by device, without the evidence. */
function remediationHtml({ findings }: Report): string {
  const byDevice = grouped(
    findings.filter(({ verdict }) => verdict.remedy !== null && verdict.outcome === 'fail' && !verdict.waived),
    ({ verdict }) => verdict.device,
  )
  return `<section id="remediation"><h2>Remediation</h2>
${[...byDevice]
  .map(
    ([device, own]) =>
      `<h3>${esc(device)}</h3>${own
        .map(({ title, verdict }) => `<article><h4>${esc(title)}</h4>${remedyHtml(verdict)}</article>`)
        .join('\n')}`,
  )
  .join('\n')}
</section>`
}

function contents(report: Report, parts: ReadonlyMap<SectionId, string>): string {
  const counts: Partial<Record<SectionId, string>> = {
    people: ` (${report.document.attested.length})`,
    traffic: ` (${report.document.expected.length})`,
    findings: ` (${findingWords(report.findingCounts)})`,
  }
  return [...parts.keys()]
    .map((section) => {
      const words = section === 'assessment' ? esc(report.assessment?.title ?? '') : SECTIONS[section]
      return `<li><a href="#${section}">${words}${counts[section] ?? ''}</a></li>`
    })
    .join('\n')
}

function signingHtml(signing: Report['signing']): string {
  if (!signing) return ''
  return `<section id="signing"><h2>Signature of evidence</h2>
<p>Evidence packs of this engagement are signed with the key of this fingerprint (Ed25519):</p>
<p><code>${esc(signing.fingerprint)}</code></p>
<p>Public key: <code>${esc(signing.publicKey)}</code></p>
<div class="qr">${signing.qr}</div></section>
`
}

function scoreHtml({ benchmark, flat, weighted }: Report['document']['scores'][number]): string {
  const share = weighted === null ? 'not decided' : weighted.toFixed(1)
  return `<p><strong>${esc(benchmark)}</strong>: ${flat.points} of ${flat.of} points; weighted ${share}.</p>`
}

function findingHtml({ number, title, statement, verdict, takenAt }: Finding, paths: Report['paths']): string {
  const values = verdict.values.map(({ name, value, from }) => `${esc(name)} = ${esc(value)} (${esc(from)})`)
  const meta = [
    OUTCOME_WORDS[verdict.outcome],
    `severity ${verdict.severity}`,
    `${code(verdict.rule)}, branch ${code(verdict.branch)}`,
    `evidence ${takenAt === null ? 'of unknown age' : `of ${time(takenAt)}`}`,
  ]
  return `<article id="finding-${number}">
<h3>${mark(verdict.outcome)}${number}. ${esc(title)} <span class="device">${esc(verdict.device)}</span></h3>
<p class="meta">${meta.join(' · ')}</p>
<p>${esc(verdict.note)}</p>
${(verdict.waived ?? []).map(waivedHtml).join('\n')}
<p class="quiet">${esc(statement)}</p>
${values.length === 0 ? '' : `<p class="quiet">Values: ${values.join('; ')}</p>`}
${verdict.missing.length === 0 ? '' : `<p>Missing:</p>${pre(verdict.missing.join('\n'))}`}
${verdict.extra.length === 0 ? '' : `<p>Extra:</p>${pre(verdict.extra.join('\n'))}`}
${verdict.exhibits
  .slice(0, 12)
  .map((exhibit) => exhibitHtml(exhibit, paths))
  .join('\n')}
${verdict.exhibits.length > 12 ? `<p class="quiet">and ${verdict.exhibits.length - 12} more places.</p>` : ''}
${remedyHtml(verdict)}
<p class="quiet">References: ${verdict.references.map(esc).join(' · ')}</p>
</article>`
}

function waivedHtml({ subject, reason, owner, expires }: NonNullable<Verdict['waived']>[number]): string {
  const what = `<strong>Waived${subject === null ? '' : ` for ${esc(subject)}`}</strong>`
  return `<p>${what} until ${time(expires)}, risk owner ${esc(owner)}: ${esc(reason)}</p>`
}

function exhibitHtml({ record, from, to, text, absent }: Verdict['exhibits'][number], paths: Report['paths']): string {
  const where = `${esc(paths[record] ?? record)}, ${from === to ? `line ${from}` : `lines ${from} to ${to}`}`
  if (absent && text === '') return `<p class="meta">Searched ${where}: missing.</p>`
  const lines = text
    .split('\n')
    .map((line, i) => `<span class="n">${from + i}</span>${esc(line)}`)
    .join('\n')
  return `<figure><figcaption>${absent ? 'Searched ' : ''}${where}</figcaption><pre>${lines}</pre></figure>`
}

function remedyHtml({ remedy }: Verdict): string {
  if (remedy === null) return ''
  if ('words' in remedy) return `<h4>Remediation</h4><p>${esc(remedy.words).replaceAll('\n', '<br>')}</p>`
  const words = RISK_WORDS[remedy.risk]
  const risk = words === '' ? '' : `<p><strong>${words}</strong></p>`
  const check =
    remedy.check.length === 0
      ? ''
      : `<p>First check:</p><ul>${remedy.check.map((line) => `<li>${esc(line)}</li>`).join('')}</ul>`
  const lost = remedy.unrestored === undefined ? '' : `<p>Not restored by the rollback: ${esc(remedy.unrestored)}</p>`
  return (
    `<h4>Remediation</h4>${risk}${check}${pre(remedy.commands.join('\n'))}` +
    `<h4>Rollback</h4>${pre(remedy.rollback.join('\n'))}${lost}`
  )
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
      ...OUTCOMES.map((outcome) => String(verdicts.filter((verdict) => verdict.outcome === outcome).length)),
    ]
  })
}

function numbers(counts: Counts): string[] {
  return OUTCOMES.map((outcome) => String(counts[outcome]))
}

function countsLine(counts: Counts): string {
  const each = OUTCOMES.map(
    (outcome) => `<span>${mark(outcome)}<b>${counts[outcome]}</b> ${OUTCOME_WORDS[outcome]}</span>`,
  )
  return `<p class="counts">${each.join(' ')}</p>`
}

function mark(outcome: keyof Counts): string {
  return `<span class="mark ${outcome}" aria-hidden="true"></span>`
}

export const htmlFormat: ReportFormat = {
  form: 'html',
  title: 'HTML',
  what: 'one file, for reading',
  type: 'text/html; charset=utf-8',
  write: ({ report }) => writeHtml(report()),
}

/** Every requirement of the framework that the audit was for, with its answer. */
function assessmentSection(assessment: Assessment): string {
  const { title, requirements, score } = assessment
  return `<section id="assessment"><h2>${esc(title)}</h2>
<p><strong>${answerCounts(assessment).join(' · ')}</strong></p>
${
  score === null
    ? ''
    : scoreWords(score)
        .map((words) => `<p>${esc(words)}</p>`)
        .join('\n')
}
${[...grouped(requirements, ({ part }) => part)]
  .map(
    ([part, lines]) =>
      `<h3>${esc(part)}</h3>${table(
        ['Requirement', 'Answer', 'Rules, questions, expectations', 'fail', 'undecided', 'pass'],
        lines.map((line) => [
          `<strong>${esc(line.requirement)}</strong> ${esc(line.title)}`,
          `<b>${esc(answerWords(assessment, line.answer))}</b>` +
            (line.why === '' ? '' : `<br><span class="quiet">${esc(line.why)}</span>`),
          [...line.rules, ...line.attestations, ...line.expectations].map(code).join(' '),
          String(line.fail),
          String(line.undecided),
          String(line.pass),
        ]),
      )}`,
  )
  .join('\n')}
</section>
`
}

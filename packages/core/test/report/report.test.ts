import Ajv from 'ajv'
import { expect } from 'chai'
import { createRequire } from 'node:module'
import papaparse from 'papaparse'
import {
  auditSnapshot,
  fingerprintWithKey,
  maskWithKey,
  readBenchmark,
  readSnapshot,
  type AuditDocument,
} from '../../src/index.ts'
import { auditDocumentSchema } from '../../src/audit/index.ts'
import {
  REPORT_FORMATS,
  findingWords,
  makeReport,
  textsOf,
  writeCsv,
  writeHtml,
  writeSarif,
} from '../../src/report/index.ts'
import { benchmarkTexts, frameworks } from '../../../content/src/index.ts'

const benchmark = readBenchmark(benchmarkTexts()[0]?.text ?? '')
const config = (name: string, rest: string): { path: string; bytes: Uint8Array } => ({
  path: `${name}.cfg`,
  bytes: new TextEncoder().encode(`hostname ${name}\n${rest}`),
})
const document: AuditDocument = auditSnapshot(
  readSnapshot([
    config('good', 'no ip http server\n'),
    config(
      'bad',
      'ip http server\nsnmp-server community <b>gull</b>sparrowhawk RO\nline vty 0 4\n description =cmd|x\n',
    ),
    { path: 'x.txt', bytes: new TextEncoder().encode('') },
  ]),
  [{ benchmark, profile: 'level-1', values: {} }],
  { build: 'test', mask: maskWithKey(new Uint8Array(32)), fingerprint: fingerprintWithKey(new Uint8Array(32)) },
)
const report = makeReport(document, [benchmark.source], frameworks(), {
  title: 'A <script>title</script>',
  engagement: null,
  madeAt: '2026-11-24T10:00:00Z',
})

/** The schema as OASIS publishes it, carried by a package; ajv checks it. */
const require = createRequire(import.meta.url)
const ajv = new Ajv({ schemaId: 'auto', allErrors: true })
ajv.addMetaSchema(require('ajv/lib/refs/json-schema-draft-04.json') as object)
const isSarif = ajv.compile(require('@microsoft/jest-sarif/lib/schemas/sarif-2.1.0-rtm.5.json') as object)

describe('the audit document and its reports', () => {
  it('is what its schema says, and counts what it holds', () => {
    expect(auditDocumentSchema.parse(document)).to.deep.equal(document)
    const total = Object.entries(document.counts).reduce(
      (sum, [outcome, count]) => (outcome === 'notselected' ? sum : sum + count),
      0,
    )
    expect(total).to.equal(document.verdicts.length)
    expect(document.counts.notselected).to.equal(
      2 * benchmark.rules.filter((rule) => rule.source.profile === 'level-2').length,
    )
    expect(document.refused).to.have.length(1)
  })

  it('gives every fail and unknown an exhibit or a missing line', () => {
    for (const verdict of document.verdicts.filter(({ outcome }) => outcome === 'fail' || outcome === 'unknown'))
      expect(verdict.exhibits.length + verdict.missing.length, verdict.rule).to.be.above(0)
  })

  it('every exhibit quotes the lines it names', () => {
    for (const { exhibits } of document.verdicts)
      for (const { text, from, to, absent } of exhibits)
        if (!absent) expect(text.split('\n')).to.have.length(to - from + 1)
  })

  it('refers only to requirements that a framework lists', () => {
    const known = new Set(
      frameworks().flatMap((framework) =>
        Object.keys(framework.requirements).map((number) => `${framework.id}:${number}`),
      ),
    )
    for (const rule of benchmark.rules)
      for (const reference of rule.source.references) expect(known.has(reference), reference).to.equal(true)
  })

  it('HTML: one file without script, everything escaped, every violation with its remedy', () => {
    const html = writeHtml(report)
    expect(html).to.not.match(/<script|<b>gull|sparrowhawk|https?:\/\//)
    expect(html).to.contain('A &lt;script&gt;title')
    expect(report.findings).to.have.length(document.counts.fail + document.counts.unknown + document.counts.error)
    expect(html.match(/<article /g)).to.have.length(report.findings.length)
    expect(html).to.contain('no ip http server').and.contain('Rollback')
  })

  it('says remediation, as the screen does', () => {
    const texts = [writeHtml(report), writeSarif(document, [benchmark.source])]
    for (const text of texts) {
      expect(text)
        .to.contain('Remediation')
        .and.not.match(/\bRemed(?:y|ies)\b/)
    }
  })

  it('CSV: a row a verdict, nothing that a spreadsheet would run (read back by papaparse)', () => {
    const rows = papaparse.parse<Record<string, string>>(writeCsv(document), {
      header: true,
      skipEmptyLines: true,
    }).data
    expect(rows).to.have.length(document.verdicts.length)
    for (const row of rows) for (const cell of Object.values(row)) expect(cell).to.not.match(/^[=+@]/)
  })

  it('CSV: a report of nothing has its header', () => {
    expect(writeCsv({ ...document, verdicts: [], expected: [] }).trim()).to.equal(writeCsv(document).split(/\r?\n/)[0])
  })

  it('SARIF 2.1.0: valid by the published schema, which finds what is wrong', () => {
    const sarif = JSON.parse(writeSarif(document, [benchmark.source])) as { runs: { results: { kind: string }[] }[] }
    expect(isSarif(sarif), ajv.errorsText(isSarif.errors)).to.equal(true)
    const first = sarif.runs[0]?.results[0]
    if (first) first.kind = 'failed'
    expect(isSarif(sarif)).to.equal(false)
  })

  it('SARIF 2.1.0: kinds and levels as §3.27.9 and §3.27.10 ask, lines of the files as they were given', () => {
    const sarif = JSON.parse(writeSarif(document, [benchmark.source])) as {
      version: string
      runs: {
        tool: { driver: { rules: { id: string }[] } }
        results: {
          ruleId: string
          ruleIndex: number
          kind: string
          level: string
          locations: {
            physicalLocation: { artifactLocation: { uri: string }; region: { startLine: number; endLine: number } }
          }[]
        }[]
      }[]
    }
    const run = sarif.runs[0]
    expect(sarif.version).to.equal('2.1.0')
    expect(run?.results).to.have.length(document.verdicts.length)
    for (const result of run?.results ?? []) {
      expect(result.kind === 'fail' || result.level === 'none').to.equal(true)
      expect(['pass', 'open', 'informational', 'notApplicable', 'review', 'fail']).to.include(result.kind)
      expect(run?.tool.driver.rules[result.ruleIndex]?.id).to.equal(result.ruleId)
      for (const { physicalLocation } of result.locations) {
        expect(['good.cfg', 'bad.cfg']).to.include(physicalLocation.artifactLocation.uri)
        expect(physicalLocation.region.startLine).to.be.within(1, physicalLocation.region.endLine)
      }
    }
  })
})

describe('the number of findings', () => {
  const say = textsOf('en')
  it('agrees with the counts of verdicts: what is waived, and what is of traffic, is told', () => {
    expect(report.findingCounts).to.deep.equal({
      rules: report.counts.fail + report.counts.unknown + report.counts.error,
      expectations: 0,
      waived: 0,
    })
    expect(writeHtml(report)).to.contain(`Findings (${report.findings.length})`)
    expect(findingWords({ rules: 5, expectations: 0, waived: 0 }, say)).to.equal('5')
    expect(findingWords({ rules: 5, expectations: 2, waived: 0 }, say)).to.equal(
      '7: 5 of rules, 2 of expectations of traffic',
    )
    expect(findingWords({ rules: 5, expectations: 2, waived: 1 }, say)).to.equal(
      '7: 5 of rules, 2 of expectations of traffic, 1 of them waived',
    )
  })

  it('is written in each form that is offered, under an ending of its own', () => {
    const endings = REPORT_FORMATS.map(({ form }) => form)
    expect(new Set(endings).size).to.equal(endings.length)
    for (const { form, type, write } of REPORT_FORMATS) {
      const text = write({ document, benchmarks: [benchmark.source], report: () => report })
      expect(text, form).to.contain(document.verdicts[0]?.device ?? 'no device')
      expect(type, form).to.match(/^[a-z]+\/[a-z+]+; charset=utf-8$/)
    }
  })
})

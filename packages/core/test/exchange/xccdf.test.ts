import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import fc from 'fast-check'
import papaparse from 'papaparse'
import { readXccdf, ruleOfXccdf, writeGrc, writeXccdf, writeXccdfBenchmark } from '../../src/exchange/index.ts'
import { audits, source } from './stage.ts'

const SCHEMA = fileURLToPath(new URL('xccdf-1.2-part.xsd', import.meta.url))

describe('XCCDF 1.2, by a schema written from memory of the published one', function () {
  this.timeout(60_000)
  let folder = ''
  before(() => (folder = mkdtempSync(join(tmpdir(), 'jurybox-xccdf-'))))
  after(() => rmSync(folder, { recursive: true, force: true }))
  /** Debian's xmllint: well-formed, and by the schema; what it leaves out: identifiers unique, references resolved. */
  function check(...documents: readonly string[]): void {
    const files = documents.map((text, i) => {
      const file = join(folder, `${i}.xml`)
      writeFileSync(file, text)
      const ids = [...text.matchAll(/<(?!benchmark )[^>]* id="([^"]*)"/g)].map(([, id]) => id)
      const refs = [...text.matchAll(/ idref="([^"]*)"/g)].map(([, id]) => id)
      expect(new Set(ids).size, 'an identifier stands twice').to.equal(ids.length)
      expect(
        refs.filter((id) => !ids.includes(id)),
        'refers to what is not there',
      ).to.deep.equal([])
      return file
    })
    execFileSync('xmllint', ['--noout', '--nonet', '--schema', SCHEMA, ...files], { stdio: 'pipe' })
  }

  it('a benchmark is what the schema says', () => check(writeXccdfBenchmark(source)))

  it('results are what the schema says, whatever the texts', () => {
    check(...fc.sample(audits, { numRuns: 40, seed: 1 }).map(writeXccdf))
  })

  it('the schema refuses what is not so', () => {
    const [told] = fc.sample(audits, { numRuns: 1, seed: 1 })
    if (!told) throw new Error('nothing was sampled')
    const text = writeXccdf(told)
    expect(() => check(text.replace('<result>', '<result>hardly'))).to.throw()
    expect(() => check(text.replace(/idref="xccdf_[^"]*"/, 'idref="xccdf_example.jurybox_rule_nobody"'))).to.throw()
  })

  it('results come back: device, rule, outcome, note', () =>
    fc.assert(
      fc.property(audits, (told) => {
        const { outcomes, lost } = readXccdf(writeXccdf(told))
        expect(lost).to.deep.equal([])
        const rules = source.rules.map(({ id }) => id)
        expect(
          outcomes.map(({ id, ...rest }) => ({ ...rest, rule: ruleOfXccdf({ benchmark: source.id, rules }, id) })),
        ).to.deep.equal(
          told.document.verdicts.map(({ device, rule, outcome, note }) => ({
            ...{ device: device.trim(), outcome, rule },
            // XML holds no other control characters.
            note: note.replace(/[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu, '\u{FFFD}'),
          })),
        )
      }),
      { numRuns: 80 },
    ))

  it('results of others are read, and what we do not have is told', () => {
    const { outcomes, lost } = readXccdf(`<x:TestResult xmlns:x="http://checklists.nist.gov/xccdf/1.2" id="t">
      <x:target>quay</x:target>
      <x:rule-result idref="r1"><x:result>pass</x:result></x:rule-result>
      <x:rule-result idref="r2"><x:result>fixed</x:result></x:rule-result></x:TestResult>`)
    expect(outcomes).to.deep.equal([{ device: 'quay', id: 'r1', outcome: 'pass', note: '' }])
    expect(lost).to.deep.equal(['r2 on quay: the result “fixed”'])
    expect(() => readXccdf('<a><b></a>')).to.throw('no XML')
    expect(() => readXccdf('<a/>')).to.throw('no results of XCCDF')
    expect(() => readXccdf(`${'<a>'.repeat(100)}${'</a>'.repeat(100)}`)).to.throw('deeper than 64')
    expect(() => readXccdf('<!DOCTYPE a [<!ENTITY x "y">]><a>&x;</a>')).to.throw()
  })
})

describe('findings for registers', () => {
  it('one row a finding, with a number that stays and a status that says what people did', () =>
    fc.assert(
      fc.property(audits, (told) => {
        const rows = papaparse.parse<Record<string, string>>(writeGrc(told), {
          header: true,
          skipEmptyLines: true,
        }).data
        const findings = told.document.verdicts.filter(({ outcome }) => ['fail', 'unknown', 'error'].includes(outcome))
        expect(rows).to.have.length(findings.length)
        expect(new Set(rows.map((row) => row['Finding ID'])).size).to.equal(rows.length)
        findings.forEach((finding, i) => {
          const mark = told.marks.get(`${finding.benchmark} ${finding.rule} ${finding.device}`)
          const open = finding.outcome === 'fail' ? 'Open' : 'Not decided'
          expect(rows[i]?.['Status']).to.equal(mark?.done ? 'Remediated, not verified' : open)
          expect(rows[i]?.['Due date']).to.equal(mark?.due ?? '')
        })
      }),
      { numRuns: 60 },
    ))
})

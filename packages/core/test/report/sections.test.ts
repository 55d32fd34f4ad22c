import { expect } from 'chai'
import { auditSnapshot, readBenchmark, readSnapshot } from '../../src/index.ts'
import { isFinding } from '../../src/audit/index.ts'
import {
  AUDIENCES,
  AUDIENCE_IDS,
  textsOf,
  SECTION_IDS,
  barsSvg,
  makeReport,
  summaryWords,
  writeHtml,
  type Report,
  type ReportAbout,
} from '../../src/report/index.ts'
import { benchmarkTexts, frameworks } from '../../../content/src/index.ts'

const benchmark = readBenchmark(benchmarkTexts()[0]?.text ?? '')
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const document = auditSnapshot(
  readSnapshot([
    { path: 'bad.cfg', bytes: bytes('hostname bad\nip http server\nline vty 0 4\n transport input telnet\n') },
    { path: 'worse.cfg', bytes: bytes('hostname worse\nip http server\nsnmp-server community public RW\n') },
  ]),
  [{ benchmark, profile: 'level-1', values: {} }],
  { build: 'test', mask: () => '‹secret:0›', fingerprint: (hash) => hash },
)
const say = textsOf('en')
const made = (about: Partial<ReportAbout> = {}): Report =>
  makeReport(document, [benchmark.source], frameworks(), {
    title: 'T',
    engagement: null,
    madeAt: '2026-11-24T10:00:00Z',
    ...about,
  })
const idsIn = (html: string): string[] =>
  [...html.matchAll(/<section id="([a-z]+)"/g)]
    .map(([, id = '']) => id)
    .filter((id) => SECTION_IDS.includes(id as never))

describe('what a report consists of', () => {
  for (const audience of AUDIENCE_IDS)
    it(`for ${audience}: its sections in their order, each with its entry in the contents`, () => {
      const html = writeHtml(made({ sections: AUDIENCES[audience] }))
      const wanted = AUDIENCES[audience].filter(
        (id) =>
          !(['assessment', 'people', 'traffic', 'signing'] as string[]).includes(id) || html.includes(`id="${id}"`),
      )
      expect(idsIn(html)).to.deep.equal(wanted)
      const linked = [...html.matchAll(/<li><a href="#([a-z]+)">/g)].map(([, id = '']) => id)
      expect(linked).to.deep.equal(wanted)
    })

  it('in any order that is asked for', () =>
    expect(idsIn(writeHtml(made({ sections: ['findings', 'summary', 'records'] })))).to.deep.equal([
      'findings',
      'summary',
      'records',
    ]))

  it('the first page says for whom it is; what is not said has no line', () => {
    const html = writeHtml(
      made({ cover: { client: 'Fern & Heron', auditor: 'Isolde Wren', confidentiality: '<b>Confidential</b>' } }),
    )
    expect(html).to.contain('<dt>Client</dt><dd>Fern &amp; Heron</dd>').and.contain('<dt>Auditor</dt>')
    expect(html).to.contain('&lt;b&gt;Confidential&lt;/b&gt;').and.not.contain('<dt>Period</dt>')
    expect(writeHtml(made())).not.to.contain('class="confidential"')
  })

  it('the key that signs evidence stands in it', () => {
    const html = writeHtml(
      made({ signing: { publicKey: 'QUFB', fingerprint: '1bf2 9aee', qr: '<svg viewBox="0 0 1 1"></svg>' } }),
    )
    expect(html).to.contain(say('section.signing')).and.contain('1bf2 9aee').and.contain('<svg viewBox')
  })

  it('remediation for engineers: commands by device, without the evidence', () => {
    const html = writeHtml(made({ sections: AUDIENCES.remediation }))
    expect(html).to.contain('<h3>worse</h3>').and.contain('no ip http server')
    expect(html).not.to.contain('Searched')
  })
})

describe('the summary of a report', () => {
  const { summary, findings } = made({
    before: { title: 'August', takenAt: '2026-08-24T06:30:00Z', resolved: 9, added: 8, stillOpen: 91 },
  })

  it('counts what the verdicts say', () => {
    const sum = (of: 'fail' | 'open'): number => summary.severities.reduce((all, line) => all + line[of], 0)
    expect(sum('fail')).to.equal(document.verdicts.filter(({ outcome }) => outcome === 'fail').length)
    expect(sum('fail') + sum('open')).to.equal(document.verdicts.filter(({ outcome }) => isFinding(outcome)).length)
    expect(summary.devicesWithFindings).to.equal(2)
    expect(findings.length).to.equal(sum('fail') + sum('open'))
  })
  it('names what is worst first, and what to remediate first by severity', () => {
    const fails = summary.topics.map(({ fail }) => fail)
    expect(fails).to.deep.equal([...fails].sort((a, b) => b - a))
    expect(summary.first[0]?.severity).to.equal('high')
    expect(summary.first).to.have.length(5)
  })
  it('says what became of the audit before', () =>
    expect(summaryWords(summary, say).at(-1)).to.equal(
      'Since “August” of 2026-08-24: 9 findings resolved, 8 new, 91 still open.',
    ))
  it('waived findings are not counted, and are not lost', () => {
    const waived = {
      ...document,
      verdicts: document.verdicts.map((one) =>
        isFinding(one.outcome)
          ? { ...one, waived: [{ subject: null, reason: 'r', owner: 'o', expires: '2027-01-01T00:00:00Z' }] }
          : one,
      ),
    }
    const report = makeReport(waived, [benchmark.source], frameworks(), {
      title: 'T',
      engagement: null,
      madeAt: '2026-11-24T10:00:00Z',
    })
    expect(report.summary.severities.every(({ fail, open }) => fail + open === 0)).to.equal(true)
    expect(report.findings).to.have.length(findings.length)
  })
  it('bars are as long as their counts, with the numbers as text, and nothing that is not escaped', () => {
    const svg = barsSvg(
      [
        { title: '<script>', fail: 10, open: 10 },
        { title: 'b', fail: 5, open: 0 },
        { title: 'none', fail: 0, open: 0 },
      ],
      '"read"',
      (text) => text.replaceAll('<', '&lt;').replaceAll('"', '&quot;'),
    )
    expect(svg).to.contain('aria-label="&quot;read&quot;"')
    expect([...svg.matchAll(/<rect[^>]*width="([\d.]+)"/g)].map(([, width]) => Number(width))).to.deep.equal([
      180, 180, 90,
    ])
    expect(svg).to.contain('>10 + 10<').and.contain('>5<').and.contain('&lt;script>').and.not.contain('<script')
  })
})

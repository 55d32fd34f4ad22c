import { readFileSync, readdirSync } from 'node:fs'
import { expect } from 'chai'
import { auditSnapshot, readBenchmark, readSnapshot } from '../../src/index.ts'
import { SECTION_IDS, makeReport, reportBlocks, writeHtml } from '../../src/report/index.ts'
import { en } from '../../src/report/messages/en.ts'
import { saying, textsOf, type ReportText, type Say } from '../../src/report/messages/index.ts'
import { benchmarkTexts, frameworks } from '../../../content/src/index.ts'

const benchmark = readBenchmark(benchmarkTexts()[0]?.text ?? '')
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)
const report = makeReport(
  auditSnapshot(
    readSnapshot([
      { path: 'bad.cfg', bytes: bytes('hostname bad\nip http server\nline vty 0 4\n transport input telnet\n') },
      { path: 'empty.cfg', bytes: bytes('') },
    ]),
    [{ benchmark, profile: 'level-1', values: {} }],
    { build: 'test', mask: () => '‹secret:0›', fingerprint: (hash) => hash },
  ),
  [benchmark.source],
  frameworks(),
  {
    title: 'T',
    engagement: 'E',
    madeAt: '2026-11-24T10:00:00Z',
    sections: SECTION_IDS,
    cover: { client: 'C', auditor: 'A', period: 'P', confidentiality: 'Q' },
    signing: { publicKey: 'QUFB', fingerprint: '1bf2 9aee', qr: '' },
    before: { title: 'August', takenAt: '2026-08-24T06:30:00Z', resolved: 9, added: 8, stillOpen: 91 },
  },
)

const ids = Object.keys(en) as ReportText[]
const folder = new URL('../../src/report/', import.meta.url)
const office = new URL('../../../server/src/reports/', import.meta.url)
const sources = [folder, office]
  .flatMap((one) =>
    readdirSync(one)
      .filter((file) => file.endsWith('.ts'))
      .map((file) => readFileSync(new URL(file, one), 'utf8')),
  )
  .concat(readFileSync(new URL('../../../server/src/audits/routes.ts', import.meta.url), 'utf8'))
  .join('\n')

describe('the texts of reports', () => {
  it('are all used', () => {
    // `outcome.${outcome}` uses every text that begins with it.
    const families = [...sources.matchAll(/`([a-z]+\.)\$\{/g)].map(([, begin = '']) => begin)
    const unused = ids.filter((id) => !sources.includes(`'${id}'`) && !families.some((begin) => id.startsWith(begin)))
    expect(unused).to.deep.equal([])
  })

  it('hold no markup but what stands for a secret: values are put into them as HTML', () =>
    expect(ids.filter((id) => /[<>&"]/.test(en[id]))).to.deep.equal(['method.secrets']))

  it('fill in what comes from outside as it is', () => {
    const say: Say = textsOf('en')
    const hostile = "{n} | {'a'} @:report.made <b> $& \\"
    expect(say('limit.device', { name: hostile })).to.equal(`device ${hostile}`)
  })

  it('have a form for one and a form for several', () => {
    const say = textsOf('en')
    expect(say('why.unanswered', {}, 1)).to.equal('1 question is not answered')
    expect(say('why.unanswered', {}, 2)).to.equal('2 questions are not answered')
    expect(say('why.unanswered', {}, 0)).to.equal('0 questions are not answered')
  })

  it('can be of another language: nothing of English is left but what comes from outside', () => {
    const other = Object.fromEntries(
      ids.map((id) => [id, `⟦${[...en[id].matchAll(/\{\w+\}/g)].map(([name]) => name).join(' ')}⟧`]),
    ) as Record<ReportText, string>
    const say = saying('xx', other)
    const data = new Set(stringsIn(report))
    const isOutside = (text: string): boolean =>
      text.includes('⟦') || data.has(text) || !/[a-z]{3}/i.test(text) || [...data].some((one) => one.includes(text))
    const own = reportBlocks(report, say).flatMap((block) => {
      if (block.kind === 'table') return block.head
      if (block.kind === 'list') return block.items
      // Titles of findings are numbers, titles of rules and names of devices; lines are of devices.
      return block.kind === 'lines' || /^\d+\. .* · /.test(block.text) ? [] : [block.text]
    })
    expect(own.length).to.be.greaterThan(100)
    expect(own.filter((text) => !isOutside(text))).to.deep.equal([])
    const html = writeHtml(report, '', say)
    const shown = [...html.matchAll(/<(h1|h2|h3|h4|th|p|dt|figcaption)\b[^>]*>(.*?)<\/\1>/gs)].map(([, , text = '']) =>
      unescaped(text.replace(/<[^>]*>/g, '')),
    )
    expect(shown.length).to.be.greaterThan(100)
    expect(shown.filter((text) => !isOutside(text) && !/^\d+[. ]/.test(text))).to.deep.equal([])
  })
})

const unescaped = (text: string): string =>
  text
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&amp;', '&')

function stringsIn(value: unknown): string[] {
  if (typeof value === 'string') return [value]
  return value !== null && typeof value === 'object' ? Object.values(value).flatMap(stringsIn) : []
}

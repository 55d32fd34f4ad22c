import { expect } from 'chai'
import fc from 'fast-check'
import papaparse from 'papaparse'
import type { Verdict } from '../../src/index.ts'
import {
  remediationItems,
  writeChangeLogCsv,
  writeChangeLogMarkdown,
  type RemediationItem,
} from '../../src/report/index.ts'

const verdict = (more: Partial<Verdict> = {}): Verdict => ({
  device: 'a',
  benchmark: 'b',
  rule: 'r',
  outcome: 'fail',
  severity: 'high',
  branch: 'x',
  note: 'Telnet is let in.',
  subjects: [],
  missing: [],
  extra: [],
  references: [],
  values: [],
  exhibits: [
    { record: '1', from: 7, to: 8, text: 'line vty 0 4\n transport input telnet' },
    { record: '1', from: 1, to: 90, text: '', absent: true },
  ],
  remedy: {
    commands: ['line vty 0 4', ' no transport input telnet', ' transport input ssh', 'exit'],
    rollback: [],
    risk: 'session',
    check: [],
  },
  ...more,
})
const rule = () => ({ title: 'SSH only', topic: 'Management access' })

describe('Remediation', () => {
  it('says what is wanted, what is there, what to type, and who did it', () => {
    const [item] = remediationItems([verdict()], rule, [
      { key: 'b r a', comment: 'window 7', done: { by: 'Orla Finch', at: '2026-11-20T10:00:00.000Z' } },
    ])
    expect(item).to.deep.include({
      topic: 'Management access',
      wanted: ['line vty 0 4', ' transport input ssh'],
      there: ['7: line vty 0 4', '8:  transport input telnet'],
      risk: 'session',
      comment: 'window 7',
      done: { by: 'Orla Finch', at: '2026-11-20T10:00:00.000Z' },
    })
    expect(item?.type).to.have.length(4)
    expect(
      remediationItems([verdict({ missing: ['ntp server 10.0.0.1'] })], rule, [])[0]?.wanted,
      'what is known to be missing comes first',
    ).to.deep.equal(['ntp server 10.0.0.1'])
    expect(remediationItems([verdict({ remedy: { words: 'Ask the vendor.' } })], rule, [])[0]).to.deep.include({
      words: 'Ask the vendor.',
      type: [],
      done: null,
    })
  })

  it('leaves out what passes, does not apply or is waived', () => {
    const waived = verdict({
      waived: { reason: 'x', owner: 'y', expires: '2027-01-01T00:00:00Z' } as unknown as NonNullable<Verdict['waived']>,
    })
    expect(
      remediationItems(
        [
          verdict({ outcome: 'pass' }),
          verdict({ outcome: 'notapplicable' }),
          waived,
          verdict({ outcome: 'unknown' }),
          verdict({ outcome: 'error' }),
        ],
        rule,
        [],
      ).map(({ outcome }) => outcome),
    ).to.deep.equal(['unknown', 'error'])
  })

  const words = fc.string({ unit: fc.constantFrom(...'ab`*_[]<>#|~\\-+.1 \n=@"\',') })
  const items = fc
    .array(fc.record({ device: fc.constantFrom('a', 'b'), comment: words, why: words, line: words }), { maxLength: 5 })
    .map((all) =>
      all.map(({ device, comment, why, line }): RemediationItem => ({
        benchmark: 'b',
        rule: 'r',
        title: 'T',
        topic: 'P',
        severity: 'low',
        device,
        outcome: 'fail',
        wanted: [line],
        there: [line],
        type: line.split('\n'),
        words: '',
        why,
        risk: 'none',
        comment,
        done: null,
      })),
    )

  it('CSV reads back as it was, and no cell is a formula', () => {
    fc.assert(
      fc.property(items, (all) => {
        const { data } = papaparse.parse<Record<string, string>>(writeChangeLogCsv(all).trimEnd(), { header: true })
        const cell = (text: string): string => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text)
        expect(data.map(({ device, why, type }) => [device, why, type])).to.deep.equal(
          all.map(({ device, why, type }) => [device, cell(why), cell(type.join('\n'))]),
        )
      }),
    )
  })

  it('Markdown has a box for each item, and nothing that is quoted makes another', () => {
    fc.assert(
      fc.property(items, (all) => {
        // CommonMark 0.31 §4.5: what is fenced is no markup; §2.4: an escaped mark is none.
        let fence = ''
        const outside = writeChangeLogMarkdown(all, 'Log')
          .split('\n')
          .filter((line) => {
            const run = /^ {2}(`{3,})$/.exec(line)?.[1] ?? ''
            if (fence === '' && run !== '') fence = run
            else if (fence !== '' && run.length >= fence.length) fence = ''
            else return fence === ''
            return false
          })
        expect(fence).to.equal('')
        expect(outside.filter((line) => /^\s*[-+*] /.test(line))).to.have.length(all.length)
        expect(outside.filter((line) => /^\s*#{1,6} /.test(line))).to.have.length(
          1 + new Set(all.map(({ device }) => device)).size * 2,
        )
      }),
    )
  })
})

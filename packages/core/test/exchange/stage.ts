import fc from 'fast-check'
import type { AuditDocument, Verdict } from '../../src/index.ts'
import { countVerdicts } from '../../src/audit/index.ts'
import type { BenchmarkSource, Framework } from '../../src/benchmarks/index.ts'
import type { FindingMark, Told } from '../../src/exchange/index.ts'
import { benchmarkTexts, frameworks } from '../../../content/src/index.ts'
import { readBenchmark } from '../../src/index.ts'

export const source: BenchmarkSource = readBenchmark(benchmarkTexts()[0]?.text ?? '').source
/** Short enough to be read where a test fails. */
export const brief: BenchmarkSource = {
  ...source,
  rules: source.rules.slice(0, 6).map((rule) => ({ ...rule, examples: [], also: [] })),
}
export const shipped: readonly Framework[] = frameworks()
export const AT = '2026-11-24T10:00:00.000Z'

/** Texts as they come: with marks of XML, quotes, line breaks, letters of every kind and none. */
export const anyText = fc.oneof(
  fc.string({ maxLength: 40 }),
  fc.constantFrom('<&>"\'', ' a  b\n\tc ', ']]>', 'ß😀', '\u0001'),
)
const outcomes = ['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked'] as const

/** Audits of the shipped benchmark on invented devices, each verdict once. */
export const audits: fc.Arbitrary<Told> = fc
  .tuple(
    fc.uniqueArray(fc.stringMatching(/^[a-z][a-z0-9 .-]{0,8}$/), { minLength: 1, maxLength: 3 }),
    fc.uniqueArray(fc.constantFrom(...brief.rules), { minLength: 1, maxLength: 4, selector: ({ id }) => id }),
    fc.array(fc.tuple(fc.constantFrom(...outcomes), anyText), { minLength: 12, maxLength: 12 }),
    fc.array(
      fc.option(
        fc.record<FindingMark>({
          owner: fc.constantFrom(null, 'Isolde Wren'),
          due: fc.constantFrom(null, '2026-12-24'),
          comment: fc.constantFrom('', 'Ordered <soon> & “then”'),
          done: fc.boolean(),
        }),
      ),
      { minLength: 12, maxLength: 12 },
    ),
  )
  .map(([devices, rules, said, marked]) => {
    const marks = new Map<string, FindingMark>()
    const verdicts = devices.flatMap((device, i) =>
      rules.map((rule, j): Verdict => {
        const [outcome, note] = said[4 * i + j] ?? ['pass', '']
        const mark = marked[4 * i + j]
        if (mark) marks.set(`${source.id} ${rule.id} ${device}`, mark)
        return {
          ...{ device, benchmark: source.id, rule: rule.id, outcome, severity: rule.severity, branch: 'b', note },
          ...{ subjects: [], missing: [], extra: [], remedy: { words: 'Mend it.' }, values: [] },
          exhibits: [{ record: `${i}`, from: 1, to: 2, text: note }],
          references: [...rule.references],
        }
      }),
    )
    const document: AuditDocument = {
      schema: 1,
      build: 'test',
      benchmarks: [
        { id: source.id, title: source.title, version: source.version, profile: source.profiles[0]?.id ?? '' },
      ],
      snapshot: { title: 'November', takenAt: AT },
      devices: devices.map((name) => ({ name, dialect: 'indented', lines: 1, unread: 0 })),
      records: devices.map((device, i) => ({
        ...{
          id: `${i}`,
          device,
          kind: 'config',
          path: `${device}/config.txt`,
          fingerprint: 'f',
          takenAt: AT,
          timeSource: 'x',
        },
      })),
      ...{
        refused: [],
        verdicts,
        attested: [],
        expected: [],
        tailored: [],
        scores: [],
        counts: countVerdicts(verdicts),
      },
    }
    return { document, benchmarks: [brief], title: 'Audit', madeAt: AT, marks }
  })

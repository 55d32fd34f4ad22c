/** Findings for registers of risks: a row each, in columns of our own (docs/formats/exchange.md). */
import { isFinding } from '../audit/index.ts'
import { csvOf } from '../syntax/index.ts'
import { findingKey } from './marks.ts'
import type { Told } from './oscal-results.ts'
import { idOf } from './uuid.ts'

const COLUMNS = [
  'Finding ID',
  'Title',
  'Description',
  'Severity',
  'Status',
  'Asset',
  'Control references',
  'Evidence',
  'Recommendation',
  'Owner',
  'Due date',
  'Identified',
  'Source',
] as const

export function writeGrc({ document, benchmarks, marks }: Told): string {
  const titles = new Map(
    benchmarks.flatMap(({ id, rules }) => rules.map((rule) => [`${id} ${rule.id}`, rule.title] as const)),
  )
  const expected = new Map(document.expected.map(({ rule, title }) => [rule, title]))
  const paths = new Map(document.records.map(({ id, path }) => [id, path]))
  return csvOf(
    COLUMNS,
    [...document.verdicts, ...document.expected]
      .filter(({ outcome }) => isFinding(outcome))
      .map((verdict) => {
        const mark = marks.get(findingKey(verdict))
        const { remedy } = verdict
        return [
          // The same finding has the same number from audit to audit.
          idOf('grc', findingKey(verdict)),
          titles.get(`${verdict.benchmark} ${verdict.rule}`) ?? expected.get(verdict.rule) ?? verdict.rule,
          verdict.note,
          verdict.severity,
          verdict.waived
            ? 'Risk accepted'
            : mark?.done
              ? 'Remediated, not verified'
              : verdict.outcome === 'fail'
                ? 'Open'
                : 'Not decided',
          verdict.device,
          verdict.references.join('; '),
          verdict.exhibits
            .slice(0, 20)
            .map(({ record, from, to }) => `${paths.get(record) ?? record}:${from}${to === from ? '' : `-${to}`}`)
            .join('; '),
          remedy === null ? '' : 'words' in remedy ? remedy.words : remedy.commands.join('\n'),
          mark?.owner ?? '',
          mark?.due ?? '',
          document.snapshot.takenAt?.slice(0, 10) ?? '',
          `${verdict.benchmark}/${verdict.rule}`,
        ]
      }),
  )
}

/** Findings for registers of risks: a row each, in columns of our own (docs/formats/exchange.md). */
import { isFinding, remedyText } from '../audit/index.ts'
import { csvOf } from '../syntax/index.ts'
import { findingKey } from './marks.ts'
import { titlesIn, verdictsIn, type Told } from './told.ts'
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

export function writeGrc(told: Told): string {
  const { document, marks } = told
  const titleOf = titlesIn(told)
  const paths = new Map(document.records.map(({ id, path }) => [id, path]))
  return csvOf(
    COLUMNS,
    verdictsIn(told)
      .filter(({ outcome }) => isFinding(outcome))
      .map((verdict) => {
        const mark = marks.get(findingKey(verdict))
        return [
          // The same finding has the same number from audit to audit.
          idOf('grc', findingKey(verdict)),
          titleOf(verdict),
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
          remedyText(verdict.remedy),
          mark?.owner ?? '',
          mark?.due ?? '',
          document.snapshot.takenAt?.slice(0, 10) ?? '',
          `${verdict.benchmark}/${verdict.rule}`,
        ]
      }),
  )
}

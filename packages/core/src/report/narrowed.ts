/** A report on a part of an audit: some devices, or some topics. */
import { countVerdicts, type AuditDocument } from '../audit/index.ts'

export interface ReportLimit {
  /** Names of devices; null: all. */
  readonly devices: ReadonlySet<string> | null
  /** Whether a rule of a benchmark is within it; null: all are. */
  readonly holdsRule: ((benchmark: string, rule: string) => boolean) | null
  /** What it is limited to, in words. */
  readonly words: string
}

/**
 * The part of an audit that a report is on, with counts of its own. Expectations of traffic and answers of people are
 * of the network as a whole: they stay, unless it is limited by topics. Scores are of whole benchmarks: they go.
 */
export function narrowed(document: AuditDocument, { devices, holdsRule, words }: ReportLimit): AuditDocument {
  const isOf = (name: string): boolean => devices === null || devices.has(name)
  const verdicts = document.verdicts.filter(
    ({ device, benchmark, rule }) => isOf(device) && (holdsRule === null || holdsRule(benchmark, rule)),
  )
  const cited = new Set(verdicts.flatMap(({ exhibits }) => exhibits.map(({ record }) => record)))
  const expected = holdsRule === null ? document.expected : []
  return {
    ...document,
    limitedTo: [document.limitedTo, words].filter((one) => one !== undefined).join('; '),
    devices: document.devices.filter(({ name }) => isOf(name)),
    records: document.records.filter(({ device, id }) => isOf(device) || cited.has(id)),
    verdicts,
    expected,
    attested: document.attested.filter(({ benchmark, id }) => holdsRule === null || holdsRule(benchmark, id)),
    scores: [],
    counts: countVerdicts(verdicts, document.counts.notselected),
  }
}

import type { AuditDocument, Verdict } from '../audit/index.ts'
import type { BenchmarkSource } from '../benchmarks/index.ts'
import type { FindingMarks } from './marks.ts'

/** What an audit is told with. */
export interface Told {
  readonly document: AuditDocument
  /** Those by which was judged. */
  readonly benchmarks: readonly BenchmarkSource[]
  readonly title: string
  /** RFC 3339. */
  readonly madeAt: string
  readonly marks: FindingMarks
}

/** Verdicts of rules, and of expectations of traffic. */
export const verdictsIn = ({ document }: Told): Verdict[] => [...document.verdicts, ...document.expected]

/** The title of the rule or expectation that a verdict is of, by its name where nothing is known of it. */
export function titlesIn({ benchmarks, document }: Told): (verdict: Pick<Verdict, 'benchmark' | 'rule'>) => string {
  const titles = new Map([
    ...document.expected.map(({ benchmark, rule, title }) => [`${benchmark} ${rule}`, title] as const),
    ...benchmarks.flatMap(({ id, rules }) => rules.map((rule) => [`${id} ${rule.id}`, rule.title] as const)),
  ])
  return ({ benchmark, rule }) => titles.get(`${benchmark} ${rule}`) ?? rule
}

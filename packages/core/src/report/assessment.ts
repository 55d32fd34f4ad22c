import type { AuditDocument } from '../audit/index.ts'
import { coverageOf, type BenchmarkSource, type Framework } from '../benchmarks/index.ts'
import { requirementScore, type RequirementScore } from './requirement-score.ts'

/**
 * How an audit answers a requirement. `met`: everything that decides it passes, and nothing is left for a person;
 * `not-met`: something that speaks to it fails; `undecided`: something could not be decided, or a person has to judge
 * the rest; `not-assessed`: nothing in this audit speaks to it.
 */
export type Assessed = 'met' | 'not-met' | 'undecided' | 'not-assessed'

export const ASSESSED_WORDS: Readonly<Record<Assessed, string>> = {
  met: 'met',
  'not-met': 'not met',
  undecided: 'undecided',
  'not-assessed': 'not assessed',
}

export interface AssessedRequirement {
  readonly requirement: string
  readonly title: string
  readonly part: string
  readonly answer: Assessed
  /** Why it is not met, undecided or not assessed; empty where it is met. */
  readonly why: string
  /** Rules that were judged, questions that were put, and expectations that were checked. */
  readonly rules: readonly string[]
  readonly attestations: readonly string[]
  readonly expectations: readonly string[]
  readonly fail: number
  readonly undecided: number
  readonly pass: number
}

export interface Assessment {
  readonly framework: string
  readonly title: string
  readonly requirements: readonly AssessedRequirement[]
  readonly counts: Readonly<Record<Assessed, number>>
  /** Null where the framework makes no number of its requirements. */
  readonly score: RequirementScore | null
}

/** Every requirement of a framework with the answer of an audit. Waived findings are findings: the waiver is told. */
export function assess(
  document: Pick<AuditDocument, 'verdicts' | 'expected' | 'attested'>,
  benchmarks: readonly BenchmarkSource[],
  framework: Framework,
): Assessment {
  const judged = byId(document.verdicts.map(({ rule, outcome, waived }) => ({ id: rule, outcome, waived })))
  const checked = byId(document.expected.map(({ rule, outcome, waived }) => ({ id: rule, outcome, waived })))
  const answered = byId(document.attested.map(({ id, outcome }) => ({ id, outcome, waived: undefined })))
  const covered = coverageOf(
    benchmarks,
    [framework],
    document.expected.map(({ rule, references }) => ({ id: rule, references })),
  )
  const requirements = covered.map((line): AssessedRequirement => {
    const rules = line.rules.filter((id) => judged.has(id))
    const attestations = line.attestations.filter((id) => answered.has(id))
    const expectations = line.expectations.filter((id) => checked.has(id))
    const all = [
      ...rules.flatMap((id) => judged.get(id) ?? []),
      ...expectations.flatMap((id) => checked.get(id) ?? []),
      ...attestations.flatMap((id) => answered.get(id) ?? []),
    ]
    const count = (...outcomes: readonly string[]): number =>
      all.filter(({ outcome }) => outcomes.includes(outcome)).length
    const open = attestations.filter((id) => answered.get(id)?.some(({ outcome }) => outcome === 'notchecked'))
    const [fail, undecided, pass] = [count('fail'), count('unknown', 'error') + open.length, count('pass')]
    const waived = all.filter((one) => one.waived !== undefined).length
    const isAnswered = attestations.length > 0 && open.length === 0
    return {
      requirement: line.requirement,
      title: line.title,
      part: line.part,
      ...answerOf({
        fail,
        waived,
        undecided,
        pass,
        open: open.length,
        // Rules alone decide what a machine can decide; else a person has to have answered.
        isWhole: line.coverage === 'machine' || isAnswered,
        isOutside: line.coverage === 'outside',
      }),
      rules,
      attestations,
      expectations,
      fail,
      undecided,
      pass,
    }
  })
  const counts = { met: 0, 'not-met': 0, undecided: 0, 'not-assessed': 0 }
  for (const { answer } of requirements) counts[answer]++
  const score = framework.scoring ? requirementScore(requirements, framework.scoring) : null
  return { framework: framework.id, title: framework.title, requirements, counts, score }
}

interface Found {
  readonly fail: number
  readonly waived: number
  readonly undecided: number
  readonly pass: number
  readonly open: number
  readonly isWhole: boolean
  readonly isOutside: boolean
}

function answerOf(found: Found): Pick<AssessedRequirement, 'answer' | 'why'> {
  const { fail, waived, undecided, pass, open, isWhole, isOutside } = found
  if (fail > 0)
    return { answer: 'not-met', why: `${fail} failed${waived > 0 ? `, ${waived} of the findings waived` : ''}` }
  if (undecided > 0)
    return {
      answer: 'undecided',
      why: [
        undecided > open ? `${undecided - open} could not be decided` : '',
        open > 0 ? `${open} ${open === 1 ? 'question is' : 'questions are'} not answered` : '',
      ]
        .filter(Boolean)
        .join(', '),
    }
  if (pass === 0) return { answer: 'not-assessed', why: isOutside ? 'outside the network' : 'nothing here assesses it' }
  return isWhole ? { answer: 'met', why: '' } : { answer: 'undecided', why: 'a person must judge the rest' }
}

function byId<T extends { readonly id: string }>(all: readonly T[]): ReadonlyMap<string, readonly T[]> {
  const found = new Map<string, T[]>()
  for (const one of all) found.set(one.id, [...(found.get(one.id) ?? []), one])
  return found
}

/** Rules and questions of a benchmark that speak to some requirement of a framework, also by one that asks the same. */
export function citing(
  { rules, attestations }: Pick<BenchmarkSource, 'rules' | 'attestations'>,
  framework: Framework,
): { readonly rules: readonly string[]; readonly attestations: readonly string[] } {
  const wanted = new Set(
    Object.entries(framework.requirements).flatMap(([number, { same }]) => [`${framework.id}:${number}`, ...same]),
  )
  const ids = (all: readonly { readonly id: string; readonly references: readonly string[] }[]): string[] =>
    all.filter(({ references }) => references.some((one) => wanted.has(one))).map(({ id }) => id)
  return { rules: ids(rules), attestations: ids(attestations) }
}

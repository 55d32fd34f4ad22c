import type { AuditDocument } from '../audit/index.ts'
import { coverageOf, type BenchmarkSource, type Framework, type RequirementAnswer } from '../benchmarks/index.ts'
import { requirementScore, type RequirementScore } from './requirement-score.ts'

/**
 * How an audit answers a requirement. `met`: everything that decides it passes, and nothing is left for a person;
 * `not-met`: something that speaks to it fails; `partly`: what was judged passes, and a person must judge the rest;
 * `undecided`: something could not be decided, or a question is not answered; `not-applicable`: all that decides it
 * says so; `not-assessed`: nothing in this audit speaks to it; `outside`: nothing of a network can speak to it.
 */
export const ASSESSED_WORDS = {
  met: 'met',
  'not-met': 'not met',
  partly: 'partly',
  undecided: 'undecided',
  'not-applicable': 'not applicable',
  'not-assessed': 'not assessed',
  outside: 'outside',
} as const satisfies Readonly<Record<RequirementAnswer, string>>
export type Assessed = RequirementAnswer

/** The answer in the words of the framework, where it has words of its own for reports on it. */
export function answerWords({ words }: Pick<Assessment, 'words'>, answer: Assessed): string {
  return words[answer] ?? ASSESSED_WORDS[answer]
}

/** `12 In place`: how many requirements have which answer, in the words of the framework; equal words count as one. */
export function answerCounts(assessment: Pick<Assessment, 'words' | 'counts'>): string[] {
  const sums = new Map<string, number>()
  for (const [answer, count] of Object.entries(assessment.counts)) {
    const words = answerWords(assessment, answer as Assessed)
    sums.set(words, (sums.get(words) ?? 0) + count)
  }
  return [...sums].map(([words, count]) => `${count} ${words}`)
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
  /** What the framework calls an answer in reports on it; ours where it is silent. */
  readonly words: Readonly<Partial<Record<Assessed, string>>>
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
        notApplicable: count('notapplicable'),
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
  const counts = Object.fromEntries(Object.keys(ASSESSED_WORDS).map((one) => [one, 0])) as Record<Assessed, number>
  for (const { answer } of requirements) counts[answer]++
  const score = framework.scoring ? requirementScore(requirements, framework.scoring) : null
  return { framework: framework.id, title: framework.title, requirements, counts, words: framework.answers, score }
}

interface Found {
  readonly fail: number
  readonly waived: number
  readonly undecided: number
  readonly pass: number
  readonly notApplicable: number
  readonly open: number
  readonly isWhole: boolean
  readonly isOutside: boolean
}

function answerOf(found: Found): Pick<AssessedRequirement, 'answer' | 'why'> {
  const { fail, waived, undecided, pass, notApplicable, open, isWhole, isOutside } = found
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
  if (pass > 0) return isWhole ? { answer: 'met', why: '' } : { answer: 'partly', why: 'a person must judge the rest' }
  if (notApplicable > 0 && isWhole) return { answer: 'not-applicable', why: '' }
  if (notApplicable > 0) return { answer: 'undecided', why: 'a person must judge the rest' }
  return isOutside ? { answer: 'outside', why: '' } : { answer: 'not-assessed', why: 'nothing here assesses it' }
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

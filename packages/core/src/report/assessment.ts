import type { AuditDocument } from '../audit/index.ts'
import {
  coverageOf,
  requirementAnswers,
  type BenchmarkSource,
  type Framework,
  type RequirementAnswer,
} from '../benchmarks/index.ts'
import type { Say } from './messages/index.ts'
import { requirementScore, type RequirementScore } from './requirement-score.ts'

/**
 * How an audit answers a requirement. `met`: everything that decides it passes, and nothing is left for a person;
 * `not-met`: something that speaks to it fails; `partly`: what was judged passes, and a person must judge the rest;
 * `undecided`: something could not be decided, or a question is not answered; `not-applicable`: all that decides it
 * says so; `not-assessed`: nothing in this audit speaks to it; `outside`: nothing of a network can speak to it.
 */
export type Assessed = RequirementAnswer

/** The answer in the words of the framework, where it has words of its own for reports on it. */
export function answerWords({ words }: Pick<Assessment, 'words'>, answer: Assessed, say: Say): string {
  return words[answer] ?? say(`answer.${answer}`)
}

/** `12 In place`: how many requirements have which answer, in the words of the framework; equal words count as one. */
export function answerCounts(assessment: Pick<Assessment, 'words' | 'counts'>, say: Say): string[] {
  const sums = new Map<string, number>()
  for (const answer of requirementAnswers) {
    const words = answerWords(assessment, answer, say)
    sums.set(words, (sums.get(words) ?? 0) + assessment.counts[answer])
  }
  return [...sums].map(([words, count]) => `${count} ${words}`)
}

/** Why a requirement has its answer. `count`: failed, waived, undecided or unanswered ones; 0 for the others. */
export interface AnswerReason {
  readonly code: 'failed' | 'waived' | 'undecided' | 'unanswered' | 'person' | 'none'
  readonly count: number
}

export function reasonWords(reasons: readonly AnswerReason[], say: Say): string {
  return reasons.map(({ code, count }) => say(`why.${code}`, {}, count)).join(', ')
}

export interface AssessedRequirement {
  readonly requirement: string
  readonly title: string
  readonly part: string
  readonly answer: Assessed
  /** Why it is not met, undecided or not assessed; empty where it is met. */
  readonly why: readonly AnswerReason[]
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
  const counts = Object.fromEntries(requirementAnswers.map((one) => [one, 0])) as Record<Assessed, number>
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
  const why = (code: AnswerReason['code'], count = 0): AnswerReason => ({ code, count })
  if (fail > 0) return { answer: 'not-met', why: [why('failed', fail), ...(waived > 0 ? [why('waived', waived)] : [])] }
  if (undecided > 0)
    return {
      answer: 'undecided',
      why: [
        ...(undecided > open ? [why('undecided', undecided - open)] : []),
        ...(open > 0 ? [why('unanswered', open)] : []),
      ],
    }
  if (pass > 0) return isWhole ? { answer: 'met', why: [] } : { answer: 'partly', why: [why('person')] }
  if (notApplicable > 0 && isWhole) return { answer: 'not-applicable', why: [] }
  if (notApplicable > 0) return { answer: 'undecided', why: [why('person')] }
  return isOutside ? { answer: 'outside', why: [] } : { answer: 'not-assessed', why: [why('none')] }
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

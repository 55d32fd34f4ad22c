/** What the evidence so far comes to by the method of a framework; what nobody has looked at leaves it open. */
import { weightOf, type RequirementAnswer, type Scoring } from '../benchmarks/index.ts'
import type { Say } from './messages/index.ts'

/** A requirement with its answer. */
interface Answered {
  readonly requirement: string
  readonly title: string
  readonly answer: RequirementAnswer
}

export interface LostPoints {
  readonly requirement: string
  readonly title: string
  readonly most: number
  readonly least: number
}

export interface RequirementScore {
  readonly method: string
  readonly of: number
  /** If all that is open were met, and if none of it were. */
  readonly most: number
  readonly least: number
  readonly lost: readonly LostPoints[]
  /** Requirements that are undecided or that nothing here assesses: what they may still lose. */
  readonly open: number
  readonly openPoints: number
  /** Required ones that are not met, undecided or not assessed: without them there is no score to report. */
  readonly required: readonly string[]
  /** What keeps a plan of action from being accepted, of what is known. */
  readonly plan: {
    readonly days: number
    readonly least: number
    /** Requirements that are not met and that no plan may leave open. */
    readonly never: readonly string[]
  }
}

export function requirementScore(requirements: readonly Answered[], scoring: Scoring): RequirementScore {
  const weighed = requirements.map((line) => ({ ...line, ...weightOf(scoring, line.requirement) }))
  const lost = weighed.filter(({ answer }) => answer === 'not-met')
  // What does not apply is met by the published methods: it costs nothing.
  const open = weighed.filter(({ answer }) => !['met', 'not-met', 'not-applicable'].includes(answer))
  const sum = (lines: readonly { readonly most: number; readonly least: number }[], of: 'most' | 'least'): number =>
    lines.reduce((all, line) => all + line[of], 0)
  const { never, most, most_for: mostFor, least, days } = scoring.plan
  return {
    method: scoring.method,
    of: scoring.from,
    most: scoring.from - sum(lost, 'least'),
    least: scoring.from - sum(lost, 'most') - sum(open, 'most'),
    lost: lost
      .map(({ requirement, title, most: points, least: fewest }) => ({
        requirement,
        title,
        most: points,
        least: fewest,
      }))
      .filter((line) => line.most > 0)
      .sort((a, b) => b.most - a.most),
    open: open.length,
    openPoints: sum(open, 'most'),
    required: weighed
      .filter(
        ({ requirement, answer }) =>
          scoring.required.includes(requirement) && answer !== 'met' && answer !== 'not-applicable',
      )
      .map(({ requirement }) => requirement),
    plan: {
      days,
      least,
      never: lost
        .filter(
          ({ requirement, least: points }) => never.includes(requirement) || points > (mostFor[requirement] ?? most),
        )
        .map(({ requirement }) => requirement),
    },
  }
}

/** In sentences, never as a number alone: it is what the evidence of the network says so far. */
export function scoreWords(score: RequirementScore, say: Say): string[] {
  const { method, of, most, least, lost, open, openPoints, required, plan } = score
  return [
    most === least ? say('score.sure', { method, most, of }) : say('score.between', { method, least, most, of }),
    lost.length === 0
      ? say('score.noneLost')
      : say('score.lost', {
          lost: lost
            .map((one) => say(one.most === one.least ? 'score.lostSure' : 'score.lostBetween', { ...one }))
            .join(', '),
        }),
    ...(open === 0 ? [] : [say('score.open', { points: openPoints }, open)]),
    ...(required.length === 0 ? [] : [say('score.required', { requirements: required.join(', ') })]),
    most < plan.least
      ? say('score.planLost', { least: plan.least })
      : say('score.plan', { least: plan.least, days: plan.days }),
    ...(plan.never.length === 0 ? [] : [say('score.planNever', { requirements: plan.never.join(', ') })]),
  ]
}

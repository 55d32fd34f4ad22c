import { NOTHING } from '../../../headers/index.ts'
import { some, type Answer, type Question } from './question.ts'

/** That every packet arrives. */
export function arrive(question: Question): Answer {
  const { parts } = question.walk()
  const lost = question.of(
    parts,
    ...(['stopped', 'loops', 'leaves'] as const).filter((fate) => !question.there.includes(fate)),
  )
  const reasons = [
    ...new Set(
      parts
        .filter(({ fate }) => fate !== 'undecided' && !question.there.includes(fate))
        .map(({ fate, device, reason }) => `${fate} at ${device}: ${reason.words}`),
    ),
  ]
  if (lost !== NOTHING)
    return question.outcome('violated', `some do not arrive: ${some(reasons)}`, [], lost, [
      'stopped',
      'loops',
      'leaves',
    ])
  return question.held(parts, 'all packets arrive')
}

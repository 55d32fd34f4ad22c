import { NOTHING } from '../../../headers/index.ts'
import type { Walked } from '../../engine/walked.ts'
import type { Answer, Question } from './question.ts'
import { partsOf } from '../reach.ts'

/** Choices of devices that are taken out to see whether packets have paths that share none. */
const MOST_TRIES = 5_000

/**
 * Whichever devices are taken out, one fewer than paths, everything must still arrive (Menger's theorem, of each
 * packet). Only devices that some packets come by are taken out, and only those packets are asked about then.
 */
export function paths(question: Question, count: number): Answer {
  const { diagrams } = question.network.addressed
  const whole = question.walk()
  const lost = diagrams.minus(question.asked.set, question.of(whole.parts, ...question.there))
  const undecided = question.of(whole.parts, 'undecided')
  if (lost !== NOTHING && undecided === NOTHING)
    return question.outcome('violated', 'some do not arrive at all', [], lost, ['stopped', 'loops'])
  const ends = new Set([
    ...question.asked.origins.map(({ device }) => device),
    ...whole.walked.endings.filter(({ fate }) => question.there.includes(fate)).map(({ device }) => device),
  ])
  let tries = 0
  const without = (
    out: readonly number[],
    set: number,
    { crossings }: Walked,
  ): { readonly out: readonly number[]; readonly cut: number } | null => {
    for (const device of new Set(crossings.flatMap(({ from, to }) => [from.device, to.device]))) {
      if (ends.has(device) || out.includes(device)) continue
      if (++tries > MOST_TRIES) return null
      const taken = [...out, device]
      const walked = question.walker.walk(question.begun(set), new Map(), new Set(taken))
      const parts = partsOf(question.network, walked.endings, set)
      const passing = question.of(
        parts.filter((part) => part.reason.code === 'taken' && part.device === question.network.devices[device]?.name),
        'arrives',
      )
      const cut = diagrams.minus(
        diagrams.minus(
          passing,
          question.of(
            parts.filter(({ reason }) => reason.code !== 'taken'),
            ...question.there,
          ),
        ),
        undecided,
      )
      if (cut !== NOTHING) return { out: taken, cut }
      const further = taken.length < count - 1 && passing !== NOTHING ? without(taken, passing, walked) : null
      if (further) return further
    }
    return null
  }
  const found = without([], question.asked.set, whole.walked)
  if (found)
    return question.outcome(
      'violated',
      `without ${found.out.map((device) => question.network.devices[device]?.name ?? '').join(' and ')} ` +
        'some have no path left',
      [],
      found.cut,
      question.there,
    )
  if (tries > MOST_TRIES)
    return question.outcome(
      'undecided',
      'there are too many devices on the way to remove so many of them in turn',
      [`fewer than ${MOST_TRIES} choices of devices`],
      question.asked.set,
      question.there,
    )
  return question.held(whole.parts, `there are ${count} paths or more that share no device`)
}

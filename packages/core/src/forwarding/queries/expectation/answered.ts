import { NOTHING, exampleOf } from '../../../headers/index.ts'
import { traceOf } from '../../engine/trace.ts'
import type { Fate } from '../../pipeline/fates.ts'
import { answersBack } from '../answers.ts'
import { arrive } from './arriving.ts'
import { broadcasts, outsideInterfaces, ownAddresses, placeOf } from '../places.ts'
import { isWide, some, type Answer, type Question } from './question.ts'
import { classed, outsideOf } from '../reach.ts'

/**
 * That packets arrive, and what answers them comes back: by whatever way, past devices that remember what they let
 * through.
 */
export function answered(question: Question): Answer {
  const there = arrive(question)
  if (there.outcome !== 'met') return there
  const { addressed, devices } = question.network
  // Whoever comes in from outside is reached by whichever way leads there.
  const outside = new Set(question.expectation.from.filter((from) => isOutside(question, from)))
  const homeOf = (from: string): readonly Fate[] => (outside.has(from) ? ['arrives', 'leaves'] : ['arrives'])
  // Nobody has the addresses of routers or broadcasts as a host of a subnet; and who comes from outside has none of
  // the estate.
  const nobody = addressed.diagrams.or(ownAddresses(question.network, 'source'), broadcasts(question.network, 'source'))
  const hostsOf = (from: string): number =>
    outside.has(from)
      ? addressed.exchanged(outsideOf(question.network))
      : addressed.diagrams.not(isWide(from) ? nobody : NOTHING)
  const all = question.asked.origins.map((origin) => {
    const set = addressed.diagrams.and(origin.addressed, hostsOf(origin.from))
    return answersBack(
      question.walker,
      { ...origin, addressed: set, set: classed(question.network, set) },
      question.there,
      homeOf(origin.from),
    )
  })
  const lost = addressed.any(all, (one) => one.lost)
  const undecided = addressed.any(all, (one) => one.undecided)
  const parts = all.flatMap((one, i) =>
    one.parts.map((part) => ({ ...part, home: homeOf(question.asked.origins[i]?.from ?? '') })),
  )
  const bad = parts.filter(({ fate, home }) => fate !== 'undecided' && !home.includes(fate))
  if (lost === NOTHING && undecided === NOTHING)
    return question.outcome('met', 'all packets arrive, and all replies return', [], NOTHING, [])
  if (lost === NOTHING)
    return question.outcome(
      'undecided',
      'all packets arrive; some replies are undecided',
      question.missing(parts),
      undecided,
      question.there,
    )
  const lostAt = new Set(bad.map(({ fate, device, reason }) => `${fate} at ${device}: ${reason.words}`))
  const words = `all packets arrive, but some replies do not return: ${some([...lostAt])}`
  const base = question.outcome('violated', words, [], lost, question.there)
  // What is shown is the answer: it is what gets lost.
  for (const { start, set, home } of bad) {
    const packet = exampleOf(addressed, set)
    const owner = devices[start.origin.device]
    if (!packet || !owner) continue
    const trace = traceOf(question.walker, start.origin.device, start.origin.port, packet, start.remembered)
    const path = trace.paths.find(({ fate }) => !home.includes(fate))
    const starts = bad.map((one) => ({
      origins: [{ ...one.start.origin, set: classed(question.network, one.set) }],
      remembered: one.start.remembered,
    }))
    return {
      ...base,
      example: { packet, at: owner.name, port: owner.interfaces[start.origin.port]?.name ?? null, trace },
      exhibits: question.cutting(starts, path),
    }
  }
  return base
}

/** Whether packets from a place come in from the world outside. */
function isOutside(question: Question, from: string): boolean {
  if (from === 'outside') return true
  const ports = new Set(outsideInterfaces(question.network).map(([device, port]) => `${device} ${port}`))
  const { origins } = placeOf(question.network, from)
  return origins.length > 0 && origins.every(({ device, port }) => ports.has(`${device} ${port}`))
}

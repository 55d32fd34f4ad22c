import { NOTHING } from '../../../headers/index.ts'
import { layersOf } from '../../engine/protection.ts'
import type { Crossing, Walked } from '../../engine/walked.ts'
import { some, type Answer, type Question } from './question.ts'
import { partsOf, type ReachPart } from '../reach.ts'

/** That every link on the way protects what goes over it. */
export function protectedOnTheWay(
  question: Question,
  {
    by,
    algorithms,
    between,
  }: { by: readonly string[]; algorithms: readonly string[]; between?: readonly [string, string] | undefined },
): Answer {
  const { walked, parts } = question.walk()
  // Whatever becomes of what has left: it left as it was.
  const left = leftBare(question, walked, by, algorithms)
  const arrives = question.network.addressed.diagrams.or(
    question.of(parts, ...question.there),
    question.network.addressed.any(left, ({ set }) => set),
  )
  if (arrives === NOTHING) return question.nothing(parts)
  const crossings = between ? crossingsBetween(question, between) : walked.crossings
  const bare = crossings.filter(
    ({ from, by: map }) => !isProtected(question, from.device, from.port, map, by, algorithms),
  )
  const { diagrams } = question.network.addressed
  const open = diagrams.and(
    arrives,
    question.network.addressed.any(bare, ({ set }) =>
      diagrams.and(
        question.network.headers.expand(set, question.network.addressed, question.asked.set),
        question.asked.set,
      ),
    ),
  )
  const gone = question.network.addressed.any(left, ({ set }) => set)
  if (gone !== NOTHING && question.asked.toOutside === false) {
    return question.outcome(
      'violated',
      'some leave the estate without this protection through ' +
        `${some([...new Set(left.map(({ device, port }) => `${device} ${port ?? ''}`))])}`,
      [],
      gone,
      ['leaves'],
    )
  }
  const where = [
    ...new Set(
      bare.map(
        ({ from, to }) =>
          `${question.network.devices[from.device]?.name ?? ''} to ${question.network.devices[to.device]?.name ?? ''}`,
      ),
    ),
  ]
  if (open !== NOTHING)
    return question.outcome(
      'violated',
      `some are sent without this protection from ${some(where)}`,
      [],
      open,
      question.there,
      bare.flatMap(({ from, by: map }) =>
        layersOf(question.network, from.device, from.port, map).flatMap(({ exhibits }) => exhibits),
      ),
    )
  return question.held(parts, 'every link on the path is protected')
}

function isProtected(
  question: Question,
  device: number,
  port: number,
  map: number,
  by: readonly string[],
  algorithms: readonly string[],
): boolean {
  return layersOf(question.network, device, port, map).some(
    (layer) =>
      by.includes(layer.kind) &&
      (algorithms.length === 0 ||
        layer.algorithms.some((name) => algorithms.some((wanted) => name.includes(wanted.toLowerCase())))),
  )
}

/** Packets that are handed to the world outside without protection. */
function leftBare(
  question: Question,
  { endings }: Walked,
  by: readonly string[],
  algorithms: readonly string[],
): readonly ReachPart[] {
  return partsOf(
    question.network,
    endings.filter(
      ({ fate, device, port }) => fate === 'leaves' && !isProtected(question, device, port, -1, by, algorithms),
    ),
    question.asked.set,
  )
}

/** The crossings on the way from one device to another. */
function crossingsBetween(question: Question, [from, to]: readonly [string, string]): readonly Crossing[] {
  const [first, last] = [question.devicesOf([from]), question.devicesOf([to])]
  const taken = question.walker
    .walk(question.asked.origins, new Map(), first)
    .endings.filter(({ reason }) => reason.code === 'taken')
  return question.walker.walk(
    taken.map(({ device, port, ended }) => ({ device, port, set: ended })),
    new Map(),
    last,
  ).crossings
}

import { NOTHING } from '../../headers/index.ts'
import { CoreError } from '../../syntax/index.ts'
import { answered } from './expectation/answered.ts'
import { arrive } from './expectation/arriving.ts'
import type { Expectation } from './expectations.ts'
import { paths } from './expectation/paths.ts'
import { protectedOnTheWay } from './expectation/protected.ts'
import { Question, some, type Answer, type ExpectationAnswer } from './expectation/question.ts'
import type { Walker } from '../engine/walk.ts'

/** Answers an expectation of a network. Never throws: what cannot be asked is undecided, in words. */
export function answerTo(walker: Walker, expectation: Expectation): ExpectationAnswer {
  try {
    const question = new Question(walker, expectation)
    return { ...answer(question), picture: question.picture() }
  } catch (error) {
    if (!(error instanceof CoreError)) throw error
    return {
      id: expectation.id,
      outcome: 'undecided',
      words: error.message,
      missing: [error.message],
      packets: null,
      example: null,
      exhibits: [],
      picture: null,
    }
  }
}

function answer(question: Question): Answer {
  const { must } = question.expectation
  if (question.asked.set === NOTHING)
    return question.outcome(
      'undecided',
      'no packets match: nothing starts there, or nothing fits the filter',
      ['packets that fit'],
      NOTHING,
      [],
    )
  if (must === 'arrive') return arrive(question)
  if (must === 'not-arrive') return notArrive(question)
  if (must === 'be-answered') return answered(question)
  if ('pass-through' in must) return through(question, must['pass-through'], true)
  if ('never-through' in must) return through(question, must['never-through'], false)
  if ('paths' in must) return paths(question, must.paths)
  return protectedOnTheWay(question, must.protected)
}

function notArrive(question: Question): Answer {
  const { parts } = question.walk()
  const there = question.of(parts, ...question.there)
  const where = [
    ...new Set(
      parts
        .filter(({ fate }) => question.there.includes(fate))
        .map(({ device, port }) => `${device}${port === null ? '' : ` ${port}`}`),
    ),
  ]
  if (there !== NOTHING)
    return question.outcome('violated', `some arrive through ${some(where)}`, [], there, question.there)
  return question.held(parts, 'none arrive')
}

function through(question: Question, names: readonly string[], mustPass: boolean): Answer {
  const taken = question.devicesOf(names)
  const { parts } = question.walk(taken)
  const passing = question.of(
    parts.filter(({ reason }) => reason.code === 'taken'),
    'arrives',
  )
  const around = question.of(
    parts.filter(({ reason }) => reason.code !== 'taken'),
    ...question.there,
  )
  if (mustPass && passing === NOTHING && around === NOTHING) return question.nothing(parts)
  if (mustPass && around !== NOTHING)
    return question.outcome(
      'violated',
      `some arrive without passing ${names.join(' or ')}`,
      [],
      around,
      question.there,
      [],
      taken,
    )
  if (!mustPass && passing !== NOTHING)
    return question.outcome('violated', `some pass ${names.join(' or ')}`, [], passing, [], [], taken)
  return question.held(
    parts,
    mustPass ? `all that arrive pass ${names.join(' or ')}` : `none pass ${names.join(' or ')}`,
  )
}

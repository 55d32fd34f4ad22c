/** Questions that rest on more than one device: all devices answer them first, then each is judged by the answers. */
import { Finding, type CitedRange } from './evidence.ts'
import { LINKS_KEY, elements, shown, whereKey, type StatedLines, type ValueAnswer, type WhereAnswer } from './estate.ts'
import { compileExpression } from './expression.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { linkEndsOf } from './link-ends.ts'
import { pathsIn, placesOf, valuesAt } from './model-fields.ts'
import { namesOf } from './names.ts'

/** What every device of an estate is asked; the answer is plain data. */
export interface EstateQuestion {
  readonly key: string
  readonly ask: (device: JudgedDevice, values: Readonly<Record<string, unknown>>) => unknown
}

/** The ends of its links. */
export const LINKS: EstateQuestion = { key: LINKS_KEY, ask: (device) => linkEndsOf(device) }

/** The parts of an interface that both ends have to agree about, with the interface itself. */
const END_PARTS = ['', '.mtu', '.speed', '.duplex', '.switching', '.ospf', '.encryption', '.tunnel'] as const
export const LINKS_WHERE: EstateQuestion = {
  key: whereKey(LINKS_KEY),
  ask: (device): WhereAnswer =>
    Object.fromEntries(
      linkEndsOf(device).map(({ interface: name, path }) => [
        name,
        statedIn(
          device,
          END_PARTS.flatMap((part) => placesOf(device, `${path}${part}`, true)),
        ),
      ]),
    ),
}

function statedIn(device: JudgedDevice, places: readonly CitedRange[]): StatedLines[] {
  return places.map(({ record, from, to }) => ({ kind: device.kindOf(record), from, to }))
}

export function valueQuestion(source: string, among: string | undefined): EstateQuestion {
  const expression = compileExpression(source)
  const group = among === undefined ? null : compileExpression(among)
  return {
    key: JSON.stringify([source, among ?? null]),
    ask: (device, values): ValueAnswer => {
      const names = namesOf(device, values)
      return { among: group === null || group.evaluate(names) === true, value: plain(expression.evaluate(names)) }
    },
  }
}

/** Where the whole value stands, under its text. */
export function sameWhere(source: string, among: string | undefined): EstateQuestion {
  const question = valueQuestion(source, among)
  return {
    key: whereKey(question.key),
    ask: (device, values): WhereAnswer => {
      const { value } = question.ask(device, values) as ValueAnswer
      return {
        [shown(value)]: statedIn(
          device,
          pathsIn(source, { paths: {} }).flatMap((path) => placesOf(device, path)),
        ),
      }
    },
  }
}

/** Where each element stands. */
export function uniqueWhere(source: string): EstateQuestion {
  const question = valueQuestion(source, undefined)
  return {
    key: whereKey(question.key),
    ask: (device, values): WhereAnswer => {
      const { value } = question.ask(device, values) as ValueAnswer
      const places = whereStated(device, source, elements(value))
      return Object.fromEntries(Object.entries(places).map(([element, found]) => [element, statedIn(device, found)]))
    },
  }
}

/** By element of a value, the lines of a device that state it. */
export function whereStated(
  device: JudgedDevice,
  source: string,
  wanted: readonly string[],
): Record<string, CitedRange[]> {
  const found: Record<string, CitedRange[]> = Object.fromEntries(wanted.map((element) => [element, []]))
  const { model } = device.modelled()
  for (const path of pathsIn(source, { paths: {} })) {
    for (const [at, value] of valuesAt(model, path)) {
      const text = shown(value)
      if (Object.hasOwn(found, text)) found[text]?.push(...placesOf(device, at))
    }
  }
  return found
}

/** Lines of another device that state a value. */
export function placesOnOther(
  { device: { estate } }: EvaluationContext,
  question: string,
  device: string,
  value: string,
): CitedRange[] {
  return (estate?.where(whereKey(question), device, value) ?? []).map(({ kind, from, to }) => ({
    record: kind,
    from,
    to,
    device,
    absent: false,
  }))
}

export function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

/** The answer of a device to one question; empty where it cannot answer, which its own verdict then explains. */
export function askOne(
  { ask }: EstateQuestion,
  device: JudgedDevice,
  values: Readonly<Record<string, unknown>>,
): unknown[] {
  try {
    return [ask(device, values)]
  } catch {
    return []
  }
}

export function notAsked(context: EvaluationContext): Finding {
  return new Finding('unknown', () => context.whole(), { why: 'the other devices were not available' })
}

/** Other devices of which lines are shown. */
export const MOST_ON_OTHER = 10

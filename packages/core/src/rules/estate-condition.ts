/** Questions that rest on more than one device: all devices answer them first, then each is judged by the answers. */
import type { CompiledCondition } from './compiled-condition.ts'
import { Finding, type Place } from './evidence.ts'
import {
  LINKS_KEY,
  elements,
  shown,
  whereKey,
  type FarEnd,
  type StatedLines,
  type ValueAnswer,
  type WhereAnswer,
} from './estate.ts'
import { compileExpression } from './expression.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import type { JudgedDevice } from './judged.ts'
import { linkEndsOf } from './link-ends.ts'
import type { LinkEnd } from './link-end.ts'
import { unreadAbout } from './doubt.ts'
import { pathsIn, placesOf, placesOfFields, valuesAt } from './model-condition.ts'
import { namesOf } from './names.ts'
import type { Condition } from './schema.ts'

/** What every device of an estate is asked; the answer is plain data. */
export interface EstateQuestion {
  readonly key: string
  readonly ask: (device: JudgedDevice, values: Readonly<Record<string, unknown>>) => unknown
}

const LINKS: EstateQuestion = { key: LINKS_KEY, ask: (device) => linkEndsOf(device) }

/** The parts of an interface that both ends have to agree about, with the interface itself. */
const END_PARTS = ['', '.mtu', '.speed', '.duplex', '.switching', '.ospf', '.encryption', '.tunnel'] as const
const LINKS_WHERE: EstateQuestion = {
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

function statedIn(device: JudgedDevice, places: readonly Place[]): StatedLines[] {
  return places.map(({ record, from, to }) => ({ kind: device.kindOf(record), from, to }))
}

/** The questions across devices in some conditions, each once. */
export function estateQuestionsIn(value: unknown): EstateQuestion[] {
  const found = new Map<string, EstateQuestion>()
  const visit = (at: unknown): void => {
    if (Array.isArray(at)) at.forEach(visit)
    else if (typeof at === 'object' && at !== null) {
      const condition = at as Partial<Record<'same' | 'among' | 'unique' | 'ends', string>>
      if (typeof condition.same === 'string')
        add(valueQuestion(condition.same, condition.among), sameWhere(condition.same, condition.among))
      if (typeof condition.unique === 'string')
        add(valueQuestion(condition.unique, undefined), uniqueWhere(condition.unique))
      if (typeof condition.ends === 'string') add(LINKS, LINKS_WHERE)
      Object.values(at).forEach(visit)
    }
  }
  const add = (...questions: readonly EstateQuestion[]): void =>
    questions.forEach((question) => found.set(question.key, question))
  visit(value)
  return [...found.values()]
}

function valueQuestion(source: string, among: string | undefined): EstateQuestion {
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
function sameWhere(source: string, among: string | undefined): EstateQuestion {
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
function uniqueWhere(source: string): EstateQuestion {
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
function whereStated(device: JudgedDevice, source: string, wanted: readonly string[]): Record<string, Place[]> {
  const found: Record<string, Place[]> = Object.fromEntries(wanted.map((element) => [element, []]))
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
function placesThere(
  { device: { estate } }: EvaluationContext,
  question: string,
  device: string,
  value: string,
): Place[] {
  return (estate?.where(whereKey(question), device, value) ?? []).map(({ kind, from, to }) => ({
    record: kind,
    from,
    to,
    device,
    absent: false,
  }))
}

function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

/**
 * What a device answers to one question; nothing where it cannot: its own verdict will say why, since it is asked again
 * there.
 */
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

function alone(inquiry: EvaluationContext): Finding {
  return new Finding('unknown', () => inquiry.whole(), { why: 'the other devices of the estate were not asked' })
}

/** The value is that of every other device that is compared; binds `others` and `odd`, the devices that differ. */
export function askSame(source: string, among: string | undefined): CompiledCondition {
  const question = valueQuestion(source, among)
  const places = placesOfFields(source)
  return (inquiry) => {
    const own = plain(compileExpression(source).evaluate(inquiry.names))
    const odd = inquiry.device.estate?.odd(question.key, inquiry.device.name, own)
    if (!odd) return alone(inquiry)
    inquiry.bind({
      own: shown(own),
      others: [...new Set(odd.map(({ value }) => value))],
      odd: odd.map(({ device }) => device),
    })
    const there = odd.slice(0, THERE).flatMap(({ device, value }) => placesThere(inquiry, question.key, device, value))
    return new Finding(
      odd.length === 0,
      () => [...places(inquiry), ...there],
      odd.length > 0 ? { extra: odd.map(({ device, value }) => `${device}: ${value}`) } : undefined,
      unreadAbout(inquiry.device, pathsIn(source, inquiry)),
    )
  }
}

/**
 * No other device has the value, or any element of the list or of lists within it; binds `twins`, as `value on device`.
 */
export function askUnique(source: string): CompiledCondition {
  const question = valueQuestion(source, undefined)
  const places = placesOfFields(source)
  return (inquiry) => {
    const own = elements(plain(compileExpression(source).evaluate(inquiry.names)))
    const held = inquiry.device.estate?.holders(question.key, inquiry.device.name, own)
    if (!held) return alone(inquiry)
    const twins = held.map(({ device, value }) => `${value} on ${device}`)
    inquiry.bind({ twins })
    const there = held.slice(0, THERE).flatMap(({ device, value }) => placesThere(inquiry, question.key, device, value))
    const here = (): Place[] => {
      const stated = Object.values(
        whereStated(
          inquiry.device,
          source,
          held.map(({ value }) => value),
        ),
      ).flat()
      return stated.length > 0 ? stated : places(inquiry)
    }
    return new Finding(
      twins.length === 0,
      () => (twins.length > 0 ? [...here(), ...there] : places(inquiry)),
      twins.length > 0 ? { extra: twins } : undefined,
      unreadAbout(inquiry.device, pathsIn(source, inquiry)),
    )
  }
}

type Ends = Extract<Condition, { ends: string }>['ends']
type Agreement = Exclude<Ends, 'known'>

/** What both ends of a link have to agree about, as a text; null where an end does not state it. */
const STATED: Readonly<Record<Agreement, (end: LinkEnd) => string | null>> = {
  mtu: ({ mtu }) => (mtu === null ? null : String(mtu)),
  speed: ({ speed, duplex }) => (speed === null && duplex === null ? null : [speed, duplex].filter(Boolean).join(' ')),
  vlans: ({ mode, accessVlan, nativeVlan, allowedVlans }) =>
    mode === null
      ? null
      : mode.startsWith('trunk')
        ? `trunk, native ${nativeVlan ?? 1}, ${allowedVlans ?? 'all'}`
        : `access ${accessVlan ?? 1}`,
  ospf: ({ area, helloSeconds, deadSeconds, authentication }) =>
    area === null
      ? null
      : `area ${areaText(area)}, hello ${helloSeconds}, dead ${deadSeconds}, ${authentication ?? 'no authentication'}`,
  protection: ({ protection }) => protection ?? 'none',
}

/** The parts of an interface that say it. */
const PARTS_OF: Readonly<Record<Agreement, readonly string[]>> = {
  mtu: ['.mtu'],
  speed: ['.speed', '.duplex'],
  vlans: ['.switching'],
  ospf: ['.ospf'],
  protection: ['.encryption', '.tunnel'],
}

/** Other devices of which lines are shown. */
const THERE = 10

/** `0` and `0.0.0.0` are one area (RFC 2328 §C.2 writes areas as addresses). */
function areaText(area: string): string {
  return /^\d+$/.test(area)
    ? [24, 16, 8, 0].map((shift) => Math.floor(Number(area) / 2 ** shift) % 256).join('.')
    : area
}

/** Each link of the device with the ends that others have of it; null where nobody was asked. */
function linksOf({ device }: EvaluationContext): { readonly own: LinkEnd; readonly far: readonly FarEnd[] }[] | null {
  const { estate } = device
  if (!estate?.estate.answers.has(LINKS_KEY)) return null
  return linkEndsOf(device).map((own) => ({ own, far: estate.ends(device.name, own) ?? [] }))
}

function askKnownEnds(inquiry: EvaluationContext): Finding {
  const links = linksOf(inquiry)
  return links
    ? new Finding(
        links.some(({ far }) => far.length > 0),
        () => inquiry.whole(),
      )
    : alone(inquiry)
}

/** Both ends of every link that is known agree; binds `disagreeing`. Where no other end is known, nothing is. */
export function askEnds(about: Ends): CompiledCondition {
  if (about === 'known') return askKnownEnds
  const stated = STATED[about]
  return (inquiry) => {
    const links = linksOf(inquiry)
    if (!links) return alone(inquiry)
    const pairs = links.flatMap(({ own, far }) => far.map(({ device, end }) => ({ own, device, other: end })))
    if (pairs.length === 0)
      return new Finding('unknown', () => inquiry.whole(), { why: 'the other end of none of its links is known' })
    const apart = pairs.filter(({ own, other }) => {
      const [mine, theirs] = [stated(own), stated(other)]
      return mine !== theirs && (about === 'vlans' || about === 'protection' || (mine !== null && theirs !== null))
    })
    const disagreeing = apart.map(
      ({ own, device, other }) =>
        `${own.interface}: ${stated(own) ?? 'not stated'}; ${device} ${other.interface}: ${stated(other) ?? 'not stated'}`,
    )
    inquiry.bind({ disagreeing })
    const there = apart
      .slice(0, THERE)
      .flatMap(({ device, other }) => placesThere(inquiry, LINKS_KEY, device, other.interface))
    const here = (): Place[] =>
      (apart.length > 0 ? apart : pairs).flatMap(({ own }) => [
        ...placesOf(inquiry.device, own.path),
        ...PARTS_OF[about].flatMap((part) => placesOf(inquiry.device, `${own.path}${part}`, true)),
      ])
    return new Finding(
      apart.length === 0,
      () => [...here(), ...there],
      apart.length > 0 ? { extra: disagreeing } : undefined,
      unreadAbout(inquiry.device, ['interfaces']),
    )
  }
}

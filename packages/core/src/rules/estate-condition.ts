/** Questions that rest on more than one device: all devices answer them first, then each is judged by the answers. */
import type { Ask } from './ask.ts'
import { Finding } from './evidence.ts'
import { LINKS_KEY, elements, shown, type FarEnd, type ValueAnswer } from './estate.ts'
import { compileExpression } from './expression.ts'
import type { Inquiry, JudgedDevice, Names } from './inquiry.ts'
import { linkEndsOf, type LinkEnd } from './link-ends.ts'
import { unreadAbout } from './doubt.ts'
import { pathsIn, placesOf, placesOfFields } from './model-condition.ts'
import { namesOf } from './names.ts'
import type { Condition } from './schema.ts'

/** What every device of an estate is asked; the answer is plain data. */
export interface EstateQuestion {
  readonly key: string
  readonly ask: (device: JudgedDevice, values: Readonly<Record<string, unknown>>) => unknown
}

const LINKS: EstateQuestion = { key: LINKS_KEY, ask: (device) => linkEndsOf(device) }

/** The questions across devices in some conditions, each once. */
export function estateQuestionsIn(value: unknown): EstateQuestion[] {
  const found = new Map<string, EstateQuestion>()
  const visit = (at: unknown): void => {
    if (Array.isArray(at)) at.forEach(visit)
    else if (typeof at === 'object' && at !== null) {
      const condition = at as Partial<Record<'same' | 'among' | 'unique' | 'ends', string>>
      if (typeof condition.same === 'string') add(valueQuestion(condition.same, condition.among))
      if (typeof condition.unique === 'string') add(valueQuestion(condition.unique, undefined))
      if (typeof condition.ends === 'string') add(LINKS)
      Object.values(at).forEach(visit)
    }
  }
  const add = (question: EstateQuestion): void => void found.set(question.key, question)
  visit(value)
  return [...found.values()]
}

function valueQuestion(source: string, among: string | undefined): EstateQuestion {
  const expression = compileExpression(source)
  const group = among === undefined ? null : compileExpression(among)
  return {
    key: JSON.stringify([source, among ?? null]),
    ask: (device, values): ValueAnswer => {
      const names = Object.create(namesOf(device, values)) as Names
      return { among: group === null || group.evaluate(names) === true, value: plain(expression.evaluate(names)) }
    },
  }
}

function plain(value: unknown): unknown {
  if (typeof value === 'bigint') return Number(value)
  return Array.isArray(value) ? value.map(plain) : value
}

/** What a device answers to one question; nothing where it cannot: its own verdict will say why, since it is asked again there. */
export function askOne({ ask }: EstateQuestion, device: JudgedDevice, values: Readonly<Record<string, unknown>>): unknown[] {
  try {
    return [ask(device, values)]
  } catch {
    return []
  }
}

function alone(inquiry: Inquiry): Finding {
  return new Finding('unknown', () => inquiry.whole(), { why: 'the other devices of the estate were not asked' })
}

/** The value is that of every other device that is compared; binds `others` and `odd`, the devices that differ. */
export function askSame(source: string, among: string | undefined): Ask {
  const question = valueQuestion(source, among)
  const places = placesOfFields(source)
  return (inquiry) => {
    const own = plain(compileExpression(source).evaluate(inquiry.names))
    const odd = inquiry.device.estate?.odd(question.key, inquiry.device.name, own)
    if (!odd) return alone(inquiry)
    inquiry.bind({ own: shown(own), others: [...new Set(odd.map(({ value }) => value))], odd: odd.map(({ device }) => device) })
    return new Finding(odd.length === 0, () => places(inquiry), odd.length > 0 ? { extra: odd.map(({ device, value }) => `${device}: ${value}`) } : undefined, unreadAbout(inquiry.device, pathsIn(source, inquiry)))
  }
}

/** No other device has the value, or any element of the list or of lists within it; binds `twins`, as `value on device`. */
export function askUnique(source: string): Ask {
  const question = valueQuestion(source, undefined)
  const places = placesOfFields(source)
  return (inquiry) => {
    const own = elements(plain(compileExpression(source).evaluate(inquiry.names)))
    const held = inquiry.device.estate?.holders(question.key, inquiry.device.name, own)
    if (!held) return alone(inquiry)
    const twins = held.map(({ device, value }) => `${value} on ${device}`)
    inquiry.bind({ twins })
    return new Finding(twins.length === 0, () => places(inquiry), twins.length > 0 ? { extra: twins } : undefined, unreadAbout(inquiry.device, pathsIn(source, inquiry)))
  }
}

type Ends = Extract<Condition, { ends: string }>['ends']
type Agreement = Exclude<Ends, 'known'>

/** What both ends of a link have to agree about, as a text; null where an end does not state it. */
const STATED: Readonly<Record<Agreement, (end: LinkEnd) => string | null>> = {
  mtu: ({ mtu }) => (mtu === null ? null : String(mtu)),
  speed: ({ speed, duplex }) => (speed === null && duplex === null ? null : [speed, duplex].filter(Boolean).join(' ')),
  vlans: ({ mode, accessVlan, nativeVlan, allowedVlans }) => (mode === null ? null : mode.startsWith('trunk') ? `trunk, native ${nativeVlan ?? 1}, ${allowedVlans ?? 'all'}` : `access ${accessVlan ?? 1}`),
  ospf: ({ area, helloSeconds, deadSeconds, authentication }) => (area === null ? null : `area ${areaText(area)}, hello ${helloSeconds ?? 'default'}, dead ${deadSeconds ?? 'default'}, ${authentication ?? 'no authentication'}`),
  protection: ({ protection }) => protection ?? 'none',
}

/** `0` and `0.0.0.0` are one area (RFC 2328 §C.2 writes areas as addresses). */
function areaText(area: string): string {
  return /^\d+$/.test(area) ? [24, 16, 8, 0].map((shift) => Math.floor(Number(area) / 2 ** shift) % 256).join('.') : area
}

/** Each link of the device with the ends that others have of it; null where nobody was asked. */
function linksOf({ device }: Inquiry): { readonly own: LinkEnd; readonly far: readonly FarEnd[] }[] | null {
  const { estate } = device
  if (!estate?.estate.answers.has(LINKS_KEY)) return null
  return linkEndsOf(device).map((own) => ({ own, far: estate.ends(device.name, own) ?? [] }))
}

function askKnownEnds(inquiry: Inquiry): Finding {
  const links = linksOf(inquiry)
  return links ? new Finding(links.some(({ far }) => far.length > 0), () => inquiry.whole()) : alone(inquiry)
}

/** Both ends of every link that is known agree; binds `disagreeing`. Where no other end is known, nothing is. */
export function askEnds(about: Ends): Ask {
  if (about === 'known') return askKnownEnds
  const stated = STATED[about]
  return (inquiry) => {
    const links = linksOf(inquiry)
    if (!links) return alone(inquiry)
    const pairs = links.flatMap(({ own, far }) => far.map(({ device, end }) => ({ own, device, other: end })))
    if (pairs.length === 0) return new Finding('unknown', () => inquiry.whole(), { why: 'the other end of none of its links is known' })
    const apart = pairs.filter(({ own, other }) => {
      const [mine, theirs] = [stated(own), stated(other)]
      return mine !== theirs && (about === 'vlans' || about === 'protection' || (mine !== null && theirs !== null))
    })
    const disagreeing = apart.map(({ own, device, other }) => `${own.interface}: ${stated(own) ?? 'not stated'}; ${device} ${other.interface}: ${stated(other) ?? 'not stated'}`)
    inquiry.bind({ disagreeing })
    return new Finding(apart.length === 0, () => (apart.length > 0 ? apart : pairs).flatMap(({ own }) => placesOf(inquiry.device, own.path)), apart.length > 0 ? { extra: disagreeing } : undefined, unreadAbout(inquiry.device, ['interfaces']))
  }
}

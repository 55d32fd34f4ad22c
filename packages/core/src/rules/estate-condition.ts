/** Questions that rest on more than one device: all devices answer them first, then each is judged by the answers. */
import type { Ask } from './ask.ts'
import { Finding } from './evidence.ts'
import { compileExpression } from './expression.ts'
import type { EstateAnswers, Inquiry, JudgedDevice, Names } from './inquiry.ts'
import { linkEndsOf, type LinkEnd } from './link-ends.ts'
import { placesOf, placesOfFields } from './model-condition.ts'
import { namesOf } from './names.ts'
import type { Condition } from './schema.ts'

/** What every device of an estate is asked; the answer is plain data. */
export interface EstateQuestion {
  readonly key: string
  readonly ask: (device: JudgedDevice, values: Readonly<Record<string, unknown>>) => unknown
}

const LINKS: EstateQuestion = { key: 'links', ask: (device) => linkEndsOf(device) }

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

interface ValueAnswer {
  /** Whether the device is one of those that are compared. */
  readonly among: boolean
  readonly value: unknown
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

/** Puts questions to all devices of an estate. A device that cannot answer one is left out of it. */
export function askEstate(questions: readonly EstateQuestion[], devices: readonly JudgedDevice[], values: Readonly<Record<string, unknown>>): Map<string, { device: string; answer: unknown }[]> {
  return new Map(questions.map(({ key, ask }) => [key, devices.flatMap((device) => answerOf(ask, device, values))]))
}

function answerOf(ask: EstateQuestion['ask'], device: JudgedDevice, values: Readonly<Record<string, unknown>>): { device: string; answer: unknown }[] {
  try {
    return [{ device: device.name, answer: ask(device, values) }]
  } catch {
    // Its own verdict will say why: the condition is evaluated there again.
    return []
  }
}

function answersTo(key: string, { device }: Inquiry): { readonly device: string; readonly answer: unknown }[] | null {
  const answers: EstateAnswers | null = device.estate
  return answers?.get(key)?.filter((one) => one.device !== device.name) ?? null
}

const ALONE = 'the other devices of the estate were not asked'

/** The value is that of every other device that is compared; binds `others` and `odd`, the devices that differ. */
export function askSame(source: string, among: string | undefined): Ask {
  const question = valueQuestion(source, among)
  const places = placesOfFields(source)
  return (inquiry) => {
    const answers = answersTo(question.key, inquiry)
    if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
    const own = plain(compileExpression(source).evaluate(inquiry.names))
    const compared = answers.filter(({ answer }) => (answer as ValueAnswer).among)
    const odd = compared.filter(({ answer }) => JSON.stringify((answer as ValueAnswer).value) !== JSON.stringify(own))
    inquiry.bind({ own: shown(own), others: [...new Set(odd.map(({ answer }) => shown((answer as ValueAnswer).value)))], odd: odd.map(({ device }) => device) })
    return new Finding(odd.length === 0, () => places(inquiry), odd.length > 0 ? { extra: odd.map(({ device, answer }) => `${device}: ${shown((answer as ValueAnswer).value)}`) } : undefined)
  }
}

/** No other device has the value, or any element of the list; binds `twins`, as `value on device`. */
export function askUnique(source: string): Ask {
  const question = valueQuestion(source, undefined)
  const places = placesOfFields(source)
  return (inquiry) => {
    const answers = answersTo(question.key, inquiry)
    if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
    const own = elements(plain(compileExpression(source).evaluate(inquiry.names)))
    const twins = answers.flatMap(({ device, answer }) => elements((answer as ValueAnswer).value).filter((value) => own.includes(value)).map((value) => `${value} on ${device}`))
    inquiry.bind({ twins })
    return new Finding(twins.length === 0, () => places(inquiry), twins.length > 0 ? { extra: twins } : undefined)
  }
}

function elements(value: unknown): string[] {
  if (value === null || value === undefined) return []
  return (Array.isArray(value) ? value : [value]).map(shown)
}

function shown(value: unknown): string {
  if (Array.isArray(value)) return value.map(shown).join(', ')
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
}

type Agreement = Extract<Condition, { ends: string }>['ends']

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

/** Both ends of every link that is known agree; binds `disagreeing`. Where no other end is known, nothing is. */
export function askEnds(about: Agreement): Ask {
  const stated = STATED[about]
  return (inquiry) => {
    const answers = answersTo(LINKS.key, inquiry)
    if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
    const pairs = linkEndsOf(inquiry.device).flatMap((own) => answers.flatMap(({ device, answer }) => (answer as LinkEnd[]).filter((other) => isOtherEnd(inquiry.device.name, own, device, other)).map((other) => ({ own, device, other }))))
    if (pairs.length === 0) return new Finding('unknown', () => inquiry.whole(), { why: 'the other end of none of its links is known' })
    const apart = pairs.filter(({ own, other }) => {
      const [mine, theirs] = [stated(own), stated(other)]
      return mine !== theirs && (about === 'vlans' || about === 'protection' || (mine !== null && theirs !== null))
    })
    const disagreeing = apart.map(({ own, device, other }) => `${own.interface}: ${stated(own) ?? 'not stated'}; ${device} ${other.interface}: ${stated(other) ?? 'not stated'}`)
    inquiry.bind({ disagreeing })
    return new Finding(apart.length === 0, () => (apart.length > 0 ? apart : pairs).flatMap(({ own }) => placesOf(inquiry.device, own.path)), apart.length > 0 ? { extra: disagreeing } : undefined)
  }
}

/** By their neighbour tables (IEEE 802.1AB), else by a subnet that only these two share. */
function isOtherEnd(name: string, own: LinkEnd, device: string, other: LinkEnd): boolean {
  if (own.neighbour !== null || other.neighbour !== null) return (own.neighbour?.system === device && sameName(own.neighbour.port, other.interface)) || (other.neighbour?.system === name && sameName(other.neighbour.port, own.interface))
  return own.subnet !== null && own.subnet === other.subnet
}

/** Ports are listed by their whole names and by short ones: `GigabitEthernet1/0/1`, `Gi1/0/1`. */
function sameName(a: string | null, b: string): boolean {
  if (a === null) return false
  const parts = (name: string): [string, string] => [name.replace(/[\d/.:-].*$/, '').toLowerCase(), name.replace(/^[A-Za-z-]*/, '')]
  const [[kind, number], [otherKind, otherNumber]] = [parts(a), parts(b)]
  return number === otherNumber && (kind.startsWith(otherKind) || otherKind.startsWith(kind))
}

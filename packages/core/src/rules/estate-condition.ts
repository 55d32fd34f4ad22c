/** Questions that rest on more than one device: all devices answer them first, then each is judged by the answers. */
import type { Ask } from './ask.ts'
import { Finding } from './evidence.ts'
import { compileExpression } from './expression.ts'
import type { EstateAnswers, Inquiry, JudgedDevice, Names } from './inquiry.ts'
import { linkEndsOf, sameName, type LinkEnd } from './link-ends.ts'
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

/** What a device answers to one question; nothing where it cannot: its own verdict will say why, since it is asked again there. */
export function askOne({ ask }: EstateQuestion, device: JudgedDevice, values: Readonly<Record<string, unknown>>): unknown[] {
  try {
    return [ask(device, values)]
  } catch {
    return []
  }
}

type Answers = readonly { readonly device: string; readonly answer: unknown }[]

function answersTo(key: string, { device }: Inquiry): Answers | null {
  const answers: EstateAnswers | null = device.estate
  return answers?.get(key) ?? null
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
    const compared = answers.filter(({ device, answer }) => device !== inquiry.device.name && (answer as ValueAnswer).among)
    const odd = compared.filter(({ answer }) => JSON.stringify((answer as ValueAnswer).value) !== JSON.stringify(own))
    inquiry.bind({ own: shown(own), others: [...new Set(odd.map(({ answer }) => shown((answer as ValueAnswer).value)))], odd: odd.map(({ device }) => device) })
    return new Finding(odd.length === 0, () => places(inquiry), odd.length > 0 ? { extra: odd.map(({ device, answer }) => `${device}: ${shown((answer as ValueAnswer).value)}`) } : undefined)
  }
}

/** No other device has the value, or any element of the list or of lists within it; binds `twins`, as `value on device`. */
export function askUnique(source: string): Ask {
  const question = valueQuestion(source, undefined)
  const places = placesOfFields(source)
  return (inquiry) => {
    const answers = answersTo(question.key, inquiry)
    if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
    const own = elements(plain(compileExpression(source).evaluate(inquiry.names)))
    const twins = holdersIn(answers, own).filter(({ device }) => device !== inquiry.device.name).map(({ device, value }) => `${value} on ${device}`)
    inquiry.bind({ twins })
    return new Finding(twins.length === 0, () => places(inquiry), twins.length > 0 ? { extra: twins } : undefined)
  }
}

const holders = new WeakMap<Answers, Map<string, string[]>>()

/** Who has some of these values; looked up in a table of all answers, since every device asks. */
function holdersIn(answers: Answers, values: readonly string[]): { readonly device: string; readonly value: string }[] {
  let table = holders.get(answers)
  if (!table) {
    holders.set(answers, (table = new Map()))
    for (const { device, answer } of answers) {
      for (const value of new Set(elements((answer as ValueAnswer).value))) {
        const known = table.get(value)
        if (known) known.push(device)
        else table.set(value, [device])
      }
    }
  }
  return [...new Set(values)].flatMap((value) => (table.get(value) ?? []).map((device) => ({ device, value })))
}

function elements(value: unknown): string[] {
  if (value === null || value === undefined) return []
  return [value].flat(4).map(shown)
}

function shown(value: unknown): string {
  if (Array.isArray(value)) return value.map(shown).join(', ')
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
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

function askKnownEnds(inquiry: Inquiry): Finding {
  const answers = answersTo(LINKS.key, inquiry)
  if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
  return new Finding(linkEndsOf(inquiry.device).some((own) => otherEnds(inquiry.device.name, own, answers).length > 0), () => inquiry.whole())
}

/** Both ends of every link that is known agree; binds `disagreeing`. Where no other end is known, nothing is. */
export function askEnds(about: Ends): Ask {
  if (about === 'known') return askKnownEnds
  const stated = STATED[about]
  return (inquiry) => {
    const answers = answersTo(LINKS.key, inquiry)
    if (!answers) return new Finding('unknown', () => inquiry.whole(), { why: ALONE })
    const pairs = linkEndsOf(inquiry.device).flatMap((own) => otherEnds(inquiry.device.name, own, answers).map(({ device, end }) => ({ own, device, other: end })))
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

interface FarEnd {
  readonly device: string
  readonly end: LinkEnd
}

interface EndsTable {
  readonly byDevice: ReadonlyMap<string, readonly FarEnd[]>
  /** By who they have seen. */
  readonly bySeen: ReadonlyMap<string, readonly FarEnd[]>
  readonly bySubnet: ReadonlyMap<string, readonly FarEnd[]>
}

const tables = new WeakMap<Answers, EndsTable>()

function endsIn(answers: Answers): EndsTable {
  let ends = tables.get(answers)
  if (ends) return ends
  const all = answers.flatMap(({ device, answer }) => (answer as LinkEnd[]).map((end): FarEnd => ({ device, end })))
  ends = { byDevice: grouped(all, ({ device }) => device), bySeen: grouped(all, ({ end }) => end.neighbour?.system ?? null), bySubnet: grouped(all, ({ end }) => end.subnet) }
  tables.set(answers, ends)
  return ends
}

function grouped(ends: readonly FarEnd[], keyOf: (end: FarEnd) => string | null): Map<string, FarEnd[]> {
  const groups = new Map<string, FarEnd[]>()
  for (const end of ends) {
    const key = keyOf(end)
    const group = key === null ? undefined : groups.get(key)
    if (group) group.push(end)
    else if (key !== null) groups.set(key, [end])
  }
  return groups
}

/** By the neighbour tables of either end (IEEE 802.1AB), else by a subnet for two that it shares. */
function otherEnds(name: string, own: LinkEnd, answers: Answers): readonly FarEnd[] {
  const { byDevice, bySeen, bySubnet } = endsIn(answers)
  const seen = own.neighbour ? (byDevice.get(own.neighbour.system) ?? []).filter(({ end }) => sameName(own.neighbour?.port ?? null, end.interface)) : []
  const seenBy = (bySeen.get(name) ?? []).filter(({ device, end }) => sameName(end.neighbour?.port ?? null, own.interface) && !seen.some((one) => one.device === device && one.end === end))
  const known = [...seen, ...seenBy].filter(({ device }) => device !== name)
  return known.length > 0 || own.subnet === null ? known : (bySubnet.get(own.subnet) ?? []).filter(({ device }) => device !== name)
}

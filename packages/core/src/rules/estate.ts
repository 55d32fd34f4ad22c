/** The answers of all devices to the questions across devices, and what is looked up in them. */
import { sha256Hex } from '../syntax/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { sameName, type LinkEnd } from './link-end.ts'

/** Answers that all devices of an estate gave to one question, by the question. */
export type EstateAnswers = ReadonlyMap<string, Answers>
type Answers = readonly { readonly device: string; readonly answer: unknown }[]

export interface ValueAnswer {
  /** Whether the device is one of those that are compared. */
  readonly among: boolean
  readonly value: unknown
}

export interface FarEnd {
  readonly device: string
  readonly end: LinkEnd
}

export interface HeldValue {
  readonly device: string
  readonly value: string
}

/** The question that every device answers with the ends of its links. */
export const LINKS_KEY = 'links'

/** Lines of a record of the device that answers, by the kind of the record: its id is known where it is shown. */
export interface StatedLines {
  readonly kind: string
  readonly from: number
  readonly to: number
}

/** Where a device states what it answers, by the text of each element. */
export type WhereAnswer = Readonly<Record<string, readonly StatedLines[]>>

/** The question where a device states what it answers to another. Apart from that one: lines move, answers stay. */
export function whereKey(question: string): string {
  return `${WHERE}${question}`
}
export const WHERE = 'where '

/**
 * One look at the answers, as plain data: what was found rests on nothing else, so that a look made again tells whether
 * what was concluded from it still holds.
 *   odd: compared devices with another value than `own`
 *   holders: other devices that have one of `values`
 *   ends: the other ends of the link at `own`
 *   where: lines of `device` that state `value`
 */
type Look =
  | { readonly look: 'odd'; readonly question: string; readonly device: string; readonly own: unknown }
  | { readonly look: 'holders'; readonly question: string; readonly device: string; readonly values: readonly string[] }
  | { readonly look: 'ends'; readonly device: string; readonly own: LinkEnd }
  | { readonly look: 'where'; readonly question: string; readonly device: string; readonly value: string }

/** A look and what it found, as text where that is short, else its SHA-256. */
export interface Seen {
  readonly look: Look
  readonly found: string
}

interface ValueTable {
  /** Compared devices by the text of their value, with their place among all answers. */
  readonly compared: ReadonlyMap<string, readonly (HeldValue & { readonly place: number })[]>
  readonly holders: ReadonlyMap<string, readonly string[]>
  /** By the text of a value: the compared devices that have another. */
  readonly others: Map<string, { readonly all: readonly HeldValue[]; readonly names: ReadonlySet<string> }>
}

interface EndsTable {
  readonly byDevice: ReadonlyMap<string, readonly FarEnd[]>
  /** By who they have seen. */
  readonly bySeen: ReadonlyMap<string, readonly FarEnd[]>
  readonly bySubnet: ReadonlyMap<string, readonly FarEnd[]>
}

/**
 * All answers with tables by which each device finds the few that concern it. Every look gives null where nobody
 * answered.
 */
export class Estate {
  readonly #values = new Map<string, ValueTable>()
  #ends: EndsTable | null = null

  constructor(readonly answers: EstateAnswers) {}

  odd(question: string, device: string, own: unknown): readonly HeldValue[] | null {
    const same = JSON.stringify(own) ?? ''
    const table = this.#valuesOf(question)
    if (!table) return null
    let others = table.others.get(same)
    if (!others) {
      const apart = [...table.compared]
        .flatMap(([text, devices]) => (text === same ? [] : devices))
        .sort((a, b) => a.place - b.place)
      others = {
        all: apart.map(({ device: name, value }) => ({ device: name, value })),
        names: new Set(apart.map(({ device: name }) => name)),
      }
      table.others.set(same, others)
    }
    // Most devices have the value that they ask about, and share the answer with all that have it.
    return others.names.has(device) ? others.all.filter((one) => one.device !== device) : others.all
  }

  holders(question: string, device: string, values: readonly string[]): readonly HeldValue[] | null {
    const table = this.#valuesOf(question)
    return (
      table &&
      [...new Set(values)].flatMap((value) =>
        (table.holders.get(value) ?? []).filter((name) => name !== device).map((name) => ({ device: name, value })),
      )
    )
  }

  /** By the neighbour tables of either end (IEEE 802.1AB), else by a subnet for two that it shares. */
  ends(device: string, own: LinkEnd): readonly FarEnd[] | null {
    const answers = this.answers.get(LINKS_KEY)
    if (!answers) return null
    const { byDevice, bySeen, bySubnet } = (this.#ends ??= endsIn(answers))
    const seen = own.neighbour
      ? (byDevice.get(own.neighbour.system) ?? []).filter(({ end }) =>
          sameName(own.neighbour?.port ?? null, end.interface),
        )
      : []
    const seenBy = (bySeen.get(device) ?? []).filter(
      (far) =>
        sameName(far.end.neighbour?.port ?? null, own.interface) &&
        !seen.some((one) => one.device === far.device && one.end === far.end),
    )
    const known = [...seen, ...seenBy].filter((far) => far.device !== device)
    return known.length > 0 || own.subnet === null
      ? known
      : (bySubnet.get(own.subnet) ?? []).filter((far) => far.device !== device)
  }

  where(question: string, device: string, value: string): readonly StatedLines[] | null {
    const answer = this.answers.get(question)?.find((one) => one.device === device)?.answer as WhereAnswer | undefined
    return answer ? (Object.hasOwn(answer, value) ? (answer[value] ?? []) : []) : null
  }

  /** Whether all looks find what they found then. */
  stillHolds(seen: readonly Seen[]): boolean {
    return seen.every(({ look, found }) => digest(this.#again(look)) === found)
  }

  #again(look: Look): readonly unknown[] | null {
    if (look.look === 'ends') return this.ends(look.device, look.own)
    if (look.look === 'where') return this.where(look.question, look.device, look.value)
    return look.look === 'odd'
      ? this.odd(look.question, look.device, look.own)
      : this.holders(look.question, look.device, look.values)
  }

  #valuesOf(question: string): ValueTable | null {
    const answers = this.answers.get(question)
    if (!answers) return null
    const known = this.#values.get(question)
    if (known) return known
    const compared = new Map<string, (HeldValue & { place: number })[]>()
    const holders = new Map<string, string[]>()
    answers.forEach(({ device, answer }, place) => {
      const { among, value } = answer as ValueAnswer
      if (among) added(compared, JSON.stringify(value) ?? '', { device, value: shown(value), place })
      for (const element of new Set(elements(value))) added(holders, element, device)
    })
    const table: ValueTable = { compared, holders, others: new Map() }
    this.#values.set(question, table)
    return table
  }
}

/** The estate as one judging sees it: what it has looked up is noted. */
export class EstateView {
  readonly seen: Seen[] = []

  constructor(readonly estate: Estate) {}

  odd(question: string, device: string, own: unknown): readonly HeldValue[] | null {
    return this.#noted({ look: 'odd', question, device, own }, this.estate.odd(question, device, own))
  }

  holders(question: string, device: string, values: readonly string[]): readonly HeldValue[] | null {
    return this.#noted({ look: 'holders', question, device, values }, this.estate.holders(question, device, values))
  }

  ends(device: string, own: LinkEnd): readonly FarEnd[] | null {
    return this.#noted({ look: 'ends', device, own }, this.estate.ends(device, own))
  }

  /** Lines of another device that state a value; none where they are not known. */
  where(question: string, device: string, value: string): readonly StatedLines[] {
    return this.#noted({ look: 'where', question, device, value }, this.estate.where(question, device, value)) ?? []
  }

  #noted<T extends readonly unknown[] | null>(look: Look, found: T): T {
    this.seen.push({ look, found: digest(found) })
    return found
  }
}

/** A value, or the elements of a list and of lists within it, as texts. */
export function elements(value: unknown): string[] {
  if (value === null || value === undefined) return []
  return [value].flat(4).map(shown)
}

export function shown(value: unknown): string {
  if (Array.isArray(value)) return value.map(shown).join(', ')
  return typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value)
}

function endsIn(answers: Answers): EndsTable {
  const all = answers.flatMap(({ device, answer }) => (answer as LinkEnd[]).map((end): FarEnd => ({ device, end })))
  return {
    byDevice: grouped(all, ({ device }) => device),
    bySeen: grouped(all, ({ end }) => end.neighbour?.system ?? null),
    bySubnet: grouped(all, ({ end }) => end.subnet),
  }
}

function added<T>(groups: Map<string, T[]>, key: string, one: T): void {
  const group = groups.get(key)
  if (group) group.push(one)
  else groups.set(key, [one])
}

/** Shorter than this, a text is quicker compared than hashed. */
const SHORT = 400

/** Of answers that many devices share. */
const digests = new WeakMap<object, string>()

function digest(found: readonly unknown[] | null): string {
  if (!found) return 'null'
  const known = digests.get(found)
  if (known !== undefined) return known
  const text = JSON.stringify(found)
  const short = text.length < SHORT ? text : sha256Hex(new TextEncoder().encode(text))
  digests.set(found, short)
  return short
}

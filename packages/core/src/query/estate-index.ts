import { addressOf, addressWords, parsePrefix, prefixMatch } from '../model/index.ts'
import type { DeviceDigest, ReadDevice, SourceLocation } from '../estate/index.ts'
import type { DeviceContext } from '../rules/index.ts'
import { LineIndex } from './line-index.ts'
import type { Question } from './question.ts'

/** A device of a view on an estate: who it is, and which digest tells of it. */
export interface ViewedDevice {
  readonly name: string
  readonly key: string
  readonly dialect: string
  readonly facts: DeviceContext & { readonly managementAddress?: string | undefined }
}

export const FOUND_KINDS = ['device', 'address', 'interface', 'user', 'list', 'line', 'output'] as const
export type FoundKind = (typeof FOUND_KINDS)[number]

export interface FoundHit {
  readonly device: string
  readonly title: string
  readonly detail: string
  /** The lines that it stands on; null where it is a fact that people stated. */
  readonly at: SourceLocation | null
}

export interface FoundPart {
  readonly kind: FoundKind
  readonly total: number
  readonly hits: readonly FoundHit[]
  /** Devices that have one. */
  readonly devices: readonly string[]
}

const [INTERFACES, USERS, LISTS] = [0, 1, 2] as const
const PARTS = [
  {
    kind: 'interface',
    at: INTERFACES,
    entries: (digest: DeviceDigest) =>
      digest.interfaces.map(({ name, description, addresses, vrf, zone }) =>
        [name, description, ...addresses.map(({ address, prefixLength }) => `${address}/${prefixLength}`), vrf, zone]
          .filter(Boolean)
          .join(' · '),
      ),
  },
  { kind: 'user', at: USERS, entries: (digest: DeviceDigest) => digest.users.map(({ name }) => name) },
  {
    kind: 'list',
    at: LISTS,
    entries: (digest: DeviceDigest) => digest.lists.map(({ name, family }) => `${name} (${family})`),
  },
] as const

const partOf = (kind: 'interface' | 'user' | 'list') => PARTS.find((one) => one.kind === kind) ?? PARTS[INTERFACES]

interface LinePlace {
  readonly key: string
  readonly port: number
  readonly address: number
}

/**
 * Everything of an estate that can be searched, held ready: lines, interfaces, users, lists and addresses of devices by
 * the key of their digest. A view names the devices that a question is put to.
 */
export class EstateIndex {
  readonly #digests = new Map<string, { readonly digest: DeviceDigest; readonly record: string }>()
  readonly #lines = new LineIndex()
  readonly #outputs = new LineIndex()
  /** By the key of a digest: the keys under which its outputs are held. */
  readonly #outputsOf = new Map<string, string[]>()
  /** By such a key: whose output it is. */
  readonly #outputOf = new Map<string, { readonly key: string; readonly record: string; readonly kind: string }>()
  readonly #parts = [new LineIndex(), new LineIndex(), new LineIndex()] as const
  readonly #owners = new Map<string, LinePlace[]>()
  readonly #subnets = new Map<string, LinePlace[]>()
  /** Lengths of the prefixes that there are, by family. */
  readonly #lengths = { ipv4: new Set<number>(), ipv6: new Set<number>() }

  has(key: string): boolean {
    return this.#digests.has(key)
  }

  get size(): number {
    return this.#digests.size
  }

  /** Lines that differ, over all devices. */
  get lines(): number {
    return this.#lines.lines
  }

  digest(key: string): DeviceDigest | undefined {
    return this.#digests.get(key)?.digest
  }

  add(key: string, { digest, record, lines, blocks, outputs }: ReadDevice): void {
    if (this.#digests.has(key)) return
    this.#digests.set(key, { digest, record })
    this.#lines.add(key, lines, blocks)
    for (const output of outputs) {
      const name = `${key} ${output.record}`
      this.#outputOf.set(name, { key, record: output.record, kind: output.kind })
      push(this.#outputsOf, key, name)
      this.#outputs.add(name, output.lines)
    }
    for (const { at, entries } of PARTS) this.#parts[at].add(key, entries(digest))
    digest.interfaces.forEach(({ addresses }, port) =>
      addresses.forEach(({ address, prefixLength, family }, at) => {
        const words = addressWords(address, family)
        if (!words) return
        push(this.#owners, addressOf(words), { key, port, address: at })
        push(this.#subnets, `${addressOf(prefixMatch(words, prefixLength).value)}/${prefixLength}`, {
          key,
          port,
          address: at,
        })
        this.#lengths[family].add(prefixLength)
      }),
    )
  }

  /**
   * What a view holds that answers a question.
   * @param limit most hits of each kind that are shown; all are counted
   * @param late whether it has taken too long
   * @throws QuestionError where it has
   */
  find(
    question: Question,
    view: readonly ViewedDevice[],
    limit: number,
    kinds: readonly FoundKind[] = FOUND_KINDS,
    late: () => boolean = () => false,
  ): FoundPart[] {
    const byKey = grouped(view)
    const asked = asksOf(question, view)
    return kinds
      .map((kind) => {
        switch (kind) {
          case 'device':
            return devicesWith(question, view, limit)
          case 'address':
            return this.#addresses(question, byKey, limit)
          case 'line':
            return this.#found(kind, this.#lines, asked, limit, late)
          case 'output':
            return question.inside.length > 0 ? empty(kind) : this.#found(kind, this.#outputs, asked, limit, late)
          default:
            return question.inside.length > 0
              ? empty(kind)
              : this.#found(kind, this.#parts[partOf(kind).at], asked, limit, late)
        }
      })
      .filter(({ total }) => total > 0)
  }

  #found(kind: FoundKind, index: LineIndex, asked: readonly Ask[], limit: number, late: () => boolean): FoundPart {
    const hits: FoundHit[] = []
    let total = 0
    const devices = new Set<string>()
    for (const { question, byKey } of asked) {
      const keys = kind === 'output' ? [...byKey.keys()].flatMap((key) => this.#outputsOf.get(key) ?? []) : byKey.keys()
      const found = index.find(question, keys, limit, late)
      // Devices of the same records share a digest: each of them has what it holds.
      const having = (key: string): readonly ViewedDevice[] => byKey.get(this.#outputOf.get(key)?.key ?? key) ?? []
      for (const { key, line, text } of found.hits)
        for (const { name } of having(key))
          if (hits.length < limit) hits.push({ device: name, title: text, ...this.#placeOf(kind, key, line) })
      for (const [key, count] of found.counts) {
        for (const { name } of having(key)) devices.add(name)
        total += count * having(key).length
      }
    }
    return { kind, total, hits, devices: [...devices] }
  }

  /** Where a line is that was found, in words and as a place. */
  #placeOf(kind: FoundKind, key: string, line: number): Pick<FoundHit, 'detail' | 'at'> {
    const output = this.#outputOf.get(key)
    if (output)
      return {
        detail: `${output.kind.replaceAll('-', ' ')}, line ${line}`,
        at: { record: output.record, from: line, to: line },
      }
    return { detail: kind === 'line' ? `line ${line}` : '', at: this.#sourceLocationOf(kind, key, line) }
  }

  #sourceLocationOf(kind: FoundKind, key: string, line: number): SourceLocation | null {
    const held = this.#digests.get(key)
    if (!held) return null
    const { digest, record } = held
    if (kind === 'line') return { record, from: line, to: line }
    return (
      (kind === 'interface' ? digest.interfaces : kind === 'user' ? digest.users : digest.lists)[line - 1]?.at ?? null
    )
  }

  /** Who owns an address, and which subnets hold it; of a prefix: which subnets are in it or around it. */
  #addresses({ address }: Question, byKey: Map<string, ViewedDevice[]>, limit: number): FoundPart {
    const asked = address === null ? null : parsePrefix(address)
    if (address === null || !asked) return empty('address')
    const { family } = asked
    const words = family === 'ipv4' ? 1 : 4
    const whole = !address.includes('/')
    const found: { place: LinePlace; owner: boolean }[] = []
    const own = whole ? (this.#owners.get(addressOf(asked.value.slice(0, words))) ?? []) : []
    found.push(...own.map((place) => ({ place, owner: true })))
    const length = whole ? 32 * words : Number(address.split('/')[1])
    for (const held of [...this.#lengths[family]].sort((a, b) => b - a)) {
      if (held <= length)
        for (const place of this.#subnets.get(`${addressOf(prefixMatch(asked.value, held).value)}/${held}`) ?? [])
          if (!own.some((one) => one.key === place.key && one.port === place.port && one.address === place.address))
            found.push({ place, owner: false })
    }
    // Inside of a prefix: every subnet is looked at.
    if (!whole)
      for (const [prefix, places] of this.#subnets)
        if (Number(prefix.split('/')[1]) > length && isIn(prefix, asked.value, length, family))
          found.push(...places.map((place) => ({ place, owner: false })))
    const hits: FoundHit[] = []
    const devices = new Set<string>()
    let total = 0
    for (const { place, owner } of found) {
      const port = this.#digests.get(place.key)?.digest.interfaces[place.port]
      const one = port?.addresses[place.address]
      if (!port || !one) continue
      for (const { name } of byKey.get(place.key) ?? []) {
        total++
        devices.add(name)
        if (hits.length < limit)
          hits.push({
            device: name,
            title: owner ? `owns ${one.address}` : `in the subnet of ${one.address}/${one.prefixLength}`,
            detail: port.name,
            at: one.at ?? port.at,
          })
      }
    }
    return { kind: 'address', total, hits, devices: [...devices] }
  }
}

function isIn(prefix: string, value: readonly number[], length: number, family: 'ipv4' | 'ipv6'): boolean {
  const words = addressWords(prefix.split('/')[0] ?? '', family)
  return (
    words !== null && prefixMatch(words, length).value.every((word, i) => word === prefixMatch(value, length).value[i])
  )
}

/** A question put to some devices of a view. */
interface Ask {
  readonly question: Question
  readonly byKey: ReadonlyMap<string, readonly ViewedDevice[]>
}

/**
 * A word that a device is said to be (its name, site, role, group, label) need not stand in its lines as well: of such
 * devices the other words are asked. One word at least stands in the line; alone, what a device is said to be is found
 * as a device.
 */
function asksOf(question: Question, view: readonly ViewedDevice[]): Ask[] {
  if (question.words.length < 2) return [{ question, byKey: grouped(view) }]
  const asks = new Map<string, { question: Question; devices: ViewedDevice[] }>()
  for (const device of view) {
    const said = tokensOf(device)
    const others = question.words.filter((word) => !said.has(word))
    const words = others.length === 0 ? question.words : others
    const name = JSON.stringify(words)
    const ask = asks.get(name) ?? { question: { ...question, words }, devices: [] }
    ask.devices.push(device)
    asks.set(name, ask)
  }
  return [...asks.values()].map((ask) => ({ question: ask.question, byKey: grouped(ask.devices) }))
}

function grouped(devices: readonly ViewedDevice[]): Map<string, ViewedDevice[]> {
  const byKey = new Map<string, ViewedDevice[]>()
  for (const device of devices) push(byKey, device.key, device)
  return byKey
}

/**
 * The whole words by which people call a device, in small letters. Words of a line must not be taken for them by
 * accident: no numbers, no `yes` and `no`, no parts of words.
 */
export function tokensOf({ name, facts }: Pick<ViewedDevice, 'name' | 'facts'>): ReadonlySet<string> {
  const { labels, groups = [], managementAddress: _, ...stated } = facts
  const values = Object.entries(labels).flatMap(([label, value]) =>
    value === true ? [label.replaceAll('_', ' ')] : typeof value === 'string' ? [value] : [],
  )
  const texts = [name, ...Object.values(stated).filter((value) => typeof value === 'string'), ...values, ...groups]
  const whole = texts.map((text) => text.toLowerCase())
  const words = whole.flatMap((text) => text.split(/[^\p{L}\p{N}._-]+/u))
  return new Set([...whole, ...words].filter((word) => /\p{L}/u.test(word) && word !== 'yes' && word !== 'no'))
}

/** Names, facts and labels. */
function devicesWith(
  { words, pattern, inside, text }: Question,
  view: readonly ViewedDevice[],
  limit: number,
): FoundPart {
  if (pattern !== null || inside.length > 0 || text === '') return empty('device')
  const hits: FoundHit[] = []
  const devices: string[] = []
  for (const { name, dialect, facts } of view) {
    const { labels, groups = [], ...stated } = facts
    const said = [
      ...Object.values(stated).map(String),
      ...Object.entries(labels).map(
        ([label, value]) =>
          `${label.replaceAll('_', ' ')}: ${typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)}`,
      ),
      ...groups,
    ]
    const all = [name, dialect, ...said].join(' · ').toLowerCase()
    if (!words.every((word) => all.includes(word))) continue
    devices.push(name)
    if (hits.length < limit) hits.push({ device: name, title: name, detail: said.join(' · '), at: null })
  }
  return { kind: 'device', total: devices.length, hits, devices }
}

function empty(kind: FoundKind): FoundPart {
  return { kind, total: 0, hits: [], devices: [] }
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key)
  if (list) list.push(value)
  else map.set(key, [value])
}

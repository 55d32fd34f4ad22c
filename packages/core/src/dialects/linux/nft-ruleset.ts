import { items, leaf, member, type LocatedValue } from '../../syntax/json.ts'

export type IpFamily = 'ipv4' | 'ipv6'

/** A chain as saved rules would have it. */
export interface Chain {
  readonly name: string
  readonly family: IpFamily
  /** The table of nftables that it is in, as `family name`. */
  readonly owner: string
  /** `ACCEPT` or `DROP`; `-` of a chain of one's own. */
  readonly policy: string
  readonly origin: LocatedValue
  readonly rules: readonly LocatedValue[]
  /** Why no packet's way through it can be told; null where it can. */
  readonly doubt: string | null
}

export interface Table {
  /** `filter`, `nat` and so on; with `6` where it is of IPv6. */
  readonly name: string
  readonly origin: LocatedValue
  readonly chains: Chain[]
}

interface OwnChain {
  readonly owner: string
  readonly name: string
  readonly type: string | null
  readonly hook: string | null
  readonly priority: number
  readonly policy: string
  readonly origin: LocatedValue
  readonly rules: LocatedValue[]
}

/** Families of nftables whose packets are of one family of IP (nft(8), ADDRESS FAMILIES). */
const FAMILIES: Readonly<Record<IpFamily, readonly string[]>> = { ipv4: ['ip', 'inet'], ipv6: ['ip6', 'inet'] }
const HOOKS = ['prerouting', 'input', 'forward', 'output', 'postrouting'] as const
type Hook = (typeof HOOKS)[number]

/**
 * The tables that the kernel asks at a hook one after the other; chains of nftables at one hook take their places in
 * the order of their priorities. One alone stands where the rules of most gateways do.
 */
const PLACES: Readonly<Record<Hook, readonly (readonly string[])[]>> = {
  prerouting: [['mangle'], ['raw', 'mangle']],
  input: [['filter'], ['mangle', 'filter'], ['mangle', 'filter', 'security']],
  forward: [['filter'], ['mangle', 'filter'], ['mangle', 'filter', 'security']],
  output: [['filter'], ['mangle', 'filter'], ['raw', 'mangle', 'filter'], ['raw', 'mangle', 'filter', 'security']],
  postrouting: [['mangle']],
}
/**
 * Priorities of translation: what is asked on its other side cannot be told apart here (nft(8), table of priorities).
 */
const BEFORE_TRANSLATION: Readonly<Partial<Record<Hook, number>>> = { prerouting: -100, postrouting: 100 }

/** The objects of a ruleset, by what they are. */
export class Ruleset {
  readonly #chains = new Map<string, OwnChain>()
  readonly #sets = new Map<string, LocatedValue>()
  #first: LocatedValue | null = null
  /** A chain of frames has rules: they may drop what no other rule sees. */
  #frames: LocatedValue | null = null

  constructor(objects: readonly LocatedValue[]) {
    for (const object of objects) {
      this.#first ??= object
      this.#take(object)
    }
  }

  #take(object: LocatedValue): void {
    const chain = member(object, 'chain')
    const rule = member(object, 'rule')
    const set = member(object, 'set') ?? member(object, 'map')
    if (chain) {
      this.#chains.set(`${ownerOf(chain)} ${leaf(member(chain, 'name')) ?? ''}`, {
        owner: ownerOf(chain),
        name: leaf(member(chain, 'name')) ?? '',
        type: leaf(member(chain, 'type')),
        hook: leaf(member(chain, 'hook')),
        priority: Number(leaf(member(chain, 'prio')) ?? 0),
        policy: leaf(member(chain, 'policy')) === 'drop' ? 'DROP' : 'ACCEPT',
        origin: chain,
        rules: [],
      })
    }
    if (set) this.#sets.set(`${ownerOf(set)} ${leaf(member(set, 'name')) ?? ''}`, set)
    if (!rule) return
    this.#chains.get(`${ownerOf(rule)} ${leaf(member(rule, 'chain')) ?? ''}`)?.rules.push(rule)
    if (/^(?:bridge|netdev) /.test(ownerOf(rule))) this.#frames ??= rule
  }

  /** The elements of a named set or map; null where they come and go, or it is not there. */
  elementsOf(owner: string, name: string): readonly LocatedValue[] | null {
    const set = this.#sets.get(`${owner} ${name}`)
    const flags = items(member(set, 'flags')).map(leaf)
    if (!set || flags.some((flag) => flag === 'dynamic' || flag === 'timeout')) return null
    return items(member(set, 'elem'))
  }

  tables(): Table[] {
    return (['ipv4', 'ipv6'] as const).flatMap((family) => this.#tablesOf(family))
  }

  #tablesOf(family: IpFamily): Table[] {
    const tables = new Map<string, Table>()
    const tableOf = (name: string, origin: LocatedValue): Table => {
      const known = tables.get(name) ?? { name: family === 'ipv6' ? `${name}6` : name, origin, chains: [] }
      tables.set(name, known)
      return known
    }
    const own = [...this.#chains.values()].filter(({ owner }) => FAMILIES[family].includes(owner.split(' ')[0] ?? ''))
    const used = new Map<string, Set<string>>()
    const put = (table: string, chain: OwnChain, hook: Hook, doubt: string | null): void => {
      tableOf(table, chain.origin).chains.push({ ...chain, name: hook.toUpperCase(), family, doubt })
      used.set(chain.owner, (used.get(chain.owner) ?? new Set()).add(table))
    }
    for (const hook of HOOKS) {
      const here = own.filter((chain) => chain.hook === hook).sort((a, b) => a.priority - b.priority)
      const [filters, translations] = [
        here.filter(({ type }) => type !== 'nat'),
        here.filter(({ type }) => type === 'nat'),
      ]
      const places = PLACES[hook][filters.length - 1] ?? PLACES[hook].at(-1) ?? []
      filters.forEach((chain, i) => {
        const place = places[i]
        const limit = BEFORE_TRANSLATION[hook]
        const late = limit !== undefined && chain.priority > limit && own.some(({ type }) => type === 'nat')
        if (place !== undefined)
          put(
            place,
            chain,
            hook,
            filters.length > places.length
              ? 'several chains at one hook'
              : late
                ? 'a chain behind the translation'
                : null,
          )
      })
      translations.forEach(
        (chain, i) =>
          void (
            i === 0 &&
            put('nat', chain, hook, translations.length > 1 ? 'several chains of translation at one hook' : null)
          ),
      )
      // The listing is whole: where there is no chain, nothing is dropped.
      const everything = this.#first
      if (filters.length === 0 && everything && (hook === 'input' || hook === 'forward'))
        tableOf('filter', everything).chains.push({
          name: hook.toUpperCase(),
          family,
          owner: '',
          policy: 'ACCEPT',
          origin: everything,
          rules: [],
          doubt: null,
        })
    }
    for (const chain of own.filter(({ hook }) => hook === null)) {
      for (const table of used.get(chain.owner) ?? [])
        tableOf(table, chain.origin).chains.push({
          ...chain,
          name: nameOf(chain.owner, chain.name),
          policy: '-',
          family,
          doubt: null,
        })
    }
    if (this.#frames)
      tableOf('raw', this.#frames).chains.push({
        name: 'PREROUTING',
        family,
        owner: '',
        policy: 'ACCEPT',
        origin: this.#frames,
        rules: [],
        doubt: 'chains of frames have rules',
      })
    return [...tables.values()]
  }
}

/** Chains of one's own are known by their table as well: two tables may call them alike. */
export function nameOf(owner: string, chain: string): string {
  return `${owner.replace(' ', '.')}.${chain}`
}

function ownerOf(object: LocatedValue): string {
  return `${leaf(member(object, 'family')) ?? ''} ${leaf(member(object, 'table')) ?? ''}`
}

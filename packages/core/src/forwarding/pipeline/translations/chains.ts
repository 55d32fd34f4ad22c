import { hostMatch, type DeviceModel, type Family } from '../../../model/index.ts'
import { ALL, NOTHING, type MatchContext, type FieldName, type ModelList } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import { between, type Side, type Translated, type Translator } from './translated.ts'

type Rule = DeviceModel['nat'][number]

/** One way through lists of rules: what comes of it, and what each list gave back of packets that came to it. */
interface ChainWalk {
  readonly context: MatchContext
  readonly interfaceAddresses: (family: Family) => readonly (readonly number[])[]
  readonly parts: Translated[]
  /** Null while it is found out: rules that lead back to themselves. */
  readonly known: Map<string, number | null>
}

/** Rules of translation of a kernel, as lists: which of them meets a packet first. */
export class ChainTranslations implements Translator {
  readonly #chains = new Map<string, { readonly list: ModelList; readonly rules: readonly number[] }>()

  constructor(readonly compiled: CompiledDevice) {
    const nat = compiled.model?.nat ?? []
    const names = new Set(nat.flatMap(({ chain, family }) => (chain === null ? [] : [`${family ?? 'ipv4'} ${chain}`])))
    for (const key of names) {
      const [family = 'ipv4', chain = ''] = key.split(' ') as [Family, string]
      const rules = nat.flatMap((rule, i) =>
        rule.chain === chain && (rule.family ?? 'ipv4') === family && rule.match ? [i] : [],
      )
      // A rule that translates ends the list, as one that permits does.
      const entries = rules.map((i) => {
        const { match, changes } = nat[i] as Rule
        return { ...(match as NonNullable<Rule['match']>), ...(changes === null ? {} : { action: 'permit' as const }) }
      })
      this.#chains.set(key, {
        list: { name: `nat ${chain}`, family, entries, defaultAction: BUILT_IN.has(chain) ? 'permit' : 'return' },
        rules,
      })
    }
  }

  meet(changes: Side, { set, inInterface, outInterface }: Branch, context: MatchContext): Translated[] {
    const chain = changes === 'destination' ? 'PREROUTING' : 'POSTROUTING'
    const { interfaces: ports } = this.compiled.device
    const interfaceAddresses = (family: Family): (readonly number[])[] =>
      (ports[changes === 'source' ? outInterface : inInterface]?.addresses ?? [])
        .filter((address) => address.family === family)
        .map(({ words }) => words)
    const { headers } = this.compiled.network
    const { diagrams } = headers
    const parts: Translated[] = []
    const walk: ChainWalk = { context, interfaceAddresses, parts, known: new Map() }
    let left = set
    for (const family of ['ipv4', 'ipv6'] as const) {
      const entering = diagrams.and(set, headers.family(family))
      if (entering === NOTHING || !this.#chains.has(`${family} ${chain}`)) continue
      left = diagrams.minus(left, entering)
      this.#walk(`${family} ${chain}`, entering, walk, 0)
    }
    if (left !== NOTHING) parts.push({ set: left, rewrite: null, doubt: null, rule: -1 })
    return parts
  }

  /** @returns what comes back to the list that led here */
  #walk(key: string, entering: number, walk: ChainWalk, depth: number): number {
    const { parts, known } = walk
    const place = `${key} ${entering}`
    // What came here before was decided then, with all that was to be told of it.
    const before = known.get(place)
    if (before !== undefined && before !== null) return before
    if (before === null || depth > MOST_DEPTH || known.size > MOST_PLACES) {
      parts.push({ set: entering, rewrite: null, doubt: 'NAT rules refer to each other without end', rule: -1 })
      return NOTHING
    }
    known.set(place, null)
    const back = this.#through(key, entering, walk, depth)
    known.set(place, back)
    return back
  }

  #through(key: string, entering: number, walk: ChainWalk, depth: number): number {
    const { context, interfaceAddresses, parts } = walk
    const { headers } = this.compiled.network
    const { diagrams } = headers
    const chain = this.#chains.get(key)
    if (!chain) return entering
    const nat = this.compiled.model?.nat ?? []
    const sets = this.compiled.lists
    let left = entering
    let back = NOTHING
    chain.list.entries.forEach((entry, i) => {
      if (left === NOTHING) return
      const number = chain.rules[i] ?? -1
      const rule = nat[number]
      if (!rule || (entry.action === 'other' && entry.leadsTo === null)) return
      const met = sets.follow(
        { ...chain.list, entries: [{ ...entry, action: 'permit', leadsTo: null }], defaultAction: 'return' },
        left,
        context,
      ).permitted
      if (met === NOTHING) return
      left = diagrams.minus(left, met)
      const { vague } = sets.match(entry, chain.list.family)
      const target = entry.leadsTo
      if (vague)
        parts.push({ set: met, rewrite: null, doubt: 'a NAT rule has terms that cannot be evaluated', rule: number })
      else if (target === 'RETURN') back = diagrams.or(back, met)
      else if (target !== null && this.#chains.has(`${chain.list.family} ${target}`)) {
        const returned = this.#walk(`${chain.list.family} ${target}`, met, walk, depth + 1)
        if (entry.forGood === true) back = diagrams.or(back, returned)
        else left = diagrams.or(left, returned)
      } else if (target !== null)
        parts.push({ set: met, rewrite: null, doubt: `the target ${target} is not supported`, rule: number })
      else parts.push(this.#translated(rule, number, met, chain.list.family, interfaceAddresses))
    })
    const end = diagrams.or(left, back)
    if (chain.list.defaultAction === 'return') return end
    if (end !== NOTHING) parts.push({ set: end, rewrite: null, doubt: null, rule: -1 })
    return NOTHING
  }

  #translated(
    { changes, address, ports }: Rule,
    rule: number,
    set: number,
    family: Family,
    interfaceAddresses: (family: Family) => readonly (readonly number[])[],
  ): Translated {
    const { headers } = this.compiled.network
    if (changes === null) return { set, rewrite: null, doubt: null, rule }
    const fields: FieldName[] = []
    let values = ALL
    if (address !== null) {
      const words = address === 'interface' ? interfaceAddresses(family).slice(0, 1) : between(address, family)
      if (words === null || words.length === 0)
        return { set, rewrite: null, doubt: `the translation to ${address} is not supported`, rule }
      fields.push(changes === 'source' ? 'source' : 'destinationClass')
      values = headers.any(words, (one) => headers.address(changes, hostMatch(one)))
    }
    const range = ports === null ? null : ports.split('-').map(Number)
    if (range) {
      const field = changes === 'source' ? 'sourcePort' : 'destinationPort'
      fields.push(field)
      values = headers.all(values, headers.range(field, [range[0] ?? 0, range[1] ?? range[0] ?? 0]))
    }
    return { set, rewrite: fields.length === 0 ? null : { fields, values }, doubt: null, rule }
  }
}

const BUILT_IN = new Set(['PREROUTING', 'POSTROUTING', 'INPUT', 'OUTPUT'])
const MOST_DEPTH = 32
/** Lists of rules, each with the packets that come to it, that one question is followed through. */
const MOST_PLACES = 10_000

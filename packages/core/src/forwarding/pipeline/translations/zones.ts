import { addressWords, addressesIn, type AddressMatch, type DeviceModel } from '../../../model/index.ts'
import { ALL, type FieldName } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import { RemainingPackets, between, type Translated, type Side, type Translator } from './translated.ts'

type Rule = DeviceModel['nat'][number]
interface Numbered {
  readonly rule: Rule
  readonly number: number
}

/**
 * Translation by sets of rules between zones, in the dialect of braces: destinations before the lookup, sources after
 * it, and both by what is stated address by address, which goes first. The first rule that meets a packet decides
 * (common practice; RFC 3022).
 */
export class ZonedTranslations implements Translator {
  constructor(
    readonly compiled: CompiledDevice,
    readonly zoneOf: (port: number) => string | null,
  ) {}

  /** What becomes of packets; null where no rule is of these interfaces. */
  meet(changes: Side, { inInterface, outInterface, set }: Branch): Translated[] | null {
    const nat = (this.compiled.model?.nat ?? []).map((rule, number): Numbered => ({ rule, number }))
    if (nat.length === 0 || inInterface < 0) return null
    const { diagrams } = this.compiled.network.headers
    const [from, to] = [this.zoneOf(inInterface), this.zoneOf(outInterface)]
    const taking = new RemainingPackets(diagrams, set)
    // Lines that were not understood may be of any packet of their side.
    for (const { rule, number } of nat.filter(({ rule: { kind } }) => kind === changes || kind === 'static'))
      taking.take(ALL, (met) => ({
        set: met,
        rewrite: null,
        doubt: `“${rule.statement}” is not supported`,
        rule: number,
      }))
    for (const one of this.#rulesOf(
      nat,
      'static',
      (outside) => outside.fromZone === (changes === 'destination' ? from : to),
    )) {
      const pair = this.#pairOf(one.rule)
      if (pair === null)
        taking.take(this.#metBy(one.rule), (met) => ({
          set: met,
          rewrite: null,
          doubt: `the pair of “${one.rule.statement}” is not one of hosts`,
          rule: one.number,
        }))
      else if (changes === 'destination')
        taking.take(this.#address('destination', pair.outer), (met) =>
          this.#rewritten(one, met, 'destinationClass', this.#address('destination', pair.inner)),
        )
      else
        taking.take(this.#address('source', pair.inner), (met) =>
          this.#rewritten(one, met, 'source', this.#address('source', pair.outer)),
        )
    }
    for (const one of this.#rulesOf(
      nat,
      changes,
      ({ fromZone, toZone }) => fromZone === from && (changes === 'destination' || toZone === to),
    ))
      taking.take(this.#metBy(one.rule), (met) =>
        changes === 'source' ? this.#sourceOf(one, met, outInterface) : this.#destinationOf(one, met),
      )
    return taking.finish()
  }

  #rulesOf(nat: readonly Numbered[], side: string, wanted: (set: Rule) => boolean): Numbered[] {
    const sets = new Set(
      nat.filter(({ rule }) => rule.kind === `${side} rule-set` && wanted(rule)).map(({ rule }) => rule.statement),
    )
    return nat.filter(
      ({ rule: { kind, statement } }) =>
        kind === `${side} rule` && sets.has(statement.slice(0, statement.lastIndexOf(' '))),
    )
  }

  /** The packets that a rule asks for; what is no address is asked for by all. */
  #metBy({ sources, destinations, destinationPorts }: Rule): number {
    const { headers } = this.compiled.network
    const any = (side: 'source' | 'destination', texts: readonly string[]): number =>
      texts.length === 0
        ? ALL
        : headers.any(texts, (text) => {
            const match = addressesIn(text)
            return match ? headers.address(side, match) : ALL
          })
    return headers.all(
      any('source', sources),
      any('destination', destinations),
      destinationPorts.length === 0
        ? ALL
        : headers.all(
            headers.ported,
            headers.any(destinationPorts, (range) => headers.range('destinationPort', range)),
          ),
    )
  }

  #address(side: 'source' | 'destination', match: AddressMatch): number {
    return this.compiled.network.headers.address(side, match)
  }

  /** Of a stated pair the address outside, and that of the host. */
  #pairOf({ destinations, address }: Rule): { readonly outer: AddressMatch; readonly inner: AddressMatch } | null {
    const [outer, inner] = [addressesIn(destinations[0] ?? ''), addressesIn(address ?? '')]
    const isHost = (match: AddressMatch | null): match is AddressMatch =>
      match !== null && match.care.length > 0 && match.care.every((word) => word === 0xffffffff)
    return destinations.length === 1 && isHost(outer) && isHost(inner) ? { outer, inner } : null
  }

  #rewritten(
    { rule, number }: Numbered,
    set: number,
    field: FieldName,
    values: number,
    port: { readonly field: FieldName; readonly values: number } | null = null,
  ): Translated {
    const unread = [...rule.sources, ...rule.destinations].find((text) => addressesIn(text) === null)
    if (unread !== undefined)
      return { set, rewrite: null, doubt: `“${rule.statement}” uses ${unread}, which is not parsed`, rule: number }
    return {
      set,
      rewrite: {
        fields: [field, ...(port === null ? [] : [port.field])],
        values: port === null ? values : this.compiled.network.headers.diagrams.and(values, port.values),
      },
      doubt: null,
      rule: number,
    }
  }

  #pool(side: string, name: string | null): Rule | undefined {
    return this.compiled.model?.nat.find(({ kind, statement }) => kind === `${side} pool` && statement === name)
  }

  #sourceOf(one: Numbered, set: number, outInterface: number): Translated {
    const { rule, number } = one
    const { headers } = this.compiled.network
    if (rule.address === 'off') return { set, rewrite: null, doubt: null, rule: number }
    const pool = rule.pool === null ? null : this.#pool('source', rule.pool)
    const own = this.compiled.device.interfaces[outInterface]?.addresses.find(({ family }) => family === 'ipv4')?.words
    const values =
      rule.address === 'interface'
        ? own
          ? headers.address('source', { value: own, care: [0xffffffff] })
          : null
        : this.#poolSet(pool?.address ?? null)
    if (values === null)
      return { set, rewrite: null, doubt: `what “${rule.statement}” translates to is not known`, rule: number }
    // Of several hosts behind one address any port may come out.
    return this.#rewritten(
      one,
      set,
      'source',
      values,
      pool?.ports === 'same' ? null : { field: 'sourcePort', values: ALL },
    )
  }

  #poolSet(text: string | null): number | null {
    const { headers } = this.compiled.network
    if (text === null) return null
    const match = addressesIn(text)
    if (match) return headers.address('source', match)
    const words = between(text, text.includes(':') ? 'ipv6' : 'ipv4')
    return (
      words && headers.any(words, (one) => headers.address('source', { value: one, care: one.map(() => 0xffffffff) }))
    )
  }

  #destinationOf(one: Numbered, set: number): Translated {
    const { rule, number } = one
    const { headers } = this.compiled.network
    if (rule.address === 'off') return { set, rewrite: null, doubt: null, rule: number }
    const pool = this.#pool('destination', rule.pool)
    const address = pool?.address?.replace(/\/(?:32|128)$/, '') ?? ''
    const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
    if (!pool || !words)
      return { set, rewrite: null, doubt: `where “${rule.statement}” leads is not known`, rule: number }
    return this.#rewritten(
      one,
      set,
      'destinationClass',
      headers.address('destination', { value: words, care: words.map(() => 0xffffffff) }),
      pool.ports === null
        ? null
        : { field: 'destinationPort', values: headers.value('destinationPort', Number(pool.ports)) },
    )
  }
}

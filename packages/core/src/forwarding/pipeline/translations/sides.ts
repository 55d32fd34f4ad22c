import { addressWords, addressesIn, hostMatch, type DeviceModel, type Family } from '../../../model/index.ts'
import { ALL, NOTHING, type MatchContext, type FieldName } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import { interfaceNamed } from '../../network/interfaces.ts'
import { RemainingPackets, between, type Translated, type Side, type Translator } from './translated.ts'
import type { Rewrite } from '../rewrite.ts'

type Rule = DeviceModel['nat'][number]

/**
 * Translation between interfaces inside and interfaces outside, in the dialect of lines in blocks (traditional NAT, RFC
 * 3022 §2): sources of packets that go out, and destinations of packets that come in to what is stated address by
 * address. What is stated so goes before what is handed out (common practice).
 */
export class SidedTranslations implements Translator {
  constructor(readonly compiled: CompiledDevice) {}

  sideOf(port: number): string | null {
    const { model, device } = this.compiled
    return model?.interfaces[device.interfaces[port]?.at ?? -1]?.nat ?? null
  }

  /** What becomes of packets that cross from one side to the other; null where these do not. */
  meet(changes: Side, { inInterface, outInterface, set }: Branch, context: MatchContext): Translated[] | null {
    const rules = (this.compiled.model?.nat ?? []).flatMap((rule, number) =>
      rule.kind.startsWith('source ') ? [{ rule, number }] : [],
    )
    if (rules.length === 0) return null
    if (
      changes === 'source'
        ? this.sideOf(inInterface) !== 'inside' || this.sideOf(outInterface) !== 'outside'
        : this.sideOf(inInterface) !== 'outside'
    )
      return null
    const { diagrams } = this.compiled.network.headers
    const taking = new RemainingPackets(diagrams, set)
    const stated = rules.filter(({ rule: { match } }) => match !== null)
    for (const { rule, number } of stated)
      taking.take(this.#met(rule, changes), (met) => this.#stated(rule, number, changes, met))
    const vague = rules.filter(({ rule: { match, list } }) => match === null && list === null)
    // What is not understood may choose anything that is stated nowhere; coming in, only what is stated address by
    // address.
    const open =
      changes === 'source'
        ? vague
        : vague.filter(({ rule: { statement, kind } }) => kind !== 'source inside' || statement.startsWith('static'))
    for (const { rule, number } of open)
      taking.take(ALL, (met) => ({
        set: met,
        rewrite: null,
        doubt: `“${rule.statement}” is not supported`,
        rule: number,
      }))
    if (changes === 'source') {
      const listed = rules
        .filter(({ rule: { list } }) => list !== null)
        .map((one) => ({ ...one, permitted: this.#permitted(one.rule, taking.left, context) }))
      for (const { rule, number, permitted } of listed) {
        const twice = listed.some((other) => other.number !== number && diagrams.meet(other.permitted, permitted))
        taking.take(permitted, (met) =>
          twice
            ? { set: met, rewrite: null, doubt: 'several NAT lists match it', rule: number }
            : this.#handedOut(rule, number, outInterface, met),
        )
      }
    }
    return taking.finish()
  }

  #permitted({ list }: Rule, set: number, context: MatchContext): number {
    const { lists } = this.compiled
    const found = list === null ? null : lists.list(list, 'ipv4')
    return found ? lists.decide(found, set, context).permitted : NOTHING
  }

  /** Packets that a stated translation is of: by their source going out, by their destination coming in. */
  #met({ match, address, interface: port, ports }: Rule, changes: 'source' | 'destination'): number {
    const { headers } = this.compiled.network
    const local = addressesIn(match?.sources[0] ?? '')
    if (!match || !local) return NOTHING
    const protocol = headers.any(match.protocols, (range) => headers.range('protocol', range))
    const plain = match.protocols.length === 0 ? ALL : headers.all(protocol, headers.diagrams.not(headers.fragments))
    if (changes === 'source')
      return headers.all(
        plain,
        headers.address('source', local),
        match.sourcePorts.length === 0
          ? ALL
          : headers.any(match.sourcePorts, (range) => headers.range('sourcePort', range)),
      )
    const global = this.#address(address, port, local.care.length === 1 ? 'ipv4' : 'ipv6')[0]
    return global
      ? headers.all(
          plain,
          headers.address('destination', hostMatch(global)),
          ports === null ? ALL : headers.value('destinationPort', Number(ports)),
        )
      : NOTHING
  }

  #stated(
    { match, address, interface: port, ports }: Rule,
    number: number,
    changes: 'source' | 'destination',
    set: number,
  ): Translated {
    const { headers } = this.compiled.network
    const local = addressesIn(match?.sources[0] ?? '')
    const global = this.#address(address, port, local?.care.length === 4 ? 'ipv6' : 'ipv4')[0]
    if (!local || !global)
      return { set, rewrite: null, doubt: `the address of ${port ?? address ?? ''} is not known`, rule: number }
    const rewrite: Rewrite =
      changes === 'source'
        ? {
            fields: ['source', ...(ports === null ? [] : ['sourcePort' as const])],
            values: headers.all(
              headers.address('source', hostMatch(global)),
              ports === null ? ALL : headers.value('sourcePort', Number(ports)),
            ),
          }
        : {
            fields: ['destinationClass', ...(ports === null ? [] : ['destinationPort' as const])],
            values: headers.all(
              headers.address('destination', local),
              ports === null ? ALL : headers.value('destinationPort', match?.sourcePorts[0]?.[0] ?? 0),
            ),
          }
    return { set, rewrite, doubt: null, rule: number }
  }

  #handedOut(
    { address, interface: port, pool, ports, statement }: Rule,
    number: number,
    outInterface: number,
    set: number,
  ): Translated {
    const { headers } = this.compiled.network
    const from =
      pool === null
        ? address
        : (this.compiled.model?.nat.find((one) => one.kind === 'pool' && one.pool === pool)?.address ?? null)
    const words =
      from === 'interface'
        ? this.#address(from, port ?? this.compiled.device.interfaces[outInterface]?.name ?? null, 'ipv4').slice(0, 1)
        : from === null
          ? null
          : between(from, 'ipv4')
    if (!words || words.length === 0)
      return { set, rewrite: null, doubt: `what “${statement}” translates to is not known`, rule: number }
    const fields: FieldName[] = ['source', ...(ports === null ? [] : ['sourcePort' as const])]
    return {
      set,
      rewrite: { fields, values: headers.any(words, (one) => headers.address('source', hostMatch(one))) },
      doubt: null,
      rule: number,
    }
  }

  /** The address itself, or that of an interface. */
  #address(address: string | null, port: string | null, family: Family): (readonly number[])[] {
    if (address !== 'interface') {
      const words = address === null ? null : addressWords(address, family)
      return words ? [words] : []
    }
    const { interfaces: ports } = this.compiled.device
    return (
      interfaceNamed(ports, port ?? '')
        ?.addresses.filter((one) => one.family === family)
        .map(({ words }) => words) ?? []
    )
  }
}

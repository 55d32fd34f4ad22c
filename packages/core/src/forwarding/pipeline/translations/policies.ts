import { hostMatch, type DeviceModel, type Family } from '../../../model/index.ts'
import { ALL, NOTHING, type FieldName } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import { interfaceNamed } from '../../network/interfaces.ts'
import { RemainingPackets, between, type Translated, type Side, type Translator } from './translated.ts'
import type { ZonePolicies } from '../zones/zone-policies.ts'

type Rule = DeviceModel['nat'][number]
type Policy = DeviceModel['zonePolicies'][number]

/** Ports of a range that are translated one by one; more are not followed. */
const MOST_PORTS = 64

/**
 * Translation by virtual addresses and by policies: a destination that a virtual address stands for becomes the host
 * behind it before the lookup; sources become what the policy says that lets the packets through (common practice).
 */
export class PolicyTranslations implements Translator {
  constructor(
    readonly compiled: CompiledDevice,
    readonly zones: ZonePolicies,
  ) {}

  /** What becomes of packets; null where nothing translates them. */
  meet(changes: Side, branch: Branch): Translated[] | null {
    return changes === 'destination' ? this.#toVirtual(branch) : this.#fromPolicies(branch)
  }

  #toVirtual({ inInterface, set }: Branch): Translated[] | null {
    const nat = this.compiled.model?.nat ?? []
    const rules = nat.flatMap((rule, number) => (rule.kind === 'virtual address' ? [{ rule, number }] : []))
    if (rules.length === 0 || inInterface < 0) return null
    const { device, network } = this.compiled
    const taking = new RemainingPackets(network.headers.diagrams, set)
    for (const { rule, number } of rules) {
      const at = rule.interface === null ? null : interfaceNamed(device.interfaces, rule.interface)
      if (at && device.interfaces[inInterface] !== at) continue
      const pairs = this.#pairsOf(rule)
      if (pairs === null) {
        const doubt = `the virtual address ${rule.statement} is not supported`
        taking.take(this.#metBy(rule, null), (met) => ({ set: met, rewrite: null, doubt, rule: number }))
        continue
      }
      for (const { outer, inner, port } of pairs)
        taking.take(this.#metBy(rule, outer, port?.outer), (met) => ({
          set: met,
          rewrite: {
            fields: ['destinationClass', ...(port ? (['destinationPort'] as const) : [])] satisfies FieldName[],
            values: network.headers.all(
              network.headers.address('destination', hostMatch(inner)),
              port ? network.headers.value('destinationPort', port.inner) : ALL,
            ),
          },
          doubt: null,
          rule: number,
        }))
    }
    return taking.finish()
  }

  /** Packets that a virtual address takes. @param outer one of its addresses; null: all */
  #metBy({ destinations, destinationPorts, family }: Rule, outer: readonly number[] | null, port?: number): number {
    const { headers } = this.compiled.network
    const addresses = outer === null ? (between(destinations[0] ?? '', familyOf(destinations[0])) ?? []) : [outer]
    const ported = destinationPorts.length > 0
    return headers.all(
      outer === null && addresses.length === 0
        ? ALL
        : headers.any(addresses, (words) => headers.address('destination', hostMatch(words))),
      ported ? headers.all(headers.ported, headers.value('protocol', family === 'udp' ? 17 : 6)) : ALL,
      port !== undefined
        ? headers.value('destinationPort', port)
        : ported
          ? headers.any(destinationPorts, (range) => headers.range('destinationPort', range))
          : ALL,
    )
  }

  /** Address by address, and port by port, what stands for what; null where that is not one to one. */
  #pairsOf({
    changes,
    destinations,
    destinationPorts,
    address,
    ports,
    sources,
    family,
  }: Rule):
    | readonly {
        readonly outer: readonly number[]
        readonly inner: readonly number[]
        readonly port: { readonly outer: number; readonly inner: number } | null
      }[]
    | null {
    const [outer, inner] = [
      between(destinations[0] ?? '', familyOf(destinations[0])),
      between(address ?? '', familyOf(address ?? '')),
    ]
    const otherProtocol = destinationPorts.length > 0 && family !== null && family !== 'tcp' && family !== 'udp'
    if (changes === null || !outer || !inner || outer.length !== inner.length || sources.length > 0 || otherProtocol)
      return null
    const hosts = outer.map((one, i) => ({ outer: one, inner: inner[i] ?? one }))
    const [from, to] = destinationPorts[0] ?? []
    if (from === undefined || to === undefined) return hosts.map((host) => ({ ...host, port: null }))
    const first = Number(ports?.split('-')[0] ?? from)
    if (to - from >= MOST_PORTS || Number.isNaN(first)) return null
    return hosts.flatMap((host) =>
      Array.from({ length: to - from + 1 }, (_, i) => ({ ...host, port: { outer: from + i, inner: first + i } })),
    )
  }

  #fromPolicies(branch: Branch): Translated[] | null {
    const { model, network } = this.compiled
    if (
      !model ||
      branch.inInterface < 0 ||
      !model.zonePolicies.some(({ sourceTranslation }) => sourceTranslation !== null)
    )
      return null
    const taking = new RemainingPackets(network.headers.diagrams, branch.set)
    for (const { policy, set, sure } of this.zones.permitting(branch)) {
      if (policy.sourceTranslation === null && sure) {
        taking.take(set, (met) => ({ set: met, rewrite: null, doubt: null, rule: -1 }))
        continue
      }
      if (!sure) {
        const doubt = `it is unknown whether ${policy.name} translates the source`
        taking.take(set, (met) => ({ set: met, rewrite: null, doubt, rule: -1 }))
        continue
      }
      for (const family of ['ipv4', 'ipv6'] as const)
        taking.take(network.headers.diagrams.and(set, network.headers.family(family)), (met) =>
          this.#handedOut(policy, branch.outInterface, family, met),
        )
    }
    return taking.finish()
  }

  #handedOut(policy: Policy, outInterface: number, family: Family, set: number): Translated {
    const by = policy.sourceTranslation ?? ''
    const { device, model, network } = this.compiled
    const { headers } = network
    const number = model?.nat.findIndex(({ kind, statement }) => kind === 'pool' && statement === by) ?? -1
    const pool = model?.nat[number]
    const words =
      by === 'interface'
        ? (device.interfaces[outInterface]?.addresses ?? [])
            .filter((one) => one.family === family)
            .map((one) => one.words)
            .slice(0, 1)
        : between(pool?.address ?? '', family)
    if (!words || words.length === 0)
      return {
        set,
        rewrite: null,
        doubt:
          `what ${by === 'interface' ? 'the address of the interface' : `the pool ${by}`} translates to is ` +
          'not known',
        rule: number,
      }
    const values = headers.any(words, (one) => headers.address('source', hostMatch(one)))
    if (values === NOTHING) return { set, rewrite: null, doubt: `the pool ${by} holds no address`, rule: number }
    // Of several hosts behind one address any port may come out.
    return {
      set,
      rewrite: { fields: pool?.ports === 'same' ? ['source'] : ['source', 'sourcePort'], values },
      doubt: null,
      rule: number,
      by: {
        path: `zonePolicies[${model?.zonePolicies.indexOf(policy) ?? -1}]`,
        words: `${policy.name}: ${by === 'interface' ? 'the address of the interface' : `the pool ${by}`}`,
      },
    }
  }
}

function familyOf(text: string | undefined): Family {
  return text?.includes(':') ? 'ipv6' : 'ipv4'
}

import { FAMILIES, addressesIn, hostMatch, type DeviceModel } from '../../../model/index.ts'
import { ALL, NOTHING } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { Branch } from '../branch.ts'
import { interfaceNamed } from '../../network/interfaces.ts'
import { RemainingPackets, between, type Translated, type Side, type Translator } from './translated.ts'
import type { ZonePolicies } from '../zones/zone-policies.ts'

type Rule = DeviceModel['nat'][number]
interface Numbered {
  readonly rule: Rule
  readonly number: number
}

/**
 * Translation by one list of rules, of which the first that meets a packet changes its source, its destination or both.
 * Rules ask for the packet as it came: for the zone that its own destination lies in, not that of the host behind it
 * (common practice).
 */
export class RuleTranslations implements Translator {
  constructor(
    readonly compiled: CompiledDevice,
    readonly zones: ZonePolicies,
  ) {}

  /** What becomes of packets; null where the device has no rules. */
  meet(changes: Side, branch: Branch): Translated[] | null {
    const rules = (this.compiled.model?.nat ?? []).map((rule, number): Numbered => ({ rule, number }))
    if (rules.length === 0 || branch.inInterface < 0) return null
    const taking = new RemainingPackets(this.compiled.network.headers.diagrams, branch.set)
    if (changes === 'destination') for (const one of rules) this.#takeComing(one, branch, taking)
    else if (branch.translatedBy >= 0) {
      // The rule that changed its destination is the one that meets it.
      const rule = rules[branch.translatedBy]
      if (rule) taking.take(ALL, (met) => this.#sourceOf(rule, branch.outInterface, met))
    } else for (const one of rules) this.#takeGoing(one, branch, taking)
    return taking.finish()
  }

  #takeComing(one: Numbered, branch: Branch, taking: RemainingPackets): void {
    const { rule, number } = one
    if (!this.#isFrom(rule, branch.inInterface)) return
    const asked = this.#metBy(rule)
    const met = asked === null ? ALL : this.compiled.network.headers.all(asked, this.#toward(rule, branch.vrf))
    const doubt = asked === null ? `the match of the rule ${rule.statement} is not defined` : null
    taking.take(met, (set) =>
      doubt !== null || rule.kind !== 'rule'
        ? { set, rewrite: null, doubt: doubt ?? `the rule ${rule.statement} is not supported`, rule: number }
        : rule.address === null
          ? { set, rewrite: null, doubt: null, rule: -1 }
          : this.#destinationOf(one, set),
    )
  }

  #takeGoing(one: Numbered, { inInterface, outInterface }: Branch, taking: RemainingPackets): void {
    const { rule } = one
    // What a rule with another destination meets has been translated by then.
    if (rule.address !== null || !this.#isFrom(rule, inInterface) || !this.#isTo(rule, outInterface)) return
    taking.take(this.#metBy(rule) ?? ALL, (set) => this.#sourceOf(one, outInterface, set))
  }

  #isFrom({ fromZone }: Rule, port: number): boolean {
    return fromZone === null || fromZone.split(',').includes(this.zones.zoneOf(port) ?? '')
  }

  #isTo({ toZone, interface: name }: Rule, port: number): boolean {
    const { interfaces: ports } = this.compiled.device
    return (
      (toZone === null || toZone.split(',').includes(this.zones.zoneOf(port) ?? '')) &&
      (name === null || interfaceNamed(ports, name) === ports[port])
    )
  }

  /** Packets whose own destination leads to where a rule says. */
  #toward(rule: Rule, vrf: string | null): number {
    if (rule.toZone === null && rule.interface === null) return ALL
    const { headers } = this.compiled.network
    return headers.any(
      FAMILIES.flatMap((family) => this.compiled.table(vrf, family)?.parts ?? []),
      ({ set, action }) =>
        action?.hops.some((hop) => hop.kind === 'out' && this.#isTo(rule, this.compiled.interfaceNumber(hop.port)))
          ? set
          : NOTHING,
    )
  }

  /** Packets that a rule asks for by their ends and services; null where a name is not defined. */
  #metBy({ sources, destinations, list }: Rule): number | null {
    const parts = [
      this.zones.objects.addresses('source', sources),
      this.zones.objects.addresses('destination', destinations),
      list === null ? ALL : this.zones.objects.services([list]),
    ]
    return parts.includes(null) ? null : this.compiled.network.headers.all(...parts.map((part) => part ?? ALL))
  }

  #destinationOf({ rule, number }: Numbered, set: number): Translated {
    const { headers } = this.compiled.network
    const hosts = this.#hostsOf(rule.address ?? '')
    const port = rule.ports === null ? null : Number(rule.ports)
    if (hosts?.length !== 1 || (port !== null && Number.isNaN(port)))
      return { set, rewrite: null, doubt: `the target of the rule ${rule.statement} is not supported`, rule: number }
    return {
      set,
      rewrite: {
        fields: ['destinationClass', ...(port === null ? [] : (['destinationPort'] as const))],
        values: headers.all(
          headers.any(hosts, (words) => headers.address('destination', hostMatch(words))),
          port === null ? ALL : headers.value('destinationPort', port),
        ),
      },
      doubt: null,
      rule: number,
    }
  }

  #sourceOf({ rule, number }: Numbered, outInterface: number, set: number): Translated {
    if (rule.pool === null) return { set, rewrite: null, doubt: null, rule: number }
    const { headers } = this.compiled.network
    const own = this.compiled.device.interfaces[outInterface]?.addresses ?? []
    const hosts =
      rule.pool === 'interface'
        ? own
            .filter(({ family }) => family === 'ipv4')
            .map(({ words }) => words)
            .slice(0, 1)
        : this.#poolOf(rule.pool)
    if (!hosts || hosts.length === 0)
      return { set, rewrite: null, doubt: `what the rule ${rule.statement} translates to is not known`, rule: number }
    const values = headers.any(hosts, (words) => headers.address('source', hostMatch(words)))
    // Of several hosts behind one address any port may come out.
    return {
      set,
      rewrite: { fields: rule.chain === null ? ['source', 'sourcePort'] : ['source'], values },
      doubt: null,
      rule: number,
    }
  }

  #poolOf(pool: string): (readonly number[])[] | null {
    const parts = pool.split(',').map((text) => this.#hostsOf(text))
    return parts.includes(null) ? null : parts.flatMap((part) => part ?? [])
  }

  /** An address, a range or an object of one; null where it is none, or holds too many. */
  #hostsOf(text: string): readonly (readonly number[])[] | null {
    const group = this.compiled.model?.addressGroups.find(({ name }) => name === text)
    const [stated = text, ...more] = group?.members ?? []
    if (more.length > 0) return null
    const match = addressesIn(stated)
    if (match?.care.every((word) => word === 0xffffffff) && match.care.length > 0) return [match.value]
    return between(stated, stated.includes(':') ? 'ipv6' : 'ipv4')
  }
}

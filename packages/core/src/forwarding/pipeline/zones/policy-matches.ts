import type { DeviceModel } from '../../../model/index.ts'
import { ALL, NOTHING } from '../../../headers/index.ts'
import type { CompiledDevice } from '../compiled.ts'
import type { NamedObjects } from '../named-objects.ts'

export type Policy = DeviceModel['zonePolicies'][number]
type Rule = DeviceModel['nat'][number]

/** Rules by which a virtual address stands for a host (`nat` of the model). */
const VIRTUAL = 'virtual address'

/** The packets that policies between zones name, as packets are where they are asked. */
export class PolicyMatches {
  /** By policy, and by the rule that translated the destination of packets. */
  readonly #matches = new Map<Policy, Map<number, { set: number; doubt: string | null }>>()

  constructor(
    readonly compiled: CompiledDevice,
    readonly objects: NamedObjects,
  ) {}

  /** @param translatedBy the rule by which the destination was translated; -1: it was not */
  of(policy: Policy, translatedBy: number): { set: number; doubt: string | null } {
    let known = this.#matches.get(policy)
    if (!known) this.#matches.set(policy, (known = new Map()))
    let match = known.get(translatedBy)
    if (!match) known.set(translatedBy, (match = this.#make(policy, this.compiled.model?.nat[translatedBy] ?? null)))
    return match
  }

  /** @param rule by which the destination was translated; null: it was not */
  #make(policy: Policy, rule: Rule | null): { set: number; doubt: string | null } {
    const { headers } = this.compiled.network
    const { name, notWeighed } = policy
    const doubts: string[] = []
    const ends = this.#endsOf(policy, rule, doubts)
    const sources = this.objects.addresses('source', policy.sources)
    if (sources === null)
      doubts.push(`${name} names ${this.objects.undefinedAddress(policy.sources)}, which is not defined`)
    const asked = this.objects.services(policy.applications)
    const services = this.#servicesOf(policy, rule, doubts)
    if (asked === null)
      doubts.push(`${name} names ${this.objects.undefinedService(policy.applications)}, which is not defined`)
    if (notWeighed.length > 0) doubts.push(`${name} has “${notWeighed[0] ?? ''}”, which is not evaluated`)
    return { set: headers.all(sources ?? ALL, ends, services ?? ALL), doubt: doubts[0] ?? null }
  }

  /** The destinations of a policy as packets have them where it is asked. */
  #endsOf({ name, destinations }: Policy, rule: Rule | null, doubts: string[]): number {
    const virtuals = destinations.filter((one) => this.#virtualsIn(one).length > 0)
    const plain = destinations.filter((one) => !virtuals.includes(one))
    const stated = virtuals.length > 0 && plain.length === 0 ? NOTHING : this.objects.addresses('destination', plain)
    if (stated === null) doubts.push(`${name} names ${this.objects.undefinedAddress(plain)}, which is not defined`)
    const ends = stated ?? ALL
    if (rule === null) return ends
    if (rule.kind === VIRTUAL) {
      // What was sent to a virtual address is met by the policies that name it; what was not, by their other ends.
      if (virtuals.some((one) => this.#virtualsIn(one).includes(rule.statement))) return ALL
      if (ends !== NOTHING) doubts.push(`${name} does not name ${rule.statement}, to which the packet was sent`)
      return ends
    }
    if (this.compiled.device.rules.translation !== 'rules') return ends
    // A policy is asked for the address that the packet was sent to.
    return this.#throughout(this.objects.addresses('destination', rule.destinations), ends, () =>
      doubts.push(`${name} is of some of the addresses that ${rule.statement} translates`),
    )
  }

  #servicesOf({ name, applications }: Policy, rule: Rule | null, doubts: string[]): number | null {
    const asked = this.objects.services(applications)
    const byRule = this.compiled.device.rules.translation === 'rules'
    if (asked === null || rule === null || !byRule || rule.ports === null) return asked
    const before = rule.list === null ? ALL : this.objects.services([rule.list])
    return this.#throughout(before, asked, () =>
      doubts.push(`${name} is of some of the ports that ${rule.statement} translates`),
    )
  }

  /** Whether what packets were is within what is asked: all of them, or none; told where neither, or not known. */
  #throughout(were: number | null, asked: number, tell: () => void): number {
    const { diagrams } = this.compiled.network.headers
    if (asked === ALL || (were !== null && diagrams.minus(were, asked) === NOTHING)) return ALL
    if (were !== null && diagrams.and(were, asked) === NOTHING) return NOTHING
    tell()
    return ALL
  }

  /** The virtual addresses that a name stands for: its own, or those of its group. */
  #virtualsIn(name: string): readonly string[] {
    const nat = this.compiled.model?.nat ?? []
    if (nat.some(({ kind, statement }) => kind === VIRTUAL && statement === name)) return [name]
    const group = nat.find(({ kind, statement }) => kind === 'virtual group' && statement === name)
    return group?.destinations ?? []
  }
}

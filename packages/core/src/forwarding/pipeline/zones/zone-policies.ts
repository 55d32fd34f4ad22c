import type { DeviceModel } from '../../../model/index.ts'
import { ALL, NOTHING } from '../../../headers/index.ts'
import { sameName } from '../../../rules/index.ts'
import type { Branch } from '../branch.ts'
import type { CompiledDevice } from '../compiled.ts'
import { NamedObjects } from '../named-objects.ts'
import { exhibitsOf, type Exhibit } from '../../network/exhibit.ts'
import { allDenied, inTurn, type Asked, type ZoneDecision } from './decision.ts'
import { inboundOf } from './inbound.ts'
import { PolicyMatches, type Policy } from './policy-matches.ts'
import { TrafficClasses } from './traffic-classes.ts'

/** Whether a zone is one of some; none: all are meant. */
function isAmong(zone: string, zones: readonly string[]): boolean {
  return zones.length === 0 || zones.includes('any') || zones.includes(zone)
}

type PolicyAsked = Asked & { readonly policy: Policy }

/** The zone of the device itself. */
const SELF = 'self'

/** Policies between zones: what may go from one to another. What no policy permits is denied (common practice). */
export class ZonePolicies {
  readonly objects: NamedObjects
  readonly #matches: PolicyMatches
  readonly #classes: TrafficClasses

  constructor(readonly compiled: CompiledDevice) {
    this.objects = new NamedObjects(compiled)
    this.#matches = new PolicyMatches(compiled, this.objects)
    this.#classes = new TrafficClasses(compiled, this.objects)
  }

  /**
   * Null where the device has no zones, or the two interfaces are free to talk.
   * @param outInterface -1: to the device itself; `inInterface` -1: from it
   */
  decide({ inInterface, outInterface, set, translatedBy }: Branch, established: boolean): ZoneDecision | null {
    const model = this.compiled.model
    if (!model || model.zones.length === 0) return null
    if (this.compiled.device.rules.zones === 'pairs')
      return this.#inspected(inInterface, outInterface, set, established)
    if (inInterface < 0 || outInterface < 0 || established) return null
    const [from, to] = [this.zoneOf(inInterface), this.zoneOf(outInterface)]
    if (from === null || to === null)
      return allDenied(
        set,
        `${this.compiled.device.interfaces[from === null ? inInterface : outInterface]?.name ?? ''} is in no zone`,
      )
    const asked = this.#askedBetween(from, to, translatedBy)
    const last = model.zonePolicies.findIndex(({ scope }) => scope === 'default')
    const open = model.zonePolicies[last]?.action === 'permit'
    return inTurn(this.compiled.network.headers.diagrams, set, asked, `from zone ${from} to ${to}`, {
      open,
      words:
        `no policy from ${from} to ${to} ${asked.length > 0 ? 'matches' : 'exists'}: ` +
        `${open ? 'permitted' : 'denied'}`,
      exhibits:
        last < 0 ? this.#zonesExhibits(from, to) : exhibitsOf(this.compiled.device, 'model', `zonePolicies[${last}]`),
    })
  }

  /** The policies between two zones in the order in which they are asked. */
  #askedBetween(from: string, to: string, translatedBy: number): PolicyAsked[] {
    const all = this.compiled.model?.zonePolicies ?? []
    // Those of the pair first, then those of all zones, then what holds within a zone (common practice).
    const policies = [
      ...all.filter((policy) => policy.scope === 'pair' && policy.from === from && policy.to === to),
      ...(['global', 'within'] as const).flatMap((scope) =>
        all.filter(
          (policy) => policy.scope === scope && isAmong(from, policy.fromZones) && isAmong(to, policy.toZones),
        ),
      ),
    ]
    return policies.map((policy): PolicyAsked => {
      const { set: named, doubt } = this.#matches.of(policy, translatedBy)
      const action =
        policy.action === 'permit' ? 'permit' : policy.action === 'deny' || policy.action === 'reject' ? 'deny' : null
      return {
        policy,
        set: named,
        doubt: doubt ?? (action === null ? `the action ${policy.action ?? ''} of ${policy.name} is not read` : null),
        sure: doubt === null && action !== null,
        action,
        words: `${policy.name}, from ${from} to ${to}: ${policy.action ?? ''}`,
        exhibits: exhibitsOf(this.compiled.device, 'model', `zonePolicies[${all.indexOf(policy)}]`),
      }
    })
  }

  /** Which policies let packets through, each with those that it is the first to meet. */
  permitting({
    inInterface,
    outInterface,
    set,
    translatedBy,
  }: Branch): readonly { readonly policy: Policy; readonly set: number; readonly sure: boolean }[] {
    const [from, to] = [this.zoneOf(inInterface), this.zoneOf(outInterface)]
    if (from === null || to === null) return []
    const { diagrams } = this.compiled.network.headers
    let left = set
    return this.#askedBetween(from, to, translatedBy).flatMap((one) => {
      const met = diagrams.and(left, one.set)
      if (met === NOTHING) return []
      if (one.sure) left = diagrams.minus(left, met)
      return one.action === 'deny' ? [] : [{ policy: one.policy, set: met, sure: one.sure }]
    })
  }

  /**
   * In the dialect of lines in blocks a pair of zones has a policy whose classes are asked in turn; what none meets is
   * dropped. Ports of one zone, or of none, are free to talk, and so is the device itself where no pair names it
   * (common practice).
   */
  #inspected(inInterface: number, outInterface: number, set: number, established: boolean): ZoneDecision | null {
    const model = this.compiled.model as DeviceModel
    const [from, to] = [
      inInterface < 0 ? SELF : this.zoneOf(inInterface),
      outInterface < 0 ? SELF : this.zoneOf(outInterface),
    ]
    if (from === to) return null
    if (from === null || to === null)
      return from === SELF || to === SELF
        ? null
        : allDenied(
            set,
            `${this.compiled.device.interfaces[from === null ? inInterface : outInterface]?.name ?? ''} is in no zone`,
          )
    const name = `from zone ${from} to ${to}`
    const at = model.zonePolicies.findIndex((one) => one.from === from && one.to === to)
    const pair = model.zonePolicies[at]
    const exhibits = exhibitsOf(this.compiled.device, 'model', `zonePolicies[${at}]`)
    if (established) {
      // What is inspected is remembered; what is passed is not, and its answers need a pair of their own.
      const passing = this.#policyOf(model.zonePolicies.find((one) => one.from === to && one.to === from)).some(
        ({ action }) => action === 'pass',
      )
      return passing
        ? {
            permitted: set,
            denied: set,
            inspected: NOTHING,
            name,
            doubt: `the pair from ${to} to ${from} passes packets without a session`,
            lines: [],
          }
        : null
    }
    if (!pair)
      return from === SELF || to === SELF ? null : allDenied(set, `no pair ${name}`, this.#zonesExhibits(from, to))
    const policy = model.trafficPolicies.findIndex((one) => one.name === pair.action)
    if (pair.action === null || policy < 0)
      return {
        permitted: set,
        denied: set,
        inspected: NOTHING,
        name,
        doubt:
          pair.action === null ? `the pair ${pair.name} has no policy` : `the policy ${pair.action} is not defined`,
        lines: [{ words: pair.name, exhibits, stops: false }],
      }
    const asked = this.#policyOf(pair).map(({ class: kind, action }, i): Asked => {
      const { set: named, doubt } = kind === 'class-default' ? { set: ALL, doubt: null } : this.#classes.of(kind)
      const done =
        action === 'inspect' || action === 'pass' ? 'permit' : action === 'drop' || action === null ? 'deny' : null
      return {
        set: named,
        doubt,
        sure: doubt === null,
        action: done,
        passes: action === 'pass',
        words: `${pair.name}, class ${kind}: ${action ?? 'drop'}`,
        exhibits: [
          ...exhibits,
          ...exhibitsOf(this.compiled.device, 'model', `trafficPolicies[${policy}].inspections[${i}]`),
        ],
      }
    })
    return inTurn(this.compiled.network.headers.diagrams, set, asked, name, {
      open: false,
      words: `no class of ${pair.action} matches: dropped`,
      exhibits,
    })
  }

  #policyOf(pair: Policy | undefined): DeviceModel['trafficPolicies'][number]['inspections'] {
    return this.compiled.model?.trafficPolicies.find(({ name }) => name === pair?.action)?.inspections ?? []
  }

  #zonesExhibits(from: string, to: string): Exhibit[] {
    const zones = this.compiled.model?.zones ?? []
    return zones.flatMap(({ name }, i) =>
      name === from || name === to ? exhibitsOf(this.compiled.device, 'model', `zones[${i}]`) : [],
    )
  }

  /** What a zone lets in to the device itself by one of its interfaces; null where the device has no zones. */
  inbound(inInterface: number, set: number): ZoneDecision | null {
    return inboundOf(this.compiled, this.objects, inInterface, set)
  }

  zoneOf(port: number): string | null {
    const one = this.compiled.device.interfaces[port]
    if (!one) return null
    return (
      one.zone ??
      this.compiled.model?.zones.find(({ interfaces }) => interfaces.some((name) => sameName(name, one.name)))?.name ??
      null
    )
  }
}

import type { DeviceModel } from '../../model/index.ts'
import { PROTOCOLS } from '../../model/names.ts'
import { ALL, NOTHING } from '../../headers/index.ts'
import type { CompiledDevice } from './compiled.ts'
import { NamedObjects } from './named-objects.ts'
import type { Branch } from './branch.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import { sameName } from '../../rules/index.ts'

type Policy = DeviceModel['zonePolicies'][number]

export interface ZoneDecision {
  readonly permitted: number
  readonly denied: number
  /** Of what is permitted the packets of which a session is kept. */
  readonly inspected: number
  /** Of what decided, in words. */
  readonly name: string
  readonly doubt: string | null
  readonly lines: readonly { readonly words: string; readonly exhibits: readonly Exhibit[]; readonly stops: boolean }[]
}

/** A policy, or a class of one, as it is asked. */
interface Asked {
  readonly set: number
  readonly doubt: string | null
  /** Whether it is known to meet all of its set. */
  readonly sure: boolean
  /** Null where what it does is not read. */
  readonly action: 'permit' | 'deny' | null
  /** Whether what it permits passes without a session. */
  readonly passes?: boolean
  readonly words: string
  readonly exhibits: readonly Exhibit[]
}

/** Whether a zone is one of some; none: all are meant. */
function isAmong(zone: string, zones: readonly string[]): boolean {
  return zones.length === 0 || zones.includes('any') || zones.includes(zone)
}

/** Rules by which a virtual address stands for a host (`nat` of the model). */
const VIRTUAL = 'virtual address'

type Rule = DeviceModel['nat'][number]
type PolicyAsked = Asked & { readonly policy: Policy }

/** The zone of the device itself. */
const SELF = 'self'

/** Policies between zones: what may go from one to another. What no policy permits is denied (common practice). */
export class ZonePolicies {
  /** By policy, and by the rule that translated the destination of packets. */
  readonly #matches = new Map<Policy, Map<number, { set: number; doubt: string | null }>>()
  /** By name: what asks for itself in turn is not known while it is made. */
  readonly #classes = new Map<string, { set: number; doubt: string | null }>()
  readonly objects: NamedObjects

  constructor(readonly compiled: CompiledDevice) {
    this.objects = new NamedObjects(compiled)
  }

  /**
   * Null where the device has no zones, or the two ports are free to talk.
   * @param outPort -1: to the device itself; `inPort` -1: from it
   */
  decide({ inPort, outPort, set, translatedBy }: Branch, established: boolean): ZoneDecision | null {
    const model = this.compiled.model
    if (!model || model.zones.length === 0) return null
    if (this.compiled.device.rules.zones === 'pairs') return this.#inspected(inPort, outPort, set, established)
    if (inPort < 0 || outPort < 0 || established) return null
    const [from, to] = [this.zoneOf(inPort), this.zoneOf(outPort)]
    if (from === null || to === null)
      return this.#end(set, `${this.compiled.device.ports[from === null ? inPort : outPort]?.name ?? ''} is in no zone`)
    const asked = this.#askedBetween(from, to, translatedBy)
    const last = model.zonePolicies.findIndex(({ scope }) => scope === 'default')
    const open = model.zonePolicies[last]?.action === 'permit'
    return this.#inTurn(set, asked, `from zone ${from} to ${to}`, {
      open,
      words: `no policy from ${from} to ${to} ${asked.length > 0 ? 'meets it' : 'exists'}: ${open ? 'permitted' : 'denied'}`,
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
      const { set: named, doubt } = this.#matchOf(policy, translatedBy)
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
    inPort,
    outPort,
    set,
    translatedBy,
  }: Branch): readonly { readonly policy: Policy; readonly set: number; readonly sure: boolean }[] {
    const [from, to] = [this.zoneOf(inPort), this.zoneOf(outPort)]
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
  #inspected(inPort: number, outPort: number, set: number, established: boolean): ZoneDecision | null {
    const model = this.compiled.model as DeviceModel
    const [from, to] = [inPort < 0 ? SELF : this.zoneOf(inPort), outPort < 0 ? SELF : this.zoneOf(outPort)]
    if (from === to) return null
    if (from === null || to === null)
      return from === SELF || to === SELF
        ? null
        : this.#end(set, `${this.compiled.device.ports[from === null ? inPort : outPort]?.name ?? ''} is in no zone`)
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
            doubt: `the pair ${name.replace(/^from zone (.+) to (.+)$/, 'from $2 to $1')} passes packets without remembering them`,
            lines: [],
          }
        : null
    }
    if (!pair)
      return from === SELF || to === SELF ? null : this.#end(set, `no pair ${name}`, this.#zonesExhibits(from, to))
    const policy = model.trafficPolicies.findIndex((one) => one.name === pair.action)
    if (pair.action === null || policy < 0)
      return {
        permitted: set,
        denied: set,
        inspected: NOTHING,
        name,
        doubt:
          pair.action === null ? `the pair ${pair.name} names no policy` : `the policy ${pair.action} is not defined`,
        lines: [{ words: pair.name, exhibits, stops: false }],
      }
    const asked = this.#policyOf(pair).map(({ class: kind, action }, i): Asked => {
      const { set: named, doubt } = kind === 'class-default' ? { set: ALL, doubt: null } : this.#classOf(kind)
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
    return this.#inTurn(set, asked, name, {
      open: false,
      words: `no class of ${pair.action} meets it: dropped`,
      exhibits,
    })
  }

  #policyOf(pair: Policy | undefined): DeviceModel['trafficPolicies'][number]['inspections'] {
    return this.compiled.model?.trafficPolicies.find(({ name }) => name === pair?.action)?.inspections ?? []
  }

  /** The packets of a class, by lists and protocols that it names. */
  #classOf(name: string): { set: number; doubt: string | null } {
    const known = this.#classes.get(name)
    if (known) return known
    this.#classes.set(name, { set: ALL, doubt: `the class ${name} is not defined` })
    const made = this.#makeClass(name)
    this.#classes.set(name, made)
    return made
  }

  #makeClass(name: string): { set: number; doubt: string | null } {
    const { headers } = this.compiled.network
    const { lists, model } = this.compiled
    const found = model?.trafficClasses.find((one) => one.name === name)
    if (!found) return { set: ALL, doubt: `the class ${name} is not defined` }
    let doubt: string | null = null
    const sets = found.matches.map((stated): number => {
      // `match not …`: of all others.
      const text = stated.replace(/^not /, '')
      const met = ((): number => {
        const [, list] = /^access-group (?:name )?(\S+)$/.exec(text) ?? []
        const [, protocol] = /^protocol (\S+)$/.exec(text) ?? []
        const [, inner] = /^class-map (\S+)$/.exec(text) ?? []
        if (list !== undefined) {
          const known = (['ipv4', 'ipv6'] as const).flatMap((family) => lists.list(list, family) ?? [])
          if (known.length > 0)
            return headers.any(
              known,
              (one) =>
                lists.decide(one, headers.family(one.family), {
                  inInterface: null,
                  outInterface: null,
                  connection: 'new',
                }).permitted,
            )
        }
        if (inner !== undefined) {
          const nested = this.#classOf(inner)
          doubt ??= nested.doubt
          return nested.set
        }
        const known =
          protocol === undefined
            ? null
            : protocol === 'tcp' || protocol === 'udp'
              ? headers.value('protocol', PROTOCOLS[protocol] ?? 0)
              : this.objects.service(protocol === 'dns' ? 'domain' : protocol)
        if (known === null) doubt ??= `the class ${name} asks for “${text}”, which is not read`
        return known ?? ALL
      })()
      return stated === text ? met : headers.diagrams.not(met)
    })
    if (sets.length === 0) return { set: NOTHING, doubt }
    return { set: found.any === true ? headers.any(sets, (set) => set) : headers.all(...sets), doubt }
  }

  /** The first that meets a packet decides it. */
  #inTurn(
    set: number,
    asked: readonly Asked[],
    name: string,
    end: { readonly open: boolean; readonly words: string; readonly exhibits: readonly Exhibit[] },
  ): ZoneDecision {
    const { diagrams } = this.compiled.network.headers
    let [left, permitted, denied, inspected] = [set, NOTHING, NOTHING, NOTHING]
    let doubt: string | null = null
    const lines: { words: string; exhibits: readonly Exhibit[]; stops: boolean }[] = []
    for (const one of asked) {
      const met = diagrams.and(left, one.set)
      if (met === NOTHING) continue
      if (one.action !== 'deny') permitted = diagrams.or(permitted, met)
      if (one.action !== 'deny' && one.passes !== true) inspected = diagrams.or(inspected, met)
      if (one.action !== 'permit') denied = diagrams.or(denied, met)
      doubt ??= one.doubt
      // Of a match that cannot be weighed the packets may go on to the next.
      if (one.sure) left = diagrams.minus(left, met)
      lines.push({
        words: `${one.words}${one.sure ? '' : ', perhaps'}`,
        exhibits: one.exhibits,
        stops: one.action === 'deny',
      })
    }
    if (left !== NOTHING) {
      if (end.open) [permitted, inspected] = [diagrams.or(permitted, left), diagrams.or(inspected, left)]
      else denied = diagrams.or(denied, left)
      lines.push({ words: end.words, exhibits: end.exhibits, stops: !end.open })
    }
    return { permitted, denied, inspected, name, doubt, lines }
  }

  #end(set: number, words: string, exhibits: readonly Exhibit[] = []): ZoneDecision {
    return {
      permitted: NOTHING,
      denied: set,
      inspected: NOTHING,
      name: words,
      doubt: null,
      lines: [{ words, exhibits, stops: true }],
    }
  }

  #zonesExhibits(from: string, to: string): Exhibit[] {
    const zones = this.compiled.model?.zones ?? []
    return zones.flatMap(({ name }, i) =>
      name === from || name === to ? exhibitsOf(this.compiled.device, 'model', `zones[${i}]`) : [],
    )
  }

  /**
   * What a zone lets in to the device itself by one of its ports, and what it stops; null where the device has no
   * zones. What is not named is dropped (common practice).
   */
  inbound(inPort: number, set: number): ZoneDecision | null {
    const { model, device, network } = this.compiled
    if (!model || model.zones.length === 0 || inPort < 0) return null
    const port = device.ports[inPort]?.name ?? ''
    const at = model.zones.findIndex(({ interfaces }) => interfaces.some((name) => sameName(name, port)))
    const zone = model.zones[at]
    if (!zone) return this.#end(set, `${port} is in no zone`)
    const own = zone.ownInbound.find(({ interface: name }) => sameName(name, port))
    const { services, protocols } = own ?? zone.inbound
    const { diagrams } = network.headers
    let doubt: string | null = null
    const setOf = (name: string, known: (name: string) => number | null): number => {
      const found = name === 'all' || name === 'any-service' ? ALL : known(name)
      if (found === null) doubt ??= `zone ${zone.name} lets in “${name}”, which is not known`
      return found ?? ALL
    }
    const named = (names: readonly string[], known: (name: string) => number | null): number =>
      diagrams.minus(
        network.headers.any(
          names.filter((name) => !name.startsWith('!')),
          (name) => setOf(name, known),
        ),
        network.headers.any(
          names.filter((name) => name.startsWith('!')),
          (name) => setOf(name.slice(1), known),
        ),
      )
    const wanted = diagrams.or(
      named(services, (name) => this.#service(name)),
      named(protocols, (name) => this.#routing(name)),
    )
    const permitted = diagrams.and(set, wanted)
    // What is let in by a name that is not known may be let in, or not.
    const denied = doubt === null ? diagrams.minus(set, wanted) : set
    const words = `zone ${zone.name} lets in to the device ${[...services, ...protocols].join(', ') || 'nothing'}`
    return {
      permitted,
      denied,
      inspected: NOTHING,
      name: words,
      doubt,
      lines: [{ words, exhibits: exhibitsOf(device, 'model', `zones[${at}]`), stops: denied !== NOTHING }],
    }
  }

  /** What a service of the device is asked by (common practice for names that are no service of IANA's). */
  #service(name: string): number | null {
    const { headers } = this.compiled.network
    const udp = (...ports: readonly number[]): number =>
      headers.all(
        headers.ported,
        headers.value('protocol', 17),
        headers.any(ports, (port) => headers.value('destinationPort', port)),
      )
    const tcp = (port: number): number =>
      headers.all(headers.ported, headers.value('protocol', 6), headers.value('destinationPort', port))
    switch (name) {
      case 'netconf':
        return tcp(830)
      case 'dhcp':
      case 'bootp':
        return udp(67, 68)
      case 'ike':
        return udp(500, 4500)
      case 'dns':
        return this.objects.service('domain')
      case 'traceroute':
        return headers.all(
          headers.ported,
          headers.value('protocol', 17),
          headers.range('destinationPort', [33434, 33523]),
        )
      case 'snmp-trap':
        return udp(162)
      default:
        return this.objects.service(name)
    }
  }

  #routing(name: string): number | null {
    const { headers } = this.compiled.network
    const number = { ospf: 89, ospf3: 89, vrrp: 112, pim: 103, igmp: 2, rsvp: 46 }[name]
    if (number !== undefined) return headers.value('protocol', number)
    if (name === 'bgp')
      return headers.all(
        headers.ported,
        headers.value('protocol', 6),
        headers.any(['sourcePort', 'destinationPort'] as const, (field) => headers.value(field, 179)),
      )
    if (name === 'bfd')
      return headers.all(headers.ported, headers.value('protocol', 17), headers.range('destinationPort', [3784, 3785]))
    if (name === 'rip')
      return headers.all(headers.ported, headers.value('protocol', 17), headers.value('destinationPort', 520))
    return name === 'router-discovery' ? headers.icmp : null
  }

  zoneOf(port: number): string | null {
    const one = this.compiled.device.ports[port]
    if (!one) return null
    return (
      one.zone ??
      this.compiled.model?.zones.find(({ interfaces }) => interfaces.some((name) => sameName(name, one.name)))?.name ??
      null
    )
  }

  /** @param translatedBy the rule by which the destination was translated; -1: it was not */
  #matchOf(policy: Policy, translatedBy: number): { set: number; doubt: string | null } {
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
    if (notWeighed.length > 0) doubts.push(`${name} says “${notWeighed[0] ?? ''}”, which is not weighed`)
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

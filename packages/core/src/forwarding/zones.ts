import { addressesIn, type AddressMatch, type DeviceModel, type Range } from '../model/index.ts'
import { PORTS, PROTOCOLS } from '../model/names.ts'
import { ALL, NOTHING } from '../packets/index.ts'
import type { CompiledDevice } from './compiled.ts'
import { exhibitsOf, type Exhibit } from './device.ts'
import { sameName } from '../rules/index.ts'

type Policy = DeviceModel['zonePolicies'][number]

export interface ZoneDecision {
  readonly permitted: number
  readonly denied: number
  /** Of what decided, in words. */
  readonly name: string
  readonly doubt: string | null
  readonly lines: readonly { readonly words: string; readonly exhibits: readonly Exhibit[] }[]
}

/** Policies between zones: what may go from one to another. What no policy permits is denied (common practice). */
export class ZonePolicies {
  readonly #matches = new Map<Policy, { set: number; doubt: string | null }>()

  constructor(readonly compiled: CompiledDevice) {}

  /** Null where the device has no zones, or the two ports are free to talk. */
  decide(inPort: number, outPort: number, set: number, established: boolean): ZoneDecision | null {
    const model = this.compiled.model
    if (!model || inPort < 0 || established || model.zones.length === 0) return null
    const [from, to] = [this.#zoneOf(inPort), this.#zoneOf(outPort)]
    const indented = this.compiled.device.dialect === 'indented'
    // In the dialect of lines in blocks, ports of one zone, or of none, are free to talk.
    if (indented && from === to) return null
    if (from === null || to === null) return this.#end(set, `${this.compiled.device.ports[from === null ? inPort : outPort]?.name ?? ''} is in no zone`)
    const policies = model.zonePolicies.filter((policy) => policy.from === from && policy.to === to)
    const { diagrams } = this.compiled.network.headers
    let [left, permitted, denied] = [set, NOTHING, NOTHING]
    let doubt: string | null = null
    const lines: { words: string; exhibits: readonly Exhibit[] }[] = []
    for (const policy of policies) {
      const match = indented ? { set: ALL, doubt: `what ${policy.action ?? ''} does is not read` } : this.#matchOf(policy)
      const met = diagrams.and(left, match.set)
      if (met === NOTHING) continue
      const action = policy.action === 'permit' ? 'permit' : policy.action === 'deny' || policy.action === 'reject' ? 'deny' : null
      if (action !== 'deny') permitted = diagrams.or(permitted, met)
      if (action !== 'permit') denied = diagrams.or(denied, met)
      doubt ??= match.doubt ?? (action === null ? `the action ${policy.action ?? ''} of ${policy.name} is not read` : null)
      if (match.doubt === null) left = diagrams.minus(left, met)
      lines.push({ words: `${policy.name}, from ${from} to ${to}: ${policy.action ?? ''}${match.doubt === null ? '' : ', perhaps'}`, exhibits: exhibitsOf(this.compiled.device, 'model', `zonePolicies[${model.zonePolicies.indexOf(policy)}]`) })
    }
    if (left !== NOTHING) {
      const last = model.zonePolicies.findIndex(({ from: any }) => any === 'any')
      const open = model.zonePolicies[last]?.action === 'permit'
      if (open) permitted = diagrams.or(permitted, left)
      else denied = diagrams.or(denied, left)
      lines.push({ words: `no policy from ${from} to ${to} ${policies.length > 0 ? 'meets it' : 'exists'}: ${open ? 'permitted' : 'denied'}`, exhibits: last < 0 ? this.#zonesExhibits(from, to) : exhibitsOf(this.compiled.device, 'model', `zonePolicies[${last}]`) })
    }
    return { permitted, denied, name: `from zone ${from} to ${to}`, doubt, lines }
  }

  #end(set: number, words: string): ZoneDecision {
    return { permitted: NOTHING, denied: set, name: words, doubt: null, lines: [{ words, exhibits: [] }] }
  }

  #zonesExhibits(from: string, to: string): Exhibit[] {
    const zones = this.compiled.model?.zones ?? []
    return zones.flatMap(({ name }, i) => (name === from || name === to ? exhibitsOf(this.compiled.device, 'model', `zones[${i}]`) : []))
  }

  #zoneOf(port: number): string | null {
    const one = this.compiled.device.ports[port]
    if (!one) return null
    return one.zone ?? this.compiled.model?.zones.find(({ interfaces }) => interfaces.some((name) => sameName(name, one.name)))?.name ?? null
  }

  #matchOf(policy: Policy): { set: number; doubt: string | null } {
    let match = this.#matches.get(policy)
    if (!match) this.#matches.set(policy, (match = this.#make(policy)))
    return match
  }

  #make({ name, sources, destinations, applications }: Policy): { set: number; doubt: string | null } {
    const { headers } = this.compiled.network
    let doubt: string | null = null
    const any = (names: readonly string[], setOf: (one: string) => number | null): number => {
      const sets = names.map((one) => (one === 'any' ? ALL : setOf(one)))
      const at = sets.indexOf(null)
      if (at >= 0) doubt = `${name} names ${names[at] ?? ''}, which is not defined`
      return names.length === 0 || at >= 0 ? ALL : headers.any(sets, (set) => set ?? NOTHING)
    }
    const places = (side: 'source' | 'destination') => (one: string): number | null => {
      const members = this.#members(one, new Set())
      return members && headers.any(members, (match) => headers.address(side, match))
    }
    const set = headers.all(any(sources, places('source')), any(destinations, places('destination')), any(applications, (one) => this.#application(one, new Set())))
    return { set, doubt }
  }

  #members(name: string, seen: ReadonlySet<string>): AddressMatch[] | null {
    const group = this.compiled.model?.addressGroups.find((one) => one.name === name)
    if (!group || seen.has(name)) return null
    const members: AddressMatch[] = []
    for (const text of group.members) {
      const match = addressesIn(text)
      const inner = match ? [match] : this.#members(text, new Set([...seen, name]))
      if (!inner) return null
      members.push(...inner)
    }
    return members
  }

  /** One that the device defines, else a service that is known by its name. */
  #application(name: string, seen: ReadonlySet<string>): number | null {
    const { headers } = this.compiled.network
    const own = this.compiled.model?.applications.find((one) => one.name === name)
    if (own && !seen.has(name)) {
      if (own.members.length > 0) {
        const sets = own.members.map((member) => this.#application(member, new Set([...seen, name])))
        return sets.includes(null) ? null : headers.any(sets, (set) => set ?? NOTHING)
      }
      const protocol = own.protocol === null ? null : /^\d+$/.test(own.protocol) ? Number(own.protocol) : PROTOCOLS[own.protocol]
      if (protocol === undefined) return null
      const ports = (field: 'sourcePort' | 'destinationPort', ranges: readonly (readonly [number, number])[]): number => (ranges.length === 0 ? ALL : headers.all(headers.ported, headers.any(ranges, (range: Range) => headers.range(field, range))))
      return headers.all(protocol === null ? ALL : headers.value('protocol', protocol), ports('sourcePort', own.sourcePorts), ports('destinationPort', own.destinationPorts))
    }
    if (name === 'icmp' || name === 'ping') return name === 'icmp' ? headers.icmp : headers.all(headers.icmp, headers.any([8, 128], (type) => headers.value('icmpType', type)))
    const [tcp, udp] = [PORTS.tcp[name], PORTS.udp[name]]
    if (tcp === undefined && udp === undefined) return null
    const served = (protocol: number, port: number | undefined): number => (port === undefined ? NOTHING : headers.all(headers.ported, headers.value('protocol', protocol), headers.value('destinationPort', port)))
    return headers.diagrams.or(served(6, tcp), served(17, udp))
  }
}

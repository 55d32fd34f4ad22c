import { addressWords, hostMatch, prefixMatch, type Family } from '../model/index.ts'
import { NOTHING } from '../packets/index.ts'
import type { CompiledDevice } from './compiled.ts'
import type { Context, Fate, PassageOutcome, Reason } from './passage.ts'
import { inSubnet, type Port, type PortAddress } from './ports.ts'
import type { Attachment } from './topology.ts'
import type { Tunnels } from './tunnels.ts'

interface Leaving {
  readonly set: number
  readonly context: Context | null
  readonly outPort: number
  readonly gateway: string | null
}

/** Who takes packets over from a device: the port next door that has the address, a host, or the world outside. */
export class Neighbours {
  constructor(
    readonly compiled: CompiledDevice,
    readonly tunnels: Tunnels,
  ) {}

  next({ set, context, outPort, gateway }: Leaving, outcome: PassageOutcome): void {
    const { device, network, number } = this.compiled
    const port = device.ports[outPort]
    const end = (fate: Fate, reason: Reason, some = set): void => {
      if (some !== NOTHING) outcome.end(fate, reason, outPort, some, context)
    }
    if (!port) return
    if (port.down !== null) return end('stopped', { code: 'interface-down', words: `${port.name}: ${port.down}` })
    if (port.kind === 'tunnel') {
      const { ends, outer, exhibits } = this.tunnels.tunnel(number, outPort)
      outcome.decided?.('tunnel', outer, exhibits)
      for (const one of ends) {
        if (one.kind === 'through') this.#hand([one], set, context, outPort, outcome)
        else end(one.fate, one.reason)
      }
      return
    }
    const others = network.topology.others(number, outPort)
    if (gateway !== null) {
      const owners = this.#ownersOf(gateway, others)
      if (owners.length > 0) return this.#hand(owners, set, context, outPort, outcome)
      return end(...this.#withoutOwner(port, gateway, others))
    }
    this.#attached(port, others, { set, context, outPort, gateway }, outcome)
  }

  #hand(owners: readonly Attachment[], set: number, context: Context | null, outPort: number, outcome: PassageOutcome): void {
    for (const owner of owners) {
      const far = this.compiled.network.topology.port(owner)
      if (far && far.down !== null) outcome.end('stopped', { code: 'interface-down', words: `${this.compiled.network.devices[owner.device]?.name ?? ''} ${far.name}: ${far.down}` }, outPort, set, context)
      else outcome.send(outPort, owner.device, owner.port, set, context)
    }
  }

  /** The ports that answer for an address: those that have it, else those of the group that shares it. */
  #ownersOf(address: string, others: readonly Attachment[]): Attachment[] {
    const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4') ?? []
    const has = (of: (port: Port) => readonly PortAddress[]): Attachment[] => others.filter((one) => {
      const port = this.compiled.network.topology.port(one)
      return port !== undefined && of(port).some((own) => own.words.length === words.length && own.words.every((word, i) => word === words[i]))
    })
    const owners = has(({ addresses }) => addresses)
    if (owners.length > 0) return owners
    const sharing = has(({ shared }) => shared)
    const rank = (one: Attachment): number => {
      const device = this.compiled.network.devices[one.device]
      const at = device?.ports[one.port]?.at ?? -1
      return Math.max(...(device?.device.modelled?.model.interfaces[at]?.redundancy ?? []).flatMap((group) => (group.address === address ? [group.priority ?? DEFAULT_PRIORITY] : [])), -1)
    }
    const up = sharing.filter((one) => this.compiled.network.topology.port(one)?.down === null)
    const best = Math.max(...up.map(rank))
    return up.length === 0 ? sharing : up.filter((one) => rank(one) === best)
  }

  #withoutOwner(port: Port, gateway: string, others: readonly Attachment[]): [Fate, Reason] {
    const words = addressWords(gateway, gateway.includes(':') ? 'ipv6' : 'ipv4') ?? []
    const { device } = this.compiled
    if (this.#isUnanswered(gateway, port)) return ['stopped', { code: 'no-neighbour', words: `nobody answered for ${gateway} at ${port.name}` }]
    const subnet = port.addresses.find((address) => inSubnet(words, address))
    // Of a subnet of two, both are known.
    if (subnet && isPair(subnet) && others.some((one) => this.compiled.network.topology.port(one)?.addresses.some((address) => inSubnet(address.words, subnet)))) return ['stopped', { code: 'no-neighbour', words: `nobody at ${port.name} has ${gateway}` }]
    if (/^fe80:/i.test(gateway) && others.length > 1) return ['undecided', { code: 'missing', words: `which of ${others.length} neighbours has ${gateway} is not known` }]
    return ['leaves', { code: 'outside', words: `${device.name} hands it to ${gateway}, which is none of the estate` }]
  }

  /** Whether the captured table of neighbours says that nobody has an address. */
  #isUnanswered(address: string, port: Port): boolean {
    return this.compiled.device.device.reading.state.addresses.some((entry) => entry.address === address && (entry.interface === null || entry.interface === port.name) && (entry.state === 'failed' || entry.state === 'incomplete'))
  }

  #attached(port: Port, others: readonly Attachment[], leaving: Leaving, outcome: PassageOutcome): void {
    const { network } = this.compiled
    const { diagrams } = network.headers
    let left = leaving.set
    const takeOut = (address: PortAddress): number => {
      const to = diagrams.and(left, network.headers.address('destination', hostMatch(address.words)))
      left = diagrams.minus(left, to)
      return to
    }
    const asked = new Set<string>()
    for (const one of others) {
      for (const address of [...(network.topology.port(one)?.addresses ?? []), ...(network.topology.port(one)?.shared ?? [])]) {
        if (asked.has(address.text) || left === NOTHING) continue
        asked.add(address.text)
        const to = takeOut(address)
        if (to !== NOTHING) this.#hand(this.#ownersOf(address.text, others), to, leaving.context, leaving.outPort, outcome)
      }
    }
    const end = (fate: Fate, reason: Reason, some: number): void => {
      if (some !== NOTHING) outcome.end(fate, reason, leaving.outPort, some, leaving.context)
    }
    for (const { address, interface: at, state } of this.compiled.device.device.reading.state.addresses) {
      if ((state !== 'failed' && state !== 'incomplete') || (at !== null && at !== port.name)) continue
      const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
      if (words) end('stopped', { code: 'no-neighbour', words: `nobody answered for ${address} at ${port.name}` }, takeOut({ text: address, words, length: 0, family: 'ipv4' }))
    }
    for (const subnet of port.addresses) {
      const inside = diagrams.and(left, network.headers.address('destination', prefixMatch(subnet.words, subnet.length)))
      left = diagrams.minus(left, inside)
      const known = isPair(subnet) && others.some((one) => network.topology.port(one)?.addresses.some((address) => inSubnet(address.words, subnet)))
      if (known) end('stopped', { code: 'no-neighbour', words: `nobody at ${port.name} has the address` }, inside)
      else end('arrives', { code: 'delivered', words: `a host in the subnet of ${port.name}` }, inside)
    }
    if (left === NOTHING) return
    // A route that names a port alone: who is at its other end takes it.
    if (others.length === 1) this.#hand(others, left, leaving.context, leaving.outPort, outcome)
    else if (others.length === 0) end('leaves', { code: 'outside', words: `it goes out of ${port.name}, where nobody of the estate is` }, left)
    else end('undecided', { code: 'missing', words: `which of ${others.length} neighbours at ${port.name} takes it is not stated` }, left)
  }
}

const DEFAULT_PRIORITY = 100

/** Whether a subnet has room for two only (RFC 3021, RFC 6164). */
function isPair({ length, family }: { readonly length: number; readonly family: Family }): boolean {
  return length >= (family === 'ipv4' ? 30 : 126)
}

import { addressWords, hostMatch, prefixMatch, type Family } from '../../model/index.ts'
import { NOTHING } from '../../headers/index.ts'
import type { CompiledDevice } from '../pipeline/compiled.ts'
import type { Network } from '../network/network.ts'
import type { Fate, Reason } from '../pipeline/fates.ts'
import type { PassageOutcome } from '../pipeline/passage-run.ts'
import type { Context } from '../pipeline/context.ts'
import { DOWN_WORDS, inSubnet, type DeviceInterface, type InterfaceAddress } from '../network/interfaces.ts'
import type { Attachment } from '../network/topology.ts'
import type { Tunnels } from './tunnels.ts'

interface Leaving {
  readonly set: number
  readonly context: Context | null
  readonly outInterface: number
  readonly gateway: string | null
}

type Behind = { readonly owners: readonly Attachment[] } | { readonly end: [Fate, Reason] }

/**
 * The receiver of the packets that leave a device: the neighbouring interface with the address, a host, or the world
 * outside.
 */
export class Neighbours {
  readonly #gateways = new Map<string, Behind>()

  constructor(
    readonly compiled: CompiledDevice,
    readonly tunnels: Tunnels,
  ) {}

  next({ set, context, outInterface, gateway }: Leaving, outcome: PassageOutcome): void {
    const { device, network, number } = this.compiled
    const port = device.interfaces[outInterface]
    const end = (fate: Fate, reason: Reason, some = set): void => {
      if (some !== NOTHING) outcome.end(fate, reason, outInterface, some, context)
    }
    if (!port) return
    if (port.down !== null)
      return end('stopped', { code: 'interface-down', words: `${port.name}: ${DOWN_WORDS[port.down]}` })
    if (port.kind === 'tunnel') {
      const { ends, outer, exhibits } = this.tunnels.tunnel(number, outInterface)
      outcome.decided?.(
        'tunnel',
        outer,
        exhibits,
        ends.some(({ kind }) => kind !== 'through'),
      )
      for (const one of ends) {
        if (one.kind === 'through') this.#hand([one], set, context, outInterface, outcome)
        else end(one.fate, one.reason)
      }
      return
    }
    if (gateway === null)
      return this.#attached(
        port,
        network.topology.others(number, outInterface),
        { set, context, outInterface, gateway },
        outcome,
      )
    const known = this.#behind(port, outInterface, gateway)
    if ('owners' in known) this.#hand(known.owners, set, context, outInterface, outcome)
    else end(...known.end)
  }

  /**
   * The owners of a gateway address on an interface, or the fate of packets for which there is none: the same for every
   * packet.
   */
  #behind(port: DeviceInterface, outInterface: number, gateway: string): Behind {
    const key = `${outInterface} ${gateway}`
    let known = this.#gateways.get(key)
    if (!known) {
      const { network, number } = this.compiled
      const others = network.topology.others(number, outInterface)
      const owners = ownersOf(network, gateway, others)
      this.#gateways.set(
        key,
        (known = owners.length > 0 ? { owners } : { end: this.#withoutOwner(port, gateway, others, outInterface) }),
      )
    }
    return known
  }

  #hand(
    owners: readonly Attachment[],
    set: number,
    context: Context | null,
    outInterface: number,
    outcome: PassageOutcome,
  ): void {
    for (const owner of owners) {
      const far = this.compiled.network.topology.port(owner)
      if (far && far.down !== null)
        outcome.end(
          'stopped',
          {
            code: 'interface-down',
            words: `${this.compiled.network.devices[owner.device]?.name ?? ''} ${far.name}: ${DOWN_WORDS[far.down]}`,
          },
          outInterface,
          set,
          context,
        )
      else outcome.send(outInterface, owner.device, owner.port, set, context, -1)
    }
  }

  #withoutOwner(
    port: DeviceInterface,
    gateway: string,
    others: readonly Attachment[],
    outInterface: number,
  ): [Fate, Reason] {
    const { device, network, number } = this.compiled
    const absent = absenceOf(network, number, outInterface, gateway)
    if (absent !== null) return ['stopped', { code: 'no-neighbour', words: absent }]
    if (/^fe80:/i.test(gateway) && others.length > 1)
      return [
        'undecided',
        { code: 'missing', words: `it is unknown which of ${others.length} neighbours has ${gateway}` },
      ]
    return this.#outside(outInterface, `${device.name} forwards it to ${gateway}, outside the estate`)
  }

  /**
   * Packets for which the snapshot has no receiver: they leave the network, unless it is known that their receiver is
   * missing from the snapshot.
   */
  #outside(outInterface: number, words: string): [Fate, Reason] {
    const { device, network, number } = this.compiled
    const port = device.interfaces[outInterface]?.name ?? ''
    const stated = network.leadsOutside(number, outInterface)
    if (stated === true) return ['leaves', { code: 'outside', words }]
    if (stated === false)
      return [
        'undecided',
        { code: 'missing', words: `${port} is not declared as outside, and no device of the snapshot is there` },
      ]
    const absent = network.absentNeighbour(number, outInterface)
    if (absent !== null)
      return [
        'undecided',
        {
          code: 'missing',
          words: `${absent}, which the neighbour table of ${device.name} names at ${port}, is not in the snapshot`,
        },
      ]
    return ['leaves', { code: 'outside', words }]
  }

  #attached(port: DeviceInterface, others: readonly Attachment[], leaving: Leaving, outcome: PassageOutcome): void {
    const { network } = this.compiled
    const { diagrams } = network.headers
    let left = leaving.set
    const takeOut = (address: InterfaceAddress): number => {
      const to = diagrams.and(left, network.headers.address('destination', hostMatch(address.words)))
      left = diagrams.minus(left, to)
      return to
    }
    const asked = new Set<string>()
    for (const one of others) {
      for (const address of [
        ...(network.topology.port(one)?.addresses ?? []),
        ...(network.topology.port(one)?.shared ?? []),
      ]) {
        if (asked.has(address.text) || left === NOTHING) continue
        asked.add(address.text)
        const to = takeOut(address)
        if (to !== NOTHING)
          this.#hand(ownersOf(network, address.text, others), to, leaving.context, leaving.outInterface, outcome)
      }
    }
    const end = (fate: Fate, reason: Reason, some: number): void => {
      if (some !== NOTHING) outcome.end(fate, reason, leaving.outInterface, some, leaving.context)
    }
    for (const { address, interface: at, state } of this.compiled.device.device.reading.state.addresses) {
      if ((state !== 'failed' && state !== 'incomplete') || (at !== null && at !== port.name)) continue
      const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4')
      if (words)
        end(
          'stopped',
          { code: 'no-neighbour', words: `no ARP or ND reply for ${address} at ${port.name}` },
          takeOut({ text: address, words, length: 0, family: 'ipv4' }),
        )
    }
    for (const subnet of port.addresses) {
      const inside = diagrams.and(
        left,
        network.headers.address('destination', prefixMatch(subnet.words, subnet.length)),
      )
      left = diagrams.minus(left, inside)
      const known =
        isPair(subnet) &&
        others.some((one) => network.topology.port(one)?.addresses.some((address) => inSubnet(address.words, subnet)))
      if (known) end('stopped', { code: 'no-neighbour', words: `no host at ${port.name} has the address` }, inside)
      else end('arrives', { code: 'at-host', words: `a host in the subnet of ${port.name}` }, inside)
    }
    if (left === NOTHING) return
    // A route that names only an interface: the device at the other end receives the packets.
    if (others.length === 1) this.#hand(others, left, leaving.context, leaving.outInterface, outcome)
    else if (others.length === 0)
      end(
        ...this.#outside(leaving.outInterface, `it leaves through ${port.name}, where no device of the estate is`),
        left,
      )
    else
      end(
        'undecided',
        { code: 'missing', words: `which of ${others.length} neighbours at ${port.name} takes it is not stated` },
        left,
      )
  }
}

const DEFAULT_PRIORITY = 100

/**
 * Of some interfaces those that answer for an address: its owners, else the members of the redundancy group that shares
 * it.
 */
export function ownersOf({ topology, devices }: Network, address: string, among: readonly Attachment[]): Attachment[] {
  const words = addressWords(address, address.includes(':') ? 'ipv6' : 'ipv4') ?? []
  const has = (of: (port: DeviceInterface) => readonly InterfaceAddress[]): Attachment[] =>
    among.filter((one) => {
      const port = topology.port(one)
      return (
        port !== undefined &&
        of(port).some((own) => own.words.length === words.length && own.words.every((word, i) => word === words[i]))
      )
    })
  const owners = has(({ addresses }) => addresses)
  if (owners.length > 0) return owners
  const sharing = has(({ shared }) => shared)
  const rank = (one: Attachment): number => {
    const device = devices[one.device]
    const at = device?.interfaces[one.port]?.at ?? -1
    return Math.max(
      ...(device?.device.modelled?.model.interfaces[at]?.redundancy ?? []).flatMap((group) =>
        group.address === address ? [group.priority ?? DEFAULT_PRIORITY] : [],
      ),
      -1,
    )
  }
  const up = sharing.filter((one) => topology.port(one)?.down === null)
  const best = Math.max(...up.map(rank))
  return up.length === 0 ? sharing : up.filter((one) => rank(one) === best)
}

/** The proof that an address is unused on the subnet of an interface; null where it may be used. */
export function absenceOf(
  { topology, devices }: Network,
  device: number,
  port: number,
  gateway: string,
): string | null {
  const [owner, out] = [devices[device], devices[device]?.interfaces[port]]
  if (!owner || !out) return null
  // The captured table of neighbours says so.
  if (
    owner.device.reading.state.addresses.some(
      (entry) =>
        entry.address === gateway &&
        (entry.interface === null || entry.interface === out.name) &&
        (entry.state === 'failed' || entry.state === 'incomplete'),
    )
  )
    return `no ARP or ND reply for ${gateway} at ${out.name}`
  const words = addressWords(gateway, gateway.includes(':') ? 'ipv6' : 'ipv4') ?? []
  const subnet = out.addresses.find((address) => inSubnet(words, address))
  // Both addresses of a point-to-point subnet are known.
  return subnet &&
    isPair(subnet) &&
    topology
      .others(device, port)
      .some((one) => topology.port(one)?.addresses.some((address) => inSubnet(address.words, subnet)))
    ? `no host at ${out.name} has ${gateway}`
    : null
}

/** Whether a subnet has room for two only (RFC 3021, RFC 6164). */
function isPair({ length, family }: { readonly length: number; readonly family: Family }): boolean {
  return length >= (family === 'ipv4' ? 30 : 126)
}

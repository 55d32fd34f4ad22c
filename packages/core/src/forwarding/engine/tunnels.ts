import { addressWords, type Family } from '../../model/index.ts'
import type { Packet } from '../../headers/index.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import { peersAt } from '../pipeline/maps.ts'
import type { Network } from '../network/network.ts'
import type { Fate, Reason } from '../pipeline/fates.ts'
import { interfaceNamed } from '../network/interfaces.ts'
import type { Walked, Origin } from './walked.ts'

/** The fate of packets that enter a tunnel: they come out at its other end, or are lost with their outer packet. */
export type TunnelEnd =
  | { readonly kind: 'through'; readonly device: number; readonly port: number }
  | { readonly kind: 'lost'; readonly fate: Fate; readonly reason: Reason }

export interface Tunnel {
  readonly ends: readonly TunnelEnd[]
  /** In words: the outer packet. */
  readonly outer: string
  readonly exhibits: readonly Exhibit[]
}

/** Protocols of outer packets (IANA): RFC 2784, RFC 4303, RFC 2003, RFC 4213. */
const GRE = 47
const ESP = 50
const NAMES: Readonly<Record<number, string>> = { [GRE]: 'GRE', [ESP]: 'ESP', 4: 'IP in IP', 41: 'IPv6 in IP' }

/** Tunnels as links whose outer packets must themselves arrive. Each is followed once. */
export class Tunnels {
  readonly #known = new Map<string, Tunnel | 'open'>()

  constructor(
    readonly network: Network,
    readonly walk: (origins: readonly Origin[]) => Walked,
  ) {}

  tunnel(device: number, port: number): Tunnel {
    const key = `${device} ${port}`
    const known = this.#known.get(key)
    if (known === 'open')
      return {
        ends: [
          {
            kind: 'lost',
            fate: 'loops',
            reason: { code: 'loop', words: 'the outer packet goes into the tunnel itself' },
          },
        ],
        outer: '',
        exhibits: [],
      }
    if (known) return known
    this.#known.set(key, 'open')
    const made = this.#follow(device, port)
    this.#known.set(key, made)
    return made
  }

  #follow(device: number, port: number): Tunnel {
    const owner = this.network.devices[device]
    const at = owner?.interfaces[port]?.at ?? -1
    const stated = owner?.device.modelled?.model.interfaces[at]?.tunnel
    const exhibits = owner ? exhibitsOf(owner, 'model', `interfaces[${at}].tunnel`) : []
    const lost = (words: string): Tunnel => ({
      ends: [{ kind: 'lost', fate: 'undecided', reason: { code: 'missing', words } }],
      outer: '',
      exhibits,
    })
    const { destination, mode, protection } = stated ?? { destination: null, mode: null, protection: null }
    const family: Family = destination?.includes(':') ? 'ipv6' : 'ipv4'
    const source = this.#sourceOf(device, stated?.source ?? null, family)
    if (!owner || destination === null || !addressWords(destination, family))
      return lost('the tunnel states no address of its other end')
    if (source === null)
      return lost(`where the tunnel begins (${stated?.source ?? 'not stated'}) has no address that is known`)
    const protocol =
      protection !== null || /ipsec/.test(mode ?? '')
        ? ESP
        : /^ipip/.test(mode ?? '')
          ? 4
          : /^ipv6ip/.test(mode ?? '')
            ? 41
            : GRE
    const packet = this.#outer(family, source, destination, protocol)
    const outer = wordsOf(packet)
    const ends = this.#carried(device, packet, destination, (far) => this.#end(far, source, destination))
    return { ends, outer, exhibits }
  }

  /** Where packets come out that a map on an interface sends protected to a peer. */
  mapped(device: number, port: number, peer: string): readonly TunnelEnd[] {
    const key = `map ${device} ${port} ${peer}`
    const known = this.#known.get(key)
    if (known === 'open')
      return [{ kind: 'lost', fate: 'loops', reason: { code: 'loop', words: 'the map chooses its own outer packet' } }]
    if (known) return known.ends
    this.#known.set(key, 'open')
    const family: Family = peer.includes(':') ? 'ipv6' : 'ipv4'
    const source = this.network.devices[device]?.interfaces[port]?.addresses.find((one) => one.family === family)?.text
    const ends =
      source === undefined
        ? [
            {
              kind: 'lost',
              fate: 'undecided',
              reason: { code: 'missing', words: 'the port of the map has no address that is known' },
            } as const,
          ]
        : this.#carried(device, this.#outer(family, source, peer, ESP), peer, (far): TunnelEnd => {
            const owner = this.network.devices[far]
            const model = owner?.device.modelled?.model
            const back =
              owner?.interfaces.findIndex(
                ({ at, addresses }) =>
                  addresses.some(({ text }) => text === peer) &&
                  model &&
                  peersAt(model, at)?.some(({ address }) => address === source),
              ) ?? -1
            return back >= 0
              ? { kind: 'through', device: far, port: back }
              : {
                  kind: 'lost',
                  fate: 'stopped',
                  reason: { code: 'no-neighbour', words: `${owner?.name ?? ''} has no map back to ${source}` },
                }
          })
    this.#known.set(key, { ends, outer: '', exhibits: [] })
    return ends
  }

  #outer(family: Family, source: string, destination: string, protocol: number): Packet {
    return {
      family,
      source,
      destination,
      protocol,
      sourcePort: null,
      destinationPort: null,
      icmpType: null,
      icmpCode: null,
      tcpFlags: null,
      fragment: false,
      dscp: 0,
    }
  }

  /** Where an outer packet ends; the world outside carries it to whoever of the estate has the address there. */
  #carried(device: number, packet: Packet, destination: string, comesOut: (device: number) => TunnelEnd): TunnelEnd[] {
    const set = this.network.headers.packet(packet)
    const endOf = ({ fate, reason, device: at }: Walked['endings'][number]): TunnelEnd =>
      fate === 'arrives'
        ? comesOut(at)
        : {
            kind: 'lost',
            fate,
            reason: {
              code: reason.code,
              words: `the outer packet at ${this.network.devices[at]?.name ?? ''}: ${reason.words}`,
            },
          }
    return this.walk([{ device, port: -1, set }]).endings.flatMap((ending): TunnelEnd[] => {
      if (ending.fate !== 'leaves') return [endOf(ending)]
      const [far, farPort] = this.#ownerOf(destination)
      if (far < 0)
        return [
          {
            kind: 'lost',
            fate: 'leaves',
            reason: {
              code: 'outside',
              words: `the outer packet (${wordsOf(packet)}) goes to a device that is none of the estate`,
            },
          },
        ]
      return this.walk([{ device: far, port: farPort, set }]).endings.map(endOf)
    })
  }

  /** The tunnel of a device that an outer packet has come to. */
  #end(device: number, source: string, destination: string): TunnelEnd {
    const name = this.network.devices[device]?.name ?? ''
    const port =
      this.network.devices[device]?.interfaces.findIndex((one) => {
        const tunnel = this.network.devices[device]?.device.modelled?.model.interfaces[one.at]?.tunnel
        return (
          one.kind === 'tunnel' &&
          tunnel?.destination === source &&
          this.#sourceOf(device, tunnel.source, destination.includes(':') ? 'ipv6' : 'ipv4') === destination
        )
      }) ?? -1
    return port >= 0
      ? { kind: 'through', device, port }
      : {
          kind: 'lost',
          fate: 'stopped',
          reason: { code: 'no-neighbour', words: `${name} has no tunnel back to ${source}` },
        }
  }

  #sourceOf(device: number, source: string | null, family: Family): string | null {
    if (source === null) return null
    if (addressWords(source, family)) return source
    return (
      interfaceNamed(this.network.devices[device]?.interfaces ?? [], source)?.addresses.find(
        (address) => address.family === family,
      )?.text ?? null
    )
  }

  #ownerOf(address: string): [device: number, port: number] {
    for (const [device, { interfaces: ports }] of this.network.devices.entries()) {
      const port = ports.findIndex(({ addresses }) => addresses.some(({ text }) => text === address))
      if (port >= 0) return [device, port]
    }
    return [-1, -1]
  }
}

function wordsOf({ protocol, source, destination }: Packet): string {
  return `${NAMES[protocol] ?? protocol} from ${source} to ${destination}`
}

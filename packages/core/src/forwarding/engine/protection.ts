import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import type { DeviceState } from '../../state/index.ts'
import type { Network } from '../network/network.ts'

type Association = DeviceState['securityAssociations'][number]

/** What covers packets on a link between two devices. */
export interface Layer {
  readonly kind: 'ipsec' | 'macsec' | 'attested'
  /** As the lines or the captured association name them, in lower case. */
  readonly algorithms: readonly string[]
  /** SPI of IPsec, SCI of MACsec, as they were captured. */
  readonly identifier: string | null
  readonly words: string
  readonly exhibits: readonly Exhibit[]
}

/**
 * The layers that protect what goes out of an interface (RFC 4301, IEEE 802.1AE), innermost first.
 * @param by the entry of a map that chose it; -1: none
 */
export function layersOf(network: Network, device: number, port: number, by = -1): Layer[] {
  const owner = network.devices[device]
  const one = owner?.interfaces[port]
  if (!owner || !one) return []
  const { model } = owner.device.modelled ?? {}
  const { state } = owner.device.reading
  const stated = model?.interfaces[one.at]
  const layers: Layer[] = []
  /** A layer as its lines state it, or as an association of it was captured. */
  const ipsec = (
    who: string,
    stated: readonly string[],
    path: string,
    isOfIt: (association: Association) => boolean,
  ): Layer => {
    const association = state.securityAssociations.findIndex((held) => held.direction === 'out' && isOfIt(held))
    const captured = state.securityAssociations[association]
    return {
      kind: 'ipsec',
      algorithms: (captured?.algorithm ? [captured.algorithm] : stated).map((name) => name.toLowerCase()),
      identifier: captured?.spi ?? null,
      words: `IPsec by ${who}${captured ? `, SPI ${captured.spi}` : ', as its lines state it'}`,
      exhibits: [
        ...exhibitsOf(owner, 'model', path),
        ...(captured ? exhibitsOf(owner, 'state', `securityAssociations[${association}]`) : []),
      ],
    }
  }
  const profile = stated?.tunnel.protection ?? null
  if (profile !== null) {
    // A policy names proposals, and those their algorithms.
    const named = model?.ipsecPolicies.find(({ name }) => name === profile)?.proposals ?? []
    const algorithms = named.flatMap(
      (name) => model?.espProposals.find((other) => other.name === name)?.algorithms ?? [],
    )
    layers.push(
      ipsec(profile, algorithms, `interfaces[${one.at}].tunnel.protection`, ({ interface: at }) => at === one.name),
    )
  }
  const peer = model?.ipsecPeers[by]
  if (model && peer) {
    const named = (peer.proposal ?? '')
      .split(' ')
      .flatMap((name) => model.espProposals.find((other) => other.name === name)?.algorithms ?? [])
    layers.push(ipsec(`the map ${peer.name}`, named, `ipsecPeers[${by}]`, ({ peer: far }) => far === peer.address))
  }
  const channel = state.secureChannels.findIndex(
    ({ interface: at, direction, encrypts }) => at === one.name && direction !== 'in' && encrypts !== false,
  )
  const held = state.secureChannels[channel]
  if (held || stated?.encryption?.startsWith('macsec')) {
    const policy = /^macsec (.+)$/.exec(stated?.encryption ?? '')?.[1]
    const cipher = held?.cipher ?? model?.macsec.find(({ name }) => name === policy)?.cipher ?? null
    layers.push({
      kind: 'macsec',
      algorithms: cipher === null ? [] : [cipher.toLowerCase()],
      identifier: held?.sci ?? null,
      words: `MACsec${held?.sci ? `, SCI ${held.sci}` : ', as its lines state it'}`,
      exhibits: [
        ...exhibitsOf(owner, 'model', `interfaces[${one.at}].encryption`),
        ...(held ? exhibitsOf(owner, 'state', `secureChannels[${channel}]`) : []),
      ],
    })
  }
  const attested = network.attestationOf(owner.name, one.name)
  if (attested)
    layers.push({
      kind: 'attested',
      algorithms: attested.algorithms.map((name) => name.toLowerCase()),
      identifier: null,
      words: `${attested.by}, attested by ${attested.attestedBy} on ${attested.on}`,
      exhibits: [],
    })
  return layers
}

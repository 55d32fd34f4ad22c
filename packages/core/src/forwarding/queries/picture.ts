import type { Network } from '../network/network.ts'
import { FATES, type Fate } from '../pipeline/fates.ts'
import { layersOf } from '../engine/protection.ts'
import type { TracePath } from '../engine/trace.ts'
import type { Walked } from '../engine/walked.ts'

/** A link that packets take, with what becomes of those that do. */
export interface PictureLink {
  readonly from: { readonly device: string; readonly port: string | null }
  readonly to: { readonly device: string; readonly port: string | null }
  /** Fates of packets with headers that come by; of equal paths, one may go another way. */
  readonly fates: readonly Fate[]
  /** What protects them there, in words, innermost first; none: they are in the clear. */
  readonly layers: readonly string[]
}

/** Where packets go, as a picture shows it. */
export interface Picture {
  /** Devices by which they come in, or that send them. */
  readonly begins: readonly string[]
  readonly links: readonly PictureLink[]
  /** Devices with the fates that packets meet there. */
  readonly ends: readonly { readonly device: string; readonly fates: readonly Fate[] }[]
}

export function pictureOf(
  network: Network,
  origins: readonly { readonly device: number }[],
  { endings, crossings }: Walked,
): Picture {
  const { diagrams } = network.headers
  const end = ({ device, port }: { device: number; port: number }): PictureLink['from'] => ({
    device: network.devices[device]?.name ?? '',
    port: network.devices[device]?.interfaces[port]?.name ?? null,
  })
  return {
    begins: [...new Set(origins.map(({ device }) => network.devices[device]?.name ?? ''))],
    links: crossings.map(({ from, to, by, set }) => ({
      from: end(from),
      to: end(to),
      fates: FATES.filter((fate) => endings.some((ending) => ending.fate === fate && diagrams.meet(ending.sent, set))),
      layers: layersOf(network, from.device, from.port, by).map(({ words }) => words),
    })),
    ends: network.devices.flatMap(({ name }, device) => {
      const here = endings.filter((ending) => ending.device === device)
      return here.length === 0
        ? []
        : [{ device: name, fates: FATES.filter((fate) => here.some((ending) => ending.fate === fate)) }]
    }),
  }
}

/** The picture of the paths of one packet. */
export function pictureOfPaths(paths: readonly TracePath[]): Picture {
  const links = new Map<string, PictureLink & { fates: Fate[] }>()
  const ends = new Map<string, Fate[]>()
  for (const { fate, device, hops } of paths) {
    ends.set(device, [...new Set([...(ends.get(device) ?? []), fate])])
    for (const [i, hop] of hops.slice(0, -1).entries()) {
      const next = hops[i + 1]
      if (!next) continue
      const key = `${hop.device} ${hop.out ?? ''} ${next.device} ${next.in ?? ''}`
      const held = links.get(key)
      if (held) held.fates = FATES.filter((one) => one === fate || held.fates.includes(one))
      else {
        links.set(key, {
          from: { device: hop.device, port: hop.out },
          to: { device: next.device, port: next.in },
          fates: [fate],
          layers: [...(hop.layers ?? [])],
        })
      }
    }
  }
  return {
    begins: [...new Set(paths.flatMap(({ hops }) => hops[0]?.device ?? []))],
    links: [...links.values()],
    ends: [...ends].map(([device, fates]) => ({ device, fates })),
  }
}

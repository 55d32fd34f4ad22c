import type { NetworkFinding, NetworkFindingKind } from './finding.ts'
import { grouped } from '../../syntax/grouped.ts'
import { subnetOf } from '../../model/index.ts'
import { MANY_CLASSES, NOTHING, exampleOf, readableOf } from '../../headers/index.ts'
import { answersBack, isStateful, type AnswerStart } from '../queries/answers.ts'
import { type ForwardingDevice } from '../network/device.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import { inTheClear } from '../queries/in-the-clear.ts'
import { absenceOf, ownersOf } from '../engine/neighbours.ts'
import type { Network } from '../network/network.ts'
import { hostPlaces, sentFrom } from '../queries/places.ts'
import type { InterfaceAddress } from '../network/interfaces.ts'
import { firstPackets, outsideOf, partsOf, simplify } from '../queries/reach.ts'
import type { Step } from '../queries/survey.ts'
import type { Attachment } from '../network/topology.ts'
import { traceOf } from '../engine/trace.ts'
import type { Walker } from '../engine/walk.ts'
import type { Origin, SessionState } from '../engine/walked.ts'

/** A short title for each kind of finding. */
export const NETWORK_FINDING_WORDS: Readonly<Record<NetworkFindingKind, string>> = {
  loop: 'routing loop',
  discarded: 'traffic discarded',
  'next-hop': 'unknown next hop',
  'address-twice': 'duplicate address',
  'two-masks': 'mismatched masks',
  'one-way': 'one-sided link',
  mtu: 'MTU mismatch',
  uneven: 'asymmetric path',
  'in-the-clear': 'unprotected beside a tunnel',
}

type Plain = Omit<NetworkFinding, 'from' | 'packets' | 'example'>
const without = (finding: Plain): NetworkFinding => ({ ...finding, from: [], packets: null, example: null })

/** All findings, by kind in the order of their list. */
export function networkFindings(walker: Walker, step?: Step): NetworkFinding[] {
  const { network } = walker
  return [
    ...lostTraffic(walker),
    ...nextHops(network).map(without),
    ...addressesTwice(network).map(without),
    ...twoMasks(network).map(without),
    ...oneWay(network).map(without),
    ...differingMtu(network).map(without),
    ...unevenPaths(walker, step),
    ...inTheClear(walker),
  ]
}

interface Lost {
  readonly kind: 'loop' | 'discarded'
  readonly devices: readonly string[]
  readonly words: string
  set: number
  sources: number
  readonly from: Set<string>
  readonly example: NetworkFinding['example']
  readonly exhibits: Exhibit[]
}

/** Loops that packets from hosts get into, and discard routes that take packets to addresses of the estate. */
function lostTraffic(walker: Walker): NetworkFinding[] {
  const { network } = walker
  const { addressed } = network
  const { diagrams } = addressed
  const first = firstPackets(network)
  const origins = hostPlaces(network)
    .filter(({ destinations }) => destinations !== null)
    .flatMap((place) => sentFrom(network, place, first).map((origin) => ({ ...origin, place })))
  const inside = diagrams.not(outsideOf(network))
  // All packets at once first: if none is lost, no place has to be asked by itself.
  const lost = walker.walk(origins).endings.filter(isLost)
  const found = new Map<string, Lost>()
  for (const origin of origins) {
    const wanted = lost.map(({ sent }) => diagrams.and(sent, origin.set)).filter((set) => set !== NOTHING)
    if (wanted.length === 0) continue
    for (const ending of walker
      .walk([{ ...origin, set: network.headers.any(wanted, (set) => set) }])
      .endings.filter(isLost)) {
      const discarded = ending.fate === 'stopped'
      const [part] = partsOf(network, [ending], discarded ? diagrams.and(origin.addressed, inside) : origin.addressed)
      const packet = part && exampleOf(addressed, part.set)
      if (!part || !packet) continue
      const trace = traceOf(walker, origin.device, origin.port, packet)
      const path = trace.paths.find(
        ({ fate, device }) => fate === ending.fate && (!discarded || device === part.device),
      )
      if (!path) continue
      // Of a loop the devices that it goes through, and their routes; of a discard the last.
      const hops = discarded
        ? path.hops.slice(-1)
        : path.hops.slice(path.hops.findIndex(({ device }) => device === path.device))
      const devices = [...new Set(hops.map(({ device }) => device))].sort()
      const exhibits = hops.flatMap(({ decisions }) =>
        decisions.filter(({ stage }) => stage === 'lookup').flatMap((decision) => decision.exhibits),
      )
      const key = `${ending.fate} ${devices.join()}`
      const held = found.get(key)
      if (held) {
        held.set = diagrams.or(held.set, part.set)
        held.sources = diagrams.or(held.sources, origin.sources)
        held.from.add(origin.place.text)
        held.exhibits.push(
          ...exhibits.filter(
            (one) => !held.exhibits.some(({ record, from }) => record === one.record && from === one.from),
          ),
        )
      } else {
        const owner = network.devices[origin.device]
        found.set(key, {
          kind: discarded ? 'discarded' : 'loop',
          devices,
          words: discarded
            ? `${part.device} discards packets to addresses of the estate`
            : `Routing loop between ${devices.join(', ')}`,
          set: part.set,
          sources: origin.sources,
          from: new Set([origin.place.text]),
          exhibits,
          example: { at: owner?.name ?? '', port: owner?.interfaces[origin.port]?.name ?? null, packet, trace },
        })
      }
    }
  }
  return [...found.values()].map(({ set, sources, from, ...finding }) => ({
    ...finding,
    from: [...from],
    packets: readableOf(addressed, simplify(network, set, { first: true, sources }), MANY_CLASSES),
  }))
}

function isLost({ fate, reason }: { readonly fate: string; readonly reason: { readonly code: string } }): boolean {
  return fate === 'loops' || reason.code === 'discard-route'
}

function nextHops(network: Network): Plain[] {
  const found = new Map<string, { finding: Plain; routes: number }>()
  network.devices.forEach((owner, device) => {
    for (const { routes } of network.tablesOf(device).map(({ table }) => table)) {
      for (const { hops, of, path } of routes) {
        for (const hop of hops) {
          if (hop.kind !== 'out' || hop.gateway === null) continue
          const key = `${device} ${hop.port} ${hop.gateway}`
          const held = found.get(key)
          if (held) {
            held.routes++
            continue
          }
          const port = owner.interfaces.findIndex(({ name }) => name === hop.port)
          if (port < 0 || ownersOf(network, hop.gateway, network.topology.others(device, port)).length > 0) continue
          const words = absenceOf(network, device, port, hop.gateway)
          if (words !== null)
            found.set(key, {
              finding: {
                kind: 'next-hop',
                devices: [owner.name],
                words: `${owner.name}: ${words}`,
                exhibits: exhibitsOf(owner, of, path),
              },
              routes: 1,
            })
        }
      }
    }
  })
  return [...found.values()].map(({ finding, routes }) => ({
    ...finding,
    words: `${finding.words}; ${routes === 1 ? 'a route leads' : `${routes} routes lead`} there`,
  }))
}

interface Placed {
  readonly at: Attachment
  readonly owner: ForwardingDevice
  readonly port: string
  readonly vrf: string | null
  readonly address: InterfaceAddress
}

function allAddresses({ devices }: Network): Placed[] {
  return devices.flatMap((owner, device) =>
    owner.interfaces.flatMap(({ name, vrf, addresses, down }, port) =>
      down === 'switched-off'
        ? []
        : addresses
            .filter(({ text }) => !/^(?:fe80:|127\.|::1$)/i.test(text))
            .map((address) => ({ at: { device, port }, owner, port: name, vrf, address })),
    ),
  )
}

function linesOf({ owner, at, address }: Placed): Exhibit[] {
  const stated = owner.interfaces[at.port]?.at ?? -1
  const number =
    owner.device.modelled?.model.interfaces[stated]?.addresses.findIndex((one) => one.address === address.text) ?? -1
  return number < 0 ? [] : exhibitsOf(owner, 'model', `interfaces[${stated}].addresses[${number}]`)
}

/** One address on two devices, of tables that are not kept apart by name. */
function addressesTwice(network: Network): Plain[] {
  return [...grouped(allAddresses(network), ({ address, vrf }) => `${vrf ?? ''} ${address.text}`).values()].flatMap(
    (all): Plain[] => {
      const devices = [...new Set(all.map(({ owner }) => owner.name))]
      return devices.length < 2
        ? []
        : [
            {
              kind: 'address-twice',
              devices,
              words:
                `${all[0]?.address.text ?? ''} is the address of ` +
                `${all.map(({ owner, port }) => `${owner.name} ${port}`).join(' and of ')}`,
              exhibits: all.flatMap(linesOf),
            },
          ]
    },
  )
}

/** Interfaces of one segment, or with the same first address, that do not agree on the length of their subnet. */
function twoMasks(network: Network): Plain[] {
  const all = allAddresses(network).filter(({ address: { length, family } }) => length < (family === 'ipv4' ? 32 : 128))
  const found = new Map<string, Plain>()
  const tell = (a: Placed, b: Placed): void => {
    const key = [`${a.at.device} ${a.at.port}`, `${b.at.device} ${b.at.port}`].sort().join(' ')
    if (!found.has(key))
      found.set(key, {
        kind: 'two-masks',
        devices: [a.owner.name, b.owner.name],
        words:
          `${a.owner.name} ${a.port} has ${a.address.text}/${a.address.length}, ${b.owner.name} ${b.port} ` +
          `has ${b.address.text}/${b.address.length}`,
        exhibits: [a, b].flatMap(linesOf),
      })
  }
  const differ = (a: Placed, b: Placed): boolean =>
    a.at.device !== b.at.device && a.vrf === b.vrf && a.address.length !== b.address.length
  const network0 = ({ address, vrf }: Placed): string | null => {
    const subnet = subnetOf(address.text, address.length, address.family)
    return subnet === null ? null : `${vrf ?? ''} ${subnet.split('/')[0] ?? ''}`
  }
  for (const same of grouped(all, network0).values())
    for (const [i, a] of same.entries()) for (const b of same.slice(i + 1)) if (differ(a, b)) tell(a, b)
  // On one segment the larger subnet holds the smaller.
  const byPort = grouped(all, ({ at }) => `${at.device} ${at.port}`)
  for (const { members } of network.topology.segments) {
    const here = members.flatMap(({ device, port }) => byPort.get(`${device} ${port}`) ?? [])
    for (const a of here)
      for (const b of here) {
        if (
          differ(a, b) &&
          a.address.family === b.address.family &&
          a.address.length < b.address.length &&
          subnetOf(b.address.text, a.address.length, a.address.family) ===
            subnetOf(a.address.text, a.address.length, a.address.family)
        )
          tell(a, b)
      }
  }
  return [...found.values()]
}

/** Links of which one end does not know, or that are down at one end only. */
function oneWay(network: Network): Plain[] {
  const kinds = { 'one-sided': true, disagreeing: true } as const
  return network.topology.links.flatMap(({ a, b, standing, note }): Plain[] => {
    const lines = [a, b].flatMap(({ device, at }): Exhibit[] =>
      at ? [{ device, record: at.record, from: at.from, to: at.to }] : [],
    )
    const ends = `${a.device} ${a.port ?? ''} and ${b.device} ${b.port ?? ''}`
    const half =
      a.oper !== null && b.oper !== null && a.oper !== b.oper
        ? `up only at ${a.oper === 'up' ? a.device : b.device}`
        : null
    if (!(standing in kinds) && half === null) return []
    return [
      {
        kind: 'one-way',
        devices: [a.device, b.device],
        words: `${ends}: ${[...(standing in kinds ? [note] : []), ...(half === null ? [] : [half])].join('; ')}`,
        exhibits: lines,
      },
    ]
  })
}

/**
 * Ports that hear each other with packets of different sizes at most: what is larger is lost without a word (RFC 4459
 * §3, common practice).
 */
function differingMtu(network: Network): Plain[] {
  return network.topology.segments.flatMap(({ members }): Plain[] => {
    const known = members.flatMap(({ device, port }) => {
      const owner = network.devices[device]
      const one = owner?.interfaces[port]
      return owner && one && one.mtu !== null && one.down === null ? [{ owner, one, mtu: one.mtu }] : []
    })
    if (new Set(known.map(({ mtu }) => mtu)).size < 2) return []
    return [
      {
        kind: 'mtu',
        devices: [...new Set(known.map(({ owner }) => owner.name))],
        words: known.map(({ owner, one, mtu }) => `${owner.name} ${one.name} ${mtu}`).join(', '),
        exhibits: known.flatMap(({ owner, one }) => exhibitsOf(owner, 'model', `interfaces[${one.at}].mtu`)),
      },
    ]
  })
}

interface Uneven {
  readonly words: string
  /** The packets that are answered, and of the first start the answers. */
  set: number
  sources: number
  readonly from: Set<string>
  readonly start: Origin
  readonly remembered: SessionState
  readonly answers: number
}

/**
 * Packets that pass a device which remembers them, whose answers go round it; or answers that come by such a device,
 * and are stopped there.
 */
function unevenPaths(walker: Walker, step: Step | undefined): NetworkFinding[] {
  const { network } = walker
  const { addressed } = network
  const stateful = new Set(network.devices.flatMap((device, i) => (isStateful(device) ? [i] : [])))
  if (stateful.size === 0) return []
  const first = firstPackets(network)
  const places = hostPlaces(network).filter(({ destinations }) => destinations !== null)
  const inside = addressed.any(places, ({ destinations }) => destinations ?? NOTHING)
  const origins = places.flatMap((place) =>
    sentFrom(network, place, addressed.diagrams.and(first, inside)).map((origin) => ({ ...origin, place })),
  )
  const found = new Map<string, Uneven & { readonly device: number }>()
  const tell = (
    device: number,
    words: string,
    answers: number,
    set: number,
    { place, sources }: (typeof origins)[number],
    { origin: start, remembered }: AnswerStart,
  ): void => {
    if (set === NOTHING) return
    const held = found.get(`${device} ${words}`)
    if (held) {
      held.set = addressed.diagrams.or(held.set, set)
      held.sources = addressed.diagrams.or(held.sources, sources)
      held.from.add(place.text)
    } else
      found.set(`${device} ${words}`, {
        device,
        words,
        set,
        sources,
        from: new Set([place.text]),
        start,
        remembered,
        answers,
      })
  }
  origins.forEach((origin, i) => {
    step?.(i, origins.length)
    const { starts, parts } = answersBack(walker, origin, ['arrives'], ['arrives'])
    for (const start of starts) {
      for (const passed of start.remembered.keys()) {
        if (!stateful.has(passed)) continue
        const round = walker
          .walk([start.origin], start.remembered, new Set([passed]))
          .endings.filter(({ fate, reason }) => fate === 'arrives' && reason.code !== 'taken')
        const answers = addressed.any(partsOf(network, round, start.answers), (part) => part.set)
        tell(passed, 'is stateful, but replies bypass it', answers, start.answeredBy(answers), origin, start)
      }
    }
    for (const part of parts) {
      const at = network.indexOf(part.device)
      if (part.fate === 'stopped' && stateful.has(at) && !part.start.remembered.has(at))
        tell(at, 'drops replies to packets that did not pass it', part.set, part.answered, origin, part.start)
    }
  })
  return [...found.values()].map(
    ({ device, words, set, sources, from, start, remembered, answers }): NetworkFinding => {
      const name = network.devices[device]?.name ?? ''
      const packet = exampleOf(addressed, answers)
      const trace = packet && traceOf(walker, start.device, start.port, packet, remembered)
      const owner = network.devices[start.device]
      const lines =
        trace?.paths.flatMap(({ hops }) =>
          hops.flatMap(({ decisions }) =>
            decisions.filter(({ stage }) => stage === 'lookup').flatMap(({ exhibits }) => exhibits),
          ),
        ) ?? []
      return {
        kind: 'uneven',
        devices: [name],
        words: `${name} ${words}`,
        from: [...from],
        packets: readableOf(addressed, simplify(network, set, { first: true, sources }), MANY_CLASSES),
        example:
          packet && trace && owner
            ? { at: owner.name, port: owner.interfaces[start.port]?.name ?? null, packet, trace }
            : null,
        exhibits: lines,
      }
    },
  )
}

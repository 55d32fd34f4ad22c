import { expect } from 'chai'
import fc from 'fast-check'
import { Network, Walker, type Fate } from '../../src/index.ts'
import { forwardingOf } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf, udp } from './networks.ts'

/**
 * A network as it is drawn: what the texts of its devices are written from, and what packets are tried on one by one.
 */
interface Drawn {
  readonly devices: readonly DrawnDevice[]
  readonly links: readonly (readonly [a: number, b: number])[]
}
interface DrawnDevice {
  /** Subnets of four with hosts, by the number of their first address. */
  readonly stubs: readonly number[]
  readonly routes: readonly DrawnRoute[]
  readonly lists: readonly (readonly DrawnLine[])[]
  /** By port: the list for what comes in and what goes out. */
  readonly filters: readonly (readonly [number | null, number | null])[]
}
interface DrawnRoute {
  readonly from: number
  readonly length: number
  /** The link it leads along; null: a discard route. */
  readonly link: number | null
  readonly distance: number
}
interface DrawnLine {
  readonly permit: boolean
  readonly source: readonly [from: number, length: number] | null
  readonly destination: readonly [from: number, length: number] | null
  readonly ports: readonly [number, number] | null
}

const part = fc
  .tuple(fc.nat({ max: 15 }), fc.integer({ min: 28, max: 32 }))
  .map(([at, length]) => [at - (at % 2 ** (32 - length)), length] as const)
const line: fc.Arbitrary<DrawnLine> = fc.record({
  permit: fc.boolean(),
  source: fc.option(part, { nil: null }),
  destination: fc.option(part, { nil: null }),
  ports: fc.option(
    fc.tuple(fc.nat({ max: 15 }), fc.nat({ max: 15 })).map(([a, b]) => [Math.min(a, b), Math.max(a, b)] as const),
    { nil: null },
  ),
})
const drawn: fc.Arbitrary<Drawn> = fc
  .integer({ min: 2, max: 8 })
  .chain((count) =>
    fc.record({
      links: fc
        .array(fc.tuple(fc.nat({ max: count - 1 }), fc.nat({ max: count - 1 })), {
          minLength: count - 1,
          maxLength: count + 3,
        })
        .map((all) => all.filter(([a, b]) => a !== b)),
      devices: fc.array(
        fc.record({
          stubs: fc.uniqueArray(fc.constantFrom(0, 4, 8, 12), { maxLength: 1 }),
          routes: fc.array(
            fc.record({
              from: fc.nat({ max: 15 }),
              length: fc.integer({ min: 28, max: 32 }),
              link: fc.option(fc.nat({ max: 9 }), { nil: null, freq: 12 }),
              distance: fc.constantFrom(1, 1, 1, 5),
            }),
            { maxLength: 6 },
          ),
          lists: fc.array(fc.array(line, { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 2 }),
          filters: fc.array(
            fc.tuple(
              fc.option(fc.nat({ max: 1 }), { nil: null, freq: 2 }),
              fc.option(fc.nat({ max: 1 }), { nil: null, freq: 2 }),
            ),
            { minLength: 8, maxLength: 8 },
          ),
        }),
        { minLength: count, maxLength: count },
      ),
    }),
  )

const address = (at: number): string => `10.0.0.${at}`
const linkAddress = (link: number, end: number): string => `10.9.${link}.${end + 1}`
const mask = (length: number): string =>
  [0, 1, 2, 3].map((i) => 256 - 2 ** (8 - Math.min(8, Math.max(0, length - 8 * i)))).join('.')
const wild = (length: number): string =>
  mask(length)
    .split('.')
    .map((octet) => 255 - Number(octet))
    .join('.')

interface DrawnPort {
  readonly name: string
  readonly link: { readonly number: number; readonly end: number; readonly to: number } | null
  readonly stub: number | null
}

function interfacesOf({ links, devices }: Drawn, device: number): DrawnPort[] {
  const linked = links.flatMap(([a, b], number): DrawnPort[] =>
    a === device
      ? [{ name: `eth${number}`, link: { number, end: 0, to: b }, stub: null }]
      : b === device
        ? [{ name: `eth${number}`, link: { number, end: 1, to: a }, stub: null }]
        : [],
  )
  return [...linked, ...(devices[device]?.stubs ?? []).map((stub) => ({ name: `lan${stub}`, link: null, stub }))]
}

/** Routes that lead along links which the device has. */
function routesOf(network: Drawn, device: number): DrawnRoute[] {
  const own = interfacesOf(network, device).flatMap(({ link }) => (link ? [link.number] : []))
  return (network.devices[device]?.routes ?? []).flatMap((route) => {
    const base = { ...route, from: route.from - (route.from % 2 ** (32 - route.length)) }
    return route.link === null ? [base] : own.length === 0 ? [] : [{ ...base, link: own[route.link % own.length] ?? 0 }]
  })
}

function textOf(network: Drawn, device: number): string {
  const { lists = [], filters = [] } = network.devices[device] ?? {}
  const known = (list: number | null | undefined): string | null =>
    list === null || list === undefined || lists.length === 0 ? null : `L${list % lists.length}`
  const interfaces = interfacesOf(network, device).map(({ name, link, stub }, i) => {
    const [inside, outside] = [known(filters[i]?.[0]), known(filters[i]?.[1])]
    const own = link
      ? `${linkAddress(link.number, link.end)} 255.255.255.252`
      : `${address((stub ?? 0) + 1)} 255.255.255.252`
    return `interface ${name}\n ip address ${own}\n${inside === null ? '' : ` ip access-group ${inside} in\n`}${outside === null ? '' : ` ip access-group ${outside} out\n`}`
  })
  const routes = routesOf(network, device).map(({ from, length, link, distance }) => {
    const end = network.links[link ?? -1]?.[0] === device ? 1 : 0
    return `ip route ${address(from)} ${mask(length)} ${link === null ? 'Null0' : linkAddress(link, end)} ${distance}`
  })
  const words = (place: readonly [number, number] | null): string =>
    place === null ? 'any' : `${address(place[0])} ${wild(place[1])}`
  const texts = lists.map(
    (lines, i) =>
      `ip access-list extended L${i}\n${lines.map(({ permit, source, destination, ports }) => ` ${permit ? 'permit' : 'deny'} udp ${words(source)} ${words(destination)}${ports ? ` range ${ports.join(' ')}` : ''}`).join('\n')}`,
  )
  return `hostname d${device}\n${interfaces.join('')}${routes.join('\n')}\n${texts.join('\n')}\n`
}

interface SmallPacket {
  readonly source: number
  readonly destination: number
  readonly port: number
}

/** What becomes of one packet, tried step by step on the drawn network. */
function fatesOf(
  network: Drawn,
  packet: SmallPacket,
  device: number,
  inInterface: number,
  seen: readonly string[] = [],
): Set<Fate> {
  const here = `${device} ${inInterface}`
  if (seen.includes(here)) return new Set(['loops'])
  const { lists = [], filters = [] } = network.devices[device] ?? {}
  const ports = interfacesOf(network, device)
  const inside = (at: number, place: readonly [number, number] | null): boolean =>
    place === null || (at >= place[0] && at < place[0] + 2 ** (32 - place[1]))
  const permitted = (list: number | null | undefined): boolean => {
    if (list === null || list === undefined || lists.length === 0) return true
    const met = lists[list % lists.length]?.find(
      ({ source, destination, ports: range }) =>
        inside(packet.source, source) &&
        inside(packet.destination, destination) &&
        (range === null || (packet.port >= range[0] && packet.port <= range[1])),
    )
    return met?.permit ?? false
  }
  if (!permitted(filters[inInterface]?.[0])) return new Set(['stopped'])
  const stubs = ports.flatMap(({ stub }) => (stub === null ? [] : [stub]))
  if (stubs.some((stub) => packet.destination === stub + 1)) return new Set(['arrives'])
  if (stubs.some((stub) => packet.destination === stub + 3)) return new Set(['undecided'])
  const candidates = [
    ...stubs.map((stub) => ({ from: stub, length: 30, distance: 0, link: null, stub })),
    ...routesOf(network, device).map((route) => ({ ...route, stub: null })),
  ].filter(({ from, length }) => inside(packet.destination, [from, length]))
  const longest = Math.max(...candidates.map(({ length }) => length))
  const near = candidates.filter(({ length }) => length === longest)
  const least = Math.min(...near.map(({ distance }) => distance))
  const best = near.filter(({ distance }) => distance === least)
  if (best.length === 0) return new Set(['stopped'])
  const fates = new Set<Fate>()
  for (const { link, stub } of best) {
    if (link === null && stub === null) {
      fates.add('stopped')
      continue
    }
    const out = ports.findIndex((port) => (stub === null ? port.link?.number === link : port.stub === stub))
    if (!permitted(filters[out]?.[1])) fates.add('stopped')
    else if (stub !== null) fates.add('arrives')
    else {
      const far = ports[out]?.link?.to ?? 0
      const farPort = interfacesOf(network, far).findIndex((port) => port.link?.number === link)
      for (const fate of fatesOf(network, packet, far, farPort, [...seen, here])) fates.add(fate)
    }
  }
  return fates
}

const PACKETS: SmallPacket[] = []
for (let source = 0; source < 16; source++)
  for (let destination = 0; destination < 16; destination++)
    for (let port = 0; port < 16; port++) PACKETS.push({ source, destination, port })

describe('fates on shrunk fields', function () {
  this.timeout(240_000)
  it('every packet of 12 bits through random networks has the fates that trying it step by step finds', () => {
    const seen = new Set<Fate>()
    fc.assert(
      fc.property(drawn, (network) => {
        const built = networkOf(...network.devices.map((_, i) => deviceOf(`d${i}`, 'indented', textOf(network, i))))
        const walker = new Walker(built)
        const { headers } = built
        const { diagrams } = headers
        const all = headers.all(
          headers.ipv4,
          headers.within({ value: [0x0a000000], care: [0xfffffff0] }, true),
          headers.address('source', { value: [0x0a000000], care: [0xfffffff0] }),
          headers.value('protocol', 17),
          headers.range('destinationPort', [0, 15]),
        )
        const sets = PACKETS.map(({ source, destination, port }) =>
          headers.packet(udp(address(source), address(destination), port)),
        )
        const begins = network.devices
          .flatMap((_, device) => (interfacesOf(network, device).length > 0 ? [{ device, port: 0 }] : []))
          .slice(0, 3)
        for (const { device, port } of begins) {
          const { endings } = walker.walk([{ device, port, set: all }])
          // Every packet has a fate, and none has one that was not sent.
          const covered = headers.any(endings, ({ sent }) => sent)
          expect(covered).to.equal(all)
          // Cut to what is asked, addresses are told alike whether the rest is looked at or not.
          const asked = built.addressed.all(
            built.addressed.address('destination', { value: [0x0a000004], care: [0xfffffffc] }),
            built.addressed.range('destinationPort', [3, 9]),
          )
          for (const { sent } of endings)
            expect(diagrams.and(headers.expand(sent, built.addressed, asked), asked)).to.equal(
              diagrams.and(headers.expand(sent, built.addressed), asked),
            )
          PACKETS.forEach((packet, i) => {
            const found = new Set(
              endings.filter(({ sent }) => diagrams.meet(sent, sets[i] ?? 0)).map(({ fate }) => fate),
            )
            const tried = fatesOf(network, packet, device, port)
            tried.forEach((fate) => seen.add(fate))
            if (found.size !== tried.size || [...found].some((fate) => !tried.has(fate)))
              expect(
                [...found].sort(),
                `${JSON.stringify(packet)} from d${device} port ${port}\n${network.devices.map((__, d) => textOf(network, d)).join('\n')}`,
              ).to.deep.equal([...tried].sort())
          })
        }
      }),
      { numRuns: 40 },
    )
    expect([...seen].sort()).to.include.members(['arrives', 'loops', 'stopped', 'undecided'])
  })

  it('a network of which one device changed answers as one that is made anew', () => {
    fc.assert(
      fc.property(drawn, drawn, (network, other) => {
        const parts = network.devices.map((_, i) => forwardingOf(deviceOf(`d${i}`, 'indented', textOf(network, i))))
        const before = Network.of(parts)
        // The first device comes to say what the first of another network says, on the ports that it has.
        const mixed: Drawn = {
          links: network.links,
          devices: [{ ...(other.devices[0] as DrawnDevice) }, ...network.devices.slice(1)],
        }
        const next = [forwardingOf(deviceOf('d0', 'indented', textOf(mixed, 0))), ...parts.slice(1)]
        const [changed, fresh] = [before.changed(next), Network.of(next)]
        for (const device of mixed.devices.keys()) {
          if (interfacesOf(mixed, device).length === 0) continue
          const fates = [changed, fresh].map((one) => {
            const { headers } = one
            const { endings } = new Walker(one).walk([
              { device, port: 0, set: headers.all(headers.ipv4, headers.value('protocol', 17)) },
            ])
            return (packet: SmallPacket): string => {
              const single = headers.packet(udp(address(packet.source), address(packet.destination), packet.port))
              return [
                ...new Set(endings.filter(({ sent }) => headers.diagrams.meet(sent, single)).map(({ fate }) => fate)),
              ]
                .sort()
                .join()
            }
          })
          for (const packet of PACKETS.filter((_, i) => i % 7 === 0))
            expect(fates[0]?.(packet)).to.equal(fates[1]?.(packet))
        }
      }),
      { numRuns: 15 },
    )
  })
})

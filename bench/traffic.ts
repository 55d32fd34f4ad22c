/**
 * Traffic: the same questions put to a solver and to the sets of headers; a backbone; growth of an estate; one device changed.
 * Prints figures of this run; nothing here is a test.
 *   npm run bench:traffic
 */
import { init, type Bool as Z3Bool } from 'z3-solver'
import { HeldConfig, Headers, ListSets, NOTHING, Network, Walker, dialectById, forwardingOf, modelOf, stateOf, type DeviceState, type ForwardingDevice, type NetworkDevice } from '@jurybox/core'

const print = (name: string, value: string): void => console.log(name.padEnd(66), value)
const ms = (from: number): number => performance.now() - from
const indented = dialectById('indented')
if (!indented) throw new Error('no dialect')

/** Numbers that look drawn and are the same in every run. */
function numbers(seed: number): (below: number) => number {
  let state = seed
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * below)
  }
}
const address = (word: number): string => [24, 16, 8, 0].map((shift) => (word >>> shift) & 255).join('.')

interface Line { readonly permit: boolean; readonly protocol: 'ip' | 'tcp' | 'udp'; readonly source: [number, number]; readonly destination: [number, number]; readonly ports: [number, number] | null }
function drawLines(draw: (below: number) => number, count: number): Line[] {
  return Array.from({ length: count }, () => {
    const place = (): [number, number] => (draw(4) === 0 ? [0, 0xffffffff] : [(0x0a000000 + draw(64) * 65536 + draw(8) * 256) >>> 0, [255, 1023, 65535][draw(3)] ?? 255])
    const protocol = (['ip', 'tcp', 'udp'] as const)[draw(3)] ?? 'ip'
    const from = draw(8000)
    return { permit: draw(2) === 0, protocol, source: place(), destination: place(), ports: protocol === 'ip' || draw(2) === 0 ? null : [from, from + draw(500)] }
  })
}
const listText = (name: string, lines: readonly Line[]): string => `ip access-list extended ${name}\n${lines.map(({ permit, protocol, source, destination, ports }) => ` ${permit ? 'permit' : 'deny'} ${protocol} ${address(source[0])} ${address(source[1])} ${address(destination[0])} ${address(destination[1])}${ports ? ` range ${ports.join(' ')}` : ''}`).join('\n')}\n`

type Truth = Z3Bool<'bench'>

async function againstSolver(): Promise<void> {
  const draw = numbers(7)
  const lists = [[drawLines(draw, 300), drawLines(draw, 300)] as const]
  const classes = lists.map(() => Array.from({ length: 50 }, () => drawLines(draw, 1)[0] as Line))
  const api = await init()
  const { BitVec, And, Or, Not, If, Solver, Bool } = api.Context('bench')
  const fields = { source: BitVec.const('source', 32), destination: BitVec.const('destination', 32), protocol: BitVec.const('protocol', 8), port: BitVec.const('port', 16) }
  const formula = (lines: readonly Line[]): Truth =>
    lines.reduceRight<Truth>((rest, { permit, protocol, source, destination, ports }) => {
      const at = (field: typeof fields.source, [value, wild]: [number, number]): Truth => field.and(BitVec.val(~wild >>> 0, 32)).eq(BitVec.val((value & ~wild) >>> 0, 32))
      const meets = And(at(fields.source, source), at(fields.destination, destination), ...(protocol === 'ip' ? [] : [fields.protocol.eq(BitVec.val(protocol === 'tcp' ? 6 : 17, 8))]), ...(ports ? [fields.port.uge(BitVec.val(ports[0], 16)), fields.port.ule(BitVec.val(ports[1], 16))] : []))
      return permit ? Or(meets, rest) : (If(meets, Bool.val(false), rest) as Truth)
    }, Bool.val(false))
  const begunSolver = performance.now()
  const told: boolean[] = []
  for (const [i, [a, b]] of lists.entries()) {
    const solver = new Solver()
    solver.add(formula(a), Not(formula(b)))
    for (const one of classes[i] ?? []) told.push((await solver.check(formula([{ ...one, permit: true }]))) === 'sat')
  }
  const solver = ms(begunSolver)
  const models = lists.map(([a, b], i) => modelOf(HeldConfig.of(indented!.read([listText('A', a), listText('B', b), ...(classes[i] ?? []).map((one, c) => listText(`C${c}`, [{ ...one, permit: true }]))].join('')), indented!), { record: 'r', mask: () => '' }).model.accessLists)
  const asked = (): boolean[] => {
    const headers = new Headers()
    return models.flatMap((accessLists) => {
      const sets = new ListSets(headers, accessLists)
      const [a, b, ...wanted] = accessLists
      const permits = (list: (typeof accessLists)[number] | undefined, set: number): number => (list ? sets.decide(list, set, { inInterface: null, outInterface: null, connection: 'new' }).permitted : NOTHING)
      return wanted.map((one) => {
        const asked = permits(one, headers.ipv4)
        return headers.diagrams.minus(permits(a, asked), permits(b, asked)) !== NOTHING
      })
    })
  }
  asked()
  const begun = performance.now()
  const found = asked()
  const ours = ms(begun)
  if (found.some((one, i) => one !== told[i])) throw new Error('the solver and the sets do not agree')
  print('50 questions (of a class: does one list of 300 lines permit more of it)', `solver ${solver.toFixed(0)} ms, sets ${ours.toFixed(1)} ms: ${(solver / ours).toFixed(0)} ×`)
  ;(api.em as { PThread: { terminateAllThreads(): void } }).PThread.terminateAllThreads()
}

type Route = DeviceState['routes'][number]
function device(name: string, text: string, routes: readonly Route[]): NetworkDevice {
  const modelled = modelOf(HeldConfig.of(indented!.read(text), indented!), { record: 'config', mask: () => '' })
  const reading = stateOf([])
  return { name, dialect: 'indented', modelled, reading: { ...reading, state: { ...reading.state, routes: [...routes] } } }
}
const route = (prefix: string, gateway: string, port: string): Route => ({ prefix, family: 'ipv4', vrf: null, protocol: 'bgp', distance: 20, metric: 0, selected: true, nextHops: [{ address: gateway, interface: port, discard: false }] })

/** Routers in a ring with chords; every prefix is behind an edge port of one of them, and all know the shortest way there. */
function backbone(routers: number, edges: number, entries: number, filterLines: number): NetworkDevice[] {
  const draw = numbers(11)
  const links: [number, number][] = []
  for (let i = 0; i < routers; i++) {
    links.push([i, (i + 1) % routers])
    if (i % 2 === 0) links.push([i, (i + 5) % routers])
  }
  const near = (router: number): { to: number; link: number; gateway: string }[] => links.flatMap(([a, b], link) => (a === router ? [{ to: b, link, gateway: `10.255.${link}.2` }] : b === router ? [{ to: a, link, gateway: `10.255.${link}.1` }] : []))
  const firstHop = Array.from({ length: routers }, (_, to) => {
    const hops = new Map<number, { link: number; gateway: string }>()
    const queue = [to]
    const seen = new Set(queue)
    for (const at of queue) for (const { to: next } of near(at)) {
      if (seen.has(next)) continue
      seen.add(next)
      queue.push(next)
      const back = near(next).find((one) => one.to === at)
      if (back) hops.set(next, back)
    }
    return hops
  })
  const owners = Array.from({ length: Math.floor(entries / routers) }, (_, i) => ({ prefix: `${address((0x14000000 + i * 4096 * (1 + (i % 3))) >>> 0)}/${20 + (i % 5)}`, router: draw(routers), edge: draw(edges) }))
  return Array.from({ length: routers }, (_, router) => {
    const lines = drawLines(draw, Math.floor(filterLines / routers))
    const half = Math.floor(lines.length / 2)
    const text = `hostname r${router}\n${Array.from({ length: edges }, (__, edge) => `interface edge${edge}\n ip address 172.${16 + router}.${edge}.1 255.255.255.252\n${edge < 2 ? ` ip access-group F${edge} in\n` : ''}`).join('')}${near(router).map(({ link }) => `interface link${link}\n ip address 10.255.${link}.${links[link]?.[0] === router ? 1 : 2} 255.255.255.252\n`).join('')}${listText('F0', [...lines.slice(0, half), { permit: true, protocol: 'ip', source: [0, 0xffffffff], destination: [0, 0xffffffff], ports: null }])}${listText('F1', [...lines.slice(half), { permit: true, protocol: 'ip', source: [0, 0xffffffff], destination: [0, 0xffffffff], ports: null }])}`
    const routes = owners.map(({ prefix, router: owner, edge }) => {
      const hop = firstHop[owner]?.get(router)
      return owner === router || !hop ? route(prefix, `172.${16 + router}.${edge}.2`, `edge${edge}`) : route(prefix, hop.gateway, `link${hop.link}`)
    })
    return device(`r${router}`, text, routes)
  })
}

function bigBackbone(): void {
  const drawn = backbone(16, 10, 750_000, 1_500)
  const begun = performance.now()
  const network = Network.of(drawn.map(forwardingOf))
  const walker = new Walker(network)
  const first = network.devices[0]
  const at = (name: string): number => first?.ports.findIndex((port) => port.name === name) ?? 0
  walker.walk([{ device: 0, port: at('edge3'), set: network.headers.ipv4 }])
  const build = ms(begun)
  const entries = network.devices.reduce((sum, one) => sum + one.tables.reduce((all, { routes }) => all + routes.length, 0), 0)
  print(`backbone of 16 routers, ${entries} entries, 1,500 filter lines: build`, `${(build / 1000).toFixed(1)} s, with the first question; ${network.classes.count} classes, ${network.headers.diagrams.size} nodes`)
  const times: number[] = []
  for (const name of ['edge0', 'edge1', 'edge2', 'edge4', 'edge5', 'edge6', 'edge7']) {
    const one = performance.now()
    walker.walk([{ device: 5, port: at(name), set: network.headers.ipv4 }])
    times.push(ms(one))
  }
  times.sort((a, b) => a - b)
  print('one question: all packets from one port', `${times[3]?.toFixed(1)} ms (median of 7; most ${times.at(-1)?.toFixed(1)} ms)`)
  const all = performance.now()
  let pairs = 0
  network.devices.forEach((one, number) => one.ports.forEach(({ name }, port) => {
    if (!name.startsWith('edge')) return
    pairs += new Set(walker.walk([{ device: number, port, set: network.headers.ipv4 }]).endings.filter(({ fate }) => fate === 'leaves').map((ending) => `${ending.device} ${ending.port}`)).size
  }))
  print('all pairs of 160 edge ports', `${(ms(all) / 1000).toFixed(1)} s, ${pairs} pairs talk; peak memory ${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`)
}

function growth(): void {
  const figures: number[] = []
  for (const size of [100, 300, 1_000]) {
    const drawn = Array.from({ length: size }, (_, i): NetworkDevice => {
      // A tree: each hangs on the one before it by tens; every device knows 1,000 of the prefixes.
      const up = Math.floor((i - 1) / 10)
      const text = `hostname d${i}\n${i === 0 ? '' : `interface up\n ip address ${address(0x0b000000 + i * 4 + 2)} 255.255.255.252\n`}${Array.from({ length: 10 }, (__, k) => i * 10 + k + 1).filter((child) => child < size).map((child) => `interface down${child}\n ip address ${address(0x0b000000 + child * 4 + 1)} 255.255.255.252\n`).join('')}interface lan\n ip address ${address(0x0a000000 + i * 256 + 1)} 255.255.255.0\n`
      const routes = Array.from({ length: 1_000 }, (__, k) => {
        const target = (i + k * 7 + 1) % size
        let at = target
        while (at > i && Math.floor((at - 1) / 10) !== i) at = Math.floor((at - 1) / 10)
        const below = at > i
        return { ...route(`${address(0x0a000000 + target * 256 + (k >= size ? (k % 2) * 128 : 0))}/${k >= size ? 25 : 24}`, below ? address(0x0b000000 + at * 4 + 2) : address(0x0b000000 + i * 4 + 1), below ? `down${at}` : 'up'), metric: up }
      }).filter((one) => one.nextHops[0]?.interface !== 'up' || i > 0)
      return device(`d${i}`, text, routes)
    })
    const begun = performance.now()
    const parts = drawn.map(forwardingOf)
    const network = Network.of(parts)
    const build = ms(begun)
    figures.push(build)
    const walker = new Walker(network)
    const question = performance.now()
    walker.walk([{ device: size - 1, port: 1, set: network.headers.ipv4 }])
    const asked = ms(question)
    const changed = performance.now()
    const at = Math.floor(size / 2)
    const next: ForwardingDevice[] = [...parts]
    next[at] = forwardingOf({ ...(drawn[at] as NetworkDevice), reading: { ...(drawn[at] as NetworkDevice).reading } })
    network.changed(next)
    const again = ms(changed)
    print(`${size} devices × 1,000 routes: build`, `${(build / 1000).toFixed(2)} s, ${network.classes.count} classes; one question ${asked.toFixed(0)} ms; one device changed ${again.toFixed(0)} ms (${((100 * again) / build).toFixed(1)} % of the build)`)
  }
  print('growth of the build from 100 to 1,000 devices', `${((figures[2] ?? 0) / (figures[0] ?? 1)).toFixed(1)} × for 10 ×`)
}

await againstSolver()
bigBackbone()
growth()
process.exit(0)

/**
 * Traffic: the same questions put to a solver and to the sets of headers; a backbone; growth of an estate; one device
 * changed.
 * Prints figures of this run; nothing here is a test. Young memory is as large as the server's traffic thread has it.
 *   npm run bench:traffic
 */
import { init, type Bool as Z3Bool, type Context } from 'z3-solver'
import { EffectiveConfig, Network, Walker, dialectById, modelOf } from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import { forwardingOf, type ForwardingDevice, type NetworkDevice } from '@jurybox/core/forwarding'
import { Headers, ListSets, NOTHING } from '@jurybox/core/headers'
import type { DeviceState } from '@jurybox/core/state'

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

interface Line {
  readonly permit: boolean
  readonly protocol: 'ip' | 'tcp' | 'udp'
  readonly source: [number, number]
  readonly destination: [number, number]
  readonly ports: [number, number] | null
}
function drawLines(draw: (below: number) => number, count: number): Line[] {
  return Array.from({ length: count }, () => {
    const place = (): [number, number] =>
      draw(4) === 0
        ? [0, 0xffffffff]
        : [(0x0a000000 + draw(64) * 65536 + draw(8) * 256) >>> 0, [255, 1023, 65535][draw(3)] ?? 255]
    const protocol = (['ip', 'tcp', 'udp'] as const)[draw(3)] ?? 'ip'
    const from = draw(8000)
    return {
      permit: draw(2) === 0,
      protocol,
      source: place(),
      destination: place(),
      ports: protocol === 'ip' || draw(2) === 0 ? null : [from, from + draw(500)],
    }
  })
}
function listText(name: string, lines: readonly Line[]): string {
  const entries = lines.map(({ permit, protocol, source, destination, ports }) => {
    const ends = [...source, ...destination].map(address).join(' ')
    return ` ${permit ? 'permit' : 'deny'} ${protocol} ${ends}${ports ? ` range ${ports.join(' ')}` : ''}`
  })
  return `ip access-list extended ${name}\n${entries.join('\n')}\n`
}

type Truth = Z3Bool<'bench'>

/** What lists and routes say, as formulas of a solver. */
class Formulas {
  private constructor(
    readonly context: Context<'bench'>,
    readonly end: () => void,
  ) {}

  static async make(): Promise<Formulas> {
    const api = await init()
    return new Formulas(api.Context('bench'), () =>
      (api.em as { PThread: { terminateAllThreads(): void } }).PThread.terminateAllThreads(),
    )
  }

  get #fields() {
    const { BitVec } = this.context
    return {
      source: BitVec.const('source', 32),
      destination: BitVec.const('destination', 32),
      protocol: BitVec.const('protocol', 8),
      port: BitVec.const('port', 16),
    }
  }

  #within(field: 'source' | 'destination', value: number, care: number): Truth {
    const { BitVec } = this.context
    return this.#fields[field].and(BitVec.val(care >>> 0, 32)).eq(BitVec.val((value & care) >>> 0, 32))
  }

  meets({ protocol, source, destination, ports }: Line): Truth {
    const { And, BitVec } = this.context
    const fields = this.#fields
    return And(
      this.#within('source', source[0], ~source[1]),
      this.#within('destination', destination[0], ~destination[1]),
      ...(protocol === 'ip' ? [] : [fields.protocol.eq(BitVec.val(protocol === 'tcp' ? 6 : 17, 8))]),
      ...(ports ? [fields.port.uge(BitVec.val(ports[0], 16)), fields.port.ule(BitVec.val(ports[1], 16))] : []),
    ) as Truth
  }

  permits(lines: readonly Line[]): Truth {
    const { Or, If, Bool } = this.context
    return lines.reduceRight<Truth>(
      (rest, line) =>
        line.permit ? Or(this.meets(line), rest) : (If(this.meets(line), Bool.val(false), rest) as Truth),
      Bool.val(false),
    )
  }

  /**
   * Whether the longest prefix that holds a destination is one of those that are meant: it is in one, and in none of
   * the others inside that.
   */
  longest(routes: readonly { value: number; length: number; meant: boolean }[]): Truth {
    const { And, Or } = this.context
    const holds = (route: { value: number; length: number }): Truth =>
      this.#within('destination', route.value, -(2 ** (32 - route.length)))
    const others = routes.filter(({ meant }) => !meant)
    return Or(
      ...routes
        .filter(({ meant }) => meant)
        .map((one) =>
          And(
            holds(one),
            ...others
              .filter(
                ({ value, length }) => length > one.length && (value & -(2 ** (32 - one.length))) >>> 0 === one.value,
              )
              .map((inner) => holds(inner).not()),
          ),
        ),
    ) as Truth
  }

  /** Of each further demand whether it can be met along with the first ones. */
  async ask(first: readonly Truth[], further: readonly Truth[]): Promise<boolean[]> {
    const told: boolean[] = []
    const solver = new this.context.Solver()
    solver.add(...first)
    for (const one of further) told.push((await solver.check(one)) === 'sat')
    return told
  }
}

/** As a server is that has run for a while: the middle one of several runs. What is made before each is not counted. */
function warm<T, K = undefined>(
  run: (kept: K) => T,
  before: () => K = () => undefined as K,
): { readonly found: T; readonly took: number } {
  const runs = Array.from({ length: 9 }, () => {
    const kept = before()
    const begun = performance.now()
    return { found: run(kept), took: ms(begun) }
  })
  return runs.sort((a, b) => a.took - b.took)[4] as { found: T; took: number }
}

function compare(
  what: string,
  told: readonly boolean[],
  solver: number,
  { found, took }: { readonly found: readonly boolean[]; readonly took: number },
): void {
  if (found.some((one, i) => one !== told[i])) throw new Error('the solver and the sets do not agree')
  const yes = told.filter((one) => one).length
  print(
    `${told.length} questions ${what}`,
    `solver ${solver.toFixed(0)} ms, sets ${took.toFixed(1)} ms: ${(solver / took).toFixed(0)} × (${yes} times yes)`,
  )
}

/**
 * Of classes: does one list of 300 lines permit more of them than another. Both lists are made and decided within the
 * time.
 */
async function listsAgainstSolver(formulas: Formulas): Promise<void> {
  const draw = numbers(7)
  const [a, b] = [drawLines(draw, 300), drawLines(draw, 300)]
  const classes = Array.from({ length: 50 }, () => ({ ...(drawLines(draw, 1)[0] as Line), permit: true }))
  const begun = performance.now()
  const told = await formulas.ask(
    [formulas.permits(a), formulas.permits(b).not()],
    classes.map((one) => formulas.meets(one)),
  )
  const solver = ms(begun)
  const { accessLists } = modelOf(
    EffectiveConfig.of(
      indented!.read(
        [listText('A', a), listText('B', b), ...classes.map((one, c) => listText(`C${c}`, [one]))].join(''),
      ),
      indented!,
    ),
    { record: 'r', mask: () => '' },
  ).model
  const decided = (): { headers: Headers; permitted: number[] } => {
    const headers = new Headers()
    const sets = new ListSets(headers, accessLists)
    return {
      headers,
      permitted: accessLists.map(
        (list) =>
          sets.decide(list, headers.ipv4, { inInterface: null, outInterface: null, connection: 'new' }).permitted,
      ),
    }
  }
  const ask = ({ headers, permitted: [first, second, ...wanted] }: ReturnType<typeof decided>): boolean[] => {
    const more = headers.diagrams.minus(first ?? NOTHING, second ?? NOTHING)
    return wanted.map((one) => headers.diagrams.meet(more, one))
  }
  compare(
    'of two lists of 300 lines',
    told,
    solver,
    warm(() => ask(decided())),
  )
  compare('of the same, the lists being decided before', told, solver, warm(ask, decided))
}

/** Of lines: is one met by any packet at all. */
async function linesAgainstSolver(formulas: Formulas): Promise<void> {
  const lines = drawLines(numbers(7), 300)
  const asked = Array.from({ length: 50 }, (_, i) => 5 + i * 5)
  const begun = performance.now()
  const told: boolean[] = []
  for (const at of asked)
    told.push(
      ...(await formulas.ask(
        lines.slice(0, at).map((line) => formulas.meets(line).not()),
        [formulas.meets(lines[at] as Line)],
      )),
    )
  const solver = ms(begun)
  const { accessLists } = modelOf(EffectiveConfig.of(indented!.read(listText('A', lines)), indented!), {
    record: 'r',
    mask: () => '',
  }).model
  compare(
    'of one list: is a line ever met',
    told,
    solver,
    warm(() => {
      const headers = new Headers()
      const met = new Set<number>()
      for (const list of accessLists)
        new ListSets(headers, accessLists).follow(
          list,
          headers.ipv4,
          { inInterface: null, outInterface: null, connection: 'new' },
          ({ entry }) => met.add(entry),
        )
      return asked.map((at) => met.has(at))
    }),
  )
}

/**
 * Of a network: do any packets of a class that come in by one edge port go out by another. It is built within the time.
 */
async function networkAgainstSolver(formulas: Formulas): Promise<void> {
  const routers = 16
  const { devices, ways, filters } = backbone(routers, 4, 16_000, 1_500, false)
  const draw = numbers(13)
  const prefixes = ways[0] ?? []
  const asked = Array.from({ length: 50 }, () => {
    const prefix = prefixes[draw(prefixes.length)] as Way
    const line: Line = {
      permit: true,
      protocol: 'tcp',
      source: [(0x0a000000 + draw(64) * 65536) >>> 0, 65535],
      destination: [prefix.value, 2 ** (32 - prefix.length) - 1],
      ports: [draw(4000), 4000 + draw(4000)],
    }
    return {
      line,
      from: { router: draw(routers), edge: draw(2) },
      to: { router: draw(4) === 0 ? draw(routers) : prefix.owner, edge: draw(4) === 0 ? draw(4) : prefix.edge },
    }
  })
  const { And, Or } = formulas.context
  const goes = ways.map(
    (all, router) =>
      new Map(
        [...new Set(all.map(({ next }) => next))]
          .filter((next) => next !== router)
          .map((next) => [
            next,
            formulas.longest(all.map(({ value, length, next: to }) => ({ value, length, meant: to === next }))),
          ]),
      ),
  )
  const out = ways.map((all, router) =>
    Array.from({ length: 4 }, (_, edge) =>
      formulas.longest(
        all.map(({ value, length, next, edge: port }) => ({ value, length, meant: next === router && port === edge })),
      ),
    ),
  )
  const begun = performance.now()
  const told: boolean[] = []
  for (const { line, from, to } of asked) {
    // Where it is after so many hops; no shortest way has more than there are routers.
    let at = new Map<number, Truth>([[from.router, formulas.permits(filters[from.router]?.[from.edge] ?? [])]])
    const ends: Truth[] = []
    for (let hop = 0; hop < routers / 2 + 1; hop++) {
      const here = at.get(to.router)
      if (here) ends.push(And(here, out[to.router]?.[to.edge] as Truth) as Truth)
      const next = new Map<number, Truth[]>()
      for (const [router, is] of at)
        for (const [other, meant] of goes[router] ?? [])
          next.set(other, [...(next.get(other) ?? []), And(is, meant) as Truth])
      at = new Map([...next].map(([router, some]) => [router, Or(...some) as Truth]))
    }
    told.push(...(await formulas.ask([formulas.meets(line)], [Or(...ends) as Truth])))
  }
  const solver = ms(begun)
  const models = devices.map(forwardingOf)
  const ask = (walker: Walker): boolean[] => {
    const { network } = walker
    const { headers } = network
    return asked.map(({ line, from, to }) => {
      const set = headers.all(
        headers.tcp,
        headers.address('source', { value: [line.source[0]], care: [~line.source[1] >>> 0] }),
        headers.within({ value: [line.destination[0]], care: [~line.destination[1] >>> 0] }, true),
        headers.range('destinationPort', line.ports ?? [0, 65535]),
      )
      const port = (router: number, edge: number): number =>
        network.devices[network.indexOf(`r${router}`)]?.interfaces.findIndex(({ name }) => name === `edge${edge}`) ?? -1
      return walker
        .walk([{ device: network.indexOf(`r${from.router}`), port: port(from.router, from.edge), set }])
        .endings.some(
          ({ fate, device: end, port: at }) =>
            fate === 'leaves' && end === network.indexOf(`r${to.router}`) && at === port(to.router, to.edge),
        )
    })
  }
  const what = `of ${routers} routers with ${prefixes.length} routes each and ${filters.flat(2).length} lines`
  compare(
    what,
    told,
    solver,
    warm(() => ask(new Walker(Network.of(models)))),
  )
  compare(
    'of the same, each port having been asked once before',
    told,
    solver,
    warm(ask, () => {
      const walker = new Walker(Network.of(models))
      // As after a survey: each port was asked once with all packets.
      const { devices: all, headers } = walker.network
      for (const [number, { interfaces }] of all.entries())
        interfaces.forEach((_, port) => walker.walk([{ device: number, port, set: headers.ipv4 }]))
      return walker
    }),
  )
}

type Route = DeviceState['routes'][number]
function device(name: string, text: string, routes: readonly Route[]): NetworkDevice {
  const modelled = modelOf(EffectiveConfig.of(indented!.read(text), indented!), { record: 'config', mask: () => '' })
  const reading = stateOf([])
  return {
    name,
    dialect: 'indented',
    modelled,
    reading: { ...reading, state: { ...reading.state, routes: [...routes] } },
  }
}
const route = (prefix: string, gateway: string, port: string): Route => ({
  prefix,
  family: 'ipv4',
  vrf: null,
  protocol: 'bgp',
  distance: 20,
  metric: 0,
  selected: true,
  nextHops: [{ address: gateway, interface: port, discard: false }],
})

/** Where a router sends a prefix: to another, or out of an edge port of its own. */
interface Way {
  readonly value: number
  readonly length: number
  readonly owner: number
  readonly edge: number
  readonly next: number
}
interface Backbone {
  readonly devices: NetworkDevice[]
  /** Of each router. */
  readonly ways: Way[][]
  /** Of each router the lists before its first two edge ports. */
  readonly filters: Line[][][]
}

/**
 * Routers in a ring with chords; every prefix is behind an edge port of one of them, and all know the shortest way
 * there.
 */
function backbone(routers: number, edges: number, entries: number, filterLines: number, equalPaths: boolean): Backbone {
  const draw = numbers(11)
  const links: [number, number][] = []
  for (let i = 0; i < routers; i++) {
    links.push([i, (i + 1) % routers])
    if (i % 2 === 0) links.push([i, (i + 5) % routers])
  }
  const nextOf = (link: number, router: number): number =>
    (links[link]?.[0] === router ? links[link]?.[1] : links[link]?.[0]) ?? router
  const near = (router: number): { to: number; link: number; gateway: string }[] =>
    links.flatMap(([a, b], link) =>
      a === router
        ? [{ to: b, link, gateway: `10.255.${link}.2` }]
        : b === router
          ? [{ to: a, link, gateway: `10.255.${link}.1` }]
          : [],
    )
  const firstHop = Array.from({ length: routers }, (_, to) => {
    const hops = new Map<number, { link: number; gateway: string }>()
    const queue = [to]
    const seen = new Set(queue)
    for (const at of queue)
      for (const { to: next } of near(at)) {
        if (seen.has(next)) continue
        seen.add(next)
        queue.push(next)
        const back = near(next).find((one) => one.to === at)
        if (back) hops.set(next, back)
      }
    return hops
  })
  const drawn = Array.from({ length: Math.floor(entries / routers) }, (_, i) => ({
    value: (0x14000000 + i * 4096 * (1 + (i % 3))) >>> 0,
    length: 20 + (i % 5),
    owner: draw(routers),
    edge: draw(edges),
  }))
  // A prefix that is behind two ports is reached by equal paths.
  const owners = equalPaths ? drawn : [...new Map(drawn.map((one) => [`${one.value}/${one.length}`, one])).values()]
  const filters = Array.from({ length: routers }, () => {
    const lines = drawLines(draw, Math.floor(filterLines / routers))
    const half = Math.floor(lines.length / 2)
    return [lines.slice(0, half), lines.slice(half)].map((some): Line[] => [
      ...some,
      { permit: true, protocol: 'ip', source: [0, 0xffffffff], destination: [0, 0xffffffff], ports: null },
    ])
  })
  const ways = Array.from({ length: routers }, (_, router) =>
    owners.map((one): Way => ({
      ...one,
      next:
        firstHop[one.owner]?.has(router) === true
          ? nextOf(firstHop[one.owner]?.get(router)?.link ?? 0, router)
          : router,
    })),
  )
  const devices = Array.from({ length: routers }, (_, router) => {
    const edgePorts = Array.from({ length: edges }, (__, edge) => {
      const filter = edge < 2 ? ` ip access-group F${edge} in\n` : ''
      return `interface edge${edge}\n ip address 172.${16 + router}.${edge}.1 255.255.255.252\n${filter}`
    })
    const text = `hostname r${router}\n${edgePorts.join('')}${near(router)
      .map(
        ({ link }) =>
          `interface link${link}\n ip address 10.255.${link}.${links[link]?.[0] === router ? 1 : 2} 255.255.255.252\n`,
      )
      .join('')}${(filters[router] ?? []).map((lines, edge) => listText(`F${edge}`, lines)).join('')}`
    const routes = owners.map(({ value, length, owner, edge }) => {
      const prefix = `${address(value)}/${length}`
      const hop = firstHop[owner]?.get(router)
      return owner === router || !hop
        ? route(prefix, `172.${16 + router}.${edge}.2`, `edge${edge}`)
        : route(prefix, hop.gateway, `link${hop.link}`)
    })
    return device(`r${router}`, text, routes)
  })
  return { devices, ways, filters }
}

function bigBackbone(): void {
  const drawn = backbone(16, 10, 750_000, 1_500, true).devices
  const begun = performance.now()
  const network = Network.of(drawn.map(forwardingOf))
  const walker = new Walker(network)
  const first = network.devices[0]
  const at = (name: string): number => first?.interfaces.findIndex((port) => port.name === name) ?? 0
  walker.walk([{ device: 0, port: at('edge3'), set: network.headers.ipv4 }])
  const build = ms(begun)
  const entries = network.tables.flat().reduce((sum, { table }) => sum + table.routes.length, 0)
  print(
    `backbone of 16 routers, ${entries} entries, 1,500 filter lines: build`,
    [
      `${(build / 1000).toFixed(1)} s, with the first question; ${network.classes.count} classes`,
      `${network.headers.diagrams.size} nodes`,
    ].join(', '),
  )
  const times: number[] = []
  for (const name of ['edge0', 'edge1', 'edge2', 'edge4', 'edge5', 'edge6', 'edge7']) {
    const one = performance.now()
    walker.walk([{ device: 5, port: at(name), set: network.headers.ipv4 }])
    times.push(ms(one))
  }
  times.sort((a, b) => a - b)
  print(
    'one question: all packets from one port',
    `${times[3]?.toFixed(1)} ms (median of 7; most ${times.at(-1)?.toFixed(1)} ms)`,
  )
  const all = performance.now()
  let pairs = 0
  network.devices.forEach((one, number) =>
    one.interfaces.forEach(({ name }, port) => {
      if (!name.startsWith('edge')) return
      pairs += new Set(
        walker
          .walk([{ device: number, port, set: network.headers.ipv4 }])
          .endings.filter(({ fate }) => fate === 'leaves')
          .map((ending) => `${ending.device} ${ending.port}`),
      ).size
    }),
  )
  const [seconds, megabytes] = [ms(all) / 1000, process.memoryUsage().rss / 1e6]
  print(
    'all pairs of 160 edge ports',
    `${seconds.toFixed(1)} s, ${pairs} pairs talk; peak memory ${megabytes.toFixed(0)} MB`,
  )
}

function growth(): void {
  const figures: number[] = []
  for (const size of [100, 300, 1_000]) {
    const drawn = Array.from({ length: size }, (_, i): NetworkDevice => {
      // A tree: each hangs on the one before it by tens; every device knows 1,000 of the prefixes.
      const up = Math.floor((i - 1) / 10)
      const text = `hostname d${i}\n${i === 0 ? '' : `interface up\n ip address ${address(0x0b000000 + i * 4 + 2)} 255.255.255.252\n`}${Array.from(
        { length: 10 },
        (__, k) => i * 10 + k + 1,
      )
        .filter((child) => child < size)
        .map((child) => `interface down${child}\n ip address ${address(0x0b000000 + child * 4 + 1)} 255.255.255.252\n`)
        .join('')}interface lan\n ip address ${address(0x0a000000 + i * 256 + 1)} 255.255.255.0\n`
      const routes = Array.from({ length: 1_000 }, (__, k) => {
        const target = (i + k * 7 + 1) % size
        let at = target
        while (at > i && Math.floor((at - 1) / 10) !== i) at = Math.floor((at - 1) / 10)
        const below = at > i
        return {
          ...route(
            `${address(0x0a000000 + target * 256 + (k >= size ? (k % 2) * 128 : 0))}/${k >= size ? 25 : 24}`,
            below ? address(0x0b000000 + at * 4 + 2) : address(0x0b000000 + i * 4 + 1),
            below ? `down${at}` : 'up',
          ),
          metric: up,
        }
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
    print(
      `${size} devices × 1,000 routes: build`,
      [
        `${(build / 1000).toFixed(2)} s, ${network.classes.count} classes`,
        `one question ${asked.toFixed(0)} ms`,
        `one device changed ${again.toFixed(0)} ms (${((100 * again) / build).toFixed(1)} % of the build)`,
      ].join('; '),
    )
  }
  print(
    'growth of the build from 100 to 1,000 devices',
    `${((figures[2] ?? 0) / (figures[0] ?? 1)).toFixed(1)} × for 10 ×`,
  )
}

const formulas = await Formulas.make()
await listsAgainstSolver(formulas)
await linesAgainstSolver(formulas)
await networkAgainstSolver(formulas)
formulas.end()
bigBackbone()
growth()
process.exit(0)

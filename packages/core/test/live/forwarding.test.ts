import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import fc from 'fast-check'
import { Walker, traceOf } from '../../src/index.ts'
import { answersBack } from '../../src/forwarding/index.ts'
import { deviceOf, networkOf, udp } from '../forwarding/networks.ts'

/**
 * The kernel as referee: small networks of network namespaces, with routes, rules, filters and translation drawn by
 * lot. What `ip -j`, `iptables-save`, `nft -j list ruleset` and sysctl tell of them is read; real packets are sent;
 * what arrives has to be what was computed.
 */
const PREFIX = `jf${process.pid}x`
const PORTS = [7001, 7002, 7003, 7004]
/** Packets that are sent through each network at least. */
const LEAST_SENT = 300
const HOST = new URL('kernel-host.mjs', import.meta.url).pathname

function missing(): string | null {
  if (process.getuid?.() !== 0) return 'it needs root'
  for (const [program, name] of [
    ['/usr/sbin/iptables-save', 'iptables'],
    ['/usr/sbin/ip', 'iproute2'],
  ] as const)
    if (!existsSync(program)) return `the package ${name} is not installed`
  const made = spawnSync('ip', ['netns', 'add', `${PREFIX}try`], { encoding: 'utf8' })
  spawnSync('ip', ['netns', 'del', `${PREFIX}try`])
  return made.status === 0 ? null : `no network namespace can be made here (${made.stderr.trim()})`
}

const NFT = '/usr/sbin/nft'
const TRANSLATE = '/usr/sbin/iptables-restore-translate'

interface Drawn {
  readonly routers: number
  readonly links: readonly (readonly [number, number])[]
  readonly choices: readonly number[]
}
const drawn: fc.Arbitrary<Drawn> = fc
  .integer({ min: 2, max: 5 })
  .chain((routers) =>
    fc.record({
      routers: fc.constant(routers),
      links: fc
        .tuple(
          fc.array(fc.tuple(fc.nat({ max: routers - 1 }), fc.nat({ max: routers - 1 })), { maxLength: 3 }),
          fc.array(fc.nat({ max: 99 }), { minLength: routers, maxLength: routers }),
        )
        .map(([more, tree]) => [
          ...tree.slice(1).map((to, i) => [i + 1, to % (i + 1)] as const),
          ...more.filter(([a, b]) => a !== b),
        ]),
      choices: fc.array(fc.nat({ max: 9999 }), { minLength: 400, maxLength: 400 }),
    }),
  )

/** What is run in which namespace to make a drawn network. */
class Plan {
  readonly commands: [namespace: string, words: string[]][] = []
  readonly rules = new Map<string, string[]>()
  #at = 0

  constructor(readonly network: Drawn) {
    const { routers, links } = network
    for (let router = 0; router < routers; router++) {
      this.#cable(`r${router}`, `h${router}`, `10.100.${router}`, 'lan', 'eth0')
      this.run(`h${router}`, 'ip route add default via', `10.100.${router}.1`)
    }
    links.forEach(([a, b], i) => this.#cable(`r${a}`, `r${b}`, `10.200.${i}`, `to${b}x${i}`, `to${a}x${i}`))
    for (let router = 0; router < routers; router++) this.#router(router)
  }

  toString(): string {
    return [
      ...this.commands.map(([name, words]) => `${name}: ${words.join(' ')}`),
      ...[...this.rules].map(([name, lines]) => `${name}:\n${lines.join('\n')}`),
    ].join('\n')
  }

  get names(): string[] {
    return Array.from({ length: this.network.routers }, (_, i) => [`r${i}`, `h${i}`]).flat()
  }

  run(namespace: string, ...words: string[]): void {
    this.commands.push([namespace, words.flatMap((word) => word.split(' '))])
  }

  #draw(below: number): number {
    return (this.network.choices[this.#at++ % this.network.choices.length] ?? 0) % below
  }

  #chance(percent: number): boolean {
    return this.#draw(100) < percent
  }

  #pick<T>(from: readonly T[]): T {
    return from[this.#draw(from.length)] as T
  }

  #cable(a: string, b: string, net: string, portA: string, portB: string): void {
    this.run('', `ip link add ${portA} netns ${PREFIX}${a} type veth peer name ${portB} netns ${PREFIX}${b}`)
    for (const [owner, port, end] of [
      [a, portA, 1],
      [b, portB, 2],
    ] as const) {
      this.run(owner, `ip addr add ${net}.${end}/30 dev ${port}`)
      this.run(owner, `ip link set ${port} up`)
    }
  }

  /** Gateways next door, and the port to each. */
  #neighbours(router: number): { to: number; gateway: string; port: string }[] {
    return this.network.links.flatMap(([a, b], i) =>
      a === router
        ? [{ to: b, gateway: `10.200.${i}.2`, port: `to${b}x${i}` }]
        : b === router
          ? [{ to: a, gateway: `10.200.${i}.1`, port: `to${a}x${i}` }]
          : [],
    )
  }

  #distance(from: number, to: number): number {
    const distances = new Map([[to, 0]])
    const queue = [to]
    for (const at of queue)
      for (const { to: next } of this.#neighbours(at))
        if (!distances.has(next)) queue.push(next) && distances.set(next, (distances.get(at) ?? 0) + 1)
    return distances.get(from) ?? 99
  }

  #router(router: number): void {
    const own = `r${router}`
    const near = this.#neighbours(router)
    this.run(own, 'sysctl -qw net.ipv4.ip_forward=1 net.ipv4.conf.all.rp_filter=0')
    const checks = ['lan', ...near.map(({ port: name }) => name)].map((port) => ({
      port,
      mode: this.#chance(85) ? 0 : this.#pick([1, 2]),
    }))
    for (const { port, mode } of checks) this.run(own, `sysctl -qw net.ipv4.conf.${port}.rp_filter=${mode}`)
    for (let to = 0; to < this.network.routers; to++) {
      if (to === router || near.length === 0) continue
      const target = this.#chance(20) ? `10.100.${to}.2/32` : `10.100.${to}.0/24`
      const best = near.filter((one) => this.#distance(one.to, to) < this.#distance(router, to))
      const lot = this.#draw(100)
      if (lot < 6) this.run(own, `ip route add ${this.#pick(['blackhole', 'unreachable'])} ${target}`)
      else if (lot < 12) continue
      else if (lot < 26 || best.length === 0) this.run(own, `ip route add ${target} via ${this.#pick(near).gateway}`)
      else
        this.run(
          own,
          `ip route add ${target}`,
          ...(best.length === 1
            ? [`via ${best[0]?.gateway ?? ''}`]
            : best.map(({ gateway }) => `nexthop via ${gateway}`)),
        )
    }
    if (near.length > 0 && this.#chance(40))
      this.run(own, `ip route add default via ${this.#pick(near).gateway} metric ${this.#pick([10, 20])}`)
    if (near.length > 0 && this.#chance(40)) {
      this.run(
        own,
        `ip route add ${this.#pick(['default', '10.100.0.0/16', `10.100.${this.#draw(this.network.routers)}.0/24`])} via ${this.#pick(near).gateway} table 100`,
      )
      if (this.#chance(30))
        this.run(own, `ip route add throw 10.100.${this.#draw(this.network.routers)}.0/25 table 100`)
      // A kernel checks the return path of questions for its link address too, and does not answer some: that is not
      // followed.
      const from = checks[0]?.mode === 0 ? this.#draw(this.network.routers) : (router + 1) % this.network.routers
      this.run(
        own,
        `ip rule add from 10.100.${from}.0/24${this.#chance(30) ? ' iif lan' : ''}${this.#chance(30) ? ` to 10.100.${this.#draw(this.network.routers)}.0/24` : ''} table 100`,
      )
    }
    this.rules.set(own, this.#filters(near.map(({ port }) => port)))
  }

  #match(): string {
    const place = (): string => `10.100.${this.#draw(this.network.routers)}.${this.#pick(['0/24', '2/32'])}`
    const side = (flag: string): string =>
      this.#chance(45) ? `${this.#chance(25) ? ' !' : ''} ${flag} ${place()}` : ''
    const ports = [...new Set([this.#pick(PORTS), this.#pick(PORTS)])]
    const protocol = this.#chance(60)
      ? ` -p udp${this.#chance(60) ? this.#pick([` -m udp --dport ${ports[0] ?? 0}`, ` -m udp ! --dport ${ports[0] ?? 0}`, ` -m multiport --dports ${ports.join(',')}`, ` -m udp --dport 7001:${this.#pick(PORTS)}`]) : ''}`
      : ''
    return `${side('-s')}${side('-d')}${protocol}`
  }

  #filters(ports: readonly string[]): string[] {
    const lines = [
      '*filter',
      `:INPUT ${this.#pick(['ACCEPT', 'ACCEPT', 'ACCEPT', 'DROP'])} [0:0]`,
      `:FORWARD ${this.#pick(['ACCEPT', 'ACCEPT', 'ACCEPT', 'DROP'])} [0:0]`,
      ':OUTPUT ACCEPT [0:0]',
      ':SIDE - [0:0]',
    ]
    if (this.#chance(40)) lines.push('-A FORWARD -m conntrack --ctstate RELATED,ESTABLISHED -j ACCEPT')
    if (this.#chance(20)) lines.push('-A FORWARD -m conntrack --ctstate INVALID -j DROP')
    const rule = (chain: string, targets: readonly string[], where: string): string =>
      `-A ${chain}${where}${this.#match()} -j ${this.#pick(targets)}`
    for (let i = this.#draw(5); i > 0; i--)
      lines.push(
        rule(
          'FORWARD',
          ['ACCEPT', 'ACCEPT', 'DROP', 'SIDE', 'REJECT', 'RETURN'],
          this.#chance(30) && ports.length > 0
            ? ` ${this.#pick(['-i', '-o', '! -o'])} ${this.#pick(['lan', 'to+', ...ports])}`
            : '',
        ),
      )
    for (let i = this.#draw(3); i > 0; i--) lines.push(rule('SIDE', ['ACCEPT', 'DROP', 'RETURN'], ''))
    for (let i = this.#draw(3); i > 0; i--) lines.push(rule('INPUT', ['ACCEPT', 'DROP'], ''))
    lines.push(
      'COMMIT',
      '*nat',
      ':PREROUTING ACCEPT [0:0]',
      ':INPUT ACCEPT [0:0]',
      ':OUTPUT ACCEPT [0:0]',
      ':POSTROUTING ACCEPT [0:0]',
    )
    if (this.#chance(35))
      lines.push(
        `-A PREROUTING -d 10.100.${this.#draw(this.network.routers)}.2/32 -p udp -m udp --dport ${this.#pick(PORTS)} -j ${this.#pick([`DNAT --to-destination 10.100.${this.#draw(this.network.routers)}.2:${this.#pick(PORTS)}`, `DNAT --to-destination 10.100.${this.#draw(this.network.routers)}.2`, `REDIRECT --to-ports ${this.#pick(PORTS)}`])}`,
      )
    if (this.#chance(40) && ports.length > 0)
      lines.push(
        `-A POSTROUTING${this.#chance(50) ? ` -s 10.100.${this.#draw(this.network.routers)}.0/24` : ''} -o ${this.#pick(ports)} -j ${this.#pick(['MASQUERADE', `SNAT --to-source 10.100.${this.#draw(this.network.routers)}.1`])}`,
      )
    lines.push('COMMIT', '')
    return lines
  }
}

describe('real packets through real kernels', function () {
  this.timeout(300_000)
  const why = missing()
  const listeners: ChildProcess[] = []
  let folder: string
  before(function () {
    if (why !== null) {
      console.log(`      left out: ${why}`)
      this.skip()
    }
    folder = mkdtempSync(join(tmpdir(), 'jurybox-kernel-'))
  })
  after(() => {
    if (why === null) rmSync(folder, { recursive: true, force: true })
  })

  const inside = (name: string, words: readonly string[], input?: string): string =>
    execFileSync(
      name === '' ? (words[0] ?? '') : 'ip',
      name === '' ? words.slice(1) : ['netns', 'exec', `${PREFIX}${name}`, ...words],
      { encoding: 'utf8', input, stdio: ['pipe', 'pipe', 'pipe'] },
    )

  /** Saved rules as commands of nft(8); null where some cannot be said so, or the programs are not there. */
  function inNftables(rules: string): string | null {
    if (!existsSync(NFT) || !existsSync(TRANSLATE)) return null
    const file = join(folder, 'rules')
    writeFileSync(file, rules)
    const { status, stdout } = spawnSync(TRANSLATE, ['-f', file], { encoding: 'utf8' })
    return status !== 0 || stdout.split('\n').some((line) => /^# -/.test(line)) ? null : stdout
  }

  async function arrivals(
    plan: Plan,
    packets: readonly { id: number; from: string; destination: string; port: number }[],
  ): Promise<{ readonly arrived: Map<number, string>; readonly answered: Map<number, string> }> {
    const arrived = new Map<number, string>()
    const answered = new Map<number, string>()
    await Promise.all(
      plan.names.map(
        (name) =>
          new Promise<void>((resolve) => {
            const listener = spawn(
              'ip',
              [
                'netns',
                'exec',
                `${PREFIX}${name}`,
                process.execPath,
                HOST,
                name.startsWith('h') ? 'answer' : 'listen',
                ...PORTS.map(String),
              ],
              { stdio: ['ignore', 'pipe', 'inherit'] },
            )
            listeners.push(listener)
            let text = ''
            listener.stdout.on('data', (chunk: Buffer) => {
              text += chunk.toString()
              const lines = text.split('\n')
              text = lines.pop() ?? ''
              for (const line of lines) {
                if (line === 'ready') resolve()
                else arrived.set(Number(line.split(' ')[0]), `${name} ${line.split(' ')[1] ?? ''}`)
              }
            })
          }),
      ),
    )
    for (const name of plan.names.filter((one) => one.startsWith('h'))) {
      const file = join(folder, `${name}.json`)
      writeFileSync(file, JSON.stringify(packets.filter(({ from }) => from === name)))
      for (const line of inside(name, [process.execPath, HOST, 'send', file])
        .split('\n')
        .filter((one) => one !== '')) {
        const [id, address, port] = line.split(' ')
        answered.set(Number(id), `${address ?? ''} ${port ?? ''}`)
      }
    }
    // Until nothing more comes.
    for (let before = -1; before !== arrived.size;) {
      before = arrived.size
      await new Promise((resolve) => setTimeout(resolve, 400))
    }
    return { arrived, answered }
  }

  const seen = { arrived: 0, not: 0, either: 0, answered: 0, unanswered: 0, letIn: 0, keptOut: 0, native: 0 }
  fc.sample(drawn, 8).forEach((network, n) => {
    it(`network ${n + 1}: ${network.routers} routers, ${network.links.length} links`, async () => {
      const plan = new Plan(network)
      try {
        for (const name of plan.names) inside('', ['ip', 'netns', 'add', `${PREFIX}${name}`])
        for (const name of plan.names) inside(name, ['ip', 'link', 'set', 'lo', 'up'])
        for (const [name, words] of plan.commands) inside(name, words)
        const native = new Set<string>()
        for (const [name, rules] of plan.rules) {
          // Every other router has its rules in the kernel's own form, as far as they can be said in it.
          const own = Number(name.slice(1)) % 2 === 1 ? inNftables(rules.join('\n')) : null
          if (own === null) inside(name, ['iptables-restore'], rules.join('\n'))
          else {
            inside(name, [NFT, '-f', '-'], own)
            native.add(name)
          }
        }
        seen.native += native.size
        // A link is down until both of its ends have heard each other.
        for (const name of plan.names)
          while (inside(name, ['ip', '-br', 'link', 'show', 'up']).includes('DOWN'))
            await new Promise((resolve) => setTimeout(resolve, 20))
        const captured = Object.fromEntries(
          plan.names.map((name) => [
            name,
            {
              filters: native.has(name)
                ? inside(name, [NFT, '-j', 'list', 'ruleset'])
                : inside(name, ['iptables-save']),
              outputs: {
                'state/interfaces': inside(name, ['ip', '-j', 'addr']),
                'state/routes': inside(name, ['ip', '-j', 'route', 'show', 'table', 'all']),
                'state/rules': inside(name, ['ip', '-j', 'rule']),
                sysctl: inside(name, ['sysctl', '-a', '--pattern', 'ip_forward$|rp_filter']),
              },
            },
          ]),
        )
        const built = networkOf(
          ...plan.names.map((name) =>
            deviceOf(
              name,
              'linux',
              captured[name]?.filters ||
                '*filter\n:INPUT ACCEPT [0:0]\n:FORWARD ACCEPT [0:0]\n:OUTPUT ACCEPT [0:0]\nCOMMIT\n',
              captured[name]?.outputs,
            ),
          ),
        )
        const walker = new Walker(built)
        const addresses = [
          ...Array.from({ length: network.routers }, (_, i) => [`10.100.${i}.1`, `10.100.${i}.2`]).flat(),
          ...network.links.flatMap((_, i) => [`10.200.${i}.1`, `10.200.${i}.2`]),
          '10.100.77.2',
          '203.0.113.9',
        ]
        const kinds = Array.from({ length: network.routers }, (_, h) =>
          addresses
            .filter((destination) => destination !== `10.100.${h}.2`)
            .flatMap((destination) =>
              PORTS.map((port) => ({ from: `h${h}`, source: `10.100.${h}.2`, destination, port })),
            ),
        ).flat()
        // In a small network each is sent several times, from another port: equal paths are chosen by it.
        const packets = Array.from({ length: Math.ceil(LEAST_SENT / kinds.length) }, () => kinds)
          .flat()
          .map((kind, i) => ({ id: i + 1, ...kind }))
        const { arrived, answered } = await arrivals(plan, packets)
        for (const packet of packets) {
          const sent = udp(packet.source, packet.destination, packet.port, { sourcePort: 20000 + packet.id })
          const trace = traceOf(walker, built.indexOf(packet.from), -1, sent)
          const told = `${JSON.stringify(packet)} ${JSON.stringify(trace.paths, null, 1)}\n${plan.toString()}`
          expect(trace.fates, told).to.not.include('undecided')
          const at = arrived.get(packet.id)?.split(' ')[0] ?? null
          const computed = new Set(trace.paths.map(({ fate, device }) => (fate === 'arrives' ? device : null)))
          expect(
            computed.has(at),
            `the kernel: ${at ?? 'nowhere'}; computed: ${[...computed].join(', ')}\n${told}`,
          ).to.equal(true)
          if (computed.size > 1) seen.either++
          else if (at === null) seen.not++
          else seen.arrived++
          // A router's own address, at which something listens: what its INPUT lets in, and what it does not.
          if (computed.size === 1 && !/^10\.100\.\d+\.2$/.test(packet.destination)) {
            if (at?.startsWith('r') === true) seen.letIn++
            else if (trace.paths.some(({ reason }) => reason.code === 'filter' && reason.words.includes('INPUT')))
              seen.keptOut++
          }
          // Routers answer from whichever of their addresses is nearest: it is hosts that are asked.
          if (trace.paths.length !== 1 || at?.startsWith('h') !== true) continue
          const device = built.indexOf(packet.from)
          const { parts } = answersBack(
            walker,
            { device, port: -1, set: built.headers.packet(sent), addressed: built.addressed.packet(sent) },
            ['arrives'],
            ['arrives'],
          )
          const back = new Set(parts.map(({ fate, device: end }) => fate === 'arrives' && end === packet.from))
          const isAnswered = answered.get(packet.id) === `${packet.destination} ${packet.port}`
          expect(
            back.has(isAnswered),
            `the kernel: answered by ${answered.get(packet.id) ?? 'nobody'}; computed: ${JSON.stringify(parts.map(({ fate, reason, device: end }) => [fate, reason, end]))}\n${told}`,
          ).to.equal(true)
          if (back.size === 1) seen[isAnswered ? 'answered' : 'unanswered']++
        }
      } finally {
        for (const listener of listeners.splice(0)) listener.kill('SIGKILL')
        for (const name of plan.names) spawnSync('ip', ['netns', 'del', `${PREFIX}${name}`])
      }
    })
  })

  it('packets of every kind were among them', function () {
    if (why !== null) this.skip()
    console.log(
      `      ${seen.arrived} arrived where computed, ${seen.not} arrived nowhere as computed, ${seen.either} had more than one way; ${seen.answered} answers came back as computed, ${seen.unanswered} did not as computed; ${seen.letIn} were let in to a router itself as computed, ${seen.keptOut} kept out by its filter as computed; ${seen.native} routers had rules of nftables`,
    )
    expect(seen.arrived).to.be.above(100)
    expect(seen.not).to.be.above(100)
    expect(seen.answered).to.be.above(0)
    expect(seen.letIn).to.be.above(50)
    expect(seen.keptOut).to.be.above(0)
    if (existsSync(NFT)) expect(seen.native).to.be.above(3)
  })
})

import { addressWords, type DeviceModel } from '../../model/index.ts'
import { exampleOf, type Packet } from '../../headers/index.ts'
import { answersBack, type AnswerPart } from './answers.ts'
import { packetAsked } from './ask.ts'
import { type ForwardingDevice } from '../network/device.ts'
import { exhibitsOf, type Exhibit } from '../network/exhibit.ts'
import type { Network } from '../network/network.ts'
import { interfaceNamed } from '../network/interfaces.ts'
import { traceOf, type Trace, type TracePath } from '../engine/trace.ts'
import type { Walker } from '../engine/walk.ts'

/** What a device needs others for. */
export type FunctionKind = 'time' | 'logging' | 'logins' | 'traps' | 'names'
export type LinkStanding = 'pass' | 'fail' | 'unknown'

/** One link of the chain from what is set up to the answer that comes back. */
export interface FunctionLink {
  readonly link: 'service' | 'server' | 'name' | 'resolver' | 'forward path' | 'return path' | 'seen'
  readonly standing: LinkStanding
  readonly words: string
  readonly exhibits: readonly Exhibit[]
  /** The packet that was followed, and where it began. */
  readonly trace: {
    readonly at: string
    readonly port: string | null
    readonly packet: Packet
    readonly trace: Trace
  } | null
}

/** A function of a device with one of its servers, link by link; the first that is not right explains why it fails. */
export interface DeviceFunction {
  readonly device: string
  readonly kind: FunctionKind
  /** As the lines name it. */
  readonly server: string
  readonly outcome: LinkStanding
  readonly links: readonly FunctionLink[]
}

/** What is known beside the lines. */
export interface FunctionFacts {
  /** Resolvers that the engagement approves; null where nobody has said. */
  readonly resolvers: readonly string[] | null
}

interface Wanted {
  readonly kind: FunctionKind
  readonly server: string
  readonly proto: 'udp' | 'tcp'
  readonly port: number
  /** Whether the function needs an answer. */
  readonly answered: boolean
  /** The interface or the address that it is asked from, where lines state it. */
  readonly source: string | null
  readonly vrf: string | null
  readonly path: string
  /** Switched off as a whole, by the value under this path. */
  readonly off: string | null
}

/** Ports of RFC 5905, 5426, 5424, 2865, 8907, 3430, 1035. */
const PORTS = { time: 123, logging: 514, radius: 1812, tacacs: 49, traps: 162, names: 53 }

/** Every function of every device that others serve. */
export function functionsOf(walker: Walker, facts: FunctionFacts): DeviceFunction[] {
  return walker.network.devices.flatMap((owner, device) => {
    const model = owner.device.modelled?.model
    return model ? wantedOf(model).map((wanted) => new Chain(walker, device, owner, model, facts).follow(wanted)) : []
  })
}

function wantedOf({ system }: DeviceModel): Wanted[] {
  const { ntp, logging, snmp, aaa, nameServers } = system
  return [
    ...ntp.servers.map((server, i): Wanted => ({
      kind: 'time',
      server: server.address,
      proto: 'udp',
      port: PORTS.time,
      answered: true,
      source: ntp.source,
      vrf: server.vrf,
      path: `system.ntp.servers[${i}]`,
      off: ntp.enabled === false ? 'system.ntp.enabled' : null,
    })),
    ...logging.hosts.map((host, i): Wanted => ({
      kind: 'logging',
      server: host.address,
      proto: host.protocol === 'tcp' ? 'tcp' : 'udp',
      port: host.port ?? PORTS.logging,
      answered: host.protocol === 'tcp',
      source: logging.source,
      vrf: host.vrf,
      path: `system.logging.hosts[${i}]`,
      off: logging.enabled === false ? 'system.logging.enabled' : null,
    })),
    ...aaa.servers.map((server, i): Wanted => {
      const tacacs = /^tacacs/i.test(server.protocol)
      const group = aaa.groups.find(
        ({ servers }) => servers.includes(server.name) || (server.address !== null && servers.includes(server.address)),
      )
      return {
        kind: 'logins',
        server: server.address ?? server.name,
        proto: tacacs ? 'tcp' : 'udp',
        port: tacacs ? PORTS.tacacs : PORTS.radius,
        answered: true,
        source:
          group?.source ?? aaa.sources.find(({ protocol }) => /^tacacs/i.test(protocol) === tacacs)?.interface ?? null,
        vrf: null,
        path: `system.aaa.servers[${i}]`,
        off: aaa.enabled === false ? 'system.aaa.enabled' : null,
      }
    }),
    ...snmp.hosts.map((host, i): Wanted => ({
      kind: 'traps',
      server: host.address,
      proto: 'udp',
      port: PORTS.traps,
      answered: false,
      source: snmp.source,
      vrf: null,
      path: `system.snmp.hosts[${i}]`,
      off: null,
    })),
    // Who is told not to look names up does not need them.
    ...(system.looksUpNames === false ? [] : nameServers.map(resolverWanted)),
  ]
}

function resolverWanted(server: string, i: number): Wanted {
  return {
    kind: 'names',
    server,
    proto: 'udp',
    port: PORTS.names,
    answered: true,
    source: null,
    vrf: null,
    path: `system.nameServers[${i}]`,
    off: null,
  }
}

class Chain {
  readonly #links: FunctionLink[] = []

  constructor(
    readonly walker: Walker,
    readonly device: number,
    readonly owner: ForwardingDevice,
    readonly model: DeviceModel,
    readonly facts: FunctionFacts,
  ) {}

  get #network(): Network {
    return this.walker.network
  }

  follow(wanted: Wanted): DeviceFunction {
    this.#service(wanted)
    this.#approved(wanted)
    for (const address of this.#addressesOf(wanted)) this.#ways(wanted, address)
    if (wanted.kind === 'time') this.#seen(wanted)
    const standings = this.#links.map(({ standing }) => standing)
    return {
      device: this.owner.name,
      kind: wanted.kind,
      server: wanted.server,
      outcome: standings.includes('fail') ? 'fail' : standings.includes('unknown') ? 'unknown' : 'pass',
      links: this.#links,
    }
  }

  #say(
    link: FunctionLink['link'],
    standing: LinkStanding,
    words: string,
    exhibits: readonly Exhibit[] = [],
    trace: FunctionLink['trace'] = null,
  ): void {
    this.#links.push({ link, standing, words, exhibits, trace })
  }

  #lines(path: string): Exhibit[] {
    return exhibitsOf(this.owner, 'model', path)
  }

  #service({ off, path, server }: Wanted): void {
    if (off !== null) this.#say('service', 'fail', 'it is disabled', this.#lines(off))
    else this.#say('service', 'pass', `configured server: ${server}`, this.#lines(path))
  }

  #approved({ kind, server, path }: Wanted): void {
    const { resolvers } = this.facts
    if (kind !== 'names') return
    if (resolvers === null) this.#say('resolver', 'unknown', 'no approved resolvers are set')
    else if (resolvers.includes(server)) this.#say('resolver', 'pass', `${server} is approved`, this.#lines(path))
    else
      this.#say(
        'resolver',
        'fail',
        `${server} is not an approved resolver (${resolvers.join(', ') || 'there are none'})`,
        this.#lines(path),
      )
  }

  /** Addresses of a server; of a name as the device's own lines tell them, else its resolvers must be there for it. */
  #addressesOf({ server, path }: Wanted): readonly string[] {
    if (familyOf(server) !== null) {
      this.#say('server', 'pass', `${server} is an address`, this.#lines(path))
      return [server]
    }
    this.#say('server', 'pass', `${server} is a name`, this.#lines(path))
    const { hosts, nameServers, looksUpNames } = this.model.system
    const at = hosts.findIndex(({ name }) => name.toLowerCase() === server.toLowerCase())
    const told = hosts[at]
    if (told) {
      this.#say(
        'name',
        'pass',
        `its configuration maps ${server} to ${told.addresses.join(', ')}`,
        this.#lines(`system.hosts[${at}]`),
      )
      return told.addresses.filter((address) => familyOf(address) !== null)
    }
    if (looksUpNames === false) {
      this.#say('name', 'fail', 'name lookup is disabled on the device', this.#lines('system.looksUpNames'))
      return []
    }
    if (nameServers.length === 0) {
      this.#say('name', 'fail', `no resolver is configured for ${server}`, this.#lines('system'))
      return []
    }
    for (const [i, resolver] of nameServers.entries()) {
      const wanted = resolverWanted(resolver, i)
      this.#approved(wanted)
      if (familyOf(resolver) !== null) this.#ways(wanted, resolver)
    }
    const known = [
      ...new Set(
        this.#network.devices
          .filter(({ name, device: { modelled } }) =>
            [name, modelled?.model.system.hostname].some(
              (one) => one?.toLowerCase() === server.split('.')[0]?.toLowerCase(),
            ),
          )
          .flatMap(({ device: { managementAddress } }) => managementAddress ?? []),
      ),
    ]
    this.#say(
      'name',
      known.length > 0 ? 'pass' : 'unknown',
      known.length > 0
        ? `${server} is in the inventory, managed at ${known.join(', ')}`
        : `the address of ${server} is not in the snapshot`,
    )
    return known
  }

  #ways(wanted: Wanted, address: string): void {
    const family = familyOf(address)
    const source = family === null ? null : this.#sourceFor(wanted, address, family)
    if (source === null) {
      this.#say(
        'forward path',
        'fail',
        wanted.source === null
          ? `${this.owner.name} has no route to ${address}`
          : `${wanted.source} of ${this.owner.name} has no ${family === 'ipv6' ? 'IPv6' : 'IPv4'} source address`,
      )
      return
    }
    const packet = packetAsked({
      at: this.owner.name,
      src: source,
      dst: address,
      proto: wanted.proto,
      sport: wanted.kind === 'time' ? PORTS.time : undefined,
      dport: wanted.port,
    })
    const trace = traceOf(this.walker, this.device, -1, packet)
    const sent = { at: this.owner.name, port: null, packet, trace }
    const standing = standingOf(trace)
    const worst = worstOf(trace.paths)
    this.#say(
      'forward path',
      standing,
      worst
        ? wordsOf(
            worst,
            `${wanted.proto} ${wanted.port} to ${address}`,
            trace.paths.some(({ fate }) => fate !== worst.fate),
          )
        : `${wanted.proto} ${wanted.port} to ${address} is unknown`,
      linesOf(trace, standing),
      sent,
    )
    if (standing === 'pass' && wanted.answered) this.#wayBack(packet)
  }

  /** What answers it, from where it arrived; what translated it on its way undoes that. */
  #wayBack(packet: Packet): void {
    const { addressed } = this.#network
    const set = addressed.packet(packet)
    const { parts } = answersBack(
      this.walker,
      { device: this.device, port: -1, set: this.#network.headers.packet(packet), addressed: set },
      ['arrives'],
      ['arrives'],
    )
    const isHome = ({ fate, device }: AnswerPart): boolean => fate === 'arrives' && device === this.owner.name
    const part =
      parts.find((one) => !isHome(one) && one.fate !== 'undecided') ?? parts.find((one) => !isHome(one)) ?? parts[0]
    const answer = part && exampleOf(addressed, part.set)
    if (!part || !answer) return
    const { device, port } = part.start.origin
    const trace = traceOf(this.walker, device, port, answer, part.start.remembered)
    const standing = isHome(part) ? 'pass' : part.fate === 'undecided' ? 'unknown' : 'fail'
    const begins = this.#network.devices[device]
    this.#say(
      'return path',
      standing,
      standing === 'pass'
        ? `the reply returns to ${this.owner.name}`
        : wordsOf(
            part,
            'the reply',
            parts.some(({ fate }) => fate !== part.fate),
          ),
      linesOf(trace, standing),
      { at: begins?.name ?? '', port: begins?.interfaces[port]?.name ?? null, packet: answer, trace },
    )
  }

  /**
   * The address that the device asks from: of the interface that its lines name, else of the interface by which it
   * goes.
   */
  #sourceFor({ source, vrf }: Wanted, address: string, family: 'ipv4' | 'ipv6'): string | null {
    const of = (name: string): string | undefined =>
      interfaceNamed(this.owner.interfaces, name)?.addresses.find((one) => one.family === family)?.text
    if (source !== null) return familyOf(source) === family ? source : (of(source) ?? null)
    const words = addressWords(address, family)
    const table = this.#network.tableOf(this.device, vrf, family)
    if (!words || !table) return null
    const hop = this.#network.routeFor(table, words)?.hops.find(({ kind }) => kind === 'out')
    return hop?.kind === 'out'
      ? (of(hop.port) ??
          this.owner.interfaces.flatMap(({ addresses }) => addresses).find((one) => one.family === family)?.text ??
          null)
      : null
  }

  /** What the captured state says of it. */
  #seen({ server }: Wanted): void {
    const { ntp } = this.owner.device.reading.state
    const at = ntp.associations.findIndex(({ address }) => address === server)
    const association = ntp.associations[at]
    if (!association || association.reach === null) return
    const lines = exhibitsOf(this.owner, 'state', `ntp.associations[${at}]`)
    if (association.reach === 0)
      this.#say('seen', 'fail', `captured state: none of the last eight polls was answered`, lines)
    else this.#say('seen', 'pass', 'captured state: polls are answered', lines)
  }
}

function familyOf(text: string): 'ipv4' | 'ipv6' | null {
  const family = text.includes(':') ? 'ipv6' : 'ipv4'
  return addressWords(text, family) ? family : null
}

function standingOf({ paths }: Trace): LinkStanding {
  const bad = paths.filter(({ fate }) => fate !== 'arrives')
  if (bad.length === 0) return 'pass'
  return bad.some(({ fate }) => fate === 'stopped' || fate === 'loops') ? 'fail' : 'unknown'
}

/** @param parted whether it is so on one of several paths alone */
function wordsOf(
  { fate, device, reason }: Pick<TracePath, 'fate' | 'device' | 'reason'>,
  what: string,
  parted: boolean,
): string {
  const happens = fate === 'undecided' || fate === 'stopped' ? `is ${fate}` : fate
  return `${what} ${happens} at ${device}: ${reason.words}${parted ? ', on one of its paths' : ''}`
}

const RANK: readonly string[] = ['stopped', 'loops', 'undecided', 'leaves', 'arrives']

/** The path whose end matters most; none where there is no path. */
function worstOf(paths: readonly TracePath[]): TracePath | undefined {
  return [...paths].sort((a, b) => RANK.indexOf(a.fate) - RANK.indexOf(b.fate))[0]
}

function linesOf({ paths }: Trace, standing: LinkStanding): Exhibit[] {
  if (standing === 'pass') return []
  return worstOf(paths)?.hops.at(-1)?.decisions.at(-1)?.exhibits.slice() ?? []
}

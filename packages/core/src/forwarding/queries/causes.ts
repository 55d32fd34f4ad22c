/**
 * Which lines made a packet fare otherwise. Only lines that differ between two snapshots can: each is put back as it
 * was, alone and then by twos, until the packet fares as before.
 */
import { forwardingRulesOf } from '../../dialects/index.ts'
import { Scope, type Statement } from '../../syntax/index.ts'
import { diffScopes, statementText, type Difference } from '../../compare/index.ts'
import type { Packet } from '../../headers/index.ts'
import { forwardingOf, type ForwardingDevice } from '../network/device.ts'
import type { Exhibit } from '../network/exhibit.ts'
import { Network } from '../network/network.ts'
import { traceOf, type Trace } from '../engine/trace.ts'
import { Walker } from '../engine/walk.ts'

/** A line that differs, with the one that took its place, on a device that both networks have. */
interface Candidate {
  readonly device: string
  readonly differences: readonly Difference[]
}

export interface Causes {
  readonly before: readonly Exhibit[]
  readonly after: readonly Exhibit[]
  /** Whether putting back these lines, and no fewer, was found to turn the fate back. */
  readonly proven: boolean
}

export interface Example {
  readonly at: string
  readonly port: string | null
  readonly packet: Packet
  readonly before: Trace
  readonly after: Trace
}

/** Networks larger than this are not built anew for every line. */
const MOST_DEVICES = 300
const MOST_CANDIDATES = 24

/** Finds causes of several changes; what differs between two devices is found out once. */
export class CauseFinder {
  readonly #differences = new Map<string, readonly (readonly Difference[])[]>()
  #tries: number

  /** @param tries how often a network may be built anew, for all changes together */
  constructor(
    readonly before: Network,
    readonly after: Network,
    tries = 60,
  ) {
    this.#tries = tries
  }

  /** Null where no line of a device on the way differs: then what differs is what was captured. */
  causesOf(example: Example): Causes | null {
    const names = new Set(
      [...example.before.paths, ...example.after.paths].flatMap(({ hops }) => hops.map(({ device }) => device)),
    )
    const candidates = [...names].flatMap((device) =>
      this.#differencesOf(device).map((differences): Candidate => ({ device, differences })),
    )
    if (candidates.length === 0) return null
    const found =
      candidates.length <= MOST_CANDIDATES && this.after.devices.length <= MOST_DEVICES
        ? this.#smallest(candidates, example)
        : null
    return { ...this.#exhibits(found ?? candidates), proven: found !== null }
  }

  #smallest(candidates: readonly Candidate[], example: Example): readonly Candidate[] | null {
    for (const one of candidates) if (this.#turnsBack([one], example)) return [one]
    for (const [i, one] of candidates.entries()) {
      for (const other of candidates.slice(i + 1)) if (this.#turnsBack([one, other], example)) return [one, other]
    }
    return null
  }

  #turnsBack(candidates: readonly Candidate[], { at, port, packet, before }: Example): boolean {
    if (this.#tries-- <= 0) return false
    const devices = this.after.devices.map((device) =>
      this.#restored(
        device,
        candidates.filter((one) => one.device === device.name),
      ),
    )
    const walker = new Walker(Network.of(devices, this.after.digests, this.after.stated))
    const owner = walker.network.indexOf(at)
    const number =
      port === null ? -1 : (walker.network.devices[owner]?.interfaces.findIndex(({ name }) => name === port) ?? -1)
    if (owner < 0 || (port !== null && number < 0)) return false
    const { fates, paths } = traceOf(walker, owner, number, packet)
    return fates.join() === before.fates.join() && paths[0]?.protection.length === before.paths[0]?.protection.length
  }

  #restored(device: ForwardingDevice, candidates: readonly Candidate[]): ForwardingDevice {
    const modelled = device.device.modelled
    const earlier = this.before.devices[this.before.indexOf(device.name)]?.device.modelled
    if (candidates.length === 0 || !modelled || !earlier) return device
    const scope = candidates
      .flatMap(({ differences }) => differences)
      .reduce(
        (now, { side, path }) => (side === 'b' ? without(now, path) : withStatement(now, earlier.scope, path)),
        modelled.scope,
      )
    return forwardingOf({ ...device.device, modelled: modelled.read(scope) })
  }

  #differencesOf(device: string): readonly (readonly Difference[])[] {
    const known = this.#differences.get(device)
    if (known) return known
    const [a, b] = [this.before, this.after].map(
      (network) => network.devices[network.indexOf(device)]?.device.modelled ?? null,
    )
    const all =
      a && b && a.dialect.id === b.dialect.id && forwardingRulesOf(a.dialect.id).comparable
        ? diffScopes(a.scope, b.scope, b.dialect)
        : []
    // A block that is there on one side only stands for all that is in it.
    const outer = all.filter(
      ({ path, side }) =>
        !all.some(
          (other) =>
            other.side === side && other.path.length < path.length && other.path.every((text, i) => path[i] === text),
        ),
    )
    const pairs = inPairs(outer)
    this.#differences.set(device, pairs)
    return pairs
  }

  #exhibits(candidates: readonly Candidate[]): Omit<Causes, 'proven'> {
    const of = (side: 'a' | 'b', network: Network): Exhibit[] =>
      candidates.flatMap(({ device, differences }) => {
        const record = recordOf(network, device)
        return differences
          .filter((one) => one.side === side)
          .flatMap(({ nodes }) =>
            nodes.map(({ line, lastLine }): Exhibit => ({ device, record, from: line, to: lastLine })),
          )
      })
    return { before: of('a', this.before), after: of('b', this.after) }
  }
}

/** A line that is gone and one that came in the same block and differs from it in one word are one change. */
function inPairs(differences: readonly Difference[]): (readonly Difference[])[] {
  const taken = new Set<Difference>()
  return differences.flatMap((one) => {
    if (taken.has(one)) return []
    taken.add(one)
    const other = differences.find(
      (candidate) => !taken.has(candidate) && candidate.side !== one.side && differByOneWord(one.path, candidate.path),
    )
    if (!other) return [[one]]
    taken.add(other)
    return [[one, other]]
  })
}

function differByOneWord(a: readonly string[], b: readonly string[]): boolean {
  if (a.length !== b.length || a.slice(0, -1).some((text, i) => text !== b[i])) return false
  const [x, y] = [(a.at(-1) ?? '').split(' '), (b.at(-1) ?? '').split(' ')]
  return x.length === y.length && x.filter((word, i) => word !== y[i]).length === 1
}

function recordOf(network: Network, device: string): string {
  for (const origin of network.devices[network.indexOf(device)]?.device.modelled?.origins.values() ?? [])
    if (origin.kind === 'line') return origin.record
  return ''
}

function without({ statements, openers }: Scope, [first, ...rest]: readonly string[]): Scope {
  return new Scope(
    statements.flatMap((statement) => {
      if (statementText(statement) !== first) return [statement]
      return rest.length === 0 || !statement.scope ? [] : [inBlock(statement, without(statement.scope, rest))]
    }),
    openers,
  )
}

/** Puts back a statement as it stood, behind those that stood before it. */
function withStatement(scope: Scope, earlier: Scope, [first, ...rest]: readonly string[]): Scope {
  const at = earlier.statements.findIndex((statement) => statementText(statement) === first)
  const found = earlier.statements[at]
  if (!found) return scope
  const own = scope.statements.find((statement) => statementText(statement) === first)
  if (rest.length > 0 && found.scope && own?.scope) {
    const inner = withStatement(own.scope, found.scope, rest)
    return new Scope(
      scope.statements.map((statement) => (statement === own ? inBlock(statement, inner) : statement)),
      scope.openers,
    )
  }
  const before = new Set(earlier.statements.slice(0, at).map(statementText))
  const place = scope.statements.findLastIndex((statement) => before.has(statementText(statement))) + 1
  return new Scope([...scope.statements.slice(0, place), found, ...scope.statements.slice(place)], scope.openers)
}

function inBlock(statement: Statement, scope: Scope): Statement {
  return Object.assign(Object.create(Object.getPrototypeOf(statement) as object) as Statement, statement, { scope })
}

import { AskError, BesideFileError, FilterTextError, PlaceError, TooIntricate, Walker, answerTo, dialectById, filterFindings, judgedRecord, maskWithKey, mustWords, networkOfParts, networkPart, outsidePorts, packetAsked, placeOf, pointAt, reach, readFilterText, readLinksFile, shown, traceOf, type DeviceFacts, type Expectation, type ExpectationAnswer, type FilterFinding, type NetworkPart, type ReachPart, type ShownSet, type Trace, type TraceQuestion } from '@jurybox/core'
import { readOf, type TaskRecord } from '../audits/worker.ts'

/** One device of a network: its part is kept under the key, so that its records are sent once. */
export interface NetworkMember {
  readonly key: string
  readonly name: string
  readonly facts: DeviceFacts
}

export type TrafficTask =
  /** Records of devices whose parts are not at hand yet. */
  | { readonly do: 'read'; readonly maskKey: Uint8Array; readonly devices: readonly (NetworkMember & { readonly dialect: string; readonly records: readonly TaskRecord[] })[] }
  | { readonly do: 'ask'; readonly network: string; readonly members: readonly NetworkMember[]; readonly links: string | null; readonly question: TrafficQuestion }

export type TrafficQuestion =
  | { readonly ask: 'expectations'; readonly expectations: readonly Expectation[] }
  | { readonly ask: 'reach'; readonly from: string; readonly to: string; readonly only: string | null }
  | { readonly ask: 'trace'; readonly question: TraceQuestion }
  | { readonly ask: 'filters' }
  | { readonly ask: 'places' }

export interface ReachRow extends Omit<ReachPart, 'set'>, ShownSet {}

export type TrafficAnswer =
  | { readonly is: 'read' }
  | { readonly is: 'missing'; readonly keys: readonly string[] }
  | { readonly is: 'refused'; readonly reason: string }
  | { readonly is: 'expectations'; readonly answers: readonly (ExpectationAnswer & { readonly must: string })[] }
  | { readonly is: 'reach'; readonly asked: ShownSet; readonly parts: readonly ReachRow[] }
  | { readonly is: 'trace'; readonly trace: Trace }
  | { readonly is: 'filters'; readonly findings: readonly FilterFinding[] }
  | { readonly is: 'places'; readonly places: readonly string[]; readonly points: readonly string[]; readonly tables: readonly { readonly device: string; readonly table: string; readonly family: string; readonly from: string; readonly missing: string | null }[] }

/** Networks that are kept ready: two are compared at most, and one more is being looked at. */
const NETWORKS = 3
const PARTS = 20_000
const MOST_NODES = 1 << 24

const parts = new Map<string, NetworkPart & { readonly lines: readonly string[] }>()
const networks = new Map<string, Walker>()

/** Runs in one worker thread, which keeps what it made: parts by the content of records, networks by all that they rest on. */
export default function trafficTask(task: TrafficTask): TrafficAnswer {
  if (task.do === 'read') {
    const mask = maskWithKey(task.maskKey)
    if (parts.size + task.devices.length > PARTS) parts.clear()
    for (const { key, name, facts, dialect: id, records } of task.devices) {
      const dialect = dialectById(id)
      if (!dialect) continue
      const read = records.map(readOf)
      parts.set(key, { ...networkPart({ name, dialect, facts, records: read }, mask), lines: judgedRecord(read)?.tree.lines.text.split(/\r?\n/) ?? [] })
    }
    return { is: 'read' }
  }
  const missing = task.members.flatMap(({ key }) => (parts.has(key) ? [] : [key]))
  if (missing.length > 0) return { is: 'missing', keys: missing }
  try {
    return answered(walkerOf(task), task.question, task.members)
  } catch (error) {
    if (error instanceof AskError || error instanceof PlaceError || error instanceof FilterTextError || error instanceof BesideFileError || error instanceof TooIntricate) return { is: 'refused', reason: error.message }
    throw error
  }
}

function walkerOf({ network, members, links }: Extract<TrafficTask, { do: 'ask' }>): Walker {
  let walker = networks.get(network)
  // Nodes of diagrams are never given back: a network that has been asked for long is made anew.
  if (walker && walker.network.headers.diagrams.size < MOST_NODES) return walker
  const held = members.flatMap(({ key, facts }): NetworkPart[] => {
    const part = parts.get(key)
    // What people say of a device may be another by now; what was read of it is not.
    return part ? [{ ...part, forwarding: { ...part.forwarding, device: { ...part.forwarding.device, site: facts.site, labels: facts.labels } } }] : []
  })
  walker = new Walker(networkOfParts(held, links === null ? undefined : readLinksFile({ path: 'links', text: links })))
  networks.set(network, walker)
  for (const old of [...networks.keys()].slice(0, Math.max(0, networks.size - NETWORKS))) networks.delete(old)
  return walker
}

function answered(walker: Walker, question: TrafficQuestion, members: readonly NetworkMember[]): TrafficAnswer {
  const { network } = walker
  switch (question.ask) {
    case 'expectations':
      return { is: 'expectations', answers: question.expectations.map((one) => ({ ...answerTo(walker, one), must: mustWords(one.must) })) }
    case 'reach': {
      const only = question.only === null ? undefined : readFilterText(network.addressed, question.only)
      const { asked, parts: found } = reach(walker, placeOf(network, question.from), placeOf(network, question.to), only)
      return { is: 'reach', asked: shown(network, asked), parts: found.map(({ set, ...part }) => ({ ...part, ...shown(network, set) })) }
    }
    case 'trace': {
      const { device, port } = pointAt(network, question.question.at)
      return { is: 'trace', trace: traceOf(walker, device, port, packetAsked(question.question)) }
    }
    case 'filters':
      return { is: 'filters', findings: members.flatMap(({ key, name }) => { const part = parts.get(key); const { modelled } = part?.forwarding.device ?? {}; return part && modelled ? filterFindings(name, modelled, part.lines) : [] }) }
    case 'places': {
      const sites = network.devices.flatMap(({ device: { site } }) => (site === undefined ? [] : [`site:${site}`]))
      const zones = network.devices.flatMap(({ device: { modelled } }) => (modelled?.model.zones ?? []).map(({ name }) => `zone:${name}`))
      const points = network.devices.flatMap(({ name, ports }) => [name, ...ports.filter(({ addresses, kind }) => addresses.length > 0 && kind !== 'loopback').map((port) => `${name}:${port.name}`)])
      return {
        is: 'places', places: [...(outsidePorts(network).length > 0 ? ['outside'] : []), ...new Set([...sites, ...zones]), ...points], points,
        tables: network.devices.flatMap(({ name, tables }) => tables.map(({ name: table, family, from, missing }) => ({ device: name, table: table ?? '', family, from, missing }))),
      }
    }
  }
}

import { CoreError, Walker, dialectById, maskWithKey, Network } from '@jurybox/core'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { networkPart, readLinksFile, type ForwardingDevice } from '@jurybox/core/forwarding'
import type { DeviceFacts } from '@jurybox/core/snapshot'
import { readOf, type TaskRecord } from '../analysis/task-records.ts'
import { answered, type LinedPart, type TrafficAnswer, type TrafficQuestion } from './questions.ts'

/** One device of a network: its part is kept under the key, so that its records are sent once. */
export interface NetworkMember {
  readonly key: string
  readonly name: string
  readonly facts: DeviceFacts
}

/** A network by what it is made of. */
export interface NetworkTask {
  readonly network: string
  readonly members: readonly NetworkMember[]
  readonly links: string | null
}

export type TrafficTask =
  /** Records of devices whose parts are not at hand yet. */
  | {
      readonly do: 'read'
      readonly maskKey: Uint8Array
      readonly devices: readonly (NetworkMember & {
        readonly dialect: string
        readonly records: readonly TaskRecord[]
      })[]
    }
  /** `told`: three numbers of shared memory: how many steps are done, of how many, and whether to stop. */
  | ({
      readonly do: 'ask'
      readonly before: NetworkTask | null
      readonly question: TrafficQuestion
      readonly told: SharedArrayBuffer
    } & NetworkTask)

export type TaskAnswer =
  | TrafficAnswer
  | { readonly is: 'read' }
  | { readonly is: 'missing'; readonly keys: readonly string[] }
  | { readonly is: 'refused'; readonly reason: string }
  | { readonly is: 'stopped' }

/** Networks that are kept ready: two are compared at most, and one more is being looked at. */
const NETWORKS = 3
const PARTS = 20_000
const MOST_NODES = 1 << 24
/** Changes of one network into the next, after which it is made anew: what it tells apart only grows. */
const MOST_CHANGES = 50
/** A network of which fewer devices are the same is made anew. */
const WORTH_CHANGING = 0.7

const parts = new Map<string, LinedPart>()
/** Devices with what people say of them; the same object for as long as nothing of it is another. */
const devices = new Map<string, ForwardingDevice>()
const networks = new Map<string, Walker>()
const ages = new WeakMap<Walker, number>()

class Stopped extends Error {}

/**
 * Runs in one worker thread, which keeps what it made: parts by the content of records, networks by all that they rest
 * on.
 */
export default function trafficTask(task: TrafficTask): TaskAnswer {
  if (task.do === 'read') {
    const mask = maskWithKey(task.maskKey)
    if (parts.size + task.devices.length > PARTS) for (const memory of [parts, devices]) memory.clear()
    for (const { key, name, facts, dialect: id, records } of task.devices) {
      const dialect = dialectById(id)
      if (!dialect) continue
      const analysis = new DeviceAnalysis(dialect, records.map(readOf), mask)
      parts.set(key, {
        ...networkPart({ name, facts, analysis }),
        lines: analysis.judged?.tree.lines.text.split(/\r?\n/) ?? [],
      })
    }
    return { is: 'read' }
  }
  const asked = [task, ...(task.before ? [task.before] : [])]
  const missing = [
    ...new Set(asked.flatMap(({ members }) => members.flatMap(({ key }) => (parts.has(key) ? [] : [key])))),
  ]
  if (missing.length > 0) return { is: 'missing', keys: missing }
  const cells = new Int32Array(task.told)
  const step = (done: number, total: number): void => {
    Atomics.store(cells, 0, done)
    Atomics.store(cells, 1, total)
    if (Atomics.load(cells, 2) === 1) throw new Stopped()
  }
  try {
    const kept = asked.map(({ network }) => network)
    const before = task.before && walkerOf(task.before, kept)
    return answered(
      walkerOf(task, kept),
      before,
      task.question,
      task.members.flatMap(({ key }) => parts.get(key) ?? []),
      step,
    )
  } catch (error) {
    if (error instanceof Stopped) return { is: 'stopped' }
    if (error instanceof CoreError) return { is: 'refused', reason: error.message }
    throw error
  }
}

/** @param kept networks that are still to be asked as they are */
function walkerOf({ network, members, links }: NetworkTask, kept: readonly string[]): Walker {
  const held = networks.get(network)
  // Nodes of diagrams are never given back: a network that has been asked for long is made anew.
  if (held && held.network.headers.diagrams.size < MOST_NODES) return held
  networks.delete(network)
  const own = members.flatMap((member) => deviceOf(member) ?? [])
  const digests = members.flatMap(({ key }) => parts.get(key)?.digested ?? [])
  const stated = links === null ? undefined : readLinksFile({ path: 'links', text: links })
  const base = nearest(own, kept)
  const walker = new Walker(base ? base.network.changed(own, digests, stated) : Network.of(own, digests, stated))
  ages.set(walker, base ? (ages.get(base) ?? 0) + 1 : 0)
  networks.set(network, walker)
  for (const old of [...networks.keys()]
    .filter((key) => !kept.includes(key))
    .slice(0, Math.max(0, networks.size - NETWORKS)))
    networks.delete(old)
  return walker
}

/**
 * The network that shares most devices with another, where it is worth being changed into it; it is not asked any more.
 */
function nearest(own: readonly ForwardingDevice[], kept: readonly string[]): Walker | null {
  const wanted = new Set(own)
  const [best] = [...networks]
    .filter(
      ([key, walker]) =>
        !kept.includes(key) &&
        walker.network.headers.diagrams.size < MOST_NODES &&
        (ages.get(walker) ?? 0) < MOST_CHANGES,
    )
    .map(([key, walker]) => ({
      key,
      walker,
      shared: walker.network.devices.filter((device) => wanted.has(device)).length / Math.max(1, own.length),
    }))
    .sort((a, b) => b.shared - a.shared)
  if (!best || best.shared < WORTH_CHANGING) return null
  networks.delete(best.key)
  return best.walker
}

/** What people say of a device may be another by now; what was read of it is not. */
function deviceOf({ key, facts }: NetworkMember): ForwardingDevice | null {
  const part = parts.get(key)
  if (!part) return null
  const place = `${key} ${JSON.stringify(facts)}`
  let device = devices.get(place)
  if (!device)
    devices.set(
      place,
      (device = { ...part.forwarding, device: { ...part.forwarding.device, site: facts.site, labels: facts.labels } }),
    )
  return device
}

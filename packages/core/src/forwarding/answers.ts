import { NOTHING } from '../packets/index.ts'
import type { ForwardingDevice } from './device.ts'
import type { Fate } from './fates.ts'
import { classed, partsOf, type ReachPart } from './reach.ts'
import type { Origin, Walker } from './walk.ts'

/** Answers that begin at one place, with the devices that let them through since they saw what is answered. */
export interface AnswerStart {
  readonly origin: Origin
  readonly answersAt: ReadonlySet<number>
  /** The answers, by addresses, and the packets that they answer. */
  readonly answers: number
  readonly answered: number
}

/** What becomes of the answers to packets from one place. Sets are of the packets that are answered, by addresses. */
export interface Answers {
  readonly starts: readonly AnswerStart[]
  /** Those of which an answer is lost, on one of its paths at least. */
  readonly lost: number
  readonly undecided: number
  /** The fates of the answers themselves, each with the start that it is of. */
  readonly parts: readonly (ReachPart & { readonly start: AnswerStart })[]
}

/** Packets that pass more combinations of devices that remember them are not told apart. */
const MOST_CELLS = 64

/** Whether a device remembers what it let through, so that answers pass. */
export function isStateful({ dialect, device: { modelled } }: ForwardingDevice): boolean {
  const model = modelled?.model
  if (!model) return false
  return dialect === 'linux' ? model.accessLists.some(({ entries }) => entries.some(({ connectionStates }) => connectionStates.length > 0)) || model.nat.length > 0 : model.zones.length > 0
}

/**
 * Follows the answers to packets that are delivered. A device lets answers through that it would stop otherwise only where every
 * path of the packet passes it: with several equal paths it is not known by which it came.
 * @param origin where the packets begin; `set` by classes, `addressed` the same by addresses
 * @param there fates with which they are delivered
 * @param home fates with which answers are back
 */
export function answersBack(walker: Walker, origin: Origin & { readonly addressed: number }, there: readonly Fate[], home: readonly Fate[]): Answers {
  const { network } = walker
  const { addressed } = network
  const { diagrams } = addressed
  const walked = walker.walk([origin])
  const delivered = walked.endings.filter(({ fate }) => there.includes(fate))
  const plain = delivered.filter(({ sent, ended }) => sent === ended)
  const setOf = (endings: typeof delivered): number => addressed.any(partsOf(network, endings, origin.addressed), ({ set }) => set)
  // How a device undoes a translation is not followed.
  let undecided = setOf(delivered.filter(({ sent, ended }) => sent !== ended))
  const arriving = diagrams.minus(setOf(plain), undecided)
  let cells: { set: number; through: readonly number[] }[] = [{ set: arriving, through: [] }]
  for (const device of new Set([origin.device, ...walked.crossings.flatMap(({ from, to }) => [from.device, to.device])])) {
    if (!isStateful(network.devices[device] as ForwardingDevice)) continue
    const round = setOf(walker.walk([origin], new Set(), new Set([device])).endings.filter(({ fate, reason }) => there.includes(fate) && reason.code !== 'taken'))
    cells = cells.flatMap(({ set, through }) => [{ set: diagrams.minus(set, round), through: [...through, device] }, { set: diagrams.and(set, round), through }]).filter(({ set }) => set !== NOTHING)
    if (cells.length > MOST_CELLS) return { starts: [], lost: NOTHING, undecided: origin.addressed, parts: [] }
  }
  const starts = cells.flatMap(({ set, through }) => partsOf(network, plain, set).flatMap((part): AnswerStart[] => {
    const device = network.indexOf(part.device)
    const port = part.reason.code === 'delivered-to-device' ? -1 : (network.devices[device]?.ports.findIndex(({ name }) => name === part.port) ?? -1)
    const answers = addressed.answering(part.set)
    return answers === NOTHING ? [] : [{ origin: { device, port, set: classed(network, answers) }, answersAt: new Set([...through, device]), answers, answered: part.set }]
  }))
  let lost = NOTHING
  const parts = starts.flatMap((start) => {
    const found = partsOf(network, walker.walk([start.origin], start.answersAt).endings, start.answers)
    const of = (wanted: (fate: Fate) => boolean): number => addressed.answeredBy(addressed.any(found.filter(({ fate }) => wanted(fate)), ({ set }) => set), start.answered)
    lost = diagrams.or(lost, of((fate) => fate !== 'undecided' && !home.includes(fate)))
    undecided = diagrams.or(undecided, of((fate) => fate === 'undecided'))
    return found.map((part) => ({ ...part, start }))
  })
  return { starts, lost, undecided, parts }
}

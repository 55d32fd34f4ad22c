import { NOTHING, type FieldName } from '../../headers/index.ts'
import type { ForwardingDevice } from '../network/device.ts'
import type { Fate } from '../pipeline/fates.ts'
import type { Network } from '../network/network.ts'
import type { Context } from '../pipeline/context.ts'
import { classed, partsOf, type ReachPart } from './reach.ts'
import type { ReverseTranslation } from '../pipeline/rewrite.ts'
import { AnsweredPackets, type Walker } from '../engine/walk.ts'
import type { Ending, Origin, SessionState } from '../engine/walked.ts'

/** Answers that begin at one place, with what devices remember of the packets that they answer. */
export interface AnswerStart {
  readonly origin: Origin
  readonly remembered: SessionState
  /** The answers by addresses as they begin, and the packets that they answer as they were sent. */
  readonly answers: number
  readonly answered: number
  /** Of those packets the ones that some of the answers are to. */
  answeredBy(answers: number): number
}

/** What becomes of some answers, as they begin, and the packets that they answer, as they were sent. */
export interface AnswerPart extends ReachPart {
  readonly start: AnswerStart
  readonly answered: number
}

/** What becomes of the answers to packets from one place. Sets are of the packets that are answered, by addresses. */
export interface Answers {
  readonly starts: readonly AnswerStart[]
  /** Those of which an answer is lost, on one of its paths at least. */
  readonly lost: number
  readonly undecided: number
  readonly parts: readonly AnswerPart[]
}

/** Packets that pass more combinations of devices that remember them are not told apart. */
const MOST_CELLS = 64

/** What an answer has where a packet has what is written over. */
const ACROSS: Readonly<Partial<Record<FieldName, FieldName>>> = {
  source: 'destinationClass',
  sourcePort: 'destinationPort',
  destinationClass: 'source',
  destinationPort: 'sourcePort',
}

/** Whether a device remembers what it let through, so that answers pass. */
export function isStateful({ rules, device: { modelled } }: ForwardingDevice): boolean {
  return modelled !== null && rules.isStateful(modelled.model)
}

/**
 * Packets that took one way on which they were translated, in each form that they had in turn: as they were sent, after
 * the first change and so on. Sets are by addresses.
 */
class Forms {
  readonly #forms: number[]
  readonly #changes: readonly {
    readonly context: Context
    readonly fields: readonly FieldName[]
    readonly values: number
  }[]
  /** How each change is undone, and which it is. */
  readonly undoings: ReadonlyMap<ReverseTranslation, number>

  constructor(
    readonly network: Network,
    sent: number,
    contexts: readonly Context[],
  ) {
    const { headers, addressed } = network
    this.#changes = contexts.map((context) => {
      const { fields, values } = context.rewrite
      const plain = headers.forget(values, 'destinationClass')
      return {
        context,
        fields: fields.map((field) => (field === 'destinationClass' ? 'destination' : field)),
        values: fields.includes('destinationClass')
          ? headers.diagrams.and(plain, headers.expand(values, addressed))
          : plain,
      }
    })
    this.#forms = [sent]
    for (let level = 0; level < contexts.length; level++) this.#forms.push(this.#changed(level, this.form(level)))
    this.undoings = new Map(
      contexts.map(({ rule, rewrite: { fields } }, level) => {
        const before = classed(network, this.answers(level))
        return [
          {
            changes: fields.includes('source') || fields.includes('sourcePort') ? 'destination' : 'source',
            met: classed(network, this.answers(level + 1)),
            rewrite: { fields: fields.map((field) => ACROSS[field] ?? field), values: before },
            rule,
          },
          level,
        ]
      }),
    )
  }

  /** How often they were changed. */
  get last(): number {
    return this.#changes.length
  }

  form(level: number): number {
    return this.#forms[level] ?? NOTHING
  }

  /** What answers them where they have a form. */
  answers(level: number): number {
    return this.network.addressed.answering(this.form(level))
  }

  #changed(level: number, set: number): number {
    const change = this.#changes[level]
    const { addressed } = this.network
    return change ? addressed.diagrams.and(addressed.forgetAll(set, change.fields), change.values) : set
  }

  /** Of packets as they were sent the last form. */
  ended(sent: number): number {
    return this.#changes.reduce((set, _, level) => this.#changed(level, set), sent)
  }

  /** The packets, as they were sent, that some answers are to which answer them in a form. */
  answeredBy(answers: number, level: number): number {
    const { addressed } = this.network
    const { diagrams } = addressed
    let set = addressed.answeredBy(answers, this.form(level))
    for (let at = level - 1; at >= 0; at--)
      set = diagrams.and(this.form(at), addressed.forgetAll(set, this.#changes[at]?.fields ?? []))
    return set
  }

  get remembered(): Map<number, ReverseTranslation[]> {
    const remembered = new Map<number, ReverseTranslation[]>()
    for (const [undoing, level] of this.undoings) {
      const device = this.#changes[level]?.context.device ?? -1
      remembered.set(device, [...(remembered.get(device) ?? []), undoing])
    }
    return remembered
  }
}

/**
 * Follows the answers to packets that are delivered. A device lets answers through that it would stop otherwise only
 * where every path of the packet passes it: with several equal paths it is not known by which it came. What translated
 * a packet undoes it where its answers come by; an answer with other addresses than the sender knows is none to it.
 * @param origin where the packets begin; `set` by classes, `addressed` the same by addresses
 * @param there fates with which they are delivered
 * @param home fates with which answers are back
 */
export function answersBack(
  walker: Walker,
  origin: Origin & { readonly addressed: number },
  there: readonly Fate[],
  home: readonly Fate[],
): Answers {
  const { network } = walker
  const { addressed } = network
  const { diagrams } = addressed
  const walked = walker.walk([origin])
  const delivered = walked.endings.filter(({ fate }) => there.includes(fate))
  const setOf = (endings: readonly Ending[]): number =>
    addressed.any(partsOf(network, endings, origin.addressed), ({ set }) => set)
  let cells: { set: number; through: readonly number[] }[] = [{ set: setOf(delivered), through: [] }]
  for (const device of new Set([
    origin.device,
    ...walked.crossings.flatMap(({ from, to }) => [from.device, to.device]),
  ])) {
    if (!isStateful(network.devices[device] as ForwardingDevice)) continue
    const round = setOf(
      walker
        .walk([origin], new Map(), new Set([device]))
        .endings.filter(({ fate, reason }) => there.includes(fate) && reason.code !== 'taken'),
    )
    cells = cells
      .flatMap(({ set, through }) => [
        { set: diagrams.minus(set, round), through: [...through, device] },
        { set: diagrams.and(set, round), through },
      ])
      .filter(({ set }) => set !== NOTHING)
    if (cells.length > MOST_CELLS) return { starts: [], lost: NOTHING, undecided: origin.addressed, parts: [] }
  }
  const begun = cells.flatMap(({ set, through }) =>
    delivered.flatMap((ending) => startsOf(network, ending, set, through)),
  )
  const parts = begun.flatMap(({ start, forms }) =>
    walker
      .walk([start.origin], start.remembered)
      .endings.flatMap((ending) => endOf(network, start, forms, ending, home)),
  )
  const of = (wanted: (fate: Fate) => boolean): number =>
    addressed.any(
      parts.filter(({ fate }) => wanted(fate)),
      ({ answered }) => answered,
    )
  return {
    starts: begun.map(({ start }) => start),
    lost: of((fate) => fate !== 'undecided' && !home.includes(fate)),
    undecided: of((fate) => fate === 'undecided'),
    parts,
  }
}

/** How packets were changed, the first change first. */
function chainOf(last: Context | null): Context[] {
  const chain: Context[] = []
  for (let at = last; at; at = at.parent) chain.unshift(at)
  return chain
}

/** Where the answers to packets of a set begin that ended somewhere. */
function startsOf(
  network: Network,
  ending: Ending,
  set: number,
  through: readonly number[],
): { readonly start: AnswerStart; readonly forms: Forms }[] {
  return partsOf(network, [ending], set).flatMap((part) => {
    const forms = new Forms(network, part.set, chainOf(ending.context))
    const answers = forms.answers(forms.last)
    if (answers === NOTHING) return []
    const remembered = new AnsweredPackets([
      ...through.map((device): [number, readonly ReverseTranslation[]] => [device, []]),
      ...forms.remembered,
    ])
    const port = ending.reason.code === 'at-device' ? -1 : ending.port
    return [
      {
        forms,
        start: {
          origin: { device: ending.device, port, set: classed(network, answers) },
          remembered,
          answers,
          answered: part.set,
          answeredBy: (some) => forms.answeredBy(some, forms.last),
        },
      },
    ]
  })
}

/** What one end of answers means for the packets that they answer. */
function endOf(
  network: Network,
  start: AnswerStart,
  forms: Forms,
  ending: Ending,
  home: readonly Fate[],
): AnswerPart[] {
  const { addressed, headers } = network
  const { diagrams } = addressed
  const [part] = partsOf(network, [ending], start.answers)
  if (!part) return []
  const chain = chainOf(ending.context)
  // Whoever changed them beside those that the packets came by: it is known as what they began.
  const foreign = chain.some(({ undone }) => undone === null)
  const undone = chain.at(-1)?.undone ?? null
  const level = foreign || undone === null ? forms.last : (forms.undoings.get(undone) ?? forms.last)
  const as = (at: number): number =>
    forms.answeredBy(diagrams.and(headers.expand(ending.ended, addressed, forms.answers(at)), forms.answers(at)), at)
  const answered = foreign ? start.answeredBy(part.set) : as(level)
  if (!home.includes(ending.fate)) return answered === NOTHING ? [] : [{ ...part, start, answered }]
  const known = foreign || level > 0 ? as(0) : answered
  const strange = diagrams.minus(answered, known)
  return [
    ...(known === NOTHING ? [] : [{ ...part, start, answered: known }]),
    ...(strange === NOTHING
      ? []
      : [
          {
            ...part,
            fate: 'stopped' as const,
            reason: {
              code: 'not-undone' as const,
              words: 'nothing on the path reverses the translation of its forward packet',
            },
            set: diagrams.and(part.set, addressed.answering(forms.ended(strange))),
            start,
            answered: strange,
          },
        ]),
  ]
}

import { Walker, answerTo, reach, traceOf, type Expectation, type Network, type Trace } from '@jurybox/core'
import {
  FINDING_WORDS,
  NETWORK_FINDING_WORDS,
  exposureOf,
  fateChanges,
  filterFindings,
  functionsOf,
  mustWords,
  namesIn,
  networkFindings,
  outsideInterfaces,
  packetAsked,
  pictureOf,
  pictureOfPaths,
  placeOf,
  pointAt,
  shown,
  whatIsReached,
  whoReaches,
  type DeviceFunction,
  type Exposed,
  type ExpectationAnswer,
  type FateChange,
  type FilterFinding,
  type NetworkFinding,
  type NetworkPart,
  type Picture,
  type ReachPart,
  type ShownSet,
  type Step,
  type TraceQuestion,
} from '@jurybox/core/forwarding'
import {
  Headers,
  MANY_CLASSES,
  ListSets,
  NOTHING,
  differenceOf,
  readFilterText,
  readableOf,
  type Readable,
} from '@jurybox/core/headers'

/** What can be asked of a network. */
export type TrafficQuestion =
  | { readonly ask: 'expectations'; readonly expectations: readonly Expectation[] }
  | { readonly ask: 'reach'; readonly from: string; readonly to: string; readonly only: string | null }
  | { readonly ask: 'survey'; readonly place: string; readonly way: 'from' | 'to'; readonly only: string | null }
  | { readonly ask: 'trace'; readonly question: TraceQuestion }
  | { readonly ask: 'filters' }
  | { readonly ask: 'lists' }
  | { readonly ask: 'compare lists'; readonly a: ListName; readonly b: ListName }
  | { readonly ask: 'findings' }
  | { readonly ask: 'functions'; readonly resolvers: readonly string[] | null }
  | { readonly ask: 'changes'; readonly only: string | null }
  | { readonly ask: 'places' }
  /** Which devices are reached from outside, and from places of guests. */
  | { readonly ask: 'exposure'; readonly guests: readonly string[] }
  | { readonly ask: 'names' }

export interface ListName {
  readonly device: string
  readonly list: string
  readonly family: string
}

export interface ReachRow extends Omit<ReachPart, 'set'>, ShownSet {}
export interface SurveyView {
  readonly place: string
  readonly arrives: ShownSet | null
  readonly undecided: ShownSet | null
}
export interface ChangeView extends Omit<FateChange, 'set' | 'sources'> {
  readonly count: string
  readonly readable: Readable
}

export type TrafficAnswer =
  | { readonly is: 'expectations'; readonly answers: readonly (ExpectationAnswer & { readonly must: string })[] }
  | { readonly is: 'reach'; readonly asked: ShownSet; readonly parts: readonly ReachRow[]; readonly picture: Picture }
  | { readonly is: 'survey'; readonly rows: readonly SurveyView[]; readonly of: number }
  | { readonly is: 'trace'; readonly trace: Trace; readonly picture: Picture }
  | { readonly is: 'filters'; readonly findings: readonly (FilterFinding & { readonly title: string })[] }
  | { readonly is: 'lists'; readonly lists: readonly (ListName & { readonly lines: number })[] }
  | { readonly is: 'compare lists'; readonly onlyFirst: Readable | null; readonly onlySecond: Readable | null }
  | { readonly is: 'findings'; readonly findings: readonly (NetworkFinding & { readonly title: string })[] }
  | { readonly is: 'functions'; readonly functions: readonly DeviceFunction[] }
  | {
      readonly is: 'changes'
      readonly changes: readonly ChangeView[]
      readonly gone: readonly string[]
      readonly added: readonly string[]
    }
  | {
      readonly is: 'exposure'
      /** By device; `outside` is null where nothing leads outside, `guests` where no place is stated. */
      readonly devices: Readonly<Record<string, { readonly outside: Exposed | null; readonly guests: Exposed | null }>>
    }
  /** What addresses and ports are called, for people who read classes. */
  | {
      readonly is: 'names'
      readonly hosts: Readonly<Record<string, string>>
      readonly ports: Readonly<Record<string, string>>
    }
  | {
      readonly is: 'places'
      readonly places: readonly string[]
      readonly points: readonly string[]
      /** Ports that lead outside as they hold, and whether people declared them. */ readonly outside: readonly string[]
      readonly declared: boolean
      readonly tables: readonly {
        readonly device: string
        readonly table: string
        readonly family: string
        readonly from: 'captured' | 'computed'
        readonly missing: string | null
      }[]
    }

/** A part of a network with the lines of its configuration, by which it is told whether something names a list. */
export type LinedPart = NetworkPart & { readonly lines: readonly string[] }

/** @throws AskError, PlaceError, FilterTextError where a question cannot be put; ComplexityLimitError */
export function answered(
  walker: Walker,
  before: Walker | null,
  question: TrafficQuestion,
  parts: readonly LinedPart[],
  step: Step,
): TrafficAnswer {
  const { network } = walker
  const only = (text: string | null): number | undefined =>
    text === null ? undefined : readFilterText(network.addressed, text)
  switch (question.ask) {
    case 'expectations':
      return {
        is: 'expectations',
        answers: question.expectations.map((one, i) => {
          step(i, question.expectations.length)
          return { ...answerTo(walker, one), must: mustWords(one.must) }
        }),
      }
    case 'reach': {
      const {
        asked,
        parts: found,
        walked,
        origins,
      } = reach(walker, placeOf(network, question.from), placeOf(network, question.to), only(question.only))
      return {
        is: 'reach',
        asked: shown(network, asked),
        parts: found.map(({ set, ...part }) => ({ ...part, ...shown(network, set) })),
        picture: pictureOf(network, origins, walked),
      }
    }
    case 'survey': {
      const place = placeOf(network, question.place)
      let of = 0
      const rows = (question.way === 'to' ? whoReaches : whatIsReached)(
        walker,
        place,
        only(question.only),
        (done, total) => {
          of = total
          step(done, total)
        },
      )
      return {
        is: 'survey',
        of,
        rows: rows.map(({ place: text, arrives, undecided, sources, destinations }) => {
          const view = (set: number): ShownSet | null =>
            set === NOTHING ? null : shown(network, set, { first: true, sources, destinations })
          return { place: text, arrives: view(arrives), undecided: view(undecided) }
        }),
      }
    }
    case 'trace': {
      const { device, port } = pointAt(network, question.question.at)
      const trace = traceOf(walker, device, port, packetAsked(question.question))
      return { is: 'trace', trace, picture: pictureOfPaths(trace.paths) }
    }
    case 'filters':
      return {
        is: 'filters',
        findings: parts.flatMap(
          ({
            forwarding: {
              name,
              device: { modelled },
            },
            lines,
          }) =>
            modelled
              ? filterFindings(name, modelled, lines).map((one) => ({ ...one, title: FINDING_WORDS[one.kind] }))
              : [],
        ),
      }
    case 'lists':
      return {
        is: 'lists',
        lists: network.devices.flatMap(({ name, device: { modelled } }) =>
          (modelled?.model.accessLists ?? []).map((list) => ({
            device: name,
            list: list.name,
            family: list.family,
            lines: list.entries.length,
          })),
        ),
      }
    case 'compare lists':
      return comparedLists(network, question.a, question.b)
    case 'findings':
      return {
        is: 'findings',
        findings: networkFindings(walker, step).map((one) => ({ ...one, title: NETWORK_FINDING_WORDS[one.kind] })),
      }
    case 'functions':
      return { is: 'functions', functions: functionsOf(walker, { resolvers: question.resolvers }) }
    case 'changes': {
      if (!before) throw new Error('a network before is needed')
      const { changes, gone, added } = fateChanges(before, walker, only(question.only), step)
      return {
        is: 'changes',
        gone,
        added,
        changes: changes.map(({ set, sources, ...change }) => {
          const { count, readable } = shown(network, set, { first: true, sources })
          return { ...change, count, readable }
        }),
      }
    }
    case 'exposure': {
      const outside = outsideInterfaces(network).length > 0
      const places = [
        ...(outside ? [placeOf(network, 'outside')] : []),
        ...question.guests.map((text) => placeOf(network, text)),
      ]
      const worst = (all: readonly Exposed[]): Exposed | null =>
        all.length === 0 ? null : ((['yes', 'undecided', 'no'] as const).find((one) => all.includes(one)) ?? 'no')
      return {
        is: 'exposure',
        devices: Object.fromEntries(
          [...exposureOf(walker, places, step)].map(([device, answers]) => [
            device,
            {
              outside: outside ? worst(answers.slice(0, 1)) : null,
              guests: worst(outside ? answers.slice(1) : answers),
            },
          ]),
        ),
      }
    }
    case 'names':
      return { is: 'names', ...namesIn(network) }
    case 'places': {
      const sites = network.devices.flatMap(({ device: { site } }) => (site === undefined ? [] : [`site:${site}`]))
      const zones = network.devices.flatMap(({ device: { modelled } }) =>
        (modelled?.model.zones ?? []).map(({ name }) => `zone:${name}`),
      )
      const points = network.devices.flatMap(({ name, interfaces }) => [
        name,
        ...interfaces
          .filter(({ addresses, kind }) => addresses.length > 0 && kind !== 'loopback')
          .map((port) => `${name}:${port.name}`),
      ])
      return {
        is: 'places',
        declared: network.stated.outside.length > 0,
        outside: outsideInterfaces(network).map(
          ([device, port]) =>
            `${network.devices[device]?.name ?? ''}:${network.devices[device]?.interfaces[port]?.name ?? ''}`,
        ),
        places: [
          ...(outsideInterfaces(network).length > 0 ? ['outside'] : []),
          ...new Set([...sites, ...zones]),
          ...points,
        ],
        points,
        tables: network.devices.flatMap(({ name }, device) =>
          network
            .tablesOf(device)
            .map(({ table: { name: table, family, from, missing } }) => ({
              device: name,
              table: table ?? '',
              family,
              from,
              missing,
            })),
        ),
      }
    }
  }
}

/** On which headers two lists do not agree, wherever they are met. */
function comparedLists(network: Network, a: ListName, b: ListName): TrafficAnswer {
  const headers = new Headers()
  const [first, second] = [a, b].map(({ device, list, family }) => {
    const lists = network.devices[network.indexOf(device)]?.device.modelled?.model.accessLists ?? []
    const found = lists.find((one) => one.name === list && one.family === family)
    return found && { sets: new ListSets(headers, lists), list: found }
  })
  if (!first || !second) return { is: 'compare lists', onlyFirst: null, onlySecond: null }
  const { onlyFirst, onlySecond } = differenceOf(headers, first, second)
  const view = (set: number): Readable | null => (set === NOTHING ? null : readableOf(headers, set, MANY_CLASSES))
  return { is: 'compare lists', onlyFirst: view(onlyFirst), onlySecond: view(onlySecond) }
}

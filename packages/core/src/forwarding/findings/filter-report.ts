import { originOf, type ModelledDevice } from '../../model/index.ts'
import {
  MANY_CLASSES,
  Headers,
  ListSets,
  NOTHING,
  findingsOf,
  readableOf,
  type ListFindingKind,
  type ModelList,
  type Readable,
} from '../../headers/index.ts'
import type { Exhibit } from '../network/exhibit.ts'

/**
 * `missing`: a list or group that is named and does not exist. `nowhere`: a list that nothing applies. `unjudged`: it
 * cannot be said.
 */
export type FilterFindingKind = ListFindingKind | 'missing' | 'nowhere' | 'unjudged'

/** A finding about the filters of a device. */
export interface FilterFinding {
  readonly device: string
  readonly kind: FilterFindingKind
  readonly list: string
  readonly family: string | null
  /** In words, with the lines that are meant by number. */
  readonly words: string
  /** The headers that it is about; null where it is about none. */
  readonly packets: Readable | null
  readonly exhibits: readonly Exhibit[]
}

/** A short title for each kind of finding. */
export const FINDING_WORDS: Readonly<Record<FilterFindingKind, string>> = {
  'never-matches': 'shadowed',
  'changes-nothing': 'redundant',
  contradicts: 'partly contradicts',
  open: 'permits everything',
  missing: 'undefined',
  nowhere: 'not applied',
  unjudged: 'not evaluated',
}

/**
 * The findings about the filters of a device.
 * @param lines those of its configuration, which tell whether something names a list
 */
export function filterFindings(device: string, modelled: ModelledDevice, lines: readonly string[]): FilterFinding[] {
  const { model, origins } = modelled
  const headers = new Headers()
  const sets = new ListSets(headers, model.accessLists)
  const said = (path: string): Exhibit[] => {
    const origin = originOf(origins, path)
    return origin?.kind === 'line'
      ? origin.lines.map(({ from, to }) => ({ device, record: origin.record, from, to: Math.max(from, to) }))
      : []
  }
  const findings: FilterFinding[] = []
  model.accessLists.forEach((list, l) => {
    const entry = (at: number): string => `accessLists[${l}].entries[${at}]`
    const common = { device, list: list.name, family: list.family }
    const found = findingsOf(sets, list)
    if (found === null)
      findings.push({
        ...common,
        kind: 'unjudged',
        words: 'too complex to evaluate line by line',
        packets: null,
        exhibits: said(`accessLists[${l}]`),
      })
    for (const { kind, entry: at, others, packets } of found ?? []) {
      findings.push({
        ...common,
        kind,
        words: wordsOf(kind, list, at, others),
        packets: packets === NOTHING ? null : readableOf(headers, packets, MANY_CLASSES),
        exhibits: [at, ...others].flatMap((one) => said(entry(one))),
      })
    }
    list.entries.forEach(({ notWeighed }, at) => {
      for (const words of notWeighed) {
        const group = /^(?:object-group|addrgroup|source-prefix-list|destination-prefix-list) (\S+)$/.exec(words)?.[1]
        if (group !== undefined)
          findings.push({
            ...common,
            kind: 'missing',
            words: `${words} is not defined or not parsed`,
            packets: null,
            exhibits: said(entry(at)),
          })
      }
    })
    if (list.entries.length > 0 && !isApplied(list, lines, model.accessLists))
      findings.push({
        ...common,
        kind: 'nowhere',
        words: 'it is not applied',
        packets: null,
        exhibits: said(`accessLists[${l}]`),
      })
  })
  const known = new Set(model.accessLists.map(({ name, family }) => `${family} ${name}`))
  const missing = (name: string | null, family: 'ipv4' | 'ipv6', path: string, where: string): void => {
    if (name !== null && !known.has(`${family} ${name}`))
      findings.push({
        device,
        kind: 'missing',
        list: name,
        family,
        words: `${where} applies it, but it is not defined`,
        packets: null,
        exhibits: said(path),
      })
  }
  model.interfaces.forEach(({ name, filters }, i) => {
    for (const direction of ['in', 'out'] as const)
      for (const [suffix, family] of [
        ['4', 'ipv4'],
        ['6', 'ipv6'],
      ] as const)
        missing(filters[`${direction}${suffix}`], family, `interfaces[${i}].filters.${direction}${suffix}`, name)
  })
  model.system.terminals.forEach(({ name, accessList4, accessList6 }, i) => {
    missing(accessList4, 'ipv4', `system.terminals[${i}].accessList4`, name)
    missing(accessList6, 'ipv6', `system.terminals[${i}].accessList6`, name)
  })
  return findings
}

function wordsOf(kind: ListFindingKind, list: ModelList, at: number, others: readonly number[]): string {
  const line = list.entries[at]?.text ?? ''
  const earlier =
    others
      .slice(0, 3)
      .map((one) => `“${list.entries[one]?.text ?? ''}”`)
      .join(', ') + (others.length > 3 ? ` and ${others.length - 3} more` : '')
  switch (kind) {
    case 'never-matches':
      return others.length === 0
        ? `“${line}” matches no packet`
        : `“${line}” never matches: ${earlier} ${others.length === 1 ? 'covers' : 'together cover'} it`
    case 'changes-nothing':
      return `“${line}” is redundant: later entries have the same effect`
    case 'contradicts':
      return `“${line}” contradicts ${earlier} for some packets, which ${others.length === 1 ? 'comes' : 'come'} first`
    case 'open':
      return `“${line}” permits all remaining packets`
  }
}

/** Whether a line that does not define a list names it. */
function isApplied({ name, family }: ModelList, lines: readonly string[], lists: readonly ModelList[]): boolean {
  // Chains of a kernel are applied by their hooks, or by a rule that leads to them.
  if (/^(?:filter|mangle|raw|security) /.test(name)) {
    const [table = '', chain = ''] = name.split(' ')
    if (/^(?:INPUT|FORWARD|OUTPUT|PREROUTING|POSTROUTING)$/.test(chain)) return true
    return lists.some(
      (list) =>
        list.family === family &&
        list.name.startsWith(`${table} `) &&
        list.entries.some(({ leadsTo }) => leadsTo === chain),
    )
  }
  const word = name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
  const named = new RegExp(`(?:^|[\\s"])${word}(?:$|[\\s;"}])`)
  const defines = new RegExp(
    '^\\s*(?:' +
      [
        `access-list ${word}\\s`,
        `(?:ip|ipv6) access-list (?:standard |extended )?${word}(?:$|\\s)`,
        `filter ${word} \\{`,
        `set firewall .*filter ${word} `,
        `"name": "${word}"`,
      ].join('|') +
      ')',
  )
  return lines.some((line) => named.test(line) && !defines.test(line))
}

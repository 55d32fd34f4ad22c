import { addressWords, maskedMatch, parsePrefix, type AddressMatch } from './address.ts'
import type { AccessEntry, AccessList, AccessLists, EntryMatch } from './access-list.ts'
import type { ModelledDevice } from './build.ts'
import { originOf } from './origins.ts'
import type { DeviceModel } from './schema/index.ts'
import type { SourceRange } from './writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

/** The access lists of a model in the form that header sets are made of, whatever dialect they were written in. */
export function accessListsOfModel({ model, origins }: Pick<ModelledDevice, 'model' | 'origins'>): AccessLists {
  return new Map(
    model.accessLists.map(({ name, family, entries, defaultAction }, l): [string, AccessList] => {
      const linesOf = (path: string): SourceRange[] => {
        const origin = originOf(origins, path)
        return origin?.kind === 'line'
          ? origin.lines.map(({ from, to, columns }) =>
              columns ? { line: from, lastLine: to, columns } : { line: from, lastLine: to },
            )
          : []
      }
      const nodes = linesOf(`accessLists[${l}]`)
      const last: SourceRange = nodes[0] ?? { line: 1, lastLine: 1 }
      const weighed = entries.flatMap((entry, e) =>
        entry.action === 'other' && entry.leadsTo === null && entry.inlines === null
          ? []
          : [entryOf(entry, linesOf(`accessLists[${l}].entries[${e}]`)[0] ?? last)],
      )
      if (defaultAction !== 'deny')
        weighed.push({
          action: 'permit',
          match: {},
          notWeighed: defaultAction === 'return' ? ['goes back to the list that led here'] : [],
          node: last,
          text: `what is not decided: ${defaultAction}`,
          sequence: null,
          remark: null,
        })
      return [`${family} ${name}`, { name, family, entries: weighed, nodes, statements: [] }]
    }),
  )
}

const RANGES = ['protocols', 'sourcePorts', 'destinationPorts', 'icmpTypes', 'icmpCodes', 'dscp'] as const

function entryOf(entry: Entry, node: SourceRange): AccessEntry {
  const { action, text, sequence, remark } = entry
  const stated = (field: 'sources' | 'destinations'): AddressMatch[] =>
    entry.negated.includes(field) ? [] : entry[field].flatMap((text) => addressesIn(text) ?? [])
  const [sources, destinations] = [stated('sources'), stated('destinations')]
  const match: EntryMatch = {
    ...(sources.length > 0 ? { sources } : {}),
    ...(destinations.length > 0 ? { destinations } : {}),
    ...Object.fromEntries(
      RANGES.flatMap((field) =>
        entry[field].length > 0 && !entry.negated.includes(field) ? [[field, entry[field]]] : [],
      ),
    ),
    established: entry.established,
    fragments: entry.fragments,
  }
  return {
    action: action === 'deny' || action === 'unknown' ? action : 'permit',
    match,
    notWeighed: notInHeaders(entry),
    node,
    text,
    sequence,
    remark,
  }
}

/** `10.0.0.0/8`, or an address with its wildcard bits; null where the text is neither. */
export function addressesIn(text: string): AddressMatch | null {
  const [address = '', wildcard] = text.split(' ')
  const [value, bits] =
    wildcard === undefined ? [null, null] : [addressWords(address, 'ipv4'), addressWords(wildcard, 'ipv4')]
  return value && bits
    ? maskedMatch(
        value,
        bits.map((word) => ~word >>> 0),
      )
    : parsePrefix(text)
}

/** What narrows an entry that a set of headers does not hold. */
function notInHeaders({
  notWeighed,
  tcpFlags,
  connectionStates,
  inInterface,
  outInterface,
  leadsTo,
  inlines,
  sources,
  destinations,
  negated,
  eitherPorts,
}: Entry): string[] {
  return [
    ...notWeighed,
    ...negated.map((field) => `not ${field}`),
    ...eitherPorts.map(([from, to]) => `port ${from}-${to}`),
    ...tcpFlags.map((flag) => `flag ${flag}`),
    ...connectionStates.map((state) => `state ${state}`),
    ...[inInterface, outInterface].flatMap((port) => (port === null ? [] : [`interface ${port}`])),
    ...(leadsTo === null ? [] : [`leads to ${leadsTo}`]),
    ...(inlines === null ? [] : [`filter ${inlines}`]),
    ...[...sources, ...destinations].filter((text) => addressesIn(text) === null),
  ]
}

import type { Scope } from '../../../syntax/index.ts'
import type { AccessEntry, AccessLists } from './access-list.ts'
import { objectGroupsOf } from './object-groups.ts'
import { addressText } from '../../../model/address-text.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

/** An entry as plain data. */
function entryValues({ action, match, notWeighed, text, sequence, remark }: AccessEntry): Partial<Entry> {
  return {
    action,
    text,
    sequence,
    remark,
    protocols: ranges(match.protocols),
    sources: match.sources?.map(addressText) ?? [],
    destinations: match.destinations?.map(addressText) ?? [],
    sourcePorts: ranges(match.sourcePorts),
    destinationPorts: ranges(match.destinationPorts),
    icmpTypes: ranges(match.icmpTypes),
    icmpCodes: ranges(match.icmpCodes),
    dscp: ranges(match.dscp),
    established: match.established === true,
    fragments: match.fragments === true,
    logged: / log(?:-input)?(?: |$)/.test(text),
    notWeighed: [...notWeighed],
  }
}

function ranges(list: readonly (readonly [number, number])[] | undefined): [number, number][] {
  return list?.map(([from, to]) => [from, to]) ?? []
}

/** Access lists with their remarks and numbers; the lines are those that the header sets are made of. */
export function readAccessLists(write: Writer<DeviceModel>, lists: AccessLists): void {
  const { provenance } = write
  for (const { name, family, entries, nodes, statements } of lists.values()) {
    for (const statement of statements) provenance.used.add(statement)
    provenance.nodes = nodes
    const list = write.add('accessLists', { name, family }).presume('defaultAction', 'deny')
    for (const entry of entries) {
      provenance.nodes = [entry.node]
      list.add('entries', entryValues(entry))
    }
  }
  provenance.nodes = []
}

/** Groups that lists name; of one that was not understood in full, every line stays unread. */
export function readObjectGroups(write: Writer<DeviceModel>, device: Scope): void {
  const { provenance } = write
  for (const { name, statement, understood, members } of objectGroupsOf(device)) {
    if (!understood) continue
    provenance.used.add(statement)
    for (const child of statement.scope?.statements ?? []) provenance.used.add(child)
    provenance.nodes = statement.nodes
    if (members.length > 0) write.entry('addressGroups', { name }).push('members', ...members.map(addressText))
  }
  provenance.nodes = []
}

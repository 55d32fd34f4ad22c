import type { ConfigNode, Statement } from '../../config/index.ts'
import type { AccessEntry, AccessLists } from '../access-list.ts'
import { addressText } from '../address-text.ts'
import type { DeviceModel } from '../schema/index.ts'
import type { Writer } from '../writer.ts'

type Entry = DeviceModel['accessLists'][number]['entries'][number]

/** An entry as plain data; `text` without its number. */
function entryValues({ action, match, notWeighed }: AccessEntry, text: string): Partial<Entry> {
  return {
    action,
    text: text.replace(/^\d+ /, ''),
    protocols: ranges(match.protocols),
    sources: (match.sources ?? []).map(addressText),
    destinations: (match.destinations ?? []).map(addressText),
    sourcePorts: ranges(match.sourcePorts),
    destinationPorts: ranges(match.destinationPorts),
    icmpTypes: ranges(match.icmpTypes),
    established: match.established === true,
    fragments: match.fragments === true,
    logged: / log(?:-input)?(?: |$)/.test(text),
    notWeighed: [...notWeighed],
  }
}

function ranges(list: readonly (readonly [number, number])[] | undefined): [number, number][] {
  return (list ?? []).map(([from, to]) => [from, to])
}

/** Access lists with their remarks and numbers; the lines are those that the header sets are made of. */
export function readAccessLists(write: Writer<DeviceModel>, top: readonly Statement[], lists: AccessLists): void {
  const { sheet } = write
  const byNode = new Map([...lists.values()].flatMap(({ entries }) => entries.map((entry): [ConfigNode, AccessEntry] => [entry.node, entry])))
  for (const statement of top) {
    const { first } = statement.command
    if (statement.negated || !(first === 'access-list' || first === 'ip' || first === 'ipv6')) continue
    const head = /^(?:access-list \S+|ip(?:v6)? access-list (?:standard |extended )?\S+)(?: (?:seq )?|$)/i.exec(statement.text)?.[0]
    if (head === undefined) continue
    // One entry a line, or a block of entries.
    const numbered = head.length < statement.text.length
    sheet.used.add(statement)
    sheet.nodes = statement.nodes
    const shape = /^(?:access-list|ip(v6)? access-list(?: standard| extended)?) (\S+)/i.exec(statement.text)
    const name = shape?.[2] ?? ''
    const list = lists.get(`${shape?.[1] === undefined ? 'ipv4' : 'ipv6'} ${name}`)
    if (!list) continue
    const own = write.entry('accessLists', { name, family: list.family }).presume('defaultAction', 'deny')
    let remark: string | null = null
    for (const child of numbered ? [statement] : (statement.scope?.statements ?? [])) {
      const node = child.nodes[0]
      const text = numbered ? child.text.slice(head.length) : child.text
      const said = /^(?:\d+ )?remark (.*)$/i.exec(text)?.[1]
      const entry = node && byNode.get(node)
      sheet.nodes = child.nodes
      if (said !== undefined) remark = said
      if (said !== undefined || entry) sheet.used.add(child)
      if (!entry) continue
      const sequence = /^(\d+) /.exec(text)?.[1]
      own.add('entries', { ...entryValues(entry, text), remark, sequence: sequence === undefined ? null : Number(sequence) })
      remark = null
    }
  }
  sheet.nodes = []
}

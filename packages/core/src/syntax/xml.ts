import { SaxesParser } from 'saxes'
import type { JsonFault, LocatedMember, LocatedValue } from './json.ts'

/** Elements that stand for entries of a list in the models that are read here: one of them alone is a list too. */
const LISTS = new Set([
  'interface',
  'address',
  'neighbor',
  'route',
  'rib',
  'next-hop',
  'control-plane-protocol',
  'acl',
  'ace',
  'acl-set',
  'user',
  'server',
  'authorized-key',
  'search',
  'component',
  'remote-systems-data',
  'management-address',
])
/** What NETCONF wraps around data (RFC 6241). */
const WRAPPERS = new Set(['rpc-reply', 'data', 'config', 'hello'])
const MAX_DEPTH = 64

interface Open {
  readonly name: string
  readonly from: number
  readonly members: LocatedMember[]
  text: string
}

/**
 * Reads the XML form of YANG data (RFC 7950 §7, RFC 6241) into the same located values as its JSON form: names without
 * prefixes, lists gathered. What was read before a fault is given back with it. Entities of a document type are not
 * expanded.
 */
export function parseXml(text: string): { value: LocatedValue | null; fault: JsonFault | null } {
  const parser = new SaxesParser({ position: true })
  const open: Open[] = []
  let root: LocatedMember | null = null
  let fault: JsonFault | null = null
  let tagFrom = 0

  parser.on('error', (error) => {
    fault ??= {
      at: Math.min(parser.position, text.length),
      reason: (error.message.split('\n')[0] ?? '').replace(/^\d+:\d+: /, ''),
    }
  })
  parser.on('opentagstart', () => {
    tagFrom = Math.max(0, text.lastIndexOf('<', parser.position - 1))
  })
  parser.on('opentag', (tag) => {
    // What follows a fault in the same piece is ignored.
    if (fault) return
    if (open.length >= MAX_DEPTH) {
      fault = {
        at: parser.position,
        reason: `elements are nested deeper than ${MAX_DEPTH}: nothing was read from here on`,
      }
      return
    }
    open.push({ name: tag.name.slice(tag.name.indexOf(':') + 1), from: tagFrom, members: [], text: '' })
  })
  parser.on('text', (chars) => {
    const last = fault ? undefined : open.at(-1)
    if (last) last.text += chars
  })
  parser.on('closetag', () => {
    if (fault) return
    const last = open.pop()
    if (!last) return
    const member: LocatedMember = {
      name: last.name,
      from: last.from,
      to: parser.position,
      value: valueOf(last, parser.position),
    }
    const around = open.at(-1)
    if (around) around.members.push(member)
    else root ??= member
  })

  // In pieces, so that a fault ends the reading of a hostile text early.
  for (let from = 0; from < text.length && !fault; from += 65_536) parser.write(text.slice(from, from + 65_536))
  if (!fault) parser.close()
  while (!root && open.length > 0) {
    const last = open.pop()
    if (!last) break
    const member: LocatedMember = {
      name: last.name,
      from: last.from,
      to: text.length,
      value: valueOf(last, text.length),
    }
    const around = open.at(-1)
    if (around) around.members.push(member)
    else root = member
  }
  return { value: root === null ? null : unwrapped(root), fault }
}

function valueOf({ members, text, from }: Open, to: number): LocatedValue {
  if (members.length === 0) return { type: 'leaf', value: text.trim(), quoted: true, from, to }
  return { type: 'object', members: gathered(members), from, to }
}

/** Repeated elements become one list, where the first of them stands. */
function gathered(members: readonly LocatedMember[]): LocatedMember[] {
  const byName = new Map<string, LocatedMember[]>()
  for (const member of members) byName.set(member.name, [...(byName.get(member.name) ?? []), member])
  return [...byName].flatMap(([name, same]): LocatedMember[] => {
    const [first] = same
    const last = same.at(-1)
    if (!first || !last) return []
    // A container of one name with a list's (`next-hop` around `next-hop-address`) holds leaves of its own; a list's
    // entries have keys.
    if (same.length === 1 && (!LISTS.has(name) || name === 'next-hop')) return [first]
    return [
      {
        name,
        from: first.from,
        to: last.to,
        value: { type: 'array', items: same.map(({ value }) => value), from: first.from, to: last.to },
      },
    ]
  })
}

/** The data within NETCONF's wrappers, with the names of its top containers. */
function unwrapped(root: LocatedMember): LocatedValue {
  let at = root
  while (
    WRAPPERS.has(at.name) &&
    at.value.type === 'object' &&
    at.value.members.length === 1 &&
    at.value.members[0] &&
    WRAPPERS.has(at.value.members[0].name)
  )
    at = at.value.members[0]
  if (WRAPPERS.has(at.name))
    return at.value.type === 'object' ? at.value : { type: 'object', members: [], from: at.from, to: at.to }
  return { type: 'object', members: [at], from: at.from, to: at.to }
}

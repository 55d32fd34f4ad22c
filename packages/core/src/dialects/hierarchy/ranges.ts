import type { PathNode } from './path-tree.ts'
import { tailOf } from '../../syntax/tail.ts'

/** No device has more interfaces than this in a range. */
const MOST_MEMBERS = 1024

/**
 * `interface-range NAME` says something of several interfaces at once: `member ge-0/0/1`, `member "ge-0/0/[1-4]"`,
 * `member-range ge-0/0/1 to ge-0/0/4`. What an interface says itself goes before it (common practice).
 */
export function expandRanges(root: PathNode): PathNode {
  const interfaces = root.children.get('interfaces')
  const ranges = interfaces?.children.get('interface-range')
  if (!interfaces || !ranges || ranges.inactive) return root
  const out = root.clone(root.word, null)
  const all = out.child('interfaces')
  all.remove('interface-range')
  for (const range of ranges.children.values()) {
    if (range.inactive) continue
    const settings = [...range.children.values()].filter(
      ({ word }) => word !== 'member' && word !== 'member-range' && word !== 'description',
    )
    for (const name of membersOf(range)) for (const setting of settings) lay(all.child(name), setting)
  }
  return out
}

/** Puts a statement beneath a node, with all beneath it; what stands there already stays. */
function lay(onto: PathNode, from: PathNode): void {
  if (from.inactive) return
  const known = onto.children.get(from.word)
  if (!known) {
    onto.put(from.clone(from.word, onto))
    return
  }
  for (const child of from.children.values()) lay(known, child)
}

function membersOf(range: PathNode): string[] {
  const words = (name: string): string[] =>
    [...(range.children.get(name)?.children.values() ?? [])].filter(({ inactive }) => !inactive).map(({ word }) => word)
  const spans = [...(range.children.get('member-range')?.children.values() ?? [])].flatMap((from) =>
    [...(from.children.get('to')?.children.values() ?? [])].flatMap((to) => between(from.word, to.word)),
  )
  return [...new Set([...words('member').flatMap(namesIn), ...spans])].slice(0, MOST_MEMBERS)
}

/** `ge-0/0/[1-4]`, `ge-0/[0,2]/1`, or a name. */
function namesIn(pattern: string): string[] {
  const found = /^([^[]*)\[([^\]]*)\](.*)$/.exec(pattern)
  if (!found) return [pattern]
  const [, before = '', body = '', after = ''] = found
  const numbers = body.split(',').flatMap((part) => {
    const [from = NaN, to = from] = part.split('-').map(Number)
    return Number.isInteger(from) && Number.isInteger(to)
      ? Array.from({ length: Math.min(MOST_MEMBERS, Math.max(0, to - from + 1)) }, (_, i) => from + i)
      : []
  })
  return numbers.flatMap((number) => namesIn(`${before}${number}${after}`))
}

function between(from: string, to: string): string[] {
  const [first, last] = [tailOf(from, /\d/), tailOf(to, /\d/)]
  const [head, same] = [from.slice(0, from.length - first.length), to.slice(0, to.length - last.length)]
  if (first === '' || last === '' || head === '' || head !== same) return [from, to]
  return Array.from(
    { length: Math.min(MOST_MEMBERS, Math.max(0, Number(last) - Number(first) + 1)) },
    (_, i) => `${head}${Number(first) + i}`,
  )
}

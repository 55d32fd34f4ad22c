import { MAX_WORDS, PathNode, holdsOneValue, isWildcard, pathOf } from './path-tree.ts'

/**
 * Inheritance: `apply-groups [ a b ]` at some place lays the same place of each group over it. What is stated at the
 * place itself goes before what a group says, and an earlier group before a later one. A word `<pattern>` in a group
 * stands for every name at that place that matches (`*` any characters, `?` one, `[ab]` one of these).
 */
export function expandGroups(root: PathNode): PathNode {
  const groups = root.children.get('groups')
  return groups ? inherit(root, null, groups, []) : root
}

/** A group that applies, by the places of it that lie at the path come to. */
interface Applied {
  readonly name: string
  readonly places: readonly PathNode[]
}

const NOT_SETTINGS = new Set(['groups', 'apply-groups', 'apply-groups-except'])

/** @param around the groups that apply at this node from further out, nearest first */
function inherit(node: PathNode, parent: PathNode | null, groups: PathNode, around: readonly Applied[]): PathNode {
  const applied = appliedAt(node, groups, around)
  // Most of a listing: nothing is laid over it, and it stays as it stands.
  if (applied.length === 0 && !node.namesGroups) return node
  const out = new PathNode(node.word, parent)
  out.ends = node.ends
  out.inactive = node.inactive
  if (out.depth > MAX_WORDS) return out
  for (const [word, child] of overlay(
    node,
    applied.flatMap(({ places }) => places),
  )) {
    if (!NOT_SETTINGS.has(word)) out.put(inherit(child, out, groups, within(applied, word)))
  }
  return out
}

function appliedAt(node: PathNode, groups: PathNode, around: readonly Applied[]): readonly Applied[] {
  const own = namesIn(node, 'apply-groups')
  const except = namesIn(node, 'apply-groups-except')
  if (own.length === 0 && except.length === 0) return around
  const path = pathOf(node)
  const applied = own.map((name): Applied => {
    const group = groups.children.get(name)
    return { name, places: group && !group.inactive ? path.reduce(placesUnder, [group]) : [] }
  })
  return [...applied, ...around.filter(({ name }) => !own.includes(name))].filter(
    ({ name, places }) => places.length > 0 && !except.includes(name),
  )
}

/** The same groups one word further in; those that say nothing there are left out. */
function within(applied: readonly Applied[], word: string): readonly Applied[] {
  return applied.flatMap(({ name, places }) => {
    const next = placesUnder(places, word).filter((place) => place.children.size > 0)
    return next.length > 0 ? [{ name, places: next }] : []
  })
}

/** The places one word beneath some places of a group, wildcards counted; the exact ones first. */
function placesUnder(places: readonly PathNode[], word: string): PathNode[] {
  return places.flatMap((place) => {
    const exact = place.children.get(word)
    const wild = place.wildcards.filter((child) => child !== exact && matchesWildcard(child.word, word))
    return exact ? [exact, ...wild] : wild
  })
}

function namesIn(node: PathNode, word: string): string[] {
  const list = node.children.get(word)
  return list && !list.inactive
    ? [...list.children.values()].filter((child) => !child.inactive).map((child) => child.word)
    : []
}

/** Children of a node and, after them, what the groups add: one value stated nearer is not taken over. */
function overlay(node: PathNode, sources: readonly PathNode[]): ReadonlyMap<string, PathNode> {
  const merged = new Map(node.children)
  for (const source of sources) {
    if (merged.size > 0 && holdsOneValue(node)) break
    for (const [word, child] of source.children) {
      if (child.inactive || isWildcard(word) || merged.has(word)) continue
      // Only its name and statements: what lies beneath is laid over when that place is reached.
      const named = new PathNode(word, node)
      named.ends = child.ends
      merged.set(word, named)
    }
  }
  return merged
}

/** Matches in linear time for one `*`, and in the product of the lengths at worst: patterns are short names. */
function matchesWildcard(pattern: string, name: string): boolean {
  const units = pattern.slice(1, -1).match(/\[[^[\]]*\]|./gs) ?? []
  const row = Array<boolean>(name.length + 1).fill(false)
  row[0] = true
  for (const unit of units) {
    if (unit === '*') {
      for (let i = 1; i <= name.length; i++) row[i] = row[i] === true || row[i - 1] === true
      continue
    }
    for (let i = name.length; i >= 1; i--) row[i] = row[i - 1] === true && fits(unit, name.charAt(i - 1))
    row[0] = false
  }
  return row[name.length] === true
}

function fits(unit: string, char: string): boolean {
  if (unit === '?') return true
  if (!unit.startsWith('[') || unit.length < 3) return unit === char
  const body = unit.slice(1, -1)
  const negated = body.startsWith('!') || body.startsWith('^')
  return inClass(negated ? body.slice(1) : body, char) !== negated
}

function inClass(body: string, char: string): boolean {
  for (let i = 0; i < body.length; i++) {
    if (body.charAt(i + 1) === '-' && i + 2 < body.length) {
      if (body.charAt(i) <= char && char <= body.charAt(i + 2)) return true
      i += 2
    } else if (body.charAt(i) === char) return true
  }
  return false
}

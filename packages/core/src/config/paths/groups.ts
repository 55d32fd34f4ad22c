import { MAX_WORDS, PathNode, holdsOneValue } from './path-tree.ts'

/**
 * Inheritance: `apply-groups [ a b ]` at some place lays the same place of each group over it. What is stated at the place
 * itself goes before what a group says, and an earlier group before a later one. A word `<pattern>` in a group stands
 * for every name at that place that matches (`*` any characters, `?` one, `[ab]` one of these).
 */
export function expandGroups(root: PathNode): PathNode {
  const groups = root.children.get('groups')
  return groups ? inherit(root, null, [], { groups, active: [] }) : root
}

interface Inheritance {
  readonly groups: PathNode
  /** Names of the groups that apply here, those nearest first. */
  readonly active: readonly string[]
}

const NOT_SETTINGS = new Set(['groups', 'apply-groups', 'apply-groups-except'])

function inherit(node: PathNode, parent: PathNode | null, path: readonly string[], around: Inheritance): PathNode {
  const out = new PathNode(node.word, parent)
  out.ends = node.ends
  out.inactive = node.inactive
  if (path.length > MAX_WORDS) return out
  const except = namesIn(node, 'apply-groups-except')
  const active = [...new Set([...namesIn(node, 'apply-groups'), ...around.active])].filter((name) => !except.includes(name))
  const sources = active.flatMap((name) => {
    const group = around.groups.children.get(name)
    return group && !group.inactive ? placesIn(group, path) : []
  })
  for (const [word, child] of overlay(node, sources)) {
    if (!NOT_SETTINGS.has(word)) out.put(inherit(child, out, [...path, word], { groups: around.groups, active }))
  }
  return out
}

function namesIn(node: PathNode, word: string): string[] {
  const list = node.children.get(word)
  return list && !list.inactive ? [...list.children.values()].filter((child) => !child.inactive).map((child) => child.word) : []
}

/** The places of a group that a path leads to, wildcards counted; the exact one first. */
function placesIn(group: PathNode, path: readonly string[]): PathNode[] {
  let places = [group]
  for (const word of path) {
    places = places.flatMap((place) => {
      const exact = place.children.get(word)
      const wild = [...place.children.values()].filter((child) => child !== exact && isWildcard(child.word) && matchesWildcard(child.word, word))
      return exact ? [exact, ...wild] : wild
    })
    if (places.length === 0) return []
  }
  return places
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

function isWildcard(word: string): boolean {
  return word.length > 2 && word.startsWith('<') && word.endsWith('>')
}

/** Matches in linear time for one `*`, and in the product of the lengths at worst: patterns are short names. */
function matchesWildcard(pattern: string, name: string): boolean {
  const units = pattern.slice(1, -1).match(/\[[^\]]*\]|./gs) ?? []
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

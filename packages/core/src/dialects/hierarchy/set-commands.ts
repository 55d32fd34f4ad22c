import type { ConfigNode } from '../../syntax/located-tree.ts'
import { addPath, nodeAt, removePath, type PathNode } from './path-tree.ts'
import { phraseOf } from './phrase.ts'
import { readSetLines } from './set-lines.ts'

/** Enters set lines into a tree that is there already. */
export function enterAll(root: PathNode, commands: readonly string[]): PathNode {
  enterNodes(root, readSetLines(commands.join('\n')).nodes)
  return root
}

export function enterNodes(root: PathNode, nodes: readonly ConfigNode[]): void {
  for (const node of nodes) if (node.kind === 'command') enter(root, node)
}

function enter(root: PathNode, node: ConfigNode): void {
  const { words, list } = phraseOf(node.text)
  const [verb, ...path] = words
  switch (verb) {
    case 'set':
      if (list && list.length > 0) for (const item of list) addPath(root, [...path, item], node)
      else addPath(root, path, node)
      return
    case 'delete':
      removePath(root, path)
      return
    case 'deactivate':
    case 'activate': {
      const at = verb === 'activate' ? nodeAt(root, path) : addPath(root, path, node)
      if (at) at.inactive = verb === 'deactivate'
      return
    }
    case 'rename':
    case 'copy':
    case 'insert':
      // One that cannot be carried out is kept as it stands: nobody reads it, and so it is told.
      if (!rearrange(root, verb, path, node)) addPath(root, words, node)
  }
}

/**
 * `rename P to NAME`, `copy P to NAME`, `insert P before|after NAME`: NAME takes the place of as many last words of P.
 */
function rearrange(
  root: PathNode,
  verb: 'rename' | 'copy' | 'insert',
  words: readonly string[],
  statement: ConfigNode,
): boolean {
  const at = words.findLastIndex((word) => (verb === 'insert' ? word === 'before' || word === 'after' : word === 'to'))
  const [own, other] = [words.slice(0, Math.max(at, 0)), words.slice(at + 1)]
  const target = [...own.slice(0, own.length - other.length), ...other]
  const from = own.length === 0 || other.length === 0 || other.length > own.length ? null : nodeAt(root, own)
  const parent = from?.parent
  if (!from || !parent || nodeAt(root, target.slice(0, -1)) !== parent) return false
  const name = target.at(-1) ?? ''
  const siblings = [...parent.children.values()]
  if (verb === 'insert') {
    const beside = parent.children.get(name)
    if (!beside || beside === from) return false
    const others = siblings.filter((one) => one !== from)
    others.splice(others.indexOf(beside) + (words[at] === 'after' ? 1 : 0), 0, from)
    reorder(parent, others)
    return true
  }
  if (parent.children.has(name)) return false
  const made = from.clone(name, parent, statement)
  reorder(parent, verb === 'copy' ? [...siblings, made] : siblings.map((one) => (one === from ? made : one)))
  return true
}

function reorder(parent: PathNode, children: readonly PathNode[]): void {
  parent.clear()
  for (const child of children) parent.put(child)
}

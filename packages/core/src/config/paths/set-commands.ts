import type { ConfigNode } from '../located-tree.ts'
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
  }
}

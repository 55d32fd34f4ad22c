import { Command } from '../command.ts'
import { Scope, Statement } from '../effective-tree.ts'
import type { ConfigNode } from '../located-tree.ts'
import { expandGroups } from './groups.ts'
import type { PathNode } from './path-tree.ts'
import { typedWord } from './phrase.ts'

/**
 * What a hierarchical configuration says, as one statement for each path to its end, without the inactive parts: `system
 * services ssh`. In this form the braced dialect, its set lines and rules over lines meet.
 */
export function statementsOf(root: PathNode, maybeSecret: (text: string) => boolean): Scope {
  const statements: Statement[] = []
  collect(expandGroups(root), [], [], (words, nodes) => {
    const text = words.map(typedWord).join(' ')
    statements.push(new Statement(new Command(text, false, false, text, null, maybeSecret(text), words), nodes, undefined, null))
  })
  return new Scope(statements, [])
}

/** Visits every path that ends; the statements that name it are its own, else those of the nearest that name it at all. */
function collect(node: PathNode, words: readonly string[], around: readonly ConfigNode[], visit: (words: readonly string[], nodes: readonly ConfigNode[]) => void): void {
  if (node.inactive) return
  const nodes = node.ends.length > 0 ? node.ends : around
  const here = node.parent === null ? [] : [...words, node.word]
  const live = [...node.children.values()].filter((child) => !child.inactive)
  if (here.length > 0 && live.length === 0 && nodes.length > 0) visit(here, nodes)
  for (const child of live) collect(child, here, nodes, visit)
}

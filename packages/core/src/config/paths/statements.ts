import { Command } from '../command.ts'
import { Scope, Statement } from '../effective-tree.ts'
import { Recent } from '../recent.ts'
import type { ConfigNode } from '../located-tree.ts'
import { expandGroups } from './groups.ts'
import { expandRanges } from './ranges.ts'
import type { PathNode } from './path-tree.ts'
import { typedWord } from './phrase.ts'

/**
 * What a hierarchical configuration says, as one statement for each path to its end, without the inactive parts: `system
 * services ssh`. In this form the braced dialect, its set lines and rules over lines meet.
 */
export function statementsOf(root: PathNode, maybeSecret: (text: string) => boolean): Scope {
  const statements: Statement[] = []
  collect(expandRanges(expandGroups(root)), '', [], (node, text, nodes) => statements.push(new Statement(commandOf(node, text, maybeSecret), nodes, undefined, null)))
  return new Scope(statements, [])
}

/** Estates repeat paths: each is understood once, within a bound; by dialect, since each knows its own secrets. */
const known = new Map<(text: string) => boolean, Recent<Command>>()

function recentOf(maybeSecret: (text: string) => boolean): Recent<Command> {
  let recent = known.get(maybeSecret)
  if (!recent) known.set(maybeSecret, (recent = new Recent(20_000)))
  return recent
}

function commandOf(node: PathNode, text: string, maybeSecret: (text: string) => boolean): Command {
  const recent = recentOf(maybeSecret)
  const found = recent.get(text)
  if (found) return found
  const words: string[] = []
  for (let at: PathNode = node; at.parent; at = at.parent) words.push(at.word)
  const command = new Command(text, false, false, text, null, maybeSecret(text), words.reverse())
  if (text.length <= 400) recent.set(text, command)
  return command
}

/** Visits every path that ends; the statements that name it are its own, else those of the nearest that name it at all. */
function collect(node: PathNode, text: string, around: readonly ConfigNode[], visit: (node: PathNode, text: string, nodes: readonly ConfigNode[]) => void): void {
  if (node.inactive) return
  const nodes = node.ends.length > 0 ? node.ends : around
  let hasLive = false
  for (const child of node.children.values()) {
    if (child.inactive) continue
    hasLive = true
    const word = typedWord(child.word)
    collect(child, text === '' ? word : `${text} ${word}`, nodes, visit)
  }
  if (!hasLive && node.parent !== null && nodes.length > 0) visit(node, text, nodes)
}

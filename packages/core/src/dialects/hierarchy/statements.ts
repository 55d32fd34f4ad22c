import { Command } from '../../syntax/command.ts'
import { Scope, Statement, type InactivePart } from '../../syntax/scope.ts'
import { Recent } from '../../syntax/recent.ts'
import type { ConfigNode } from '../../syntax/located-tree.ts'
import { expandGroups } from './groups.ts'
import { expandRanges } from './ranges.ts'
import type { PathNode } from './path-tree.ts'
import { typedWord } from './phrase.ts'

/**
 * What a hierarchical configuration says, as one statement for each path to its end, without the inactive parts:
 * `system services ssh`. In this form the braced dialect, its set lines and rules over lines meet.
 */
export function statementsOf(root: PathNode, maybeSecret: (text: string) => boolean): Scope {
  const statements: Statement[] = []
  const inactive: InactivePart[] = []
  const visit: Visitor = {
    statement: (node, text, nodes) =>
      statements.push(new Statement(commandOf(node, text, maybeSecret), nodes, undefined, null)),
    inactive: (node, path) => inactive.push(...inactiveParts(node, path)),
  }
  collect(expandRanges(expandGroups(root)), '', [], visit)
  return new Scope(statements, [], inactive)
}

/** An inactive node, and those within it that are inactive in their own right. */
function inactiveParts(node: PathNode, path: string): InactivePart[] {
  const within = (at: PathNode, text: string): InactivePart[] =>
    [...at.children.values()].flatMap((child) => {
      const own = `${text} ${typedWord(child.word)}`
      return child.inactive ? inactiveParts(child, own) : within(child, own)
    })
  return [{ path, statements: pathsBeneath(node, path) }, ...within(node, path)]
}

/** What would hold beneath an inactive node. */
function pathsBeneath(node: PathNode, text: string): string[] {
  const live = [...node.children.values()].filter((child) => !child.inactive)
  return live.length === 0 ? [text] : live.flatMap((child) => pathsBeneath(child, `${text} ${typedWord(child.word)}`))
}

interface Visitor {
  statement(node: PathNode, text: string, nodes: readonly ConfigNode[]): void
  inactive(node: PathNode, text: string): void
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

/**
 * Visits every path that ends; the statements that name it are its own, else those of the nearest that name it at all.
 */
function collect(node: PathNode, text: string, around: readonly ConfigNode[], visit: Visitor): void {
  if (node.inactive) return
  const nodes = node.ends.length > 0 ? node.ends : around
  let hasLive = false
  for (const child of node.children.values()) {
    const word = typedWord(child.word)
    const path = text === '' ? word : `${text} ${word}`
    if (child.inactive) {
      visit.inactive(child, path)
      continue
    }
    hasLive = true
    collect(child, path, nodes, visit)
  }
  if (!hasLive && node.parent !== null && nodes.length > 0) visit.statement(node, text, nodes)
}

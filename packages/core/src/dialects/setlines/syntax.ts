/** Set lines: the hierarchy of the braced dialect, one path a line. */
import { maybeSecret, secretsIn } from '../hierarchy/secrets.ts'
import type { Syntax } from '../../syntax/syntax.ts'
import type { LocatedTree } from '../../syntax/located-tree.ts'
import { pathDialect } from '../hierarchy/syntax.ts'
import { PathNode } from '../hierarchy/path-tree.ts'
import { enterAll, enterNodes } from '../hierarchy/set-commands.ts'
import { statementsOf } from '../hierarchy/statements.ts'
import { VERBS, readSetLines } from '../hierarchy/set-lines.ts'

export const setlinesSyntax: Syntax = {
  ...pathDialect,
  id: 'setlines',
  title: 'Set lines, one path a line',
  recognise,
  read: readSetLines,
  evaluate: (trees) => statementsOf(pathsOf(trees), maybeSecret),
  apply: (trees, commands) => statementsOf(enterAll(pathsOf(trees), commands), maybeSecret),
  maybeSecret,
  secretsIn,
}

/** What remains when the lines of some listings were entered in their order. */
function pathsOf(trees: readonly LocatedTree[]): PathNode {
  const root = new PathNode('', null)
  for (const tree of trees) enterNodes(root, tree.nodes)
  return root
}

/** Share of the lines that begin with a verb of this dialect. */
function recognise(text: string): number {
  const lines = text
    .slice(0, 20_000)
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'))
  if (lines.length === 0) return 0
  const known = lines.filter(
    (line) => VERBS.has(line.split(' ', 1)[0] ?? '') && /^\S+ [a-z][\w-]*( |$)/.test(line),
  ).length
  return known / lines.length
}

/** Set lines: the hierarchy of the braced dialect, one path a line. */
import { maybeSecret, secretsIn } from '../braced/secrets.ts'
import type { Dialect } from '../dialect.ts'
import type { LocatedTree } from '../located-tree.ts'
import { pathDialect } from '../paths/dialect.ts'
import { PathNode } from '../paths/path-tree.ts'
import { enterAll, enterNodes } from '../paths/set-commands.ts'
import { statementsOf } from '../paths/statements.ts'
import { VERBS, readSetLines } from '../paths/set-lines.ts'

export const setlines: Dialect = {
  ...pathDialect,
  id: 'setlines',
  title: 'Set lines, one path a line',
  recognise,
  read: readSetLines,
  hold: (trees) => statementsOf(pathsOf(trees), maybeSecret),
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

/** Set lines: the hierarchy of the braced dialect, one path a line. */
import { maybeSecret, secretsIn } from '../braced/secrets.ts'
import type { Dialect } from '../dialect.ts'
import type { ConfigNode, LocatedTree } from '../located-tree.ts'
import { pathDialect } from '../paths/dialect.ts'
import { PathNode, addPath, nodeAt, removePath } from '../paths/path-tree.ts'
import { phraseOf } from '../paths/phrase.ts'
import { statementsOf } from '../paths/statements.ts'
import { VERBS, readSetLines } from './reader.ts'

export const setlines: Dialect = {
  ...pathDialect,
  id: 'setlines',
  title: 'Set lines, one path a line',
  recognise,
  read: readSetLines,
  hold: (trees) => statementsOf(pathsOf(trees), maybeSecret),
  maybeSecret,
  secretsIn,
}

/** What remains when the lines of some listings were entered in their order. */
export function pathsOf(trees: readonly LocatedTree[]): PathNode {
  const root = new PathNode('', null)
  for (const tree of trees) for (const node of tree.nodes) if (node.kind === 'command') enter(root, node)
  return root
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

/** Share of the lines that begin with a verb of this dialect. */
function recognise(text: string): number {
  const lines = text.slice(0, 60_000).split('\n').map((line) => line.trim()).filter((line) => line !== '' && !line.startsWith('#'))
  if (lines.length === 0) return 0
  const known = lines.filter((line) => VERBS.has(line.split(' ', 1)[0] ?? '') && /^\S+ [a-z][\w-]*( |$)/.test(line)).length
  return known / lines.length
}

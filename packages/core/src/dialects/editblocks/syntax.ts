/** Edit blocks: parts of a configuration between `config` and `end`, entries of tables between `edit` and `next`. */
import type { ConfigNode } from '../../syntax/located-tree.ts'
import type { Syntax } from '../../syntax/syntax.ts'
import { BlockTree } from './block-tree.ts'
import { keyOf, placeIn, typing } from './paths.ts'
import { readEditBlocks } from './reader.ts'
import { maybeSecret, secretsIn } from './secrets.ts'

export const editblocksSyntax: Syntax = {
  id: 'editblocks',
  title: 'Edit blocks, config … edit … set',
  recognise,
  read: readEditBlocks,
  evaluate: (trees) => new BlockTree().enter(trees).scope(maybeSecret),
  apply: (trees, commands) => new BlockTree().enter([...trees, readEditBlocks(commands.join('\n'))]).scope(maybeSecret),
  keyOf,
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: () => false,
  placeIn,
  rangeOf: () => null,
  canonical: (text) => text,
  inheritedFrom: () => null,
  typing,
  around: (node) => around(node),
  maybeSecret,
  secretsIn,
}

/** The openers around a node, outermost first. */
function around({ parent }: ConfigNode): string | null {
  const openers: string[] = []
  for (let at = parent; at; at = at.parent) openers.unshift(at.text)
  return openers.length === 0 ? null : openers.join(' ')
}

/** Share of the lines that begin with a word of this dialect; without blocks that are closed there is none. */
function recognise(text: string): number {
  const lines = text
    .slice(0, 20_000)
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'))
  const opened = lines.filter((line) => /^config [a-z]/.test(line)).length
  const closed = lines.filter((line) => line === 'end').length
  if (opened === 0 || closed === 0) return 0
  const known = lines.filter((line) => /^(?:config [a-z]|edit \S|set [\w-]+ \S|unset [\w-]+$|next$|end$)/.test(line))
  return known.length / lines.length
}

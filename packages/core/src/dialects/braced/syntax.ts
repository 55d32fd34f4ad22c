/** The braced dialect: a hierarchy of blocks in braces, statements that end in a semicolon. */
import type { Syntax } from '../../syntax/syntax.ts'
import type { ConfigNode, LocatedTree } from '../../syntax/located-tree.ts'
import { pathsIn } from '../hierarchy/attributes.ts'
import { MAX_WORDS, PathNode, addPath } from '../hierarchy/path-tree.ts'
import { phraseOf } from '../hierarchy/phrase.ts'
import { pathDialect } from '../hierarchy/syntax.ts'
import { statementsOf } from '../hierarchy/statements.ts'
import { enterAll } from '../hierarchy/set-commands.ts'
import { readBraced } from './reader.ts'
import { maybeSecret, secretsIn } from '../hierarchy/secrets.ts'

export const bracedSyntax: Syntax = {
  ...pathDialect,
  id: 'braced',
  title: 'Braced, blocks in { }',
  recognise,
  read: readBraced,
  evaluate: (trees) => statementsOf(pathsOf(trees), maybeSecret),
  apply: (trees, commands) => statementsOf(enterAll(pathsOf(trees), commands), maybeSecret),
  maybeSecret,
  secretsIn,
}

/** Every statement of some listings as paths of words, in their order. */
export function pathsOf(trees: readonly LocatedTree[]): PathNode {
  const root = new PathNode('', null)
  for (const tree of trees) for (const node of tree.nodes) addStatement(root, node)
  return root
}

/** Adds a statement, and what stands in its block, beneath the path of the block around it. */
function addStatement(around: PathNode, node: ConfigNode): void {
  if (node.kind !== 'command') return
  const { words, list, inactive } = phraseOf(node.text)
  if (list) for (const item of list) addPath(around, [...words, item], node)
  if (!list || list.length === 0) {
    for (const one of pathsIn(around.word, words)) {
      const at = addPath(around, one, node)
      if (inactive) at.inactive = true
    }
  } else if (inactive) addPath(around, words, node).inactive = true
  if (!node.children.some((child) => child.kind === 'command')) return
  let within = around
  for (const word of words) if (within.depth < MAX_WORDS) within = within.child(word)
  for (const child of node.children) addStatement(within, child)
}

const TOP = new Set(
  'version groups apply-groups system chassis interfaces snmp routing-options protocols policy-options firewall security vlans applications routing-instances services access forwarding-options class-of-service event-options bridge-domains ethernet-switching-options poe switch-options wlan virtual-chassis logical-systems multi-chassis accounting-options'.split(
    ' ',
  ),
)

/** Share of the blocks at the top level that are known; braces and semicolons alone are any program's. */
function recognise(text: string): number {
  const part = text.length > 20_000 ? text.slice(0, 20_000) : text
  if (!/[{;][ \t]*$/m.test(part)) return 0
  const tree = readBraced(part)
  const top = tree.nodes.filter((node) => node.kind === 'command').map((node) => phraseOf(node.text).words[0] ?? '')
  if (top.length === 0) return 0
  const known = top.filter((word) => TOP.has(word)).length
  return known / top.length
}

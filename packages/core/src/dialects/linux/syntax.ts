/** A Linux gateway's filter rules as `iptables-save`, `ip6tables-save` and `nft -j list ruleset` write them. */
import { Command } from '../../syntax/command.ts'
import type { Syntax } from '../../syntax/syntax.ts'
import { Scope, Statement } from '../../syntax/scope.ts'
import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type ConfigNode,
  type Fault,
  type GrowingNode,
  type LocatedTree,
  type NodeKind,
} from '../../syntax/located-tree.ts'
import { maybeSecret } from './secrets.ts'
import { NFTABLES, readNftables } from './nftables.ts'

const TABLE = /^\*(filter|nat|mangle|raw|security)$/

export const linuxSyntax: Syntax = {
  id: 'linux',
  title: 'Netfilter chains, saved filter rules',
  recognise: (text) =>
    NFTABLES.test(text.slice(0, 200)) || /^\*(?:filter|nat|mangle|raw|security)\r?$/m.test(text.slice(0, 20_000))
      ? 1
      : 0,
  read: (text) => (NFTABLES.test(text.slice(0, 200)) ? readNftables(text) : readSavedRules(text)),
  evaluate: (trees) => chainsOf(trees.flatMap((tree) => tree.nodes)),
  apply: (trees, commands) =>
    chainsOf([...trees.flatMap((tree) => tree.nodes), ...readSavedRules(commands.join('\n')).nodes]),
  keyOf: (text) => text,
  blockOpenedBy: () => undefined,
  blockKey: () => null,
  isOrdered: (block) => block === 'chain',
  placeIn: () => null,
  rangeOf: () => null,
  canonical: (text) => text,
  typing: {
    byPath: false,
    add: (text) => text,
    remove: (text) => text.replace(/^-A /, '-D '),
    forget: (key) => key.replace(/^-A /, '-D '),
  },
  inheritedFrom: () => null,
  maybeSecret,
  secretsIn: () => [],
}

/**
 * Reads saved rules: tables, each with its chains and rules. Never throws; takes time linear in the length of the text.
 */
function readSavedRules(text: string): LocatedTree {
  const lines = new PhysicalLines(text)
  const nodes: GrowingNode[] = []
  const faults: Fault[] = []
  const unread: number[] = []
  let table: GrowingNode | null = null
  for (let at = 0; at < lines.length; at++) {
    const line = lines.at(at).trim()
    const opens = TABLE.test(line)
    if (opens && table)
      faults.push({ line: at + 1, reason: `the table "${table.text}" opened on line ${table.line} has no COMMIT` })
    if (opens) table = null
    const kind = opens ? 'command' : kindOf(line, table !== null)
    const node: GrowingNode = {
      kind,
      text: line,
      line: at + 1,
      lastLine: at + 1,
      parent: table,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    }
    if (table) addChild(table, node)
    else nodes.push(node)
    if (kind === 'frame') unread.push(at + 1)
    if (opens) table = node
    else if (line === 'COMMIT') table = null
  }
  if (table)
    faults.push({
      line: table.line,
      reason: `the table "${table.text}" opened here has no COMMIT: the rules stop before their end`,
    })
  return { dialect: 'linux', lines, nodes, faults, unread, hostname: null }
}

function kindOf(line: string, inTable: boolean): NodeKind {
  if (line === '' || line === 'COMMIT') return 'separator'
  if (line.startsWith('#')) return 'comment'
  return inTable && /^(?::\S+ |(?:\[\d+:\d+\] )?-A )/.test(line) ? 'command' : 'frame'
}

/** Chains as blocks, `filter INPUT`, whose rules keep their order. */
function chainsOf(nodes: readonly ConfigNode[]): Scope {
  const chains = new Map<string, { nodes: ConfigNode[]; statements: Statement[] }>()
  for (const table of nodes) {
    if (table.kind !== 'command') continue
    for (const node of table.children) {
      if (node.kind !== 'command') continue
      const policy = /^:(\S+) (\S+)/.exec(node.text)
      const rule = /^(?:\[\d+:\d+\] )?-A (\S+)(?: (.*))?$/.exec(node.text)
      const key = `${table.text.slice(1)} ${policy?.[1] ?? rule?.[1] ?? ''}`
      const chain = chains.get(key) ?? { nodes: [], statements: [] }
      chains.set(key, chain)
      if (policy) {
        chain.nodes.unshift(node)
        // `-` is the policy of a chain of one's own: what no rule decides goes back to where it came from.
        chain.statements.unshift(new Statement(commandOf(`policy ${policy[2] ?? '-'}`), [node], undefined, null))
      } else if (rule) chain.statements.push(new Statement(commandOf(rule[2] ?? ''), [node], undefined, null))
    }
  }
  return new Scope(
    [...chains].map(
      ([name, { nodes: openers, statements }]) =>
        new Statement(
          new Command(name, false, false, name, null, false),
          openers.length > 0 ? openers : (statements[0]?.nodes ?? []),
          'chain',
          new Scope(statements, openers),
        ),
    ),
    [],
  )
}

/** Arguments as a shell would split them: a comment in quotes is one. */
function commandOf(text: string): Command {
  const words = (text.match(/"(?:[^"\\]|\\.)*"|[^\s"]+/g) ?? []).map((word) =>
    word.startsWith('"') && word.endsWith('"') && word.length > 1 ? word.slice(1, -1).replace(/\\(.)/g, '$1') : word,
  )
  return new Command(text, false, false, null, null, maybeSecret(text), words)
}

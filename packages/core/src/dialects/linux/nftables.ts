import { items, member, parseJson, type LocatedValue } from '../../syntax/json.ts'
import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type Fault,
  type GrowingNode,
  type LocatedTree,
} from '../../syntax/located-tree.ts'
import { Ruleset, type Chain } from './nft-ruleset.ts'
import { RuleWriter } from './nft-rules.ts'

/** `nft -j list ruleset` begins so (libnftables-json(5)). */
export const NFTABLES = /^\s*\{\s*"nftables"\s*:/

/**
 * Reads a ruleset of nftables as JSON (libnftables-json(5)) into the form of saved filter rules: one way through for
 * both.
 * A base chain stands in the table that the kernel asks at that place; chains of one's own carry the name of their
 * table.
 * What has no equal there is a match that cannot be weighed, so that an answer which needs it is not decided.
 */
export function readNftables(text: string): LocatedTree {
  const lines = new PhysicalLines(text)
  const { value, fault } = parseJson(text)
  const faults: Fault[] = fault ? [{ line: lines.lineAt(fault.at) + 1, reason: `not JSON: ${fault.reason}` }] : []
  const list = value && member(value, 'nftables')
  if (!list) faults.push({ line: 1, reason: 'there is no list "nftables"' })
  const ruleset = new Ruleset(list ? items(list) : [])
  const nodes: GrowingNode[] = []
  const node = (said: string, from: LocatedValue, parent: GrowingNode | null): GrowingNode => {
    const [line, last] = [lines.lineAt(from.from) + 1, lines.lineAt(Math.max(from.from, from.to - 1)) + 1]
    const start = lines.starts[line - 1] ?? 0
    const columns = line === last ? { columns: [from.from - start + 1, from.to - start] as const } : {}
    const made: GrowingNode = {
      kind: 'command',
      text: said,
      line,
      lastLine: last,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
      ...columns,
    }
    if (parent) addChild(parent, made)
    else nodes.push(made)
    return made
  }
  for (const { name, chains, origin } of ruleset.tables()) {
    const table = node(`*${name}`, origin, null)
    for (const chain of chains) writeChain(chain, ruleset, (said, from) => node(said, from, table))
  }
  return { dialect: 'linux', lines, nodes, faults, unread: [], hostname: null }
}

function writeChain(chain: Chain, ruleset: Ruleset, add: (said: string, from: LocatedValue) => void): void {
  add(`:${chain.name} ${chain.policy} [0:0]`, chain.origin)
  // What cannot be told is a rule that may meet any packet, and drop it.
  if (chain.doubt !== null) add(`-A ${chain.name} -m nft.${chain.doubt.replaceAll(' ', '.')} -j DROP`, chain.origin)
  for (const rule of chain.rules) {
    const written = new RuleWriter(ruleset, chain).write(rule)
    for (const said of written) add(`-A ${chain.name}${said === '' ? '' : ` ${said}`}`, rule)
  }
}

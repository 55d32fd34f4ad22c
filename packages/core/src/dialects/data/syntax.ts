/**
 * Data: text of YANG models in JSON (RFC 7951) or XML (RFC 6241), such as ietf-system, ietf-interfaces, ietf-routing,
 * ietf-access-control-list.
 */
import type { Syntax } from '../../syntax/syntax.ts'
import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type ConfigNode,
  type GrowingNode,
  type LocatedTree,
} from '../../syntax/located-tree.ts'
import { pathDialect } from '../hierarchy/syntax.ts'
import { PathNode, addPath } from '../hierarchy/path-tree.ts'
import { phraseOf } from '../hierarchy/phrase.ts'
import { enterAll } from '../hierarchy/set-commands.ts'
import { statementsOf } from '../hierarchy/statements.ts'
import { namesSecrets } from '../../syntax/secret-words.ts'
import { leaf, member, parseJson, type LocatedValue } from '../../syntax/json.ts'
import { parseXml } from '../../syntax/xml.ts'

const SECRET =
  /"(?:[\w-]+:)?(?:password|hashed-password|secret|key|shared-secret|community|cleartext-key|text-name|binary)"\s*:\s*"((?:[^"\\]|\\.)*)"/g

const maybeSecret = namesSecrets('')

export const dataSyntax: Syntax = {
  ...pathDialect,
  id: 'data',
  title: 'Data of YANG models, JSON or XML',
  recognise,
  read: readData,
  evaluate: (trees) => statementsOf(pathsOf(trees), maybeSecret),
  apply: (trees, commands) => statementsOf(enterAll(pathsOf(trees), commands), maybeSecret),
  maybeSecret,
  secretsIn,
}

/** Whether data is in its XML form, as NETCONF carries it. */
function isXml(text: string): boolean {
  return /^\ufeff?\s*</.test(text)
}

/**
 * Reads JSON or XML data as a tree of statements: a member is one, and an entry of a list, named by its key. Never
 * throws.
 */
function readData(text: string): LocatedTree {
  const lines = new PhysicalLines(text)
  const { value, fault } = isXml(text) ? parseXml(text) : parseJson(text)
  const top: GrowingNode[] = []
  const writer = new NodeWriter(lines, top)
  if (value) writer.add(value, null)
  writer.coverTo(lines.length, null)
  const system = member(value, 'system')
  return {
    dialect: 'data',
    lines,
    nodes: top,
    faults: fault ? [{ line: writer.lineAt(fault.at) + 1, reason: fault.reason }] : [],
    unread: [],
    hostname: leaf(member(system, 'hostname')),
  }
}

class NodeWriter {
  #covered = 0

  constructor(
    readonly lines: PhysicalLines,
    readonly top: GrowingNode[],
  ) {}

  /** The members of an object, or the entries of a list, beneath a node. Its depth is bounded by the parser. */
  add(value: LocatedValue, parent: GrowingNode | null): void {
    if (value.type === 'object')
      for (const { name, value: inner, from, to } of value.members) this.#member(name, inner, from, to, parent)
    if (value.type === 'array') {
      const keys = keysOf(value.items)
      for (const [i, item] of value.items.entries()) {
        const node = this.#node(quoted(keys[i] ?? ''), item.from, item.to, parent)
        this.add(item, node)
      }
    }
  }

  #member(name: string, value: LocatedValue, from: number, to: number, parent: GrowingNode | null): void {
    const word = quoted(name.slice(name.lastIndexOf(':') + 1))
    const node = this.#node(value.type === 'leaf' ? `${word} ${quoted(value.value)}` : word, from, to, parent)
    this.add(value, node)
  }

  #node(text: string, from: number, to: number, parent: GrowingNode | null): GrowingNode {
    const line = this.lineAt(from)
    const last = this.lineAt(to - 1)
    this.coverTo(line, parent)
    // A container's own lines are those up to its first member: what lies beneath has nodes of its own.
    const node: GrowingNode = {
      kind: 'command',
      text,
      line: line + 1,
      lastLine: line + 1,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
      columns: this.#columns(from, to, line, last),
    }
    if (parent) addChild(parent, node)
    else this.top.push(node)
    this.#covered = Math.max(this.#covered, line + 1)
    return node
  }

  #columns(from: number, to: number, line: number, last: number): readonly [number, number] {
    const start = this.lines.starts[line] ?? 0
    const end = last === line ? to : this.lines.endOf(line)
    return [from - start + 1, Math.max(from - start + 1, end - start)]
  }

  /** Lines without a member of their own, up to a line. */
  coverTo(line: number, parent: GrowingNode | null): void {
    if (line <= this.#covered) return
    const node: ConfigNode = {
      kind: 'separator',
      text: '',
      line: this.#covered + 1,
      lastLine: line,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    }
    if (parent) addChild(parent, node)
    else this.top.push(node)
    this.#covered = line
  }

  lineAt(offset: number): number {
    return this.lines.lineAt(offset)
  }
}

/**
 * What names an entry of a list: the first of these leaves that it has (the keys of the models' lists), else its place.
 */
const KEYS = [
  'name',
  'id',
  'ip',
  'address',
  'destination-prefix',
  'source-protocol',
  'identifier',
  'number',
  'index',
  'interface-id',
  'dest',
  'dst',
  'ifname',
]

function keysOf(entries: readonly LocatedValue[]): string[] {
  const seen = new Map<string, number>()
  return entries.map((entry, i) => {
    if (entry.type === 'leaf') return entry.value
    const key = KEYS.map((name) => leaf(member(entry, name))).find((text) => text !== null) ?? String(i + 1)
    const times = (seen.get(key) ?? 0) + 1
    seen.set(key, times)
    return times === 1 ? key : `${key}#${times}`
  })
}

function quoted(text: string): string {
  return /^[\w./:@-]+$/.test(text) && !/^(?:inactive|protect|active):$/.test(text)
    ? text
    : `"${text.replace(/[\\"]/g, '\\$&')}"`
}

function pathsOf(trees: readonly LocatedTree[]): PathNode {
  const root = new PathNode('', null)
  for (const tree of trees) for (const node of tree.nodes) addNode(root, node, [])
  return root
}

function addNode(root: PathNode, node: ConfigNode, around: readonly string[]): void {
  if (node.kind !== 'command') return
  const path = [...around, ...phraseOf(node.text).words]
  addPath(root, path, node)
  for (const child of node.children) addNode(root, child, path)
}

function secretsIn(line: string): readonly [number, number][] {
  if (!maybeSecret(line)) return []
  const inTags = /<(?:[\w-]+:)?(?:password|shared-secret|secret|key|community|cleartext-key|text-name)>([^<]+)/g
  const tagged = [...line.matchAll(inTags)].map((found): [number, number] => [
    found.index + found[0].length - (found[1] ?? '').length,
    found.index + found[0].length,
  ])
  if (tagged.length > 0) return tagged
  // As a statement of the tree is written: name and value.
  const stated = /^(?:community|community-name|text-name) "?([^\s"]+)/.exec(line)
  if (stated) return [[stated[0].length - (stated[1] ?? '').length, stated[0].length]]
  return [...line.matchAll(SECRET)].flatMap((found): [number, number][] => {
    const secret = found[1] ?? ''
    const to = found.index + found[0].length - 1
    return secret === '' ? [] : [[to - secret.length, to]]
  })
}

/** JSON whose members at the top are containers of modules that are read here. */
function recognise(text: string): number {
  if (isXml(text))
    return /<(?:[\w-]+:)?(?:system|interfaces|routing|acls)\b[^>]*urn:ietf:params:xml:ns:yang:ietf-/.test(text) ? 1 : 0
  if (!/^\s*\{/.test(text.replace(/^\ufeff/, ''))) return 0
  return /"ietf-(?:system|interfaces|ip|routing|access-control-list|netconf-server|snmp|keystore|yang-library)\b[^"]*:/.test(
    text,
  )
    ? 1
    : 0
}

import { SaxesParser } from 'saxes'
import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type ConfigNode,
  type Fault,
  type GrowingNode,
  type LocatedTree,
} from '../../syntax/located-tree.ts'
import { lineOf } from '../words.ts'

/** Deeper nesting than any device prints. */
const MAX_DEPTH = 64
const PIECE = 65_536

/** An element while it is open. */
interface Open {
  readonly node: GrowingNode
  readonly name: string
  /** What an entry is called. */
  readonly entry: string | null
  text: string
}

/**
 * Reads a listing in XML: elements, entries with names, members of lists. Each element is a node; what it says with its
 * text stands with it: `<hostname>a</hostname>` is `hostname a`. Never throws. Entities of a document type are not
 * expanded.
 */
export function readXmlEntries(text: string): LocatedTree {
  const reader = new Reader(text)
  reader.read()
  return {
    dialect: 'xmlentries',
    lines: reader.lines,
    nodes: reader.top,
    faults: reader.faults,
    unread: [],
    hostname: reader.hostname,
  }
}

class Reader {
  readonly lines: PhysicalLines
  readonly top: GrowingNode[] = []
  readonly faults: Fault[] = []
  hostname: string | null = null
  readonly #open: Open[] = []
  /** Lines, counted from 0, that nodes stand on so far. */
  #covered = 0
  #from = 0
  #parser = new SaxesParser({ position: true })

  constructor(readonly text: string) {
    this.lines = new PhysicalLines(text)
  }

  read(): void {
    const parser = this.#parser
    let ended = false
    const fail = (reason: string): void => {
      if (!ended) this.faults.push({ line: this.#lineAt(Math.min(parser.position, this.text.length - 1)) + 1, reason })
      ended = true
    }
    parser.on('error', (error) => fail((error.message.split('\n')[0] ?? '').replace(/^\d+:\d+: /, '')))
    parser.on('opentagstart', () => {
      this.#from = Math.max(0, this.text.lastIndexOf('<', parser.position - 1))
    })
    parser.on('opentag', ({ name, attributes }) => {
      if (ended) return
      if (this.#open.length >= MAX_DEPTH) return fail(`elements are nested deeper than ${MAX_DEPTH}`)
      const named = attributes['name']
      this.#opened(name, typeof named === 'string' ? named : null, parser.position)
    })
    parser.on('text', (chars) => {
      const last = ended ? undefined : this.#open.at(-1)
      if (last) last.text += chars
    })
    parser.on('closetag', () => {
      if (!ended) this.#closed(parser.position)
    })
    // In pieces, so that a fault ends the reading of a hostile text early.
    for (let from = 0; from < this.text.length && !ended; from += PIECE)
      parser.write(this.text.slice(from, from + PIECE))
    if (!ended) parser.close()
    this.#coverTo(this.lines.length, null)
  }

  #opened(name: string, entry: string | null, position: number): void {
    const parent = this.#open.at(-1)?.node ?? null
    const line = this.#lineAt(this.#from)
    this.#coverTo(line, parent)
    const node: GrowingNode = {
      kind: 'command',
      text: entry === null ? name : lineOf([name, entry]),
      line: line + 1,
      lastLine: this.#lineAt(position - 1) + 1,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
      columns: this.#columns(this.#from, position, line),
    }
    if (parent) addChild(parent, node)
    else this.top.push(node)
    this.#covered = Math.max(this.#covered, node.lastLine)
    this.#open.push({ node, name, entry, text: '' })
  }

  /** An element without others within says its text. */
  #closed(position: number): void {
    const last = this.#open.pop()
    if (!last) return
    const { node, name, entry, text } = last
    const said = text.trim()
    const isLeaf = !node.children.some(({ kind }) => kind === 'command')
    if (!isLeaf || said === '') return
    const end = this.#lineAt(position - 1)
    Object.assign(node, {
      text: lineOf([name, ...(entry === null ? [] : [entry]), said]),
      lastLine: Math.max(node.lastLine, end + 1),
      children: NO_NODES,
      columns: this.#columns(node.columns ? (this.lines.starts[node.line - 1] ?? 0) : 0, position, node.line - 1, node),
      body: end + 1 > node.line ? said : undefined,
    })
    this.#covered = Math.max(this.#covered, end + 1)
    const around = this.#open.at(-1)?.name
    if (this.hostname === null && name === 'hostname' && around === 'system') this.hostname = said
  }

  #columns(from: number, to: number, line: number, node?: ConfigNode): readonly [number, number] {
    const start = this.lines.starts[line] ?? 0
    const first = node?.columns?.[0] ?? from - start + 1
    const end = this.#lineAt(to - 1) === line ? to : this.lines.endOf(line)
    return [first, Math.max(first, end - start)]
  }

  /** Lines without an element that begins on them: closing tags, comments, empty lines. */
  #coverTo(line: number, parent: GrowingNode | null): void {
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

  #lineAt(offset: number): number {
    return this.lines.lineAt(Math.max(0, offset))
  }
}

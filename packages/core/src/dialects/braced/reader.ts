import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type Fault,
  type GrowingNode,
  type LocatedTree,
  type NodeKind,
} from '../../syntax/located-tree.ts'
import { FRAME } from '../hierarchy/frame.ts'
import { nextToken } from '../hierarchy/phrase.ts'

/** Deeper nesting than any device prints. */
const MAX_DEPTH = 64

const PAGING = /^-{2,3}\(?more(?: \d+%)?\)?-{2,3}|^---\(more/i
const ERROR = /^(?:error|warning|syntax error|unknown command)\b[:,. ]/i

/**
 * Reads a listing of the braced dialect: words that end in `;`, or open a block with `{`. Never throws; takes time
 * linear in the length of the text. A statement is a node; of several on one line each stands on that line.
 */
export function readBraced(text: string): LocatedTree {
  return new BracedReader(text).read()
}

class BracedReader {
  readonly #lines: PhysicalLines
  readonly #top: GrowingNode[] = []
  readonly #faults: Fault[] = []
  readonly #unread: number[] = []
  /** Blocks that are open, innermost last. */
  readonly #open: GrowingNode[] = []
  #hostname: string | null = null
  /** Index of the line that the last look at an offset led to. */
  #line = 0
  #tooDeep = false
  /** Last line, counted from 1, that some node stands on. */
  #covered = 0

  constructor(text: string) {
    this.#lines = new PhysicalLines(text)
  }

  read(): LocatedTree {
    const { text } = this.#lines
    let start = -1
    let end = -1
    let at = 0
    while (at < text.length) {
      const token = nextToken(text, at)
      if (!token) break
      at = token.to
      if (start < 0 && this.#isLineStart(token.from) && this.#readFrame(token.from)) {
        at = this.#lines.endOf(this.#line)
        continue
      }
      if (token.open)
        this.#faults.push({
          line: this.#lineAt(token.from) + 1,
          reason: `the ${token.kind === 'comment' ? 'comment' : 'quoted text'} opened here is not closed: everything after it is read as its text`,
        })
      if (token.kind === 'comment') {
        if (start < 0) this.#add('comment', token.from, token.to, null)
        continue
      }
      const mark = text.charAt(token.from)
      if (token.kind !== 'mark' || mark === '[' || mark === ']') {
        if (start < 0) start = token.from
        end = token.to
        continue
      }
      this.#endStatement(mark, token.from, start, end)
      start = -1
      if (this.#tooDeep) {
        this.#add('frame', at, text.length, null)
        break
      }
    }
    if (start >= 0) this.#endOfText(start, end)
    for (const node of this.#open)
      this.#faults.push({
        line: node.line,
        reason: 'the block opened here is not closed: the listing stops before its end',
      })
    this.#coverTo(this.#lines.length, null)
    return {
      dialect: 'braced',
      lines: this.#lines,
      nodes: this.#top,
      faults: this.#faults,
      unread: this.#unread,
      hostname: this.#hostname,
    }
  }

  /** `;`, `{` or `}`: the words from `start` to `end` are a statement; `start` is -1 where there are none. */
  #endStatement(mark: string, at: number, start: number, end: number): void {
    if (mark === '}') {
      if (start >= 0) this.#unfinished(start, end)
      this.#add('separator', at, at + 1, null)
      if (!this.#open.pop())
        this.#faults.push({ line: this.#lineAt(at) + 1, reason: 'a closing brace without a block' })
      return
    }
    if (start < 0) {
      this.#add('separator', at, at + 1, null)
      if (mark === '{') this.#faults.push({ line: this.#lineAt(at) + 1, reason: 'a block without a name' })
      return
    }
    const node = this.#add('command', start, at + 1, this.#lines.text.slice(start, end))
    if (mark === '{') {
      this.#tooDeep = this.#open.length >= MAX_DEPTH
      if (this.#tooDeep)
        this.#faults.push({
          line: node.line,
          reason: `blocks are nested deeper than ${MAX_DEPTH}: nothing was read from here on`,
        })
      else this.#open.push(node)
      return
    }
    const name =
      this.#open.length === 1 && this.#open[0]?.text === 'system' ? /^host-name "?([^"\s]+)"?$/.exec(node.text) : null
    this.#hostname ??= name?.[1] ?? null
  }

  #endOfText(start: number, end: number): void {
    const line = this.#lineAt(start) + 1
    this.#unfinished(start, end)
    this.#faults.push({ line, reason: 'the statement that begins here has no end: the listing stops within it' })
  }

  /** Words without `;`: kept where they stand, not taken for a statement. */
  #unfinished(start: number, end: number): void {
    this.#unread.push(this.#lineAt(start) + 1)
    this.#add('frame', start, end, null)
  }

  /** Whether the line at `from` belongs to the session around the listing, not to the listing. */
  #readFrame(from: number): boolean {
    const to = this.#lines.endOf(this.#lineAt(from))
    const line = this.#lines.text.slice(from, Math.min(to, from + 300)).trimEnd()
    const paged = PAGING.test(line)
    const erred = this.#open.length === 0 && ERROR.test(line)
    if (!paged && !erred && !FRAME.test(line)) return false
    this.#add('frame', from, from + line.length, null)
    if (paged)
      this.#faults.push({
        line: this.#line + 1,
        reason: 'a paging prompt was captured with the listing: lines may be missing here',
      })
    if (erred)
      this.#faults.push({ line: this.#line + 1, reason: `the device answered with an error: ${line.slice(0, 80)}` })
    return true
  }

  #isLineStart(offset: number): boolean {
    const line = this.#lineAt(offset)
    return this.#lines.text.slice(this.#lines.starts[line] ?? 0, offset).trim() === ''
  }

  /** Index of the line that holds an offset; offsets are asked for in rising order. */
  #lineAt(offset: number): number {
    while (this.#line + 1 < this.#lines.length && (this.#lines.starts[this.#line + 1] ?? 0) <= offset) this.#line++
    while (this.#line > 0 && (this.#lines.starts[this.#line] ?? 0) > offset) this.#line--
    return this.#line
  }

  #add(kind: NodeKind, from: number, to: number, statement: string | null): GrowingNode {
    const line = this.#lineAt(from) + 1
    const lastLine = this.#lineAt(Math.max(from, to - 1)) + 1
    const parent = this.#open.at(-1) ?? null
    this.#coverTo(line - 1, parent)
    return this.#append(
      kind,
      statement ?? this.#lines.text.slice(from, Math.min(to, from + 200)),
      line,
      lastLine,
      parent,
    )
  }

  /** Lines without a token are a separator, so that every line belongs to a node. */
  #coverTo(line: number, parent: GrowingNode | null): void {
    if (line > this.#covered) this.#append('separator', '', this.#covered + 1, line, parent)
  }

  #append(kind: NodeKind, text: string, line: number, lastLine: number, parent: GrowingNode | null): GrowingNode {
    const node: GrowingNode = {
      kind,
      text,
      line,
      lastLine,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    }
    if (parent) addChild(parent, node)
    else this.#top.push(node)
    this.#covered = Math.max(this.#covered, lastLine)
    return node
  }
}

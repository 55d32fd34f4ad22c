import {
  NO_NODES,
  PhysicalLines,
  addChild,
  type Fault,
  type GrowingNode,
  type LocatedTree,
  type NodeKind,
} from '../../syntax/located-tree.ts'
import { wordsOf } from '../words.ts'

/** Deeper nesting than any device prints. */
const MAX_DEPTH = 64
/** A text in quotes that runs on for longer is no certificate and no banner: its quote was never meant to open one. */
const MAX_TEXT_LINES = 2_000

/** What a line begins with that says something within a block. */
const SAYS = new Set(['set', 'unset', 'append', 'delete', 'purge', 'rename', 'clone', 'move', 'select', 'unselect'])
const FRAME = /^(?:[\w.-]+(?: \([^)]*\))? [#$%>](?: |$)|-{2,3}\s?more\s?-{2,3}|command (?:fail|parse error))/i

/**
 * Reads a listing of edit blocks: `config …` opens a part of the configuration, `edit NAME` an entry of a table in it,
 * `set` states a value; `next` and `end` close them. Never throws; takes time linear in the length of the text.
 */
export function readEditBlocks(text: string): LocatedTree {
  return new Reader(text).read()
}

class Reader {
  readonly #lines: PhysicalLines
  readonly #top: GrowingNode[] = []
  readonly #open: GrowingNode[] = []
  readonly #faults: Fault[] = []
  readonly #unread: number[] = []
  #hostname: string | null = null
  #tooDeep = 0

  constructor(text: string) {
    this.#lines = new PhysicalLines(text)
  }

  read(): LocatedTree {
    for (let at = 0; at < this.#lines.length;) at = this.#line(at)
    const left = this.#open[0]
    if (left)
      this.#faults.push({
        line: left.line,
        reason: `the block "${left.text}" opened here has no end: the listing stops before its end`,
      })
    return {
      dialect: 'editblocks',
      lines: this.#lines,
      nodes: this.#top,
      faults: this.#faults,
      unread: this.#unread,
      hostname: this.#hostname,
    }
  }

  /** Reads what begins on a line; returns the line that follows it. */
  #line(at: number): number {
    const text = this.#lines.at(at).trim()
    const word = text.split(/\s/, 1)[0]?.toLowerCase() ?? ''
    if (text === '') return this.#mark('separator', text, at)
    if (text.startsWith('#')) return this.#mark('comment', text, at)
    if (word === 'config' || word === 'edit') return this.#opener(word, text, at)
    if (word === 'next' || word === 'end') return this.#closer(word, text, at)
    if (SAYS.has(word) && this.#open.length > 0) return this.#statement(text, at)
    if (!FRAME.test(text)) this.#unread.push(at + 1)
    return this.#mark('frame', text, at)
  }

  #opener(word: string, text: string, at: number): number {
    const within = this.#open.at(-1)
    // An entry stands in a part of the configuration, a part at the top or in an entry or a part.
    const fits = word === 'config' || (within !== undefined && /^config\s/i.test(within.text))
    if (!fits || wordsOf(text).words.length < 2) {
      this.#unread.push(at + 1)
      return this.#mark('frame', text, at)
    }
    if (this.#open.length >= MAX_DEPTH) {
      if (this.#tooDeep++ === 0)
        this.#faults.push({ line: at + 1, reason: `blocks nest deeper than ${MAX_DEPTH} levels here` })
      return this.#mark('frame', text, at)
    }
    this.#open.push(this.#node('command', text, at, at))
    return at + 1
  }

  #closer(word: string, text: string, at: number): number {
    if (this.#tooDeep > 0) this.#tooDeep--
    else if (word === 'next') {
      if (!/^edit\s/i.test(this.#open.at(-1)?.text ?? '')) this.#unread.push(at + 1)
      else this.#open.pop()
    } else {
      // `end` closes an entry that is still open together with its table.
      if (/^edit\s/i.test(this.#open.at(-1)?.text ?? '')) this.#open.pop()
      if (!this.#open.pop()) this.#unread.push(at + 1)
    }
    return this.#mark('separator', text, at)
  }

  /** A statement runs on where a quote is open: certificates and banners span lines. */
  #statement(text: string, at: number): number {
    let last = at
    if (wordsOf(text).open !== null) {
      last = this.#endOfText(text, at)
      if (last < 0) {
        this.#faults.push({ line: at + 1, reason: 'the quote opened here is not closed' })
        last = at
      }
    }
    this.#node('command', text, at, last, last > at ? this.#lines.range(at + 1, last + 1) : undefined)
    if (
      this.#hostname === null &&
      /^set\s+hostname\s/i.test(text) &&
      /^config\s+system\s+global$/i.test(this.#around())
    )
      this.#hostname = wordsOf(text).words[2] ?? null
    return last + 1
  }

  #around(): string {
    return this.#open.map(({ text }) => text).join(' ')
  }

  /** The line on which an open quote ends; -1 where none is near. */
  #endOfText(text: string, at: number): number {
    const quote = wordsOf(text).open ?? '"'
    for (let line = at + 1; line < Math.min(this.#lines.length, at + MAX_TEXT_LINES); line++)
      if (endsQuote(this.#lines.at(line), quote)) return line
    return -1
  }

  #mark(kind: NodeKind, text: string, at: number): number {
    this.#node(kind, text, at, at)
    return at + 1
  }

  #node(kind: NodeKind, text: string, from: number, to: number, body?: string): GrowingNode {
    const parent = this.#open.at(-1) ?? null
    const node: GrowingNode = {
      kind,
      text,
      line: from + 1,
      lastLine: to + 1,
      parent,
      children: NO_NODES,
      block: undefined,
      command: null,
      body,
    }
    if (parent) addChild(parent, node)
    else this.#top.push(node)
    return node
  }
}

/** Whether a line holds the quote that ends a text; those behind a backslash are of the text. */
function endsQuote(line: string, quote: string): boolean {
  for (let at = 0; at < line.length; at++) {
    if (line[at] === '\\') at++
    else if (line[at] === quote) return true
  }
  return false
}

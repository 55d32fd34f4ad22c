import type { Command } from './command.ts'

/**
 * The located tree: what a reader makes of a text. Nothing is lost (`lines` is the text as it stands) and every node
 * knows where it stands, so that whatever is decided later can show its lines.
 */
export type NodeKind =
  /** A command of the dialect, with or without a block beneath it. */
  | 'command'
  /** A mark that only structures the listing: `!`, `exit`, `end`, an empty line. */
  | 'separator'
  /** A remark of the listing itself, such as `! Last configuration change at …`. */
  | 'comment'
  /** What surrounds the listing: prompts, echoed commands, headers, paging residue, error lines. */
  | 'frame'

export interface ConfigNode {
  readonly kind: NodeKind
  /** The line without indentation and line ending; of free text its first line. */
  readonly text: string
  /** First line of the node itself, counted from 1. */
  readonly line: number
  /** Last line of the node itself (free text may span many); its children come after it. */
  readonly lastLine: number
  readonly parent: ConfigNode | null
  readonly children: readonly ConfigNode[]
  /** What kind of block this line opens, where the dialect knows it. */
  readonly block: string | undefined
  /** The line as its dialect understands it; null of what is no command. */
  readonly command: Command | null
  /** Content of free text (banner, certificate): a leaf, never read as commands. */
  readonly body: string | undefined
  /** First and last column, counted from 1, where a node shares its line with others. */
  readonly columns?: readonly [from: number, to: number]
}

/** What most nodes have beneath them; a reader gives a node a list of its own with its first child. */
export const NO_NODES: readonly ConfigNode[] = Object.freeze([])

/** A node while its reader still adds to it. */
export interface GrowingNode extends ConfigNode {
  children: readonly ConfigNode[]
}

export function addChild(parent: GrowingNode, child: ConfigNode): void {
  if (parent.children === NO_NODES) parent.children = [child]
  else (parent.children as ConfigNode[]).push(child)
}

/** Why a record is not whole. While there is one, what is absent from the record is not known to be absent. */
export interface Fault {
  readonly line: number
  readonly reason: string
}

export interface LocatedTree {
  readonly dialect: string
  readonly lines: PhysicalLines
  readonly nodes: readonly ConfigNode[]
  readonly faults: readonly Fault[]
  /** Lines that the reader did not understand, counted from 1. */
  readonly unread: readonly number[]
  /** The device's own name, if the text states one. */
  readonly hostname: string | null
}

/** A text by its physical lines, counted from 0, each with its own ending: together they are the text. */
export class PhysicalLines {
  /** Where each line begins in the text. */
  readonly starts: readonly number[]

  constructor(readonly text: string) {
    const starts: number[] = []
    // Some terminals end lines by a carriage return alone.
    const ending = text.includes('\n') ? '\n' : '\r'
    for (let from = 0; from < text.length;) {
      starts.push(from)
      const at = text.indexOf(ending, from)
      from = at < 0 ? text.length : at + 1
    }
    this.starts = starts
  }

  get length(): number {
    return this.starts.length
  }

  /** Where the line ends, its ending included. */
  endOf(line: number): number {
    return this.starts[line + 1] ?? this.text.length
  }

  /** Index of the line that holds an offset. */
  lineAt(offset: number): number {
    let low = 0
    let high = this.starts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if ((this.starts[middle] ?? 0) <= offset) low = middle
      else high = middle - 1
    }
    return low
  }

  at(line: number): string {
    return this.range(line, line + 1)
  }

  /** Lines `from` to before `to`, as they stand. */
  range(from: number, to: number): string {
    return this.text.slice(this.starts[from] ?? this.text.length, this.starts[to] ?? this.text.length)
  }
}

/** Visits every node in the order of its lines. Iterative: nesting depth is whatever the input says. */
export function* walk(nodes: readonly ConfigNode[]): Generator<ConfigNode> {
  const pending: ConfigNode[] = [...nodes].reverse()
  for (let node = pending.pop(); node; node = pending.pop()) {
    yield node
    for (let i = node.children.length - 1; i >= 0; i--) {
      const child = node.children[i]
      if (child) pending.push(child)
    }
  }
}

/** Writes a tree back, node by node. For every text, `writeTree(read(text)) === text`. */
export function writeTree(tree: LocatedTree): string {
  const out: string[] = []
  // Several nodes may stand on one line; a line is written once.
  let written = 0
  for (const node of walk(tree.nodes)) {
    if (node.lastLine <= written) continue
    out.push(tree.lines.range(Math.max(written, node.line - 1), node.lastLine))
    written = node.lastLine
  }
  return out.join('')
}

/** Last line of a node together with the commands beneath it. */
export function lastLineOf(node: ConfigNode): number {
  let at = node
  for (let last = lastCommand(at); last; last = lastCommand(at)) at = last
  return at.lastLine
}

function lastCommand(node: ConfigNode): ConfigNode | undefined {
  return node.children.findLast((child) => child.kind === 'command')
}

import type { Command } from './command.ts'

/**
 * The located tree: what a reader makes of a text. Nothing is lost (joining `lines` gives the text back) and every
 * node knows where it stands, so that whatever is decided later can show its lines.
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
  readonly children: ConfigNode[]
  /** What kind of block this line opens, where the dialect knows it. */
  readonly block: string | undefined
  /** The line as its dialect understands it; null of what is no command. */
  readonly command: Command | null
  /** Content of free text (banner, certificate): a leaf, never read as commands. */
  readonly body: string | undefined
}

/** Why a record is not whole. While there is one, what is absent from the record is not known to be absent. */
export interface Fault {
  readonly line: number
  readonly reason: string
}

export interface LocatedTree {
  readonly dialect: string
  /** Physical lines, each with its own ending. */
  readonly lines: readonly string[]
  readonly nodes: readonly ConfigNode[]
  readonly faults: readonly Fault[]
  /** Lines that the reader did not understand, counted from 1. */
  readonly unread: readonly number[]
  /** The device's own name, if the text states one. */
  readonly hostname: string | null
}

/** Splits a text into physical lines that keep their endings: `splitLines(t).join('') === t`. */
export function splitLines(text: string): string[] {
  const lines: string[] = []
  let from = 0
  while (from < text.length) {
    const at = text.indexOf('\n', from)
    const to = at < 0 ? text.length : at + 1
    lines.push(text.slice(from, to))
    from = to
  }
  return lines
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
  for (const node of walk(tree.nodes)) out.push(...tree.lines.slice(node.line - 1, node.lastLine))
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

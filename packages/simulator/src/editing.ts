/** Configuration lines as they are typed, one after the other: each is looked at, entered into the text, or refused. */
import { dialectById, type Dialect, type LocatedTree } from '@jurybox/core'
import type { ConfigNode } from '@jurybox/core/syntax'
import { typedWord, wordsOfPhrase } from '@jurybox/core/dialects'
import { lastLineOf, type Command } from '@jurybox/core/syntax'

/** What became of a line. */
export type Entered = { readonly ok: true } | { readonly ok: false; readonly why: string }

const DONE: Entered = { ok: true }
const refused = (why: string): Entered => ({ ok: false, why })

/** Text whose lines can be removed and inserted, counted from 1. */
class Lines {
  readonly #lines: string[]

  constructor(text: string) {
    this.#lines = text.replace(/\r/g, '').replace(/\n$/, '').split('\n')
  }

  get text(): string {
    return `${this.#lines.join('\n')}\n`
  }

  at(line: number): string {
    return this.#lines[line - 1] ?? ''
  }

  remove(from: number, to: number): void {
    this.#lines.splice(from - 1, to - from + 1)
  }

  /** @param line the new lines come after it; 0 for the beginning */
  insert(line: number, lines: readonly string[]): void {
    this.#lines.splice(line, 0, ...lines)
  }
}

/** A configuration that is being typed at, in the words of its dialect. */
export interface Editing {
  /** The configuration as it would be listed now. */
  readonly text: string
  /** The block that the next line belongs to, as the prompt shows it; empty at the top. */
  readonly place: string
  enter(line: string): Entered
  /** Leaves the block around; false at the top. */
  leave(): boolean
}

/** @throws Error where a dialect is not typed at */
export function editingOf(text: string, dialectId: string): Editing {
  const dialect = dialectById(dialectId)
  const listing = dialect?.session.configuring?.listing
  if (dialect && listing === 'lines') return new IndentedEditing(text, dialect)
  if (dialect && listing !== undefined) return new PathEditing(text, dialect)
  throw new Error(`The dialect ${dialectId} is not typed at`)
}

/** A command with its node. */
interface Standing {
  readonly node: ConfigNode
  readonly command: Command
}

class IndentedEditing implements Editing {
  /** Texts of the openers of the block, outermost first. */
  #block: readonly string[] = []
  /** Free text that goes on until its mark comes again. */
  #free: { readonly lines: string[]; readonly mark: string } | null = null

  constructor(
    public text: string,
    readonly dialect: Dialect,
  ) {}

  get place(): string {
    return this.#block.at(-1)?.split(' ')[0] ?? ''
  }

  leave(): boolean {
    if (this.#block.length === 0) return false
    this.#block = this.#block.slice(0, -1)
    return true
  }

  enter(line: string): Entered {
    if (this.#free) return this.#goOn(line, this.#free)
    const banner = /^banner \S+ (\^\S|\S)/.exec(line.trim())
    if (banner?.[1] !== undefined && !line.trim().slice(banner[0].length).includes(banner[1])) {
      this.#free = { lines: [line.trim()], mark: banner[1] }
      return DONE
    }
    return this.#entered(line.trim(), [])
  }

  #goOn(line: string, free: { readonly lines: string[]; readonly mark: string }): Entered {
    free.lines.push(line)
    if (!line.includes(free.mark)) return DONE
    this.#free = null
    return this.#entered(free.lines[0] ?? '', free.lines.slice(1))
  }

  /** @param more lines of free text behind it */
  #entered(line: string, more: readonly string[]): Entered {
    // A line that opens a block at the top is typed there from within any block.
    let block = this.#block
    let read = this.#readIn(block, line, more)
    while (block.length > 0 && (read === null || (!read.understood && this.#readIn([], line, more)?.understood))) {
      block = block.slice(0, -1)
      read = this.#readIn(block, line, more)
    }
    if (!read?.understood)
      return refused(
        `“${line}” is no command ` +
          `${this.#block.length > 0 ? `of “${this.#block.at(-1)}”, nor of the device` : 'of the device'}`,
      )
    const { command, opens } = read
    const tree = this.dialect.read(this.text)
    const around = this.#nodeOf(tree, block)
    const standing = commandsIn(around ? around.children : tree.nodes)
    const lines = new Lines(this.text)
    if (command.negated || command.reset) this.#takeOut(command, line, standing, around, tree, lines, block)
    else this.#putIn(command, opens, [line, ...more], standing, around, tree, lines, block)
    this.text = lines.text
    this.#block = opens && !command.negated && !command.reset ? [...block, command.text] : block
    return DONE
  }

  /** A line as its dialect understands it within a block; null where it opens a block beside it. */
  #readIn(
    block: readonly string[],
    line: string,
    more: readonly string[],
  ): { readonly command: Command; readonly opens: boolean; readonly understood: boolean } | null {
    const openers = block.map((text, depth) => `${' '.repeat(depth)}${text}`)
    const tree = this.dialect.read([...openers, `${' '.repeat(block.length)}${line}`, ...more, ''].join('\n'))
    let nodes: readonly ConfigNode[] = tree.nodes
    for (let depth = 0; depth < block.length; depth += 1)
      nodes = nodes.findLast(({ kind }) => kind === 'command')?.children ?? []
    const node = nodes.find((one) => one.line === block.length + 1)
    if (!node?.command) return null
    return {
      command: node.command,
      opens: node.block !== undefined || node.command.blockKey !== null,
      understood: tree.unread.length === 0,
    }
  }

  #nodeOf(tree: LocatedTree, block: readonly string[]): ConfigNode | null {
    let node: ConfigNode | null = null
    let nodes = tree.nodes
    for (const text of block) {
      node = nodes.find(({ command }) => command?.text === text && !command.negated) ?? null
      if (!node) return null
      nodes = node.children
    }
    return node
  }

  #takeOut(
    command: Command,
    line: string,
    standing: readonly Standing[],
    around: ConfigNode | null,
    tree: LocatedTree,
    lines: Lines,
    block: readonly string[],
  ): void {
    const away = standing.filter(({ command: other }) =>
      other.negated
        ? command.reset && other.text === command.text
        : other.text === command.text ||
          other.text.startsWith(`${command.text} `) ||
          (other.key !== null && other.key === command.key),
    )
    for (const { node } of away.toReversed()) lines.remove(node.line, lastLineOf(node))
    const said = standing.some(({ command: other }) => other.negated && other.text === command.text)
    if (command.reset || said || command.blockKey !== null || this.dialect.isOrdered(around?.block)) return
    this.#insert(
      [line],
      command,
      standing.filter((one) => !away.includes(one)),
      around,
      tree,
      lines,
      block,
    )
  }

  #putIn(
    command: Command,
    opens: boolean,
    written: readonly string[],
    standing: readonly Standing[],
    around: ConfigNode | null,
    tree: LocatedTree,
    lines: Lines,
    block: readonly string[],
  ): void {
    const same = standing.find(({ command: other }) => !other.negated && other.text === command.text)
    const denied = standing.filter(
      ({ command: other }) => other.negated && `${command.text} `.startsWith(`${other.text} `),
    )
    const replaced = standing.filter(
      (one) =>
        !opens && one !== same && one.command.key !== null && one.command.key === command.key && !one.command.negated,
    )
    if (same && (opens || written.length === 1)) {
      for (const { node } of denied.toReversed()) lines.remove(node.line, lastLineOf(node))
      return
    }
    const gone = [...denied, ...replaced, ...(same ? [same] : [])].sort((a, b) => b.node.line - a.node.line)
    const place = gone.at(-1)
    for (const { node } of gone) lines.remove(node.line, lastLineOf(node))
    if (place) lines.insert(place.node.line - 1, indented(written, block.length))
    else this.#insert(written, command, standing, around, tree, lines, block)
  }

  /** Behind the last that begins with the same word, numbered lines in their order, else at the end of the block. */
  #insert(
    written: readonly string[],
    command: Command,
    standing: readonly Standing[],
    around: ConfigNode | null,
    tree: LocatedTree,
    lines: Lines,
    block: readonly string[],
  ): void {
    const number = this.dialect.isOrdered(around?.block) ? /^\d+/.exec(command.text)?.[0] : undefined
    const behind =
      number === undefined
        ? undefined
        : standing.findLast((one) => Number(/^\d+/.exec(one.command.text)?.[0] ?? Infinity) <= Number(number))
    const alike = number === undefined ? standing.findLast((one) => one.command.first === command.first) : behind
    const end = tree.nodes.findLast(({ kind, text }) => kind === 'separator' && text === 'end')
    const last = alike?.node ?? (number === undefined ? standing.at(-1)?.node : undefined)
    const after = last
      ? lastLineOf(last)
      : around
        ? around.lastLine
        : end
          ? end.line - 1
          : lines.text.split('\n').length - 1
    lines.insert(Math.min(after, end && !around ? end.line - 1 : after), indented(written, block.length))
  }
}

function commandsIn(nodes: readonly ConfigNode[]): Standing[] {
  return nodes.flatMap((node) => (node.command ? [{ node, command: node.command }] : []))
}

/** Free text stands as it was typed. */
function indented([first = '', ...more]: readonly string[], depth: number): string[] {
  return [`${' '.repeat(depth)}${first}`, ...more]
}

/** Statements as paths: `set` adds one, `delete` removes one with all beneath it. */
class PathEditing implements Editing {
  readonly place = ''

  constructor(
    public text: string,
    readonly dialect: Dialect,
  ) {}

  leave(): boolean {
    return false
  }

  enter(line: string): Entered {
    const [verb = '', ...words] = wordsOfPhrase(line.trim())
    if (verb !== 'set' && verb !== 'delete') return refused(`“${line.trim()}” begins with neither “set” nor “delete”`)
    if (words.length === 0) return refused(`“${verb}” says nothing of what`)
    if (words.some((word) => /[{};\n]/.test(word))) return refused('a word holds a brace or a semicolon')
    const lines = new Lines(this.text)
    const done =
      this.dialect.session.configuring?.listing === 'paths'
        ? this.#line(verb, words, lines)
        : this.#block(verb, words, lines)
    if (done.ok) this.text = lines.text
    return done
  }

  #line(verb: string, words: readonly string[], lines: Lines): Entered {
    const path = words.map(typedWord).join(' ')
    const key = this.dialect.keyOf(path, undefined)
    const standing = this.dialect
      .read(this.text)
      .nodes.flatMap((node) =>
        node.kind === 'command' && node.text.startsWith('set ')
          ? [{ node, path: wordsOfPhrase(node.text).slice(1).map(typedWord).join(' ') }]
          : [],
      )
    if (verb === 'delete') {
      const away = standing.filter((one) => one.path === path || one.path.startsWith(`${path} `))
      if (away.length === 0) return refused(`“${path}” is not set`)
      for (const { node } of away.toReversed()) lines.remove(node.line, node.lastLine)
      return DONE
    }
    if (standing.some((one) => one.path === path)) return DONE
    const replaced = standing.find((one) => this.dialect.keyOf(one.path, undefined) === key)
    if (replaced) lines.remove(replaced.node.line, replaced.node.lastLine)
    const alike = standing.findLast((one) => one.path.split(' ')[0] === words[0])
    lines.insert(replaced ? replaced.node.line - 1 : (alike?.node.line ?? standing.at(-1)?.node.line ?? 0), [
      `set ${path}`,
    ])
    return DONE
  }

  #block(verb: string, words: readonly string[], lines: Lines): Entered {
    const tree = this.dialect.read(this.text)
    const { around, within, left } = this.#deepest(tree, words)
    const path = words.map(typedWord).join(' ')
    if (verb === 'delete') {
      const nodes = around === null ? tree.nodes : around.children
      const away =
        left.length === 0 && around
          ? [around]
          : nodes.filter((node) => node.kind === 'command' && startsWith(wordsOfPhrase(node.text), left))
      if (away.length === 0) return refused(`“${path}” is not set`)
      for (const node of away.toReversed()) lines.remove(node.line, lastOf(node))
      return DONE
    }
    const leaves = (around === null ? tree.nodes : around.children).filter((node) => node.kind === 'command')
    if (left.length === 0 || leaves.some((node) => wordsOfPhrase(node.text).join(' ') === left.join(' '))) return DONE
    const key = this.dialect.keyOf(path, undefined)
    const replaced = leaves.find(
      (node) =>
        node.children.length === 0 &&
        this.dialect.keyOf([...within, ...wordsOfPhrase(node.text)].map(typedWord).join(' '), undefined) === key,
    )
    const statement = `${' '.repeat(4 * depthOf(around))}${left.map(typedWord).join(' ')};`
    if (replaced) {
      lines.remove(replaced.line, replaced.lastLine)
      lines.insert(replaced.line - 1, [statement])
    } else if (around === null) lines.insert(lines.text.split('\n').length - 1, [statement])
    else if (around.children.length === 0) {
      // A statement becomes a block with the rest of the path in it.
      const head = lines.at(around.line).replace(/;\s*$/, '')
      lines.remove(around.line, around.lastLine)
      lines.insert(around.line - 1, [`${head} {`, statement, `${/^\s*/.exec(head)?.[0] ?? ''}}`])
    } else lines.insert(lastOf(around) - 1, [statement])
    return DONE
  }

  /** The innermost block whose path the words begin with, and the words that are left. */
  #deepest(
    tree: LocatedTree,
    words: readonly string[],
  ): { around: ConfigNode | null; within: string[]; left: string[] } {
    let around: ConfigNode | null = null
    let left = [...words]
    for (let nodes = tree.nodes; left.length > 0;) {
      const node = nodes.find(
        (one) => one.kind === 'command' && !one.text.includes('[') && startsWith(left, wordsOfPhrase(one.text)),
      )
      if (!node) break
      around = node
      left = left.slice(wordsOfPhrase(node.text).length)
      nodes = node.children
    }
    return { around, within: words.slice(0, words.length - left.length), left }
  }
}

function startsWith(words: readonly string[], head: readonly string[]): boolean {
  return head.length > 0 && head.length <= words.length && head.every((word, i) => words[i] === word)
}

/** Last line of a block, its closing brace included. */
function lastOf(node: ConfigNode): number {
  const last = node.children.at(-1)
  return last ? Math.max(node.lastLine, lastOf(last)) : node.lastLine
}

function depthOf(node: ConfigNode | null): number {
  return node === null ? 0 : 1 + depthOf(node.parent)
}

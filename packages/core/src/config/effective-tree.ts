import type { Dialect } from './dialect.ts'
import type { ConfigNode, LocatedTree } from './located-tree.ts'

/** One command that holds, with every place it comes from. */
export class Statement {
  #words: readonly string[] | null = null

  constructor(
    /** Normalised: single spaces, canonical spelling, without `no`. */
    readonly text: string,
    /** Whether it stands as `no …`. */
    readonly negated: boolean,
    /** The lines it stands on: one, or the openers of all blocks merged into this one. */
    readonly nodes: readonly ConfigNode[],
    readonly block: string | undefined,
    readonly scope: Scope | null,
  ) {}

  /** Split once, however many patterns ask. */
  get words(): readonly string[] {
    this.#words ??= this.text.split(' ')
    return this.#words
  }
}

/** The commands that hold at one level: the device's own, or those of one block. */
export class Scope {
  #byFirst: Map<string, Statement[]> | null = null

  constructor(
    readonly statements: readonly Statement[],
    /** Openers of the block; none at the top. */
    readonly openers: readonly ConfigNode[],
  ) {}

  /** Statements whose first word (case aside) is the given one. */
  startingWith(word: string): readonly Statement[] {
    // A block of a few lines is looked through faster than it is sorted.
    if (this.statements.length <= FEW) return this.statements.filter((statement) => beginsWith(statement.text, word))
    this.#byFirst ??= groupByFirstWord(this.statements)
    return this.#byFirst.get(word) ?? []
  }
}

/**
 * What holds after all lines were entered in their order: `no X` takes away an earlier `X` by its key words and the
 * other way round, a command with one value replaces its earlier value, repeated blocks and overlapping ranges of
 * lines merge. Several trees are read as if entered one after the other.
 */
export function effectiveTree(trees: readonly LocatedTree[], dialect: Dialect): Scope {
  return scopeOf(trees.flatMap((tree) => tree.nodes), [], undefined, dialect)
}

/** No device prints as many blocks of numbered lines; more are kept as they stand, without merging. */
const MAX_RANGES = 256

interface Entry {
  readonly text: string
  /** Null where even equal lines all stay. */
  readonly key: string | null
  readonly negated: boolean
  /** `default X`: X in either form is taken away and nothing is put in its place. */
  readonly reset: boolean
  readonly node: ConfigNode
  readonly blockKey: string | null
}

function scopeOf(nodes: readonly ConfigNode[], openers: readonly ConfigNode[], block: string | undefined, dialect: Dialect): Scope {
  const ordered = dialect.isOrdered(block)
  const entries: Entry[] = []
  const ranges: Entry[] = []
  for (const node of nodes) {
    if (node.kind !== 'command') continue
    const entry = entryOf(node, block, ordered, dialect)
    if (entry.blockKey !== null && ranges.length < MAX_RANGES && dialect.rangeOf(entry.text)) ranges.push(entry)
    else entries.push(entry)
  }
  const kept = whatHolds(entries)
  const statements = mergeBlocks(entries, kept, dialect)
  if (ranges.length > 0) statements.push(...mergeRanges(ranges, dialect))
  return new Scope(ordered ? inSequence(statements) : statements, openers)
}

function entryOf(node: ConfigNode, block: string | undefined, ordered: boolean, dialect: Dialect): Entry {
  let text = node.text
  if (node.body === undefined && (text.includes('  ') || text.includes('\t'))) text = text.replace(/\s+/g, ' ')
  let negated = false
  let reset = false
  const code = text.charCodeAt(0) | 0x20
  if (code === 110 && /^no /i.test(text)) {
    negated = true
    text = text.slice(3)
  } else if (code === 100 && /^default (?!-)/i.test(text)) {
    reset = true
    text = text.slice(8)
  }
  text = dialect.canonical(text)
  const opener = dialect.blockKey(text, node.block ?? (negated || reset ? dialect.blockOpenedBy(text) : undefined))
  const number = ordered ? /^\d+/.exec(text)?.[0] : undefined
  const key = opener !== null ? `block ${opener}` : number !== undefined ? `number ${number}` : ordered ? null : dialect.keyOf(text, block)
  return { text, key, negated, reset, node, blockKey: opener }
}

/**
 * Which entries survive the later ones. Works backwards with sets of what later lines took away, so that its cost is
 * linear in the words however many lines contradict each other.
 */
function whatHolds(entries: readonly Entry[]): boolean[] {
  const contested = new Set<string>()
  for (const entry of entries) if (entry.negated || entry.reset) contested.add(firstWord(entry.text))
  const laterKeys = new Set<string>()
  const takenAway = new Set<string>()
  const restated = new Set<string>()
  const kept = new Array<boolean>(entries.length).fill(true)
  for (let i = entries.length - 1; i >= 0; i--) {
    const entry = entries[i]
    if (!entry) continue
    const { key } = entry
    const isBlock = entry.blockKey !== null
    const fought = contested.has(firstWord(entry.text))
    // Repetitions of a block merge; only `no` takes the earlier ones away.
    let holds = isBlock && !entry.negated && !entry.reset ? !takenAway.has(key ?? '') : key === null || !laterKeys.has(key)
    if (holds && fought && !isBlock) {
      if (entry.negated || entry.reset) holds = !restated.has(entry.text)
      else holds = !someWordPrefix(entry.text, (prefix) => takenAway.has(prefix))
    }
    kept[i] = holds && !entry.reset
    if (key !== null) laterKeys.add(key)
    if (!fought) continue
    if (entry.negated || entry.reset) takenAway.add(isBlock ? (key ?? '') : entry.text)
    else someWordPrefix(entry.text, (prefix) => void restated.add(prefix))
  }
  return kept
}

/** Calls `visit` with each prefix of whole words, the whole text last, until it answers true. */
function someWordPrefix(text: string, visit: (prefix: string) => boolean | void): boolean {
  let words = 0
  for (let at = text.indexOf(' '); at >= 0; at = text.indexOf(' ', at + 1)) {
    if (visit(text.slice(0, at)) === true) return true
    // No command has more key words than this; the bound keeps a line of a million words cheap.
    if (++words === 24) break
  }
  return visit(text) === true
}

function mergeBlocks(entries: readonly Entry[], kept: readonly boolean[], dialect: Dialect): Statement[] {
  const statements: Statement[] = []
  const byKey = new Map<string, { at: number; text: string; block: string | undefined; nodes: ConfigNode[] }>()
  entries.forEach((entry, i) => {
    if (!kept[i]) return
    const { node, negated, text } = entry
    const isBlock = !negated && (entry.blockKey !== null || node.children.some((child) => child.kind === 'command'))
    if (!isBlock) {
      statements.push(new Statement(text, negated, [node], node.block, null))
      return
    }
    const key = entry.key ?? `${text} ${i}`
    const merged = byKey.get(key)
    if (merged) merged.nodes.push(node)
    else {
      byKey.set(key, { at: statements.length, text, block: node.block, nodes: [node] })
      // Its place is taken now; what it holds is known when all its repetitions are.
      statements.push(new Statement(text, negated, [node], node.block, null))
    }
  })
  for (const { at, text, block, nodes } of byKey.values()) statements[at] = blockStatement(text, block, nodes, dialect)
  return statements
}

function blockStatement(text: string, block: string | undefined, nodes: readonly ConfigNode[], dialect: Dialect): Statement {
  const children = nodes.length === 1 ? (nodes[0]?.children ?? []) : nodes.flatMap((node) => node.children)
  return new Statement(text, false, nodes, block, scopeOf(children, nodes, block, dialect))
}

/** Cuts overlapping ranges where they begin and end, and merges what was said of each stretch in its order. */
function mergeRanges(entries: readonly Entry[], dialect: Dialect): Statement[] {
  const statements: Statement[] = []
  const spans = entries.flatMap((entry) => {
    const range = dialect.rangeOf(entry.text)
    return range ? [{ ...range, entry }] : []
  })
  for (const prefix of new Set(spans.map((span) => span.prefix))) {
    const own = spans.filter((span) => span.prefix === prefix)
    const cuts = [...new Set(own.flatMap((span) => [span.from, span.to + 1]))].sort((a, b) => a - b)
    cuts.slice(0, -1).forEach((from, i) => {
      const to = (cuts[i + 1] ?? from) - 1
      let said: Entry[] = []
      for (const span of own) {
        if (span.from > from || span.to < to) continue
        said = span.entry.negated || span.entry.reset ? [] : [...said, span.entry]
      }
      const nodes = said.map((entry) => entry.node)
      if (nodes.length > 0) statements.push(blockStatement(from === to ? `${prefix} ${from}` : `${prefix} ${from} ${to}`, nodes[0]?.block, nodes, dialect))
    })
  }
  return statements
}

/** Numbered entries go to their place; entries without a number stay behind the one they were entered after. */
function inSequence(statements: readonly Statement[]): Statement[] {
  let number = 0
  return statements
    .map((statement, at) => {
      const stated = /^(\d+) /.exec(statement.text)?.[1]
      number = stated === undefined ? number + 10 : Number(stated)
      return { statement, number, at }
    })
    .sort((a, b) => a.number - b.number || a.at - b.at)
    .map(({ statement }) => statement)
}

function firstWord(text: string): string {
  const space = text.indexOf(' ')
  return space < 0 ? text : text.slice(0, space)
}

const FEW = 12

function beginsWith(text: string, word: string): boolean {
  const { length } = word
  if (text.length > length && text.charCodeAt(length) !== 32) return false
  return text.startsWith(word) || text.slice(0, length).toLowerCase() === word
}

function groupByFirstWord(statements: readonly Statement[]): Map<string, Statement[]> {
  const groups = new Map<string, Statement[]>()
  for (const statement of statements) {
    const word = firstWord(statement.text).toLowerCase()
    const group = groups.get(word)
    if (group) group.push(statement)
    else groups.set(word, [statement])
  }
  return groups
}

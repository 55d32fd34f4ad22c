import { Scope, Statement } from './scope.ts'
import { Command } from './command.ts'
import type { Syntax } from './syntax.ts'
import type { ConfigNode, LocatedTree } from './located-tree.ts'

/**
 * What holds after all lines were entered in their order: `no X` takes away an earlier `X` by its key words and the
 * other way round, a command with one value replaces its earlier value, repeated blocks and overlapping ranges of
 * lines merge. Several trees are read as if entered one after the other.
 */
export function effectiveTree(trees: readonly LocatedTree[], dialect: Syntax): Scope {
  return scopeOf(
    trees.flatMap((tree) => tree.nodes),
    [],
    undefined,
    dialect,
  )
}

/** No device prints as many blocks of numbered lines; more are kept as they stand, without merging. */
const MAX_RANGES = 256

/** A node that is a command. */
type Entry = ConfigNode & { readonly command: Command }

function isEntry(node: ConfigNode): node is Entry {
  return node.command !== null
}

function scopeOf(
  nodes: readonly ConfigNode[],
  openers: readonly ConfigNode[],
  block: string | undefined,
  dialect: Syntax,
): Scope {
  const entries: Entry[] = []
  const ranges: Entry[] = []
  let contested = false
  for (const node of nodes) {
    if (!isEntry(node)) continue
    const { command } = node
    contested ||= command.negated || command.reset
    if (command.blockKey !== null && ranges.length < MAX_RANGES && dialect.rangeOf(command.text)) ranges.push(node)
    else entries.push(node)
  }
  const statements = mergeBlocks(contested ? whatHolds(entries) : lastOfEach(entries), dialect)
  if (ranges.length > 0) statements.push(...mergeRanges(ranges, dialect))
  return new Scope(dialect.isOrdered(block) ? inSequence(statements) : statements, openers)
}

/** Where nothing is taken back, the last command of each key holds, and every repetition of a block. */
function lastOfEach(entries: readonly Entry[]): readonly Entry[] {
  // Most blocks are short: comparing each with those after it is cheaper than a set.
  if (entries.length <= FEW)
    return entries.some((entry, i) => isReplaced(entry.command, entries, i))
      ? entries.filter((entry, i) => !isReplaced(entry.command, entries, i))
      : entries
  const later = new Set<string>()
  return entries
    .toReversed()
    .filter(
      ({ command: { key, blockKey } }) => key === null || blockKey !== null || (!later.has(key) && later.add(key)),
    )
    .reverse()
}

function isReplaced({ key, blockKey }: Command, entries: readonly Entry[], at: number): boolean {
  if (key === null || blockKey !== null) return false
  for (let i = at + 1; i < entries.length; i++) if (entries[i]?.command.key === key) return true
  return false
}

/**
 * Which entries survive the later ones. Works backwards with sets of what later lines took away, so that its cost is
 * linear in the words however many lines contradict each other.
 */
function whatHolds(entries: readonly Entry[]): readonly Entry[] {
  const contested = new Set<string>()
  for (const { command } of entries) if (command.negated || command.reset) contested.add(firstWord(command.text))
  const laterKeys = new Set<string>()
  const takenAway = new Set<string>()
  const restated = new Set<string>()
  const kept: Entry[] = []
  for (const entry of entries.toReversed()) {
    const { key, text, blockKey, negated, reset } = entry.command
    const isBlock = blockKey !== null
    const against = negated || reset
    const fought = contested.has(firstWord(text))
    // Repetitions of a block merge; only `no` takes the earlier ones away.
    let holds = isBlock && !against ? !takenAway.has(key ?? '') : key === null || !laterKeys.has(key)
    if (holds && fought && !isBlock) {
      if (against) holds = !restated.has(text)
      else holds = !someWordPrefix(text, (prefix) => takenAway.has(prefix))
    }
    if (holds && !reset) kept.push(entry)
    if (key !== null) laterKeys.add(key)
    if (!fought) continue
    if (against) takenAway.add(isBlock ? (key ?? '') : text)
    else someWordPrefix(text, (prefix) => void restated.add(prefix))
  }
  return kept.reverse()
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

interface Merging {
  readonly at: number
  readonly command: Command
  readonly nodes: ConfigNode[]
}

function mergeBlocks(entries: readonly Entry[], dialect: Syntax): Statement[] {
  const statements: Statement[] = []
  let merging: Map<string, Merging> | null = null
  for (const node of entries) {
    const { command } = node
    const isBlock = !command.negated && (command.blockKey !== null || node.children.some(isEntry))
    if (isBlock) {
      const key = command.key ?? `${command.text} ${node.line}`
      merging ??= new Map()
      const merged = merging.get(key)
      if (merged) {
        merged.nodes.push(node)
        continue
      }
      merging.set(key, { at: statements.length, command, nodes: [node] })
    }
    // The place of a block is taken now; what it holds is known when all its repetitions are.
    statements.push(new Statement(command, [node], node.block, null))
  }
  if (merging)
    for (const { at, command, nodes } of merging.values()) statements[at] = blockStatement(command, nodes, dialect)
  return statements
}

function blockStatement(command: Command, nodes: readonly ConfigNode[], dialect: Syntax): Statement {
  const block = nodes[0]?.block
  const children = nodes.length === 1 ? (nodes[0]?.children ?? []) : nodes.flatMap((node) => node.children)
  return new Statement(command, nodes, block, scopeOf(children, nodes, block, dialect))
}

/** Cuts overlapping ranges where they begin and end, and merges what was said of each stretch in its order. */
function mergeRanges(entries: readonly Entry[], dialect: Syntax): Statement[] {
  const statements: Statement[] = []
  const spans = entries.flatMap((entry) => {
    const range = dialect.rangeOf(entry.command.text)
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
        said = span.entry.command.negated || span.entry.command.reset ? [] : [...said, span.entry]
      }
      if (said.length === 0) return
      const text = from === to ? `${prefix} ${from}` : `${prefix} ${from} ${to}`
      statements.push(blockStatement(new Command(text, false, false, `block ${text}`, text, false), said, dialect))
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

import { Command } from '../../syntax/command.ts'
import { Scope, Statement } from '../../syntax/scope.ts'
import type { ConfigNode, LocatedTree } from '../../syntax/located-tree.ts'
import { lineOf, wordsOf } from '../words.ts'

/** What one `set` has stated. */
interface Setting {
  readonly values: readonly string[]
  readonly nodes: readonly ConfigNode[]
}

/** A part of the configuration, or an entry of a table, while it is entered line by line. */
class Block {
  /** By the words of their openers: `config system global`, `edit 5`. */
  blocks = new Map<string, Block>()
  readonly settings = new Map<string, Setting>()
  readonly nodes: ConfigNode[] = []

  constructor(readonly opener: readonly string[]) {}

  enter(opener: readonly string[], node: ConfigNode): Block {
    const key = lineOf(opener)
    let block = this.blocks.get(key)
    if (!block) this.blocks.set(key, (block = new Block(opener)))
    block.nodes.push(node)
    return block
  }

  get isEmpty(): boolean {
    return this.blocks.size === 0 && this.settings.size === 0
  }
}

/** Entries that are put elsewhere in a table: no listing does, and a person does so a few times. */
const MOST_MOVES = 1_000

/** What holds after all lines were entered in their order. */
export class BlockTree {
  readonly #top = new Block([])
  #moves = 0

  enter(trees: readonly LocatedTree[]): this {
    for (const tree of trees) this.#enterAll(tree.nodes, this.#top)
    return this
  }

  #enterAll(nodes: readonly ConfigNode[], within: Block): void {
    for (const node of nodes) {
      if (node.kind !== 'command') continue
      const { words } = wordsOf(node.body === undefined ? node.text : `${node.text}\n${node.body}`)
      const [verb = '', name = ''] = words
      switch (verb.toLowerCase()) {
        case 'config':
        case 'edit':
          this.#enterAll(node.children, within.enter([verb.toLowerCase(), ...words.slice(1)], node))
          break
        case 'set':
          within.settings.set(name, { values: words.slice(2), nodes: [node] })
          break
        case 'append':
        case 'select': {
          const before = within.settings.get(name)
          within.settings.set(name, {
            values: [...(before?.values ?? []), ...words.slice(2)],
            nodes: [...(before?.nodes ?? []), node],
          })
          break
        }
        case 'unselect': {
          const before = within.settings.get(name)
          if (before)
            within.settings.set(name, {
              values: before.values.filter((value) => !words.slice(2).includes(value)),
              nodes: [...before.nodes, node],
            })
          break
        }
        case 'unset':
          within.settings.delete(name)
          break
        case 'delete':
          for (const one of words.slice(1)) within.blocks.delete(lineOf(['edit', one]))
          break
        case 'purge':
          within.blocks.clear()
          break
        case 'move':
          this.#move(within, name, words[2] ?? '', words[3] ?? '')
          break
        case 'rename':
          rename(within, name, words[3] ?? '')
          break
        case 'clone':
          clone(within, name, words[3] ?? '', node)
          break
      }
    }
  }

  #move(within: Block, name: string, where: string, other: string): void {
    const [key, beside] = [lineOf(['edit', name]), lineOf(['edit', other])]
    const block = within.blocks.get(key)
    if (!block || !within.blocks.has(beside) || key === beside || ++this.#moves > MOST_MOVES) return
    const order: [string, Block][] = []
    for (const [at, one] of within.blocks) {
      if (at === key) continue
      if (at === beside && where === 'before') order.push([key, block])
      order.push([at, one])
      if (at === beside && where === 'after') order.push([key, block])
    }
    within.blocks = new Map(order)
  }

  /** One statement for each value that is stated, and for each entry that states none. */
  scope(maybeSecret: (text: string) => boolean): Scope {
    const statements: Statement[] = []
    const visit = (block: Block, around: readonly string[]): void => {
      for (const [name, { values, nodes }] of block.settings)
        statements.push(statementOf([...around, 'set', name, ...values], nodes, maybeSecret))
      for (const inner of block.blocks.values()) {
        const path = [...around, ...inner.opener]
        if (inner.isEmpty && inner.opener[0] === 'edit') statements.push(statementOf(path, inner.nodes, maybeSecret))
        visit(inner, path)
      }
    }
    for (const block of this.#parts()) visit(block, block.opener)
    return new Scope(statements, [])
  }

  /**
   * The parts of the device. Where it is divided into virtual devices and there is one of them, its parts are those of
   * the device; of several, each keeps its name around it, and is not taken for another.
   */
  #parts(): Block[] {
    const virtual = new Set(
      [...this.#top.blocks.values()]
        .filter(({ opener }) => isDivision(opener))
        .flatMap(({ blocks }) => [...blocks.keys()]),
    )
    return [...this.#top.blocks.values()].flatMap((block) => {
      const { opener, blocks } = block
      if (opener.length === 2 && opener[1] === 'global') return [...blocks.values()]
      if (!isDivision(opener) || virtual.size > 1) return [block]
      return [...blocks.values()].flatMap((one) => [...one.blocks.values()])
    })
  }
}

function isDivision(opener: readonly string[]): boolean {
  return opener.length === 2 && opener[1] === 'vdom'
}

function rename(within: Block, from: string, to: string): void {
  const block = within.blocks.get(lineOf(['edit', from]))
  if (!block || to === '') return
  within.blocks = new Map(
    [...within.blocks].map(([key, one]) => {
      if (one !== block) return [key, one]
      const named = new Block(['edit', to])
      named.nodes.push(...block.nodes)
      named.blocks = block.blocks
      for (const [name, setting] of block.settings) named.settings.set(name, setting)
      return [lineOf(named.opener), named]
    }),
  )
}

function clone(within: Block, from: string, to: string, node: ConfigNode): void {
  const block = within.blocks.get(lineOf(['edit', from]))
  if (!block || to === '') return
  const made = within.enter(['edit', to], node)
  for (const [name, setting] of block.settings) made.settings.set(name, setting)
  for (const [key, inner] of block.blocks) made.blocks.set(key, inner)
}

function statementOf(
  words: readonly string[],
  nodes: readonly ConfigNode[],
  maybeSecret: (text: string) => boolean,
): Statement {
  const text = lineOf(words)
  return new Statement(new Command(text, false, false, text, null, maybeSecret(text), words), nodes, undefined, null)
}

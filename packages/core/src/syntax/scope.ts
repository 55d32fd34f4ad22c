import { secretsAnywhere } from './secret-words.ts'
import type { Command } from './command.ts'
import type { ConfigNode } from './located-tree.ts'

/** What finds the secrets of a line. */
type SecretFinder = { secretsIn(text: string, block: string | null): readonly (readonly [from: number, to: number])[] }

/** One command that holds, with every place it comes from. */
export class Statement {
  constructor(
    readonly command: Command,
    /** The lines it stands on: one, or the openers of all blocks merged into this one. */
    readonly nodes: readonly ConfigNode[],
    readonly block: string | undefined,
    readonly scope: Scope | null,
  ) {}

  /** Normalised: single spaces, canonical spelling, without `no`. */
  get text(): string {
    return this.command.text
  }

  /** Whether it stands as `no …`. */
  get negated(): boolean {
    return this.command.negated
  }
}

/** A part of the hierarchy that is there and does not hold, with the statements that would, were it activated. */
export interface InactivePart {
  readonly path: string
  readonly statements: readonly string[]
}

/** The commands that hold at one level: the device's own, or those of one block. */
export class Scope {
  #byFirst: Map<string, Statement[]> | null = null
  #secrets: ReadonlySet<string> | null = null

  constructor(
    readonly statements: readonly Statement[],
    /** Openers of the block; none at the top. */
    readonly openers: readonly ConfigNode[],
    /** What is deactivated, also within what is. */
    readonly inactive: readonly InactivePart[] = [],
  ) {}

  /** Statements whose first word (case aside) is the given one. */
  startingWith(word: string): readonly Statement[] {
    // A block of a few lines is looked through faster than it is sorted.
    if (this.statements.length <= FEW) return this.statements.filter((statement) => statement.command.first === word)
    this.#byFirst ??= groupByFirstWord(this.statements)
    return this.#byFirst.get(word) ?? []
  }

  /** The secrets that the lines of this level hold, blocks beneath it left out. */
  secrets(dialect: SecretFinder): ReadonlySet<string> {
    this.#secrets ??= secretsIn(this, dialect)
    return this.#secrets
  }

  /** All statements that can begin with a word: those of `startingWith`, and in a short block others besides. */
  candidates(word: string): readonly Statement[] {
    return this.statements.length <= FEW ? this.statements : this.startingWith(word)
  }
}

const NO_SECRETS: ReadonlySet<string> = new Set()

function secretsIn({ statements, openers }: Scope, dialect: SecretFinder): ReadonlySet<string> {
  const marked = statements.filter(({ command }) => command.mayHide)
  if (marked.length === 0) return NO_SECRETS
  const block = openers[0]?.text ?? null
  return new Set(
    marked.flatMap(({ text }) =>
      [...dialect.secretsIn(text, block), ...secretsAnywhere(text)].map(([from, to]) => text.slice(from, to)),
    ),
  )
}

function groupByFirstWord(statements: readonly Statement[]): Map<string, Statement[]> {
  const groups = new Map<string, Statement[]>()
  for (const statement of statements) {
    const word = statement.command.first
    const group = groups.get(word)
    if (group) group.push(statement)
    else groups.set(word, [statement])
  }
  return groups
}

const FEW = 12

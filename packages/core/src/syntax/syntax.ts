import type { Scope } from './scope.ts'
import type { NoiseRule } from './noise.ts'
import type { ConfigNode, LocatedTree } from './located-tree.ts'

export interface Typing {
  /** Whether a statement is a path that can be removed with all beneath it. */
  readonly byPath: boolean
  /** Puts a statement in. */
  add(text: string): string
  /** Takes a standing statement out. */
  remove(text: string): string
  /** Brings back that nothing is said; `key` is what the statement replaces. */
  forget(key: string): string
}

/** A member of a series; all statements of one member stand together. */
export interface SeriesPlace {
  readonly series: string
  readonly member: string
}

/** A statement whose number says only where it stands: numbering anew changes nothing. */
export interface NumberedPlace {
  readonly series: string
  readonly number: number
  /** Its text without the number. */
  readonly without: string
}

/** What a dialect knows of its own commands as text. */
export interface Syntax {
  readonly id: string
  readonly title: string
  /** From 0 (not this dialect) to 1 (surely): how much of the text reads as this dialect. */
  recognise(text: string): number
  read(text: string): LocatedTree
  /** What holds after the lines of some listings were entered one after the other. */
  evaluate(trees: readonly LocatedTree[]): Scope
  /**
   * What a command replaces: two commands with one key cannot both hold, the later one wins. The whole text where a
   * command collects; null where even equal lines all stay, because their order matters. `text` is normalised (single
   * spaces, no `no`); `block` is the kind of block around it.
   */
  keyOf(text: string, block: string | undefined): string | null
  /** The kind of block that a line opens. */
  blockOpenedBy(text: string): string | undefined
  /** The identity of a block, under which repetitions of it merge; `null` where the line opens none. */
  blockKey(text: string, block: string | undefined): string | null
  /** Blocks whose children keep their order and may be numbered (access lists, route maps). */
  isOrdered(block: string | undefined): boolean
  /**
   * Where a statement stands in a series whose order counts although its block keeps none: entries of a numbered access
   * list, terms of a filter. Null where its place means nothing.
   */
  placeIn(text: string): SeriesPlace | null
  /** The place of a statement that says its own number; left out where no statement does. */
  numberedPlaceIn?(text: string, block: string | undefined): NumberedPlace | null
  /** What differs by itself; left out where nothing does. */
  readonly noise?: readonly NoiseRule[]
  /** A range of numbered lines (`line vty 0 4`), whose overlapping blocks merge number by number. */
  rangeOf(text: string): { prefix: string; from: number; to: number } | null
  /** What holds after commands were typed on a device that has these listings. */
  apply(trees: readonly LocatedTree[], commands: readonly string[]): Scope
  /** How statements are typed in configuration mode. */
  readonly typing: Typing
  /** The group that a statement is inherited from; null where it is stated at its own place. */
  inheritedFrom(node: ConfigNode): string | null
  /** Rewrites a spelling to the one that the rules know (`logging A` to `logging host A`). */
  canonical(text: string): string
  /** The text of the blocks around a node, where that of its parent alone does not say what it stands in. */
  around?(node: ConfigNode): string | null
  /** Whether a line holds a word that goes with secrets; where not, `secretsIn` finds none. */
  maybeSecret(text: string): boolean
  /** Character ranges of secrets in a line; `block` is the text of the line that opens the block around it. */
  secretsIn(text: string, block: string | null): readonly [from: number, to: number][]
}

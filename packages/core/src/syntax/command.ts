import { looksSecret } from './secret-words.ts'

/** One command as its dialect understands it, whatever stands around it. */
export class Command {
  #words: readonly string[] | null = null
  #lowerWords: readonly string[] | null = null
  #mayHide: boolean | null = null
  /** The first word in lower case: what patterns look candidates up by. */
  readonly first: string
  readonly lowerText: string
  /** Place and finding by turns: of the many readers few look at one command, and a list with gaps is large. */
  readonly #findings: unknown[] = []

  constructor(
    /** Normalised: single spaces, canonical spelling, without `no`. */
    readonly text: string,
    /** Whether it stands as `no …`. */
    readonly negated: boolean,
    /** `default X`: X and its negated form are removed, and nothing replaces them. */
    readonly reset: boolean,
    /** What it replaces; null where even equal lines all stay. */
    readonly key: string | null,
    /** The identity of the block it opens; null where it opens none. */
    readonly blockKey: string | null,
    /**
     * Whether it holds a word that goes with secrets, in any dialect or its own: most do not, and need no closer look.
     */
    readonly maybeSecret: boolean,
    /** Its words, where some hold spaces: then `text` cannot be split. */
    words: readonly string[] | null = null,
  ) {
    this.#words = words
    this.lowerText = text.toLowerCase()
    const space = text.indexOf(' ')
    this.first = space < 0 ? this.lowerText : this.lowerText.slice(0, space)
  }

  get words(): readonly string[] {
    this.#words ??= this.text.split(' ')
    return this.#words
  }

  /** Whether something in it may be a secret, by its dialect or by its looks. */
  get mayHide(): boolean {
    return (this.#mayHide ??= this.maybeSecret || looksSecret(this.text))
  }

  get lowerWords(): readonly string[] {
    this.#lowerWords ??= this.lowerText === this.text ? this.words : this.words.map((word) => word.toLowerCase())
    return this.#lowerWords
  }

  /** What a reader has found in it before, at its own place (`findingsPlace`): lines of one estate repeat. */
  finding(place: number): unknown {
    const all = this.#findings
    for (let i = 0; i < all.length; i += 2) if (all[i] === place) return all[i + 1]
    return undefined
  }

  keepFinding(place: number, found: unknown): void {
    const all = this.#findings
    let i = 0
    while (i < all.length && all[i] !== place) i += 2
    all[i] = place
    all[i + 1] = found
  }
}

let places = 0

/** A place among the findings of every command, for one reader that lives as long as the program. */
export function findingsPlace(): number {
  return places++
}

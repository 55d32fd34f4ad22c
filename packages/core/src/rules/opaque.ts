import { mayHoldSecret, secretsAnywhere, type Mask, type Scope, type Statement, type Syntax } from '../syntax/index.ts'
import type { Worded } from '../model/index.ts'

/**
 * Values that everybody tries first: that one of them is used is the finding itself, so that rules may name them. Of
 * every other secret a rule learns nothing but whether two are equal. Common practice.
 */
const TRIED_FIRST: ReadonlySet<string> = new Set([
  'public',
  'private',
  'admin',
  'default',
  'password',
  'secret',
  'community',
  'test',
  'guest',
  'root',
  '0',
  '7',
])

/** How a hash or an obscured value begins: this tells of its kind, and nothing of what it hides. */
const KIND = /^\$\w{1,10}\$/

const MARK = /‹secret:[\da-f]+›/g

/**
 * The lines of a device as conditions compare them. Secrets stand as their marks: equal ones are equal, and no pattern
 * or expression finds out what they say. Commands that are proposed get them back.
 */
export class OpaqueLines {
  readonly #shown = new WeakMap<Statement, Worded>()
  readonly #byMark = new Map<string, string>()

  constructor(
    readonly dialect: Syntax,
    readonly mask: Mask,
  ) {}

  /** The words of a statement. @param scope the level on which it stands */
  wordsOf(statement: Statement, scope: Scope): Worded {
    const { command } = statement
    if (!command.mayHide) return command
    let shown = this.#shown.get(statement)
    if (!shown) this.#shown.set(statement, (shown = this.#hidden(statement, scope)))
    return shown
  }

  /** A statement as text, `no` included. */
  textOf(statement: Statement, scope: Scope): string {
    const words = this.wordsOf(statement, scope)
    const text = words === statement.command ? statement.text : words.words.join(' ')
    return statement.negated ? `no ${text}` : text
  }

  /** Puts the secrets of this device in place of their marks. */
  reveal(text: string): string {
    return text.includes('‹secret:') ? text.replace(MARK, (mark) => this.#byMark.get(mark) ?? mark) : text
  }

  #hidden({ command }: Statement, { openers }: Scope): Worded {
    const { text } = command
    const ranges = [
      ...this.dialect.secretsIn(text, openers[0]?.text ?? null),
      ...(mayHoldSecret(text) ? secretsAnywhere(text) : []),
    ]
    if (ranges.length === 0) return command
    const words =
      command.words.join(' ') === text
        ? this.#byPlace(command.words, ranges)
        : this.#byValue(
            command.words,
            ranges.map(([from, to]) => text.slice(from, to)),
          )
    if (words.every((word, i) => word === command.words[i])) return command
    const lowerWords = words.map((word) => word.toLowerCase())
    return { first: command.first, words, lowerWords, lowerText: lowerWords.join(' ') }
  }

  /** Words that a range touches, where the text is the words with one space between them. */
  #byPlace(words: readonly string[], ranges: readonly (readonly [number, number])[]): string[] {
    let at = 0
    return words.map((word) => {
      const from = at
      const to = from + word.length
      at = to + 1
      const range = ranges.find(([start, end]) => start < to && end > from)
      if (!range) return word
      const [start, end] = [Math.max(range[0], from) - from, Math.min(range[1], to) - from]
      return word.slice(0, start) + this.#mark(word.slice(start, end)) + word.slice(end)
    })
  }

  #byValue(words: readonly string[], secrets: readonly string[]): string[] {
    return words.map((word) =>
      secrets.reduce(
        (shown, secret) =>
          shown === secret || shown === `"${secret}"` || secret === `"${shown}"` ? this.#mark(shown) : shown,
        word,
      ),
    )
  }

  #mark(secret: string): string {
    if (TRIED_FIRST.has(secret.toLowerCase()) || secret.startsWith('‹')) return secret
    const kind = KIND.exec(secret)?.[0] ?? ''
    const hidden = secret.slice(kind.length)
    if (hidden === '') return secret
    const mark = this.mask(hidden)
    this.#byMark.set(mark, hidden)
    return kind + mark
  }
}

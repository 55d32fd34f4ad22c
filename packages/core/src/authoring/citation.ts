import type { Condition } from '../rules/index.ts'

/** A word of a cited line and what a rule shall ask of it. */
export interface CitedWord {
  readonly text: string
  /**
   * `same`: this word; `any`: any one word; `named`: any one, known by `name` from there on; `value`: what the
   * benchmark's value `name` says.
   */
  readonly use: 'same' | 'any' | 'named' | 'value'
  readonly name: string
}

/** A line that holds on a device, with the openers of the blocks around it, outermost first. */
export interface CitedLine {
  readonly line: number
  /** As it stands, free text beneath it included, without indentation; secrets are marks. */
  readonly text: string
  readonly negated: boolean
  readonly words: readonly CitedWord[]
  readonly blocks: readonly (readonly CitedWord[])[]
}

/** What shall be so about the cited lines. */
export const MODES = ['has', 'hasNot', 'exactly', 'order'] as const
export type Mode = (typeof MODES)[number]

export interface Citation {
  readonly dialect: string
  readonly mode: Mode
  readonly lines: readonly CitedLine[]
}

/** Words that mean something in a pattern, or that a pattern cannot hold. */
const SPECIAL = /^(?:\*|\.\.\.|no)$|[<>{}\s]/

/** Whether a word can stand in a pattern as it is. */
export function isPlain(text: string): boolean {
  return text !== '' && !SPECIAL.test(text)
}

/** The pattern that asks for a line or a block. */
export function patternOf(words: readonly CitedWord[], negated = false): string {
  const parts = words.map(({ text, use, name }) =>
    use === 'named'
      ? `<${name}${kindOf(text)}>`
      : use === 'value'
        ? `<${seen(name)}${kindOf(text)}>`
        : use === 'any' || !isPlain(text)
          ? '*'
          : text,
  )
  return `${negated ? 'no ' : ''}${parts.join(' ')}`
}

/** By which name the word is known that is compared with a value. */
function seen(name: string): string {
  return `${name}_there`
}

function kindOf(text: string): string {
  return /^\d+$/.test(text) ? ':int' : ''
}

/** What the values that some words name must be, as CEL; undefined where none names one. */
function whereOf(words: readonly CitedWord[]): string | undefined {
  const asked = words.filter(({ use }) => use === 'value').map(({ name }) => `${seen(name)} == ${name}`)
  return asked.length === 0 ? undefined : asked.join(' && ')
}

/**
 * The condition under which all is well.
 * @param within false: the blocks are looked up by whatever asks, as a rule that judges each block does
 * @throws Error where the lines cannot be asked for in this way
 */
export function conditionFrom({ mode, lines }: Citation, within: boolean): Condition {
  const [first] = lines
  if (!first) throw new Error('Select at least one line')
  const placed = (line: CitedLine): { in?: string[] } =>
    within && line.blocks.length > 0 ? { in: line.blocks.map((block) => patternOf(block)) } : {}
  if (mode === 'has' || mode === 'hasNot') {
    const conditions = lines.map((line): Condition => {
      const pattern = patternOf(line.words, line.negated)
      const where = whereOf(line.words)
      const place = placed(line)
      if (mode === 'hasNot') return { absent: pattern, ...place, ...(where === undefined ? {} : { where }) }
      return where === undefined && place.in === undefined
        ? pattern
        : { line: pattern, ...place, ...(where === undefined ? {} : { where }) }
    })
    return conditions.length === 1 && conditions[0] !== undefined ? conditions[0] : { all: conditions }
  }
  if (!sameBlock(lines)) throw new Error('Lines of different blocks have no order. Select lines of one block')
  if (lines.some(({ words }) => whereOf(words) !== undefined))
    throw new Error('A value can be asked of lines that must be there or must not, not of a set or an order')
  const patterns = lines.map(({ words, negated }) => patternOf(words, negated))
  if (mode === 'exactly')
    return {
      exactly: {
        of: common(lines),
        lines: patterns.length === 1 && patterns[0] !== undefined ? patterns[0] : patterns,
      },
      ...placed(first),
    }
  if (patterns.length < 2) throw new Error('An order needs at least two lines')
  return { order: patterns, ...placed(first) }
}

export function sameBlock(lines: readonly CitedLine[]): boolean {
  return new Set(lines.map(({ blocks }) => JSON.stringify(blocks.map((block) => patternOf(block))))).size === 1
}

/** What the lines of a set have in common: the words with which all of them begin, then anything. */
function common(lines: readonly CitedLine[]): string {
  const all = lines.map(({ words }) => words.map((word) => patternOf([word])))
  const [first = []] = all
  let length = 0
  while (length < first.length && all.every((words) => words[length] === first[length])) length++
  const own = all.length === 1 ? Math.max(1, first.length - 1) : length
  if (own === 0 || lines.some(({ negated }) => negated !== lines[0]?.negated))
    throw new Error('A set needs lines that begin with the same word')
  return `${lines[0]?.negated ? 'no ' : ''}${[...first.slice(0, own), '...'].join(' ')}`
}

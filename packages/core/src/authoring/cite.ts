import { dialectById } from '../dialects/index.ts'
import { MaskedLines, maskLine, type LocatedTree, type Mask, type Statement, type Scope } from '../syntax/index.ts'
import { EffectiveConfig } from '../model/index.ts'
import { isPlain, type CitedLine, type CitedWord } from './citation.ts'

export interface Cited {
  readonly lines: readonly CitedLine[]
  /** Lines that cannot be cited, with the reason. */
  readonly left: readonly { readonly line: number; readonly reason: string }[]
}

/**
 * Lines of a configuration as they hold, with the blocks around them. A secret is never cited: in its place stands any
 * word.
 * @param numbers counted from 1
 * @throws Error for a record that is no configuration
 */
export function citeLines(tree: LocatedTree, numbers: readonly number[], mask: Mask): Cited {
  const dialect = dialectById(tree.dialect)
  if (!dialect) throw new Error('Only configuration lines can be cited. Use a state condition for outputs')
  const wanted = new Set(numbers)
  const lines = new Map<number, CitedLine>()
  const wordsOf = ({ command, text }: Statement, around: Statement | undefined): CitedWord[] => {
    const words = command.maybeSecret ? maskLine(text, around?.text ?? null, dialect, mask).split(' ') : command.words
    // A number at the head of a line is its place, and not part of what it says.
    const open = (word: string, i: number): boolean =>
      !isPlain(word) || word.includes('‹secret:') || (i === 0 && words.length > 1 && /^\d+$/.test(word))
    return words.map((word, i) => ({
      text: word.includes('‹secret:') ? '‹secret›' : word,
      use: open(word, i) ? 'any' : 'same',
      name: '',
    }))
  }
  const shown = new MaskedLines(tree, dialect, mask)
  const visit = ({ statements }: Scope, blocks: readonly Statement[]): void => {
    for (const statement of statements) {
      for (const { line, lastLine } of statement.nodes) {
        // Several statements may stand on one line; the first of them is cited.
        if (!wanted.has(line) || lines.has(line)) continue
        lines.set(line, {
          line,
          text: shown.range(line, lastLine).trimStart(),
          negated: statement.negated,
          words: wordsOf(statement, blocks.at(-1)),
          blocks: blocks.map((block, i) => wordsOf(block, blocks[i - 1])),
        })
      }
      if (statement.scope) visit(statement.scope, [...blocks, statement])
    }
  }
  visit(EffectiveConfig.of(tree, dialect).scope, [])
  const ordered = [...wanted].sort((a, b) => a - b)
  return {
    lines: ordered.flatMap((line) => lines.get(line) ?? []),
    left: ordered
      .filter((line) => !lines.has(line))
      .map((line) => ({
        line,
        reason:
          line < 1 || line > tree.lines.length
            ? 'there is no such line'
            : 'no statement of its own holds here: the line only structures the listing, opens a level, or is ' +
              'replaced by another',
      })),
  }
}

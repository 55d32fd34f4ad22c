import type { SeriesPlace, Typing } from '../../syntax/syntax.ts'
import { lineOf, wordsOf } from '../words.ts'

/** A statement by its parts: the blocks that it stands in, and what is set there. */
export interface PathParts {
  /** `config firewall policy`, `edit 5`. */
  readonly blocks: readonly (readonly string[])[]
  /** The name of the value; null of an entry as such. */
  readonly name: string | null
  readonly values: readonly string[]
}

/**
 * Takes a path apart: `config firewall policy edit 5 set action deny`. An entry has one word for its name, so that it
 * may be called by a word that means something here.
 */
export function partsOf(words: readonly string[]): PathParts {
  const blocks: string[][] = []
  let at = 0
  while (at < words.length) {
    const word = words[at] ?? ''
    if (word === 'set') return { blocks, name: words[at + 1] ?? null, values: words.slice(at + 2) }
    if (word === 'edit') {
      blocks.push(words.slice(at, at + 2))
      at += 2
    } else {
      const begin = at++
      while (at < words.length && !['config', 'edit', 'set'].includes(words[at] ?? '')) at++
      blocks.push(words.slice(begin, at))
    }
  }
  return { blocks, name: null, values: [] }
}

/**
 * Tables whose entries are asked in turn, the first that matches deciding (common practice): policies, routes by
 * policy, entries of lists and maps.
 */
const SERIES =
  /^(config (?:firewall (?:policy|policy6|local-in-policy6?|shaping-policy|interface-policy)|router policy6?|(?:.* )?rule)) (edit (?:"(?:[^"\\]|\\.)*"|\S+))/

export function placeIn(text: string): SeriesPlace | null {
  const found = SERIES.exec(text)
  return found ? { series: found[1] ?? '', member: found[2] ?? '' } : null
}

/** What a statement replaces: what was set under the same name in the same block. */
export function keyOf(text: string): string {
  const { words } = wordsOf(text)
  const { blocks, name } = partsOf(words)
  return lineOf([...blocks.flat(), ...(name === null ? [] : ['set', name])])
}

export const typing: Typing = {
  byPath: true,
  add: (text) => typed(text, (name, values) => lineOf(['set', name, ...values])),
  remove: (text) => typed(text, (name) => lineOf(['unset', name])),
  forget: (key) => typed(key, (name) => lineOf(['unset', name])),
}

/** A statement as it is typed, within the blocks that it stands in. */
function typed(text: string, line: (name: string, values: readonly string[]) => string): string {
  const { blocks, name, values } = partsOf(wordsOf(text).words)
  const entry = blocks.at(-1)
  // An entry as such: it is there, or it is deleted from its table.
  if (name === null && entry?.[0] === 'edit' && line('x', []).startsWith('unset'))
    return within(blocks.slice(0, -1), [lineOf(['delete', entry[1] ?? ''])])
  return within(blocks, name === null ? [] : [line(name, values)])
}

function within(blocks: readonly (readonly string[])[], inner: readonly string[]): string {
  const lines: string[] = []
  blocks.forEach((block, depth) => lines.push(`${' '.repeat(depth)}${lineOf(block)}`))
  for (const line of inner) lines.push(`${' '.repeat(blocks.length)}${line}`)
  for (let depth = blocks.length - 1; depth >= 0; depth--)
    lines.push(`${' '.repeat(depth)}${blocks[depth]?.[0] === 'edit' ? 'next' : 'end'}`)
  return lines.join('\n')
}

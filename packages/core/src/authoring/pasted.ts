import { dialectById } from '../dialects/index.ts'
import { parsePrefix } from '../model/index.ts'
import { readRecord } from '../snapshot/index.ts'
import type { Condition } from '../rules/index.ts'
import { isPlain, patternOf, type CitedLine } from './citation.ts'

/**
 * A pasted part of a listing as one condition: each line in its block; the lines of a block whose order counts, such as
 * an access list, in this order with nothing between them.
 * @throws Error where nothing in it is a statement
 */
export function pastedBlock(text: string, dialectId: string): Condition {
  const dialect = dialectById(dialectId)
  if (!dialect) throw new Error(`There is no dialect "${dialectId}"`)
  const { statements } = dialect.evaluate([readRecord(text, dialectId)])
  if (statements.length === 0) throw new Error('The pasted text has no statement of this dialect')
  const [only] = statements
  if (statements.length === 1 && only?.scope && dialect.isOrdered(only.block)) {
    const lines = only.scope.statements.map((statement) => ({
      words: statement.command.words.map(wordOf),
      negated: statement.negated,
    }))
    const patterns = lines.map(({ words, negated }) => patternOf(words, negated))
    const all = lines.every(({ words }) => words.every(({ text: word }) => isPlain(word)))
    if (patterns.length > 1 && all)
      return { order: patterns, contiguous: true, in: [patternOf(only.command.words.map(wordOf))] }
  }
  return { holds: text.trimEnd() }
}

function wordOf(text: string): CitedLine['words'][number] {
  return { text, use: 'same', name: '' }
}

/**
 * A pasted list of prefixes as an exact set: lines such as the one that serves as an example, one for each prefix and
 * no other.
 * The example's first prefix, or address with its mask or wildcard bits, is where the prefixes stand.
 * @throws Error that names the entry that is no prefix, or says that the line holds no address
 */
export function pastedPrefixes(text: string, like: CitedLine): Condition {
  const entries = text
    .split('\n')
    .map(withoutPlace)
    .join('\n')
    .split(/[\s,;]+/)
    .filter(Boolean)
  if (entries.length === 0) throw new Error('Paste at least one prefix, such as 10.0.0.0/8')
  const form = formOf(like)
  const lines = entries.map((entry) => {
    const written = form.write(entry)
    if (written === null) throw new Error(`"${entry}" is not a prefix such as ${form.such}`)
    return patternOf([...form.before, ...written.map(wordOf), ...form.after], like.negated)
  })
  const of = patternOf(
    [
      ...form.before,
      ...(form.write(entries[0] ?? '')?.map((): CitedLine['words'][number] => ({ text: '', use: 'any', name: '' })) ??
        []),
      ...form.after,
    ],
    like.negated,
  )
  const place = like.blocks.length > 0 ? { in: like.blocks.map((block) => patternOf(block)) } : {}
  return { exactly: { of, lines: [...new Set(lines)] }, ...place }
}

/**
 * A pasted line without what is no part of its entry: its place in a list, what becomes of it, and how often it was
 * met.
 */
function withoutPlace(line: string): string {
  return line.replace(/\(\d+ [a-z ]+\)|\bhitcnt=\d+/gi, '').replace(/^\s*(?:(?:seq\s+)?\d+\s+)?(?:permit|deny)\s+/i, '')
}

/** The words of an entry, with any number where its place stands. */
function anywhere(words: CitedLine['words']): CitedLine['words'] {
  return words.map((word, i) =>
    words[i - 1]?.text === 'seq' && /^\d+$/.test(word.text) ? { text: '', use: 'any', name: '' } : word,
  )
}

/** The words of an entry without how often it was met. */
function withoutHits(words: CitedLine['words']): CitedLine['words'] {
  const at = words.findIndex(({ text }, i) => /^\(\d+$/.test(text) && (words[i + 1]?.text ?? '').endsWith(')'))
  return at < 0 ? words : words.slice(0, at)
}

interface Form {
  readonly before: CitedLine['words']
  readonly after: CitedLine['words']
  readonly such: string
  /** Words of a prefix in this form; null where the text is no prefix of the family. */
  write(prefix: string): string[] | null
}

function formOf({ words }: CitedLine): Form {
  const at = words.findIndex(({ text }) => parsePrefix(text) !== null && /[.:]/.test(text))
  if (at < 0) throw new Error('The example line has no address')
  const own = parsePrefix(words[at]?.text ?? '')
  const next = words[at + 1]?.text ?? ''
  const bits = words[at]?.text.includes('/') ? null : maskForm(next)
  return {
    before: anywhere(words.slice(0, at)),
    after: withoutHits(words.slice(at + (bits ? 2 : 1))),
    such: own?.family === 'ipv6' ? '2001:db8::/32' : '10.0.0.0/8',
    write(prefix) {
      const parsed = parsePrefix(prefix)
      const [address = '', length] = prefix.split('/')
      if (!parsed || parsed.family !== own?.family) return null
      if (bits) return [address, bits(Number(length ?? 32))]
      return [words[at]?.text.includes('/') ? `${address}/${length ?? (parsed.family === 'ipv4' ? 32 : 128)}` : prefix]
    },
  }
}

/** How a word writes the length of a prefix: as a mask (RFC 950) or as wildcard bits; null where it is neither. */
function maskForm(word: string): ((length: number) => string) | null {
  if (!/^\d+\.\d+\.\d+\.\d+$/.test(word)) return null
  const bits = word
    .split('.')
    .map((part) => Number(part).toString(2).padStart(8, '0'))
    .join('')
  const dotted = (value: number): string =>
    [24, 16, 8, 0].map((shift) => Math.floor(value / 2 ** shift) % 256).join('.')
  if (/^1+0*$/.test(bits)) return (length) => dotted(2 ** 32 - 2 ** (32 - length))
  return /^0*1*$/.test(bits) ? (length) => dotted(2 ** (32 - length) - 1) : null
}

import type { DraftRule } from './draft-rule.ts'
import { DEFAULT_DIALECT, dialectById, type ExampleText } from '../dialects/index.ts'
import { conditionInWords, type Condition } from '../rules/index.ts'
import {
  conditionFrom,
  isPlain,
  patternOf,
  sameBlock,
  type Citation,
  type CitedLine,
  type CitedWord,
} from './citation.ts'
import { idFrom } from './text.ts'

/** What a device is named in the examples that come with a rule. */
/**
 * A rule from cited lines, with a remedy where adding or removing them is one, and with examples made of them. Where
 * all lines stand in one block, each such block is judged.
 * @throws Error where the lines cannot be asked for in this way
 */
export function ruleFrom(citation: Citation, title: string): DraftRule {
  const { dialect, mode, lines } = citation
  const example = dialectById(dialect)?.example ?? null
  const blocks = sameBlock(lines) ? (lines[0]?.blocks ?? []) : []
  const each = blocks.length > 0
  const when = conditionFrom(citation, !each)
  const wanted = sentence(conditionInWords(when))
  const inner = blocks.at(-1)
  const rule = {
    id: idFrom(title),
    title,
    topic: 'Own rules',
    severity: 'medium',
    profile: 'base',
    statement: each && inner ? `In each block ${patternOf(inner)}: ${wanted}` : wanted,
    dialects: [dialect],
    ...(each && inner
      ? {
          each: {
            block: patternOf(inner),
            ...(blocks.length > 1 ? { in: blocks.slice(0, -1).map((block) => patternOf(block)) } : {}),
          },
          nothing:
            mode === 'hasNot' || isOpen(inner)
              ? { outcome: 'notapplicable', note: 'There is no such block.' }
              : { outcome: 'fail', note: 'There is no such block.' },
        }
      : {}),
    decide: [
      { id: 'holds', when, outcome: 'pass', note: 'As required.' },
      {
        id: 'differs',
        outcome: 'fail',
        note: mode === 'hasNot' ? 'Not allowed lines are present.' : 'Not as required.',
      },
    ],
    ...remedyOf(citation, blocks.length),
    ...(example ? { examples: examplesOf(citation, example, each && !(inner && isOpen(inner))) } : {}),
  }
  return { rule, values: valuesOf(lines) }
}

/** The same for a condition that was pasted. */
export function ruleOf(when: Condition, dialect: string, title: string): DraftRule {
  return {
    rule: {
      id: idFrom(title),
      title,
      topic: 'Own rules',
      severity: 'medium',
      profile: 'base',
      statement: sentence(conditionInWords(when)),
      dialects: [dialect],
      decide: [
        { id: 'holds', when, outcome: 'pass', note: 'As required.' },
        { id: 'differs', outcome: 'fail', note: 'Not as required.' },
      ],
    },
    values: {},
  }
}

function isOpen(words: readonly CitedWord[]): boolean {
  return words.some(({ use }) => use !== 'same')
}

function sentence(words: string): string {
  return `${words.charAt(0).toUpperCase()}${words.slice(1)}.`
}

function remedyOf({ mode, lines }: Citation, depth: number): { remedy?: unknown } {
  const [first] = lines
  // A line in a block can be typed where that block is what is judged.
  if (!first || depth > 1 || !sameBlock(lines)) return {}
  if (mode === 'hasNot')
    return { remedy: { edits: [{ remove: lines.map(({ words, negated }) => patternOf(words, negated)) }] } }
  const typed = lines.map(
    ({ words, negated }) =>
      `${negated ? 'no ' : ''}${words.map(({ text, use, name }) => (use === 'value' ? `\${${name}}` : text)).join(' ')}`,
  )
  const known = lines.every(({ words }) =>
    words.every(({ text, use }) => use === 'value' || (use === 'same' && isPlain(text))),
  )
  return mode === 'has' && known ? { remedy: { edits: [{ add: typed }] } } : {}
}

function valuesOf(lines: readonly CitedLine[]): Record<string, unknown> {
  const asked = lines.flatMap(({ words }) => words.filter(({ use }) => use === 'value'))
  return Object.fromEntries(
    asked.map(({ name, text }) => [
      name,
      /^\d+$/.test(text)
        ? { type: 'int', title: name, default: Number(text) }
        : { type: 'text', title: name, default: text },
    ]),
  )
}

/** The cited lines as a device would hold them, and a device that holds nothing of the kind. */
function examplesOf({ dialect, mode, lines }: Citation, example: ExampleText, failsWithout: boolean): unknown[] {
  const plain = (words: readonly CitedWord[]): string[] => words.map(({ text }) => (isPlain(text) ? text : 'x'))
  const device = example.head
  const written = example.write(
    lines.map(({ blocks, words, text }) => ({ blocks: blocks.map(plain), words: plain(words), text })),
  )
  const config = `${[device, ...written].join('\n')}\n`
  const bare = `${device}\n`
  const silent =
    mode === 'hasNot'
      ? lines[0]?.blocks.length && sameBlock(lines)
        ? 'notapplicable'
        : 'pass'
      : lines[0]?.blocks.length && sameBlock(lines) && !failsWithout
        ? 'notapplicable'
        : 'fail'
  const own = dialect === DEFAULT_DIALECT ? {} : { dialect }
  return [
    {
      name: mode === 'hasNot' ? 'with the lines' : 'as cited',
      ...own,
      config,
      is: mode === 'hasNot' ? 'fail' : 'pass',
    },
    { name: 'silent', ...own, config: bare, is: silent },
  ]
}

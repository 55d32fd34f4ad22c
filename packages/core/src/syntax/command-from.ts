import { Command } from './command.ts'
import type { Syntax } from './syntax.ts'

/** What turning a line into a command asks of a dialect. */
export type CommandKnowledge = Pick<
  Syntax,
  'canonical' | 'blockKey' | 'blockOpenedBy' | 'isOrdered' | 'keyOf' | 'maybeSecret' | 'numberedPlaceIn' | 'placeIn'
>

/**
 * Understands one line.
 * @param block kind of the block around it; @param opens kind of the block it opens; @param free whether free text
 *   follows, whose spaces mean something
 */
export function commandFrom(
  line: string,
  block: string | undefined,
  opens: string | undefined,
  free: boolean,
  dialect: CommandKnowledge,
): Command {
  let text = line
  if (!free && (text.includes('  ') || text.includes('\t'))) text = text.replace(/\s+/g, ' ')
  let negated = false
  let reset = false
  const code = text.charCodeAt(0) | 0x20
  if (code === 110 && /^no /i.test(text)) {
    negated = true
    text = text.slice(3)
  } else if (code === 100 && /^default (?!-)/i.test(text)) {
    reset = true
    text = text.slice(8)
  }
  text = dialect.canonical(text)
  const blockKey = dialect.blockKey(text, opens ?? (negated || reset ? dialect.blockOpenedBy(text) : undefined))
  return new Command(text, negated, reset, keyFor(text, block, blockKey, dialect), blockKey, dialect.maybeSecret(text))
}

function keyFor(
  text: string,
  block: string | undefined,
  blockKey: string | null,
  dialect: CommandKnowledge,
): string | null {
  if (blockKey !== null) return `block ${blockKey}`
  if (!dialect.isOrdered(block)) return dialect.keyOf(text, block)
  const number = /^\d+/.exec(text)?.[0]
  return number === undefined ? null : `number ${number}`
}

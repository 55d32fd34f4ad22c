import { type Command } from '../../syntax/command.ts'
import { commandFrom, type CommandKnowledge } from '../../syntax/command-from.ts'
import type { NumberedPlace } from '../../syntax/syntax.ts'
import { Recent } from '../../syntax/recent.ts'
import { blockKey, canonical, keyOf } from './commands.ts'
import { mayOpenFreeText } from './free-text.ts'
import { maybeSecret } from './secrets.ts'
import { GLOBAL, blockByKind, blockOpenedBy, type BlockKind } from './vocabulary.ts'

/**
 * Series at the top of a listing or within a block in which the first that matches, or that answers, counts (common
 * practice).
 */
const SERIES =
  /^(access-list \S+|ip(?:v6)? prefix-list \S+|ip as-path access-list \S+|ip (?:ext)?community-list (?:(?:standard|expanded) )?\S+|class|server|server-private) /
/** Entries that say their own number stand by that, wherever their lines do. */
const NUMBERED = /^ip(?:v6)? prefix-list \S+ seq \d+ /

/** Commands whose number says only where they stand, with the words before and behind it (common practice). */
const NUMBERS = [
  /^(?<series>ip(?:v6)? prefix-list \S+) seq (?<number>\d+)(?<rest> .*)$/,
  /^(?<series>route-map \S+)(?<kind> (?:permit|deny)) (?<number>\d+)$/,
  /^(?<series>vlan access-map \S+) (?<number>\d+)$/,
  /^(?<series>crypto (?:dynamic-)?map \S+) (?<number>\d+)(?<rest> .*)?$/,
  /^(?<series>crypto (?:isakmp|ikev1) policy) (?<number>\d+)$/,
]

function numberedPlaceIn(text: string, block: string | undefined): NumberedPlace | null {
  if (block !== undefined && blockByKind.get(block)?.ordered === true) {
    const number = /^\d+(?= )/.exec(text)?.[0]
    return number === undefined ? null : { series: '', number: Number(number), without: text.slice(number.length + 1) }
  }
  for (const form of NUMBERS) {
    const { series = '', kind = '', number, rest = '' } = form.exec(text)?.groups ?? {}
    if (number !== undefined) return { series, number: Number(number), without: `${series}${kind}${rest}` }
  }
  return null
}

export const knowledge: CommandKnowledge = {
  canonical,
  blockKey,
  blockOpenedBy: (text) => blockOpenedBy(text)?.kind,
  isOrdered: (block) => block !== undefined && blockByKind.get(block)?.ordered === true,
  placeIn: (text) => {
    const series = NUMBERED.test(text) ? undefined : SERIES.exec(text)?.[1]
    return series === undefined ? null : { series, member: text }
  },
  numberedPlaceIn,
  keyOf,
  maybeSecret,
}

/** A line in a certain kind of block. */
interface LineWithin {
  readonly block: string | undefined
  readonly command: Command
  /** Whether the vocabulary of that block (or of the top level) knows the line. */
  readonly understood: boolean
}

const CLOSER = /^(?:exit|quit|exit-[a-z-]+|end|end-[a-z-]+)$/i

/** All that a line says by itself, without its place: worked out once for each distinct text. */
export class LineFacts {
  readonly #within: LineWithin[] = []
  /** Nothing in it looks like a prompt, a header or another mark around the listing. */
  readonly plain: boolean
  readonly closes: boolean
  readonly opened: BlockKind | null
  readonly mayOpenFreeText: boolean

  constructor(readonly text: string) {
    this.plain = looksLikeCommand(text)
    // Only these letters begin a closer, or free text.
    const letter = text.charCodeAt(0) | 0x20
    this.closes = (letter === 0x65 || letter === 0x71) && CLOSER.test(text)
    this.opened = blockOpenedBy(text)
    this.mayOpenFreeText = mayOpenFreeText(text)
  }

  within(block: string | undefined): LineWithin {
    for (const known of this.#within) if (known.block === block) return known
    const found = {
      block,
      command: commandFrom(this.text, block, this.opened?.kind, false, knowledge),
      understood: isKnown(this.text, block),
    }
    this.#within.push(found)
    return found
  }
}

/** Longer lines are rare, and seldom the same twice. */
const LONGEST_KEPT = 240
const recent = new Recent<LineFacts>(20_000)

export function factsOf(text: string): LineFacts {
  if (text.length > LONGEST_KEPT) return new LineFacts(text)
  let facts = recent.get(text)
  if (!facts) recent.set(text, (facts = new LineFacts(text)))
  return facts
}

/** Cheap test that spares most lines the patterns for prompts and headers. */
function looksLikeCommand(text: string): boolean {
  const code = text.charCodeAt(0)
  if (code < 48 || (code >= 65 && code <= 90)) return false
  const space = text.indexOf(' ')
  const word = space < 0 ? text : text.slice(0, space)
  if (word.includes('#') || word.includes('>')) return false
  return !(code === 115 && (word === 'show' || word === 'sh' || word === 'sho'))
}

function isKnown(text: string, block: string | undefined): boolean {
  const letter = text.charCodeAt(0) | 0x20
  const bare = letter === 0x6e || letter === 0x64 ? text.replace(/^(?:no|default) +/i, '') : text
  if (block === undefined) return GLOBAL.has(bare)
  const kind = blockByKind.get(block)
  return kind?.children.has(kind.ordered && letter < 0x3a ? bare.replace(/^\d+ +/, '') : bare) ?? false
}

import type { Rewrite, ReverseTranslation } from '../rewrite.ts'
import { addressWords, type Family } from '../../../model/index.ts'
import { NOTHING, type MatchContext, type Diagrams } from '../../../headers/index.ts'
import type { Branch } from '../branch.ts'

/** Which address of a packet is translated. */
export type Side = 'source' | 'destination'

/** One way in which dialects state translation. */
export interface Translator {
  /** The translation of some packets; null where nothing translates between these interfaces. */
  meet(changes: Side, branch: Branch, context: MatchContext): readonly Translated[] | null
}

/** How some packets are translated. */
export interface Translated {
  readonly set: number
  /** Null: they are not translated. */
  readonly rewrite: Rewrite | null
  /** Why it cannot be said; null where it can. */
  readonly doubt: string | null
  /** The rule in the model; -1 where none met them. */
  readonly rule: number
  /** What says so beside the rule: the policy, by its path in the model and its words. */
  readonly by?: { readonly path: string; readonly words: string }
  /** Where they answer what was translated, and get back what was written over. */
  readonly undone?: ReverseTranslation
}

/** The packets that are left for the next rule, and what the rules before it did with theirs. */
export class RemainingPackets {
  readonly parts: Translated[] = []

  constructor(
    readonly diagrams: Diagrams,
    public left: number,
  ) {}

  take(met: number, of: (met: number) => Translated): void {
    const some = this.diagrams.and(this.left, met)
    if (some === NOTHING) return
    this.left = this.diagrams.minus(this.left, some)
    this.parts.push(of(some))
  }

  /** All parts; what no rule took goes on as it is. */
  finish(): Translated[] {
    return this.left === NOTHING
      ? this.parts
      : [...this.parts, { set: this.left, rewrite: null, doubt: null, rule: -1 }]
  }
}

/** Addresses of a range that are told apart; more are not followed. */
const MOST_ADDRESSES = 256

/** `10.0.0.1`, or `10.0.0.1-10.0.0.9`: null where that is no range, or a wide one. */
export function between(text: string, family: Family): (readonly number[])[] | null {
  const [from = '', to = from] = text.split('-')
  const [first, last] = [addressWords(from, family), addressWords(to, family)]
  if (!first || !last) return null
  const [a, b] = [first.at(-1) ?? 0, last.at(-1) ?? 0]
  if (first.slice(0, -1).join() !== last.slice(0, -1).join() || b < a || b - a >= MOST_ADDRESSES) return null
  return Array.from({ length: b - a + 1 }, (_, i) => [...first.slice(0, -1), a + i])
}

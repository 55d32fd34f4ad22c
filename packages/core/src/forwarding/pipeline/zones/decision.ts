import { NOTHING, type Diagrams } from '../../../headers/index.ts'
import type { Exhibit } from '../../network/exhibit.ts'

/** What the zones of a device do with packets between two of its interfaces. */
export interface ZoneDecision {
  readonly permitted: number
  readonly denied: number
  /** Of what is permitted the packets of which a session is kept. */
  readonly inspected: number
  /** Of what decided, in words. */
  readonly name: string
  readonly doubt: string | null
  readonly lines: readonly { readonly words: string; readonly exhibits: readonly Exhibit[]; readonly stops: boolean }[]
}

/** A policy, or a class of one, as it is asked. */
export interface Asked {
  readonly set: number
  readonly doubt: string | null
  /** Whether it is known to meet all of its set. */
  readonly sure: boolean
  /** Null where what it does is not read. */
  readonly action: 'permit' | 'deny' | null
  /** Whether what it permits passes without a session. */
  readonly passes?: boolean
  readonly words: string
  readonly exhibits: readonly Exhibit[]
}

/** The first that meets a packet decides it. */
export function inTurn(
  diagrams: Diagrams,
  set: number,
  asked: readonly Asked[],
  name: string,
  end: { readonly open: boolean; readonly words: string; readonly exhibits: readonly Exhibit[] },
): ZoneDecision {
  let [left, permitted, denied, inspected] = [set, NOTHING, NOTHING, NOTHING]
  let doubt: string | null = null
  const lines: { words: string; exhibits: readonly Exhibit[]; stops: boolean }[] = []
  for (const one of asked) {
    const met = diagrams.and(left, one.set)
    if (met === NOTHING) continue
    if (one.action !== 'deny') permitted = diagrams.or(permitted, met)
    if (one.action !== 'deny' && one.passes !== true) inspected = diagrams.or(inspected, met)
    if (one.action !== 'permit') denied = diagrams.or(denied, met)
    doubt ??= one.doubt
    // Of a match that cannot be weighed the packets may go on to the next.
    if (one.sure) left = diagrams.minus(left, met)
    lines.push({
      words: `${one.words}${one.sure ? '' : ', perhaps'}`,
      exhibits: one.exhibits,
      stops: one.action === 'deny',
    })
  }
  if (left !== NOTHING) {
    if (end.open) [permitted, inspected] = [diagrams.or(permitted, left), diagrams.or(inspected, left)]
    else denied = diagrams.or(denied, left)
    lines.push({ words: end.words, exhibits: end.exhibits, stops: !end.open })
  }
  return { permitted, denied, inspected, name, doubt, lines }
}

/** What is stopped whatever it is. */
export function allDenied(set: number, words: string, exhibits: readonly Exhibit[] = []): ZoneDecision {
  return {
    permitted: NOTHING,
    denied: set,
    inspected: NOTHING,
    name: words,
    doubt: null,
    lines: [{ words, exhibits, stops: true }],
  }
}

/**
 * Whom a change of what one device answers can concern. A look at the answers of all devices rests on a few of them
 * only; what it rests on, and what a change alters, are told by numbers. Where they have none in common, the look finds
 * what it found.
 */
import { LINKS_KEY, WHERE, elements, type Seen, type ValueAnswer, type WhereAnswer } from './estate.ts'
import type { LinkEnd } from './link-end.ts'

/**
 * What one device answered and answers now, by question; no answers where it was not, or is no longer, in the estate.
 */
export interface ChangedAnswers {
  readonly device: string
  readonly before: ReadonlyMap<string, unknown>
  readonly after: ReadonlyMap<string, unknown>
}

/** What some looks rest on: numbers of 53 bits, each once, ascending. */
export function restsOn(seen: readonly Seen[]): Float64Array {
  const all = new Set<number>()
  const compared = new Map<string, Set<string>>()
  for (const { look } of seen) {
    if (look.look === 'odd')
      compared.set(look.question, (compared.get(look.question) ?? new Set()).add(JSON.stringify(look.own) ?? ''))
    else if (look.look === 'where') all.add(numberOf('where', look.question, look.device, look.value))
    else if (look.look === 'holders') for (const value of look.values) all.add(numberOf('value', look.question, value))
    else {
      all.add(numberOf('seen by', look.device))
      if (look.own.neighbour) all.add(numberOf('links of', look.own.neighbour.system))
      if (look.own.subnet !== null) all.add(numberOf('subnet', look.own.subnet))
    }
  }
  for (const [question, owns] of compared) {
    all.add(numberOf('compared', question))
    const [own, ...more] = owns
    if (own !== undefined && more.length === 0) all.add(numberOf('own', question, own))
  }
  return Float64Array.from(all).sort()
}

/**
 * What some changes alter, as numbers of the same kind; with each the number of those that it leaves as they are, null
 * where there are none. Whether a question is answered at all is no part of it: who looks has answered it, too.
 */
export type Altered = ReadonlyMap<number, number | null>

export function alteredBy(changes: readonly ChangedAnswers[]): Altered {
  const all = new Map<number, number | null>()
  const add = (number: number, spared: number | null = null): void =>
    void all.set(number, all.has(number) && all.get(number) !== spared ? null : spared)
  for (const { device, before, after } of changes) {
    for (const question of new Set([...before.keys(), ...after.keys()])) {
      const [then, now] = [before.get(question), after.get(question)]
      if (JSON.stringify(then) === JSON.stringify(now)) continue
      if (question.startsWith(WHERE)) {
        const [old, own] = [then, now].map((answer) => (answer ?? {}) as WhereAnswer)
        for (const value of new Set([...Object.keys(old ?? {}), ...Object.keys(own ?? {})])) {
          if (JSON.stringify(old?.[value]) !== JSON.stringify(own?.[value]))
            add(numberOf('where', question, device, value))
        }
        continue
      }
      if (question === LINKS_KEY) {
        add(numberOf('links of', device))
        for (const { neighbour, subnet } of apart(then as LinkEnd[] | undefined, now as LinkEnd[] | undefined)) {
          if (neighbour) add(numberOf('seen by', neighbour.system))
          if (subnet !== null) add(numberOf('subnet', subnet))
        }
        continue
      }
      const [old, own] = [then, now].map((answer) => answer as ValueAnswer | undefined)
      const [was, is] = [comparedText(old), comparedText(own)]
      // One device more, or less, with the same value as the asking device does not change the answer.
      if (was !== is)
        add(
          numberOf('compared', question),
          was !== null && is !== null ? null : numberOf('own', question, was ?? is ?? ''),
        )
      const [held, holds] = [old, own].map((answer) => new Set(elements(answer?.value)))
      for (const value of held ?? []) if (!holds?.has(value)) add(numberOf('value', question, value))
      for (const value of holds ?? []) if (!held?.has(value)) add(numberOf('value', question, value))
    }
  }
  return all
}

/** Whether looks that rest on some numbers may find something else. */
export function concerns(altered: Altered, numbers: Float64Array): boolean {
  const spares = (own: number | null): boolean => own !== null && numbers.includes(own)
  return numbers.some((number) => altered.has(number) && !spares(altered.get(number) ?? null))
}

/** What a device that is compared is compared by; null where it is not. */
function comparedText(answer: ValueAnswer | undefined): string | null {
  return answer?.among ? (JSON.stringify(answer.value) ?? '') : null
}

/** The ends that only one of both has. */
function apart(then: readonly LinkEnd[] = [], now: readonly LinkEnd[] = []): LinkEnd[] {
  const [before, after] = [then, now].map((ends) => new Map(ends.map((end) => [JSON.stringify(end), end] as const)))
  return [...(before ?? []), ...(after ?? [])].flatMap(([text, end]) =>
    before?.has(text) && after?.has(text) ? [] : [end],
  )
}

/** FNV-1a over the code units, twice with other starts: the constants are the published ones (from memory). */
function numberOf(...words: readonly string[]): number {
  let [low, high] = [0x811c9dc5, 0x01000193]
  const mix = (code: number): void => {
    low = Math.imul(low ^ code, 0x01000193)
    high = Math.imul(high ^ (code + 0x9e37), 0x01000193)
  }
  for (const word of words) {
    for (let i = 0; i < word.length; i += 1) mix(word.charCodeAt(i))
    mix(0x1f)
  }
  return (low >>> 0) * 2 ** 21 + ((high >>> 0) & 0x1fffff)
}

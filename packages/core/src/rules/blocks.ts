/** The blocks that a chain of patterns leads to. */
import type { EvaluationContext } from './evaluation-context.ts'
import { unreadLike } from './doubt.ts'
import { Finding, allOf, doubtsOf } from './evidence.ts'
import { LineMatcher } from './line-matcher.ts'
import type { CompiledCondition } from './compiled-condition.ts'
import { incomplete } from './incomplete.ts'

/** The blocks that a chain of patterns leads to, each with what the patterns have bound on the way. */
export function blocksAlong(chain: readonly string[]): (context: EvaluationContext) => EvaluationContext[] {
  const steps = chain.map((pattern) => new LineMatcher([pattern]))
  return (context) => {
    let places: EvaluationContext[] = [context]
    for (const step of steps)
      places = places.flatMap((place) =>
        step
          .all(place)
          .flatMap(({ statement, names }) => (statement.scope ? [place.into(statement.scope, names)] : [])),
      )
    return places
  }
}

/** Unread lines along a chain, any of which may open another block of it. */
export function doubtsAlong(chain: readonly string[]): (context: EvaluationContext) => Finding {
  const steps = chain.map((pattern) => new LineMatcher([pattern]))
  return (context) => {
    const found: Finding[] = []
    let places: EvaluationContext[] = [context]
    for (const step of steps) {
      for (const place of places) found.push(new Finding(true, () => [], undefined, unreadLike(place, step.patterns)))
      places = places.flatMap((place) =>
        step
          .all(place)
          .flatMap(({ statement, names }) => (statement.scope ? [place.into(statement.scope, names)] : [])),
      )
    }
    return new Finding(true, () => [], undefined, doubtsOf(found))
  }
}

/** A condition that holds where it holds in some block at the end of a chain; the same one where there is no chain. */
export function inBlocks(chain: string | readonly string[] | undefined, ask: CompiledCondition): CompiledCondition {
  if (chain === undefined) return ask
  const blocks = blocksAlong([chain].flat())
  const along = doubtsAlong([chain].flat())
  return (context) => {
    let unknown: Finding | null = null
    const refuted: Finding[] = []
    for (const block of blocks(context)) {
      const finding = ask(block)
      if (finding.truth === true) {
        context.bind(block.ownNames)
        return finding
      }
      if (finding.truth === 'unknown') unknown ??= finding
      refuted.push(finding)
    }
    if (unknown) return unknown
    if (context.mayHideLines) return new Finding('unknown', () => context.whole(), incomplete(context))
    return new Finding(
      false,
      () => (refuted.length > 0 ? refuted.flatMap((finding) => finding.places()) : context.whole()),
      { missing: allOf(refuted, 'missing'), extra: allOf(refuted, 'extra') },
      doubtsOf([along(context), ...refuted]),
    )
  }
}

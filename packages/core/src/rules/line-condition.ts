import type { CompiledCondition } from './compiled-condition.ts'
import { incomplete } from './incomplete.ts'
import { unreadLike } from './doubt.ts'
import type { EvaluationContext } from './evaluation-context.ts'
import { Finding, placeOf, type CitedRange } from './evidence.ts'
import { LineMatcher, type LineMatch } from './line-matcher.ts'

/** Whether some line matches one of some patterns, where an expression over what they bind holds. */
export function compileLines(sources: readonly string[], where: string | undefined): CompiledCondition {
  const lines = new LineMatcher(sources, where)
  // The negated form of the same command decides the question as well.
  const opposite = new LineMatcher(
    sources.map((source) => (source.startsWith('no ') ? source.slice(3) : `no ${source}`)),
  )
  return (context) => {
    const found = lines.first(context)
    const doubts = unreadLike(context, lines.patterns)
    if (found) {
      // The matches may depend on names that are bound again later, so all are looked for now.
      const all = lines.asksNames ? lines.all(context) : null
      context.bind(found.names)
      return new Finding(true, () => placesOfMatches(context, all ?? lines.all(context)), undefined, doubts)
    }
    if (!context.mayHideLines)
      return new Finding(false, () => placesOr(context, opposite.all(context)), undefined, doubts)
    const against = opposite.all(context)
    if (against.length > 0) return new Finding(false, () => placesOfMatches(context, against), undefined, doubts)
    return new Finding('unknown', () => context.whole(), incomplete(context))
  }
}

export function placesOfMatches({ device }: EvaluationContext, found: readonly LineMatch[]): CitedRange[] {
  return found.flatMap(({ statement }) => statement.nodes.map((node) => placeOf(device.record, node)))
}

/** The lines found, or the range searched where there are none. */
function placesOr(context: EvaluationContext, found: readonly LineMatch[]): CitedRange[] {
  return found.length > 0 ? placesOfMatches(context, found) : context.whole()
}

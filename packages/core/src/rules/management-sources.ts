import type { EvaluationContext } from './evaluation-context.ts'

/** The value by which an engagement names them. */
export const MANAGEMENT_SOURCES = 'management_sources'

/** The prefixes from which devices may be managed, as the value of that name states them; null: nobody said. */
export function managementSources({ names }: Pick<EvaluationContext, 'names'>): readonly string[] | null {
  const stated = names[MANAGEMENT_SOURCES]
  return Array.isArray(stated) && stated.length > 0 ? stated.map(String) : null
}

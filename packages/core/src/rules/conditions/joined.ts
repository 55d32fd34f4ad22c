import type { NestedCondition } from './kind.ts'

/** Kinds that join others: within another such kind they stand in brackets. */
const JOINING = ['all', 'any', 'none']

export function joinedWords(
  conditions: readonly NestedCondition[],
  by: string,
  nested: (condition: NestedCondition) => string,
): string {
  return conditions
    .map((part) => {
      const isJoined = conditions.length > 1 && typeof part === 'object' && JOINING.some((key) => key in part)
      return isJoined ? `(${nested(part)})` : nested(part)
    })
    .join(by)
}

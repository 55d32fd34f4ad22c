import type { Reference } from '../references/index.ts'
import type { DraftRule } from './draft-rule.ts'
import { ruleOf } from './draft.ts'

/**
 * A rule that asks for the lines of a reference. Values of benchmarks are written down as they are. Overrides and
 * expectations of state have no place in a condition: they stay with the reference.
 */
export function ruleOfReference(
  { title, dialect, scope, values: stated, parts }: Reference,
  valueOf: (benchmark: string, value: string) => readonly string[] = () => [],
): DraftRule {
  const values = Object.fromEntries(
    Object.entries(stated).map(([name, value]) => [
      name,
      'benchmark' in value ? { is: [...valueOf(value.benchmark, value.value)] } : value,
    ]),
  )
  const { rule, values: named } = ruleOf({ conforms: { dialect, values, parts } }, dialect, title)
  return { rule: { ...rule, ...(scope === undefined ? {} : { scope }) }, values: named }
}

import type { Reference } from '../references/index.ts'
import type { DraftRule } from './draft-rule.ts'
import { ruleOf } from './draft.ts'

/**
 * A rule that asks for the lines of a reference. Overrides and expectations of state have no place in a condition: they
 * stay with the reference.
 */
export function ruleOfReference({ title, dialect, scope, values, parts }: Reference): DraftRule {
  const { rule, values: named } = ruleOf({ conforms: { dialect, values, parts } }, dialect, title)
  return { rule: { ...rule, ...(scope === undefined ? {} : { scope }) }, values: named }
}

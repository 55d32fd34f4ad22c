/** All kinds of conditions: what is the same for each of them is here, what one kind is in its file. */
import { z } from 'zod'
import type { CompiledCondition } from './compiled-condition.ts'
import { absent } from './conditions/absent.ts'
import { access } from './conditions/access.ts'
import { admits } from './conditions/admits.ts'
import { all } from './conditions/all.ts'
import { any } from './conditions/any.ts'
import { body } from './conditions/body.ts'
import { change } from './conditions/change.ts'
import { collect } from './conditions/collect.ts'
import { conforms } from './conditions/conforms.ts'
import { count } from './conditions/count.ts'
import { device } from './conditions/device.ts'
import { differs } from './conditions/differs.ts'
import { ends } from './conditions/ends.ts'
import { exactly } from './conditions/exactly.ts'
import { expr } from './conditions/expr.ts'
import { holds } from './conditions/holds.ts'
import {
  NEEDS_NOTHING,
  type ConditionForm,
  type ConditionKind,
  type Needs,
  type NestedCondition,
} from './conditions/kind.ts'
import { line } from './conditions/line.ts'
import { list } from './conditions/list.ts'
import { matching } from './conditions/matching.ts'
import { model } from './conditions/model.ts'
import { none } from './conditions/none.ts'
import { only } from './conditions/only.ts'
import { opens } from './conditions/opens.ts'
import { order } from './conditions/order.ts'
import { outside } from './conditions/outside.ts'
import { record } from './conditions/record.ts'
import { same } from './conditions/same.ts'
import { set } from './conditions/set.ts'
import { some } from './conditions/some.ts'
import { state } from './conditions/state.ts'
import { unique } from './conditions/unique.ts'

/** In the order of the form and of the table in the docs. */
const KINDS = {
  line,
  absent,
  all,
  any,
  none,
  exactly,
  order,
  count,
  holds,
  conforms,
  matching,
  some,
  model,
  expr,
  state,
  change,
  same,
  unique,
  ends,
  device,
  only,
  set,
  collect,
  list,
  admits,
  body,
  record,
  differs,
  opens,
  access,
  outside,
} as const

type Kinds = typeof KINDS
/** A type with whole conditions in the place of nested ones. */
type Whole<T> = T extends NestedCondition
  ? Condition
  : T extends string | number | boolean | undefined
    ? T
    : { [K in keyof T]: Whole<T[K]> }

/**
 * What can be asked of a device or of a block. A plain text is a pattern that must match a line that holds. `line`
 * binds its placeholders for what follows in the same `all`; `absent` is its opposite.
 */
export type Condition = string | { [K in keyof Kinds]: Whole<z.infer<ReturnType<Kinds[K]['schema']>>> }[keyof Kinds]

const kinds: readonly ConditionKind[] = Object.values(KINDS) as unknown as readonly ConditionKind[]
const byKey: ReadonlyMap<string, ConditionKind> = new Map(kinds.map((kind) => [kind.key, kind]))

export const conditionSchema: z.ZodType<Condition> = z.lazy(() =>
  z.union([z.string().min(1), ...kinds.map(({ schema }) => schema(nestedSchema))]),
) as unknown as z.ZodType<Condition>
const nestedSchema = conditionSchema as unknown as z.ZodType<NestedCondition>

/** A plain text is short for a line. */
function kindOf(condition: Condition | NestedCondition): { kind: ConditionKind; whole: unknown } {
  const whole = typeof condition === 'string' ? { line: condition } : condition
  for (const key of Object.keys(whole)) {
    const kind = byKey.get(key)
    if (kind) return { kind, whole }
  }
  throw new Error(`Unknown condition ${JSON.stringify(condition)}`)
}

const compiled = new Map<string, CompiledCondition>()

/**
 * Equal conditions are compiled once, so that branches share what was found out of a device.
 * @throws Error that says what is wrong
 */
export function compileCondition(condition: Condition | NestedCondition): CompiledCondition {
  const key = JSON.stringify(condition)
  const known = compiled.get(key)
  if (known) return known
  const { kind, whole } = kindOf(condition)
  const fresh = kind.compile(whole, { compile: compileCondition, needs: needsOfCondition })
  if (compiled.size > 5_000) compiled.clear()
  compiled.set(key, fresh)
  return fresh
}

/** What has to be at hand before a condition can be evaluated. */
export function needsOfCondition(condition: Condition | NestedCondition): Needs {
  const { kind, whole } = kindOf(condition)
  return kind.needs?.(whole, needsOfCondition) ?? NEEDS_NOTHING
}

/** A condition as a person would say it; patterns stand in ‹…›. */
export function conditionInWords(condition: Condition | NestedCondition): string {
  const { kind, whole } = kindOf(condition)
  return kind.words(whole, conditionInWords)
}

/** How each kind is filled in, in the order in which they are offered. */
export const CONDITION_FORMS: readonly (ConditionForm & { readonly key: string })[] = kinds.map(({ key, form }) => ({
  key,
  ...form,
}))

/** How each kind is written, and when it holds. */
export const CONDITION_DOCS: readonly { readonly form: string; readonly holds: string }[] = kinds.map(
  ({ docs }) => docs,
)

/** What has to be at hand before a rule can be judged, found in its parts. */
import { needsOfCondition, type Condition } from './conditions.ts'
import { NEEDS_NOTHING, needsOf, type Needs } from './conditions/kind.ts'
import { expressionsInTemplate, fieldsIn } from './expression.ts'
import type { RemedySource, RuleBody, RuleSource } from './schema.ts'

export interface RuleNeeds extends Needs {
  /** Names and fields that its expressions read: `system.ntp.servers`, `device.groups`, values of the benchmark. */
  readonly fields: ReadonlySet<string>
}

export function needsOfRule(rule: RuleSource): RuleNeeds {
  const parts = [rule, ...rule.also].flatMap(needsOfBody)
  if (rule.scope !== undefined) parts.push(expressions([rule.scope]))
  const all = needsOf(parts)
  const questions = [...new Map(all.questions.map((question) => [question.key, question])).values()]
  let fields: ReadonlySet<string> | null = null
  return {
    ...all,
    questions,
    get fields() {
      return (fields ??= new Set([...all.expressions.flatMap(fieldsIn), ...all.values]))
    },
  }
}

function needsOfBody({ each, decide, remedy }: RuleBody): Needs[] {
  return [
    ...(each ? [needsOfSubjects(each)] : []),
    ...decide.flatMap((branch) => [
      ...conditions(branch.when),
      templates([branch.note, branch.full?.note ?? '']),
      ...(branch.remedy ? needsOfRemedy(branch.remedy) : []),
    ]),
    ...(remedy ? needsOfRemedy(remedy) : []),
  ]
}

function needsOfSubjects(each: NonNullable<RuleBody['each']>): Needs {
  if ('model' in each)
    return needsOf([
      expressions([each.model, each.name, ...(each.where === undefined ? [] : [each.where])]),
      ...conditions(each.having),
    ])
  return 'block' in each ? needsOf(conditions(each.where)) : NEEDS_NOTHING
}

function needsOfRemedy(remedy: RemedySource): Needs[] {
  if ('words' in remedy) return [templates([remedy.words, ...Object.values(remedy.byDialect ?? {})])]
  return remedy.edits.flatMap(({ add, each, removeWhere, when }) => [
    templates(add),
    expressions([...(each === undefined ? [] : [each]), ...(removeWhere === undefined ? [] : [removeWhere])]),
    ...conditions(when),
  ])
}

function conditions(condition: Condition | undefined): Needs[] {
  return condition === undefined ? [] : [needsOfCondition(condition)]
}

function expressions(sources: readonly string[]): Needs {
  return { ...NEEDS_NOTHING, expressions: sources }
}

function templates(sources: readonly string[]): Needs {
  return expressions(sources.flatMap(expressionsInTemplate))
}

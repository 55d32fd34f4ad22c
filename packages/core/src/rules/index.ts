/** Rules as data: their schema, their conditions, and the decision. */
export { compileRule, type RawJudgement, type Rule } from './judge.ts'
export { Estate, EstateView, type EstateAnswers, type Seen } from './estate.ts'
export { alteredBy, concerns, restsOn, type Altered, type ChangedAnswers } from './answer-changes.ts'
export { type DeviceContext, type JudgedDevice } from './judged.ts'
export { compileExpression, fieldsIn, userPattern, type Expression } from './expression.ts'
export {
  outcomeSchema,
  riskSchema,
  ruleSchema,
  severitySchema,
  valueSchema,
  type Example,
  type Outcome,
  type Risk,
  type RuleBody,
  type RuleSource,
  type Severity,
  type ValueSource,
} from './schema.ts'
export { CONDITION_DOCS, CONDITION_FORMS, conditionInWords, type Condition } from './conditions.ts'
export type { FormField } from './conditions/kind.ts'
export { type RuleNeeds } from './needs.ts'
export { combine, type Edit, type Exhibit, type Judgement, type RemedyProposal } from './verdict.ts'
export { type CitedRange } from './evidence.ts'
export { judgedDevice, type DeviceParts } from './judged-device.ts'
export { Clock } from './clock.ts'
export { MODEL_ROOTS, factsByName } from './names.ts'
export { compileScope, type ScopeAnswer } from './scope.ts'
export { sameName } from './link-end.ts'
export { askOne, type EstateQuestion } from './estate-question.ts'
